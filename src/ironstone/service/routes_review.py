"""Routes of the review as a whole: which are there, which is open, what was changed, undo, and what was removed."""

from __future__ import annotations

import tempfile
from functools import partial
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, StreamingResponse
from starlette.background import BackgroundTask

from ironstone.engine.base import Removed, bring_back, removed_things
from ironstone.service.changes import Changes
from ironstone.service.deps import OpenReview, OpenShelf, safe_name
from ironstone.service.routes_results import review_overview
from ironstone.service.schemas import Bytes, CopySizes, NameIn, ReviewFileIn, ReviewNameIn, ReviewOut, ShelfOut, Undone, Waiting
from ironstone.service.turns import PAGE, Turns
from ironstone.store.copies import copy_review, sizes
from ironstone.store.discarding import discard_removed, removed_bytes

router = APIRouter(tags=["review"])


@router.put("/review/name")
def rename_review(stated: NameIn, review: OpenReview, shelf: OpenShelf) -> ReviewOut:
    review.rename(stated.name)
    return review_overview(review, shelf)


@router.get("/reviews")
def reviews(shelf: OpenShelf, review: OpenReview) -> ShelfOut:
    """The reviews of the bench's folders, the last changed first."""
    return ShelfOut(folders=[f.name or str(f) for f in shelf.folders], reviews=shelf.reviews(review))


@router.post("/reviews")
def make_review(stated: ReviewNameIn, shelf: OpenShelf) -> ReviewOut:
    """Make a review and open it; windows that have another one keep it."""
    return review_overview(shelf.make(stated.name, stated.folder), shelf)


@router.post("/reviews/open")
def open_review(stated: ReviewFileIn, shelf: OpenShelf) -> ReviewOut:
    """Open another review; windows that have another one keep it."""
    return review_overview(shelf.open(stated.file, stated.folder), shelf)


@router.post("/undo")
def undo(review: OpenReview) -> Undone:
    """Take the last change back; refused where that is not the one the page has seen (If-Match)."""
    return Undone(label=review.undo())


@router.post("/redo")
def redo(review: OpenReview) -> Undone:
    return Undone(label=review.redo())


@router.get("/removed")
def removed(review: OpenReview) -> list[Removed]:
    """What was removed and can be brought back, the last first."""
    return removed_things(review)


@router.get("/removed/size")
def removed_size(review: OpenReview) -> Bytes:
    """How much of the review is of what was removed."""
    return Bytes(bytes=removed_bytes(review))


@router.delete("/removed")
def discard_all_removed(review: OpenReview) -> Bytes:
    """Remove for good all that was removed; it cannot be undone. How much smaller the review is."""
    return Bytes(bytes=discard_removed(review))


@router.post("/removed/{item}", status_code=204)
def restore(item: int, review: OpenReview) -> None:
    bring_back(review, item)


@router.get("/events", response_class=StreamingResponse)
async def events(request: Request, review: OpenReview, shelf: OpenShelf) -> StreamingResponse:
    """A line whenever the review was changed, by whatever window or program."""
    changes: Changes = request.app.state.changes
    return StreamingResponse(
        changes.told(review.path, partial(shelf.at, shelf.name_of(review))),
        media_type="text/event-stream",
        headers={"Cache-Control": "no-store"},
    )


@router.get("/turns")
def turns_before(request: Request) -> Waiting:
    """How many heavy questions come before the first of this page (header X-Page) that waits its turn, and how far a table is."""
    turns: Turns = request.app.state.turns
    page = request.headers.get(PAGE, "")
    return Waiting(before=turns.before_page(page), far=turns.far(page))


@router.get("/review/copies")
def copy_sizes(review: OpenReview) -> CopySizes:
    """How many bytes a whole and a lean copy of the review would have."""
    found = sizes(review)
    return CopySizes(whole=found.whole, lean=found.lean)


@router.get("/review/copy", response_class=FileResponse)
def copy_out(review: OpenReview, lean: bool = False) -> FileResponse:
    """A copy of the review as one file, whole or without meshes and values; its SHA-256 in a header."""
    folder = tempfile.TemporaryDirectory(prefix=".copy-", dir=review.path.parent)
    try:
        target = Path(folder.name) / f"{safe_name(review.name)}{' lean' if lean else ''}.ironstone"
        digest = copy_review(review, target, lean)
    except BaseException:
        folder.cleanup()
        raise
    return FileResponse(target, filename=target.name, headers={"X-SHA-256": digest}, background=BackgroundTask(folder.cleanup))
