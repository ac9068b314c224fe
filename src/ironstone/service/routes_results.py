"""Routes of results: intake, contents, what is stated of them, files and tables out."""

from __future__ import annotations

import tempfile
from functools import partial
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from ironstone.core.errors import Impossible
from ironstone.core.field.loadings import computed
from ironstone.engine.base import unreadable
from ironstone.engine.reading import answers
from ironstone.engine.reading.axes import AxesIn, make_axes
from ironstone.engine.reading.line import Line, reading_line
from ironstone.engine.tabled import Form
from ironstone.engine.together import take_in
from ironstone.engine.words import ReadingQuery
from ironstone.formats import start_ahead
from ironstone.formats.registry import BESIDE, READERS, TITLES
from ironstone.formats.tables import SUFFIXES
from ironstone.service.deps import OpenReview, OpenShelf, OpenUploads, RunningJobs, safe_name, table
from ironstone.service.jobs import Progress
from ironstone.service.schemas import (
    ContentsOut,
    FileGroup,
    FormatsOut,
    IntakeIn,
    JobOut,
    MadeAxes,
    NameIn,
    ResultBrief,
    ReviewOut,
    RoleOut,
    SetQuery,
    UploadOut,
)
from ironstone.service.stated import ConstantsIn, FieldEntryIn, MirrorIn, ModelIn, RigidIn, StepsIn, UnitsIn
from ironstone.service.turns import InTurn, reaches
from ironstone.store.describe import contents, rail
from ironstone.store.export import export
from ironstone.store.together import WORDS, in_roles

router = APIRouter(tags=["results"], route_class=InTurn)


@router.get("/review")
def review_overview(review: OpenReview, shelf: OpenShelf) -> ReviewOut:
    undo, redo = review.next_changes()
    return ReviewOut(
        name=review.name,
        file=review.path.name,
        address=shelf.name_of(review),
        results=[ResultBrief(id=r.id, name=r.name, arriving=r.arriving) for r in (*review.results(), *review.arriving())],
        unreadable=[*review.notices, *review.damaged(), *unreadable(review)],
        can_undo=undo,
        can_redo=redo,
        state=review.state(),
    )


@router.get("/formats")
def formats() -> FormatsOut:
    """Which files can be taken in."""
    return FormatsOut(results=sorted(READERS), beside=list(BESIDE), tables=list(SUFFIXES), titles=list(TITLES.values()))


@router.post("/uploads")
def begin_upload(uploads: OpenUploads) -> UploadOut:
    """A place for files that are about to come; their reader gets ready meanwhile."""
    start_ahead()
    return UploadOut(id=uploads.begin())


@router.put("/uploads/{upload}/{name}", status_code=204)
async def receive_file(upload: str, name: str, request: Request, uploads: OpenUploads) -> None:
    await uploads.receive(upload, name, request.stream())


@router.get("/uploads/{upload}/groups")
def groups_of_upload(
    upload: str,
    review: OpenReview,
    uploads: OpenUploads,
    body: Annotated[str, Query(max_length=200, description="The group that is the body; none: as found.")] = "",
) -> list[FileGroup]:
    """What files that have come are to each other: one group where they are one series. What is found can be stated otherwise."""
    found = in_roles(uploads.files(upload), review.path.parent, {body: "body"} if body else None)
    return [
        FileGroup(
            name=g.name,
            files=[f.name for f in g.files],
            role=g.role,
            why=g.why,
            choices=[RoleOut(value=c, label=WORDS[c]) for c in g.choices],
        )
        for g in found
    ]


@router.post("/intake")
def start_intake(order: IntakeIn, review: OpenReview, uploads: OpenUploads, jobs: RunningJobs) -> JobOut:
    files = uploads.files(order.upload)

    def work(progress: Progress) -> int:
        drop = partial(uploads.drop, order.upload)
        try:
            shown = progress.show if order.look else None
            made = take_in(review, files, order.name or None, order.system or None, progress, shown, drop, order.roles)
            return made[0]
        except BaseException:
            drop()
            raise

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
    review.loads.follow(source)
    return ContentsOut.model_validate({**contents(source), "rail": rail(source)})


@router.get("/results/{result}/line")
def line_of(result: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> Line:
    """The reading line of a reading: its words, what each can be and why not, and what choosing changes."""
    line = reading_line(review.result(result).at(query.step), query.reading())
    for word in line.words:
        if word.name == "against":
            word.value = query.against or ""
    return line


@router.put("/results/{result}/name")
def rename_result(result: int, stated: NameIn, review: OpenReview) -> ContentsOut:
    review.rename_result(result, stated.name)
    return result_contents(result, review)


@router.delete("/results/{result}", status_code=204)
def put_away(result: int, review: OpenReview) -> None:
    """Take a result out of sight; undo brings it back."""
    review.put_away(result)


@router.put("/results/{result}/units")
def state_units(result: int, units: UnitsIn, review: OpenReview) -> ContentsOut:
    review.result(result)
    review.set_units(result, units.system)
    return result_contents(result, review)


@router.put("/results/{result}/fields")
def state_field(result: int, stated: FieldEntryIn, review: OpenReview) -> ContentsOut:
    """Correct what fields were taken for: kind, order of components, shear, averaged before import, unit."""
    review.correct_fields(result, stated.fields, stated.entries)
    return result_contents(result, review)


@router.put("/results/{result}/steps")
def state_steps(result: int, stated: StepsIn, review: OpenReview) -> ContentsOut:
    """State what the steps stand for: times, load factors, frequencies, modes."""
    review.set_steps(result, stated.kind, stated.values)
    return result_contents(result, review)


@router.put("/results/{result}/materials")
def state_constants(result: int, stated: ConstantsIn, review: OpenReview) -> ContentsOut:
    review.set_constants(result, stated.material, stated.constants)
    return result_contents(result, review)


@router.put("/results/{result}/rigid")
def state_rigid(result: int, stated: RigidIn, review: OpenReview) -> ContentsOut:
    """State that a part is a rigid body, or that it gives."""
    review.set_rigid(result, stated.part, stated.rigid)
    return result_contents(result, review)


@router.put("/results/{result}/model")
def state_model(result: int, stated: ModelIn, review: OpenReview) -> ContentsOut:
    """State what a planar model stands for."""
    review.set_model(result, stated.model)
    return result_contents(result, review)


@router.put("/results/{result}/mirror")
def state_mirror(result: int, stated: MirrorIn, review: OpenReview) -> ContentsOut:
    """State that a result is half of a body: sums over sets are then those of the whole."""
    review.set_mirror(result, stated.axis, stated.at)
    return result_contents(result, review)


@router.put("/results/{result}/axes")
def keep_axes(result: int, stated: AxesIn, review: OpenReview) -> MadeAxes:
    """Make axes and keep them with the result: by three points or nodes, or fitted to picked faces."""
    name, direction = make_axes(result, stated, review)
    return MadeAxes(name=name, direction=direction)


@router.delete("/results/{result}/axes/{name}")
def remove_axes(result: int, name: str, review: OpenReview) -> ContentsOut:
    review.remove_axes(result, name)
    return result_contents(result, review)


@router.get("/results/{result}/export/{suffix}", response_class=FileResponse)
@reaches("whole")
def exported(result: int, suffix: str, review: OpenReview, step: int | None = None) -> FileResponse:
    """A result as a file: one step as VTU, all (or one) as VTKHDF or a universal file. What is lost is told in a header."""
    source = review.result(result)
    if step is not None and not 0 <= step < len(source.steps):
        raise Impossible(f"There is no step {step}.", f"Steps run from 0 to {len(source.steps) - 1}.")
    folder = tempfile.TemporaryDirectory(prefix=".export-", dir=review.path.parent)
    try:
        target = Path(folder.name) / f"{safe_name(source.name)}{'' if step is None else f' step {step + 1}'}.{suffix}"
        lost = export(source, target, computed(source.steps) if step is None else [step])
    except BaseException:
        folder.cleanup()
        raise
    said = "; ".join(lost).encode("ascii", "replace").decode()
    return FileResponse(target, filename=target.name, headers={"X-Not-Carried": said}, background=BackgroundTask(folder.cleanup))


@router.get("/results/{result}/set.{form}", response_class=Response)
@reaches("whole")
def set_table(result: int, form: Form, query: Annotated[SetQuery, Query()], review: OpenReview) -> Response:
    """A reading at every node of a set as CSV or XLSX."""
    source = review.result(result)
    answer = answers.read(query.reading(), source, f"set:{query.name}")
    rows = answer["values"]
    unit, length = answer["unit"], source.system.length
    names = ("node", "element", "x", "y", "z", f"{query.field} {query.measure}".strip())
    units = (None, None, length, length, length, unit)
    columns = (
        [r["node"] for r in rows],
        ["" if r["element"] is None else r["element"] for r in rows],
        *([r["xyz"][i] for r in rows] for i in range(3)),
        [float("nan") if r["value"] is None else r["value"] for r in rows],
    )
    title = f"{source.name} {query.name} {answer['sentence']}"[:120]
    return table(form, names, units, columns, title, answer["sentence"])
