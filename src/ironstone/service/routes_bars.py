"""Routes of bars and beams: members beside their hand calculation, values along them, and which take over force."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from ironstone.engine.statics.members import AlongOut, TakenOverOut, along_member, taken
from ironstone.engine.words import ReadingQuery
from ironstone.service.deps import OpenReview
from ironstone.service.turns import InTurn, reaches

router = APIRouter(tags=["bars"], route_class=InTurn)


@router.get("/results/{result}/members/{member}/along")
@reaches("whole")
def along(result: int, member: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> AlongOut:
    """The reading along a member (numbered from 1) at the step, and the largest in size it has had so far."""
    return along_member(review.result(result).at(query.step), member, query)


@router.get("/results/{result}/members/taken-over")
@reaches("whole")
def taken_over(result: int, last: int, review: OpenReview, first: int | None = None) -> TakenOverOut:
    """Which members take over force between two steps; from the first loaded step where none is named."""
    return taken(review.result(result), last, first)
