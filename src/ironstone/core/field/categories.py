"""Fields that name something: a part, a material, a ply, a state. They have a key of names and no scale."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.field.fields import Field
from ironstone.core.mesh.mesh import Float

COLOURS = 24


@dataclass(frozen=True)
class Category:
    """One name: its number in the field, and which of the colours of names it is drawn in."""

    number: float
    name: str
    colour: int


def name_of(field: Field, number: float) -> str | None:
    """What a number of a naming field stands for; None where there is none."""
    if np.isnan(number):
        return None
    if field.labels:
        return field.labels[int(number)]
    plain = field.name.lower()
    if number in (0.0, 1.0) and any(word in plain for word in ("flag", "failed", "status", "active")):
        return "yes" if number else "no"
    return f"{field.name.replace('_', ' ')} {number:g}"


def names_of(field: Field, values: Float) -> list[Category]:
    """All names a field has, in order of their numbers. A name keeps its colour from step to step while numbers are few."""
    numbers = np.arange(len(field.labels), dtype=np.float64) if field.labels else np.unique(values[~np.isnan(values)])
    own = [int(n) % COLOURS for n in numbers]
    colours = own if len(set(own)) == len(own) else [i % COLOURS for i in range(len(own))]
    return [Category(float(n), name_of(field, float(n)) or "", c) for n, c in zip(numbers, colours, strict=True)]


def places_in(known: list[Category], values: Float) -> Float:
    """Which of the categories each value is, as a number from 0; NaN where there is no value."""
    numbers = np.array([k.number for k in known])
    found = np.searchsorted(numbers, np.nan_to_num(values)).astype(np.float64)
    found[np.isnan(values)] = np.nan
    return found
