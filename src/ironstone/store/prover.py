"""Looks, while the steps of a result pass by, for what its tensors prove of their own conventions."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.proved import Stored, proved
from ironstone.core.mesh.mesh import Mesh
from ironstone.store.models import FieldRow

# Steps with a motion that are looked at.
TRIES = 6


class Prover:
    """Gathers the tensors of each step and its displacement. found: by the field's name order, shear, kind and how well it fits."""

    def __init__(self, mesh: Mesh) -> None:
        self.found: dict[str, dict[str, Any]] = {}
        self._mesh, self._tries = mesh, 0
        self._moved: NDArray[np.floating] | None = None
        self._stored: dict[str, Stored] = {}

    def look(self, row: FieldRow, values: NDArray[np.floating]) -> None:
        more = row.more
        if more["layers"] or more["harmonic"] or self._tries >= TRIES:
            return
        if row.kind == "displacement" and row.location == "node":
            self._moved = values
        elif row.rank == "tensor" and row.kind in ("stress", "strain") and not more["flat"] and row.name not in self.found:
            self._stored[row.name] = Stored(row.kind, row.location, values)

    def step_is_over(self) -> None:
        moved, stored = self._moved, self._stored
        self._moved, self._stored = None, {}
        if moved is None or not stored or not np.nanmax(np.abs(moved), initial=0.0) > 0.0:
            return
        self._tries += 1
        for name, proof in proved(self._mesh, np.asarray(moved, dtype=np.float64), stored).items():
            kind = stored[name].kind
            self.found[name] = {"kind": kind, "order": list(proof.order), "shear": proof.shear, "said": proof.said}
