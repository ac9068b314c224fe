"""A reading of one result less the same of another: over the model in figures, and at a place."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.reading.elsewhere import matched
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.statics.limits import samples_of
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.compare.particulars import DifferenceMore
from ironstone.engine.reading.answers import read
from ironstone.engine.reading.readings import where_words
from ironstone.engine.steps import find_step
from ironstone.engine.words import ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class Difference(ReadingWords, Question):
    """A reading of a result less the same of another: lowest, highest, RMS by volume, how it was matched, what could not be."""

    kind: ClassVar[str] = "difference"
    more: ClassVar[type[BaseModel]] = DifferenceMore
    less: str = Field(min_length=1, max_length=200, description="The other result, by name or number.")
    step: int | str = "last"
    at: str | None = None

    def others(self) -> list[str]:
        return [self.less]

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        second = ";".join(part for part in (f"result={self.less}", self.against or "") if part)
        reading = self.model_copy(update={"against": None}).reading().at(find_step(source, self.step)).minus(second)
        reply = read(reading, source, self.at, with_extremes=True)
        rms, without = self._by_volume(reading, source)
        low, high = reply["min"], reply["max"]
        unit = reply["unit"]
        rows = reply["values"]
        figures = [
            Figure(label=label, value=found["value"], unit=unit, how=where_words(found))
            for label, found in (("lowest", low), ("highest", high))
            if found
        ]
        figures += [
            Figure(label="RMS", value=rms, unit=unit, how="by volume, over where both have a value"),
            Figure(label="share without", value=without, how="of the volume: there is no value of one of the two"),
        ]
        return Answer(
            kind=self.kind,
            sentence=reply["sentence"],
            unit=unit,
            columns=[
                Column(name="place", values=[r["place"] for r in rows]),
                Column(name="difference", unit=unit, values=[r["value"] for r in rows]),
            ]
            if rows
            else [],
            figures=figures,
            caveats=reply["caveats"],
            more={
                "min": low,
                "max": high,
                "rms": rms,
                "matched": "same mesh" if matched(source, source.other(self.less)) else "interpolated",
                "share_without": without,
                "values": [{k: v for k, v in r.items() if k != "direction"} for r in rows],
            },
        )

    @staticmethod
    def _by_volume(reading: Reading, source: ReviewSource) -> tuple[float | None, float | None]:
        """RMS over the volume where there is a value, and the share of the volume where there is none; None where the volume is not
        known."""
        place, volume = samples_of(source, reading.step)
        if not np.isfinite(volume).all() or not volume.sum() > 0:
            return None, None
        values = evaluate(reading, source, place).values
        there = np.isfinite(values)
        within = float(volume[there].sum())
        rms = float(np.sqrt((volume[there] * values[there] ** 2).sum() / within)) if within > 0 else None
        return rms, float(volume[~there].sum() / volume.sum())
