"""Routes of results: intake, contents, the surface that is drawn, values on it, probes."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from ironstone import answers
from ironstone.core.cells import CELLS
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.evaluate import AtSamples, evaluate, extremes, meeting, positions
from ironstone.core.mesh import Float
from ironstone.core.reading import resolve
from ironstone.core.surface import distribution, face_coordinates, face_point
from ironstone.formats.tables import write_table
from ironstone.service.binary import pack
from ironstone.service.deps import OpenReview, OpenUploads, RunningJobs, download, surface, tagged
from ironstone.service.schemas import (
    AveragingOut,
    ContentsOut,
    IntakeIn,
    JobOut,
    KindIn,
    MeetingEntry,
    MeetingOut,
    ProbeOut,
    ProbeQuery,
    RangeOut,
    ReadingQuery,
    ResultBrief,
    ReviewOut,
    SurfaceQuery,
    UnitsIn,
    UploadOut,
    ValuesHead,
)
from ironstone.store.describe import contents, rail
from ironstone.store.intake import intake
from ironstone.store.review import ReviewSource

router = APIRouter(tags=["results"])


@router.get("/review")
def review_overview(review: OpenReview) -> ReviewOut:
    undo, redo = review.next_changes()
    return ReviewOut(
        name=review.name,
        file=review.path.name,
        results=[ResultBrief(id=r.id, name=r.name) for r in review.results()],
        can_undo=undo,
        can_redo=redo,
    )


@router.post("/uploads")
def begin_upload(uploads: OpenUploads) -> UploadOut:
    return UploadOut(id=uploads.begin())


@router.put("/uploads/{upload}/{name}", status_code=204)
async def receive_file(upload: str, name: str, request: Request, uploads: OpenUploads) -> None:
    await uploads.receive(upload, name, request.stream())


@router.post("/intake")
def start_intake(order: IntakeIn, review: OpenReview, uploads: OpenUploads, jobs: RunningJobs) -> JobOut:
    files = uploads.files(order.upload)

    def work(tell: Any) -> int:
        try:
            return intake(review, files, order.name or None, order.system or None, tell)
        finally:
            uploads.drop(order.upload)

    return jobs.start(work)


@router.get("/jobs/{job}")
def job_state(job: str, jobs: RunningJobs) -> JobOut:
    return jobs.get(job).out


@router.delete("/jobs/{job}")
def stop_job(job: str, jobs: RunningJobs) -> JobOut:
    return jobs.cancel(job)


@router.get("/results/{result}")
def result_contents(result: int, review: OpenReview) -> ContentsOut:
    source = review.result(result)
    return ContentsOut.model_validate({**contents(source), "rail": rail(source)})


@router.delete("/results/{result}", status_code=204)
def put_away(result: int, review: OpenReview) -> None:
    """Take a result out of sight; undo brings it back."""
    review.put_away(result)


@router.put("/results/{result}/units")
def state_units(result: int, units: UnitsIn, review: OpenReview) -> ContentsOut:
    review.result(result)
    review.set_units(result, units.system)
    return result_contents(result, review)


@router.put("/results/{result}/kinds")
def state_kind(result: int, stated: KindIn, review: OpenReview) -> ContentsOut:
    """Correct what a field was taken for."""
    review.set_kind(result, stated.field, stated.kind)
    return result_contents(result, review)


@router.get("/results/{result}/surface", response_class=Response)
def drawn_surface(result: int, request: Request, review: OpenReview, detail: int = Query(0, ge=0, le=12)) -> Response:
    """The skin as raw arrays: positions, face, st, triangles, edges, outline."""
    source = review.result(result)

    def make() -> bytes:
        skin = surface(source.mesh, detail)
        centre = (skin.points.min(0) + skin.points.max(0)) / 2 if len(skin.points) else np.zeros(3)
        radius = float(np.linalg.norm(skin.points - centre, axis=1).max(initial=0.0))
        planar = all(block.cell.dimension < 3 for block in source.mesh.blocks)
        return pack(
            {"centre": centre.tolist(), "radius": radius, "faces": len(skin.face_element), "planar": planar},
            {
                "positions": skin.points,
                "face": skin.face,
                "st": face_coordinates(skin),
                "triangles": skin.triangles,
                "edges": skin.edges,
                "outline": skin.outline,
            },
        )

    return tagged(request, ["surface", source.id, detail], make)


def _displacement(source: ReviewSource) -> str | None:
    return next((f.name for f in source.fields.values() if f.kind == "displacement" and f.location == "node"), None)


@router.get("/results/{result}/deformation", response_class=Response)
def drawn_deformation(
    result: int, step: int, request: Request, review: OpenReview, detail: int = Query(0, ge=0, le=12)
) -> Response:
    """Displacement of every display vertex, and the largest of the step, in the result's length unit."""
    source = review.result(result)
    name = _displacement(source)
    if name is None:
        raise Impossible("This result has no displacement.", "The deformed shape cannot be shown.")
    if not 0 <= step < len(source.steps):
        raise Impossible(f"There is no step {step}.", f"Steps run from 0 to {len(source.steps) - 1}.")

    def make() -> bytes:
        nodal = np.nan_to_num(np.asarray(source.values(name, step), dtype=np.float64))
        moved = positions(source.mesh, surface(source.mesh, detail).vertices, nodal)
        return pack({"largest": float(np.linalg.norm(nodal, axis=1).max(initial=0.0))}, {"displacement": moved})

    return tagged(request, ["deformation", source.revision, step, detail], make)


@router.get("/results/{result}/values", response_class=Response)
def drawn_values(result: int, query: Annotated[SurfaceQuery, Query()], request: Request, review: OpenReview) -> Response:
    """A reading at every display vertex as raw numbers, NaN where there is no value; the head is ``ValuesHead``."""
    source = review.result(result)
    resolved = resolve(query.reading(), source)

    def make() -> bytes:
        head, values = _on_surface(source, query)
        return pack(head.model_dump(), {"values": values})

    return tagged(request, ["values", source.revision, resolved.reading.to_dict(), query.detail], make)


@router.get("/results/{result}/values/head")
def drawn_head(result: int, query: Annotated[SurfaceQuery, Query()], review: OpenReview) -> ValuesHead:
    """What travels beside the raw values of a view, alone."""
    return _on_surface(review.result(result), query)[0]


def _on_surface(source: ReviewSource, query: SurfaceQuery) -> tuple[ValuesHead, Float]:
    reading = query.reading()
    resolved = resolve(reading, source)
    skin = surface(source.mesh, query.detail)
    told = evaluate(reading, source, skin.vertices)
    values = told.values
    _, low, high = extremes(reading, source)
    finite = values[~np.isnan(values)]
    first, last = (low.value, high.value) if low and high else (0.0, 0.0)
    head = ValuesHead.model_validate(
        {
            "sentence": resolved.sentence(),
            "words": resolved.words,
            "unit": resolved.unit,
            "signed": resolved.measure.signed and reading.of == "value",
            "caveats": told.caveats,
            "min": answers.place_of_extreme(low, source),
            "max": answers.place_of_extreme(high, source),
            "drawn_low": float(finite.min()) if len(finite) else None,
            "drawn_high": float(finite.max()) if len(finite) else None,
            "shares": distribution(skin, values, first, last).tolist(),
            "missing": 1.0 - len(finite) / max(len(values), 1),
        }
    )
    return head, values


@router.get("/results/{result}/range")
def range_over_steps(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> RangeOut:
    """Lowest and highest of a reading over all steps."""
    source = review.result(result)
    answer = RangeOut(low=None, high=None, low_step=None, high_step=None)
    for step in range(len(source.steps)):
        _, low, high = extremes(query.reading().at(step), source)
        if low and (answer.low is None or low.value < answer.low):
            answer.low, answer.low_step = low.value, step
        if high and (answer.high is None or high.value > answer.high):
            answer.high, answer.high_step = high.value, step
    return answer


@router.get("/results/{result}/averagings")
def averagings(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> list[AveragingOut]:
    """The same reading under each averaging that means something for its field: what it does to the extremes."""
    source = review.result(result)
    resolved = resolve(query.reading(), source)
    choices = ("off", "element") if resolved.field.location == "node" else ("off", "element", "part", "all")
    told = []
    for name in choices:
        reading = replace(query.reading(), averaging=name, of="value")
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
    skin = surface(source.mesh, query.detail)
    if query.face >= len(skin.face_element):
        raise IronstoneError("That face is not drawn any more.", "Point again.")
    place = face_point(skin, query.face, query.s, query.t)
    value = evaluate(query.reading(), source, place)
    mesh = source.mesh
    element = int(place.element[0])
    return ProbeOut(
        value=answers.number(float(value.values[0])),
        unit=value.unit,
        element=int(mesh.element_ids[element]),
        node=int(mesh.node_ids[_nearest_node(source, place)]),
        part=mesh.part_names[mesh.part[element]],
        xyz=positions(mesh, place)[0].tolist(),
    )


def _nearest_node(source: ReviewSource, place: AtSamples) -> int:
    """The element's node with the largest say at the place."""
    mesh = source.mesh
    element = int(place.element[0])
    nodes = mesh.connectivity[mesh.offsets[element] : mesh.offsets[element + 1]]
    away = np.linalg.norm(mesh.points[nodes] - positions(mesh, place), axis=1)
    assert len(nodes) == CELLS[int(mesh.types[element])].size
    return int(nodes[int(np.argmin(away))])


def meeting_answer(source: ReviewSource, query: ReadingQuery, node_id: int) -> MeetingOut:
    """Every element's value at a node, by the node's own number, and the jump between them."""
    reading = query.reading()
    node = source.mesh.node_position(node_id)
    found = meeting(reading, source, node)
    answer = answers.read(reading, source, f"node:{node_id}", with_extremes=True)
    span = answer["max"]["value"] - answer["min"]["value"] if answer["max"] and answer["min"] else 0.0
    return MeetingOut(
        node=node_id,
        xyz=source.mesh.points[node].tolist(),
        sentence=answer["sentence"],
        unit=answer["unit"],
        entries=[MeetingEntry(value=v["value"], element=v["element"], part=v["part"]) for v in answer["values"]],
        jump=answers.number(found.jump),
        jump_within_material=answers.number(found.jump_within_material),
        jump_of_range=answers.number(found.jump / span) if span else None,
    )


@router.get("/results/{result}/nodes/{node}")
def node_values(result: int, node: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> MeetingOut:
    return meeting_answer(review.result(result), query, node)


@router.get("/results/{result}/nodes/{node}/position")
def node_position(result: int, node: int, step: int, review: OpenReview) -> dict[str, list[float]]:
    """Where a node is, undeformed, and its displacement at a step."""
    source = review.result(result)
    index = source.mesh.node_position(node)
    name = _displacement(source)
    moved = np.zeros(3) if name is None else np.nan_to_num(source.rows(name, step, np.array([index]))[0])
    return {"xyz": source.mesh.points[index].tolist(), "displacement": np.asarray(moved, dtype=float).tolist()}


@router.get("/results/{result}/set.csv", response_class=Response)
def set_table(result: int, name: str, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> Response:
    """A reading at every node of a set as CSV."""
    source = review.result(result)
    answer = answers.read(query.reading(), source, f"set:{name}")
    rows = answer["values"]
    unit, length = answer["unit"], source.system.length
    text = write_table(
        ("node", "element", "x", "y", "z", f"{query.field} {query.measure}".strip()),
        (None, None, length, length, length, unit),
        (
            [r["node"] for r in rows],
            ["" if r["element"] is None else r["element"] for r in rows],
            *([r["xyz"][i] for r in rows] for i in range(3)),
            [float("nan") if r["value"] is None else r["value"] for r in rows],
        ),
    )
    return download(text, f"{source.name} {name} {answer['sentence']}"[:120])
