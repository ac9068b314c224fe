"""Routes of the Balance bay: what forces add up to, through cuts and at joints, sets made here, checks by hand and of sense."""

from __future__ import annotations

from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query

from ironstone import answers
from ironstone.core.balance import Resultant, over_faces
from ironstone.core.bars import axial_force, joint
from ironstone.core.doubts import doubts, peak_over_meshes
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.extremes import extremes
from ironstone.core.fields import Source
from ironstone.core.mesh import Float
from ironstone.core.reading import plane_of, resolve
from ironstone.core.section import through_plane
from ironstone.core.sets import nodes_by_value, nodes_in_box, nodes_of_face, nodes_of_part
from ironstone.core.units import product
from ironstone.service.deps import OpenReview, surface
from ironstone.service.routes_results import result_contents
from ironstone.service.schemas import (
    BalanceOut,
    BarOut,
    CheckIn,
    CheckOut,
    ChecksTaken,
    ContentsOut,
    CutOut,
    DoubtOut,
    FacesOut,
    FacesQuery,
    JointOut,
    ResultantOut,
    SetIn,
)
from ironstone.store import Review
from ironstone.store.review import Item
from ironstone.store.source import ReviewSource

router = APIRouter(tags=["balance"])
PointText = Annotated[str | None, Query(pattern=r"^[^,]+,[^,]+,[^,]+$")]


def _out(found: Resultant) -> ResultantOut:
    return ResultantOut(force=found.force.tolist(), moment=found.moment.tolist())


@router.get("/results/{result}/balance")
def load_balance(result: int, step: int, review: OpenReview, about: PointText = None, deformed: bool = False) -> BalanceOut:
    """Applied against reaction at a step, over all nodes and set by set."""
    source = review.result(result)
    told = answers.balance_answer(source, step, _number_point(about), deformed)
    return BalanceOut.model_validate(told)


def _number_point(text: str | None) -> Float | None:
    if text is None:
        return None
    try:
        point = np.array([float(v) for v in text.split(",")])
    except ValueError:
        point = np.full(3, np.nan)
    if not np.isfinite(point).all():
        raise IronstoneError(f"'{text}' is not a point.", "Write three numbers, like 0,0,1.")
    return point


@router.get("/results/{result}/cut")
def cut_force(result: int, step: int, origin: str, normal: str, review: OpenReview, about: PointText = None) -> CutOut:
    """Force and moment through a plane, from stress, checked by what acts beyond it."""
    source = review.result(result)
    place = _number_point(origin)
    assert place is not None
    found = through_plane(source, step, place, np.array(plane_of(normal)), _number_point(about))
    return CutOut(
        through=_out(found.through),
        beyond=_out(found.beyond) if found.beyond else None,
        area=found.area,
        area_unit=f"{source.system.length}²",
        centre=found.centre.tolist(),
        residual_share=found.residual_share,
        force_unit=source.system.force,
        moment_unit=product(source.system.force, source.system.length),
        note=" ".join([*found.notes, *(["Of the half alone, without its mirror image."] if source.setup.mirror else [])]),
    )


@router.get("/results/{result}/face-force")
def face_force(result: int, query: Annotated[FacesQuery, Query()], review: OpenReview) -> FacesOut:
    """Force and moment through picked faces, from stress and as they are loaded and held; pressure times area."""
    source = review.result(result)
    if query.pressure is not None and not np.isfinite(query.pressure):
        raise IronstoneError("That pressure is no number.", f"Write it in {source.system.stress}.")
    found = over_faces(source, query.step, query.look(), query.face, query.fold, query.pressure)
    return FacesOut(
        through=_out(found.through) if found.through else None,
        acting=_out(found.acting) if found.acting else None,
        pushed=_out(found.pushed) if found.pushed else None,
        count=found.count,
        area=found.area,
        area_unit=f"{source.system.length}²",
        projected=found.area_vector.tolist(),
        centre=found.centre.tolist(),
        inner=found.inner,
        residual_share=found.residual_share,
        force_unit=source.system.force,
        moment_unit=product(source.system.force, source.system.length),
        stress_unit=source.system.stress,
        note="Of the half alone, without its mirror image." if source.setup.mirror else "",
    )


@router.get("/results/{result}/joints/{node}")
def joint_forces(result: int, node: int, step: int, review: OpenReview) -> JointOut:
    """The forces of the bars that meet at a node, and what acts on it."""
    source = review.result(result)
    found = joint(source, source.mesh.node_position(node), step)
    _, where = axial_force(source, step)
    bars = [
        BarOut(element=int(source.mesh.element_ids[e]), axial=float(n), pull=p.tolist())
        for e, n, p in zip(found.elements, found.axial, found.pulls, strict=True)
    ]
    return JointOut(
        node=node,
        bars=bars,
        applied=found.applied.tolist(),
        reaction=found.reaction.tolist(),
        residual=found.residual.tolist(),
        force_unit=source.system.force,
        source=where,
    )


@router.get("/results/{result}/doubts")
def sense_checks(result: int, step: int, review: OpenReview) -> list[DoubtOut]:
    """Whether the result makes sense at a step; each check with what to do about it."""
    source = review.result(result)
    mesh = source.mesh
    return [
        DoubtOut(
            name=d.name,
            verdict=d.verdict,
            said=d.said,
            do=d.do,
            node=int(mesh.node_ids[d.node]) if d.node >= 0 else None,
            xyz=mesh.points[d.node].tolist() if d.node >= 0 else None,
        )
        for d in [*doubts(source, step, answers.held_sets(source)), peak_over_meshes(_meshes(review, source, step))]
    ]


def _meshes(review: Review, source: ReviewSource, step: int) -> list[tuple[str, Source, int]]:
    """The results of the review that hold the same body at the same load as a step: the same box within 1 %, the same parts."""
    box = np.array([source.mesh.points.min(0), source.mesh.points.max(0)])
    here = source.steps[step]
    found: list[tuple[str, Source, int]] = [(source.name, source, step)]
    for other in review.results():
        mesh = other.mesh
        if other.id == source.id or len(mesh.part_names) != len(source.mesh.part_names):
            continue
        if np.abs(np.array([mesh.points.min(0), mesh.points.max(0)]) - box).max() > 0.01 * source.mesh.size:
            continue
        same = [s.index for s in other.steps if s.kind == here.kind and np.isclose(s.value, here.value, rtol=1e-6, atol=1e-12)]
        if same:
            found.append((other.name, other, same[0]))
    return found


@router.post("/results/{result}/sets")
def make_set(result: int, stated: SetIn, review: OpenReview) -> ContentsOut:
    """Make a node set and keep it with the result."""
    source = review.result(result)
    mesh = source.mesh
    if stated.how == "part":
        nodes, how = nodes_of_part(mesh, stated.part), f"part {stated.part}"
    elif stated.how == "box":
        if stated.low is None or stated.high is None:
            raise IronstoneError("A box has two corners.", "Give the lowest and the highest x, y, z.")
        nodes, how = nodes_in_box(mesh, np.array(stated.low), np.array(stated.high)), f"in the box {stated.low} to {stated.high}"
    elif stated.how == "face":
        nodes = nodes_of_face(mesh, surface(source, stated.look.look()), stated.face, stated.fold)
        how = f"a face and what joins it within {stated.fold:g}°"
    elif stated.how == "nodes":
        if not stated.nodes:
            raise IronstoneError("No node is named.", "Click nodes on the model, or write their numbers.")
        nodes, how = np.unique([mesh.node_position(n) for n in stated.nodes]), f"{len(set(stated.nodes))} nodes picked"
    else:
        if stated.reading is None:
            raise IronstoneError("There is no reading to go by.", "Choose one in the reading line.")
        reading = stated.reading.reading()
        nodes = nodes_by_value(reading, source, stated.least)
        how = f"{resolve(reading, source).sentence()}, at least {stated.least:g}"
    review.make_set(result, stated.name.strip(), nodes, how)
    return result_contents(result, review)


@router.delete("/results/{result}/sets/{name}")
def remove_set(result: int, name: str, review: OpenReview) -> ContentsOut:
    review.remove_set(result, name)
    return result_contents(result, review)


# Hand checks


def _check(review: Review, item: Item) -> CheckOut:
    stated = CheckIn.model_validate(item.payload)
    value, unit, sentence = None, "", ""
    try:
        source = review.result(stated.result)
        value, unit, sentence = _checked_value(source, stated)
    except IronstoneError as error:
        sentence = str(error)
    off = None if value is None or stated.expected == 0 else value / stated.expected - 1
    if value is not None and stated.expected == 0:
        verdict = "agrees" if abs(value) <= stated.tolerance else "fails"
    else:
        verdict = "not checked" if off is None else "agrees" if abs(off) <= stated.tolerance else "fails"
    return CheckOut(id=item.id, **stated.model_dump(), value=value, unit=unit, sentence=sentence, off=off, verdict=verdict)


def _checked_value(source: ReviewSource, stated: CheckIn) -> tuple[float | None, str, str]:
    reading = stated.reading.reading()
    resolved = resolve(reading, source)
    if stated.at in ("max", "min"):
        _, low, high = extremes(reading, source)
        found = high if stated.at == "max" else low
        return (answers.number(found.value) if found else None), resolved.unit, f"{stated.at} of {resolved.sentence()}"
    told: dict[str, Any] = answers.read(reading, source, stated.at)
    values = [v["value"] for v in told["values"] if v["value"] is not None]
    if not values:
        raise Impossible("There is no value at that place.", "Check the place and the reading.")
    return float(np.mean(values)), told["unit"], f"{told['sentence']}, at {stated.at}{' (mean)' if len(values) > 1 else ''}"


@router.get("/checks")
def hand_checks(result: int, review: OpenReview) -> list[CheckOut]:
    """Every hand check of a result, read anew."""
    return [_check(review, i) for i in review.items("check") if i.payload["result"] == result]


@router.get("/checks/elsewhere")
def checks_elsewhere(result: int, review: OpenReview) -> dict[int, int]:
    """How many hand checks other results have, by result, that this one has not under their names."""
    mine = {i.payload["name"] for i in review.items("check") if i.payload["result"] == result}
    shown = {r.id for r in review.results()}
    found: dict[int, int] = {}
    for item in review.items("check"):
        other = item.payload["result"]
        if other in shown - {result} and item.payload["name"] not in mine:
            found[other] = found.get(other, 0) + 1
    return found


@router.post("/checks")
def keep_check(check: CheckIn, review: OpenReview) -> CheckOut:
    source = review.result(check.result)
    _checked_value(source, check)
    return _check(review, review.add("check", check.model_dump(), f"Hand check '{check.name}' kept"))


@router.post("/checks/taken")
def take_checks(stated: ChecksTaken, review: OpenReview) -> list[CheckOut]:
    """Keep another result's hand checks for this one too, by name: those that are here already stay as they are."""
    review.result(stated.to)
    here = {i.payload["name"] for i in review.items("check") if i.payload["result"] == stated.to}
    for item in review.items("check"):
        if item.payload["result"] == stated.of and item.payload["name"] not in here:
            review.add("check", {**item.payload, "result": stated.to}, f"Hand check '{item.payload['name']}' taken over")
    return hand_checks(stated.to, review)


@router.delete("/checks/{check}", status_code=204)
def remove_check(check: int, review: OpenReview) -> None:
    name = review.item(check, "check").payload["name"]
    review.remove(check, f"Hand check '{name}' removed")
