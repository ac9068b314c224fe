"""Gauge lists: measuring points that are kept, what a reading is at them, and how that agrees with what was measured."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from ironstone.core.curves.agreement import Limits, deviation_of
from ironstone.core.curves.curves import Curve
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import displacement_of
from ironstone.core.field.loadings import computed
from ironstone.core.field.moved import moved_nodes
from ironstone.core.geometry.nearest import Nearest, is_on, nearest
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.gauges import rosette, strain_along
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.units import convert, known
from ironstone.engine.base import Kept, Question, by_name
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.reading.answers import few_steps, number
from ironstone.engine.reading.particulars import GaugesMore
from ironstone.engine.said import STRAIN_GAUGE
from ironstone.engine.steps import find_step, steps_column
from ironstone.engine.words import ReadingWords, Strict
from ironstone.formats.gauge_lists import parse_gauges
from ironstone.formats.points_out import write_points
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# What a point may be off by and still be taken into the verdict, as a share of the model's size.
FAR = 0.02


class GaugePoint(Strict):
    """A measuring point, coordinates and length in the result's unit of length."""

    name: str = Field("", max_length=80)
    x: float = Field(allow_inf_nan=False)
    y: float = Field(allow_inf_nan=False)
    z: float = Field(allow_inf_nan=False)
    dx: float | None = None
    dy: float | None = None
    dz: float | None = None
    length: float | None = Field(None, ge=0)
    measured: float | None = None
    rosette: str = Field("", max_length=80)


class GaugeList(Kept):
    """A list of gauge points: where, which way, how long, and what was measured."""

    kind: ClassVar[str] = "gauges"
    result: int
    name: str = Field(min_length=1, max_length=80)
    points: list[GaugePoint] = Field(max_length=20_000)
    unit: str | None = Field(None, description="Unit of what was measured; none: that of the reading.")
    move: bool = Field(True, description="A point outside the body is read at the nearest place of the body.")

    def check(self, review: Review) -> None:
        review.result(self.result)
        if self.unit and not known(self.unit):
            raise IronstoneError(f"The unit '{self.unit}' is not known.", "Write it like ustrain, MPa or mm.")

    def elsewhere(self, here: ReviewSource, there: ReviewSource) -> tuple[Self, list[str]]:
        return self.model_copy(update={"result": there.id}), []

    def same(self, other: Kept) -> bool:
        return isinstance(other, GaugeList) and (other.result, other.name) == (self.result, self.name)

    def made(self) -> str:
        return f"Gauge list '{self.name}' with {len(self.points)} points kept"

    def gone(self) -> str:
        return f"Gauge list '{self.name}' removed"


def gauge_list(source: ReviewSource, name: str, data: bytes, file: str, length_unit: str | None = None) -> GaugeList:
    """A gauge list from the bytes of a CSV or XLSX file. length_unit: of coordinates whose column states none."""
    points, unit = parse_gauges(data, file, source.system.length)
    if length_unit and length_unit != source.system.length:
        factor = float(convert(np.ones(1), length_unit, source.system.length)[0])
        for point in points:
            for column in ("x", "y", "z", "length"):
                if point.get(column) is not None:
                    point[column] *= factor
    return GaugeList.stated({"result": source.id, "name": name, "points": points, "unit": unit})


@dataclass(frozen=True, eq=False)
class Read:
    """A gauge list read at a step. at: where; read: which points have a place; value, measured: (n,), NaN for none, in ``unit``."""

    at: Nearest
    on: NDArray[np.bool_]
    value: Float
    measured: Float
    unit: str
    sentence: str
    caveats: list[str]


def read_at(source: ReviewSource, reading: Reading, gauges: GaugeList, along: bool) -> Read:
    """A reading at all points of a list; ``along``: of strain gauges."""
    mesh, points = source.mesh, gauges.points
    at = nearest(mesh, np.array([[p.x, p.y, p.z] for p in points]).reshape(-1, 3))
    on = is_on(mesh, at.distance)
    lead = resolve(reading, source)
    caveats: list[str] = []
    if along:
        direction = np.array([[np.nan if v is None else v for v in (p.dx, p.dy, p.dz)] for p in points]).reshape(-1, 3)
        value = strain_along(reading, source, at, direction, np.array([p.length or 0.0 for p in points]))
        if reading.over != "step" or reading.of != "value" or reading.against:
            raise Impossible("A strain gauge reads a strain at one step, as it is.", "Take the reading back to that.")
        unit = ""
        if reading.unit:
            value, unit = convert(value, "", reading.unit), reading.unit
        sentence = (
            f"{lead.name} along each gauge, the mean over its length, {lead.averaging_words}, {lead.step_words}, at the gauges "
            f"'{gauges.name}'"
        )
        if np.isnan(direction).any():
            caveats.append("A gauge without a direction (dx, dy, dz) has no strain along it.")
    else:
        answer = evaluate(reading, source, at.place)
        value, unit, caveats = answer.values.copy(), answer.unit, list(answer.caveats)
        sentence = f"{answer.resolved.sentence()}, at the gauges '{gauges.name}'"
    if not gauges.move:
        value = np.where(on, value, np.nan)
    off = int((~on).sum())
    if off:
        one = "One point lies" if off == 1 else f"{off} points lie"
        where = "read at the nearest place of the body" if gauges.move else "not read"
        caveats.append(f"{one} outside the body: {where}. The farthest is {at.distance.max():.4g} {source.system.length} away.")
    measured = np.array([np.nan if p.measured is None else p.measured for p in points], dtype=np.float64)
    if gauges.unit is not None and np.isfinite(measured).any():
        try:
            measured = convert(measured, gauges.unit, unit)
        except IronstoneError:
            measured = np.full(len(points), np.nan)
            caveats.append(
                f"What was measured is in {gauges.unit}: it is not held against this reading, in {unit or 'a pure number'}."
            )
    elif np.isfinite(measured).any():
        caveats.append(f"The list states no unit of what was measured: taken as {unit or 'a pure number'}.")
    return Read(at, on, value, measured, unit, sentence, caveats)


class Gauges(ReadingWords, Question):
    """A reading at the points of a gauge list, beside what was measured there; through the steps where asked."""

    kind: ClassVar[str] = "gauges"
    more: ClassVar[type[BaseModel]] = GaugesMore
    step: int | str = "last"
    named: str | int = Field("", description="A gauge list that is kept, by name or number.")
    points: list[GaugePoint] = Field([], description="Points in place of a list that is kept.", max_length=20_000)
    measured_unit: str | None = None
    move: bool = True
    along: bool = Field(False, description=STRAIN_GAUGE)
    every: bool = Field(False, description="At every step: a column for each gauge.")

    def source(self, review: Review) -> ReviewSource:
        if self.named != "" and self.result is None:
            return review.result(by_name(review, GaugeList, self.named)[1].result)
        return super().source(review)

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        found = GaugeList(result=source.id, name="points", points=self.points, unit=self.measured_unit, move=self.move)
        if self.named != "":
            found = by_name(review, GaugeList, self.named)[1]
        if not found.points:
            raise Impossible("This gauge list has no point.", "Add one: x, y, z.")
        if self.every:
            return self.through_steps(source, found)
        reply = gauges_answer(source, self.reading().at(find_step(source, self.step)), found, self.along)
        rows = reply["points"]
        length = source.system.length
        columns = [
            Column(name="name", values=[r["name"] for r in rows]),
            *(Column(name=a, unit=length, values=[r["xyz"][i] for r in rows]) for i, a in enumerate("xyz")),
            Column(name="where", values=[r["where"] for r in rows]),
            Column(name="distance", unit=length, values=[r["distance"] for r in rows]),
            *(Column(name=f"read at {a}", unit=length, values=[r["at"][i] for r in rows]) for i, a in enumerate("xyz")),
            Column(name="part", values=[r["part"] for r in rows]),
            Column(name="element", values=[r["element"] for r in rows]),
            Column(name="value", unit=reply["unit"], values=[r["value"] for r in rows]),
        ]
        if any(r["measured"] is not None for r in rows):
            columns += [
                Column(name="measured", unit=reply["unit"], values=[r["measured"] for r in rows]),
                Column(name="deviation", unit=reply["unit"], values=[r["deviation"] for r in rows]),
            ]
        return Answer(
            kind=self.kind,
            sentence=reply["sentence"],
            unit=reply["unit"],
            columns=columns,
            figures=[Figure(**f) for f in reply["figures"]],
            caveats=reply["caveats"],
            verdict=reply["verdict"],
            state={True: "good", False: "bad", None: "doubt" if reply["verdict"] else ""}[reply["agrees"]],
            more={"points": rows, "rosettes": reply["rosettes"], "length_unit": length, "agrees": reply["agrees"]},
        )

    def through_steps(self, source: ReviewSource, gauges: GaugeList) -> Answer:
        reads = [read_at(source.at(step), self.reading().at(step), gauges, self.along) for step in computed(source.steps)]
        table = np.stack([r.value for r in reads])
        columns = [steps_column(source)]
        columns += [
            Column(name=p.name or f"G{i + 1}", unit=reads[0].unit, values=[number(v) for v in table[:, i]])
            for i, p in enumerate(gauges.points)
        ]
        caveats = list(dict.fromkeys([c for r in reads for c in r.caveats]))
        worst = np.nanmax(np.abs(table), axis=0) if np.isfinite(table).any() else np.zeros(0)
        if len(worst):
            caveats += few_steps(source, table[:, int(np.nanargmax(worst))])
        sentence = resolve(self.reading().at(0), source).sentence(with_step=False)
        if self.along:
            sentence = f"{self.field} along each gauge, the mean over its length"
        return Answer(
            kind=self.kind, sentence=f"{sentence}, at the gauges '{gauges.name}', through the steps", unit=reads[0].unit,
            columns=columns, caveats=caveats,
        )  # fmt: skip


def gauges_answer(source: ReviewSource, reading: Reading, gauges: GaugeList, along: bool = False) -> dict[str, Any]:
    """A gauge list read at a step, in plain data: every point with where it was read, its value and its deviation."""
    found = read_at(source, reading, gauges, along)
    mesh, at = source.mesh, found.at
    away = found.value - found.measured
    nodal = moved_nodes(source, reading.step, reading.phase)
    moved = np.zeros((len(gauges.points), 3)) if nodal is None else positions(mesh, at.place, nodal)
    points = []
    for i, p in enumerate(gauges.points):
        element = int(at.place.element[i])
        inside = bool(at.distance[i] == 0.0)
        points.append(
            {
                "name": p.name or f"G{i + 1}",
                "xyz": [p.x, p.y, p.z],
                "inside": bool(found.on[i]),
                "where": "inside" if inside else "on the surface" if found.on[i] else "outside",
                "distance": float(at.distance[i]),
                "at": at.points[i].tolist(),
                "moved": moved[i].tolist(),
                "part": mesh.part_names[mesh.part[element]],
                "element": int(mesh.element_ids[element]),
                "value": number(float(found.value[i])),
                "measured": number(float(found.measured[i])),
                "deviation": number(float(away[i])),
                "share": number(float(away[i] / found.measured[i])) if found.measured[i] else None,
            }
        )
    figures, verdict, agrees = _agreement(source, found)
    return {
        "sentence": found.sentence,
        "unit": found.unit,
        "points": points,
        "rosettes": _rosettes(gauges, found) if along else [],
        "figures": figures,
        "verdict": verdict,
        "agrees": agrees,
        "caveats": found.caveats,
    }


def _agreement(source: ReviewSource, found: Read) -> tuple[list[dict[str, Any]], str, bool | None]:
    """How the values agree with what was measured: RMS and largest deviation, and a verdict against the usual limit."""
    near = found.at.distance <= FAR * source.mesh.size
    there = np.isfinite(found.value) & np.isfinite(found.measured) & near
    far = int((np.isfinite(found.measured) & ~near).sum())
    left = " One point lies far outside the body and is left out." if far == 1 else ""
    left = f" {far} points lie far outside the body and are left out." if far > 1 else left
    if not there.any():
        return [], left.strip(), None
    limits = Limits()
    rows = np.flatnonzero(there)
    model = Curve(found.value[rows], found.value[rows], "", found.unit)
    d = deviation_of(rows.astype(np.float64), found.measured[rows], found.value[rows], model, limits)
    within = int((np.abs(d.away) <= limits.deviation * np.abs(found.measured[rows])).sum())
    figures = [
        {"label": "RMS deviation", "value": number(d.rms), "unit": found.unit, "how": f"{d.percent} of the largest measured"},
        {"label": "Largest deviation", "value": number(d.largest), "unit": found.unit, "how": ""},
    ]
    word = "agree with" if d.accepted else "do not agree with"
    verdict = (
        f"The gauges {word} the model: RMS deviation {d.percent} of the largest measured (limit {100 * d.limit:g} %); "
        f"{within} of {len(rows)} within {100 * limits.deviation:g} % of their own value.{left}"
    )
    return figures, verdict, d.accepted


def _rosettes(gauges: GaugeList, found: Read) -> list[dict[str, Any]]:
    """Principal strains of the rosettes of a list, computed and measured."""
    names = list(dict.fromkeys(p.rosette for p in gauges.points if p.rosette))
    reply = []
    for name in names:
        rows = [i for i, p in enumerate(gauges.points) if p.rosette == name]
        direction = np.array([[np.nan if v is None else v for v in (p.dx, p.dy, p.dz)] for p in (gauges.points[i] for i in rows)])
        entry: dict[str, Any] = {"name": name, "gauges": [gauges.points[i].name for i in rows], "computed": None, "measured": None}
        for what, values in (("computed", found.value[rows]), ("measured", found.measured[rows])):
            if not np.isfinite(values).all():
                continue
            try:
                first, second, angle = rosette(direction, found.at.normal[rows[0]], values)
            except IronstoneError as error:
                entry["error"] = error.message
                continue
            entry[what] = {"first": first, "second": second, "angle": angle}
        reply.append(entry)
    return reply


def write_moved(source: ReviewSource, gauges: GaugeList, path: Path) -> None:
    """The displacement at the points of a list at every step, as a universal file. Raises Impossible where there is none."""
    field = displacement_of(source.fields)
    if field is None:
        raise Impossible("This result has no displacement.", "A universal file of points holds how they move.")
    at = nearest(source.mesh, np.array([[p.x, p.y, p.z] for p in gauges.points]).reshape(-1, 3))
    moved = np.stack(
        [
            positions(source.mesh, at.place, np.asarray(source.values(field.name, step), dtype=np.float64))
            for step in computed(source.steps)
        ]
    )
    title = f"{source.name}, {gauges.name}, displacement in {source.system.length}"
    write_points(path, title, at.points, list(source.steps), moved)
