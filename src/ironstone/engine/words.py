"""How a reading, a trace and what is drawn are written down: the same words in the address bar, a request, a kept thing, a file."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ironstone.core.geometry.surface import Look, Turn
from ironstone.core.reading.reading import BY_NAME, Reading, reading_of

Averaging = Literal["off", "element", "part", "material", "all"]


Order = Literal["components", "measure"]


Reduce = Literal["sum", "mean", "max", "min"]


Sign = Literal[1, -1]


Point = tuple[float, float, float]


# What a request may hold, whatever it is of: a text, and all texts and numbers together; how deep lists lie in each other.
LONGEST_TEXT, MOST_THINGS, DEEPEST = 20_000, 300_000, 12
WITH_PICTURES = 64 * 1024**2


# Halves of characters, and what steers a terminal or ends a text; a tab and a new line are neither.
_UNREADABLE = re.compile("[\ud800-\udfff\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")


def bounded(words: Any, longest: int = LONGEST_TEXT) -> Any:
    """The words of a request as they are. Raises ValueError where they are longer, more or deeper than anything one would ask."""
    left, level = MOST_THINGS, [words]
    for _ in range(DEEPEST):
        below: list[Any] = []
        for one in level:
            if isinstance(one, str):
                if len(one) > longest:
                    raise ValueError("a text is too long")
                if not one.isprintable() and (found := _UNREADABLE.search(one)):
                    raise ValueError(
                        "a text holds half a character" if found[0] >= "\ud800" else "a text holds a control character"
                    )
            elif isinstance(one, Mapping):
                below += [*one.keys(), *one.values()]
            elif isinstance(one, list | tuple):
                below += one
        left -= len(below)
        if left < 0:
            raise ValueError("there is too much of it")
        if not below:
            return words
        level = below
    raise ValueError("it lies too deep")


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    # What brings pictures and tables along takes longer texts.
    longest: ClassVar[int] = LONGEST_TEXT

    @model_validator(mode="before")
    @classmethod
    def _in_bounds(cls, words: Any) -> Any:
        return bounded(words, cls.longest)


def _said(name: str) -> Any:
    """A word of a reading as the table of words has it (``core.reading.reading``); its type stands beside it for who reads here."""
    word = BY_NAME[name]
    return Field(word.default, ge=word.low, le=word.high, description=word.says)


class ReadingWords(Strict):
    """All a reading is of, but for the step."""

    field: str = _said("field")
    measure: str = _said("measure")
    averaging: Averaging = _said("averaging")
    order: Order = _said("order")
    region: str = _said("region")
    unit: str | None = _said("unit")
    of: Literal["value", "jump", "jump-within-material", "error"] = _said("of")
    axes: str = _said("axes")
    plane: str | None = _said("plane")
    weight: Literal["plain", "volume"] = _said("weight")
    fold: float = _said("fold")
    over: Literal["step", "largest", "smallest", "magnitude"] = _said("over")
    span: str = _said("span")
    when: bool = _said("when")
    layer: str = _said("layer")
    criterion: str = _said("criterion")
    phase: str = _said("phase")
    against: str | None = _said("against")

    def reading(self) -> Reading:
        """The reading these words ask for."""
        step = getattr(self, "step", 0)
        # A step that is named by a word of its own ('last') is settled where the result is known.
        return reading_of({name: getattr(self, name) for name in BY_NAME}, step if isinstance(step, int) else 0)

    def others(self) -> list[str]:
        """Other results that are read for it, by name."""
        second = self.reading().against if self.against else None
        return [second.result] if second is not None and second.result else []


class ReadingQuery(ReadingWords):
    """A reading at a step as the address bar and the requests carry it."""

    field: str
    step: int = 0


def _parts(text: str) -> frozenset[int]:
    return frozenset(int(p) for p in text.split(",") if p)


_NUMBER = r"-?\d+(?:\.\d*)?(?:[eE][-+]?\d+)?"


def _turn(text: str) -> Turn | None:
    if not text:
        return None
    part, at, axis = text.split(":")
    (x, y, z), (a, b, c) = ([float(v) for v in words.split(",")] for words in (at, axis))
    return Turn(int(part), (x, y, z), (a, b, c))


class LookQuery(Strict):
    """What of a model is drawn; see ``ironstone.core.geometry.surface.Look``."""

    detail: int = Field(0, ge=0, le=12, description="Pieces each face side is drawn in; 0 leaves it to the model's size.")
    hidden: str = Field("", pattern=r"^\d*(,\d+)*$", description="Positions of parts that are left out: 0,3.")
    translucent: str = Field("", pattern=r"^\d*(,\d+)*$", description="Positions of parts that are drawn translucent.")
    every: bool = Field(False, description="All faces of every element, not the skin alone.")
    apart: bool = Field(False, description="Elements drawn apart, each shrunk towards its middle.")
    solid: bool = Field(False, description="Bars and shells at their own section and thickness.")

    turned: str = Field(
        "",
        pattern=rf"^(\d+(:{_NUMBER},{_NUMBER},{_NUMBER}){{2}})?$",
        description="A part turned over as one opens a book: its position, a point of the hinge, its direction, PART:X,Y,Z:X,Y,Z.",
    )

    def look(self) -> Look:
        return Look(
            self.detail, _parts(self.hidden), _parts(self.translucent), self.every, self.apart, self.solid, _turn(self.turned)
        )


class TraceSpec(ReadingWords):
    """One trace: a reading at one place or over a set, followed through the steps."""

    at: str = Field("", description="node:ID, element:ID, gauss:ELEMENT:POINT, point:X,Y,Z or set:NAME")
    curve: str = Field(
        "",
        description="A named curve in place of all the rest; step: the steps themselves; total:NAME: of the whole model.",
    )
    reduce: Reduce | None = None
    sign: Sign = 1
