"""Settling a reading against a result: nothing is left to guess, or it is told what is possible instead."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ironstone.core.errors import Impossible
from ironstone.core.field.axes import BY_ELEMENT, GLOBAL, MATERIAL, Axes
from ironstone.core.field.constants import CONSTANTS, ELASTIC, labels, lacking
from ironstone.core.field.fields import COMBINATION, Field, Source
from ironstone.core.field.loadings import computed, loading_name, loading_of
from ironstone.core.field.shell_axes import SAID
from ironstone.core.field.sliced import ANGLE, WORST, layers_of, phase_of
from ironstone.core.field.titles import field_title
from ironstone.core.kinds import kind_of
from ironstone.core.reading.elsewhere import same_moment
from ironstone.core.reading.measures import MEASURES, Measure, measure, measures_for
from ironstone.core.reading.reading import AVERAGINGS, GROUPED, WEIGHTS, Reading, plane_of
from ironstone.core.reading.resolved import OF_WORDS, OVER_WORDS, Resolved
from ironstone.core.strength.criteria import USUAL, check_of, mode_words
from ironstone.core.units import conversion, difference_unit
from ironstone.core.words import listed


def resolve(reading: Reading, source: Source) -> Resolved:
    """Settle a reading against a result; raises with what is possible instead when it has no meaning there."""
    if reading.field not in source.fields:
        raise Impossible(f"There is no field named '{reading.field}' in this result.", f"Fields here: {', '.join(source.fields)}.")
    chosen = source.fields[reading.field]
    _check_choices(reading, chosen)
    if not 0 <= reading.step < len(source.steps):
        raise Impossible(f"There is no step {reading.step} in this result.", f"Steps run from 0 to {len(source.steps) - 1}.")
    axes = _find_axes(reading, chosen, source)
    name = _in_axes(reading.measure or usual_measure(chosen), chosen.rank, axes)
    found = measure(name, chosen.rank, f"'{chosen.name}'", chosen.kind)
    if "plane" in found.needs:
        if reading.plane is None:
            raise Impossible(f"'{found.label}' needs a plane.", "State its normal, like 0,0,1.")
        plane_of(",".join(map(str, reading.plane)))
    if reading.of == "error" and (chosen.kind != "stress" or chosen.rank != "tensor"):
        raise Impossible(f"'{chosen.name}' is no stress tensor.", "The error in the energy norm is estimated from stress.")
    if reading.of == "error" and (missing := lacking(ELASTIC, source.setup.constants)):
        raise Impossible("The error in the energy norm needs the materials' constants.", f"State {labels(missing)} in Intake.")
    if missing := lacking(set(found.needs) & set(CONSTANTS), source.setup.constants):
        raise Impossible(f"'{found.label}' needs the materials' constants.", f"State {labels(missing)} in Intake.")
    span, span_words = _span(reading, source)
    layers = layers_of(reading.layer, chosen)
    criterion, criterion_words = "", ""
    if chosen.of_plies:
        layers = replace(layers, how=_worst(found) if layers.how == WORST else layers.how)
        if reading.averaging != "off":
            raise Impossible("What is in a ply belongs to its element: it is not averaged.", "Set averaging to off.")
        laminates = source.setup.laminates
        if "criterion" in found.needs and laminates is not None:
            check = check_of(reading.criterion or USUAL)
            check.refuse_if_lacking(laminates.materials)
            criterion, criterion_words = check.name, f"by {check.label}"
            words = mode_words(check, laminates.materials) if found.name == "mode" else laminates.ply_names
            if found.names:
                chosen = replace(chosen, names=True, labels=words)
    phase, phase_words = phase_of(reading.phase, chosen, linear(found))
    own = chosen.unit if found.unit is None else found.unit
    if reading.of == "error":
        own = ""
    if reading.when:
        own = source.steps[reading.step].unit
    if phase == ANGLE:
        own = _degrees(reading)
    unit = own if reading.unit is None else reading.unit
    scale, offset = conversion(own, unit)
    # At a node there is one value: averaging over the elements there changes nothing.
    averaging = "off" if chosen.location == "node" and reading.averaging in GROUPED else reading.averaging
    settled = replace(reading, measure=name, unit=unit, averaging=averaging, criterion=criterion)
    step = source.steps[reading.step]
    against = None
    if reading.against is not None:
        if reading.against.against is not None:
            raise Impossible("A difference is taken of two readings, not of differences.", "Take one off the other.")
        against = _taken_off(reading, unit, source)
        settled = replace(settled, against=against.reading)
    turns = chosen.rank in ("vector", "tensor") and not axes.is_global
    mesh = source.mesh
    groups = len(mesh.part_names) if mesh.material is None else max(len(mesh.part_names), len(mesh.material_or_part_names))
    return Resolved(
        reading=settled,
        field=chosen,
        measure=found,
        unit=difference_unit(unit) if reading.of != "value" or against is not None else unit,
        factor=scale,
        offset=0.0 if reading.of != "value" else offset,
        step_label=step.label,
        step_notes=step.notes,
        step_count=len(source.steps),
        step_kind=step.kind,
        model=source.setup.model,
        name=field_title(chosen.name, source.fields),
        axes=axes if turns else GLOBAL,
        by_element=turns and axes.kind in BY_ELEMENT,
        by_place=turns and axes.kind not in BY_ELEMENT,
        span=span,
        span_words=span_words,
        cases=tuple(s.name or s.label for s in source.steps) if reading.when and told_by_name(source, span) else (),
        against=against,
        materials_named=mesh.material is not None,
        groups=groups,
        layers=layers,
        phase=phase,
        phase_words=phase_words,
        criterion_words=criterion_words,
        revisions=(source.revision, *(against.revisions if against else ())),
    )


def _degrees(reading: Reading) -> str:
    """The unit of a phase. Raises Impossible where a reading makes more of it than what it is at one step."""
    if reading.of != "value" or reading.over != "step" or reading.against is not None:
        raise Impossible("The phase of a peak is read at one step, as it is.", "Take the peak, or a phase in degrees.")
    return "deg"


def _taken_off(reading: Reading, unit: str, source: Source) -> Resolved:
    """The second reading, settled: of this result or of another, there at the same moment where the two are taken together."""
    second = reading.against
    assert second is not None
    second = replace(second, unit=unit)
    if not second.result:
        return resolve(second, source.at(second.step) if 0 <= second.step < len(source.steps) else source)
    theirs = source.other(second.result)
    if theirs is source:
        return resolve(replace(second, result=""), source)
    if reading.together:
        now = second.over == "step" or second.span == "so-far"
        last = len(computed(theirs.steps)) - 1
        second = second.at(same_moment(source.steps[reading.step], theirs) if now else min(reading.step, last))
    if second.region == reading.region:
        # It is read at the places of the first, wherever these lie in it.
        second = replace(second, region="all")
    return replace(resolve(second, theirs.at(second.step)), elsewhere=second.result, called=theirs.name or second.result)


def _worst(found: Measure) -> str:
    """What the worst of several plies is: of what needs a criterion the most exposed, of a stress or strain the farthest from 0."""
    return "largest" if "criterion" in found.needs else "magnitude"


def linear(found: Measure) -> bool:
    """Whether a measure is a component, so that its two parts of a harmonic have a magnitude."""
    return found.rank == "scalar" or found.direction is not None or found.name in ("mean", "pressure", "plane-normal")


def _check_choices(reading: Reading, chosen: Field) -> None:
    for value, choices, what in (
        (reading.averaging, AVERAGINGS, "an averaging"),
        (reading.order, ("components", "measure"), "what is averaged first"),
        (reading.of, tuple(OF_WORDS), "what can be taken"),
        (reading.weight, WEIGHTS, "a weight"),
        (reading.over, tuple(OVER_WORDS), "a way over steps"),
    ):
        if value not in choices:
            raise Impossible(f"'{value}' is not {what}.", f"Choose one of: {', '.join(choices)}.")
    if reading.of != "value" and chosen.location == "node":
        raise Impossible(
            f"'{chosen.name}' has one value at each node: there is no jump.", "Take the jump of a corner or element field."
        )
    if reading.of != "value" and reading.averaging != "off":
        raise Impossible("A jump and an error estimate are taken of values as computed.", "Set averaging to off.")
    if chosen.names and (reading.averaging != "off" or reading.of != "value"):
        raise Impossible(
            f"The numbers of '{chosen.name}' name something: a mean of them, or a difference, means nothing.",
            "Set averaging to off, and read the value itself.",
        )
    if kind_of(chosen.kind).own and (reading.averaging != "off" or reading.of != "value"):
        raise Impossible(
            f"A {chosen.kind} belongs to its ply and its element: it is not averaged.", "Set averaging to off, and read the value."
        )
    if reading.when and reading.over == "step":
        raise Impossible("At which step something is largest can be told over several steps alone.", "Choose largest or smallest.")


def _find_axes(reading: Reading, chosen: Field, source: Source) -> Axes:
    if reading.axes == "material":
        if not source.setup.orientation:
            raise Impossible("The file has no material axes.", "State which field holds each element's orientation, in Intake.")
        return MATERIAL
    if reading.axes != "global" and chosen.surface_axes:
        raise Impossible(
            f"'{chosen.name}' is told in {SAID[chosen.surface_axes]}, as stated.",
            "Read it in these axes: choose global axes, its own.",
        )
    found = source.setup.axes_named(reading.axes)
    if found is None:
        known = ", ".join(["global", "element", *source.setup.axes])
        raise Impossible(f"There are no axes named '{reading.axes}'.", f"Axes here: {known}.")
    return found


# What components in cylindrical axes are called for short.
_CYLINDRICAL = {
    "vector": {"r": "x", "t": "y", "theta": "y"},
    "tensor": {"rr": "xx", "tt": "yy", "rt": "xy", "tz": "yz", "rz": "xz", "r": "xx", "t": "yy", "theta": "yy"},
}


def _in_axes(name: str, rank: str, axes: Axes) -> str:
    """Components may be asked for by the axes' own directions: hoop is the second of cylindrical axes."""
    if axes.kind == "cylindrical" and name in _CYLINDRICAL.get(rank, {}):
        return _CYLINDRICAL[rank][name]
    if axes.kind == "cartesian" or (rank, name) in MEASURES or name not in axes.directions:
        return name
    return ("xx", "yy", "zz")[axes.directions.index(name)] if rank == "tensor" else "xyz"[axes.directions.index(name)]


def _span(reading: Reading, source: Source) -> tuple[tuple[int, ...], str]:
    """The steps a reading runs over, and what they are called."""
    count = len(source.steps)
    if reading.over == "step":
        return (reading.step,), ""
    loading = loading_name(source.steps, reading.step)
    of_loading = f" of {loading}" if loading else ""
    if reading.span == "all" and source.steps[reading.step].kind == COMBINATION:
        return loading_of(source.steps, reading.step), "all combinations"
    if reading.span == "all":
        return loading_of(source.steps, reading.step), f"all steps{of_loading}"
    if reading.span == "so-far":
        now = source.steps[reading.step]
        where = "" if now.kind == "number" else f"{now.label}, "
        before = tuple(i for i in loading_of(source.steps, reading.step) if i <= reading.step)
        return before, f"the steps so far{of_loading}, up to {where}step {reading.step + 1} of {count}"
    if "," in reading.span:
        return _listed(reading.span, source)
    first, _, last = reading.span.partition(":")
    if not first.isdigit() or not last.isdigit() or not int(first) <= int(last) < count:
        raise Impossible(
            f"'{reading.span}' is no span of steps.",
            f"Write all, so-far, two steps like 0:{count - 1}, or some like 0,{count - 1}, counted from 0.",
        )
    return tuple(range(int(first), int(last) + 1)), f"steps {int(first) + 1} to {int(last) + 1}"


def _listed(span: str, source: Source) -> tuple[tuple[int, ...], str]:
    """Steps that are named one by one, as of cases that have no order."""
    words, count = span.split(","), len(source.steps)
    if not all(w.isdigit() and int(w) < count for w in words) or len(set(words)) < len(words):
        raise Impossible(f"'{span}' is no list of steps.", f"Write each once, counted from 0 to {count - 1}, like 0,{count - 1}.")
    chosen = tuple(int(w) for w in words)
    steps = [source.steps[i] for i in chosen]
    made = all(s.kind == COMBINATION for s in steps)
    if made and len(chosen) == sum(s.kind == COMBINATION for s in source.steps):
        return chosen, "all combinations"
    named = [s.name if made else s.label for s in steps]
    return chosen, f"{'combinations ' if made else ''}{listed(named)}"


def told_by_name(source: Source, span: Sequence[int]) -> bool:
    """Whether the steps of a span are cases that have names and no order, so that *when* is a name and no number."""
    return any(source.steps[i].kind == COMBINATION for i in span) or len({source.steps[i].loading for i in span}) > 1


def usual_measure(chosen: Field) -> str:
    return measures_for(chosen.rank, chosen.kind)[0].name
