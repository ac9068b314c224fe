"""How the numbers of a field are meant: what its file was taken for, what it proves of itself, and what the analyst stated."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol, cast

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.classify import FOUR, IN_THE_PLANE
from ironstone.core.field.fields import Field, Setup, Source, Step, constant_at
from ironstone.core.field.gauss_fields import gauss_count
from ironstone.core.field.sliced import split_of
from ironstone.core.kinds import kind_of
from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.gauss_order import FIRST, columns_of
from ironstone.core.mesh.mesh import Int, Mesh
from ironstone.core.mesh.weld import as_meant, third_direction
from ironstone.core.units import UnitSystem
from ironstone.store.models import FieldRow
from ironstone.store.roles import NUMBERS, SAID


class TakenIn(Protocol):
    """A result as it was taken in, with what is stated of it since: all that says how its numbers are meant."""

    correction: dict[str, Any]
    stored_summary: dict[str, Any]
    system: UnitSystem
    system_guessed: bool

    @property
    def mesh(self) -> Mesh: ...

    @property
    def steps(self) -> Sequence[Step]: ...

    @property
    def setup(self) -> Setup: ...

    @property
    def is_shell(self) -> bool: ...

    @property
    def rigid(self) -> NDArray[np.bool_] | None: ...

    @property
    def field_rows(self) -> Mapping[str, FieldRow]: ...

    def at(self, step: int) -> TakenIn: ...

    def as_taken_in(self, field: str, step: int) -> NDArray[np.floating]: ...

    def columns_of_points(self, described: Field) -> dict[int, Int]: ...


def described(source: TakenIn, r: FieldRow) -> Field:
    """A field of the file as it stands in the dictionary."""
    stated = source.correction.get("fields", {}).get(r.name, {})
    kind = stated.get("kind", r.kind)
    more = r.more or {}
    order, shear = convention(source, r)
    known = (("order" in stated or order, "assumed"), ("shear" in stated or shear, "shear taken"))
    notes = [n for n in r.notes if not any(here and word in n for here, word in known)]
    if "order" in stated:
        notes.append(f"order {', '.join(stated['order'])} in the file, as stated")
    if r.rank == "tensor" and "shear" in stated:
        notes.append(f"{stated['shear']} shear in the file, as stated")
    found = [f"order {', '.join(order)}"] if order and "order" not in stated else []
    found += [f"{shear} shear"] if shear and "shear" not in stated and "strain" in kind else []
    if found:
        notes.append(f"{' and '.join(found)} in the file, found: {source.stored_summary['proved'][r.name]['said']}")
    layout = stated.get("layout", more.get("layout", ""))
    flat = layout in IN_THE_PLANE if layout else more.get("flat", False)
    if flat:
        notes.append(_flat_note(source, kind, bool(more.get("layers"))))
    if "layout" in stated:
        notes = [n for n in notes if "components taken as" not in n] + [f"components are {layout}, as stated"]
    split = split_of(more, stated.get("columns"))
    if "columns" in stated:
        notes = [n for n in notes if "columns taken as" not in n] + [f"columns are {stated['columns']}, as stated"]
    if split.points > 1:
        notes.append(points_order(source, r).note)
    role = role_of(source, r)
    if role and "role" in stated:
        notes = [f"whole numbers: {SAID[role][0]}, as stated"]
    return Field(
        name=r.name,
        kind=kind,
        rank=r.rank,
        location=split.location or stated.get("location", r.location),
        components=tuple(r.components),
        unit=stated.get("unit", source.system.unit_of(kind)),
        precision=r.precision,
        guessed=r.guessed and "kind" not in stated,
        unit_guessed=source.system_guessed and "unit" not in stated,
        notes=tuple(notes),
        averaged_before=stated.get("averaged_before", r.averaged_before),
        points=split.points,
        layers=split.layers,
        places=split.places,
        harmonic=more.get("harmonic", False),
        names=more.get("names", False) and role != NUMBERS and (not kind or kind_of(kind).naming),
        flat=flat,
        surface_axes=stated.get("surface_axes", ""),
    )


def role_of(source: TakenIn, row: FieldRow) -> str:
    """What whole numbers are for: as stated, else as they were taken; '' of a field that holds no such numbers."""
    taken: str = (row.more or {}).get("role", "")
    stated: str = source.correction.get("fields", {}).get(row.name, {}).get("role", taken)
    return stated if taken else ""


def convention(source: TakenIn, row: FieldRow) -> tuple[list[str] | None, str]:
    """Order of a tensor's columns and its shear: as stated, else as the file itself proves; None and '' where neither does."""
    stated = source.correction.get("fields", {}).get(row.name, {})
    proof = source.stored_summary.get("proved", {}).get(row.name, {})
    if proof.get("kind") != stated.get("kind", row.kind):
        proof = {}
    settled = (row.more or {}).get("settled", False)
    order = stated.get("order") or (None if settled else proof.get("order") or None)
    return order, stated.get("shear") or proof.get("shear", "")


def _flat_note(source: TakenIn, kind: str, layered: bool) -> str:
    model = _flat_model(source, layered)
    if not source.setup.model and model:
        return "in the plane of the shell: no stress across it" if kind == "stress" else "in the plane of the shell"
    if model in ("plane stress", "plane strain"):
        return f"the third direction follows from {model}, elastic"
    return "the third direction is not in the file: state the model (plane stress, plane strain)"


def _flat_model(source: TakenIn, layered: bool) -> str:
    """What gives the third direction of a tensor whose file leaves it out: what is stated, or the plane stress of shells."""
    if layered or (not source.setup.model and source.is_shell):
        return "plane stress"
    return source.setup.model


@dataclass(frozen=True)
class PointsOrder:
    """The order a file lists its Gauss points in: by the name of a shape, or '' for all, the way. state: stated, found, assumed."""

    ways: Mapping[str, str]
    state: str
    said: str = ""

    @property
    def note(self) -> str:
        ways = sorted({way for way in self.ways.values()})
        words = f"order of the Gauss points {' and '.join(ways)}"
        return f"{words}, {self.state}{': ' if self.said else ''}{self.said}"

    def columns(self, cell: Cell, count: int) -> Int | None:
        """Which of the file's columns each of our points is; None where it is the same one."""
        found = columns_of(cell, count, self.ways.get(cell.name, self.ways.get("", FIRST)))
        return None if found is None or (found == np.arange(count)).all() else found


def points_order(source: TakenIn, row: FieldRow) -> PointsOrder:
    """The order of a field's Gauss points: as stated, else as the file itself proves, else the usual one."""
    stated = source.correction.get("fields", {}).get(row.name, {})
    if "points_order" in stated:
        return PointsOrder({"": stated["points_order"]}, "as stated")
    proof = source.stored_summary.get("proved points", {}).get(row.name, {})
    if proof and proof["kind"] == stated.get("kind", row.kind):
        return PointsOrder(proof["ways"], "found", proof["said"])
    return PointsOrder({"": FIRST}, "assumed")


class _AsListed:
    """A result whose Gauss points are still in the order of the file: enough to count them."""

    def __init__(self, source: TakenIn) -> None:
        self.mesh, self.steps, self._source = source.mesh, source.steps, source

    def at(self, step: int) -> _AsListed | None:
        """Itself at the steps of this mesh."""
        return self if self._source.at(step) is self._source else None

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        return self._source.as_taken_in(field, step)

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        return self.values(field, step)[entities]


def shape_columns(source: TakenIn, described: Field) -> dict[int, Int]:
    """By the number of a shape, which of the file's columns each Gauss point of a field is, where that is not the same one."""
    order = points_order(source, source.field_rows[described.name])
    found = {}
    for block in source.mesh.blocks:
        if set(order.ways.values()) == {FIRST}:
            continue
        columns = order.columns(block.cell, gauss_count(cast(Source, _AsListed(source)), described, block.cell))
        if columns is not None:
            found[block.cell.vtk] = columns
    return found


def _in_our_order(source: TakenIn, described: Field, stored: NDArray[np.floating], entities: Int | None) -> NDArray[np.floating]:
    """Rows of Gauss points (n, points x components) brought from the order of the file to ours."""
    columns = source.columns_of_points(described)
    if not columns:
        return stored
    types = source.mesh.types if entities is None else source.mesh.types[entities]
    table = np.array(stored).reshape(len(stored), described.points, -1)
    for vtk, order in columns.items():
        mine = types == vtk
        table[mine, : len(order)] = table[mine][:, order]
    return table.reshape(len(stored), -1)


def rigid_elements(mesh: Mesh, parts: Sequence[str]) -> NDArray[np.bool_] | None:
    """Which elements are of rigid bodies: of the parts that are stated, or of an element set named rigid; None where none are."""
    found = np.isin(mesh.part, [k for k, name in enumerate(mesh.part_names) if name in parts])
    for name, members in mesh.element_sets.items():
        if name.lower().replace("_", " ").strip() in ("rigid", "rigid body", "is rigid"):
            found[members] = True
    return found if found.any() else None


def of_what_gives(source: TakenIn, described: Field, values: NDArray[np.floating], entities: Int | None) -> NDArray[np.floating]:
    """Numbers with those of rigid bodies left out where the kind tells of a body that gives: a stress of 0 is something else."""
    if source.rigid is None or not kind_of(described.kind).strained:
        return values
    mesh, rigid = source.mesh, source.rigid
    if described.location == "corner":
        left_out = rigid[mesh.corner_element]
    elif described.location == "node":
        gives = np.zeros(len(mesh.points), dtype=bool)
        gives[mesh.connectivity[~rigid[mesh.corner_element]]] = True
        left_out = ~gives
    else:
        left_out = rigid
    here = left_out if entities is None else left_out[entities]
    return np.where(here[:, None], np.nan, values) if here.any() else values


def understood(source: TakenIn, described: Field, stored: NDArray[np.floating], entities: Int | None) -> NDArray[np.floating]:
    """Stored numbers as the field dictionary says they are meant, those of rigid bodies left out where they mean nothing."""
    return of_what_gives(source, described, _understood(source, described, stored, entities), entities)


def _understood(source: TakenIn, described: Field, stored: NDArray[np.floating], entities: Int | None) -> NDArray[np.floating]:
    """Stored numbers as the field dictionary says they are meant: order of points, of components, shear, the third direction."""
    if described.points > 1:
        stored = _in_our_order(source, described, stored, entities)
    if described.rank != "tensor":
        return stored
    more = source.field_rows[described.name].more or {}
    order, shear = convention(source, source.field_rows[described.name])
    engineering = (shear or ("engineering" if more.get("engineering") else "tensor")) == "engineering"
    engineering &= "strain" in described.kind
    stated = source.correction.get("fields", {}).get(described.name, {})
    layout = stated.get("layout", more.get("layout", ""))
    if not engineering and order is None and not described.flat and layout in ("", FOUR):
        return stored
    table = as_meant(stored, order, engineering, layout)
    if described.flat:
        poisson = constant_at(source.mesh, source.setup, "poisson", described.location)
        poisson = poisson if entities is None else poisson[entities]
        model = _flat_model(source, bool(described.layers))
        filled = third_direction(table.reshape(-1, 6), described.kind, model, np.repeat(poisson, table.shape[1]))
        table = filled.reshape(table.shape)
    return table.reshape(len(stored), -1)
