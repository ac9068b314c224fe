"""Questions of a reading: at a place or over the model, and followed through the steps."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from pydantic import BaseModel

from ironstone.core.reading.reading import Reading
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.curves.named import traced
from ironstone.engine.reading import answers
from ironstone.engine.reading.particulars import ReadMore
from ironstone.engine.steps import find_step
from ironstone.engine.weight import Reach
from ironstone.engine.words import ReadingWords, TraceSpec
from ironstone.store import Review
from ironstone.store.source import ReviewSource


def where_words(extreme: Mapping[str, Any]) -> str:
    """Where the highest or lowest is: its node, element and part."""
    named = (f"{what} {extreme[what]}" for what in ("node", "element") if extreme[what] is not None)
    return ", ".join([*named, *([extreme["part"]] if extreme["part"] else [])])


class Read(ReadingWords, Question):
    """A reading at a place, or its lowest and highest over the model."""

    kind: ClassVar[str] = "read"
    more: ClassVar[type[BaseModel]] = ReadMore
    step: int | str = "last"
    at: str | None = None
    extremes: bool = False

    @classmethod
    def reach_of(cls, words: Mapping[str, Any]) -> Reach:
        at = words.get("at")
        return "place" if isinstance(at, str) and not at.startswith("set:") and not words.get("extremes") else "whole"

    def asked(self, source: ReviewSource) -> Reading:
        return self.reading().at(find_step(source, self.step))

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        reply = answers.read(self.asked(source), source, self.at, self.extremes)
        rows = reply["values"]
        length = source.system.length
        columns = [
            Column(name="place", values=[r["place"] for r in rows]),
            Column(name="node", values=[r["node"] for r in rows]),
            Column(name="element", values=[r["element"] for r in rows]),
            Column(name="part", values=[r["part"] for r in rows]),
            *(Column(name=axis, unit=length, values=[r["xyz"][i] for r in rows]) for i, axis in enumerate("xyz")),
            Column(name=f"{self.field} {self.measure}".strip(), unit=reply["unit"], values=[r["value"] for r in rows]),
        ]
        more = {k: v for k, v in reply.items() if k not in ("sentence", "unit", "caveats")}
        ends = ((end, reply[key]) for end, key in (("lowest", "min"), ("highest", "max")) if self.extremes or not self.at)
        return Answer(
            kind=self.kind,
            sentence=reply["sentence"],
            unit=reply["unit"],
            columns=columns,
            figures=[
                Figure(label=end, value=found["value"], unit=reply["unit"], how=where_words(found)) for end, found in ends if found
            ],
            caveats=reply["caveats"],
            more=more,
        )


class Trace(TraceSpec, Question):
    """A reading at one place, or over a set, followed through the steps."""

    kind: ClassVar[str] = "trace"
    reach: ClassVar[Reach] = "place"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        curve, sentence, caveats = traced(review, source, self)
        return Answer(
            kind=self.kind,
            sentence=sentence,
            unit=curve.y_unit,
            columns=[
                Column(name=curve.x_label, unit=curve.x_unit, values=curve.x.tolist()),
                Column(name=curve.y_label, unit=curve.y_unit, values=[answers.number(v) for v in curve.y]),
            ],
            caveats=[*caveats, *answers.few_steps(source, curve.y)],
        )
