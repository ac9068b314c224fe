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
from ironstone.core.field.classify import TWO_BY_TWO
from ironstone.core.field.constants import ELASTIC, lacking
from ironstone.core.field.fields import Field, Mirror, Setup, Step, constant_at, partition_values, partitions
from ironstone.core.field.plies import offered_plies
from ironstone.core.field.recover import offered
from ironstone.core.field.sliced import split_of
from ironstone.core.kinds import kind_of
from ironstone.core.mesh.mesh import Int, Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes
from ironstone.core.mesh.weld import as_meant, third_direction
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.recovered import recovered_rows, recovered_values
from ironstone.core.reading.resolved import Values
from ironstone.core.reading.where import parse, place_of
from ironstone.core.strength.zones import Laminates
from ironstone.core.units import SYSTEMS, UnitSystem
from ironstone.formats.laminates import parse_laminates
from ironstone.store import arrays, seal
from ironstone.store.held import Held, InReview
from ironstone.store.mesh_rows import read_mesh
from ironstone.store.models import FieldRow, ResultRow, StepRow
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
        self._stored_summary: dict[str, Any] = row.summary
        self.warnings: list[str] = list(row.warnings)
        self.correction = correction
        self.system: UnitSystem = SYSTEMS[correction.get("system", row.system)]
        self.system_guessed = row.system_guessed and "system" not in correction
        self._part_names = tuple(row.part_names)
        self._cache: OrderedDict[tuple[str, int], NDArray[np.generic]] = OrderedDict()
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
    def _field_rows(self) -> dict[str, FieldRow]:
        with self.review.session() as session:
            rows = session.scalars(select(FieldRow).where(FieldRow.result_id == self.id).order_by(FieldRow.id)).all()
        self._still("fields", describe_fields(rows))
        return {r.name: r for r in rows}

    def _still(self, what: str, described: list[Any]) -> None:
        """Raise Damaged where the rows that describe this result are not those it was taken in with."""
        sealed = self._stored_summary.get("sealed", {}).get(what)
        if sealed is not None and sealed != seal.of_description(described):
            raise arrays.Damaged(
                f"The list of {what} of {self.name} is damaged on the disk.",
                f"The other results can be read. To get it back, {arrays.way_back(self.files)}",
            )

    @property
    def stored_fields(self) -> list[str]:
        """Names of the fields that were taken in."""
        return list(self._field_rows)

    def stored_field(self, name: str) -> FieldRow | None:
        """A field's row as it was taken in; None for one that is recovered here."""
        return self._field_rows.get(name)

    @cached_property
    def summary(self) -> dict[str, Any]:
        """What was gathered over the steps; gathered anew where a corrected kind changes what there is to gather."""
        stated = {n: e["kind"] for n, e in self.correction.get("fields", {}).items() if "kind" in e}
        watched = ("displacement", "reaction", "plastic strain", "yielded share")
        changed = any(
            kind != self._field_rows[n].kind and {kind, self._field_rows[n].kind} & set(watched) for n, kind in stated.items()
        )
        if not changed:
            return self._stored_summary
        watch = Watch(self.mesh)
        for step in range(len(self.steps)):
            for f in self.fields.values():
                if f.kind in watched and f.stored and f.plain:
                    watch.look(step, f.name, f.kind, f.location, f.precision, self.values(f.name, step))
        return {**self._stored_summary, **watch.summary(), "gaps": self._stored_summary.get("gaps", {})}

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
        orientation = (n for n, r in self._field_rows.items() if stated.get(n, {}).get("kind", r.kind) == "orientation")
        half = self.correction.get("mirror")
        mirror = Mirror(half["axis"], half["at"]) if half else None
        return Setup(axes, constants, self.correction.get("model", ""), next(orientation, ""), mirror, self.laminates)

    @cached_property
    def laminates(self) -> Laminates | None:
        """The laminates as stated, in the result's units; None where none are."""
        stated = self.correction.get("laminates")
        if not stated:
            return None
        found = parse_laminates(json.dumps(stated["content"]).encode(), stated["name"]).told_in(self.system)
        return replace(found, edited=stated["name"] if stated.get("edited") else "")

    @cached_property
    def fields(self) -> Mapping[str, Field]:
        declared = {r.name: self._field(r) for r in self._field_rows.values()}
        bars_alone = bool((self.mesh.dimensions < 2).all())
        recovered = offered(
            declared, not lacking(ELASTIC, self.setup.constants), self.system.stress, self.system.force, self.steps, bars_alone
        )
        named = {f.name: f for f in partitions(self.mesh) if f.name not in declared}
        plies = offered_plies(declared, self.laminates, self.system.stress, self.system.length)
        return declared | {f.name: f for f in (*recovered, *plies)} | named

    def _field(self, r: FieldRow) -> Field:
        stated = self.correction.get("fields", {}).get(r.name, {})
        kind = stated.get("kind", r.kind)
        more = r.more or {}
        order, shear = self.convention(r)
        known = (("order" in stated or order, "assumed"), ("shear" in stated or shear, "shear taken"))
        notes = [n for n in r.notes if not any(here and word in n for here, word in known)]
        if "order" in stated:
            notes.append(f"order {', '.join(stated['order'])} in the file, as stated")
        if r.rank == "tensor" and "shear" in stated:
            notes.append(f"{stated['shear']} shear in the file, as stated")
        found = [f"order {', '.join(order)}"] if order and "order" not in stated else []
        found += [f"{shear} shear"] if shear and "shear" not in stated and "strain" in kind else []
        if found:
            notes.append(f"{' and '.join(found)} in the file, found: {self._stored_summary['proved'][r.name]['said']}")
        if more.get("flat") if not more.get("layout") else stated.get("layout", more["layout"]) == TWO_BY_TWO:
            notes.append(self._flat_note(kind, bool(more.get("layers"))))
        layout = stated.get("layout", more.get("layout", ""))
        if "layout" in stated:
            notes = [n for n in notes if "four components" not in n] + [f"four components are {layout}, as stated"]
        split = split_of(more, stated.get("columns"))
        if "columns" in stated:
            notes = [n for n in notes if "columns taken as" not in n] + [f"columns are {stated['columns']}, as stated"]
        return Field(
            name=r.name,
            kind=kind,
            rank=r.rank,
            location=split.location or stated.get("location", r.location),
            components=tuple(r.components),
            unit=stated.get("unit", self.system.unit_of(kind)),
            precision=r.precision,
            guessed=r.guessed and "kind" not in stated,
            unit_guessed=self.system_guessed and "unit" not in stated,
            notes=tuple(notes),
            averaged_before=stated.get("averaged_before", r.averaged_before),
            points=split.points,
            layers=split.layers,
            places=split.places,
            harmonic=more.get("harmonic", False),
            names=more.get("names", False) and (not kind or kind_of(kind).naming),
            flat=layout == TWO_BY_TWO if layout else more.get("flat", False),
            surface_axes=stated.get("surface_axes", ""),
        )

    def convention(self, row: FieldRow) -> tuple[list[str] | None, str]:
        """Order of a tensor's columns and its shear: as stated, else as the file itself proves; None and '' where neither does."""
        stated = self.correction.get("fields", {}).get(row.name, {})
        proof = self._stored_summary.get("proved", {}).get(row.name, {})
        if proof.get("kind") != stated.get("kind", row.kind):
            proof = {}
        settled = (row.more or {}).get("settled", False)
        order = stated.get("order") or (None if settled else proof.get("order") or None)
        return order, stated.get("shear") or proof.get("shear", "")

    def _flat_note(self, kind: str, layered: bool) -> str:
        model = self._flat_model(layered)
        if not self.setup.model and model:
            return "in the plane of the shell: no stress across it" if kind == "stress" else "in the plane of the shell"
        if model in ("plane stress", "plane strain"):
            return f"the third direction follows from {model}, elastic"
        return "the third direction is not in the file: state the model (plane stress, plane strain)"

    def _flat_model(self, layered: bool) -> str:
        """What gives the third direction of a tensor whose file leaves it out: what is stated, or the plane stress of shells."""
        if layered or (not self.setup.model and self._is_shell):
            return "plane stress"
        return self.setup.model

    @cached_property
    def _is_shell(self) -> bool:
        """Whether the elements are faces, not all in the plane a planar model lies in."""
        return not self.mesh.planar and bool((self.mesh.dimensions == 2).all())

    @cached_property
    def steps(self) -> Sequence[Step]:
        with self.review.session() as session:
            rows = session.scalars(select(StepRow).where(StepRow.result_id == self.id).order_by(StepRow.position)).all()
        self._still("steps", describe_steps(rows))
        unit = {"time": self.system.time, "frequency": "Hz", "mode": "Hz"}
        return tuple(Step(r.position, r.kind, r.value, unit.get(r.kind, ""), r.loading) for r in rows)

    @property
    def mesh(self) -> Mesh:
        with self._lock:
            if self.mesh_cache is None:
                self.mesh_cache = self._read_mesh()
            return self.mesh_cache

    def _read_mesh(self) -> Mesh:
        names = tuple(self._stored_summary.get("material names", ()))
        with self.review.session() as session:
            mesh, lost = read_mesh(session, self.id, self._part_names, names)
        self.warnings += lost
        mesh.node_sets.update(self.made_sets)
        return mesh

    def _entities(self, field: str) -> int:
        location = self._field_rows[field].location
        mesh = self.mesh
        return {"node": len(mesh.points), "corner": len(mesh.connectivity)}.get(location, len(mesh.types))

    def _width(self, field: str) -> int:
        row = self._field_rows[field]
        more = row.more or {}
        several = int(more.get("points", 0) or more.get("layers", 0) or 1)
        return len(row.components) * several * (2 if more.get("harmonic") else 1)

    def as_taken_in(self, field: str, step: int) -> NDArray[np.floating]:
        """A field's array as it was taken in."""
        found = self._held.whole(self._field_rows[field].id, step)
        return np.full((self._entities(field), self._width(field)), np.nan) if found is None else found

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        with self._lock:
            if (field, step) in self._cache:
                self._cache.move_to_end((field, step))
                return self._cache[field, step]  # type: ignore[return-value]
        described = self.fields[field]
        if described.labels and not described.recovered:
            return partition_values(self.mesh, field)
        if described.recovered:
            values: NDArray[np.floating] = recovered_values(self, field, step)
        else:
            stored = self.as_taken_in(field, step)
            if described.location == "node" and self._field_rows[field].location == "corner":
                stored = stored[self.mesh.first_corner]
            values = self._understood(described, stored, None)
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
        moved = described.location == "node" and self._field_rows[field].location == "corner"
        places = self.mesh.first_corner[entities] if moved else entities
        (stored,) = self._held.rows(self._field_rows[field].id, [step], places)
        if stored is None:
            return np.full((len(entities), self._width(field)), np.nan)
        return self._understood(described, stored, entities)

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        """A few entities at many steps through one connection, without reading any step as a whole."""
        described = self.fields[field]
        moved = described.stored and described.location == "node" and self._field_rows[field].location == "corner"
        if not described.stored or moved:
            return np.stack([self.rows(field, int(step), entities) for step in steps])
        result = np.full((len(steps), len(entities), self._width(field)), np.nan)
        for i, found in enumerate(self._held.rows(self._field_rows[field].id, steps.tolist(), entities)):
            if found is not None:
                result[i] = found
        flat = self._understood(described, result.reshape(-1, result.shape[2]), np.tile(entities, len(steps)))
        return flat.reshape(result.shape)

    def _understood(self, described: Field, stored: NDArray[np.floating], entities: Int | None) -> NDArray[np.floating]:
        """Stored numbers as the field dictionary says they are meant: order, shear, the third direction."""
        if described.rank != "tensor":
            return stored
        more = self._field_rows[described.name].more or {}
        order, shear = self.convention(self._field_rows[described.name])
        engineering = (shear or ("engineering" if more.get("engineering") else "tensor")) == "engineering"
        engineering &= "strain" in described.kind
        if not engineering and order is None and not described.flat:
            return stored
        table = as_meant(stored, order, engineering, described.flat and bool(more.get("layout")))
        if described.flat:
            poisson = constant_at(self.mesh, self.setup, "poisson", described.location)
            poisson = poisson if entities is None else poisson[entities]
            model = self._flat_model(bool(described.layers))
            filled = third_direction(table.reshape(-1, 6), described.kind, model, np.repeat(poisson, table.shape[1]))
            table = filled.reshape(table.shape)
        return table.reshape(len(stored), -1)

    def read(self, field: str, measure: str = "", at: str = "corners", **words: Any) -> Values:
        """Ask a reading of this result: ``read("stress", "von-mises", at="node:8", averaging="part", step=-1)``.

        at: 'corners' (every corner), 'nodes', 'elements', or a place such as 'node:8' (see ``core.where``). words: those of a
        Reading; a step below zero counts from the last. Returns answers with ``values``, ``unit``, ``quantity`` and ``caveats``.
        """
        step = int(words.pop("step", 0))
        reading = Reading(field, measure, step=step + len(self.steps) if step < 0 else step, **words)
        mesh = self.mesh
        if at == "corners":
            return evaluate(reading, self, AtCorners())
        if at == "nodes":
            return evaluate(reading, self, AtNodes(np.arange(len(mesh.points))))
        if at == "elements":
            return evaluate(reading, self, AtElements(np.arange(len(mesh.types))))
        return evaluate(reading, self, place_of(parse(at), reading, self))
