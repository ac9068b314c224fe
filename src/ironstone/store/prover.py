"""Looks, while the steps of a result pass by, for what its tensors prove of their own conventions."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.proved import Stored, of_elements, proved_by, sample
from ironstone.core.field.proved_points import found_order
from ironstone.core.mesh.gauss_order import told
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.weld import as_meant
from ironstone.store.models import FieldRow

# Steps with a motion that are looked at.
TRIES = 6


class Prover:
    """Gathers the tensors of each step and its displacement. found: by the field's name order, shear, kind and how well it fits;
    points: of fields at Gauss points, by the name of a shape, the order of the points and how well it fits."""

    def __init__(self, mesh: Mesh) -> None:
        self.found: dict[str, dict[str, Any]] = {}
        self.points: dict[str, dict[str, Any]] = {}
        self._mesh, self._tries = mesh, 0
        self._elements: Int | None = None
        self._moved: NDArray[np.floating] | None = None
        self._tables: dict[str, tuple[str, Float]] = {}
        self._at_points: dict[str, tuple[FieldRow, Float]] = {}

    def look(self, row: FieldRow, values: NDArray[np.floating]) -> None:
        more = row.more
        if more["layers"] or more["harmonic"] or self._tries >= TRIES:
            return
        if row.kind == "displacement" and row.location == "node":
            self._moved = values
            return
        if row.rank != "tensor" or row.kind not in ("stress", "strain"):
            return
        if more["points"] > 1 and row.name not in self.points:
            chosen = sample(self._mesh, faces=True)
            self._at_points[row.name] = row, np.asarray(values[chosen], dtype=np.float64)
        if not more["flat"] and row.name not in self.found:
            # What is looked at of a step is little: the step itself is let go.
            if self._elements is None:
                self._elements = sample(self._mesh)
            if len(self._elements):
                table = of_elements(self._mesh, Stored(row.kind, row.location, values), self._elements)
                self._tables[row.name] = row.kind, table

    def step_is_over(self) -> None:
        moved, tables, at_points = self._moved, self._tables, self._at_points
        self._moved, self._tables, self._at_points = None, {}, {}
        if moved is None or not (tables or at_points) or not np.nanmax(np.abs(moved), initial=0.0) > 0.0:
            return
        self._tries += 1
        if tables and self._elements is not None:
            self._columns(moved, tables)
        for row, table in at_points.values():
            self._order_of_points(moved, row, table)

    def _columns(self, moved: NDArray[np.floating], tables: dict[str, tuple[str, Float]]) -> None:
        assert self._elements is not None
        for name, proof in proved_by(self._mesh, self._elements, np.asarray(moved, dtype=np.float64), tables).items():
            said = {"order": list(proof.order), "shear": proof.shear, "said": proof.said}
            self.found[name] = {"kind": tables[name][0], **said}

    def _order_of_points(self, moved: NDArray[np.floating], row: FieldRow, table: Float) -> None:
        proof = self.found.get(row.name, {})
        engineering = (proof.get("shear") or ("engineering" if row.more["engineering"] else "")) == "engineering"
        meant = as_meant(table, proof.get("order") or None, engineering and row.kind == "strain", row.more["layout"])
        for shape, (columns, off) in found_order(
            self._mesh, sample(self._mesh, faces=True), moved, row.kind, np.asarray(meant, dtype=np.float64)
        ).items():
            said = f"each fits the strain of the displacement there within {100 * max(off, 1e-4):.2g} %, no other nearly as well"
            entry = self.points.setdefault(row.name, {"kind": row.kind, "ways": {}, "said": said})
            entry["ways"][shape] = told(np.array(columns))
