"""Routes of steps that are made of others. What is asked of them is asked like anything else."""

from __future__ import annotations

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from ironstone.core.field.combined import combination_of
from ironstone.engine.compare.combinations import bring_combinations
from ironstone.service.deps import OpenReview, RunningTurns
from ironstone.service.routes_results import result_contents
from ironstone.service.schemas import ContentsOut
from ironstone.service.stated import CombinationsIn, CostIn
from ironstone.service.turns import InTurn
from ironstone.service.uploads import bounded

router = APIRouter(tags=["compare"], route_class=InTurn)


@router.put("/results/{result}/combinations")
def state_combinations(result: int, stated: CombinationsIn, review: OpenReview) -> ContentsOut:
    """State steps made of others, each written NAME=STEP:FACTOR,STEP:FACTOR; those of the same names are replaced."""
    review.set_combinations(result, [combination_of(text) for text in stated.combinations])
    return result_contents(result, review)


@router.post("/results/{result}/combinations")
async def bring(
    request: Request, result: int, review: OpenReview, turns: RunningTurns, name: str = Query(min_length=1, max_length=200)
) -> ContentsOut:
    """State the combinations of a table of factors (the body of the request): a header with the steps, a row a combination."""
    data = await bounded(request, name)
    await turns.work(request, bring_combinations, review, result, data, name)
    return await run_in_threadpool(result_contents, result, review)


@router.put("/results/{result}/cost")
def state_cost(result: int, stated: CostIn, review: OpenReview) -> ContentsOut:
    """State what the run of a result took."""
    review.set_cost(result, stated.name, stated.value)
    return result_contents(result, review)


@router.delete("/results/{result}/combinations")
def remove_combination(result: int, name: str, review: OpenReview) -> ContentsOut:
    review.remove_combination(result, name)
    return result_contents(result, review)
