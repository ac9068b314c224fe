"""Hand checks: an expected value with its tolerance and source beside a reading, read anew whenever it is looked at."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from pydantic import Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.resolve import resolve
from ironstone.engine.base import Kept, readable
from ironstone.engine.reading import answers
from ironstone.engine.words import ReadingQuery, Strict
from ironstone.store import Review
from ironstone.store.items import Item
from ironstone.store.source import ReviewSource


class CheckIn(Kept):
    """A hand check: what a reading at a node should be, within a share of it, and where that comes from."""

    kind: ClassVar[str] = "check"
    result: int
    name: str = Field(min_length=1, max_length=80)
    reading: ReadingQuery
    at: str = Field(description="node:ID, element:ID, set:NAME (mean) or max or min")
    expected: float
    tolerance: float = Field(0.05, ge=0, le=10)
    source: str = Field("", max_length=300)

    def check(self, review: Review) -> None:
        checked_value(review.result(self.result), self)

    def made(self) -> str:
        return f"Hand check '{self.name}' kept"

    def gone(self) -> str:
        return f"Hand check '{self.name}' removed"


class ChecksTaken(Strict):
    """The hand checks of one result, to be kept for another too."""

    of: int
    to: int


class CheckOut(CheckIn):
    id: int
    value: float | None
    unit: str
    sentence: str
    off: float | None
    verdict: str


def check_of(review: Review, item: Item, stated: CheckIn) -> CheckOut:
    """A hand check, read anew."""
    value, unit, sentence = None, "", ""
    try:
        source = review.result(stated.result)
        value, unit, sentence = checked_value(source, stated)
    except IronstoneError as error:
        sentence = str(error)
    off = None if value is None or stated.expected == 0 else value / stated.expected - 1
    if value is not None and stated.expected == 0:
        verdict = "agrees" if abs(value) <= stated.tolerance else "fails"
    else:
        verdict = "not checked" if off is None else "agrees" if abs(off) <= stated.tolerance else "fails"
    return CheckOut(id=item.id, **stated.model_dump(), value=value, unit=unit, sentence=sentence, off=off, verdict=verdict)


def checked_value(source: ReviewSource, stated: CheckIn) -> tuple[float | None, str, str]:
    reading = stated.reading.reading()
    resolved = resolve(reading, source)
    if stated.at in ("max", "min"):
        _, low, high = extremes(reading, source)
        found = high if stated.at == "max" else low
        return (answers.number(found.value) if found else None), resolved.unit, f"{stated.at} of {resolved.sentence()}"
    answer: dict[str, Any] = answers.read(reading, source, stated.at)
    values = [v["value"] for v in answer["values"] if v["value"] is not None]
    if not values:
        raise Impossible("There is no value at that place.", "Check the place and the reading.")
    return float(np.mean(values)), answer["unit"], f"{answer['sentence']}, at {stated.at}{' (mean)' if len(values) > 1 else ''}"


def checks_elsewhere(result: int, review: Review) -> dict[int, int]:
    """How many hand checks other results have, by result, that this one has not under their names."""
    every = [stated for _, stated in readable(review, CheckIn)]
    mine = {c.name for c in every if c.result == result}
    shown = {r.id for r in review.results()}
    found: dict[int, int] = {}
    for stated in every:
        if stated.result in shown - {result} and stated.name not in mine:
            found[stated.result] = found.get(stated.result, 0) + 1
    return found


def hand_checks(result: int, review: Review) -> list[CheckOut]:
    """Every hand check of a result, read anew."""
    return [check_of(review, item, stated) for item, stated in readable(review, CheckIn, result)]


def take_checks(stated: ChecksTaken, review: Review) -> list[CheckOut]:
    """Keep another result's hand checks for this one too, by name: those that are here already stay as they are."""
    review.result(stated.to)
    with review.writing():
        here = {c.name for _, c in readable(review, CheckIn, stated.to)}
        for _, check in readable(review, CheckIn, stated.of):
            if check.name not in here:
                taken = check.model_copy(update={"result": stated.to})
                review.add("check", taken.written(), f"Hand check '{check.name}' taken over")
    return hand_checks(stated.to, review)
