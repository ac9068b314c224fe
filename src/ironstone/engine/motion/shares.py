"""The share of each mode in a transient or harmonic response: at a place and a step, and rebuilt over the steps."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import Source
from ironstone.core.field.loadings import loading_of
from ironstone.core.mesh.interpolation import interpolation
from ironstone.core.mesh.places import AtNodes, AtSamples
from ironstone.core.motion.common import modes_of, motion_field, moved_at
from ironstone.core.motion.coordinates import Coordinates, coordinates
from ironstone.core.reading.elsewhere import matched, nodes_elsewhere
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.where import parse
from ironstone.core.rounding import ROUNDING
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.motion.mass import mass_of
from ironstone.engine.motion.particulars import SharesMore
from ironstone.engine.reading.answers import number
from ironstone.engine.steps import find_step
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# So many numbers of a motion are in memory at once.
AT_ONCE = 20_000_000
BY_NODE = "The mass is not known: shares are least squares over all nodes, in which modes are not normal to each other."
MAGNITUDES = "Of harmonics the magnitudes are told; those of the parts do not add up to that of the whole."
AXES = {"x": 0, "y": 1, "z": 2}


class ModeShares(Question):
    """What each mode has in a motion: its coordinate at a step, what it adds at a place, the motion there rebuilt from chosen modes
    beside the whole, and what no mode has."""

    kind: ClassVar[str] = "mode-shares"
    more: ClassVar[type[BaseModel]] = SharesMore
    modes: str = Field("", max_length=200, description="The result that has the modes, by name or number; none: this one.")
    loading: str = Field("", max_length=200, description="One set of modes, by the name of its loading.")
    at: str = Field(description="node:ID or point:X,Y,Z.")
    measure: Literal["x", "y", "z"] = Field(description="The direction of the motion.")
    step: int | str = "last"
    chosen: list[int] = Field([], max_length=500, description="Numbers of the modes it is rebuilt from, from 1; none: all.")

    def others(self) -> list[str]:
        return [self.modes] if self.modes else []

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        theirs: Source = source.other(self.modes) if self.modes else source
        of_modes = modes_of(theirs, self.loading)
        step = find_step(source, self.step)
        steps = _moments(source, step)
        field = motion_field(source)
        if motion_field(theirs).harmonic:
            raise Impossible("The modes are complex: a motion is not made of them by real shares.", "Take real modes.")
        chosen = [k - 1 for k in self.chosen] or list(range(len(of_modes)))
        if any(not 0 <= k < len(of_modes) for k in chosen):
            raise IronstoneError(f"There are {len(of_modes)} modes.", f"They are numbered from 1 to {len(of_modes)}.")
        shapes, notes = _shapes(source, theirs, of_modes)
        mass = mass_of(review, source) if np.isfinite(shapes).all() else None
        axis = AXES[self.measure]
        where = parse(self.at).one()
        reading = Reading(field.name, self.measure, step=step, phase="")
        place = where.place(reading, source)
        if not isinstance(place, AtNodes | AtSamples):
            raise Impossible(f"A motion is read at a node or a point, not at {where.words}.", "Write node:ID or point:X,Y,Z.")
        q, left, whole = _followed(source, steps, shapes, mass, place, axis)
        there = _at_place(source, shapes, place)[:, axis]
        # What is rounding beside the largest share at a step is nothing.
        reach = np.abs(q * np.nanmax(np.abs(shapes), axis=(1, 2))).max(axis=1, keepdims=True)
        small = ROUNDING[field.precision] * reach
        q = np.where(np.abs(q) * np.nanmax(np.abs(shapes), axis=(1, 2)) > small, q, 0.0)
        adds = np.where(np.abs(q * there) > small, q * there, 0.0)
        rebuilt = adds[:, chosen].sum(axis=1)
        here = steps.index(step)
        rows = _rows(theirs, of_modes, q[here], adds[here], whole[here], set(chosen))
        unit, axis_of_steps = field.unit, source.steps[step]
        harmonic = np.iscomplexobj(whole)
        sentence = (
            f"share of {len(of_modes)} modes{f' of {theirs.name}' if self.modes else ''} in the displacement along {self.measure} "
            f"at {where.words} of {source.name}, {axis_of_steps.label}"
        )
        x = [source.steps[s].value for s in steps]
        return Answer(
            kind=self.kind,
            sentence=sentence,
            unit=unit,
            columns=[
                Column(name="mode", values=[r["number"] for r in rows]),
                Column(name="frequency", unit="Hz", values=[r["frequency"] for r in rows]),
                Column(name="coordinate", values=[r["coordinate"] for r in rows]),
                Column(name="adds there", unit=unit, values=[r["value"] for r in rows]),
                Column(name="share", values=[r["share"] for r in rows]),
                Column(name="in the sum", values=["yes" if r["chosen"] else "no" for r in rows]),
            ],
            figures=[
                Figure(label="the whole there", value=number(_size(whole[here])), unit=unit),
                Figure(label="rebuilt there", value=number(_size(rebuilt[here])), unit=unit, how="from the chosen modes"),
                Figure(label="in no mode", value=number(left[here]), how=f"of the model's motion, {_weight(mass is not None)}"),
            ],
            caveats=[*notes, *([] if mass is not None else [BY_NODE]), *([MAGNITUDES] if harmonic else [])],
            more={
                "x": x,
                "whole": [number(_size(v)) for v in whole],
                "rebuilt": [number(_size(v)) for v in rebuilt],
                "left": [number(v) for v in left],
                "left_here": number(left[here]),
                "modes": rows,
            },
        )


def _weight(by_mass: bool) -> str:
    return "by mass" if by_mass else "by node"


def _size(value: complex | float) -> float:
    """A real value as it is; of a harmonic its magnitude."""
    return float(abs(value)) if isinstance(value, complex | np.complexfloating) else float(value)


def _moments(source: ReviewSource, step: int) -> list[int]:
    """The steps of the motion a step is of. Raises Impossible where that is a mode itself."""
    if source.steps[step].kind == "mode":
        raise Impossible(f"{source.steps[step].label} is a mode itself.", "Choose a step of a transient or of a sweep.")
    return list(loading_of(source.steps, step))


def _shapes(source: ReviewSource, theirs: Source, steps: list[int]) -> tuple[Any, list[str]]:
    """Shapes of the modes at the nodes of the motion, (m, nodes, 3); NaN where the body of the modes is not."""
    if matched(source, theirs):
        return moved_at(theirs, steps), []
    found = nodes_elsewhere(source, theirs, np.arange(len(source.mesh.points)))
    shapes = np.full((len(steps), len(source.mesh.points), 3), np.nan)
    shapes[:, found.at] = moved_at(theirs, steps, found.places)
    share = 100 * (1 - len(found.at) / found.count)
    return shapes, [
        "The modes have another mesh: read at the undeformed places of this one"
        + (f"; {share:.2g} % of its nodes are not there and are left out." if share else ".")
    ]


def _at_place(source: ReviewSource, shapes: Any, place: AtNodes | AtSamples) -> Any:
    """Shapes at a place, (m, 3)."""
    if isinstance(place, AtNodes):
        return shapes[:, place.nodes[0]]
    found = interpolation(source.mesh, AtSamples(place.element[:1], place.xi[:1]))
    at = source.mesh.connectivity[found.corners]
    return np.stack([(found.matrix @ shape[at])[0] for shape in shapes])


def _followed(
    source: ReviewSource, steps: list[int], shapes: Any, mass: Any, place: AtNodes | AtSamples, axis: int
) -> tuple[Any, Any, Any]:
    """Over the steps: modal coordinates (s, m), what no mode has (s,), the motion at a place along an axis (s,)."""
    each = max(AT_ONCE // max(3 * len(source.mesh.points), 1), 1)
    found: list[Coordinates] = []
    whole = []
    for first in range(0, len(steps), each):
        motions = moved_at(source, steps[first : first + each])
        found.append(coordinates(shapes, motions, mass))
        whole.append(_at_place(source, motions, place)[:, axis])
    return np.concatenate([f.q for f in found]), np.concatenate([f.left for f in found]), np.concatenate(whole)


def _rows(theirs: Source, steps: list[int], q: Any, adds: Any, whole: Any, chosen: set[int]) -> list[dict[str, Any]]:
    size = abs(whole)
    return [
        {
            "number": k + 1,
            "frequency": theirs.steps[s].value,
            "coordinate": number(_size(q[k])),
            "value": number(_size(adds[k])),
            "share": number(float((adds[k] * np.conj(whole)).real) / size**2 + 0.0) if size > 0 else None,
            "chosen": k in chosen,
        }
        for k, s in enumerate(steps)
    ]
