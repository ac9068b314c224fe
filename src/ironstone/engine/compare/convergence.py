"""A reading over several meshes of one body: what it comes to as the mesh is refined."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.curves.convergence import Convergence, converge
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.reading.elsewhere import same_moment
from ironstone.core.verdicts import State
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.compare.particulars import ConvergeMore
from ironstone.engine.reading.answers import read
from ironstone.engine.statics.balance import same_body
from ironstone.engine.steps import find_step
from ironstone.engine.words import ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource

STATES: dict[str, State] = {"settles": "good", "not yet": "doubt", "grows": "bad", "not monotonic": "doubt"}


class Converge(ReadingWords, Question):
    """A reading over three or more meshes of one body: order, extrapolated value with its band, and whether it settles."""

    kind: ClassVar[str] = "converge"
    more: ClassVar[type[BaseModel]] = ConvergeMore
    results: list[str] = Field([], max_length=20, description="The results, one a mesh; none: all that hold the same body.")
    step: int | str = "last"
    at: str | None = None
    extremes: bool = Field(False, description="The highest over the model; the lowest with take=lowest.")
    take: Literal["highest", "lowest"] = "highest"
    size: Literal["length", "unknowns"] = Field("length", description="What the meshes are told apart by.")

    def source(self, review: Review) -> ReviewSource:
        return super().source(review) if not self.results else _named(review, self.results[0])

    def others(self) -> list[str]:
        return self.results[1:]

    def _meshes(self, review: Review) -> list[tuple[ReviewSource, int]]:
        """The results of the study, each with its step: the one at the same moment as that of the first."""
        first = self.source(review)
        step = find_step(first, self.step)
        if not self.results:
            # Of several results on meshes of one size the one in view, else the newest.
            by_size = {_size(s, self.size): (s, at) for s, at in same_body(review, first, step)}
            return list((by_size | {_size(first, self.size): (first, step)}).values())
        others = [_named(review, name) for name in self.results[1:]]
        if len({s.id for s in (first, *others)}) <= len(others):
            raise IronstoneError("One result is named twice.", "Name each mesh once.")
        return [(first, step), *((s, self._moment(first, step, s)) for s in others)]

    def _moment(self, first: ReviewSource, step: int, other: ReviewSource) -> int:
        """The step of another result: of the same name ('last'), else at the same moment. Raises Impossible where it has none."""
        if not isinstance(self.step, int):
            return find_step(other, self.step)
        try:
            return same_moment(first.steps[step], other)
        except Impossible as error:
            raise Impossible(error.message, "Leave it out, or choose a step that all of them have.") from error

    def answer(self, review: Review) -> Answer:
        if (self.at is None) == (not self.extremes):
            raise IronstoneError("A value is to be named: a place, or the extremes.", "Name one of them.")
        told = sorted(((_size(s, self.size), s, *self._value(s, step)) for s, step in self._meshes(review)), key=lambda t: -t[0])
        units = {unit for *_, unit, _, _ in told}
        if len(units) > 1:
            raise IronstoneError(
                f"The results have different units: {', '.join(sorted(units))}.", "Name the unit they are to be told in: unit=MPa."
            )
        sizes, values = [t[0] for t in told], [t[2] for t in told]
        unit, sentence = told[-1][3], told[-1][4]
        if len(set(sizes)) < len(sizes):
            raise Impossible("Two of these results have meshes of one size.", "Take one of them.")
        found = converge(sizes, [np.nan if v is None else v for v in values])
        return Answer(
            kind=self.kind,
            sentence=f"{sentence}, over {len(told)} meshes",
            unit=unit,
            columns=[
                Column(name="result", values=[t[1].name for t in told]),
                Column(name="size of elements", unit=told[0][1].system.length, values=list(sizes)),
                Column(name="elements", values=[len(t[1].mesh.types) for t in told]),
                Column(name="nodes", values=[len(t[1].mesh.points) for t in told]),
                Column(name="value", unit=unit, values=list(values)),
            ],
            figures=_figures(found, unit),
            caveats=list(dict.fromkeys(c for t in told for c in t[5])),
            verdict=_words(found, unit),
            state=STATES.get(found.verdict, ""),
            more={
                "results": [t[1].name for t in told],
                "sizes": list(sizes),
                "values": list(values),
                "order": found.order,
                "extrapolated": found.extrapolated,
                "band": found.band,
                "verdict": found.verdict,
                "exponent": found.exponent,
            },
        )

    def _value(self, source: ReviewSource, step: int) -> tuple[float | None, str, str, list[str]]:
        """The reading of one result, its unit, its sentence and what is to be said of it."""
        reply = read(self.reading().at(step), source.at(step), self.at, with_extremes=self.extremes)
        if self.extremes:
            end = reply["max" if self.take == "highest" else "min"]
            return end and end["value"], reply["unit"], f"{self.take} {reply['sentence']}", reply["caveats"]
        rows = reply["values"]
        if len(rows) != 1:
            raise Impossible(
                f"{len(rows)} values meet there in '{source.name}', and a mesh is to have one.",
                "Name a point, average over the elements that meet, or take the extremes.",
            )
        return rows[0]["value"], reply["unit"], f"{reply['sentence']}, at {self.at}", reply["caveats"]


def _named(review: Review, name: str) -> ReviewSource:
    return review.result(int(name) if name.isdigit() and all(r.name != name for r in review.results()) else name)


def _size(source: ReviewSource, by: str) -> float:
    """Size of the elements of a mesh: the side of a cube (square, line) as large as the mean one; of unknowns that of as many cells
    as there are nodes."""
    mesh = source.mesh
    most = int(mesh.dimensions.max())
    body = mesh.dimensions == most
    count = int(body.sum()) if by == "length" else len(mesh.points)
    size = float((mesh.volumes[body].sum() / count) ** (1.0 / max(most, 1)))
    if not size > 0.0:
        raise Impossible(f"The elements of '{source.name}' have no size.", "Take results whose meshes have lines, faces or solids.")
    return size


def _figures(found: Convergence, unit: str) -> list[Figure]:
    told = [
        Figure(label="extrapolated", value=found.extrapolated, unit=unit, how="to elements of no size (Richardson)"),
        Figure(label="band", value=found.band, unit=unit, how="either way; 1.25 times what is left (Roache)"),
        Figure(label="observed order", value=found.order, how="of the three finest meshes"),
        Figure(label="exponent of growth", value=found.exponent, how="of the size of elements, over all meshes"),
    ]
    return [f for f in told if f.value is not None]


_SAID = {
    "not yet": "It has not settled yet, and too little is seen of where to: refine once more.",
    "grows": "It grows without end as the mesh is refined, as at a sharp corner or under a point load: no mesh has it.",
    "not monotonic": "It goes up and down from mesh to mesh: nothing can be extrapolated.",
    "too few": "Too few meshes to say where it goes: three are needed.",
}


def _words(found: Convergence, unit: str) -> str:
    if found.extrapolated is None or found.band is None:
        return _SAID[found.verdict]
    told = f"{found.extrapolated:.4g} {unit}".rstrip() + ", within " + f"{found.band:.2g} {unit}".rstrip()
    if found.verdict == "settles":
        return f"It settles: {told} either way."
    return f"It has not settled yet: extrapolated {told}; refine once more."
