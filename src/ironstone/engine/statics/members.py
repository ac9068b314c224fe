"""Members of frames: each beside its hand calculation, values along it, and which take over force."""

from __future__ import annotations

from typing import Any, ClassVar

from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.kept import kept_with
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.statics.bars import ByHand, Member, along, axial_force, by_hand, first_loaded, members, so_far, taken_over
from ironstone.core.verdicts import State
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading.answers import number
from ironstone.engine.steps import find_step
from ironstone.engine.words import ReadingQuery
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class MemberOut(BaseModel):
    """A member from joint to joint beside its hand calculation; lengths, forces and stresses in the result's units."""

    number: int
    part: str
    joints: list[int] = Field(description="Node numbers of its two ends.")
    elements: list[int]
    length: float
    force: float | None
    area: float | None
    young: float | None
    extension: float | None
    strain: float | None
    stress: float | None
    hand_force: float | None
    nominal: float | None
    yielded: float | None
    off: float | None
    elastic: bool
    sense: str


class MembersOut(BaseModel):
    members: list[MemberOut]
    source: str
    force_unit: str
    length_unit: str
    stress_unit: str
    missing: str = Field(description="What is not known, and so not worked out; empty where all is.")
    verdict: str = Field("", description="Whether members lengthen with the sign of their force, in words.")
    state: State = ""


class AlongOut(BaseModel):
    """A reading along a member, two values a piece, and the largest in size so far."""

    distance: list[float]
    values: list[float | None]
    so_far: list[float | None]
    distance_unit: str
    unit: str
    sentence: str
    caveats: list[str]


class ShiftOut(BaseModel):
    number: int
    part: str
    joints: list[int]
    before: float | None
    after: float | None
    expected: float | None
    gained: float | None


class TakenOverOut(BaseModel):
    """Which members took over force between two steps. growth: of the load, and so of the forces had nothing yielded."""

    first: int
    last: int
    growth: float
    by: str
    force_unit: str
    shifts: list[ShiftOut]


@kept_with(1)
def _members(mesh: Mesh) -> list[Member]:
    return members(mesh)


def _head(mesh: Mesh, at: int, member: Member) -> dict[str, Any]:
    return {"number": at + 1, "part": member.part, "joints": [int(mesh.node_ids[n]) for n in member.nodes[[0, -1]]]}


def _told(source: ReviewSource, step: int) -> list[ByHand]:
    if not 0 <= step < len(source.steps):
        raise Impossible(f"There is no step {step}.", f"Steps run from 0 to {len(source.steps) - 1}.")
    return by_hand(source, step, _members(source.mesh))


def members_of(source: ReviewSource, step: int) -> MembersOut:
    """Every member: its force in the file, and what its joints' displacements, its modulus and its area make of it."""
    mesh = source.mesh
    reply = _told(source, step)
    out = [
        MemberOut(
            **_head(mesh, i, t.member),
            elements=[int(e) for e in mesh.element_ids[t.member.elements]],
            length=t.member.length,
            **{k: number(getattr(t, k)) for k in NUMBERS},
            elastic=t.elastic,
            sense=t.sense,
        )
        for i, t in enumerate(reply)
    ]
    lacks = [
        word for k, word in (("young", "Young's modulus"), ("area", "the section area")) if any(getattr(m, k) is None for m in out)
    ]
    verdict, state = _judged(out)
    return MembersOut(
        members=out,
        verdict=verdict,
        state=state,
        source=axial_force(source, step)[1],
        force_unit=source.system.force,
        length_unit=source.system.length,
        stress_unit=source.system.stress,
        missing=f"Not known of every member: {' and '.join(lacks)}. State it in Intake." if lacks else "",
    )


def _judged(members: list[MemberOut]) -> tuple[str, State]:
    """Whether members lengthen with the sign of their force; of those that carry none, or whose motion is not known, nothing."""
    told = [m for m in members if m.sense]
    if not told:
        return "No member carries a force that could be held against its lengthening.", ""
    against = sum(m.sense == "against" for m in told)
    nominal = sum(not m.elastic for m in members)
    yielded = f" {nominal} are no longer elastic: there force over area is nominal." if nominal else ""
    if against:
        return f"{against} lengthen against the sign of their force.{yielded}", "bad"
    which = f"All {len(told)}" if len(told) == len(members) else f"The {len(told)} of {len(members)} that carry a force"
    return f"{which} lengthen in tension and shorten in compression.{yielded}", "doubt" if nominal else "good"


NUMBERS = ("force", "area", "young", "extension", "strain", "stress", "hand_force", "nominal", "yielded", "off")


def members_columns(reply: MembersOut) -> list[Column]:
    """Members beside their hand calculation as the columns of a table."""
    force, length, stress = reply.force_unit, reply.length_unit, reply.stress_unit
    units = {"force": force, "area": f"{length}²", "young": stress, "extension": length, "strain": "", "stress": stress,
             "hand_force": force, "nominal": stress, "yielded": "", "off": ""}  # fmt: skip
    rows = reply.members
    return [
        Column(name="member", values=[m.number for m in rows]),
        Column(name="part", values=[m.part for m in rows]),
        *(Column(name=f"{end} node", values=[m.joints[at] for m in rows]) for at, end in enumerate(("from", "to"))),
        Column(name="length", unit=length, values=[m.length for m in rows]),
        *(Column(name=n.replace("_", " "), unit=units[n], values=[getattr(m, n) for m in rows]) for n in NUMBERS),
        Column(name="force over area is", values=["the stress" if m.elastic else "nominal" for m in rows]),
    ]


def along_member(source: ReviewSource, member: int, query: ReadingQuery) -> AlongOut:
    """The reading along a member (numbered from 1) at the step, and the largest in size it has had so far."""
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


def taken(source: ReviewSource, last: int, first: int | None = None) -> TakenOverOut:
    """Which members take over force between two steps; from the first loaded step where none is named."""
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


class Members(Question):
    """Every member of a frame: its force in the file, and what its joints' displacements, its modulus and its area make of it."""

    kind: ClassVar[str] = "members"
    more: ClassVar[type[BaseModel]] = MembersOut
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        step = find_step(source, self.step)
        reply = members_of(source, step)
        return Answer(
            kind=self.kind,
            sentence=f"members of {source.name}, {source.steps[step].label}, force from {reply.source}",
            unit=reply.force_unit,
            columns=members_columns(reply),
            caveats=[reply.missing] if reply.missing else [],
            verdict=reply.verdict,
            state=reply.state,
            more=reply.model_dump(),
        )
