"""Where a result is loaded that no file says so of: looked for once it is in, beside other work, or at once where somebody asks.

The search takes the internal force of the whole body, which is far more than taking the file in. It is told in the summary that
loads are still sought, by the step to look at; whoever needs them (the balance, a place that names a set) works them out at once,
and what goes on behind gives up.
"""

from __future__ import annotations

import threading
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.field.fields import stress_of
from ironstone.core.field.recover import internal_force
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.patches import Done, Patch
from ironstone.core.mesh.weld import TOLERANCE
from ironstone.core.reading.corners import corner_components
from ironstone.core.statics.balance import force_field
from ironstone.core.wanted import NotWanted, wanted_while
from ironstone.store import arrays
from ironstone.store.cells import Broken
from ironstone.store.models import FieldRow, ResultRow, seal_result
from ironstone.store.naming import give_way
from ironstone.store.opened import OpenReview
from ironstone.store.source import ReviewSource

# The word of a summary that says loads are still sought, with the step they are looked for at.
SOUGHT = "loads sought at"
# A mesh of more elements than these is not asked what its stress leaves.
MOST_ELEMENTS = 200_000


def to_be_sought(mesh: Mesh, rows: list[FieldRow], told: bool) -> bool:
    """Whether what the stress leaves is to tell the loads: of solids with a plain stress, where no set and no force is ``told``."""
    if told or not 0 < len(mesh.types) <= MOST_ELEMENTS or mesh.dimensions.min() < 3:
        return False
    if any(r.kind == "force" for r in rows):
        return False
    stresses = [r for r in rows if r.kind == "stress" and r.rank == "tensor"]
    return any(not any(r.more[word] for word in ("flat", "layers", "harmonic")) for r in stresses)


def loads_in(summary: Mapping[str, Any]) -> tuple[Any, bool]:
    """What is known of loads by a result's summary: the sets that were found, and whether more is sought."""
    return summary.get("found sets"), SOUGHT in summary


class Loads:
    """Looks for the loads of the results of one open review."""

    def __init__(self, review: OpenReview) -> None:
        self._review = review
        self._work: ThreadPoolExecutor | None = None
        self._one, self._books = threading.Lock(), threading.RLock()
        self._stopped = threading.Event()
        self._asked = 0
        self._following: set[int] = set()
        # Rows whose search came to nothing that could be stored: a disk that is full, a review that is only read.
        self._given_up: set[int] = set()

    def follow(self, source: ReviewSource) -> None:
        """Look for the loads of a result behind, where they are still sought."""
        with self._books:
            if source.id in self._following or not self.sought(source):
                return
            self._following.add(source.id)
            if self._work is None:
                self._work = ThreadPoolExecutor(1, "loads", initializer=give_way)
            self._work.submit(self._behind, source)

    def sought(self, source: ReviewSource) -> bool:
        """Whether the loads of a result are still looked for."""
        return not source.arriving and bool(self._rows(source))

    def needed(self, source: ReviewSource) -> bool:
        """Find the loads of a result now where they are still sought; whether anything was done."""
        if not self.sought(source):
            return False
        with self._books:
            self._asked += 1
        try:
            return self._find(source)
        finally:
            with self._books:
                self._asked -= 1

    def end(self) -> None:
        """Look no further: what is still sought is found when it is needed."""
        self._stopped.set()
        if self._work is not None:
            self._work.shutdown(cancel_futures=True)

    def _rows(self, source: ReviewSource) -> list[int]:
        """The rows of a result whose loads are still sought."""
        own = [source.row_id] if source.runs is None else source.runs.rows
        if source.runs is None and SOUGHT not in source.stored_summary:
            return []
        with self._review.session() as session:
            found = [session.get(ResultRow, row) for row in own if row not in self._given_up]
            return [row.id for row in found if row is not None and not isinstance(row.summary, Broken) and SOUGHT in row.summary]

    def _behind(self, source: ReviewSource) -> None:
        while not self._stopped.is_set():
            try:
                with wanted_while(lambda: not self._asked and not self._stopped.is_set()):
                    self._find(source)
            except NotWanted:
                # Somebody needs them now, and works them out.
                self._stopped.wait(0.05)
                continue
            except Exception:  # what goes on behind has nobody to tell; whoever needs it hears it
                pass
            break
        with self._books:
            self._following.discard(source.id)

    def _find(self, source: ReviewSource) -> bool:
        rows = self._rows(source)
        for row in rows:
            own = source
            if source.runs is not None:
                own = source.at(source.runs.run_of.index(source.runs.rows.index(row)))
            # Worked out by one at a time. Stored outside: whoever writes meanwhile may be the one that waits here.
            with self._one:
                if row not in self._rows(source):
                    continue
                found = _found(own)
            self._store(own, found)
        return bool(rows)

    def _store(self, source: ReviewSource, found: Mapping[str, Patch]) -> None:
        described = {name: _described(source, patch) for name, patch in found.items()}
        try:
            with self._review.writing() as session:
                row = session.get(ResultRow, source.row_id, populate_existing=True)
                if row is None or isinstance(row.summary, Broken) or SOUGHT not in row.summary:
                    return
                for name, patch in found.items():
                    arrays.write(session.connection(), row.id, f"node set {name}", patch.nodes)
                summary: dict[str, Any] = {name: value for name, value in row.summary.items() if name != SOUGHT}
                summary["found sets"] = {**summary.get("found sets", {}), **{name: patch.how for name, patch in found.items()}}
                summary["sets"] = {**summary.get("sets", {}), **described}
                summary["arrays"] = arrays.arrays_held(session, row.id)
                row.summary = summary
                session.flush()
                seal_result(row)
        except IronstoneError:
            self._given_up.add(source.row_id)
            return
        source.mesh.node_sets.update({name: patch.nodes for name, patch in found.items()})


def _found(source: ReviewSource) -> Mapping[str, Patch]:
    step = int(source.stored_summary[SOUGHT])
    if source.runs is not None:
        own = source.runs.rows.index(source.row_id)
        step = [s for s, run in enumerate(source.runs.run_of) if run == own][step]
    try:
        return loads_left(source, step)
    except NotWanted:
        raise
    except IronstoneError:
        # Its stress cannot be read: nothing tells the loads.
        return {}


def _described(source: ReviewSource, patch: Patch) -> dict[str, Any]:
    return {
        "nodes": len(patch.nodes),
        "held": "free" if force_field(source, "reaction") is not None else "unknown",
        "moves": any(f.kind == "displacement" for f in source.fields.values()),
    }


def loads_left(source: ReviewSource, step: int) -> Mapping[str, Patch]:
    """Patches by name at which the stress of a step leaves forces that nothing holds; none of a result with forces of its own."""
    # Imported here: it brings VTK, which most commands do without.
    from ironstone.core.statics.loaded import left_by_stress

    mesh, stress = source.mesh, stress_of(source.fields)
    if stress is None or stress.flat or force_field(source, "force") is not None:
        return {}
    found = {
        n: Patch(mesh.node_sets[n], how) for n, how in source.stored_summary.get("found sets", {}).items() if n in mesh.node_sets
    }
    force = internal_force(source, step, corner_components(source, stress.name, step, np.arange(len(mesh.connectivity))))
    taken = {*mesh.element_sets, *mesh.part_names, *mesh.node_sets}
    return {name: patch for name, patch in left_by_stress(mesh, force, found, _reactions(source)).items() if name not in taken}


def _reactions(source: ReviewSource) -> Done:
    """The largest reaction of each node over the steps of a mesh, and what of it counts as nothing."""
    field = force_field(source, "reaction")
    if field is None:
        moved = next((f for f in source.fields.values() if f.kind == "displacement"), None)
        return Done(loose=TOLERANCE[moved.precision if moved is not None else "double"])
    largest = np.zeros(len(source.mesh.points))
    for step in range(len(source.steps)):
        if source.at(step) is source:
            with suppress(IronstoneError):
                values = np.asarray(source.values(field.name, step), dtype=np.float64)
                np.maximum(largest, np.nan_to_num(np.linalg.norm(values, axis=1)), out=largest)
    return Done(reaction=largest, loose=TOLERANCE[field.precision])
