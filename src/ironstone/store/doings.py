"""What nodes do over the steps, gathered while files are read, so that supports and loads can be found that no file names."""

from __future__ import annotations

import numpy as np

from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.patches import Done, Patch, patches
from ironstone.core.mesh.weld import TOLERANCE
from ironstone.formats.registry import RawStep
from ironstone.store.plan import Plan, precision

KINDS = ("reaction", "displacement", "force")


class Doings:
    """The largest reaction, displacement and force of each node over the steps seen, as nodes were joined at the first."""

    def __init__(self) -> None:
        # A raw point of each node, and the node of each raw point; None where every raw point is one.
        self._first: Int | None = None
        self._label: Int | None = None
        self._largest: dict[str, Float] = {}
        self._shift: Float | None = None
        self._reach = -1.0
        # The step at which nodes move most, the last where nothing is known of that.
        self.step = 0
        self._loose = TOLERANCE["double"]

    def look(self, plan: Plan, raw: RawStep, step: int) -> None:
        if self._shift is None:
            self.step = step
        if raw.node_sets:
            return
        if self._first is None and not plan.weld.straight:
            self._first, self._label = plan.weld.first, plan.weld.label
        for name, guess in plan.points.items():
            array = raw.point_data.get(name)
            if array is None or guess.role != "field" or guess.kind not in KINDS or guess.rank != "vector" or array.harmonic:
                continue
            own = array.values if self._first is None else array.values[self._first]
            values = np.asarray(own, dtype=np.float64)
            if values.shape[1] == 2:
                values = np.column_stack([values, np.zeros(len(values))])
            size = np.linalg.norm(values, axis=1)
            moves = guess.kind == "displacement"
            # Of what is missing nobody knows that it stood still; a force that is missing is no force found.
            mine = np.abs(values) if moves else np.nan_to_num(size)
            before = self._largest.get(guess.kind)
            self._largest[guess.kind] = mine if before is None else np.maximum(before, mine)
            self._loose = max(self._loose, TOLERANCE[precision(array.values)])
            reach = float(np.nanmax(size, initial=0.0))
            if moves and reach > self._reach:
                self._reach = reach
                self._shift = values
                self.step = step

    @property
    def loads_told(self) -> bool:
        """Whether the files say what loads the body, or nothing of what its nodes do."""
        return "force" in self._largest or not self._largest

    def found(self, plan: Plan, mesh: Mesh) -> dict[str, Patch]:
        """Patches by name; none where the files have sets of their own."""
        if mesh.node_sets or not self._largest:
            return {}
        first = plan.weld.first
        node = None if plan.weld.straight else first if self._label is None else self._label[first]

        def of_nodes(values: Float | None) -> Float | None:
            return values if values is None or node is None else values[node]

        def at_nodes(kind: str) -> Float | None:
            return of_nodes(self._largest.get(kind))

        done = Done(
            at_nodes("reaction"),
            at_nodes("displacement"),
            of_nodes(self._shift),
            at_nodes("force"),
            self._loose,
        )
        taken = {*mesh.element_sets, *mesh.part_names}
        return {name: patch for name, patch in patches(mesh, done).items() if name not in taken}
