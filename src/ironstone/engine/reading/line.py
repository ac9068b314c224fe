"""The reading line: a reading as a sentence of words, each with what it can be, why it cannot, and what choosing it changes.

Written here once and served; the page shows it and writes no word of it itself.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from pydantic import BaseModel

from ironstone.core.errors import IronstoneError
from ironstone.core.field.axes import ELEMENT, GLOBAL, MATERIAL, Axes
from ironstone.core.field.constants import CONSTANTS, ELASTIC, labels, lacking
from ironstone.core.field.fields import Field
from ironstone.core.field.plies import PLY_STRESS
from ironstone.core.field.sliced import WORST
from ironstone.core.field.titles import field_title
from ironstone.core.kinds import kind_of
from ironstone.core.reading.measures import MEASURES, Measure, measures_for
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve, usual_measure
from ironstone.core.reading.resolved import AVERAGING_WORDS, Resolved, axes_words, measure_label, region_words
from ironstone.engine.reading.line_finds import found_elsewhere
from ironstone.engine.reading.line_layers import criterion_word, layer_word, phase_word
from ironstone.engine.reading.line_words import Choice, Word
from ironstone.store.describe import units_of
from ironstone.store.source import ReviewSource


class Line(BaseModel):
    """The words of a reading in order; guessed: the unit is. The step's choices are the result's steps.

    of, averaging: their choices, also where no word of the line says them.
    """

    words: list[Word]
    of: list[Choice] = []
    averaging: list[Choice] = []
    guessed: bool


def reading_line(source: ReviewSource, reading: Reading) -> Line:
    """The line of a reading. Where the reading itself has no meaning here, its words say what was asked."""
    field = source.fields.get(reading.field)
    if field is None:
        return Line(words=[_field(source, None, reading)], guessed=False)
    try:
        found: Resolved | None = resolve(reading, source)
    except IronstoneError:
        found = None
    words = []
    if reading.of != "value":
        words.append(_of(source, field, reading))
    measures = measures_for(field.rank, field.kind)
    measure = next((m for m in measures if m.name == (found.measure.name if found else reading.measure)), measures[0])
    error = reading.of == "error"
    if len(measures) > 1 and not error:
        words.append(_measure(source, field, reading, measures, measure, found))
    words.append(_field(source, field, reading))
    directed = measure.direction is not None or "plane" in measure.needs
    if field.rank != "scalar" and (directed or reading.axes != "global"):
        words.append(_axes(source, field, reading, found))
    if field.of_plies and "criterion" in measure.needs:
        words.append(criterion_word(source, reading, found))
    if field.layers:
        words.append(layer_word(field, reading, found))
    if field.harmonic:
        words.append(phase_word(reading, measure, found))
    if not error:
        words.append(_averaging(field, reading, found))
    words.append(_region(source, reading))
    words.append(_over(source, reading, found))
    step = source.steps[min(reading.step, len(source.steps) - 1)]
    place = f"{step.index + 1}/{len(source.steps)}"
    words.append(Word(name="step", title="Step", label=f"{step.label} ({place})", value=str(step.index), before=" "))
    if not (found.naming is not None if found else field.names):
        words.append(_unit(source, field, reading, measure, found))
    words.append(_against(source, field, reading, found))
    words[0].before = ""
    of, averaging = _of(source, field, reading).choices, _averaging(field, reading, found).choices
    return Line(words=words, of=of, averaging=averaging, guessed=source.system_guessed and bool(field.unit))


def _lacks(source: ReviewSource, needs: Iterable[str]) -> str:
    """What is to be stated first of the constants a choice needs; '' where all are."""
    missing = lacking([n for n in needs if n in CONSTANTS], source.setup.constants)
    return f"State {labels(missing)} in Intake first." if missing else ""


def _of(source: ReviewSource, field: Field, reading: Reading) -> Word:
    nodal = "A nodal field has one value at each node: there is no jump." if field.location == "node" else ""
    lacks = _lacks(source, ELASTIC)
    error = "The energy norm is that of a stress." if field.kind != "stress" or field.rank != "tensor" or nodal else lacks
    choices = [
        Choice(value="value", label="the value itself", short="value", explanation="What the elements have."),
        Choice(
            value="jump",
            label="jump between elements",
            short="jump (J)",
            explanation="Highest minus lowest of the elements that meet at a node.",
            impossible=nodal,
        ),
        Choice(
            value="jump-within-material",
            label="jump within one material",
            short="in material",
            explanation="Across materials a jump is physics, within one it is error.",
            impossible=nodal,
        ),
        Choice(
            value="error",
            label="error estimate",
            short="error (E)",
            explanation="Energy norm of averaged minus raw stress in each element, against the mean energy density.",
            impossible=error,
        ),
    ]
    for choice in choices:
        choice.change = {"of": choice.value, **({} if choice.value == "value" else {"averaging": "off"})}
    label = next(c.label for c in choices if c.value == reading.of)
    return Word(name="of", title="Value or jump", label=label, value=reading.of, marked=True, choices=choices)


def _measure(
    source: ReviewSource, field: Field, reading: Reading, measures: list[Measure], measure: Measure, found: Resolved | None
) -> Word:
    axes = found.axes if found else GLOBAL
    choices = [
        Choice(
            value=m.name,
            label=measure_label(m, axes),
            explanation=m.explanation,
            impossible=_lacks(source, m.needs),
            change={"measure": m.name, "unit": None, **({"plane": _plane(reading)} if "plane" in m.needs else {})},
        )
        for m in measures
    ]
    choices += found_elsewhere(field, measures, axes, list(source.setup.axes.values()))
    asked = MEASURES.get((field.rank, reading.measure))
    label = measure_label(measure, axes) if found else asked.label if asked else reading.measure or measure.label
    return Word(name="measure", title="Measure", label=label, value=measure.name, before=_after_of(reading), choices=choices)


def _plane(reading: Reading) -> str:
    return ",".join(f"{v:.15g}" for v in reading.plane) if reading.plane else "0,0,1"


def _after_of(reading: Reading) -> str:
    return " of " if reading.of != "value" else ""


def _field(source: ReviewSource, field: Field | None, reading: Reading) -> Word:
    choices = []
    for f in source.fields.values():
        if f.rank == "matrix":
            continue
        place = "Gauss point" if f.location == "gauss" else f.location
        if f.labels:
            answer = f"its name, at each {place}"
        elif f.names:
            answer = f"names something, at each {place}"
        else:
            kind = f"{f.kind or 'kind not known'}{' (guessed)' if f.guessed else ''}"
            answer = f"{kind}, {f.rank} at each {place}, {f.unit or 'pure number'}"
        keeps = any(m.name == reading.measure for m in measures_for(f.rank, f.kind))
        change: dict[str, Any] = {"field": f.name, "measure": reading.measure if keeps else usual_measure(f), "unit": None}
        same = reading.layer if f.of_plies and field is not None and field.of_plies else ""
        change |= {"layer": reading.layer if f.layers and not f.of_plies else same, "phase": reading.phase if f.harmonic else ""}
        if f.location == "node":
            change["of"] = "value"
        if f.names or kind_of(f.kind).own:
            change |= {"averaging": "off", "of": "value"}
        if f.names:
            change |= {"averaging": "off", "over": "step", "against": None}
        note = "recovered" if f.recovered else ""
        title = field_title(f.name, source.fields)
        if title.strip("'") != f.name.replace("_", " "):
            answer += f"; in the file {f.name}"
        choices.append(Choice(value=f.name, label=title, explanation=answer, note=note, change=change))
    if field is None:
        return Word(name="field", title="Field", label="choose a field", value="", choices=choices)
    return Word(
        name="field",
        title="Field",
        label=field_title(field.name, source.fields),
        value=field.name,
        before=" of ",
        marked=field.averaged_before,
        choices=choices,
    )


def _axes(source: ReviewSource, field: Field, reading: Reading, found: Resolved | None) -> Word:
    here: list[Axes] = [GLOBAL, ELEMENT, *([MATERIAL] if source.setup.orientation else []), *source.setup.axes.values()]
    nowhere = "A node has no element of its own whose axes these would be."
    choices = [
        Choice(
            value=a.name,
            label=axes_words(a),
            explanation=", ".join(a.directions),
            impossible=nowhere
            if field.location == "node" and a.kind in ("element", "material") and reading.averaging == "off"
            else "",
            change={"axes": a.name},
        )
        for a in here
    ]
    label = axes_words(found.axes) if found else reading.axes
    return Word(
        name="axes", title="Axes", label=label, value=reading.axes, before=", in ", marked=reading.axes != "global", choices=choices
    )


_MEANS = {
    "off": "Nothing is averaged: every element keeps its own value at a shared node.",
    "element": "The integral over the element divided by its volume.",
    "part": "Elements of one part that meet at a node share their mean; never across a border.",
    "material": "As within each part, by material.",
    "all": "Also across borders, where the value may exist in neither part.",
}


_SHORT = {"off": "off", "element": "element mean", "part": "within part", "material": "within material", "all": "all elements"}


def _averaging(field: Field, reading: Reading, found: Resolved | None) -> Word:
    nodal = field.location == "node"

    def impossible(value: str) -> str:
        if field.of_plies and value != "off":
            return "What is in a ply belongs to its element: it is not averaged."
        if field.names and value != "off":
            return "These numbers name something: a mean of them means nothing."
        if kind_of(field.kind).own and value != "off":
            return f"A {field.kind} belongs to its ply and its element: it is not averaged."
        if nodal and value not in ("off", "element"):
            return "A nodal field has one value at each node: there is nothing to average."
        return ""

    choices = [
        Choice(
            value=value,
            label=AVERAGING_WORDS[value],
            short=_SHORT[value],
            explanation=answer,
            impossible=impossible(value),
            # A jump is taken of values as computed: averaging ends it.
            change={"averaging": value, **({} if value == "off" else {"of": "value"})},
        )
        for value, answer in _MEANS.items()
    ]
    label = "a name, as it is" if field.names else found.averaging_words if found else AVERAGING_WORDS[reading.averaging]
    marked = not nodal and reading.averaging != "off"
    return Word(
        name="averaging", title="Averaging", label=label, value=reading.averaging, before=", ", marked=marked, choices=choices
    )


def _region(source: ReviewSource, reading: Reading) -> Word:
    mesh = source.mesh
    of_part = [(f"part:{name}", int((mesh.part == i).sum())) for i, name in enumerate(mesh.part_names)]
    materials = mesh.material_or_part_names
    of_material = [
        (f"material:{name}", int((mesh.material_or_part == i).sum())) for i, name in enumerate(materials) if len(materials) > 1
    ]
    of_set = [(f"set:{name}", len(members)) for name, members in mesh.element_sets.items()]
    choices = [Choice(value="all", label=region_words("all"))]
    choices += [
        Choice(value=region, label=region_words(region), explanation=f"{count} elements")
        for region, count in (*of_part, *of_material, *of_set)
    ]
    for choice in choices:
        choice.change = {"region": choice.value}
    return Word(
        name="region", title="Region", label=region_words(reading.region), value=reading.region, before=", on ", choices=choices
    )


def _over(source: ReviewSource, reading: Reading, found: Resolved | None) -> Word:
    alone = "This result has one step." if len(source.steps) < 2 else ""
    every: list[tuple[str, str, str, dict[str, Any]]] = [
        ("step", "at one step", "The step in view.", {"over": "step", "span": "all", "when": False}),
        ("largest", "largest over all steps", "Each place at its own highest.", {"over": "largest"}),
        ("smallest", "smallest over all steps", "Each place at its own lowest.", {"over": "smallest"}),
        ("magnitude", "largest magnitude over all steps", "Farthest from zero, with its sign.", {"over": "magnitude"}),
        ("largest so-far", "largest so far", "Up to the step in view.", {"over": "largest", "span": "so-far"}),
        ("largest when", "step at which it is largest", "The time, not the value.", {"over": "largest", "when": True}),
    ]
    choices = [
        Choice(
            value=value,
            label=label,
            explanation=answer,
            impossible=alone if value != "step" else "",
            change={"span": "all", "when": False, **change},
        )
        for value, label, answer, change in every
    ]
    value = " ".join([reading.over, *(["when"] if reading.when else ["so-far"] if reading.span == "so-far" else [])])
    if reading.over == "step":
        label = "at"
    elif reading.when:
        label = f"{found.over_words if found else 'step at which it is largest'}, seen from"
    elif reading.span == "so-far":
        lead = {"largest": "largest", "smallest": "smallest", "magnitude": "largest magnitude"}[reading.over]
        label = f"{lead} so far, up to"
    else:
        label = f"{found.over_words if found else reading.over}, shape at"
    return Word(
        name="over", title="One step or many", label=label, value=value, before=", ", marked=reading.over != "step", choices=choices
    )


def _unit(source: ReviewSource, field: Field, reading: Reading, measure: Measure, found: Resolved | None) -> Word:
    # An error estimate and the step at which something happens have units of their own.
    odd = reading.of == "error" or reading.when
    own = source.steps[reading.step].unit if reading.when else ""
    unit = found.unit if found else own if odd else (reading.unit or field.unit)
    choices = [Choice(value=u, label=u or "pure number", change={"unit": u}) for u in ([unit] if odd else units_of(measure, field))]
    return Word(
        name="unit",
        title="Unit",
        label=unit or "pure number",
        value=unit,
        before=", in ",
        marked=source.system_guessed and bool(field.unit),
        choices=choices,
    )


_OFF = (
    ("", "nothing taken off", "The reading itself."),
    ("step=0", "minus the first step", "What has been added since."),
    ("averaging=off;of=value", "minus each corner as computed", "What averaging does."),
    ("averaging=part", "minus averaged within each part", "What averaging would take away."),
    ("averaging=material", "minus averaged within each material", "The same, by material."),
    ("averaging=all", "minus averaged over all elements at a node", "The same, across borders too."),
    ("axes=global", "minus the same in global axes", "What the axes change."),
)


def _here(source: ReviewSource, field: Field, reading: Reading) -> list[tuple[str, str, str]]:
    """What is worked out here of the same plies, to be taken off what the file says of them."""
    measure = {"failure index": "index", "reserve factor": "reserve"}.get(field.kind)
    if measure is None or not field.stored or PLY_STRESS not in source.fields:
        return []
    layer = reading.layer if reading.layer[:1].isdigit() else WORST
    return [
        (
            f"field={PLY_STRESS};measure={measure};layer={layer}",
            f"minus the {field.kind} worked out here",
            "Of the stated laminates, by the usual criterion.",
        )
    ]


def _of_others(source: ReviewSource) -> list[tuple[str, str, str]]:
    """The same of each other result of the review."""
    return [
        (f"result={other.id if set(';=') & set(other.name) else other.name}", f"minus the same of {other.name}", OF_ANOTHER)
        for other in source.review.results()
        if other.id != source.id
    ]


OF_ANOTHER = "At the same moment, and the same places of the undeformed body; where that body is not, there is no value."


def _against(source: ReviewSource, field: Field, reading: Reading, found: Resolved | None) -> Word:
    nothing = "These numbers name something: a difference of them means nothing." if field.names else ""
    choices = [
        Choice(value=value, label=label, explanation=answer, impossible=nothing if value else "", change={"against": value or None})
        for value, label, answer in (*_OFF, *_here(source, field, reading), *_of_others(source))
    ]
    taken = reading.against is not None
    label = (found.taken_off if found else "minus the same, …") if taken else "minus …"
    return Word(
        name="against", title="Taken off", label=label, value="", before=" ", marked=taken, plain=not taken, choices=choices
    )
