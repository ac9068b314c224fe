"""At which steps a condition holds: where the highest of a reading is at or above a value, or the lowest at or below one."""

from __future__ import annotations

from typing import ClassVar

from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible
from ironstone.core.field.loadings import computed
from ironstone.core.reading.extremes import Extreme, extremes
from ironstone.core.reading.resolve import resolve
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading.answers import number
from ironstone.engine.reading.particulars import StepsWhereMore
from ironstone.engine.words import ReadingWords
from ironstone.store import Review


class StepsWhere(ReadingWords, Question):
    """The steps at which a reading reaches a value somewhere in its region: contact that is closed, a stress above a limit."""

    kind: ClassVar[str] = "steps-where"
    more: ClassVar[type[BaseModel]] = StepsWhereMore
    at_least: float | None = Field(None, description="The highest is at or above this.")
    at_most: float | None = Field(None, description="The lowest is at or below this.")

    def answer(self, review: Review) -> Answer:
        if self.at_least is None and self.at_most is None:
            raise Impossible("A condition needs a value.", "State what the highest is at least, or the lowest at most.")
        source, reading = self.source(review), self.reading()
        rows = []
        for step in computed(source.steps):
            _, low, high = extremes(reading.at(step), source.at(step))
            above = self.at_least is None or (high is not None and high.value >= self.at_least)
            below = self.at_most is None or (low is not None and low.value <= self.at_most)
            rows.append((step, low, high, above and below))
        resolved = resolve(reading.at(0), source)
        found = [step for step, _, _, holds in rows if holds]
        words = [f"its highest is at least {self.at_least:g}"] if self.at_least is not None else []
        words += [f"its lowest is at most {self.at_most:g}"] if self.at_most is not None else []
        return Answer(
            kind=self.kind,
            sentence=f"{resolved.sentence(with_step=False)}: steps at which {' and '.join(words)}",
            unit=resolved.unit,
            columns=[
                Column(name="step", values=[source.steps[s].label for s, *_ in rows]),
                Column(name="lowest", unit=resolved.unit, values=[_value(low) for _, low, _, _ in rows]),
                Column(name="highest", unit=resolved.unit, values=[_value(high) for _, _, high, _ in rows]),
                Column(name="holds", values=["yes" if holds else "no" for *_, holds in rows]),
            ],
            verdict=f"It holds at {len(found)} of {len(rows)} steps.",
            more={"steps": found},
        )


def _value(found: Extreme | None) -> float | None:
    return None if found is None else number(found.value)
