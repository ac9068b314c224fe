"""One curve of several results: the same two traces asked of each, and how far each agrees with the first."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.curves.curves import Curve
from ironstone.core.curves.match import match
from ironstone.core.errors import IronstoneError
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.curves.pairings import TwoTraces, paired
from ironstone.engine.curves.particulars import CurvesOfMore
from ironstone.engine.reading.answers import number
from ironstone.store import Review

# The figures of a match that are told, by what they are called there.
FIGURES = {"stiffness": ("secant_stiffness", "initial_stiffness"), "energy": ("energy_total",)}


class CurvesOf(TwoTraces, Question):
    """A curve, kept or stated, of several results: sets and points are found in each by name and place. Each is held against the
    first by the rules of a test record: peak, stiffness, energy, RMS deviation."""

    kind: ClassVar[str] = "curves-of"
    more: ClassVar[type[BaseModel]] = CurvesOfMore
    results: list[str] = Field(min_length=1, max_length=30, description="The other results, by name or number.")

    def others(self) -> list[str]:
        return self.results

    def answer(self, review: Review) -> Answer:
        spec = self.spec(review)
        first, told = paired(review, spec)
        source = review.result(spec.result)
        found = [_one(review, first, spec, name) for name in self.results]
        found = [f for f in found if f["id"] != source.id]
        rows = [f for f in found if not f["error"]]
        return Answer(
            kind=self.kind,
            sentence=f"{told.y.sentence}; against {told.x.sentence}; of {source.name} and {len(rows)} more",
            unit=first.y_unit,
            columns=[
                Column(name="result", values=[f["result"] for f in found]),
                Column(name="peak, ratio", unit="", values=[f["ratios"].get("peak") for f in found]),
                Column(name="stiffness, ratio", unit="", values=[f["ratios"].get("stiffness") for f in found]),
                Column(name="energy, ratio", unit="", values=[f["ratios"].get("energy") for f in found]),
                Column(name="RMS deviation", unit="", values=[f["deviation"] for f in found]),
                Column(name="verdict", values=[f["verdict"] or f["error"] for f in found]),
            ],
            caveats=[f"{f['result']}: {f['error']}" for f in found if f["error"]],
            verdict="; ".join(f"{f['result']}: {f['verdict']}" for f in rows),
            state="good" if rows and all(f["state"] == "good" for f in rows) else "doubt" if rows else "",
            more={"curves": found},
        )


def _one(review: Review, first: Curve, spec: Any, name: str) -> dict[str, Any]:
    """The curve of another result in the units of the first, and how it agrees with that; or why it has none."""
    reply: dict[str, Any] = {"x": [], "y": [], "ratios": {}, "deviation": None, "verdict": "", "state": "", "error": ""}
    source = review.result(int(name) if name.isdigit() and not any(r.name == name for r in review.results()) else name)
    reply |= {"id": source.id, "result": source.name}
    try:
        curve, _ = paired(review, spec.model_copy(update={"result": source.id, "first": 0, "last": None}))
        curve = curve.in_units(first.x_unit, first.y_unit)
    except IronstoneError as error:
        return reply | {"error": f"{error.message} {error.hint}".strip()}
    reply |= {"x": [number(v) for v in curve.x], "y": [number(v) for v in curve.y]}
    try:
        agreement = match(first, curve, prominence=spec.prominence)
    except IronstoneError as error:
        return reply | {"verdict": f"not comparable: {error.message}", "state": "doubt"}
    peaks = [m for m in agreement.metrics if m.name.startswith("peak_")]
    highest = [max(peaks, key=lambda m: abs(m.test))] if peaks else []
    told = {"peak": highest} | {word: [m for m in agreement.metrics if m.name in names] for word, names in FIGURES.items()}
    return reply | {
        "ratios": {word: float(found[0].ratio) for word, found in told.items() if found and np.isfinite(found[0].ratio)},
        "deviation": number(agreement.deviation.share),
        "verdict": agreement.verdict,
        "state": agreement.state,
    }
