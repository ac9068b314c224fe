"""One profile of several results: the same reading along the same line asked of each, and how far each is from the first."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.curves.agreement import Limits, deviation_of
from ironstone.core.curves.curves import Curve
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.line_elsewhere import line_elsewhere, sided
from ironstone.core.reading.reading import Reading
from ironstone.engine.base import Question, readable
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.compare.moments import matched_step
from ironstone.engine.reading.answers import number
from ironstone.engine.reading.particulars import ProfilesOfMore
from ironstone.engine.reading.profiles import AlongLine, LineWords, PathIn, profile_answer
from ironstone.engine.steps import find_step
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class ProfilesOf(AlongLine, Question):
    """A reading along a line, of several results: at the step that goes with this one, along the path of the same name or, where
    a result has none, along the same line; nodes of a line are found by place. Each is held against the first, RMS and largest
    deviation."""

    kind: ClassVar[str] = "profiles-of"
    more: ClassVar[type[BaseModel]] = ProfilesOfMore
    results: list[str] = Field(min_length=1, max_length=30, description="The other results, by name or number.")

    def others(self) -> list[str]:
        return self.results

    def answer(self, review: Review) -> Answer:
        line = self.line(review)
        source = self.source(review)
        reading = self.reading().at(find_step(source, self.step))
        first = profile_answer(reading, source, line, self.distance, self.shape)
        found = [self._of_one(review, source, reading, line, first, name) for name in self.results]
        found = [f for f in found if f["id"] != source.id]
        rows = [f for f in found if not f["error"]]
        return Answer(
            kind=self.kind,
            sentence=f"{first['sentence']}; of {source.name} and {len(rows)} more",
            unit=first["unit"],
            columns=[
                Column(name="result", values=[f["result"] for f in found]),
                Column(name="largest, ratio", unit="", values=[f["ratio"] for f in found]),
                Column(name="RMS deviation", unit="", values=[f["deviation"] for f in found]),
                Column(name="largest deviation", unit=first["unit"], values=[f["largest"] for f in found]),
                Column(name="at", unit=first["x_unit"], values=[f["largest_at"] for f in found]),
                Column(name="verdict", values=[f["verdict"] or f["error"] for f in found]),
            ],
            caveats=[
                *first["caveats"],
                *(f"{f['result']}: {f['error']}" for f in found if f["error"]),
                *(f"{f['result']}: {note}" for f in rows for note in f["notes"]),
            ],
            verdict="; ".join(f"{f['result']}: {f['verdict']}" for f in rows),
            state="" if not rows else "good" if all(f["state"] == "good" for f in rows) else "doubt",
            more={"x": first["x"], "y": first["y"], "x_unit": first["x_unit"], "lead": first["lead"], "profiles": found},
        )

    def _of_one(
        self, review: Review, source: ReviewSource, reading: Reading, line: LineWords, first: dict[str, Any], name: str
    ) -> dict[str, Any]:
        """The profile of another result in the units of the first, and how far it is from that; or why it has none."""
        other = review.result(int(name) if name.isdigit() and not any(r.name == name for r in review.results()) else name)
        reply: dict[str, Any] = {"id": other.id, "result": other.name, "x": [], "y": [], "ratio": None, "deviation": None}
        reply |= {"largest": None, "largest_at": None, "verdict": "", "state": "", "error": "", "notes": []}
        try:
            step, same = matched_step(source, reading.step, other)
            theirs = other.at(step)
            words, notes = _line_there(review, line, source, theirs)
            told = profile_answer(reading.at(step), theirs, words, self.distance, self.shape)
            curve = _curve(told).in_units(first["x_unit"], first["unit"])
        except IronstoneError as error:
            return reply | {"error": f"{error.message} {error.hint}".strip()}
        if not same:
            notes.append(f"read at {theirs.steps[step].label}, which is not the same moment")
        reply |= {"x": curve.x.tolist(), "y": [number(v) for v in curve.y], "notes": [*notes, *curve.notes]}
        return reply | held_against(_curve(first), curve)


def _line_there(review: Review, line: LineWords, source: ReviewSource, other: ReviewSource) -> tuple[LineWords, list[str]]:
    """The line in another result: its own path of that name, else the same line."""
    if isinstance(line, PathIn):
        own = [p for _, p in readable(review, PathIn, other.id) if (p.result, p.name) == (other.id, line.name)]
        if own:
            return own[0], []
    if source.system.length != other.system.length:
        raise IronstoneError(
            f"Its lengths are in {other.system.length}, the line is written in {source.system.length}.",
            "Keep a path of the same name there.",
        )
    path, notes = line_elsewhere(line.path, source.mesh, other.mesh, other.system.length)
    words = line.model_dump(include=set(LineWords.model_fields))
    return LineWords(**{**words, "path": path}), notes


def _curve(told: dict[str, Any]) -> Curve:
    y = np.array([np.nan if v is None else v for v in told["y"]], dtype=np.float64)
    return Curve(np.array(told["x"], dtype=np.float64), y, told["x_unit"], told["unit"], "distance", told["lead"])


def held_against(first: Curve, other: Curve) -> dict[str, Any]:
    """How far another profile is from the first, at the other's samples, each side of a border for itself; ratio: the first's
    largest magnitude over the other's."""
    x = sided(other.x)
    expected = np.interp(x, sided(first.x), first.y, left=np.nan, right=np.nan)
    there = np.isfinite(expected) & np.isfinite(other.y)
    if there.sum() < 2:
        return {"verdict": "not comparable: the two lines have no place in common", "state": "doubt"}
    found = deviation_of(x[there], other.y[there], expected[there], first, Limits())
    low, high = _largest(other.y), _largest(first.y)
    # Where both are nothing there is nothing to be a share of.
    agrees = found.accepted or not found.rms
    said = f"RMS deviation {found.percent} of its largest value, limit {100 * found.limit:g} %" if found.rms else "no deviation"
    return {
        "ratio": high / low if low else None,
        "deviation": number(found.share),
        "largest": number(found.largest),
        "largest_at": number(found.largest_at_x),
        "verdict": f"{'agrees' if agrees else 'does not agree'} with this one: {said}",
        "state": "good" if agrees else "doubt" if found.share <= 2 * found.limit else "bad",
    }


def _largest(values: Float) -> float:
    return float(np.nanmax(np.abs(values), initial=0.0))
