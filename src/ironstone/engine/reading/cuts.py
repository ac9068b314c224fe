"""Cuts: sections, iso-surfaces and value bands; what one measures at a step or through the steps, and those that are kept."""

from __future__ import annotations

from typing import Any, ClassVar, Literal, Self

import numpy as np
from pydantic import BaseModel, Field, ValidationError

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import stress_of
from ironstone.core.field.loadings import computed
from ironstone.core.field.moved import moved_nodes
from ironstone.core.geometry.cut import Pieces
from ironstone.core.geometry.cut_faces import faces_of, faces_of_band
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.cuts import band, band_pieces, iso_pieces, iso_surface, section, section_pieces
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.rounding import settle
from ironstone.core.statics.section import through_plane
from ironstone.core.units import product
from ironstone.engine.base import Kept, Question, said_of
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.reading.answers import number
from ironstone.engine.reading.drawing import base_of
from ironstone.engine.reading.particulars import CutMore
from ironstone.engine.steps import find_step, steps_column
from ironstone.engine.words import ReadingQuery, ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# What a piece of so many dimensions has, and its unit.
SIZES = {3: ("volume", "{}³"), 2: ("area", "{}²"), 1: ("length", "{}"), 0: ("count", "")}
HOW = "Write a plane as X,Y,Z:NX,NY,NZ or by three points, X,Y,Z:X,Y,Z:X,Y,Z; a band as LOW:HIGH."


class Cut(ReadingWords, Question):
    """A section by a plane, where a reading has a value, or the body between two values: size, place, values, force."""

    kind: ClassVar[str] = "cut"
    more: ClassVar[type[BaseModel]] = CutMore
    step: int | str = "last"
    through: str = ""
    iso: float | None = None
    band: str = ""
    every: bool = Field(False, description="At every step: size, place, normal and values as a table.")

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        if self.every:
            return self.through_steps(source)
        reading = self.reading().at(find_step(source, self.step))
        reply = cut_answer(reading, source, self.through, self.iso, self.band)
        name = next(n for n, _ in SIZES.values() if n in reply)
        figures = [Figure(label=name, unit=reply["size_unit"], value=reply[name])]
        if reply["share"] is not None:
            figures.append(Figure(label="share", unit="", value=reply["share"]))
        if reply["mass_share"] is not None:
            figures.append(Figure(label="share by mass", unit="", value=reply["mass_share"]))
        figures += [Figure(label=end, unit=reply["unit"], value=reply[end]) for end in ("min", "max")]
        more = {k: v for k, v in reply.items() if k not in ("sentence", "unit", "caveats")}
        return Answer(
            kind=self.kind, sentence=reply["sentence"], unit=reply["unit"], figures=figures, caveats=reply["caveats"], more=more
        )

    def through_steps(self, source: ReviewSource) -> Answer:
        """The cut at every step; where it is not at a step, that row is empty."""
        rows: list[dict[str, Any]] = []
        for step in computed(source.steps):
            try:
                rows.append(cut_answer(self.reading().at(step), source.at(step), self.through, self.iso, self.band))
            except Impossible:
                rows.append({})
        known = next((r for r in rows if r), None)
        if known is None:
            raise Impossible("This cut meets nothing at any step.", "Choose another value or place.")
        size = next(n for n, _ in SIZES.values() if n in known)
        length = known["length_unit"]

        def column(name: str, unit: str, key: str, axis: int | None = None) -> Column:
            values = [r.get(key) for r in rows]
            return Column(name=name, unit=unit, values=values if axis is None else [v and v[axis] for v in values])

        columns = [
            steps_column(source),
            column(size, known["size_unit"], size),
            *(column(f"middle {a}", length, "centroid", i) for i, a in enumerate("xyz")),
            *(column(f"normal {a}", "", "normal", i) for i, a in enumerate("xyz") if known["normal"] is not None),
            column("min", known["unit"], "min"),
            column("max", known["unit"], "max"),
        ]
        if "force" in known:
            columns += [column(f"force {a}", known["force_unit"], "force", i) for i, a in enumerate("xyz")]
        if known["share"] is not None:
            columns.insert(2, column("share", "", "share"))
        sentence = f"{resolve(self.reading().at(0), source).sentence(with_step=False)}, {known['where']}, through the steps"
        return Answer(kind=self.kind, sentence=sentence, unit=known["unit"], columns=columns)


class CutIn(Kept):
    """A cut that is kept: a section by a plane, surfaces where a reading has some values, or the body between two values."""

    kind: ClassVar[str] = "cut"
    result: int
    name: str = Field(min_length=1, max_length=80)
    through: str = ""
    iso: list[float] = Field(default=[], max_length=12)
    band: str = ""
    reading: ReadingWords | None = Field(None, description="The reading whose values they are; none: the reading in view.")
    removes: Literal["nothing", "front", "behind", "rest"] = Field(
        "nothing", description="Of the model: what lies on the normal's side, what lies behind, or all but the cut."
    )
    shows: Literal["reading", "own", "plain"] = Field("reading", description="The reading in view, one of its own, or no colours.")
    own: ReadingWords | None = Field(None, description="The reading of its own that it shows.")
    borders: bool = Field(True, description="Borders of elements on it.")
    on: bool = True

    def check(self, review: Review) -> None:
        if sum((bool(self.through), bool(self.iso), bool(self.band))) != 1:
            raise Impossible("A cut is a plane, values or a band: one of them.", HOW)
        if self.through:
            # Three points are how it was made; what is kept, and can be moved, is the plane.
            at, along = plane_words(self.through)
            if self.through.count(":") == 2:
                self.through = ":".join(",".join(f"{v:.7g}" for v in words) for words in (at, along))
        if self.band:
            low, high = band_words(self.band)
            if not low < high:
                raise Impossible(f"A band runs from a lower to a higher value, not from {low:g} to {high:g}.", "Exchange the two.")
        if not all(np.isfinite(v) for v in self.iso):
            raise Impossible("A value of an iso-surface is no number.", "Write finite numbers.")
        if self.shows == "own" and self.own is None:
            raise Impossible("This cut is to show a reading of its own, and has none.", "Give own.field and own.measure.")
        for words in (self.reading, self.own):
            if words is not None:
                resolve(words.reading(), review.result(self.result))

    def elsewhere(self, here: ReviewSource, there: ReviewSource) -> tuple[Self, list[str]]:
        if not self.through and here.system != there.system:
            raise Impossible("The values of this cut are in other units there.", "Make it anew there.")
        return self.model_copy(update={"result": there.id}), []

    def made(self) -> str:
        return f"Cut '{self.name}' kept"

    def gone(self) -> str:
        return f"Cut '{self.name}' removed"


class CutFacesQuery(ReadingQuery):
    """What is drawn of a cut: its words, the reading in view, and which parts are hidden."""

    through: str = ""
    iso: str = Field("", description="Values, 10,20.")
    band: str = ""
    values_of: str = Field("", description="Words of the reading that the values are of, as JSON; none: the reading in view.")
    shown: str = Field("", description="Words of a reading it shows, as JSON; none: the reading in view.")
    hidden: str = Field("", pattern=r"^\d*(,\d+)*$", description="Positions of parts that are left out: 0,3.")


def drawn_cut(source: ReviewSource, query: CutFacesQuery) -> tuple[dict[str, Any], dict[str, Any]]:
    """What is drawn of a cut: a head that says what it is, positions (from its origin on), displacement and values of triangles and
    of borders."""
    mesh, view = source.mesh, query.reading()
    of = stated_reading(query.values_of).reading().at(view.step) if query.values_of else view
    hidden = np.isin(mesh.part, [int(p) for p in query.hidden.split(",") if p])
    if query.through:
        at, along = plane_words(query.through)
        faces = faces_of(section_pieces(mesh, at, along / np.linalg.norm(along)), hidden)
    elif query.band:
        found, _ = band_pieces(of, source, *band_words(query.band))
        faces = faces_of_band(mesh, found, hidden)
    else:
        faces = faces_of(_iso_pieces(source, of, [_numbers(v, 1)[0] for v in query.iso.split(",")]), hidden)
    seen = stated_reading(query.shown).reading().at(view.step) if query.shown else view
    answer = evaluate(seen, source, faces.triangles)
    there = answer.values[answer.valid]
    moved = moved_nodes(source, view.step, view.phase)
    nodal = np.zeros_like(mesh.points) if moved is None else moved
    head = {
        "origin": mesh.middle.tolist(),
        "of": resolve(of, source).sentence(),
        "shown": answer.resolved.sentence(),
        "unit": answer.unit,
        "own": bool(query.shown),
        "triangles": len(faces.triangles.element) // 3,
        "low": number(float(there.min())) if len(there) else None,
        "high": number(float(there.max())) if len(there) else None,
    }
    head["base"] = base_of(answer.values)
    arrays: dict[str, Float] = {"values": answer.values - head["base"]}
    for name, place in (("", faces.triangles), ("border_", faces.borders)):
        arrays[f"{name}positions"] = positions(mesh, place) - mesh.middle
        arrays[f"{name}displacement"] = positions(mesh, place, nodal)
    return head, arrays


def stated_reading(text: str) -> ReadingWords:
    """Words of a reading from JSON, as a cut and what is shown alongside keep them. Raises IronstoneError where they are none."""
    try:
        return ReadingWords.model_validate_json(text)
    except ValidationError as error:
        raise IronstoneError(f"The words of a reading cannot be read: {said_of(error)}.", "Write them as a cut is kept.") from error


def _iso_pieces(source: ReviewSource, reading: Reading, values: list[float]) -> list[Pieces]:
    """Surfaces of several values; one that is reached nowhere is left out unless all are."""
    found: list[Pieces] = []
    for value in values:
        try:
            found += iso_pieces(reading, source, value)
        except Impossible:
            if len(values) == 1:
                raise
    if not found:
        raise Impossible(f"The reading is none of {', '.join(f'{v:g}' for v in values)} anywhere.", "Choose other values.")
    return found


def plane_words(text: str) -> tuple[Float, Float]:
    """Point and normal of a plane, of its text or of three points on it. Raises Impossible where the text is none."""
    first, *others = (np.array(_numbers(word, 3)) for word in text.split(":"))
    if len(others) == 2:
        sides = [p - first for p in others]
        at, along = first, np.cross(*sides)
        size = np.prod([np.linalg.norm(s) for s in sides])
        if not np.linalg.norm(along) > 1e-9 * size:
            raise Impossible("The three points lie on one line: no plane goes through them.", "Choose a third one beside it.")
        return at, along / np.linalg.norm(along)
    if len(others) != 1:
        raise Impossible(f"'{text}' is no plane.", HOW)
    at, along = first, others[0]
    if not np.linalg.norm(along):
        raise Impossible("The normal of the plane points nowhere.", "Write three numbers, like 0,0,1.")
    return at, along


def band_words(text: str) -> tuple[float, float]:
    low, _, high = text.partition(":")
    return _numbers(low, 1)[0], _numbers(high, 1)[0]


def _numbers(text: str, count: int) -> list[float]:
    try:
        found = [float(v) for v in text.split(",")]
        if len(found) != count or not np.isfinite(found).all():
            raise ValueError
    except ValueError as error:
        raise Impossible(f"'{text}' is not {'a number' if count == 1 else f'{count} numbers'}.", HOW) from error
    return found


def cut_answer(
    reading: Reading, source: ReviewSource, plane: str = "", value: float | None = None, between: str = ""
) -> dict[str, Any]:
    """A cut in plain data; of plane, value and band one is to be given."""
    if sum((bool(plane), value is not None, bool(between))) != 1:
        raise Impossible("A cut is a plane, a value or a band: one of them.", HOW)
    length = source.system.length
    caveats: list[str] = []
    force: dict[str, Any] = {}
    section_area = 0.0
    if plane:
        origin, _, normal = plane.partition(":")
        at, along = plane_words(plane)
        found = section(reading, source, at, along)
        where, missing = f"on the plane through ({origin}) square to ({normal})", 1
        try:
            if stress_of(source.fields) is None:
                raise Impossible("This result has no stress: no force is told.", "")
            through = through_plane(source, reading.step, at, along / np.linalg.norm(along), found.centroid)
            force = {"force": through.through.force.tolist(), "moment": through.through.moment.tolist(),
                     "force_unit": source.system.force, "moment_unit": product(source.system.force, length)}  # fmt: skip
            caveats += through.notes
            # As Balance has it: of shells with their thickness, where the section steps that of the smaller side.
            section_area = through.area
        except IronstoneError as error:
            caveats.append(error.message)
    elif value is not None:
        found = iso_surface(reading, source, value)
        where, missing = f"where it is {value:g}", 1
    else:
        low, _, high = between.partition(":")
        found = band(reading, source, *band_words(between))
        where, missing = f"where it lies from {low} to {high}", 0
    if found.off > 0.01:
        share = f"{100 * found.off:.2g} %"
        caveats.append(f"This reading is not linear inside elements, and they are large: the size may be off by {share}.")
    resolved = found.values.resolved
    name, unit = SIZES[found.dimension - missing]
    size = found.size
    if section_area:
        name, unit, size = "area", SIZES[2][1], section_area
    unit = unit.format(length)
    return {
        "sentence": f"{resolved.sentence()}, {where}",
        "where": where,
        "unit": resolved.unit,
        name: size,
        "size_unit": unit,
        "share": found.share,
        "mass_share": found.mass_share,
        "normal": None if found.normal is None else settle(found.normal, 1.0).tolist(),
        "away": found.away,
        "centroid": settle(found.centroid, source.mesh.size).tolist(),
        "box": found.box.tolist(),
        "min": number(found.low),
        "max": number(found.high),
        "length_unit": length,
        **force,
        "caveats": [*found.values.caveats, *caveats],
    }
