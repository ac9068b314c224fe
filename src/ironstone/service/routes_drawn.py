"""Routes of what is looked at: the surface, values on it, arrows, what pointer and flags say, measuring."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from ironstone.core.errors import Impossible
from ironstone.core.field.moved import moved_nodes, moving
from ironstone.core.mesh.interpolation import positions
from ironstone.core.reading.resolve import resolve
from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.model import model_file
from ironstone.engine.reading.alongside import AlongsideQuery, at_the_step_in_view, drawn_alongside
from ironstone.engine.reading.cuts import CutFacesQuery, drawn_cut
from ironstone.engine.reading.drawing import surface, surface_head
from ironstone.engine.reading.flags import FlagAnswer, FlagIn, flag_answer
from ironstone.engine.reading.looking import (
    AveragingOut,
    MeasureOut,
    MeasureQuery,
    ProbeOut,
    ProbeQuery,
    RangeOut,
    averagings,
    measured,
    probe,
    range_of,
)
from ironstone.engine.reading.pictures import (
    ArrowsQuery,
    KeyLimitsOut,
    SurfaceQuery,
    ValuesHead,
    drawn_arrows,
    limits_for,
    on_surface,
    prepared,
    takes_long,
)
from ironstone.engine.weight import weight
from ironstone.engine.words import ReadingQuery
from ironstone.service.binary import pack
from ironstone.service.deps import OpenReview, RunningJobs, safe_name, tagged
from ironstone.service.schemas import DrawnQuery, JobOut, ShapeQuery
from ironstone.service.turns import InTurn, reaches

router = APIRouter(tags=["drawn"], route_class=InTurn)


@router.get("/results/{result}/surface", response_class=Response)
@reaches("whole")
def drawn_surface(result: int, query: Annotated[DrawnQuery, Query()], request: Request, review: OpenReview) -> Response:
    """What is drawn at a step as raw arrays: positions (from the head's origin on), face, st, triangles (seen through
    from ``opaque`` on), edges, outline, nodes."""
    source = review.result(result).at(query.step)
    look = query.look()

    def make() -> bytes:
        skin = surface(source, look)
        return pack(
            surface_head(source.mesh, skin),
            {
                "positions": skin.points - source.mesh.middle,
                "face": skin.face,
                "st": skin.st,
                "triangles": skin.triangles,
                "edges": skin.edges,
                "outline": skin.outline,
                "nodes": skin.nodes,
            },
        )

    return tagged(
        request, ["surface", source.revision if look.solid else source.identity, query.model_dump(exclude={"step"})], make
    )


@router.get("/results/{result}/deformation", response_class=Response)
@reaches("whole")
def drawn_deformation(result: int, query: Annotated[ShapeQuery, Query()], request: Request, review: OpenReview) -> Response:
    """Displacement of every display vertex, and the largest of the step, in the result's length unit."""
    source = review.result(result).at(query.step)
    step = query.step
    if moving(source.fields) is None:
        raise Impossible("This result has no displacement.", "The deformed shape cannot be shown.")
    if not 0 <= step < len(source.steps):
        raise Impossible(f"There is no step {step}.", f"Steps run from 0 to {len(source.steps) - 1}.")

    def make() -> bytes:
        nodal = moved_nodes(source, step, query.phase)
        assert nodal is not None
        vertices = surface(source, query.look()).vertices
        moved = positions(source.mesh, vertices, nodal)
        if (turn := query.look().turned) is not None:
            own = turn.members(source.mesh, vertices.element)
            moved[own] = turn.of(moved[own])
        return pack({"largest": float(np.linalg.norm(nodal, axis=1).max(initial=0.0))}, {"displacement": moved})

    return tagged(request, ["deformation", source.revision, query.model_dump()], make)


@router.get("/results/{result}/values", response_class=Response)
@reaches("whole")
def drawn_values(
    result: int, query: Annotated[SurfaceQuery, Query()], request: Request, review: OpenReview, jobs: RunningJobs
) -> Response:
    """A reading at every display vertex as raw numbers, NaN where there is no value; the head is ``ValuesHead``.

    With ``Prefer: respond-async`` what runs over many steps is answered by the job that works it out, with 202; ask again after it.
    """
    source = review.result(result).at(query.step)
    resolved = resolve(query.reading(), source)

    def make() -> bytes:
        head, values = on_surface(source, query)
        packed = pack(head.model_dump(), {"values": values - head.base})
        jobs.looked_at(result)
        return packed

    def begin() -> JobOut:
        return jobs.start(lambda tell: prepared(source, query, tell) and result, weight(review, "whole", result))

    look = query.model_dump(include=set(SurfaceQuery.model_fields) - set(ReadingQuery.model_fields))
    depends_on = ["values", resolved.revisions, resolved.reading.to_dict(), look]
    return tagged(request, depends_on, make, begin if takes_long(source, query) else None)


@router.get("/results/{result}/values/head")
@reaches("whole")
def drawn_head(result: int, query: Annotated[SurfaceQuery, Query()], review: OpenReview) -> ValuesHead:
    """What travels beside the raw values of a view, alone."""
    return on_surface(review.result(result).at(query.step), query)[0]


@router.get("/results/{result}/arrows", response_class=Response)
@reaches("whole")
def arrows_of(result: int, query: Annotated[ArrowsQuery, Query()], request: Request, review: OpenReview) -> Response:
    """Arrows of a vector or crosses of principals as raw arrays: points, displacement, values, outward, directions (crosses)."""
    source = review.result(result).at(query.step)

    def make() -> bytes:
        return pack(*drawn_arrows(source, query))

    return tagged(request, ["arrows", source.revision, query.model_dump()], make)


@router.get("/results/{result}/cut-faces", response_class=Response)
@reaches("whole")
def cut_faces(result: int, query: Annotated[CutFacesQuery, Query()], request: Request, review: OpenReview) -> Response:
    """A cut as raw arrays: positions, displacement, values of triangles (three vertices each), border_positions, _displacement."""
    source = review.result(result).at(query.step)
    resolved = resolve(query.reading(), source)
    words = query.model_dump(include=set(CutFacesQuery.model_fields) - set(ReadingQuery.model_fields))

    def make() -> bytes:
        return pack(*drawn_cut(source, query))

    return tagged(request, ["cut", resolved.revisions, source.revision, resolved.reading.to_dict(), words], make)


@router.get("/results/{result}/alongside", response_class=Response)
@reaches("whole")
def alongside(result: int, query: Annotated[AlongsideQuery, Query()], request: Request, review: OpenReview) -> Response:
    """Another result in this one's picture, as the raw arrays of a cut."""
    source = review.result(result)
    other, step, _ = at_the_step_in_view(review, source, query)
    words = query.model_dump(
        include=set(AlongsideQuery.model_fields) - (set(ReadingQuery.model_fields) if query.shows == "plain" else set()) | {"phase"}
    )

    def make() -> bytes:
        return pack(*drawn_alongside(review, source, query))

    return tagged(request, ["alongside", source.revision, other.revision, other.name, step, words], make)


@router.get("/results/{result}/measure")
@reaches("whole")
def measure(result: int, query: Annotated[MeasureQuery, Query()], review: OpenReview) -> MeasureOut:
    """A length, an angle, an area or a volume, undeformed and deformed."""
    return measured(review.result(result).at(query.step), query)


@router.post("/results/{result}/range")
def find_range(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview, jobs: RunningJobs) -> JobOut:
    """Look for the lowest and highest of a reading over all steps, with progress and a way to stop."""
    source = review.result(result).at(query.step)
    resolve(query.reading(), source)

    def work(tell: Any) -> int:
        range_of(source, query.reading(), tell)
        return result

    return jobs.start(work, weight(review, "whole", result))


@router.get("/results/{result}/range")
@reaches("whole")
def range_over_steps(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> RangeOut:
    """Lowest and highest of a reading over all steps."""
    return range_of(review.result(result).at(query.step), query.reading(), None)


@router.get("/key-limits")
def shared_key_limits(
    low: Annotated[list[float], Query(max_length=8, description="The lowest of each picture.")],
    high: Annotated[list[float], Query(max_length=8, description="The highest of each.")],
    limit: Annotated[float | None, Query(description="Where the colours break.")] = None,
) -> KeyLimitsOut:
    """Limits of one key for several pictures."""
    return limits_for(low, high, limit)


@router.get("/results/{result}/averagings")
@reaches("whole")
def averagings_of(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> list[AveragingOut]:
    """The same reading under each averaging that means something for its field: what it does to the extremes."""
    return averagings(review.result(result).at(query.step), query)


@router.get("/results/{result}/probe")
@reaches("place")
def probe_at(result: int, query: Annotated[ProbeQuery, Query()], review: OpenReview) -> ProbeOut:
    """The reading under the pointer: inside the element, at face coordinates s, t of a drawn face."""
    return probe(review.result(result).at(query.step), query)


@router.get("/results/{result}/nodes/{node}")
@reaches("place")
def node_values(result: int, node: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> FlagAnswer:
    """What a flag at a node would say, without planting one."""
    return flag_answer(review.result(result).at(query.step), query, FlagIn(result=result, node=node))


@router.get("/results/{result}/nodes/{node}/position")
def node_position(result: int, node: int, step: int, review: OpenReview) -> dict[str, list[float]]:
    """Where a node is, undeformed, and its displacement at a step."""
    source = review.result(result).at(step)
    index = source.mesh.node_position(node)
    found = moved_nodes(source, step, nodes=np.array([index]))
    moved = np.zeros(3) if found is None else found[0]
    return {"xyz": source.mesh.points[index].tolist(), "displacement": moved.tolist()}


@router.get("/model.{suffix}", response_class=Response)
@reaches("whole")
def model_out(
    suffix: Literal["glb", "ply", "stl"], address: Annotated[str, Query(max_length=4000)], review: OpenReview
) -> Response:
    """What is shown of the skin in a view, as its address has it: deformed, in the colours of its reading, for any viewer."""
    data, words = model_file(review, InView.from_address(address), f".{suffix}")
    kind = {"glb": "model/gltf-binary", "stl": "model/stl"}.get(suffix, "application/octet-stream")
    disposition = {"Content-Disposition": f'attachment; filename="{safe_name(words[:60])}.{suffix}"'}
    return Response(data, media_type=kind, headers=disposition)
