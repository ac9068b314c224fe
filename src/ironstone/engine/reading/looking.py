"""What is asked of a view: what the pointer says, measuring, the range over the steps, the averagings side by side."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.categories import name_of
from ironstone.core.field.loadings import computed
from ironstone.core.field.moved import moved_nodes
from ironstone.core.geometry.measuring import angle, area, length, volume
from ironstone.core.geometry.surface import face_point
from ironstone.core.kept import remembered
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.over_steps import Tell
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.engine.reading import answers
from ironstone.engine.reading.drawing import surface
from ironstone.engine.reading.pictures import ExtremeOut, KeyLimitsOut, SurfaceQuery, breaks_at, limits_for
from ironstone.engine.words import Averaging, LookQuery, ReadingQuery
from ironstone.store.source import ReviewSource


class MeasureQuery(LookQuery):
    """What is measured: a length or angle of nodes, the area from a drawn face on, the volume of elements or all that is shown."""

    what: Literal["length", "angle", "area", "volume"]
    step: int
    nodes: str = Field("", pattern=r"^(-?\d+(,-?\d+)*)?$", description="Node numbers: 12,15,18.")
    face: int = Field(-1, ge=-1)
    fold: float = Field(0.0, ge=0, le=180)
    elements: str = Field("", pattern=r"^(-?\d+(,-?\d+)*)?$", description="Element numbers; none means all that is shown.")


class ProbeQuery(SurfaceQuery):
    face: int = Field(ge=0)
    s: float = Field(ge=0, le=1)
    t: float = Field(ge=0, le=1)


class MeasureOut(BaseModel):
    """undeformed and deformed in ``unit``; count of faces or elements measured."""

    undeformed: float
    deformed: float | None
    unit: str
    count: int
    text: str


class RangeOut(BaseModel):
    low: float | None
    high: float | None
    low_step: int | None
    high_step: int | None
    limits: KeyLimitsOut | None = Field(None, description="Of a key over all steps.")


class AveragingOut(BaseModel):
    averaging: Averaging
    words: str
    unit: str
    min: ExtremeOut | None
    max: ExtremeOut | None


class ProbeOut(BaseModel):
    value: float | None
    name: str | None
    unit: str
    element: int
    node: int
    part: str
    xyz: list[float]
    xi: list[float]


def measured(source: ReviewSource, query: MeasureQuery) -> MeasureOut:
    """A length, an angle, an area or a volume, undeformed and deformed."""
    mesh = source.mesh
    moved = moved_nodes(source, query.step)
    nodes = np.array([mesh.node_position(int(n)) for n in query.nodes.split(",") if n], dtype=np.int64)
    unit = source.system.length
    if query.what in ("length", "angle"):
        least = 2 if query.what == "length" else 3
        if len(nodes) < least or (query.what == "angle" and len(nodes) != 3):
            raise Impossible(f"{len(nodes)} nodes are picked.", f"A {query.what} takes {'two or more' if least == 2 else 'three'}.")
        found = (length if query.what == "length" else angle)(mesh, nodes, moved)
        unit = unit if query.what == "length" else "°"
        text = " – ".join(f"node {n}" for n in query.nodes.split(","))
    elif query.what == "area":
        skin = surface(source, query.look())
        if not 0 <= query.face < len(skin.face_element):
            raise Impossible("That face is not drawn any more.", "Pick a face again.")
        found, unit = area(mesh, skin, query.face, query.fold, moved), f"{unit}²"
        element = int(mesh.element_ids[skin.face_element[query.face]])
        text = f"face of element {element}" + (f" and {found.count - 1} that join it" if found.count > 1 else "")
    else:
        picked = [mesh.element_position(int(e)) for e in query.elements.split(",") if e]
        chosen = ~np.isin(mesh.part, list(query.look().hidden))
        if picked:
            chosen[:] = False
            chosen[picked] = True
        found, unit = volume(mesh, chosen, moved), f"{unit}³"
        text = f"element {query.elements}" if len(picked) == 1 else f"{found.count} elements" + ("" if picked else " shown")
    return MeasureOut(undeformed=found.undeformed, deformed=found.deformed, unit=unit, count=found.count, text=text)


def range_of(source: ReviewSource, reading: Reading, tell: Tell | None) -> RangeOut:
    """Lowest and highest of a reading over all steps, and where in them; found once for a state of the result."""
    # The step in view plays no part, but for a reading of what has been so far.
    key = reading.at(0) if reading.over == "step" else reading
    return remembered(source, "ranges", key, lambda: _range_of(source, reading, tell), most=64)


def _range_of(source: ReviewSource, reading: Reading, tell: Tell | None) -> RangeOut:
    answer = RangeOut(low=None, high=None, low_step=None, high_step=None)
    count = len(computed(source.steps))
    # A reading over steps is the same at all of them.
    for step in range(count) if reading.over == "step" else [reading.step]:
        if tell is not None:
            tell(step / count, f"step {step + 1} of {count}")
        _, low, high = extremes(reading.at(step), source.at(step))
        if low and (answer.low is None or low.value < answer.low):
            answer.low, answer.low_step = low.value, step
        if high and (answer.high is None or high.value > answer.high):
            answer.high, answer.high_step = high.value, step
    if answer.low is not None and answer.high is not None:
        answer.limits = limits_for([answer.low], [answer.high], breaks_at(resolve(reading, source)))
    return answer


def averagings(source: ReviewSource, query: ReadingQuery) -> list[AveragingOut]:
    """The same reading under each averaging that means something for its field: what it does to the extremes."""
    resolved = resolve(query.reading(), source)
    choices: tuple[str, ...] = ("off", "element") if resolved.field.location == "node" else ("off", "element", "part", "all")
    if resolved.field.layers:
        # What is in a ply belongs to its element.
        choices = ("off",)
    elif resolved.materials_named and resolved.field.location != "node":
        choices = ("off", "element", "part", "material", "all")
    reply = []
    for name in ("off",) if resolved.field.names else choices:
        reading = replace(query.reading(), averaging=name, of="value", over="step", when=False, against=None)
        _, low, high = extremes(reading, source)
        reply.append(
            AveragingOut(
                averaging=name,
                words=resolve(reading, source).averaging_words,
                unit=resolved.unit,
                min=answers.place_of_extreme(low, source),
                max=answers.place_of_extreme(high, source),
            )
        )
    return reply


def probe(source: ReviewSource, query: ProbeQuery) -> ProbeOut:
    """The reading under the pointer: inside the element, at face coordinates s, t of a drawn face."""
    skin = surface(source, query.look())
    if query.face >= len(skin.face_element):
        raise IronstoneError("That face is not drawn any more.", "Point again.")
    place = face_point(skin, query.face, query.s, query.t)
    value = evaluate(query.reading(), source, place)
    mesh = source.mesh
    element = int(place.element[0])
    naming = value.resolved.naming
    return ProbeOut(
        value=answers.number(float(value.values[0])),
        name=None if naming is None else name_of(naming, float(value.values[0])),
        unit=value.unit,
        element=int(mesh.element_ids[element]),
        node=int(mesh.node_ids[_nearest_node(source, place)]),
        part=mesh.part_names[mesh.part[element]],
        xyz=positions(mesh, place)[0].tolist(),
        xi=place.xi[0].tolist(),
    )


def _nearest_node(source: ReviewSource, place: AtSamples) -> int:
    """The element's node with the largest say at the place."""
    mesh = source.mesh
    element = int(place.element[0])
    nodes = mesh.connectivity[mesh.offsets[element] : mesh.offsets[element + 1]]
    away = np.linalg.norm(mesh.points[nodes] - positions(mesh, place), axis=1)
    assert len(nodes) == CELLS[int(mesh.types[element])].size
    return int(nodes[int(np.argmin(away))])
