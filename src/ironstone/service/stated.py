"""What is stated of a result, as it comes over the wire."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from ironstone.engine.words import Strict


class UnitsIn(Strict):
    system: str


class FieldEntryIn(Strict):
    """What is corrected of the entries of fields in the dictionary, by the names of entries; what is left out stays."""

    fields: list[str]
    entries: dict[str, str]


class CombinationsIn(Strict):
    combinations: list[str] = Field(min_length=1, max_length=500)


class RigidIn(Strict):
    part: str
    rigid: bool


class CostIn(Strict):
    """What a run took that its files do not say; no value takes it back."""

    name: str = Field(min_length=1, max_length=60)
    value: float | None


class StepsIn(Strict):
    """What the steps stand for: a kind, and a value a step ('0, 0.5, 1'), the first and the increment ('0:0.1'), or 'names', the
    numbers in the files' names. A kind of '' takes the statement back."""

    kind: str
    values: str = ""


class ConstantsIn(Strict):
    """Constants by name, in the result's units; none takes them back."""

    material: str
    constants: dict[str, float] = {}


class ModelIn(Strict):
    model: str


class MirrorIn(Strict):
    """The plane a half is mirrored at; an axis of '' takes the statement back."""

    axis: Literal["", "x", "y", "z"]
    at: float = 0.0


class LaminatesIn(Strict):
    """Laminates as their file holds them, and what they are called; no content takes them back."""

    name: str = Field("laminates", max_length=200)
    content: dict[str, Any] | None = None


class BasisIn(Strict):
    """A material's strengths from coupons that are kept: which, of what material, and which of their numbers."""

    coupons: int
    material: str = Field(max_length=200)
    number: Literal["mean", "b", "a"]
