"""A curve held against a test record, and the record drawn on the curve."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any, ClassVar

from pydantic import BaseModel, Field

from ironstone.core.curves.agreement import Limits
from ironstone.core.curves.match import cycles_of_test, match
from ironstone.core.curves.transient import in_time
from ironstone.core.verdicts import State
from ironstone.engine.base import Question, by_name
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.curves import curve_answers
from ironstone.engine.curves.pairings import PairingIn, numbers_of, pairing_of, said_of_cycles
from ironstone.engine.curves.particulars import AgreementMore
from ironstone.engine.curves.records import Record, record_of, scatter_of
from ironstone.engine.reading import answers
from ironstone.engine.weight import Reach
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class OverlayOut(BaseModel):
    """A corrected record in the units of a curve; low and high where it is the mean of several."""

    name: str
    x: list[float | None]
    y: list[float | None]
    low: list[float | None] | None = None
    high: list[float | None] | None = None


class MetricOut(BaseModel):
    name: str
    label: str
    model: float | None
    test: float | None
    unit: str | None
    ratio: float | None
    limit: float | None
    accepted: bool | None


class DeviationOut(BaseModel):
    rms: float | None
    share: float | None
    percent: str = Field(description="The share in per cent, with the digits that tell it from its limit.")
    largest: float | None
    largest_at_x: float | None
    determination: float | None
    unit: str | None
    limit: float
    accepted: bool
    x: list[float] = Field(description="Where the test has points that are compared.")
    away: list[float] = Field(description="Model less test there.")


class MatchOut(BaseModel):
    kind: str
    shift: float | None = Field(description="Of a comparison by time: by how much later the model is.")
    correlation: float | None = Field(description="Of a comparison by time: Pearson's, at that shift.")
    metrics: list[MetricOut]
    deviation: DeviationOut
    corrections: list[str]
    notes: list[str]
    verdict: str
    agrees: bool
    state: State
    test: int
    pairing: int


def match_of(review: Review, pairing: int, test: int, cycles: str = "") -> MatchOut:
    """A curve held against a test record; cycles: of these alone."""
    model, made = pairing_of(review, pairing)
    record, out = record_of(review, test)
    limits = Limits(**out.use.limits.model_dump())
    found = match(model, record, limits, tuple(out.corrections), made.prominence, numbers_of(cycles))
    answer = curve_answers.match_answer(found)
    d = found.deviation
    return MatchOut.model_validate(
        {
            **answer,
            "metrics": [{"name": m.name, **answer["metrics"][m.name]} for m in found.metrics],
            "deviation": {
                "rms": answers.number(d.rms),
                "share": answers.number(d.share),
                "percent": d.percent,
                "largest": answers.number(d.largest),
                "largest_at_x": answers.number(d.largest_at_x),
                "determination": answers.number(d.determination),
                "unit": d.unit,
                "limit": d.limit,
                "accepted": d.accepted,
                "x": d.x.tolist(),
                "away": d.away.tolist(),
            },
            "state": found.state,
            "shift": found.shift,
            "correlation": found.correlation,
            "test": test,
            "pairing": pairing,
        }
    )


def overlay(review: Review, pairing: int, test: int, cycles: str = "") -> OverlayOut:
    """A corrected record in the units of a curve, to be drawn on it; cycles: what of it goes with these cycles of the curve."""
    model, made = pairing_of(review, pairing)
    record, out = record_of(review, test)
    shown = record.in_units(model.x_unit, model.y_unit)
    if in_time(model) and in_time(shown):
        shown = replace(shown, x=shown.x + (match(model, record).shift or 0.0))
    reply = OverlayOut(name=out.name, x=[answers.number(v) for v in shown.x], y=[answers.number(v) for v in shown.y])
    if out.of:
        found = scatter_of(review, test)
        for end, values in (("low", found.low), ("high", found.high)):
            turned = replace(found.mean, y=values).in_units(model.x_unit, model.y_unit)
            setattr(reply, end, [answers.number(v) for v in turned.y])
    picked = numbers_of(cycles)
    if not picked:
        return reply
    spans = cycles_of_test(model, record, made.prominence)
    held = [slice(first, last + 1) for first, last in (spans[n] for n in picked if n in spans)]
    return reply.model_copy(update={n: _pieces(v, held) for n, v in reply if isinstance(v, list)})


def _pieces(values: list[float | None], held: list[slice]) -> list[float | None]:
    """Some stretches of values one after the other, parted by nothing."""
    return [v for i, piece in enumerate(held) for v in ([None] if i else []) + values[piece]]


def match_columns(found: MatchOut) -> tuple[Sequence[str], Sequence[str | None], Sequence[Any]]:
    """A match as a table: names, units and values of columns."""
    rows = found.metrics
    return (
        ("quantity", "unit", "model", "test", "ratio", "accepted share", "verdict"),
        (None,) * 7,
        (
            [m.label for m in rows] + ["RMS deviation"],
            [m.unit or "1" for m in rows] + [found.deviation.unit or "1"],
            [_float(m.model) for m in rows] + [_float(found.deviation.rms)],
            [_float(m.test) for m in rows] + [float("nan")],
            [_float(m.ratio) for m in rows] + [float("nan")],
            [_float(m.limit) for m in rows] + [found.deviation.limit],
            [{True: "agrees", False: "does not agree", None: "information"}[m.accepted] for m in rows]
            + ["agrees" if found.deviation.accepted else "does not agree"],
        ),
    )


def _float(value: float | None) -> float:
    return float("nan") if value is None else value


class Agreement(Question):
    """A kept curve held against a kept test record, both by number or name."""

    kind: ClassVar[str] = "agreement"
    more: ClassVar[type[BaseModel]] = AgreementMore
    reach: ClassVar[Reach] = "kept"
    pairing: int | str
    test: int | str
    cycles: str = Field("", pattern=r"^[\d, ]*$", description="Numbers of the curve's cycles that are compared alone: 3, or 2,3.")

    def source(self, review: Review) -> ReviewSource:
        return review.result(by_name(review, PairingIn, self.pairing)[1].result)

    def answer(self, review: Review) -> Answer:
        pairing, spec = by_name(review, PairingIn, self.pairing)
        item, record = by_name(review, Record, self.test)
        found = match_of(review, pairing.id, item.id, self.cycles)
        names, units, values = match_columns(found)
        return Answer(
            kind=self.kind,
            sentence=f"{spec.name} against the test record {record.name}{said_of_cycles(numbers_of(self.cycles))}",
            columns=[
                Column(name=n, unit=u, values=[None if isinstance(v, float) and math.isnan(v) else v for v in column])
                for n, u, column in zip(names, units, values, strict=True)
            ],
            caveats=[*found.corrections, *found.notes],
            verdict=found.verdict,
            state=found.state,
            more={"agrees": found.agrees},
        )
