"""A front followed through the steps, on the mesh of each: how far it has come, how long it is, how straight."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible
from ironstone.core.field.loadings import computed
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.front import Front, front, measured
from ironstone.core.reading.resolve import resolve
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.compare.particulars import FrontMore
from ironstone.engine.reading.answers import number
from ironstone.engine.steps import steps_column
from ironstone.engine.words import ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Pieces of a front that are told for drawing.
DRAWN = 3000
HOW = "Write three numbers, like 1,0,0."


class FollowedFront(ReadingWords, Question):
    """Where a reading has a value, followed through the steps: its length (of solids its area), its way along a direction, its
    angle to straight across, and how far it is from a straight line (a plane)."""

    kind: ClassVar[str] = "front"
    more: ClassVar[type[BaseModel]] = FrontMore
    value: float = Field(description="The value on the front.")
    along: str = Field("", max_length=200, description="The way it goes, X,Y,Z; none: from where it begins to where it ends.")

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        reading = self.reading()
        steps = list(computed(source.steps))
        # The direction is that of the way of its middle: any will do to find that.
        rough = [front(reading.at(s), source.at(s), self.value, np.array([1.0, 0.0, 0.0])) for s in steps]
        if not any(rough):
            raise Impossible(f"It is {self.value:g} nowhere at any step.", "Choose a value between its lowest and highest.")
        along = _direction(self.along, rough)
        found = [None if r is None else measured(r.pieces, along) for r in rough]
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
            sentence=f"where {resolved.sentence(with_step=False)} is {self.value:g}, through the steps, along ({words})",
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
            more={"along": along.tolist(), "fronts": [_drawn(source, s, f, along) for s, f in zip(steps, found, strict=True)]},
        )

    def _said(self, source: ReviewSource, found: list[Front | None]) -> list[str]:
        absent = sum(f is None for f in found)
        said = [f"At {absent} of {len(found)} steps it has this value nowhere."] if absent else []
        if source.meshes:
            said.append(f"The mesh changes: each step is read on its own ({len(set(source.meshes))} meshes).")
        return said


def _direction(text: str, found: list[Front | None]) -> Float:
    """The unit direction that is stated, else the way of the front's middle from its first step to its last."""
    if text:
        try:
            way = np.array([float(v) for v in text.split(",")])
        except ValueError as error:
            raise Impossible(f"'{text}' is no direction.", HOW) from error
        if way.shape != (3,) or not np.isfinite(way).all() or not np.linalg.norm(way):
            raise Impossible(f"'{text}' is no direction.", HOW)
        stated: Float = way / np.linalg.norm(way)
        return stated
    there = [f for f in found if f is not None]
    way = there[-1].middle - there[0].middle if there else np.zeros(3)
    length = float(np.linalg.norm(way))
    reach = max((float(np.ptp(f.pieces.reshape(-1, 3), axis=0).max()) for f in there), default=0.0)
    if length <= 1e-6 * max(reach, 1e-300):
        raise Impossible("The front does not move: there is no way to follow it along.", "State a direction, like 1,0,0.")
    unit: Float = way / length
    return unit


def _column(name: str, unit: str, values: list[float | None]) -> Column:
    return Column(name=name, unit=unit, values=[None if v is None else number(v) for v in values])


def _drawn(source: ReviewSource, step: int, found: Front | None, along: Float) -> dict[str, object]:
    """The lines of a front in the plane of its way (x) and across (y), pieces parted by a missing number."""
    label = source.steps[step].label
    if found is None or found.pieces.shape[1] != 2:
        return {"step": step, "label": label, "x": [], "y": []}
    third = np.array([0.0, 0.0, 1.0]) if abs(along[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
    across = np.cross(third, along)
    across /= np.linalg.norm(across)
    stride = max(1, len(found.pieces) // DRAWN)
    x: list[float | None] = []
    y: list[float | None] = []
    for piece in found.pieces[::stride]:
        x += [*(piece @ along).tolist(), None]
        y += [*(piece @ across).tolist(), None]
    return {"step": step, "label": label, "x": x, "y": y}
