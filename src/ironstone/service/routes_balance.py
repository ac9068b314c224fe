"""Routes of the Balance bay: what forces add up to, through cuts and at joints, sets made here, checks by hand and of sense."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from ironstone.engine.base import keep
from ironstone.engine.kept.checks import CheckIn, CheckOut, ChecksTaken, check_of, checks_elsewhere, hand_checks, take_checks
from ironstone.engine.reading.sets import SetIn, make_set
from ironstone.engine.statics.balance import FacesQuery, face_force, joint_forces
from ironstone.engine.statics.particulars import FacesOut, JointOut
from ironstone.service.deps import OpenReview
from ironstone.service.routes_results import result_contents
from ironstone.service.schemas import ContentsOut, NameIn
from ironstone.service.turns import InTurn, reaches

router = APIRouter(tags=["balance"], route_class=InTurn)
PointText = Annotated[str | None, Query(pattern=r"^[^,]+,[^,]+,[^,]+$")]


@router.get("/results/{result}/face-force")
@reaches("whole")
def force_on_faces(result: int, query: Annotated[FacesQuery, Query()], review: OpenReview) -> FacesOut:
    """Force and moment through picked faces, from stress and as they are loaded and held; pressure times area."""
    return face_force(review.result(result).at(query.step), query)


@router.get("/results/{result}/joints/{node}")
@reaches("whole")
def joint_at(result: int, node: int, step: int, review: OpenReview) -> JointOut:
    """The forces of the bars that meet at a node, and what acts on it."""
    return joint_forces(review.result(result).at(step), node, step)


@router.post("/results/{result}/sets")
@reaches("whole")
def new_set(result: int, stated: SetIn, review: OpenReview) -> ContentsOut:
    """Make a node set and keep it with the result."""
    make_set(result, stated, review)
    return result_contents(result, review)


@router.delete("/results/{result}/sets/{name}")
def remove_set(result: int, name: str, review: OpenReview) -> ContentsOut:
    review.remove_set(result, name)
    return result_contents(result, review)


@router.put("/results/{result}/sets/{name}/name")
def rename_set(result: int, name: str, stated: NameIn, review: OpenReview) -> ContentsOut:
    review.rename_set(result, name, stated.name)
    return result_contents(result, review)


@router.post("/results/{result}/sets/{name}/back")
def bring_back_set(result: int, name: str, review: OpenReview) -> ContentsOut:
    """Bring back a set that was made here and removed."""
    review.bring_back_set(result, name)
    return result_contents(result, review)


# Hand checks


@router.get("/checks")
@reaches("whole")
def checks(result: int, review: OpenReview) -> list[CheckOut]:
    """Every hand check of a result, read anew."""
    return hand_checks(result, review)


@router.get("/checks/elsewhere")
def elsewhere(result: int, review: OpenReview) -> dict[int, int]:
    """How many hand checks other results have, by result, that this one has not under their names."""
    return checks_elsewhere(result, review)


@router.post("/checks")
@reaches("whole")
def keep_check(check: CheckIn, review: OpenReview) -> CheckOut:
    return check_of(review, keep(review, check), check)


@router.post("/checks/taken")
@reaches("whole")
def checks_taken(stated: ChecksTaken, review: OpenReview) -> list[CheckOut]:
    """Keep another result's hand checks for this one too, by name: those that are here already stay as they are."""
    return take_checks(stated, review)
