"""Highest and lowest of a reading in each part."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

from pydantic import BaseModel

from ironstone.core.errors import Impossible
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.resolve import resolve
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading.answers import place_of_extreme
from ironstone.engine.reading.particulars import ByPartMore
from ironstone.engine.steps import find_step
from ironstone.engine.words import ReadingWords
from ironstone.store import Review


class ByPart(ReadingWords, Question):
    """Lowest and highest of a reading in each part, and where; a part without a value has none, which is not zero."""

    kind: ClassVar[str] = "by-part"
    more: ClassVar[type[BaseModel]] = ByPartMore
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        reading = self.reading().at(find_step(source, self.step))
        resolved = resolve(reading, source)
        if resolved.naming is not None:
            raise Impossible("These numbers name something: none is higher than another.", "Choose a reading that is a quantity.")
        if reading.region != "all":
            raise Impossible("This reading is of a region already.", "Take the region back to the whole model.")
        rows: list[dict[str, Any]] = []
        for name in source.mesh.part_names:
            _, low, high = extremes(replace(reading, region=f"part:{name}"), source)
            ends = {"low": place_of_extreme(low, source), "high": place_of_extreme(high, source)}
            rows.append({"part": name, **ends})
        columns = [Column(name="part", values=[r["part"] for r in rows])]
        for end, word in (("low", "lowest"), ("high", "highest")):
            found = [r[end] or {} for r in rows]
            columns += [
                Column(name=word, unit=resolved.unit, values=[f.get("value") for f in found]),
                Column(name=f"{word}, element", values=[f.get("element") for f in found]),
                Column(name=f"{word}, node", values=[f.get("node") for f in found]),
                *(
                    Column(
                        name=f"{word}, {axis}", unit=source.system.length, values=[(f.get("xyz") or [None] * 3)[i] for f in found]
                    )
                    for i, axis in enumerate("xyz")
                ),
            ]
        return Answer(
            kind=self.kind,
            sentence=f"{resolved.sentence()}, highest and lowest by part",
            unit=resolved.unit,
            columns=columns,
            more={"parts": rows},
        )
