"""What is gathered while the steps of a result pass by: which sets are held or moved, where forces peak, where yield begins."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Int, Mesh
from ironstone.core.mesh.weld import TOLERANCE


class Watch:
    """Gathers, while the steps pass, which sets are held or moved, where forces peak and where yield begins."""

    def __init__(self, mesh: Mesh) -> None:
        self.mesh = mesh
        self.reaction: NDArray[np.floating] | None = None
        self.moved: NDArray[np.floating] | None = None
        self.precision = "double"
        self.sums: dict[str, list[Any]] = {name: [] for name in mesh.node_sets}
        self.means: dict[str, list[Any]] = {name: [] for name in mesh.node_sets}
        self.first_yield: int | None = None
        self.gaps: dict[str, int] = {}
        self.largest_stress = 0.0

    def look(self, step: int, name: str, kind: str, location: str, precision: str, values: NDArray[np.floating]) -> None:
        missing = int(np.isnan(values).any(1).sum()) if location != "gauss" else 0
        if missing:
            self.gaps[name] = max(self.gaps.get(name, 0), missing)
        if location == "node" and kind == "reaction":
            self.precision = precision
            largest = _largest(values)
            self.reaction = largest if self.reaction is None else np.maximum(self.reaction, largest)
            for set_name, nodes in self.mesh.node_sets.items():
                self.sums[set_name].append(np.nansum(values[nodes], axis=0).astype(float).tolist())
        if location == "node" and kind == "displacement":
            largest = _largest(values)
            self.moved = largest if self.moved is None else np.maximum(self.moved, largest)
            for set_name, nodes in self.mesh.node_sets.items():
                self.means[set_name].append(np.nan_to_num(values[nodes].mean(0)).astype(float).tolist())
        if kind == "stress":
            self.largest_stress = max(self.largest_stress, float(np.nanmax(np.abs(values), initial=0.0)))
        if kind in ("plastic strain", "yielded share") and self.first_yield is None and np.nanmax(values, initial=0.0) > 1e-7:
            self.first_yield = step

    def summary(self) -> dict[str, Any]:
        sets: dict[str, Any] = {}
        for set_name, nodes in self.mesh.node_sets.items():
            sets[set_name] = {"nodes": len(nodes), "held": self._held(nodes), "moves": self._moves(nodes)}
        return {
            "sets": sets,
            "set_sums": {n: v for n, v in self.sums.items() if v},
            "set_means": {n: v for n, v in self.means.items() if v},
            "first_yield": self.first_yield,
            "largest_stress": self.largest_stress,
            "gaps": self.gaps,
        }

    def _held(self, nodes: Int) -> str:
        """Held where a reaction shows in the step range: 1e-6 (double) or 1e-5 (single) of the largest."""
        if self.reaction is None or not len(nodes):
            return "unknown"
        limit = TOLERANCE[self.precision] * float(self.reaction.max(initial=0.0))
        held = self.reaction[nodes] > max(limit, 0.0)
        return "held" if held.all() else "partly" if held.any() else "free"

    def _moves(self, nodes: Int) -> bool:
        if self.moved is None or not len(nodes):
            return False
        return bool(self.moved[nodes].max() > 1e-6 * max(float(self.moved.max(initial=0.0)), 1e-300))


def _largest(values: NDArray[np.floating]) -> NDArray[np.floating]:
    """The largest magnitude of each row (n, c), 0 where it has no number."""
    result = np.zeros(len(values), dtype=values.dtype)
    for column in values.T:
        np.fmax(result, np.abs(column), out=result)
    return result
