"""Routes of what the analyst makes: flags, views, curves, test records, matches, exhibits, and undo."""

from __future__ import annotations

import base64
import json
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response

from ironstone.core.errors import NotFound
from ironstone.engine.base import keep
from ironstone.engine.curves.matches import MatchOut, OverlayOut, match_of, overlay
from ironstone.engine.curves.pairings import PairingIn, PairingOut, paired, pairings_of
from ironstone.engine.curves.printed import PrintedIn, read_printed
from ironstone.engine.curves.records import (
    MeanIn,
    Record,
    TestOut,
    bring,
    make_mean,
    records_of,
    remove_record,
    use_record,
)
from ironstone.engine.curves.uses import TestUse
from ironstone.engine.kept.exhibits import (
    Again,
    ExhibitEdit,
    ExhibitIn,
    ExhibitKept,
    ExhibitOut,
    PhotographIn,
    ShownIn,
    asked_again,
    edit_exhibit,
    keep_exhibit,
    photographed,
    shown_words,
)
from ironstone.engine.kept.outline import Arranged, Rearrange, arranged, exhibits_of, rearrange
from ironstone.engine.picture.leaf import leaf_of
from ironstone.engine.reading.flags import FlagAnswer, FlagEdit, FlagIn, FlagOut, flag_answer, flags_of, named
from ironstone.engine.recipes.made import Offered, offers_of, recipe_of
from ironstone.engine.recipes.replayed import side_by_side
from ironstone.engine.report.html import report_html, turning_size
from ironstone.engine.report.pdf import report_pdf
from ironstone.engine.words import ReadingQuery
from ironstone.service.deps import OpenReview, RunningJobs, RunningTurns, safe_name
from ironstone.service.jobs import Made, Progress
from ironstone.service.schemas import BesideOut, Bytes, JobOut, Said
from ironstone.service.turns import InTurn, reaches
from ironstone.service.uploads import bounded
from ironstone.store import Review

router = APIRouter(tags=["made"], route_class=InTurn)


# Flags


@router.get("/flags")
def flags(review: OpenReview, result: int) -> list[FlagOut]:
    return flags_of(review, result)


@router.post("/flags")
def plant_flag(flag: FlagIn, review: OpenReview) -> FlagOut:
    item = keep(review, flag)
    return FlagOut(id=item.id, revision=item.revision, **flag.model_dump())


@router.put("/flags/{flag}")
def name_flag(flag: int, edit: FlagEdit, review: OpenReview) -> FlagOut:
    return named(review, flag, edit)


@router.get("/flags/{flag}/answer")
@reaches("place")
def flag_values(flag: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> FlagAnswer:
    """What the flag says of a reading."""
    planted = FlagIn.understood(review.item(flag, "flag").payload)
    return flag_answer(review.result(planted.result).at(query.step), query, planted)


# Pairings


@router.get("/pairings")
def pairings(review: OpenReview, result: int) -> list[PairingOut]:
    return pairings_of(review, result)


@router.post("/pairings")
def make_pairing(spec: PairingIn, review: OpenReview) -> PairingOut:
    return paired(review, spec, keep(review, spec))[1]


@router.put("/pairings/{pairing}")
def change_pairing(pairing: int, spec: PairingIn, review: OpenReview) -> PairingOut:
    review.item(pairing, "pairing")
    spec.check(review)
    return paired(review, spec, review.change(pairing, spec.written(), f"Curve '{spec.name}' changed"))[1]


# Test records


@router.post("/tests")
async def bring_test(
    request: Request, review: OpenReview, turns: RunningTurns, name: str = Query(max_length=200), pairing: int | None = None
) -> TestOut:
    """Take a CSV record in (the body of the request), to be held against a curve, and guess which column is what."""
    data = await bounded(request, name)
    # Read beside the service's other work, which a large record would hold up.
    return await turns.work(request, bring, review, data, name, pairing)


@router.post("/tests/mean")
def mean_of_tests(stated: MeanIn, review: OpenReview) -> TestOut:
    """Several specimens in one: their mean, with how far they scatter."""
    return make_mean(stated, review)


@router.post("/tests/printed")
def printed_test(stated: PrintedIn, review: OpenReview) -> TestOut:
    """A printed curve read off its picture by marked axes; the picture is kept with the record."""
    return read_printed(stated, review)


@router.get("/tests/{test}/picture", response_class=Response)
def printed_picture(test: int, review: OpenReview) -> Response:
    picture = Record.understood(review.item(test, "test").payload).picture
    if picture is None:
        raise NotFound("That record was not read off a picture.")
    _, media_type, data = review.attachment(picture)
    return Response(data, media_type=media_type)


@router.get("/tests")
def tests(review: OpenReview) -> list[TestOut]:
    return records_of(review)


@router.put("/tests/{test}")
def change_test(test: int, use: TestUse, review: OpenReview) -> TestOut:
    """Say anew which column is what, its unit, sign and zero, and the accept limits."""
    return use_record(review, test, use)


@router.delete("/tests/{test}", status_code=204)
def remove_test(test: int, review: OpenReview) -> None:
    remove_record(review, test)


@router.get("/matches")
def match_with(review: OpenReview, pairing: int, test: int, cycles: str = Query("", max_length=400)) -> MatchOut:
    """A curve held against a test record; cycles: of these alone, 2,3."""
    return match_of(review, pairing, test, cycles)


@router.get("/overlays")
def overlay_of(review: OpenReview, pairing: int, test: int, cycles: str = Query("", max_length=400)) -> OverlayOut:
    """A corrected record in the units of a curve, to be drawn on it; cycles: what goes with these alone, 2,3."""
    return overlay(review, pairing, test, cycles)


# Exhibits


@router.get("/exhibits")
def exhibits(review: OpenReview) -> list[ExhibitOut]:
    return exhibits_of(review)


@router.get("/outline")
def outline(review: OpenReview) -> Arranged:
    """The exhibits in their chapters, and the question the review answers."""
    return arranged(review)


@router.post("/outline")
def rearrange_exhibits(change: Rearrange, review: OpenReview) -> Arranged:
    """Change the order of the exhibits, their chapters or the question."""
    return rearrange(review, change)


@router.put("/exhibits/{exhibit}/photograph")
def photograph_beside(exhibit: int, stated: PhotographIn, review: OpenReview) -> ExhibitOut:
    """Put a photograph beside an exhibit, or take it away."""
    return photographed(review, exhibit, stated)


@router.get("/exhibits/{exhibit}/photograph", response_class=Response)
def exhibit_photograph(exhibit: int, review: OpenReview) -> Response:
    return _attachment(review, exhibit, "photograph")


@router.post("/report/{form}")
def begin_report(form: Literal["html", "turns", "pdf"], review: OpenReview, jobs: RunningJobs) -> JobOut:
    """Begin to make the report of the review, as HTML, as HTML whose views turn, or as PDF: a job whose file is fetched."""

    def work(tell: Progress) -> int:
        data = report_pdf(review, tell) if form == "pdf" else report_html(review, tell, form == "turns").encode()
        suffix, kind = ("pdf", "application/pdf") if form == "pdf" else ("html", "text/html; charset=utf-8")
        return tell.has_made(Made(f"{safe_name(review.name)} report.{suffix}", kind, data))

    return jobs.start(work)


@router.get("/jobs/{job}/file", response_class=Response)
def fetch_file(job: str, jobs: RunningJobs) -> Response:
    """The file a job has made, once."""
    made = jobs.fetch(job)
    return Response(made.data, media_type=made.kind, headers={"Content-Disposition": f'attachment; filename="{made.name}"'})


@router.get("/report/turning")
@reaches("whole")
def report_turning(review: OpenReview) -> Bytes:
    """About how much larger the report is whose views turn."""
    return Bytes(bytes=turning_size(review))


@router.get("/recipe/offers")
def recipe_offers(review: OpenReview, result: int | None = None) -> list[Offered]:
    """What of the recipe of a result can be made a parameter."""
    return offers_of(recipe_of(review, result))


@router.get("/recipe.json", response_class=Response)
def recipe_of_review(
    review: OpenReview, result: int | None = None, parameter: Annotated[list[str] | None, Query()] = None
) -> Response:
    """A recipe of what is kept of a result (the newest): its hand checks as values with limits, its exhibits as tables. parameter:
    what of it is to be one, by the names it offers."""
    made = recipe_of(review, result, parameter or [])
    text = json.dumps(made, indent=1, ensure_ascii=False)
    name = f"{safe_name(review.name)} recipe.json"
    return Response(text, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.post("/exhibits")
def new_exhibit(exhibit: ExhibitIn, review: OpenReview) -> ExhibitOut:
    return keep_exhibit(exhibit, review)


@router.post("/exhibits/shown")
def what_is_shown(shown: ShownIn, review: OpenReview) -> Said:
    """What an exhibit of this would say beside its reading: the caption of its picture."""
    return Said(words=shown_words(shown, review))


@router.post("/exhibits/{exhibit}/again")
@reaches("whole")
def ask_exhibit_again(exhibit: int, review: OpenReview) -> Again:
    """Ask the questions of an exhibit again: what it said and what it says, and which figures are others."""
    return asked_again(review, exhibit)


@router.put("/exhibits/{exhibit}")
def write_on_exhibit(exhibit: int, edit: ExhibitEdit, review: OpenReview) -> ExhibitOut:
    return edit_exhibit(review, exhibit, edit)


@router.get("/exhibits/{exhibit}/picture.png", response_class=Response)
def exhibit_picture(exhibit: int, review: OpenReview) -> Response:
    return _attachment(review, exhibit, "picture")


@router.get("/exhibits/{exhibit}/leaf", response_class=Response)
@reaches("whole")
def exhibit_leaf(exhibit: int, review: OpenReview) -> Response:
    """What an exhibit looks like at a glance: its picture, its view drawn, or its curve."""
    kind, data = leaf_of(review, exhibit)
    return Response(data, media_type=kind)


@router.get("/exhibits/{exhibit}/beside")
@reaches("whole")
def exhibit_beside(exhibit: int, revised: str, review: OpenReview) -> BesideOut:
    """The view of an exhibit drawn of its own result and of another one, from one place with one key."""
    found = side_by_side(review, exhibit, revised)
    then, now = (f"data:image/png;base64,{base64.b64encode(data).decode()}" for data in (found.then, found.now))
    return BesideOut(then=then, now=now, differs=found.differs)


@router.get("/exhibits/{exhibit}/table.csv", response_class=Response)
def exhibit_table(exhibit: int, review: OpenReview) -> Response:
    return _attachment(review, exhibit, "table")


def _attachment(review: Review, exhibit: int, what: str) -> Response:
    number = getattr(ExhibitKept.understood(review.item(exhibit, "exhibit").payload), what)
    if number is None:
        raise NotFound(f"That exhibit has no {what}.")
    name, media_type, data = review.attachment(number)
    safe = "".join(c if c.isalnum() or c in "-_. " else "_" for c in name).encode("ascii", "replace").decode()
    disposition = f'{"attachment" if what == "table" else "inline"}; filename="{safe}"'
    return Response(data, media_type=media_type, headers={"Content-Disposition": disposition})
