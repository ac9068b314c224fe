"""The limits stated of materials, beside a reading that is held against them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.reading.resolved import Resolved
from ironstone.core.units import convert, same_kind
from ironstone.store.source import ReviewSource

# Of a field of a kind, by its measure: the constants that limit it, each in words.
LIMITS = {
    ("stress", "von-mises"): (("yield", "yield strength"), ("ultimate", "ultimate strength")),
    ("plastic strain", "value"): (("plastic_limit", "plastic strain limit"),),
}


class LimitBeside(BaseModel):
    """A limit of one or several materials, in the unit of the reading."""

    value: float
    words: str
    materials: list[str] = Field(description="Those it is stated of.")


def limits_beside(resolved: Resolved, source: ReviewSource) -> list[LimitBeside]:
    """The stated limits a reading's values are to be seen against, the lowest first; none of a jump, a difference or an error, and
    none of when or at which angle the largest is reached."""
    unit = source.system.stress if resolved.field.kind == "stress" else ""
    of_value = resolved.reading.of == "value" and resolved.against is None
    if not of_value or resolved.reading.when or not same_kind(unit, resolved.unit):
        return []
    found: dict[tuple[float, str], list[str]] = {}
    for constant, words in LIMITS.get((resolved.field.kind, resolved.measure.name), ()):
        for material, value in _stated(source, constant):
            there = float(convert(np.array([value]), unit, resolved.unit)[0])
            found.setdefault((there, words), []).append(material)
    return [LimitBeside(value=value, words=words, materials=of) for (value, words), of in sorted(found.items())]


def _stated(source: ReviewSource, constant: str) -> Iterator[tuple[str, float]]:
    for material, constants in source.setup.constants.items():
        if constant in constants:
            yield material, float(constants[constant])
