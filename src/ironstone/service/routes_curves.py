"""Routes of named curves: traces and what is worked out of them, over the steps."""

from __future__ import annotations

from fastapi import APIRouter, Response

from ironstone.core.curves.arithmetic import FUNCTIONS
from ironstone.core.field.loadings import axis_of
from ironstone.engine.base import ask, keep
from ironstone.engine.curves.named import NamedIn, NamedOut, named_of, named_out
from ironstone.engine.motion.response import Response as FrequencyResponse
from ironstone.engine.motion.response import universal_of
from ironstone.engine.tabled import Form
from ironstone.service.deps import OpenReview, table
from ironstone.service.turns import InTurn, reaches

router = APIRouter(tags=["curves"], route_class=InTurn)


@router.get("/functions")
def functions() -> dict[str, str]:
    """The functions an expression may use, each with what it does."""
    return {name: answer for name, (_, _, answer) in FUNCTIONS.items()}


@router.get("/named")
def named(result: int, review: OpenReview) -> list[NamedOut]:
    return named_of(review, result)


@router.post("/named")
def keep_named(curve: NamedIn, review: OpenReview) -> NamedOut:
    """Keep a curve under a name; another of that name is replaced."""
    return named_out(review, keep(review, curve), curve)


@router.get("/results/{result}/curves.{form}", response_class=Response)
def curves_table(form: Form, result: int, review: OpenReview) -> Response:
    """All named curves over the steps as CSV."""
    source = review.result(result)
    answer = [c for c in named_of(review, result) if c.error is None]
    axis = axis_of(source.steps)
    missing = float("nan")
    return table(
        form,
        (axis.kind, *(c.name for c in answer)),
        (axis.unit, *(c.unit for c in answer)),
        (axis.values, *([missing if v is None else v for v in c.values] for c in answer)),
        f"{source.name} curves",
    )


@router.post("/responses/uff", response_class=Response)
@reaches("place")
def response_function(asked: FrequencyResponse, review: OpenReview) -> Response:
    """A frequency response as a function of a universal file (dataset 58)."""
    return Response(universal_of(ask(review, asked)), media_type="text/plain")
