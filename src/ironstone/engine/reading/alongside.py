"""Bodies, surfaces and lines of other results in the picture of a result: what goes with it, each in colours of its own."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.core.field.moved import moved_nodes
from ironstone.core.geometry.surface import Look, Surface, skin
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.units import conversion
from ironstone.engine.base import Kept
from ironstone.engine.compare.moments import matched_step
from ironstone.engine.reading.answers import number
from ironstone.engine.reading.cuts import stated_reading
from ironstone.engine.reading.drawing import base_of, surface
from ironstone.engine.words import ReadingQuery, ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# The radius of a line that goes with a body, as a share of the body's size.
THICK = 0.005
Shows = Literal["plain", "reading", "own"]


class AlongsideIn(Kept):
    """Another result in the picture of one, at the step that goes with the one in view: a surface that goes with a body."""

    kind: ClassVar[str] = "alongside"
    result: int
    other: int = Field(description="The result that is shown too.")
    shows: Shows = Field("plain", description="One colour, the reading in view, or a reading of its own.")
    own: ReadingWords | None = Field(None, description="The reading of its own that it shows.")
    tone: int = Field(0, ge=0, le=23, description="Which of the colours of lines it has where it is plain.")
    edges: bool = Field(True, description="Borders of its elements.")
    on: bool = True

    def check(self, review: Review) -> None:
        if self.other == self.result:
            raise Impossible("A result is in its own picture already.", "Choose another result.")
        review.result(self.result)
        other = review.result(self.other)
        if self.shows == "own" and self.own is None:
            raise Impossible(f"'{other.name}' is to show a reading of its own, and has none.", "Give own.field and own.measure.")
        if self.own is not None:
            resolve(self.own.reading(), other)

    def same(self, other: Kept) -> bool:
        return isinstance(other, AlongsideIn) and (other.result, other.other) == (self.result, self.other)

    def made(self) -> str:
        return "Result shown along with another"

    def gone(self) -> str:
        return "Result no longer shown along with another"


class AlongsideQuery(ReadingQuery):
    """What is drawn of another result along with one: the reading in view, and what the other shows."""

    other: int
    shows: Shows = "plain"
    shown: str = Field("", description="Words of the reading of its own, as JSON.")
    edges: bool = True


def drawn_alongside(review: Review, source: ReviewSource, query: AlongsideQuery) -> tuple[dict[str, Any], dict[str, Any]]:
    """What is drawn of another result in this one's picture, in this one's unit of length: a head that says what it is and at which
    step, positions (from its origin on), displacement and values of triangles, and of the borders of elements."""
    other, step, same = at_the_step_in_view(review, source, query)
    mesh = other.mesh
    scale = conversion(other.system.length, source.system.length)[0]
    drawn = surface(other, Look()) if (mesh.dimensions > 1).any() else _lines(mesh, THICK * source.mesh.size / scale)
    nodal = moved_nodes(other, step, query.phase)
    moved = scale * positions(mesh, drawn.vertices, np.zeros_like(mesh.points) if nodal is None else nodal)
    origin = scale * mesh.middle
    points = scale * drawn.points - origin
    reading = shown_reading(source, query)
    values = np.full(len(points), np.nan)
    head: dict[str, Any] = {
        "origin": origin.tolist(),
        "of": other.name,
        "shown": "",
        "unit": "",
        "own": query.shows == "own",
        "step": other.steps[step].label,
        "same": same,
        "base": 0.0,
        "low": None,
        "high": None,
        "said": "",
        "triangles": len(drawn.triangles),
    }
    if reading is not None and query.shows == "reading":
        try:
            resolve(reading.at(step), other)
        except IronstoneError as error:
            # What it lacks of the reading in view it is shown without.
            reading, head["said"] = None, str(error)
    if reading is not None:
        answer = evaluate(reading.at(step), other, drawn.vertices)
        values = answer.values
        there = values[np.isfinite(values)]
        head |= {"shown": answer.resolved.sentence(), "unit": answer.unit, "base": base_of(values)}
        head |= {"low": number(float(there.min())), "high": number(float(there.max()))} if len(there) else {}
    faces, borders = drawn.triangles.ravel(), (drawn.edges if query.edges else drawn.outline).ravel()
    arrays: dict[str, Float] = {
        "positions": points[faces],
        "displacement": moved[faces],
        "values": values[faces] - head["base"],
        "border_positions": points[borders],
        "border_displacement": moved[borders],
    }
    return head, arrays


def _lines(mesh: Mesh, radius: float) -> Surface:
    """Lines as tubes of a radius that is seen beside the body."""
    return skin(mesh, Look(solid=True), area=np.full(len(mesh.types), np.pi * radius**2))


def at_the_step_in_view(review: Review, source: ReviewSource, query: AlongsideQuery) -> tuple[ReviewSource, int, bool]:
    """The other result at the step that goes with the one in view, that step, and whether it is the same moment."""
    try:
        whole = review.result(query.other)
    except NotFound as error:
        raise NotFound("What was shown along with it is not in the review any more.", "Undo brings it back.") from error
    step, same = matched_step(source, query.step, whole)
    return whole.at(step), step, same


def shown_reading(source: ReviewSource, query: AlongsideQuery) -> Reading | None:
    """What the other result shows: nothing, the reading in view in its unit, or one of its own."""
    if query.shows == "plain":
        return None
    if query.shows == "own":
        return stated_reading(query.shown).reading()
    mine = query.reading()
    return replace(mine, unit=resolve(mine, source).unit)
