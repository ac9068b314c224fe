"""One result of a review as the evaluator sees it: its mesh, steps and fields, with what the analyst stated of them."""

from __future__ import annotations

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import select

from ironstone.core.field.axes import Axes
from ironstone.core.field.constants import ELASTIC, lacking
from ironstone.core.field.fields import Field, Mirror, Setup, Source, Step, partition_values, partitions
from ironstone.core.field.plies import offered_plies
from ironstone.core.field.recover import offered
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
from ironstone.formats.laminates import parse_laminates
from ironstone.store import arrays, meant, seal
from ironstone.store.held import Held, InReview
from ironstone.store.mesh_rows import read_mesh
from ironstone.store.models import FieldRow, ResultRow, StepRow
from ironstone.store.roles import MATERIALS, NAMES, NUMBERS, with_roles
from ironstone.store.watch import Watch

if TYPE_CHECKING:
    from ironstone.store.review import Review

CACHED_ARRAYS = 6


def describe_fields(rows: Sequence[FieldRow]) -> list[Any]:
    """What is sealed of the rows of a result's fields."""
    return [
        [r.id, r.name, r.kind, r.rank, r.location, r.components, r.precision, r.guessed, r.averaged_before, r.notes, r.more]
        for r in rows
    ]


def describe_steps(rows: Sequence[StepRow]) -> list[Any]:
    """What is sealed of the rows of a result's steps."""
    return [[r.position, r.kind, r.value, r.loading] for r in rows]


def stated(correction: Mapping[str, Any]) -> str:
    """A mark of what is stated of a result: the same for the same statements, however they came about."""
    return _fingerprint({name: value for name, value in correction.items() if name not in ("revision", "result")})


def _fingerprint(content: object) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True, default=str).encode()).hexdigest()[:24]


class ReviewSource:
    """One result of a review as the evaluator sees it (ironstone.core.fields.Source). Arrays are read when asked for."""

    def __init__(
        self,
        review: Review,
        row: ResultRow,
        correction: dict[str, Any],
        held: Held | None = None,
        mesh: Mesh | None = None,
        name: str = "",
    ) -> None:
        """held: where the fields' arrays are; in the review where not given. mesh: where it is known already.

        name: what the analyst calls it; as it was taken in where not given.
        """
        self.review = review
        self.arriving = row.state == "arriving"
        self._held = held or InReview(review, row.id)
        self.id = row.id
        self.name = name or row.name
        self.created = row.created
        self.files: list[Any] = row.files
        self.stored_summary: dict[str, Any] = row.summary
        self.warnings: list[str] = list(row.warnings)
        self.correction = correction
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
        return _fingerprint([self.id, str(self.created), self.name])

    @cached_property
    def revision(self) -> str:
        """What every answer depends on beside the reading: the intake, and what was stated of it since.

        Told by what was stated, not by how often: after an undo something else may be stated as often.
        """
        return _fingerprint([self.identity, self.stated])

    @property
    def stated(self) -> str:
        """The state of what was stated of this result, as a change to it expects it."""
        return stated(self.correction)

    @cached_property
    def field_rows(self) -> dict[str, FieldRow]:
        with self.review.session() as session:
            rows = session.scalars(select(FieldRow).where(FieldRow.result_id == self.id).order_by(FieldRow.id)).all()
        self._still("fields", describe_fields(rows))
        return {r.name: r for r in rows}

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
        for step in range(len(self.steps)):
            for f in self.fields.values():
                if f.kind in watched and f.stored and f.plain:
                    watch.look(step, f.name, f.kind, f.location, f.precision, self.values(f.name, step))
        return {**self.stored_summary, **watch.summary(), "gaps": self.stored_summary.get("gaps", {})}

    @property
    def made_sets(self) -> dict[str, Int]:
        """Node sets the analyst made."""
        return {n: np.array(e["nodes"], dtype=np.int64) for n, e in self.correction.get("sets", {}).items()}

    @cached_property
    def setup(self) -> Setup:
        """Axes, material constants and model as the analyst stated them."""
        axes = {
            name: Axes(name, a["kind"], tuple(a["origin"]), tuple(tuple(r) for r in a["matrix"]))
            for name, a in self.correction.get("axes", {}).items()
        }
        constants = {n: dict(c) for n, c in self.correction.get("constants", {}).items()}
        stated = self.correction.get("fields", {})
        orientation = (n for n, r in self.field_rows.items() if stated.get(n, {}).get("kind", r.kind) == "orientation")
        half = self.correction.get("mirror")
        mirror = Mirror(half["axis"], half["at"]) if half else None
        return Setup(
            axes, constants, self.correction.get("model", ""), next(orientation, ""), mirror, self.laminates, self.system.length
        )

    @cached_property
    def laminates(self) -> Laminates | None:
        """The laminates as stated, in the result's units; None where none are."""
        stated = self.correction.get("laminates")
        if not stated:
            return None
        found = parse_laminates(json.dumps(stated["content"]).encode(), stated["name"]).told_in(self.system)
        return replace(found, edited=stated["name"] if stated.get("edited") else "")

    @cached_property
    def dictionary(self) -> Mapping[str, Field]:
        """All arrays of the files as they stand, those as well that divide the body or mark sets."""
        return {r.name: meant.described(self, r) for r in self.field_rows.values()}

    @cached_property
    def fields(self) -> Mapping[str, Field]:
        shown = ("", NAMES, NUMBERS, MATERIALS)
        declared = {n: f for n, f in self.dictionary.items() if meant.role_of(self, self.field_rows[n]) in shown}
        bars_alone = bool((self.mesh.dimensions < 2).all())
        recovered = offered(
            declared, not lacking(ELASTIC, self.setup.constants), self.system.stress, self.system.force, self.steps, bars_alone
        )
        named = {f.name: f for f in partitions(self.mesh) if f.name not in declared}
        plies = offered_plies(declared, self.laminates, self.system.stress, self.system.length)
        return declared | {f.name: f for f in (*recovered, *plies)} | named

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
            rows = session.scalars(select(StepRow).where(StepRow.result_id == self.id).order_by(StepRow.position)).all()
        self._still("steps", describe_steps(rows))
        unit = {"time": self.system.time, "frequency": "Hz", "mode": "Hz"}
        stated = self.correction.get("steps")
        if stated and len(stated["values"]) == len(rows):
            kind = stated["kind"]
            values = stated["values"]
            return tuple(Step(r.position, kind, v, unit.get(kind, ""), r.loading) for r, v in zip(rows, values, strict=True))
        return tuple(Step(r.position, r.kind, r.value, unit.get(r.kind, ""), r.loading) for r in rows)

    @property
    def mesh(self) -> Mesh:
        with self._lock:
            if self.mesh_cache is None:
                self.mesh_cache = self._read_mesh()
            return self.mesh_cache

    def _read_mesh(self) -> Mesh:
        names = tuple(self.stored_summary.get("material names", ()))
        with self.review.session() as session:
            mesh, lost = read_mesh(session, self.id, self._part_names, names)
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
        return 0 if (self.field_rows[field].more or {}).get("role", NAMES) != NAMES else step

    @property
    def meshes(self) -> tuple[int, ...]:
        """For each step the first one that has its mesh; nothing where the mesh is one at all steps."""
        return ()

    def at(self, step: int) -> ReviewSource:
        """This result as it is at a step. What a review holds has one mesh at all steps."""
        return self

    def other(self, name: str) -> Source:
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
        if described.recovered:
            values: NDArray[np.floating] = recovered_values(self, field, step)
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
            return recovered_rows(self, field, step, entities)
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
        if not described.stored or moved or self._kept_at(field, 1) == 0:
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
