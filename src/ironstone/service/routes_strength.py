"""Routes of strength: laminates stated of a result, coupons and tested parts brought in as files. The rest is asked and kept."""

from __future__ import annotations

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from ironstone.engine.base import keep
from ironstone.engine.strength.coupons import coupons_of, with_basis
from ironstone.engine.strength.part_tests import part_tests_of
from ironstone.engine.strength.stacks import bring_laminates
from ironstone.service.deps import OpenReview, RunningTurns
from ironstone.service.routes_asked import KeptOut, out
from ironstone.service.routes_results import result_contents
from ironstone.service.schemas import ContentsOut
from ironstone.service.stated import BasisIn, LaminatesIn
from ironstone.service.turns import InTurn, reaches
from ironstone.service.uploads import bounded
from ironstone.store import Review

router = APIRouter(tags=["strength"], route_class=InTurn)


@router.put("/results/{result}/laminates")
def state_laminates(result: int, stated: LaminatesIn, review: OpenReview) -> ContentsOut:
    """State the laminates of a result, as their file holds them; no content takes them back."""
    review.set_laminates(result, stated.content, stated.name, by_hand=True)
    return result_contents(result, review)


@router.post("/results/{result}/laminates")
async def bring(
    request: Request, result: int, review: OpenReview, turns: RunningTurns, name: str = Query(min_length=1, max_length=200)
) -> ContentsOut:
    """State laminates by a file (the body of the request): JSON, a table of plies, or a table of materials."""
    data = await bounded(request, name)
    await turns.work(request, bring_laminates, review, result, data, name)
    return await run_in_threadpool(result_contents, result, review)


@router.put("/results/{result}/laminates/basis")
def take_basis(result: int, stated: BasisIn, review: OpenReview) -> ContentsOut:
    """State a ply material's strengths by what coupons say of them."""
    with_basis(review, result, stated.coupons, stated.material, stated.number)
    return result_contents(result, review)


@router.post("/coupons")
async def bring_coupons(
    request: Request,
    review: OpenReview,
    turns: RunningTurns,
    name: str = Query(min_length=1, max_length=200),
    material: str = Query("", max_length=200),
) -> KeptOut:
    """Take coupons in as a file (the body of the request); those of the same name are replaced."""
    data = await bounded(request, name)
    return await turns.work(request, _bring_coupons, review, data, name, material)


def _bring_coupons(review: Review, data: bytes, name: str, material: str) -> KeptOut:
    found = coupons_of(data, name, material)
    return out(keep(review, found), found)


@router.post("/results/{result}/part-tests")
@reaches("whole")
async def bring_part_tests(
    request: Request,
    result: int,
    review: OpenReview,
    turns: RunningTurns,
    name: str = Query(min_length=1, max_length=200),
    per_factor: float = Query(1.0, gt=0, allow_inf_nan=False, description="The load at a load factor of 1."),
) -> KeptOut:
    """Take tested parts in as a file (the body of the request); those of the same name are replaced."""
    data = await bounded(request, name)
    return await turns.work(request, _bring_part_tests, review, result, data, name, per_factor)


def _bring_part_tests(review: Review, result: int, data: bytes, name: str, per_factor: float) -> KeptOut:
    found = part_tests_of(review.result(result), data, name, per_factor)
    return out(keep(review, found), found)
