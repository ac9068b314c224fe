"""Looks, while the steps of a result pass by, for what its tensors prove of their own conventions."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.proved import Stored, of_elements, proved_by, sample
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.store.models import FieldRow

# Steps with a motion that are looked at.
TRIES = 6


class Prover:
    """Gathers the tensors of each step and its displacement. found: by the field's name order, shear, kind and how well it fits."""

    def __init__(self, mesh: Mesh) -> None:
        self.found: dict[str, dict[str, Any]] = {}
        self._mesh, self._tries = mesh, 0
        self._elements: Int | None = None
        self._moved: NDArray[np.floating] | None = None
        self._tables: dict[str, tuple[str, Float]] = {}

    def look(self, row: FieldRow, values: NDArray[np.floating]) -> None:
        more = row.more
        if more["layers"] or more["harmonic"] or self._tries >= TRIES:
            return
        if row.kind == "displacement" and row.location == "node":
            self._moved = values
        elif row.rank == "tensor" and row.kind in ("stress", "strain") and not more["flat"] and row.name not in self.found:
            # What is looked at of a step is little: the step itself is let go.
            if self._elements is None:
                self._elements = sample(self._mesh)
            if len(self._elements):
                table = of_elements(self._mesh, Stored(row.kind, row.location, values), self._elements)
                self._tables[row.name] = row.kind, table

    def step_is_over(self) -> None:
        moved, tables = self._moved, self._tables
        self._moved, self._tables = None, {}
        if moved is None or not tables or self._elements is None or not np.nanmax(np.abs(moved), initial=0.0) > 0.0:
            return
        self._tries += 1
        for name, proof in proved_by(self._mesh, self._elements, np.asarray(moved, dtype=np.float64), tables).items():
            said = {"order": list(proof.order), "shear": proof.shear, "said": proof.said}
            self.found[name] = {"kind": tables[name][0], **said}
