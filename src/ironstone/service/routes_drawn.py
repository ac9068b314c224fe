"""Routes of what is looked at: the surface, values on it, arrows, what pointer and flags say, measuring."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import replace
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from ironstone.core.arrows import arrows
from ironstone.core.categories import name_of, names_of, places_in
from ironstone.core.cells import CELLS
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.evaluate import Tell, error_estimate, evaluate
from ironstone.core.extremes import Extreme, extremes
from ironstone.core.fields import displacement_of
from ironstone.core.interpolation import positions
from ironstone.core.measuring import angle, area, length, volume
from ironstone.core.mesh import Float
from ironstone.core.places import AtCorners, AtSamples
from ironstone.core.reading import Reading, resolve
from ironstone.core.surface import by_volume, distribution, face_point
from ironstone.engine import answers
from ironstone.engine.drawing import surface
from ironstone.engine.flags import FlagIn, FlagTold, flag_answer
from ironstone.engine.words import LookQuery, ReadingQuery
from ironstone.service.binary import pack
from ironstone.service.deps import OpenReview, RunningJobs, tagged
from ironstone.service.schemas import (
    ArrowsQuery,
    AveragingOut,
    CategoryOut,
    DeformationQuery,
    JobOut,
    MeasureOut,
    MeasureQuery,
    ProbeOut,
    ProbeQuery,
    RangeOut,
    SurfaceQuery,
    ValuesHead,
)
from ironstone.store.source import ReviewSource

router = APIRouter(tags=["drawn"])


@router.get("/results/{result}/surface", response_class=Response)
def drawn_surface(result: int, query: Annotated[LookQuery, Query()], request: Request, review: OpenReview) -> Response:
    """What is drawn as raw arrays: positions, face, st, triangles (translucent ones from ``opaque`` on), edges, outline, nodes."""
    source = review.result(result)
    look = query.look()

    def make() -> bytes:
        skin = surface(source, look)
        centre = (skin.points.min(0) + skin.points.max(0)) / 2 if len(skin.points) else np.zeros(3)
        radius = float(np.linalg.norm(skin.points - centre, axis=1).max(initial=0.0))
        thin = all(block.cell.dimension < 3 for block in source.mesh.blocks)
        planar = thin and bool(np.ptp(source.mesh.points[:, 2]) <= 1e-9 * source.mesh.size)
        return pack(
            {
                "centre": centre.tolist(),
                "radius": radius,
                "faces": len(skin.face_element),
                "planar": planar,
                "opaque": skin.opaque,
            },
            {
                "positions": skin.points,
                "face": skin.face,
                "st": skin.st,
                "triangles": skin.triangles,
                "edges": skin.edges,
                "outline": skin.outline,
                "nodes": skin.nodes,
            },
        )

    return tagged(request, ["surface", source.revision if look.solid else source.identity, query.model_dump()], make)


def _displacement(source: ReviewSource) -> str | None:
    found = displacement_of(source.fields)
    return None if found is None else found.name


@router.get("/results/{result}/deformation", response_class=Response)
def drawn_deformation(result: int, query: Annotated[DeformationQuery, Query()], request: Request, review: OpenReview) -> Response:
    """Displacement of every display vertex, and the largest of the step, in the result's length unit."""
    source = review.result(result)
    step = query.step
    name = _displacement(source)
    if name is None:
        raise Impossible("This result has no displacement.", "The deformed shape cannot be shown.")
    if not 0 <= step < len(source.steps):
        raise Impossible(f"There is no step {step}.", f"Steps run from 0 to {len(source.steps) - 1}.")

    def make() -> bytes:
        nodal = np.nan_to_num(np.asarray(source.values(name, step), dtype=np.float64))
        moved = positions(source.mesh, surface(source, query.look()).vertices, nodal)
        return pack({"largest": float(np.linalg.norm(nodal, axis=1).max(initial=0.0))}, {"displacement": moved})

    return tagged(request, ["deformation", source.revision, query.model_dump()], make)


@router.get("/results/{result}/values", response_class=Response)
def drawn_values(
    result: int, query: Annotated[SurfaceQuery, Query()], request: Request, review: OpenReview, jobs: RunningJobs
) -> Response:
    """A reading at every display vertex as raw numbers, NaN where there is no value; the head is ``ValuesHead``."""
    source = review.result(result)
    resolved = resolve(query.reading(), source)

    def make() -> bytes:
        head, values = _on_surface(source, query)
        packed = pack(head.model_dump(), {"values": values})
        jobs.looked_at(result)
        return packed

    look = query.model_dump(include=set(SurfaceQuery.model_fields) - set(ReadingQuery.model_fields))
    return tagged(request, ["values", source.revision, resolved.reading.to_dict(), look], make)


@router.get("/results/{result}/values/head")
def drawn_head(result: int, query: Annotated[SurfaceQuery, Query()], review: OpenReview) -> ValuesHead:
    """What travels beside the raw values of a view, alone."""
    return _on_surface(review.result(result), query)[0]


@router.post("/results/{result}/prepare")
def prepare(result: int, query: Annotated[SurfaceQuery, Query()], review: OpenReview, jobs: RunningJobs) -> JobOut:
    """Work out a reading over many steps, with progress and a way to stop; its values are then ready to be asked for."""
    source = review.result(result)
    resolve(query.reading(), source)

    def work(tell: Any) -> int:
        PREPARED.make(source, query, tell)
        return result

    return jobs.start(work)


def _on_surface(source: ReviewSource, query: SurfaceQuery) -> tuple[ValuesHead, Float]:
    reading = query.reading()
    if reading.over == "step" and (reading.against is None or reading.against.over == "step"):
        return _worked_out(source, query, None)
    return PREPARED.make(source, query, None)


class _Prepared:
    """Readings over many steps that were worked out, the last few."""

    def __init__(self, keep: int) -> None:
        self._keep = keep
        self._held: OrderedDict[Any, tuple[ValuesHead, Float]] = OrderedDict()
        self._lock = threading.Lock()

    def make(self, source: ReviewSource, query: SurfaceQuery, tell: Tell | None) -> tuple[ValuesHead, Float]:
        key = (source.review.path, source.revision, query.model_dump_json())
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]
        made = _worked_out(source, query, tell)
        with self._lock:
            self._held[key] = made
            while len(self._held) > self._keep:
                self._held.popitem(last=False)
        return made


PREPARED = _Prepared(keep=6)


def _worked_out(source: ReviewSource, query: SurfaceQuery, tell: Tell | None) -> tuple[ValuesHead, Float]:
    reading = query.reading()
    half = None if tell is None else (lambda share, text: tell(share / 2, text))
    rest = None if tell is None else (lambda share, text: tell(0.5 + share / 2, f"highest and lowest, {text}"))
    resolved = resolve(reading, source)
    skin = surface(source, query.look())
    told = evaluate(reading, source, skin.vertices, half)
    values = told.values
    everywhere, low, high = extremes(reading, source, rest)
    categories = None
    if resolved.field.names and reading.of == "value" and not reading.when:
        known = names_of(resolved.field, everywhere.values)
        values = places_in(known, values)
        portions = distribution(skin, values, -0.5, len(known) - 0.5, len(known))
        categories = [
            CategoryOut(name=k.name, colour=k.colour, share=float(portion)) for k, portion in zip(known, portions, strict=True)
        ]
    finite = values[~np.isnan(values)]
    first, last = (low.value, high.value) if low and high else (0.0, 0.0)
    if query.weigh == "volume":
        shares = by_volume(source.mesh, evaluate(reading, source, AtCorners()), query.look().hidden, first, last)
    else:
        shares = distribution(skin, values, first, last)
    head = ValuesHead.model_validate(
        {
            "sentence": resolved.sentence(),
            "words": resolved.words,
            "unit": resolved.unit,
            "signed": (reading.of == "value" and resolved.signed) or resolved.against is not None,
            "caveats": told.caveats,
            "min": _extreme(low, source, reading.step),
            "max": _extreme(high, source, reading.step),
            "drawn_low": float(finite.min()) if len(finite) else None,
            "drawn_high": float(finite.max()) if len(finite) else None,
            "shares": shares.tolist(),
            "missing": 1.0 - len(finite) / max(len(values), 1),
            "categories": categories,
            "error_total": answers.number(error_estimate(reading, source).total) if reading.of == "error" else None,
        }
    )
    return head, values


def _extreme(extreme: Extreme | None, source: ReviewSource, step: int) -> dict[str, Any] | None:
    """A highest or lowest with its place and how far that has moved at a step."""
    told = answers.place_of_extreme(extreme, source)
    name = _displacement(source)
    if told is not None and extreme is not None and name is not None:
        mesh = source.mesh
        own = slice(mesh.offsets[extreme.element], mesh.offsets[extreme.element + 1])
        nodes = np.array([extreme.node]) if extreme.node >= 0 else mesh.connectivity[own]
        told["moved"] = np.nan_to_num(np.asarray(source.rows(name, step, nodes), dtype=float)).mean(0).tolist()
    return told


@router.get("/results/{result}/arrows", response_class=Response)
def drawn_arrows(result: int, query: Annotated[ArrowsQuery, Query()], request: Request, review: OpenReview) -> Response:
    """Arrows of a vector or crosses of principals as raw arrays: points, displacement, values, outward, directions (crosses)."""
    source = review.result(result)

    def make() -> bytes:
        spacing = query.spacing * source.mesh.size
        found = arrows(query.field, source, surface(source, query.look()), query.step, spacing, query.unit)
        name = _displacement(source)
        moved = np.zeros_like(found.points)
        if name is not None and len(found.points):
            moved = positions(source.mesh, found.place, np.nan_to_num(np.asarray(source.values(name, query.step), dtype=float)))
        head = {
            "kind": "vector" if found.directions is None else "cross",
            "field": query.field,
            "unit": found.resolved.unit,
            "longest": found.longest,
            "count": len(found.points),
            "spacing": found.spacing / source.mesh.size if source.mesh.size else 0.0,
            "asked_spacing": query.spacing,
            "at": "nodes" if found.resolved.field.location == "node" else "faces",
        }
        packed: dict[str, Any] = {"points": found.points, "displacement": moved, "values": found.values, "outward": found.outward}
        if found.directions is not None:
            packed["directions"] = found.directions.reshape(-1, 9)
        return pack(head, packed)

    return tagged(request, ["arrows", source.revision, query.model_dump()], make)


@router.get("/results/{result}/measure")
def measured(result: int, query: Annotated[MeasureQuery, Query()], review: OpenReview) -> MeasureOut:
    """A length, an angle, an area or a volume, undeformed and deformed."""
    source = review.result(result)
    mesh = source.mesh
    name = _displacement(source)
    moved = None if name is None else np.nan_to_num(np.asarray(source.values(name, query.step), dtype=float))
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


@router.post("/results/{result}/range")
def find_range(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview, jobs: RunningJobs) -> JobOut:
    """Look for the lowest and highest of a reading over all steps, with progress and a way to stop."""
    source = review.result(result)
    resolve(query.reading(), source)

    def work(tell: Any) -> int:
        _range(source, query.reading(), tell)
        return result

    return jobs.start(work)


@router.get("/results/{result}/range")
def range_over_steps(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> RangeOut:
    """Lowest and highest of a reading over all steps."""
    return _range(review.result(result), query.reading(), None)


RANGES: OrderedDict[Any, RangeOut] = OrderedDict()


def _range(source: ReviewSource, reading: Reading, tell: Tell | None) -> RangeOut:
    # The step in view plays no part, but for a reading of what has been so far.
    key = (source.review.path, source.revision, reading.at(0) if reading.over == "step" else reading)
    if key in RANGES:
        return RANGES[key]
    answer = RangeOut(low=None, high=None, low_step=None, high_step=None)
    count = len(source.steps)
    # A reading over steps is the same at all of them.
    for step in range(count) if reading.over == "step" else [reading.step]:
        if tell is not None:
            tell(step / count, f"step {step + 1} of {count}")
        _, low, high = extremes(reading.at(step), source)
        if low and (answer.low is None or low.value < answer.low):
            answer.low, answer.low_step = low.value, step
        if high and (answer.high is None or high.value > answer.high):
            answer.high, answer.high_step = high.value, step
    RANGES[key] = answer
    while len(RANGES) > 64:
        RANGES.popitem(last=False)
    return answer


@router.get("/results/{result}/averagings")
def averagings(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> list[AveragingOut]:
    """The same reading under each averaging that means something for its field: what it does to the extremes."""
    source = review.result(result)
    resolved = resolve(query.reading(), source)
    choices: tuple[str, ...] = ("off", "element") if resolved.field.location == "node" else ("off", "element", "part", "all")
    if resolved.materials_named and resolved.field.location != "node":
        choices = ("off", "element", "part", "material", "all")
    told = []
    for name in ("off",) if resolved.field.names else choices:
        reading = replace(query.reading(), averaging=name, of="value", over="step", when=False, against=None)
        _, low, high = extremes(reading, source)
        told.append(
            AveragingOut(
                averaging=name,
                words=resolve(reading, source).averaging_words,
                unit=resolved.unit,
                min=answers.place_of_extreme(low, source),
                max=answers.place_of_extreme(high, source),
            )
        )
    return told


@router.get("/results/{result}/probe")
def probe(result: int, query: Annotated[ProbeQuery, Query()], review: OpenReview) -> ProbeOut:
    """The reading under the pointer: inside the element, at face coordinates s, t of a drawn face."""
    source = review.result(result)
    skin = surface(source, query.look())
    if query.face >= len(skin.face_element):
        raise IronstoneError("That face is not drawn any more.", "Point again.")
    place = face_point(skin, query.face, query.s, query.t)
    value = evaluate(query.reading(), source, place)
    mesh = source.mesh
    element = int(place.element[0])
    return ProbeOut(
        value=answers.number(float(value.values[0])),
        name=name_of(value.resolved.field, float(value.values[0])) if value.resolved.field.names else None,
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


@router.get("/results/{result}/nodes/{node}")
def node_values(result: int, node: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> FlagTold:
    """What a flag at a node would say, without planting one."""
    return flag_answer(review.result(result), query, FlagIn(result=result, node=node))


@router.get("/results/{result}/nodes/{node}/position")
def node_position(result: int, node: int, step: int, review: OpenReview) -> dict[str, list[float]]:
    """Where a node is, undeformed, and its displacement at a step."""
    source = review.result(result)
    index = source.mesh.node_position(node)
    name = _displacement(source)
    moved = np.zeros(3) if name is None else np.nan_to_num(source.rows(name, step, np.array([index]))[0])
    return {"xyz": source.mesh.points[index].tolist(), "displacement": np.asarray(moved, dtype=float).tolist()}
