"""A question of a reading along a line, and the lines that are kept."""

from __future__ import annotations

from typing import Any, ClassVar, Literal, Self

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.curves.agreement import Limits, deviation_of
from ironstone.core.curves.arithmetic import evaluate_curve
from ironstone.core.curves.curves import Curve
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.moved import moved_nodes
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.grammar import GRAMMAR
from ironstone.core.reading.line_elsewhere import line_elsewhere
from ironstone.core.reading.linearised import by_part, linearise
from ironstone.core.reading.profile import Ends, Profile, deformed, line_of, line_words, profile
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolved import region_words
from ironstone.core.verdicts import State
from ironstone.engine.base import Kept, Question, by_name
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.curves.records import Record, record_of
from ironstone.engine.reading.answers import number
from ironstone.engine.reading.particulars import ProfileMore
from ironstone.engine.said import SIDE
from ironstone.engine.steps import find_step
from ironstone.engine.words import ReadingWords, Strict
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class LineWords(Strict):
    """All a line is of."""

    path: str = Field(description=GRAMMAR, max_length=4000)
    side: str = Field("", description=SIDE)
    reverse: bool = Field(False, description="From its end to its start.")
    before: float = Field(0.0, description="Length added before its start; negative: taken off.", allow_inf_nan=False)
    after: float = Field(0.0, description="Length added after its end; negative: taken off.", allow_inf_nan=False)
    samples: int = Field(101, ge=2, le=20_000)

    @property
    def ends(self) -> Ends:
        return Ends(self.reverse, self.before, self.after)

    def words(self, unit: str) -> str:
        return line_words(self.path) + (f", in {region_words('part:' + self.side)}" if self.side else "") + self.ends.words(unit)


class PathIn(LineWords, Kept):
    """A line that is kept under a name."""

    kind: ClassVar[str] = "path"
    result: int
    name: str = Field(min_length=1, max_length=80)

    def check(self, review: Review) -> None:
        line_of(self.path, review.result(self.result).mesh, 2, self.side, self.ends)

    def elsewhere(self, here: ReviewSource, there: ReviewSource) -> tuple[Self, list[str]]:
        path, notes = line_elsewhere(self.path, here.mesh, there.mesh, there.system.length)
        return self.model_copy(update={"result": there.id, "path": path}), notes

    def same(self, other: Kept) -> bool:
        return isinstance(other, PathIn) and (other.result, other.name) == (self.result, self.name)

    def made(self) -> str:
        return f"Path '{self.name}' kept"

    def gone(self) -> str:
        return f"Path '{self.name}' removed"


class AlongLine(ReadingWords, LineWords):
    """What is asked along a line: by its words, or one that is kept."""

    path: str = Field("", description=GRAMMAR, max_length=4000)
    named: str | int = Field("", description="A path that is kept, by name or number, in place of a line's words.")
    step: int | str = "last"
    distance: str = Field("true", description="true; relative, from 0 to 1; or X,Y,Z: from the place of the line nearest to that.")
    shape: Literal["undeformed", "deformed"] = "undeformed"

    def line(self, review: Review) -> LineWords:
        return by_name(review, PathIn, self.named)[1] if self.named != "" else self


class ProfileQuestion(AlongLine, Question):
    """A reading along a line: through the body, along nodes, an arc, a sharp edge, over the surface, where a plane meets it."""

    kind: ClassVar[str] = "profile"
    more: ClassVar[type[BaseModel]] = ProfileMore
    linearise: bool = Field(False, description="Membrane, bending and peak parts of a stress through a thickness.")
    formula: str = Field("", max_length=400, description="A curve beside it, of x and y in the units of the plot: 90*(1+3/x**2).")
    test: str | int = Field("", description="A test record of the same along the line, by name or number.")

    def answer(self, review: Review) -> Answer:
        line = self.line(review)
        source = self.source(review)
        reading = self.reading().at(find_step(source, self.step))
        reply = profile_answer(reading, source, line, self.distance, self.shape, self.linearise)
        columns = [
            Column(name="distance", unit=reply["x_unit"], values=reply["x"]),
            Column(name=reply["lead"], unit=reply["unit"], values=reply["y"]),
            Column(name="part", values=reply["part"]),
            Column(name="element", values=reply["element"]),
            *(Column(name=a, unit=reply["length_unit"], values=[p[i] for p in reply["xyz"]]) for i, a in enumerate("xyz")),
        ]
        keys = (
            "membrane",
            "bending",
            "membrane_and_bending",
            "peak",
            "thickness",
            "tensor_unit",
            "parts",
            "lead",
            "peaks",
            "mean",
            "length",
            "length_unit",
            "moved",
            "stretches",
        )
        more = {k: reply[k] for k in keys if k in reply}
        figures, verdict = [], ""
        state: State = ""
        if self.formula.strip():
            beside, compared, _ = against_formula(reply, self.formula)
            columns.append(Column(name=self.formula.strip(), unit=reply["unit"], values=beside))
            more["formula"], figures = beside, compared
        if self.test != "":
            item, _ = by_name(review, Record, self.test)
            record, kept = record_of(review, item.id)
            found, compared, verdict = against_record(reply, record, Limits(**kept.use.limits.model_dump()))
            figures = [*figures, *compared]
            state = "good" if found["agrees"] else "bad"
            more["test"] = {"name": kept.name, "corrections": kept.corrections, **found}
        if "membrane" in reply:
            figures += _linearised_figures(reply)
        return Answer(
            kind=self.kind,
            sentence=reply["sentence"],
            unit=reply["unit"],
            columns=columns,
            figures=figures,
            caveats=reply["caveats"],
            verdict=verdict,
            state=state,
            more=more,
        )


def profile_answer(
    reading: Reading,
    source: ReviewSource,
    words: LineWords,
    distance: str = "true",
    shape: str = "undeformed",
    linearised: bool = False,
) -> dict[str, Any]:
    """A profile in plain data: distances, values (None outside the body), places, parts and elements, peaks and mean."""
    mesh = source.mesh
    line = line_of(words.path, mesh, words.samples, words.side, words.ends)
    nodal = moved_nodes(source, reading.step, reading.phase)
    moved = np.zeros((len(line.distance), 3))
    if nodal is not None:
        moved = deformed(line, mesh, nodal)
    elif shape == "deformed":
        raise Impossible("This result has no displacement.", "Take the undeformed shape.")
    found = profile(reading, source, line)
    resolved = found.answers.resolved
    caveats = list(found.answers.caveats)
    if (~line.inside).any():
        caveats.append("A part of this line lies outside the body: no value there.")
    points = line.points + moved if shape == "deformed" else line.points
    x, x_unit, said = _distances(line.distance, points, distance, source.system.length, shape == "deformed")
    found = Profile(line, found.values, found.answers, x)
    reply: dict[str, Any] = {
        "sentence": f"{resolved.sentence()}, {words.words(source.system.length)}{said}",
        "lead": resolved.parts["lead"],
        "unit": resolved.unit,
        "x_unit": x_unit,
        "length_unit": source.system.length,
        "length": float(line.distance[-1]),
        "x": x.tolist(),
        "y": [number(v) for v in found.values],
        "xyz": points.tolist(),
        "moved": moved.tolist(),
        "part": [mesh.part_names[mesh.part[e]] if e >= 0 else None for e in line.element],
        "element": [int(mesh.element_ids[e]) if e >= 0 else None for e in line.element],
        "caveats": caveats,
    }
    reply["stretches"] = _stretches(reply["x"], reply["part"])
    reply |= found.figures()
    if linearised:
        parts = linearise(reading, source, line)
        value, mises, both = by_part(parts.measures), parts.von_mises(), parts.membrane_and_bending
        tensors = {"membrane": parts.membrane, "bending": parts.bending, "membrane_and_bending": both, "peak": parts.peak}
        for name, tensor in tensors.items():
            reply[name] = {"value": value[name], "tensor": np.array(tensor).tolist(), "von_mises": mises[name]}
        reply |= {"thickness": parts.thickness, "tensor_unit": parts.unit}
        reply["parts"] = _parts(reply)
        caveats += parts.notes
    return reply


def _distances(distance: Float, points: Float, how: str, unit: str, moved: bool) -> tuple[Float, str, str]:
    """What a profile is drawn over, its unit, and how that is told."""
    along, said = distance, ""
    if moved:
        # Both samples of a border stand at one place, also where rounding has them apart.
        steps = np.where(np.diff(distance) > 0, np.linalg.norm(np.diff(points, axis=0), axis=1), 0.0)
        along, said = np.concatenate([[0.0], np.cumsum(steps)]), ", on the deformed shape"
    if how == "true":
        return along, unit, said
    if how == "relative":
        return along / along[-1], "", f"{said}, distance as a share of the length"
    try:
        place = np.array([float(v) for v in how.split(",")])
        if place.shape != (3,) or not np.isfinite(place).all():
            raise ValueError
    except ValueError as error:
        raise IronstoneError(f"'{how}' is no distance.", "Write true, relative, or a point X,Y,Z to count from.") from error
    return along - _nearest(along, points, place), unit, f"{said}, distance from ({how.replace(' ', '').replace(',', ', ')})"


def _nearest(along: Float, points: Float, place: Float) -> float:
    """Where on a line, in distance along it, the nearest place to a point lies: on the straight pieces between its samples."""
    side = np.diff(points, axis=0)
    length = (side * side).sum(1)
    share = np.clip(((place - points[:-1]) * side).sum(1) / np.where(length > 0.0, length, 1.0), 0.0, 1.0)
    away = np.linalg.norm(points[:-1] + share[:, None] * side - place, axis=1)
    first = int(np.argmin(away))
    return float(along[first] + share[first] * (along[first + 1] - along[first]))


def _stretches(x: list[float], part: list[str | None]) -> list[dict[str, Any]]:
    """The parts a line passes through one after the other: from where to where, None for outside."""
    found: list[dict[str, Any]] = []
    for at, name in zip(x, part, strict=True):
        if not found or found[-1]["part"] != name:
            found.append({"part": name, "from": at, "to": at})
        found[-1]["to"] = at
    return [s for s in found if s["to"] > s["from"]]


def against_formula(reply: dict[str, Any], formula: str) -> tuple[list[float | None], list[Figure], str]:
    """A typed curve of x and y beside a profile, and how far the profile is from it."""
    x = np.array(reply["x"])
    y = np.array([np.nan if v is None else v for v in reply["y"]])
    values, _ = evaluate_curve(formula, {"x": (x, ""), "y": (y, "")})
    there = np.isfinite(values) & np.isfinite(y)
    figures = _deviation(reply, x[there], values[there], y[there], Limits(), "formula") if there.any() else []
    return [number(v) for v in values], figures, ""


def against_record(reply: dict[str, Any], record: Curve, limits: Limits) -> tuple[dict[str, Any], list[Figure], str]:
    """A profile held against what was measured along the line: at each of its places the profile between its samples."""
    test = record.in_units(reply["x_unit"] or None, reply["unit"] or None)
    x = np.array(reply["x"])
    y = np.array([np.nan if v is None else v for v in reply["y"]])
    expected = np.interp(test.x, x, y, left=np.nan, right=np.nan)
    there = np.isfinite(expected) & np.isfinite(test.y)
    notes = list(test.notes)
    if not np.isfinite(test.x).any():
        raise IronstoneError("The record has no value of the place along the line.", "Choose another of its columns.")
    if not there.any():
        raise IronstoneError(
            "The record has no point on this line.",
            f"The line runs from {x[0]:.4g} to {x[-1]:.4g} {reply['x_unit']}, the record from {np.nanmin(test.x):.4g} to "
            f"{np.nanmax(test.x):.4g}.",
        )
    model = Curve(x, y, reply["x_unit"], reply["unit"])
    figures = _deviation(reply, test.x[there], test.y[there], expected[there], limits, "record")
    found = deviation_of(test.x[there], test.y[there], expected[there], model, limits)
    left = int((~there).sum())
    if left:
        notes.append(f"{left} of its points lie beside the line or outside the body, and are left out.")
    word = "agrees with" if found.accepted else "does not agree with"
    verdict = f"The profile {word} the record: RMS deviation {found.percent} of its largest value, limit {100 * found.limit:g} %."
    drawn = {"x": [number(v) for v in test.x], "y": [number(v) for v in test.y], "notes": notes, "agrees": found.accepted}
    return drawn, figures, verdict


def _deviation(reply: dict[str, Any], x: Float, y: Float, profile: Float, limits: Limits, of: str) -> list[Figure]:
    found = deviation_of(x, y, profile, Curve(x, profile, reply["x_unit"], reply["unit"]), limits)
    return [
        Figure(
            label="RMS deviation", value=number(found.rms), unit=reply["unit"], how=f"{found.percent} of the largest of the {of}"
        ),
        Figure(
            label="Largest deviation",
            value=number(found.largest),
            unit=reply["unit"],
            how=f"at {found.largest_at_x:.5g} {reply['x_unit']}".rstrip(),
        ),
    ]


def _parts(reply: dict[str, Any]) -> list[dict[str, Any]]:
    """The linearised parts by name: the measure of the reading, and von Mises, of each."""
    found = []
    for label, key, end in (
        ("membrane", "membrane", None),
        ("bending, start", "bending", None),
        ("membrane and bending, start", "membrane_and_bending", 0),
        ("membrane and bending, end", "membrane_and_bending", 1),
        ("peak, start", "peak", 0),
        ("peak, end", "peak", 1),
    ):
        values = {name: reply[key][name] if end is None else reply[key][name][end] for name in ("value", "von_mises")}
        found.append({"label": label, **{name: number(v) for name, v in values.items()}})
    return found


def _linearised_figures(reply: dict[str, Any]) -> list[Figure]:
    """The parts in the measure of the reading, then their von Mises where the measure is another."""
    plain = reply["lead"].startswith("von Mises")
    how = "von Mises of the linearised stress"
    of_measure = how if plain else f"{reply['lead']}, linearised"
    figures = [
        Figure(label=p["label"][0].upper() + p["label"][1:], value=p["value"], unit=reply["unit"], how=of_measure)
        for p in reply["parts"]
    ]
    if not plain:
        unit = reply["tensor_unit"]
        figures += [Figure(label=f"Von Mises of {p['label']}", value=p["von_mises"], unit=unit, how=how) for p in reply["parts"]]
    return figures
