"""Modes of two results, or of a model and a test, held against each other by their shapes (MAC)."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import IronstoneError
from ironstone.core.field.fields import Source
from ironstone.core.mesh.mesh import Float
from ironstone.core.motion.common import Common, at_common_places, flat, modes_of, without_gaps
from ironstone.core.motion.modes import near_equal
from ironstone.core.motion.shapes import ALIKE, Pair, mac, pairs
from ironstone.core.verdicts import AGREES, DOUBTFUL, FAILS, State, state_of, worst_of
from ironstone.core.words import listed
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.motion.particulars import MacMore
from ironstone.engine.reading.answers import number
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource

# A pair that does not agree is doubtful down to this MAC (common practice, no source).
NOT_UNLIKE = 0.70
# Frequencies agree within this share, and are doubtful within twice that.
CLOSE = 0.05
# So far beyond the other's frequencies a mode has no counterpart to be looked for.
REACH = 0.1


class Mac(Question):
    """Modes of a result against those of another, or measured ones, by shape (MAC): the matrix, pairs whatever their numbers,
    deviations of frequency, what has no counterpart."""

    kind: ClassVar[str] = "mac"
    more: ClassVar[type[BaseModel]] = MacMore
    other: str = Field(min_length=1, max_length=200, description="The result whose modes are held against, by name or number.")
    loading: str = Field("", max_length=200, description="Of the first result, one set of modes by its loading.")
    other_loading: str = Field("", max_length=200, description="Of the other result, one set of modes by its loading.")
    alike: float = Field(ALIKE, gt=0, le=1, description="MAC from which on two shapes agree.")
    close: float = Field(CLOSE, gt=0, le=1, description="Share within which two frequencies agree.")

    def others(self) -> list[str]:
        return [self.other]

    def answer(self, review: Review) -> Answer:
        mine = self.source(review)
        return self.held_against(mine, mine.other(self.other))

    def against_file(self, review: Review, path: Path) -> Answer:
        """The same against the modes in a file, which is read for it and not kept."""
        mine = self.source(review)
        with TemporaryDirectory() as folder, Review.create(Path(folder) / "held_against.ironstone") as other:
            intake(other, [path], None, mine.system.name)
            return self.held_against(mine, other.result())

    def held_against(self, mine: ReviewSource, theirs: Source) -> Answer:
        """The modes of one result against those of another, of this review or not."""
        steps, others = modes_of(mine, self.loading), modes_of(theirs, self.other_loading)
        if theirs is mine and steps == others:
            raise IronstoneError("A result's modes are held against those of another.", "Name another result or another loading.")
        common = at_common_places(mine, steps, theirs, others)
        first, second = without_gaps(flat(common.first), flat(common.second))
        own = np.array([mine.steps[s].value for s in steps])
        their = np.array([theirs.steps[s].value for s in others])
        found = pairs(first, second, near_equal(own), near_equal(their))
        kept = _in_order([p.other for p in found])
        rows = [self._row(p, own, their, k in kept) for k, p in enumerate(found)]
        verdict = worst_of([r["verdict"] for r in rows])
        unseen = [[k + 1 for k in of] for of in common.unseen]
        alone = [k for k in _alone(own, {p.of for p in found}, their) if k not in unseen[0]]
        their_alone = [k for k in _alone(their, {p.other for p in found}, own) if k not in unseen[1]]
        state = state_of(verdict) if rows else "bad"
        return Answer(
            kind=self.kind,
            sentence=f"modes of {mine.name} against those of {theirs.name} by shape (MAC), {common.how}",
            columns=[
                Column(name="mode", values=[r["of"] for r in rows]),
                Column(name="frequency", unit="Hz", values=[float(own[p.of]) for p in found]),
                Column(name="with mode", values=[r["with"] for r in rows]),
                Column(name="its frequency", unit="Hz", values=[float(their[p.other]) for p in found]),
                Column(name="MAC", values=[r["mac"] for r in rows]),
                Column(name="deviation of frequency", values=[r["deviation"] for r in rows]),
                Column(name="remark", values=[_remark(r) for r in rows]),
                Column(name="verdict", values=[r["verdict"] for r in rows]),
            ],
            figures=_figures(rows),
            caveats=_said(common, (alone, their_alone), unseen, (mine.name, theirs.name)),
            verdict=_verdict(rows, verdict, len(alone), len(their_alone)),
            state=_with_those_alone(state, bool(alone or their_alone)),
            more={
                "matrix": [[number(v) for v in row] for row in mac(first, second).tolist()],
                "pairs": rows,
                "of_frequencies": own.tolist(),
                "with_frequencies": their.tolist(),
                "of_alone": alone,
                "with_alone": their_alone,
            },
        )

    def _row(self, pair: Pair, own: Float, their: Float, in_order: bool) -> dict[str, Any]:
        to = float(their[pair.other])
        deviation = (float(own[pair.of]) - to) / to if to > 0.0 else None
        shape = AGREES if pair.mac >= self.alike else DOUBTFUL if pair.mac >= min(NOT_UNLIKE, self.alike) else FAILS
        off = abs(deviation) if deviation is not None else 0.0
        frequency = AGREES if off <= self.close else DOUBTFUL if off <= 2 * self.close else FAILS
        return {
            "of": pair.of + 1,
            "with": pair.other + 1,
            "mac": pair.mac,
            "deviation": deviation,
            "together": pair.together,
            "reversed": pair.reversed,
            "crossed": not in_order,
            "verdict": worst_of([shape, frequency]),
        }


def _remark(row: dict[str, Any]) -> str:
    said = ["out of order"] if row["crossed"] else []
    if row["reversed"]:
        said.append("sign reversed")
    if row["together"]:
        said.append("with the near-equal as one")
    return ", ".join(said)


def _figures(rows: list[dict[str, Any]]) -> list[Figure]:
    off = [abs(r["deviation"]) for r in rows if r["deviation"] is not None]
    return [
        Figure(label="lowest MAC of a pair", value=min((r["mac"] for r in rows), default=None)),
        Figure(label="largest deviation of frequency", value=max(off, default=None), how="as a share of the other's"),
    ]


def _alone(own: Float, paired: set[int], their: Float) -> list[int]:
    """Numbers of the modes without a counterpart, of those whose frequency the other set covers."""
    low, high = float(their.min()) * (1 - REACH), float(their.max()) * (1 + REACH)
    return [k + 1 for k, f in enumerate(own.tolist()) if k not in paired and low <= f <= high]


def _in_order(others: list[int]) -> set[int]:
    """Positions of a longest run of pairs, not necessarily side by side, in which the numbers of the other rise: all else is out of
    order."""
    longest: list[list[int]] = []
    for k, other in enumerate(others):
        found: list[int] = []
        for run in longest:
            if others[run[-1]] < other and len(run) > len(found):
                found = run
        longest.append([*found, k])
    most = max((len(run) for run in longest), default=0)
    return next((set(run) for run in longest if len(run) == most), set())


def _said(common: Common, alone: tuple[list[int], list[int]], unseen: list[list[int]], names: tuple[str, str]) -> list[str]:
    said = list(common.notes)
    for numbers, hidden, of in zip(alone, unseen, names, strict=True):
        if numbers:
            said.append(f"{_numbered(numbers)} of '{of}' {'has' if len(numbers) == 1 else 'have'} no counterpart.")
        if hidden:
            said.append(f"{_numbered(hidden)} of '{of}' {'moves' if len(hidden) == 1 else 'move'} along what was not measured.")
    return said


def _numbered(numbers: list[int]) -> str:
    return f"{'Mode' if len(numbers) == 1 else 'Modes'} {listed(str(n) for n in numbers)}"


def _verdict(rows: list[dict[str, Any]], verdict: str, alone: int, their_alone: int) -> str:
    if not rows:
        return "No mode of one is like any of the other."
    agree = sum(r["verdict"] == AGREES for r in rows)
    told = f"{agree} of {len(rows)} pairs agree in shape and frequency"
    left = f", {alone + their_alone} without a counterpart" if alone or their_alone else ""
    worst = (
        ""
        if verdict == AGREES
        else ": " + listed(f"{r['of']} with {r['with']} {r['verdict']}" for r in rows if r["verdict"] != AGREES)
    )
    return f"{told}{worst}{left}."


def _with_those_alone(state: State, alone: bool) -> State:
    return "doubt" if state == "good" and alone else state
