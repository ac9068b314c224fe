"""The steps and fields of a result as its rows hold them; steps understood as the analyst states what they stand for."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

from ironstone.core.field.fields import Step
from ironstone.core.units import UnitSystem
from ironstone.store.models import FieldRow, StepRow


def describe_fields(rows: Sequence[FieldRow]) -> list[Any]:
    """What is sealed of the rows of a result's fields."""
    return [
        [r.id, r.name, r.kind, r.rank, r.location, r.components, r.precision, r.guessed, r.averaged_before, r.notes, r.more]
        for r in rows
    ]


def describe_steps(rows: Sequence[StepRow]) -> list[Any]:
    """What is sealed of the rows of a result's steps."""
    return [[r.position, r.kind, r.value, r.loading] for r in rows]


def steps_of(rows: Sequence[StepRow], stated: Mapping[str, Any] | None, system: UnitSystem) -> list[Step]:
    """The steps a result came with. A load case that has one step and no moment is called by its own name."""
    unit = {"time": system.time, "frequency": "Hz", "mode": "Hz"}
    kinds, values = [r.kind for r in rows], [r.value for r in rows]
    if stated and len(stated["values"]) == len(rows):
        kinds, values = [stated["kind"]] * len(rows), stated["values"]
    alone = Counter(r.loading for r in rows)
    found, modes = [], Counter[str]()
    for r, k, v in zip(rows, kinds, values, strict=True):
        name = r.loading if k == "number" and alone[r.loading] == 1 else ""
        modes[r.loading] += k == "mode"
        found.append(Step(r.position, k, v, unit.get(k, ""), r.loading, name, number=modes[r.loading] if k == "mode" else 0))
    return found
