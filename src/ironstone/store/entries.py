"""What of a field's entry in the dictionary can be corrected, and what follows from a correction."""

from __future__ import annotations

from typing import Any

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.field.classify import FOUR, TWO_BY_TWO
from ironstone.core.field.fields import Field
from ironstone.core.field.shell_axes import ways_of
from ironstone.core.field.sliced import ways_to_split
from ironstone.core.kinds import kind_of, kinds_of_rank
from ironstone.core.mesh.weld import OURS, TOLERANCE
from ironstone.core.units import known as known_unit
from ironstone.store.models import FieldRow
from ironstone.store.source import ReviewSource


def _row(source: ReviewSource, name: str) -> FieldRow:
    """The row of a field that was taken in."""
    row = source.stored_field(name)
    assert row is not None
    return row


def checked(source: ReviewSource, found: Field, name: str, value: Any) -> dict[str, Any]:
    """One corrected entry of the field dictionary, with what else follows from it."""
    if name == "kind":
        possible = kinds_of_rank(found.rank)
        if value and value not in possible:
            raise IronstoneError(f"A {found.rank} field cannot be a {value}.", f"It can be: {', '.join(possible)}.")
        return {"kind": value} | _taken_at_nodes(source, found, value)
    if name == "averaged_before":
        if found.location != "node":
            raise IronstoneError(f"'{found.name}' is not at nodes.", "Only node values can have been averaged before import.")
        return {name: bool(value)}
    if name == "unit":
        if not known_unit(value):
            raise IronstoneError(f"The unit '{value}' is not known.", "Write it like kN, mm, MPa, s or in.")
        return {name: value}
    if name == "columns":
        ways = ways_to_split(_row(source, found.name).more or {})
        if value not in ways:
            raise IronstoneError(
                f"The columns of '{found.name}' cannot be {value}.",
                f"They can be: {'; '.join(ways)}." if ways else "They are its components.",
            )
        return {name: value}
    if name == "layout":
        if value not in (FOUR, TWO_BY_TWO) or not (_row(source, found.name).more or {}).get("layout"):
            raise IronstoneError(
                f"The components of '{found.name}' cannot be {value}.", f"Four columns are {FOUR}, or {TWO_BY_TWO}."
            )
        return {name: value}
    if name == "surface_axes":
        ways = ways_of(found, source.setup)
        if value and value not in ways:
            raise IronstoneError(
                f"The axes of '{found.name}' cannot be {value}.",
                f"They can be: {'; '.join(ways)}."
                if ways
                else "They are stated of what shells have: layers, strains, section forces.",
            )
        return {name: value}
    if found.rank != "tensor":
        raise IronstoneError(f"'{found.name}' is a {found.rank} field.", "Order and shear are stated of tensors.")
    if name == "shear":
        if value not in ("tensor", "engineering"):
            raise IronstoneError(f"'{value}' is not a shear convention.", "Choose tensor or engineering.")
        return {name: value}
    if name == "order":
        if sorted(value) != sorted(OURS) or (_row(source, found.name).more or {}).get("settled") or found.flat:
            raise IronstoneError(
                f"The order {', '.join(value)} cannot be that of '{found.name}'.",
                "State all six components once, of a field whose file names none.",
            )
        return {name: list(value)}
    raise IronstoneError(
        f"'{name}' cannot be stated of a field.",
        "State kind, order, shear, averaged_before, columns, layout, surface_axes or unit.",
    )


def _taken_at_nodes(source: ReviewSource, found: Field, kind: str) -> dict[str, Any]:
    """A field kept at corners whose kind has one value at a node by nature moves there, where its copies agree."""
    stored = _row(source, found.name)
    if stored.location != "corner":
        return {}
    if not kind_of(kind).single_valued:
        return {"location": "corner"}
    mesh, reach, apart = source.mesh, 0.0, 0.0
    for step in range(len(source.steps)):
        values = np.nan_to_num(np.asarray(source.as_taken_in(found.name, step), dtype=np.float64))
        reach = max(reach, float(np.abs(values).max(initial=0.0)))
        apart = max(apart, float(np.abs(values - values[mesh.first_corner][mesh.connectivity]).max(initial=0.0)))
    agree = apart <= TOLERANCE[found.precision] * 10 * max(reach, 1e-300)
    return {"location": "node" if agree else "corner"}
