"""One result of a review as the evaluator sees it: its mesh, steps and fields, with what the analyst stated of them."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import select

from ironstone.core.field.combined import Combination, Term, made_step, summed
from ironstone.core.field.constants import ELASTIC, lacking
from ironstone.core.field.fields import COMBINATION, Field, Setup, Source, Step, partition_values, partitions
from ironstone.core.field.loadings import computed
from ironstone.core.field.plies import offered_plies
from ironstone.core.field.recover import offered
from ironstone.core.mesh.meeting import may_part
from ironstone.core.mesh.mesh import Int, Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import reading_of
from ironstone.core.reading.recovered import recovered_rows, recovered_values
from ironstone.core.reading.resolved import Values
from ironstone.core.reading.where import parse, place_of
from ironstone.core.strength.zones import Laminates
from ironstone.core.units import SYSTEMS, UnitSystem
from ironstone.core.wanted import still_wanted
from ironstone.store import arrays, meant, seal
from ironstone.store.held import Held, InReview
from ironstone.store.mesh_rows import read_mesh
from ironstone.store.models import FieldRow, ResultRow, StepRow
from ironstone.store.opened import OpenReview, Other
from ironstone.store.roles import MATERIALS, NAMES, NUMBERS, with_roles
from ironstone.store.runs import HeldOfRun, Runs, runs_in
from ironstone.store.stated import fingerprint, laminates_of, setup_of, stated
from ironstone.store.step_rows import describe_fields, describe_steps, steps_of
from ironstone.store.watch import Watch

CACHED_ARRAYS = 6


class ReviewSource:
    """One result of a review as the evaluator sees it (ironstone.core.fields.Source). Arrays are read when asked for."""

    def __init__(
        self,
        review: OpenReview,
        row: ResultRow,
        correction: dict[str, Any],
        held: Held | None = None,
        mesh: Mesh | None = None,
        name: str = "",
        beside: tuple[str, ...] = (),
        whole: ReviewSource | None = None,
    ) -> None:
        """held: where the fields' arrays are; in the review where not given. mesh: where it is known already.

        name: what the analyst calls it; as it was taken in where not given. beside: what is stated of other results it reads.
        whole: the result whose steps on another mesh these are.
        """
        self.review = review
        self.arriving = row.state == "arriving"
        self.row_id = row.id
        self.id: int = row.id if whole is None else whole.id
        self.runs: Runs | None = runs_in(row.summary, row.id) if whole is None else whole.runs
        self._plain = held or InReview(review, row.id)
        self.name = name or row.name
        self.created = row.created
        self.files: list[Any] = row.files
        self.stored_summary: dict[str, Any] = row.summary
        self.warnings: list[str] = list(row.warnings)
        self.correction, self.beside = correction, beside
        self.system: UnitSystem = SYSTEMS[correction.get("system", row.system)]
        self.system_guessed = row.system_guessed and "system" not in correction
        self._part_names = tuple(row.part_names)
        self._cache: OrderedDict[tuple[str, int], NDArray[np.generic]] = OrderedDict()
        self._columns: dict[str, dict[int, Int]] = {}
        self._lock = threading.RLock()
        self.mesh_cache = mesh

    @cached_property
    def identity(self) -> str:
        """Which intake this is: results of two reviews may have one number, not one moment as well."""
        return fingerprint([self.id, str(self.created), self.name, *([self.row_id] if self.row_id != self.id else [])])

    @cached_property
    def revision(self) -> str:
        """What every answer depends on beside the reading: the intake, and what was stated of it since.

        Told by what was stated, not by how often: after an undo something else may be stated as often.
        """
        return fingerprint([self.identity, self.stated, *self.beside])

    @property
    def stated(self) -> str:
        """The state of what was stated of this result, as a change to it expects it."""
        return stated(self.correction)

    @cached_property
    def field_rows(self) -> dict[str, FieldRow]:
        with self.review.session() as session:
            ids = [self.row_id] if self.runs is None else self.runs.rows
            rows = session.scalars(select(FieldRow).where(FieldRow.result_id.in_(ids)).order_by(FieldRow.id)).all()
        own = [r for r in rows if r.result_id == self.row_id]
        self._still("fields", describe_fields(own))
        return {r.name: r for r in [*reversed(rows), *own]} if len(ids) > 1 else {r.name: r for r in own}

    @cached_property
    def _held(self) -> Held:
        """Where the arrays are, by the steps of the whole result."""
        if self.runs is None:
            return self._plain
        own = frozenset(r.id for r in self.field_rows.values() if r.result_id == self.row_id)
        return HeldOfRun(self._plain, self.runs, self.runs.rows.index(self.row_id), own, self.steps)

    def _still(self, what: str, described: list[Any]) -> None:
        """Raise Damaged where the rows that describe this result are not those it was taken in with."""
        sealed = self.stored_summary.get("sealed", {}).get(what)
        if sealed is not None and sealed != seal.of_description(described):
            raise arrays.Damaged(
                f"The list of {what} of {self.name} is damaged on the disk.",
                f"The other results can be read. To get it back, {arrays.way_back(self.files)}",
            )

    @property
    def stored_fields(self) -> list[str]:
        """Names of the fields that were taken in."""
        return list(self.field_rows)

    def stored_field(self, name: str) -> FieldRow | None:
        """A field's row as it was taken in; None for one that is recovered here."""
        return self.field_rows.get(name)

    @cached_property
    def summary(self) -> dict[str, Any]:
        """What was gathered over the steps; gathered anew where a corrected kind changes what there is to gather."""
        stated = {n: e["kind"] for n, e in self.correction.get("fields", {}).items() if "kind" in e}
        watched = ("displacement", "reaction", "plastic strain", "yielded share")
        changed = any(
            kind != self.field_rows[n].kind and {kind, self.field_rows[n].kind} & set(watched) for n, kind in stated.items()
        )
        if not changed:
            return self.stored_summary
        watch = Watch(self.mesh)
        for step in computed(self.steps):
            for f in self.fields.values():
                if f.kind in watched and f.stored and f.plain:
                    watch.look(step, f.name, f.kind, f.location, f.precision, self.values(f.name, step))
        return {**self.stored_summary, **watch.summary(), "gaps": self.stored_summary.get("gaps", {})}

    @property
    def made_sets(self) -> dict[str, Int]:
        """Node sets the analyst made: of a mesh that is another one at other steps, its numbers mean nothing there."""
        if self.row_id != self.id:
            return {}
        return {n: np.array(e["nodes"], dtype=np.int64) for n, e in self.correction.get("sets", {}).items()}

    @cached_property
    def setup(self) -> Setup:
        """Axes, material constants and model as the analyst stated them."""
        stated_kinds = self.correction.get("fields", {})
        orientation = (n for n, r in self.field_rows.items() if stated_kinds.get(n, {}).get("kind", r.kind) == "orientation")
        return setup_of(self.correction, next(orientation, ""), self.laminates, self.system.length)

    @cached_property
    def laminates(self) -> Laminates | None:
        """The laminates as stated, in the result's units; None where none are."""
        return laminates_of(self.correction, self.system)

    @cached_property
    def dictionary(self) -> Mapping[str, Field]:
        """All arrays of the files as they stand, those as well that divide the body or mark sets."""
        return {r.name: meant.described(self, r) for r in self.field_rows.values()}

    @cached_property
    def fields(self) -> Mapping[str, Field]:
        shown = ("", NAMES, NUMBERS, MATERIALS)
        declared = {n: f for n, f in self.dictionary.items() if meant.role_of(self, self.field_rows[n]) in shown}
        mesh, system = self.mesh, self.system
        bodies = sum(mesh.encloses(k) for k in range(len(mesh.part_names)))
        recovered = offered(
            declared,
            not lacking(ELASTIC, self.setup.constants),
            system.stress,
            system.force,
            self.steps,
            bool((mesh.dimensions < 2).all()),
            bodies,
            system.length,
            # A planar model has one way in its faces.
            (2 if mesh.planar else 3) if may_part(mesh) else 0,
        )
        named = {f.name: f for f in partitions(self.mesh) if f.name not in declared}
        plies = offered_plies(declared, self.laminates, self.system.stress, self.system.length)
        return declared | {f.name: f for f in (*recovered, *plies)} | named

    @cached_property
    def rigid(self) -> NDArray[np.bool_] | None:
        """Which elements are of rigid bodies, as stated or as a set of the file named rigid has them; None where none are."""
        return meant.rigid_elements(self.mesh, self.correction.get("rigid", []))

    @cached_property
    def is_shell(self) -> bool:
        """Whether the elements are faces, not all in the plane a planar model lies in."""
        return not self.mesh.planar and bool((self.mesh.dimensions == 2).all())

    def columns_of_points(self, field: Field) -> dict[int, Int]:
        """By the number of a shape, the file's column of each Gauss point of a field, where that is not the same one."""
        with self._lock:
            known = self._columns.get(field.name)
        if known is None:
            known = meant.shape_columns(self, field)
            with self._lock:
                self._columns[field.name] = known
        return known

    @cached_property
    def steps(self) -> Sequence[Step]:
        with self.review.session() as session:
            ids = [self.row_id] if self.runs is None else self.runs.rows
            rows = session.scalars(select(StepRow).where(StepRow.result_id.in_(ids)).order_by(StepRow.position)).all()
        self._still("steps", describe_steps([r for r in rows if r.result_id == self.row_id]))
        own = steps_of(rows, self.correction.get("steps"), self.system)
        return (*own, *(made_step(c, self, own, k) for k, c in enumerate(self.combinations)))

    @cached_property
    def combinations(self) -> list[Combination]:
        """The steps that are made of others, as they are stated."""
        return [
            Combination(name, tuple(Term(*t) for t in stated["terms"]), tuple(stated["doubts"]))
            for name, stated in self.correction.get("combinations", {}).items()
        ]

    def _made_of(self, step: int) -> Combination | None:
        """What a step is made of; None of one the result came with."""
        if self.steps[step].kind != COMBINATION:
            return None
        return self.combinations[step - len(computed(self.steps))]

    def _summed(self, field: str, made: Combination, get: Callable[[Source, int], Any]) -> NDArray[np.floating]:
        return summed(self.fields[field], made.terms, lambda t: get(self.other(t.result) if t.result else self, t.step))

    @property
    def mesh(self) -> Mesh:
        with self._lock:
            if self.mesh_cache is None:
                self.mesh_cache = self._read_mesh()
            return self.mesh_cache

    def _read_mesh(self) -> Mesh:
        names = tuple(self.stored_summary.get("material names", ()))
        with self.review.session() as session:
            mesh, lost = read_mesh(session, self.row_id, self._part_names, names)
        self.warnings += lost
        mesh = with_roles(mesh, self._stated_roles())
        mesh.node_sets.update(self.made_sets)
        return mesh

    @property
    def roles(self) -> dict[str, str]:
        """The roles of whole numbers that are stated: with them the mesh is another one."""
        return {n: e["role"] for n, e in self.correction.get("fields", {}).items() if "role" in e}

    def _stated_roles(self) -> dict[str, tuple[str, str, str, NDArray[np.floating]]]:
        """Of whole numbers whose role is stated: where they live, the role they were taken for, the stated one, the numbers."""
        found = {}
        for name, entry in self.correction.get("fields", {}).items():
            row = self.field_rows.get(name)
            taken = (row.more or {}).get("role") if row is not None else None
            if row is None or not taken or entry.get("role", taken) == taken:
                continue
            values = self._held.whole(row.id, 0)
            if values is not None:
                found[name] = row.location, taken, entry["role"], values[:, 0]
        return found

    def _entities(self, field: str) -> int:
        location = self.field_rows[field].location
        mesh = self.mesh
        return {"node": len(mesh.points), "corner": len(mesh.connectivity)}.get(location, len(mesh.types))

    def _width(self, field: str) -> int:
        row = self.field_rows[field]
        more = row.more or {}
        several = int(more.get("points", 0) or more.get("layers", 0) or 1)
        return len(row.components) * several * (2 if more.get("harmonic") else 1)

    def as_taken_in(self, field: str, step: int) -> NDArray[np.floating]:
        """A field's array as it was taken in."""
        found = self._held.whole(self.field_rows[field].id, self._kept_at(field, step))
        return np.full((self._entities(field), self._width(field)), np.nan) if found is None else found

    def _kept_at(self, field: str, step: int) -> int:
        """The step an array is kept at: what says what is where is kept once."""
        once = (self.field_rows[field].more or {}).get("role", NAMES) != NAMES
        first = 0 if self.runs is None else self.runs.run_of.index(self.runs.rows.index(self.row_id))
        return first if once else step

    @property
    def meshes(self) -> tuple[int, ...]:
        """For each step the first one that has its mesh; nothing where the mesh is one at all steps."""
        return () if self.runs is None else self.runs.begins

    def at(self, step: int) -> ReviewSource:
        """This result as it is at a step, with the mesh of that step."""
        runs = self.runs
        if runs is None or not 0 <= step < len(runs.run_of) or runs.rows[runs.run_of[step]] == self.row_id:
            return self
        with self._lock:
            number = runs.run_of[step]
            if number not in runs.sources:
                runs.sources[number] = self.review.run(runs.rows[number], self)
            found: ReviewSource = runs.sources[number]
            return found

    def other(self, name: str) -> Other:
        """Another result of the same review, by name or number."""
        return self.review.result(int(name) if name.isdigit() and not any(r.name == name for r in self.review.results()) else name)

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        with self._lock:
            if (field, step) in self._cache:
                self._cache.move_to_end((field, step))
                return self._cache[field, step]  # type: ignore[return-value]
        still_wanted()
        described = self.fields[field]
        if described.labels and not described.recovered:
            return partition_values(self.mesh, field)
        made = self._made_of(step)
        if described.recovered:
            values: NDArray[np.floating] = meant.of_what_gives(self, described, recovered_values(self, field, step), None)
        elif made is not None:
            values = self._summed(field, made, lambda source, s: source.values(field, s))
        else:
            stored = self.as_taken_in(field, step)
            if described.location == "node" and self.field_rows[field].location == "corner":
                stored = stored[self.mesh.first_corner]
            values = meant.understood(self, described, stored, None)
        with self._lock:
            self._cache[field, step] = values
            while len(self._cache) > CACHED_ARRAYS:
                self._cache.popitem(last=False)
        return values

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        with self._lock:
            cached = self._cache.get((field, step))
        if cached is not None:
            return cached[entities]  # type: ignore[return-value]
        described = self.fields[field]
        if described.labels and not described.recovered:
            return partition_values(self.mesh, field)[entities]
        if described.recovered:
            return meant.of_what_gives(self, described, recovered_rows(self, field, step, entities), entities)
        made = self._made_of(step)
        if made is not None:
            return self._summed(field, made, lambda source, s: source.rows(field, s, entities))
        moved = described.location == "node" and self.field_rows[field].location == "corner"
        places = self.mesh.first_corner[entities] if moved else entities
        (stored,) = self._held.rows(self.field_rows[field].id, [self._kept_at(field, step)], places)
        if stored is None:
            return np.full((len(entities), self._width(field)), np.nan)
        return meant.understood(self, described, stored, entities)

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        """A few entities at many steps through one connection, without reading any step as a whole."""
        described = self.fields[field]
        moved = described.stored and described.location == "node" and self.field_rows[field].location == "corner"
        alike = not described.stored or moved or self._kept_at(field, 1) == 0
        if alike or any(self.steps[int(s)].kind == COMBINATION for s in steps):
            return np.stack([self.rows(field, int(step), entities) for step in steps])
        result = np.full((len(steps), len(entities), self._width(field)), np.nan)
        for i, found in enumerate(self._held.rows(self.field_rows[field].id, steps.tolist(), entities)):
            if found is not None:
                result[i] = found
        flat = meant.understood(self, described, result.reshape(-1, result.shape[2]), np.tile(entities, len(steps)))
        return flat.reshape(result.shape)

    def read(self, field: str, measure: str = "", at: str = "corners", **words: Any) -> Values:
        """Ask a reading of this result: ``read("stress", "von-mises", at="node:8", averaging="part", step=-1)``.

        at: 'corners' (every corner), 'nodes', 'elements', or a place such as 'node:8' (see ``core.where``). words: those of a
        reading as they are written everywhere (``against="result=NAME"``); a step below zero counts from the last. Returns answers
        with ``values``, ``unit``, ``quantity`` and ``caveats``.
        """
        step = int(words.pop("step", 0))
        reading = reading_of({"field": field, "measure": measure, **words}, step + len(self.steps) if step < 0 else step)
        mesh = self.mesh
        if at == "corners":
            return evaluate(reading, self, AtCorners())
        if at == "nodes":
            return evaluate(reading, self, AtNodes(np.arange(len(mesh.points))))
        if at == "elements":
            return evaluate(reading, self, AtElements(np.arange(len(mesh.types))))
        return evaluate(reading, self, place_of(parse(at), reading, self))
