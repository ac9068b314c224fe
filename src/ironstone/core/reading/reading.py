"""A reading: one fully specified quantity.

Immutable, serialisable, and prints itself as the sentence that captions every picture, curve and table.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, fields, replace
from dataclasses import field as field_of
from typing import Any

import numpy as np

from ironstone.core.errors import Impossible

AVERAGINGS = ("off", "element", "part", "material", "all")
ORDERS = ("components", "measure")
OF = ("value", "jump", "jump-within-material", "error")
OVER = ("step", "largest", "smallest", "magnitude")
GROUPED = ("part", "material", "all")
WEIGHTS = ("plain", "volume")
FOLD = 20.0
TAKEN_OFF = "Take off the same with some words changed: 'step=0;averaging=all'."


@dataclass(frozen=True)
class Word:
    """One word of a reading, as it is written in an address, a request, a command or a kept thing.

    says: what it is, in a line. choices: all it can be; none where it is free. low, high: of a number. optional: whether it may be
    left open (None). goes_with: the word without which it means nothing, at that one's usual value. carried: whether it means the
    same in another result.
    """

    name: str
    default: Any
    says: str
    choices: tuple[str, ...] = ()
    low: float | None = None
    high: float | None = None
    optional: bool = False
    goes_with: str = ""
    carried: bool = False

    @property
    def kind(self) -> str:
        """What is written: one of the choices, yes or no, a number, or text."""
        if self.choices:
            return "choice"
        return {bool: "flag", float: "number"}.get(type(self.default), "text")


def _word(default: Any, says: str, **more: Any) -> Any:
    return field_of(default=default, metadata={"says": says, **more})


@dataclass(frozen=True)
class Reading:
    """What is asked. ``step`` is an index from 0. What each word is and can be is said beside it: this is their table (``WORDS``).

    against: a second reading that is taken off; together: it is of the step of this one, whichever that is. As a word, ``against``
    is what the second has other than the first. result: of a second reading, the other result it is of, by name; '' for the same.
    """

    field: str = _word("", "Name of the field.", carried=True)
    measure: str = _word("", "von-mises, principal-1, xx, hoop, magnitude, ...", carried=True)
    averaging: str = _word("off", "off, element, part, material or all.", choices=AVERAGINGS, carried=True)
    order: str = _word("components", "What is averaged first: components or measure.", choices=ORDERS, carried=True)
    step: int = 0
    region: str = _word("all", "all, part:NAME, material:NAME or set:NAME.")
    unit: str | None = _word(None, "Unit of the answer; the result's where none is named.", optional=True, carried=True)
    of: str = _word("value", "value, jump or jump-within-material (at a node), or error.", choices=OF, carried=True)
    axes: str = _word("global", "global, element, material, or axes kept with the result.")
    plane: tuple[float, float, float] | None = _word(None, "Normal of the plane for a traction: X,Y,Z in the axes.", optional=True)
    weight: str = _word("plain", "What counts in a mean at a node: plain, or by volume.", choices=WEIGHTS, carried=True)
    fold: float = _word(FOLD, "Degrees above which shells are not averaged across a fold.", low=0.0, high=180.0, carried=True)
    over: str = _word("step", "step, or largest, smallest, magnitude over many steps.", choices=OVER)
    span: str = _word("all", "Which steps: all, so-far (up to the step), A:B, or A,B,C, counted from 0.", goes_with="over")
    when: bool = _word(False, "The step at which, in place of the value.", goes_with="over")
    against: Reading | None = _word(None, TAKEN_OFF, optional=True)  # noqa: RUF009 (a field, as all here)
    together: bool = False
    result: str = ""
    layer: str = _word("", "N, N:PLACE, largest, smallest, magnitude; 1 is the bottom. Of plies also sheet:NAME, worst.")
    phase: str = _word("", "Of a harmonic: degrees, magnitude, peak, or angle (of the peak).")
    criterion: str = _word("", "Of the failure of plies: hashin, puck, ...; with +bond behind it also the bond lines.")

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    @property
    def over_many(self) -> bool:
        """Whether it, or what is taken from it, runs over many steps."""
        return self.over != "step" or (self.against is not None and self.against.over != "step")

    def at(self, step: int) -> Reading:
        """The same reading at another step; a second reading goes along where the two are taken together, else it stays."""
        if self.against is not None and self.together:
            return replace(self, step=step, against=self.against.at(step))
        return replace(self, step=step)

    def minus(self, text: str) -> Reading:
        """This reading, less itself with some words changed: 'step=0;averaging=all'. Named a step, the second stays at it."""
        other = self.changed(text)
        named = {piece.partition("=")[0].strip() for piece in text.split(";")}
        return replace(self, against=other, together="step" not in named)

    def changed(self, text: str) -> Reading:
        """This reading with some words changed: 'step=0;averaging=all'. Named a step and no span, it is of that one step."""
        changes: dict[str, Any] = {}
        for piece in filter(None, (p.strip() for p in text.split(";"))):
            name, _, value = piece.partition("=")
            if name not in ("step", "result") and (name not in BY_NAME or name == "against"):
                raise Impossible(f"'{name}' is no word of a reading.", "Write like step=0;averaging=all.")
            try:
                changes[name] = _READ.get(name, str)(value)
            except ValueError as error:
                raise Impossible(f"'{value}' is not right for {name}.", "Write like step=0;averaging=all.") from error
        if "step" in changes and not changes.keys() & {"over", "span", "when"}:
            changes |= {"over": "step", "span": "all", "when": False}
        if changes.get("over") == "step":
            changes.setdefault("when", False)
        return replace(self, against=None, together=False, **changes)


WORDS = tuple(Word(f.name, f.default, **f.metadata) for f in fields(Reading) if f.metadata)
BY_NAME = {word.name: word for word in WORDS}


def plane_of(text: str) -> tuple[float, float, float]:
    """A plane's normal from 'X,Y,Z'. Raises Impossible where these are not three numbers that point somewhere."""
    try:
        x, y, z = (float(v) for v in text.split(","))
    except ValueError as error:
        raise Impossible(f"'{text}' is not a direction.", "Write three numbers, like 0,0,1.") from error
    if not np.isfinite([x, y, z]).all() or x == y == z == 0.0:
        raise Impossible(f"'{text}' points nowhere.", "Write three numbers, like 0,0,1.")
    return x, y, z


def _flag(text: str) -> bool:
    return text in ("1", "true", "yes")


# How a word is read from text, where it is no text itself.
_OF_KIND: dict[str, Callable[[str], Any]] = {"number": float, "flag": _flag}
_READ: dict[str, Callable[[str], Any]] = {word.name: _OF_KIND[word.kind] for word in WORDS if word.kind in _OF_KIND}
_READ |= {"step": int, "plane": plane_of}


def reading_of(words: Mapping[str, Any], step: int = 0) -> Reading:
    """The reading that words ask for: a value of each that is named; a plane and what is taken off as text, or as they are.

    Raises Impossible for what is no word of a reading.
    """
    odd = next((name for name in words if name not in BY_NAME), None)
    if odd is not None:
        raise Impossible(f"'{odd}' is no word of a reading.", f"Its words are: {', '.join(BY_NAME)}.")
    plane, against = words.get("plane"), words.get("against")
    rest = {name: value for name, value in words.items() if name not in ("plane", "against")}
    reading = Reading(**rest, step=step, plane=plane_of(plane) if isinstance(plane, str) and plane else plane or None)
    if isinstance(against, Reading):
        return replace(reading, against=against)
    return reading.minus(against) if against else reading
