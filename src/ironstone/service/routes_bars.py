"""Routes of bars and beams: members beside their hand calculation, values along them, and which take over force."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Response

from ironstone.core.bars import ByHand, Member, along, axial_force, by_hand, first_loaded, members, so_far, taken_over
from ironstone.core.errors import Impossible, NotFound
from ironstone.core.kept import kept_with
from ironstone.core.mesh import Mesh
from ironstone.engine.answers import number
from ironstone.engine.words import ReadingQuery
from ironstone.service.deps import Form, OpenReview, table
from ironstone.service.schemas import AlongOut, MemberOut, MembersOut, ShiftOut, TakenOverOut
from ironstone.store.source import ReviewSource

router = APIRouter(tags=["bars"])


@kept_with(1)
def _members(mesh: Mesh) -> list[Member]:
    return members(mesh)


def _head(mesh: Mesh, at: int, member: Member) -> dict[str, Any]:
    return {"number": at + 1, "part": member.part, "joints": [int(mesh.node_ids[n]) for n in member.nodes[[0, -1]]]}


def _told(source: ReviewSource, step: int) -> list[ByHand]:
    if not 0 <= step < len(source.steps):
        raise Impossible(f"There is no step {step}.", f"Steps run from 0 to {len(source.steps) - 1}.")
    return by_hand(source, step, _members(source.mesh))


@router.get("/results/{result}/members")
def members_of(result: int, step: int, review: OpenReview) -> MembersOut:
    """Every member: its force in the file, and what its joints' displacements, its modulus and its area make of it."""
    source = review.result(result)
    mesh = source.mesh
    told = _told(source, step)
    out = [
        MemberOut(
            **_head(mesh, i, t.member),
            elements=[int(e) for e in mesh.element_ids[t.member.elements]],
            length=t.member.length,
            **{k: number(getattr(t, k)) for k in NUMBERS},
            elastic=t.elastic,
            sense=t.sense,
        )
        for i, t in enumerate(told)
    ]
    lacks = [
        word for k, word in (("young", "Young's modulus"), ("area", "the section area")) if any(getattr(m, k) is None for m in out)
    ]
    return MembersOut(
        members=out,
        source=axial_force(source, step)[1],
        force_unit=source.system.force,
        length_unit=source.system.length,
        stress_unit=source.system.stress,
        missing=f"Not known of every member: {' and '.join(lacks)}. State it in Intake." if lacks else "",
    )


NUMBERS = ("force", "area", "young", "extension", "strain", "stress", "hand_force", "nominal", "yielded", "off")


@router.get("/results/{result}/members.{form}", response_class=Response)
def members_table(form: Form, result: int, step: int, review: OpenReview) -> Response:
    """Members beside their hand calculation as CSV."""
    source = review.result(result)
    told = members_of(result, step, review)
    force, length, stress = told.force_unit, told.length_unit, told.stress_unit
    units = {"force": force, "area": f"{length}²", "young": stress, "extension": length, "strain": "", "stress": stress,
             "hand_force": force, "nominal": stress, "yielded": "", "off": ""}  # fmt: skip
    missing = float("nan")
    return table(
        form,
        ("member", "part", "from node", "to node", "length", *(n.replace("_", " ") for n in NUMBERS), "force over area is"),
        (None, None, None, None, length, *(units[n] for n in NUMBERS), None),
        (
            [m.number for m in told.members],
            [m.part for m in told.members],
            *([m.joints[end] for m in told.members] for end in (0, 1)),
            [m.length for m in told.members],
            *([missing if getattr(m, n) is None else getattr(m, n) for m in told.members] for n in NUMBERS),
            ["the stress" if m.elastic else "nominal" for m in told.members],
        ),
        f"{source.name} members, step {step}",
    )


@router.get("/results/{result}/members/{member}/along")
def along_member(result: int, member: int, query: Annotated[ReadingQuery, Query()], review: OpenReview) -> AlongOut:
    """The reading along a member (numbered from 1) at the step, and the largest in size it has had so far."""
    source = review.result(result)
    found = _members(source.mesh)
    if not 1 <= member <= len(found):
        raise NotFound(f"There is no member {member}.", f"Members run from 1 to {len(found)}.")
    reading = query.reading()
    distance, values = along(source, found[member - 1], reading)
    _, most = along(source, found[member - 1], so_far(reading))
    return AlongOut(
        distance=distance.tolist(),
        values=[number(v) for v in values.values],
        so_far=[number(v) for v in most.values],
        distance_unit=source.system.length,
        unit=values.unit,
        sentence=f"{values.resolved.sentence()}, along member {member}",
        caveats=values.caveats,
    )


@router.get("/results/{result}/members/taken-over")
def taken(result: int, last: int, review: OpenReview, first: int | None = None) -> TakenOverOut:
    """Which members take over force between two steps; from the first loaded step where none is named."""
    source = review.result(result)
    count = len(source.steps)
    start = first_loaded(source, last) if first is None else first
    if not (0 <= start < count and 0 <= last < count):
        raise Impossible("That step is not there.", f"Steps run from 0 to {count - 1}.")
    found = _members(source.mesh)
    shifts, growth, by = taken_over(source, start, last, found)
    place = {id(m): i for i, m in enumerate(found)}
    return TakenOverOut(
        first=start,
        last=last,
        growth=growth,
        by=by,
        force_unit=source.system.force,
        shifts=[
            ShiftOut(
                **_head(source.mesh, place[id(s.member)], s.member),
                **{k: number(getattr(s, k)) for k in ("before", "after", "expected", "gained")},
            )
            for s in shifts
        ],
    )
