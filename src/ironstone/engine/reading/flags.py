"""Flags: places that are kept, and what each says of a reading."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, ClassVar, Self

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.categories import name_of
from ironstone.core.field.moved import moved_nodes
from ironstone.core.geometry.nearest import nearest
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.interpolation import interpolation, positions
from ironstone.core.mesh.mesh import Float
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes, jumps
from ironstone.core.reading.line_elsewhere import BESIDE, THERE
from ironstone.core.reading.resolve import resolve
from ironstone.engine.base import Kept, Question, readable
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading import answers
from ironstone.engine.steps import find_step
from ironstone.engine.weight import Reach
from ironstone.engine.words import Point, ReadingQuery, ReadingWords, Strict
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class MeetingEntry(BaseModel):
    """One element's answer at a flag. other: the same under another averaging; name: where the number names something."""

    value: float | None
    other: float | None = None
    name: str | None = None
    element: int | None
    part: str | None


class FlagIn(Kept):
    """A flag at a node, or at a point of the material: inside an element, at natural coordinates."""

    kind: ClassVar[str] = "flag"
    result: int
    node: int | None = None
    element: int | None = None
    xi: Point | None = None
    name: str = Field("", max_length=80)

    def check(self, review: Review) -> None:
        mesh = review.result(self.result).mesh
        if self.node is not None:
            mesh.node_position(self.node)
        elif self.element is not None and self.xi is not None and np.isfinite(self.xi).all():
            mesh.element_position(self.element)
        else:
            raise IronstoneError("A flag needs a place.", "Name a node, or an element and natural coordinates inside it.")

    @property
    def place(self) -> str:
        return f"node {self.node}" if self.node is not None else f"a point of element {self.element}"

    def elsewhere(self, here: ReviewSource, there: ReviewSource) -> tuple[Self, list[str]]:
        _, _, at = place_of_flag(here, self)
        if self.node is None:
            place = nearest(there.mesh, at[None, :])
            element, away = int(there.mesh.element_ids[place.place.element[0]]), float(place.distance[0])
            words: dict[str, Any] = {"element": element, "xi": tuple(float(v) for v in place.place.xi[0])}
        else:
            distances = np.linalg.norm(there.mesh.points - at, axis=1)
            node = int(np.argmin(distances))
            away, words = float(distances[node]), {"node": int(there.mesh.node_ids[node])}
        return self.model_copy(update={"result": there.id, **words}), beside(away, there, self.place)

    def made(self) -> str:
        return f"Flag planted at {self.place}"

    def gone(self) -> str:
        return f"Flag at {self.place} removed"


class FlagOut(FlagIn):
    id: int
    revision: int


def named(review: Review, number: int, edit: FlagEdit) -> FlagOut:
    """Call a flag something; '' is its number."""
    with review.writing():
        planted = FlagIn.understood(review.item(number, "flag").payload).model_copy(update={"name": edit.name.strip()})
        now = review.change(number, planted.written(), f"Flag named {planted.name or 'by its number'}")
    return FlagOut(id=number, revision=now.revision, **planted.model_dump())


class FlagAnswer(BaseModel):
    """What a flag says. entries: each element's value as computed, and the same under another averaging."""

    place: str
    xyz: list[float]
    moved: list[float]
    sentence: str
    unit: str
    averaging: str
    other_averaging: str
    entries: list[MeetingEntry]
    jump: float | None
    jump_within_material: float | None
    jump_of_range: float | None


class FlagEdit(Strict):
    name: str = Field(max_length=80)


def beside(away: float, there: ReviewSource, what: str) -> list[str]:
    """What must be said of a place that was found so far away in another mesh. Raises Impossible where that is another place."""
    size, unit = there.mesh.size, there.system.length
    if away > BESIDE * size:
        raise Impossible(f"That mesh has nothing near {what}: the nearest is {away:.3g} {unit} away.", "Plant it by hand there.")
    return [f"The nearest place there is {away:.3g} {unit} away."] if away > THERE * size else []


def place_of_flag(source: ReviewSource, flag: FlagIn) -> tuple[AtSamples, str, Float]:
    """Where a flag stands in every element that meets there, what its place is called, and its undeformed position (3,)."""
    mesh = source.mesh
    if flag.node is not None:
        node = mesh.node_position(flag.node)
        corners = mesh.corners_at(node)
        elements = mesh.corner_element[corners]
        xi = np.array([CELLS[int(mesh.types[e])].nodes[c - mesh.offsets[e]] for e, c in zip(elements, corners, strict=True)])
        return AtSamples(elements, xi.reshape(-1, 3)), f"node {flag.node}", mesh.points[node]
    assert flag.element is not None and flag.xi is not None
    place = AtSamples(np.array([mesh.element_position(flag.element)]), np.array([flag.xi], dtype=np.float64))
    return place, f"inside element {flag.element}", positions(mesh, place)[0]


def flag_answer(source: ReviewSource, query: ReadingQuery, flag: FlagIn) -> FlagAnswer:
    """What a flag says of the reading in view: every element's value as computed, and beside it averaged.

    Beside values as computed stands the mean within each part; beside any averaging the values as computed.
    """
    mesh, reading = source.mesh, replace(query.reading(), of="value")
    place, where, at = place_of_flag(source, flag)
    resolved = resolve(reading, source)
    naming = resolved.naming
    averages = naming is None and resolved.field.location != "node"
    other = replace(reading, averaging="off" if reading.averaging != "off" else "part")
    seen = evaluate(reading, source, place).values if len(place.element) else np.zeros(0)
    beside = evaluate(other, source, place).values if averages and len(place.element) else np.full(len(seen), np.nan)
    raw, mean = (seen, beside) if reading.averaging == "off" else (beside, seen)
    _, low, high = extremes(reading, source)
    span = high.value - low.value if low and high else 0.0
    single = not averages and flag.node is not None and naming is None
    entries = [
        MeetingEntry(
            value=answers.number(v),
            other=answers.number(m) if averages else None,
            element=None if single else int(mesh.element_ids[e]),
            part=mesh.part_names[mesh.part[e]],
            name=name_of(naming, float(v)) if naming is not None else None,
        )
        for v, m, e in zip(raw if averages else seen, mean, place.element, strict=True)
    ]
    jump, within = jumps(raw, mesh.material_or_part[place.element]) if averages and flag.node is not None else (np.nan, np.nan)
    own = None if flag.node is not None else interpolation(mesh, place)
    nodes = mesh.connectivity[own.corners] if own is not None else np.array([mesh.node_position(flag.node or 0)])
    found = moved_nodes(source, reading.step, reading.phase, nodes)
    moved = np.zeros(3) if found is None else found[0] if own is None else (own.matrix @ found)[0]
    first = replace(reading, averaging="off")
    second = other if reading.averaging == "off" else reading
    return FlagAnswer(
        place=where,
        xyz=at.tolist(),
        moved=moved.tolist(),
        sentence=resolved.sentence(),
        unit=resolved.unit,
        averaging=resolve(first, source).averaging_words if averages else resolved.averaging_words,
        other_averaging=resolve(second, source).averaging_words if averages else "",
        entries=entries[:1] if single else entries,
        jump=answers.number(jump),
        jump_within_material=answers.number(within),
        jump_of_range=answers.number(jump / span) if span else None,
    )


def flags_of(review: Review, result: int) -> list[FlagOut]:
    return [FlagOut(id=i.id, revision=i.revision, **f.model_dump()) for i, f in readable(review, FlagIn, result)]


def flags_columns(
    source: ReviewSource, query: ReadingQuery, review: Review
) -> tuple[Sequence[str], Sequence[str | None], Sequence[Any]]:
    """Every element's value at every flag, as computed and averaged: names, units and values of columns."""
    planted = flags_of(review, source.id)
    reply = [flag_answer(source, query, f) for f in planted]
    rows = [(i, f, t, e) for i, (f, t) in enumerate(zip(planted, reply, strict=True), start=1) for e in t.entries]
    length = source.system.length
    unit = reply[0].unit if reply else ""
    missing = float("nan")
    return (
        ("flag", "name", "place", "element", "part", "x", "y", "z", *_flag_columns(reply), "jump"),
        (None, None, None, None, None, length, length, length, unit, unit, unit),
        (
            [i for i, _, _, _ in rows],
            [f.name for _, f, _, _ in rows],
            [t.place for _, _, t, _ in rows],
            ["" if e.element is None else e.element for _, _, _, e in rows],
            [e.part or "" for _, _, _, e in rows],
            *([t.xyz[axis] for _, _, t, _ in rows] for axis in range(3)),
            [missing if e.value is None else e.value for _, _, _, e in rows],
            [missing if e.other is None else e.other for _, _, _, e in rows],
            [missing if t.jump is None else t.jump for _, _, t, _ in rows],
        ),
    )


def _flag_columns(reply: list[FlagAnswer]) -> tuple[str, str]:
    """The reading, and the other averaging beside it."""
    if not reply:
        return "value", "averaged"
    return f"{reply[0].sentence} [{reply[0].averaging}]", reply[0].other_averaging or "no averaging"


class Flags(ReadingWords, Question):
    """A reading at every flag: each element's value as computed, and averaged beside it."""

    kind: ClassVar[str] = "flags"
    reach: ClassVar[Reach] = "place"
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        words = self.model_dump(include=set(ReadingWords.model_fields))
        query = ReadingQuery(**words, step=find_step(source, self.step))
        names, units, values = flags_columns(source, query, review)
        found = resolve(query.reading(), source)
        return Answer(
            kind=self.kind,
            sentence=f"{found.sentence()}, at the flags",
            unit=found.unit,
            columns=[
                Column(name=n, unit=u, values=[None if isinstance(v, float) and np.isnan(v) else v for v in column])
                for n, u, column in zip(names, units, values, strict=True)
            ],
        )
