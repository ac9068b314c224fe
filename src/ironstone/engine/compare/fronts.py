"""A front followed through the steps, on the mesh of each: how far it has come, how long it is, how straight."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible
from ironstone.core.field.loadings import computed
from ironstone.core.geometry.region_borders import edge_of_surface, region_border
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.reading.front import Front, front, measured, region_at_least
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Resolved
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.compare.particulars import FrontMore
from ironstone.engine.reading.answers import number
from ironstone.engine.steps import steps_column
from ironstone.engine.words import ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Pieces of fronts that are told for drawing: of one in the plot, of all of them on the model.
DRAWN, ON_THE_MODEL = 3000, 6000
X = np.array([1.0, 0.0, 0.0])
Steps = list[tuple[Reading, ReviewSource]]
HOW = "Write three numbers, like 1,0,0."


class FollowedFront(ReadingWords, Question):
    """A front followed through the steps: its length (of solids its area), its way along a direction, its angle to straight across,
    and how far it is from a straight line (a plane). It is where a reading has a value, the border of the elements where it has at
    least that, or the edge of a surface."""

    kind: ClassVar[str] = "front"
    more: ClassVar[type[BaseModel]] = FrontMore
    value: float | None = Field(None, description="The value on the front.")
    border: Literal["", "region", "edge"] = Field(
        "",
        description="What the front is: where the reading has the value; the border of the elements whose mean is at least that; "
        "the edge of the surface that faces the way.",
    )
    along: str = Field("", max_length=200, description="The way it goes, X,Y,Z; none: from where it begins to where it ends.")

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        reading = self.reading()
        steps = list(computed(source.steps))
        at_steps = [(reading.at(s), source.at(s)) for s in steps]
        along, found = self._edges(at_steps) if self.border == "edge" else self._fronts(at_steps)
        there = [f for f in found if f is not None]
        resolved = resolve(reading.at(steps[0]), source)
        length = source.system.length
        size = ("length", length) if there[0].pieces.shape[1] == 2 else ("area", f"{length}²")
        begin = there[0].mean
        columns = [
            steps_column(source),
            _column(size[0], size[1], [None if f is None else f.size for f in found]),
            _column("way", length, [None if f is None else f.mean for f in found]),
            _column("least", length, [None if f is None else f.least for f in found]),
            _column("most", length, [None if f is None else f.most for f in found]),
            _column("come since it began", length, [None if f is None else f.mean - begin for f in found]),
            _column("angle", "deg", [None if f is None else f.angle for f in found]),
            _column("off straight", length, [None if f is None else f.away for f in found]),
        ]
        run = there[-1].mean - begin
        angle, away = max(f.angle for f in there), max(f.away for f in there)
        words = ", ".join(f"{v:.3g}" for v in along)
        return Answer(
            kind=self.kind,
            sentence=f"{self._what(resolved)}, through the steps, along ({words})",
            unit=length,
            columns=columns,
            figures=[
                Figure(label="come since it began", value=number(run), unit=length, how=f"its middle, along ({words})"),
                Figure(label="largest angle", value=number(angle), unit="deg", how="to straight across the way"),
                Figure(label="farthest off straight", value=number(away), unit=length, how="RMS from the line that fits it best"),
            ],
            caveats=self._said(source, found),
            verdict=f"It came {run:.4g} {length} along ({words}), at most {angle:.2g}° from straight across "
            f"and {away:.2g} {length} off a straight line.",
            more={
                "along": along.tolist(),
                "fronts": [_drawn(source, s, f, along, len(steps)) for s, f in zip(steps, found, strict=True)],
            },
        )

    def _fronts(self, at_steps: Steps) -> tuple[Float, list[Front | None]]:
        """The way, and the front at each step: where the reading has the value, or the border of where it is at least that."""
        if self.value is None:
            raise Impossible("A front needs the value it is at.", "State one between the lowest and highest of the reading.")
        # The direction is that of the way of its middle: any will do to find that.
        rough = [self._front(reading, source, self.value) for reading, source in at_steps]
        if not any(rough):
            more = "is there a border of a region where it is at least" if self.border else "is it"
            raise Impossible(f"Nowhere at any step {more} {self.value:g}.", "Choose a value between its lowest and highest.")
        along = _direction(self.along, [None if f is None else f.middle for f in rough], _reach(rough))
        return along, [None if r is None else measured(r.pieces, along) for r in rough]

    def _front(self, reading: Reading, source: ReviewSource, value: float) -> Front | None:
        if not self.border:
            return front(reading, source, value, X)
        pieces = region_border(source.mesh, *region_at_least(reading, source, value))
        return measured(pieces, X) if len(pieces) else None

    def _edges(self, at_steps: Steps) -> tuple[Float, list[Front | None]]:
        """The way, and the edge of the surface that faces it at each step; unless stated, the way of its middle."""
        middles = [_middle_of(source.mesh) for _, source in at_steps]
        along = _direction(self.along, middles, at_steps[0][1].mesh.size)
        edges = [edge_of_surface(source.mesh, np.ones(len(source.mesh.types), dtype=bool), along) for _, source in at_steps]
        if not any(len(e) for e in edges):
            raise Impossible("No edge of the surface faces this way.", "State another direction, like 1,0,0.")
        return along, [measured(pieces, along) if len(pieces) else None for pieces in edges]

    def _what(self, resolved: Resolved) -> str:
        if self.border == "edge":
            return "the edge of the surface"
        reading = resolved.sentence(with_step=False)
        return f"the border of where {reading} is at least {self.value:g}" if self.border else f"where {reading} is {self.value:g}"

    def _said(self, source: ReviewSource, found: list[Front | None]) -> list[str]:
        absent = sum(f is None for f in found)
        said = [f"At {absent} of {len(found)} steps there is no front."] if absent else []
        if self.border == "region":
            said.append("It runs along borders of elements: it is as fine as they are.")
        if source.meshes:
            said.append(f"The mesh changes: each step is read on its own ({len(set(source.meshes))} meshes).")
        return said


def _middle_of(mesh: Mesh) -> Float:
    """The middle of a surface, (3,), by area."""
    found: Float = mesh.volumes @ mesh.middles(np.arange(len(mesh.types))) / max(float(mesh.volumes.sum()), 1e-300)
    return found


def _reach(found: list[Front | None]) -> float:
    return max((float(np.ptp(f.pieces.reshape(-1, 3), axis=0).max()) for f in found if f is not None), default=0.0)


def _direction(text: str, middles: Sequence[Float | None], reach: float) -> Float:
    """The unit direction that is stated, else the way of the middle from its first step to its last. reach: how large it is."""
    if text:
        try:
            way = np.array([float(v) for v in text.split(",")])
        except ValueError as error:
            raise Impossible(f"'{text}' is no direction.", HOW) from error
        if way.shape != (3,) or not np.isfinite(way).all() or not np.linalg.norm(way):
            raise Impossible(f"'{text}' is no direction.", HOW)
        stated: Float = way / np.linalg.norm(way)
        return stated
    there = [m for m in middles if m is not None]
    way = there[-1] - there[0] if there else np.zeros(3)
    length = float(np.linalg.norm(way))
    if length <= 1e-6 * max(reach, 1e-300):
        raise Impossible("The front does not move: there is no way to follow it along.", "State a direction, like 1,0,0.")
    unit: Float = way / length
    return unit


def _column(name: str, unit: str, values: list[float | None]) -> Column:
    return Column(name=name, unit=unit, values=[None if v is None else number(v) for v in values])


def _drawn(source: ReviewSource, step: int, found: Front | None, along: Float, count: int) -> dict[str, object]:
    """The lines of one of ``count`` fronts in the plane of its way (x) and across (y), pieces parted by a missing number; and where
    they are in the body, both ends of each piece one after the other."""
    label = source.steps[step].label
    if found is None or found.pieces.shape[1] != 2:
        return {"step": step, "label": label, "x": [], "y": [], "ends": []}
    third = np.array([0.0, 0.0, 1.0]) if abs(along[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
    across = np.cross(third, along)
    across /= np.linalg.norm(across)
    stride = max(1, len(found.pieces) // DRAWN)
    x: list[float | None] = []
    y: list[float | None] = []
    for piece in found.pieces[::stride]:
        x += [*(piece @ along).tolist(), None]
        y += [*(piece @ across).tolist(), None]
    whole = max(1, len(found.pieces) * count // ON_THE_MODEL)
    ends = np.round(found.pieces[::whole].ravel(), 9).tolist()
    return {"step": step, "label": label, "x": x, "y": y, "ends": ends}
