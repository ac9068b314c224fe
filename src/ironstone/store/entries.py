"""What of a field's entry in the dictionary can be corrected: each with what it can be, how it stands, and what follows from it.

An entry is one class here; the page, the service and the command line know no more of it than its name.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import permutations
from typing import Any, ClassVar

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.field.classify import LAYOUTS, TWO_BY_TWO
from ironstone.core.field.fields import Field
from ironstone.core.field.gauss_fields import gauss_count
from ironstone.core.field.loadings import computed
from ironstone.core.field.shell_axes import SAID, ways_of
from ironstone.core.field.sliced import usual_split, ways_to_split
from ironstone.core.kinds import kind_of, kinds_of_rank
from ironstone.core.mesh.gauss_order import FIRST, columns_of, numbers_of, ways_for
from ironstone.core.mesh.weld import OURS, TOLERANCE
from ironstone.core.units import known as known_unit
from ironstone.store import roles
from ironstone.store.meant import convention, points_order, role_of
from ironstone.store.models import FieldRow
from ironstone.store.roles import SAID as SAID_OF_ROLES
from ironstone.store.source import ReviewSource

STATED, FOUND, FILE, GUESSED = "stated", "found", "file", "guessed"


@dataclass(frozen=True)
class Way:
    """One thing an entry can be."""

    value: str
    label: str
    explanation: str = ""


@dataclass(frozen=True)
class Offer:
    """How an entry stands: before and label read as a piece of a sentence. state: one of the four above."""

    name: str
    title: str
    before: str
    value: str
    label: str
    ways: tuple[Way, ...]
    state: str
    doubtful: bool = False


class Entry:
    """One entry: what it can be of a field, and what is kept where it is stated."""

    name: ClassVar[str]
    title: ClassVar[str]

    @abstractmethod
    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        """How it stands of a field of the file; None where there is nothing to state."""

    @abstractmethod
    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        """What is kept where ``value`` is stated. Raises IronstoneError, with what is possible, where it cannot be."""

    def _offer(self, before: str, value: str, ways: Sequence[Way], state: str, label: str = "", doubtful: bool = False) -> Offer:
        label = label or next((w.label for w in ways if w.value == value), value)
        return Offer(self.name, self.title, before, value, label, tuple(ways), state, doubtful)


def _stated(source: ReviewSource, row: FieldRow) -> Mapping[str, Any]:
    found: Mapping[str, Any] = source.correction.get("fields", {}).get(row.name, {})
    return found


def _state(source: ReviewSource, row: FieldRow, name: str, otherwise: str) -> str:
    return STATED if name in _stated(source, row) else otherwise


class Kind(Entry):
    name, title = "kind", "Kind"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        if field.names:
            return None
        ways = [Way(k, k) for k in kinds_of_rank(field.rank)]
        ways.append(Way("", "kind not known", "Its numbers are shown without a unit."))
        state = _state(source, row, self.name, GUESSED if row.guessed or not field.kind else FILE)
        return self._offer("", field.kind, ways, state, doubtful=state == GUESSED and not field.kind)

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        possible = kinds_of_rank(field.rank)
        if value and value not in possible:
            raise IronstoneError(f"A {field.rank} field cannot be a {value}.", f"It can be: {', '.join(possible)}.")
        return {"kind": value} | _taken_at_nodes(source, field, row, value)


class Columns(Entry):
    name, title = "columns", "Columns"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        ways = ways_to_split(row.more or {})
        if not ways:
            return None
        value = _stated(source, row).get("columns", usual_split(row.more or {}))
        return self._offer("columns", value, [Way(w, w) for w in ways], _state(source, row, self.name, GUESSED))

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        ways = ways_to_split(row.more or {})
        if value not in ways:
            raise IronstoneError(
                f"The columns of '{field.name}' cannot be {value}.",
                f"They can be: {'; '.join(ways)}." if ways else "They are its components.",
            )
        return {"columns": value}


class PointsOrderEntry(Entry):
    name, title = "points_order", "Order of the Gauss points"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        if field.points < 2:
            return None
        order = points_order(source, row)
        shapes = tuple((b.cell, gauss_count(source, field, b.cell)) for b in source.mesh.blocks)
        named = ways_for(shapes)
        if not named:
            return None
        ways = [Way(w, w, "taken where nothing is known" if w == FIRST else "") for w in named]
        own = set(order.ways.values())
        value = next((w for w in named if all(_same(cell, count, w, order.ways.get(cell.name, order.ways.get("", FIRST)))
                                              for cell, count in shapes)), next(iter(own)))  # fmt: skip
        if value not in named:
            ways.append(Way(value, f"points {value.replace(',', ' ')}", "as the file lists them"))
        state = {"as stated": STATED, "found": FOUND}.get(order.state, GUESSED)
        return self._offer("points listed", value, ways, state)

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        shapes = [(b.cell, gauss_count(source, field, b.cell)) for b in source.mesh.blocks] if field.points > 1 else []
        known = [w for w in ways_for(tuple(shapes)) if w == value] if shapes else []
        counted = numbers_of(value) and any(columns_of(cell, count, value) is not None for cell, count in shapes)
        if not known and not counted:
            named = "; ".join(ways_for(tuple(shapes)))
            raise IronstoneError(
                f"The Gauss points of '{field.name}' cannot be listed {value}.",
                f"They can be: {named}; or the numbers of the points, each once, such as 1,2,4,3."
                if shapes
                else "It has none, or one in each element.",
            )
        return {"points_order": value}


def _same(cell: Any, count: int, one: str, other: str) -> bool:
    first, second = columns_of(cell, count, one), columns_of(cell, count, other)
    return first is not None and second is not None and bool((first == second).all())


class Layout(Entry):
    name, title = "layout", "Components"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        taken = (row.more or {}).get("layout", "")
        if not taken:
            return None
        ways = [Way(w, w) for w in LAYOUTS[taken]]
        before = "three columns" if len(taken.split(", ")) == 3 else "four columns"
        # Two by two is told by its middle columns, which agree everywhere.
        state = _state(source, row, self.name, FOUND if taken == TWO_BY_TWO else GUESSED)
        return self._offer(before, _stated(source, row).get("layout", taken), ways, state)

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        possible = LAYOUTS.get((row.more or {}).get("layout", ""), ())
        if value not in possible:
            raise IronstoneError(
                f"The components of '{field.name}' cannot be {value}.",
                f"They can be: {'; '.join(possible)}." if possible else "Its file names them, or it has six.",
            )
        return {"layout": value}


class SurfaceAxes(Entry):
    name, title = "surface_axes", "Axes"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        ways = [Way(w, SAID[w]) for w in ways_of(field, source.setup)]
        if not ways:
            return None
        ways.append(Way("", "axes not stated", "The answers say what they are taken for."))
        return self._offer(
            "in", field.surface_axes, ways, STATED if field.surface_axes else GUESSED, doubtful=not field.surface_axes
        )

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        ways = ways_of(field, source.setup)
        if value and value not in ways:
            raise IronstoneError(
                f"The axes of '{field.name}' cannot be {value}.",
                f"They can be: {'; '.join(ways)}."
                if ways
                else "They are stated of what shells have: layers, strains, section forces.",
            )
        return {"surface_axes": value}


# Orders offered; any other can be stated too.
ORDERS = (
    OURS,
    ("xx", "yy", "zz", "xy", "xz", "yz"),
    ("xx", "yy", "zz", "yz", "xz", "xy"),
    ("xx", "xy", "yy", "xz", "yz", "zz"),
    ("xx", "xy", "xz", "yy", "yz", "zz"),
)


class Order(Entry):
    name, title = "order", "Order"

    def _open(self, field: Field, row: FieldRow) -> bool:
        more = row.more or {}
        return field.rank == "tensor" and not more.get("settled") and not field.flat and not more.get("layout")

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        if not self._open(field, row):
            return None
        found = convention(source, row)[0]
        value = ",".join(found or OURS)
        orders = [",".join(o) for o in ORDERS]
        ways = [
            Way(o, o.replace(",", " "), "taken where the file names no components" if o == orders[0] else "")
            for o in dict.fromkeys([*orders, value])
        ]
        return self._offer("order", value, ways, _state(source, row, self.name, FOUND if found else GUESSED))

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        order = value.replace(" ", "").split(",")
        if field.rank != "tensor":
            raise IronstoneError(f"'{field.name}' is a {field.rank} field.", "Order and shear are stated of tensors.")
        if tuple(order) not in permutations(OURS) or not self._open(field, row):
            raise IronstoneError(
                f"The order {value} cannot be that of '{field.name}'.",
                "State all six components once, of a field whose file names none.",
            )
        return {"order": order}


class Shear(Entry):
    name, title = "shear", "Shear"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        if field.rank != "tensor" or "strain" not in field.kind:
            return None
        found = convention(source, row)[1]
        named = bool((row.more or {}).get("engineering"))
        ways = [
            Way("tensor", "tensor shear", "Half the change of the right angle."),
            Way("engineering", "engineering shear", "The change of the right angle: halved."),
        ]
        value = found or ("engineering" if named else "tensor")
        state = _state(source, row, self.name, FOUND if found else FILE if named else GUESSED)
        return self._offer("", value, ways, state, f"{value} shear in the file")

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        if field.rank != "tensor":
            raise IronstoneError(f"'{field.name}' is a {field.rank} field.", "Order and shear are stated of tensors.")
        if value not in ("tensor", "engineering"):
            raise IronstoneError(f"'{value}' is not a shear convention.", "Choose tensor or engineering.")
        return {"shear": value}


class AveragedBefore(Entry):
    name, title = "averaged_before", "Averaged before import"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        if field.location != "node" or field.rank not in ("tensor", "scalar"):
            return None
        ways = [
            Way("yes", "averaged before import", "Means over elements, which cannot be un-averaged."),
            Way("no", "as computed at the nodes", "A quantity with one value at a node."),
        ]
        doubtful = field.averaged_before
        state = _state(source, row, self.name, GUESSED if doubtful else FILE)
        return self._offer("", "yes" if field.averaged_before else "no", ways, state, doubtful=doubtful)

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        if field.location != "node":
            raise IronstoneError(f"'{field.name}' is not at nodes.", "Only node values can have been averaged before import.")
        if value not in ("yes", "no"):
            raise IronstoneError(f"Averaged before import is yes or no, not {value}.", "Choose one of them.")
        return {"averaged_before": value == "yes"}


class Role(Entry):
    name, title = "role", "What it is"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        role = role_of(source, row)
        if not role:
            return None
        ways = [Way(w, *SAID_OF_ROLES[w]) for w in roles.ways(row.location)]
        return self._offer("", role, ways, _state(source, row, self.name, GUESSED))

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        possible = roles.ways(row.location) if role_of(source, row) else []
        if value not in possible:
            raise IronstoneError(
                f"'{field.name}' cannot be stated as {value}.",
                f"It can be: {'; '.join(possible)}."
                if possible
                else "It holds no whole numbers that name, count or mark something.",
            )
        roles.refuse(field.name, value, np.asarray(source.as_taken_in(field.name, 0))[:, 0])
        return {"role": value}


class Unit(Entry):
    name, title = "unit", "Unit"

    def offer(self, source: ReviewSource, field: Field, row: FieldRow) -> Offer | None:
        return None

    def checked(self, source: ReviewSource, field: Field, row: FieldRow, value: str) -> dict[str, Any]:
        if not known_unit(value):
            raise IronstoneError(f"The unit '{value}' is not known.", "Write it like kN, mm, MPa, s or in.")
        return {"unit": value}


ENTRIES: dict[str, Entry] = {
    e.name: e
    for e in (Kind(), Role(), Columns(), PointsOrderEntry(), Layout(), SurfaceAxes(), Order(), Shear(), AveragedBefore(), Unit())
}


def offers(source: ReviewSource, field: Field) -> list[Offer]:
    """What can be stated of a field and how each stands; none of one that is worked out here."""
    row = source.stored_field(field.name)
    found = [entry.offer(source, field, row) for entry in ENTRIES.values()] if row is not None and field.stored else []
    return [offer for offer in found if offer is not None]


def checked(source: ReviewSource, field: Field, name: str, value: str) -> dict[str, Any]:
    """One corrected entry of the field dictionary, with what else follows from it."""
    if name not in ENTRIES:
        raise IronstoneError(f"'{name}' cannot be stated of a field.", f"State {', '.join(ENTRIES)}.")
    row = source.stored_field(field.name)
    assert row is not None
    return ENTRIES[name].checked(source, field, row, value)


def _taken_at_nodes(source: ReviewSource, found: Field, stored: FieldRow, kind: str) -> dict[str, Any]:
    """A field kept at corners whose kind has one value at a node by nature moves there, where its copies agree."""
    if stored.location != "corner":
        return {}
    if not kind_of(kind).single_valued:
        return {"location": "corner"}
    mesh, reach, apart = source.mesh, 0.0, 0.0
    for step in computed(source.steps):
        values = np.nan_to_num(np.asarray(source.as_taken_in(found.name, step), dtype=np.float64))
        reach = max(reach, float(np.abs(values).max(initial=0.0)))
        apart = max(apart, float(np.abs(values - values[mesh.first_corner][mesh.connectivity]).max(initial=0.0)))
    agree = apart <= TOLERANCE[found.precision] * 10 * max(reach, 1e-300)
    return {"location": "node" if agree else "corner"}
