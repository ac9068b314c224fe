"""The same questions asked of several results, in one table: what each comes to, how far they spread, at what cost."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.curves.outliers import odd_one_out
from ironstone.core.errors import IronstoneError
from ironstone.core.field.loadings import computed
from ironstone.core.mesh.mesh import Float
from ironstone.core.units import conversion
from ironstone.core.words import listed
from ironstone.engine.base import Kept, Question, ask, question_of
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.compare.particulars import SideBySideMore
from ironstone.engine.reading.answers import number
from ironstone.engine.take import HOW, taken
from ironstone.engine.words import Strict
from ironstone.store import Review
from ironstone.store.source import ReviewSource

MOST = 60


class TableLine(Strict):
    """One line of the table: a question by its kind and words, and what is taken of its answer."""

    name: str = Field(min_length=1, max_length=200)
    kind: str
    words: dict[str, Any] = {}
    take: str = Field("highest", description=HOW)


class SideBySide(Question):
    """Chosen readings, resultants, curve figures and checks of many results side by side, with their spread, the one that stands
    apart, and what each run cost."""

    kind: ClassVar[str] = "side-by-side"
    more: ClassVar[type[BaseModel]] = SideBySideMore
    results: list[str] = Field([], max_length=200, description="Results by name or number; none: all of the review.")
    lines: list[TableLine] = Field(min_length=1, max_length=MOST)
    cost: bool = Field(True, description="Elements, nodes, steps, and what the files say of time and memory, below.")

    def others(self) -> list[str]:
        return self.results[1:]

    def source(self, review: Review) -> ReviewSource:
        return _result(review, self.results[0]) if self.results else review.result()

    def answer(self, review: Review) -> Answer:
        chosen = [_result(review, name) for name in self.results] or review.results()
        if len({r.id for r in chosen}) < 2:
            raise IronstoneError("A table of several results needs two or more.", "Choose them, or take another one in.")
        rows = [_row(review, line, chosen) for line in self.lines]
        costs = _costs(chosen) if self.cost else []
        said = [f"{r['name']}, {why}" for r in rows for why in r["refused"]]
        apart: dict[str, list[str]] = {}
        for row in rows:
            if row["odd"] is not None:
                apart.setdefault(chosen[row["odd"]].name, []).append(row["name"])
        odd = [f"{name} stands apart in {listed(what)}" for name, what in apart.items()]
        every = [*rows, *costs]
        return Answer(
            kind=self.kind,
            sentence=f"{len(self.lines)} quantities of {len(chosen)} results, side by side",
            columns=[
                Column(name="quantity", values=[r["name"] for r in every]),
                Column(name="unit", values=[r["unit"] for r in every]),
                *(Column(name=source.name, values=[r["values"][k] for r in every]) for k, source in enumerate(chosen)),
                Column(name="spread", values=[r["spread"] for r in every]),
                Column(name="stands apart", values=[None if r["odd"] is None else chosen[r["odd"]].name for r in every]),
            ],
            caveats=said,
            verdict="; ".join(odd) + "." if odd else "",
            state="doubt" if odd else "",
            more={"results": [r.name for r in chosen], "rows": rows, "costs": costs},
        )


def _result(review: Review, name: str) -> ReviewSource:
    known = review.results()
    return review.result(int(name) if name.isdigit() and not any(r.name == name for r in known) else name)


def _row(review: Review, line: TableLine, chosen: list[ReviewSource]) -> dict[str, Any]:
    """One question asked of each result. What cannot be answered of one is no value there, and says why."""
    values: list[float | None] = []
    places, refused, unit, sentence = [], [], None, ""
    for source in chosen:
        try:
            answer = ask(review, question_of(line.kind, {**line.words, "result": source.id}))
            found = taken(answer, line.take)
            value = found.value
            if unit is None:
                unit, sentence = found.unit, answer.sentence
            elif value is not None and found.unit != unit:
                # The first one's unit is that of the row.
                scale, offset = conversion(found.unit, unit)
                value = value * scale + offset
        except IronstoneError as error:
            value, found = None, None
            refused.append(f"{source.name}: {error}")
        values.append(number(value) if value is not None else None)
        places.append(found.place if found else "")
    known = _numbers(values)
    return {
        "name": line.name,
        "unit": unit or "",
        "sentence": sentence,
        "values": values,
        "places": places,
        "spread": _spread(known),
        "odd": odd_one_out(known),
        "refused": refused,
    }


def _numbers(values: Sequence[float | None]) -> Float:
    return np.array([np.nan if v is None else v for v in values], dtype=np.float64)


def _spread(values: Float) -> float | None:
    """Largest less smallest, as a share of the mean of their magnitudes; None of fewer than two."""
    known = values[np.isfinite(values)]
    size = float(np.abs(known).mean()) if len(known) else 0.0
    return float(np.ptp(known) / size) if len(known) > 1 and size > 0 else 0.0 if len(known) > 1 else None


def _costs(chosen: list[ReviewSource]) -> list[dict[str, Any]]:
    """What each run took: elements, unknowns (displacements of its nodes), steps, and single numbers its files say of it."""
    plain: dict[str, list[float | None]] = {
        "elements": [float(len(r.mesh.types)) for r in chosen],
        "nodes": [float(len(r.mesh.points)) for r in chosen],
        "steps": [float(len(computed(r.steps))) for r in chosen],
    }
    told: dict[str, list[float | None]] = {}
    for k, source in enumerate(chosen):
        for name, over_steps in source.stored_summary.get("totals", {}).items():
            if any(word in name.lower() for word in COSTS):
                known = [v for v in over_steps if v is not None]
                told.setdefault(name, [None] * len(chosen))[k] = float(known[-1]) if known else None
        for name, value in source.correction.get("cost", {}).items():
            told.setdefault(name, [None] * len(chosen))[k] = float(value)
    rows: list[dict[str, Any]] = []
    for name, values in {**plain, **told}.items():
        label, _, unit = name.partition("[")
        rows.append(
            {"name": label.strip().replace("_", " "), "unit": unit.rstrip("]"), "sentence": "what the run took", "values": values,
             "places": [""] * len(chosen), "spread": _spread(_numbers(values)), "odd": None, "refused": []}
        )  # fmt: skip
    return rows


COSTS = ("time", "memory", "increment", "iteration", "unknowns", "cost")


class Table(Kept):
    """A table of several results that is kept: its results and its lines, asked anew whenever it is looked at."""

    kind: ClassVar[str] = "table"
    name: str = Field(min_length=1, max_length=80)
    results: list[int] = []
    lines: list[TableLine] = Field(min_length=1, max_length=MOST)

    def check(self, review: Review) -> None:
        for line in self.lines:
            question_of(line.kind, line.words)

    def same(self, other: Kept) -> bool:
        return isinstance(other, Table) and other.name == self.name
