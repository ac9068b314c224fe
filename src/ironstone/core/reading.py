"""A reading: one fully specified quantity, and the answers it is given.

Immutable, serialisable, and prints itself as the sentence that captions every picture, curve and table.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.averaging import AVERAGINGS, FOLD, WEIGHTS
from ironstone.core.axes import BY_ELEMENT, GLOBAL, MATERIAL, Axes
from ironstone.core.errors import Impossible
from ironstone.core.fields import Field, Source
from ironstone.core.measures import MEASURES, Measure, measure, measures_for
from ironstone.core.mesh import Float, Int
from ironstone.core.units import factor, registry

AVERAGING_WORDS = {
    "off": "each corner as computed",
    "element": "mean of each element",
    "part": "averaged within each part",
    "material": "averaged within each material",
    "all": "averaged across everything",
}
OF_WORDS = {
    "value": "",
    "jump": "jump between elements",
    "jump-within-material": "jump between elements of one material",
    "error": "error estimate",
}
OVER_WORDS = {
    "step": "",
    "largest": "largest over",
    "smallest": "smallest over",
    "magnitude": "largest magnitude over",
}
PULLS = ("axial force", "axial stress", "fibre stress")
GROUPED = ("part", "material", "all")


@dataclass(frozen=True)
class Reading:
    """What is asked. ``step`` is an index from 0; ``region`` is 'all', 'part:NAME', 'material:NAME' or 'set:NAME'.

    unit: None is the result's. of: 'value', 'jump' (spread between the elements that meet at a node), 'jump-within-material', or
    'error' (of a stress, in the energy norm, of each element). axes: 'global', 'element', 'material', or the name of axes kept
    with the review. plane: normal of the plane for a traction, in those axes. weight: what counts in a mean at a node, 'plain' or
    by 'volume'. fold: degrees above which shells are not averaged across a fold. over: 'step', or 'largest', 'smallest',
    'magnitude' over ``span``: 'all', 'so-far' (up to ``step``) or 'A:B' (both counted, from 0); when: the step at which, in place
    of the value. against: a second reading that is taken off.
    """

    field: str
    measure: str = ""
    averaging: str = "off"
    order: str = "components"
    step: int = 0
    region: str = "all"
    unit: str | None = None
    of: str = "value"
    axes: str = "global"
    plane: tuple[float, float, float] | None = None
    weight: str = "plain"
    fold: float = FOLD
    over: str = "step"
    span: str = "all"
    when: bool = False
    against: Reading | None = None

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    def at(self, step: int) -> Reading:
        """The same reading at another step; a second reading that is taken off stays where it is."""
        return replace(self, step=step)

    def changed(self, text: str) -> Reading:
        """This reading with some words changed: 'step=0;averaging=all'. What a difference is taken against is written so."""
        kinds: dict[str, Any] = {"step": int, "fold": float, "when": lambda v: v in ("1", "true", "yes")}
        changes: dict[str, Any] = {}
        for piece in filter(None, (p.strip() for p in text.split(";"))):
            name, _, value = piece.partition("=")
            if name not in self.__dataclass_fields__ or name == "against":
                raise Impossible(f"'{name}' is no word of a reading.", "Write like step=0;averaging=all.")
            try:
                changes[name] = plane_of(value) if name == "plane" else kinds.get(name, str)(value)
            except ValueError as error:
                raise Impossible(f"'{value}' is not right for {name}.", "Write like step=0;averaging=all.") from error
        return replace(self, against=None, **changes)


def plane_of(text: str) -> tuple[float, float, float]:
    """A plane's normal from 'X,Y,Z'. Raises Impossible where these are not three numbers that point somewhere."""
    try:
        x, y, z = (float(v) for v in text.split(","))
    except ValueError as error:
        raise Impossible(f"'{text}' is not a direction.", "Write three numbers, like 0,0,1.") from error
    if not np.isfinite([x, y, z]).all() or x == y == z == 0.0:
        raise Impossible(f"'{text}' points nowhere.", "Write three numbers, like 0,0,1.")
    return x, y, z


@dataclass(frozen=True)
class Resolved:
    """A reading with every word settled against one result: nothing is left to guess.

    by_element, by_place: whether components are turned into axes that belong to elements, or that vary with the place.
    groups: how many groups the averaging keeps apart. at_points: answered at Gauss points themselves.
    """

    reading: Reading
    field: Field
    measure: Measure
    unit: str
    factor: float
    step_label: str
    step_count: int
    axes: Axes = GLOBAL
    by_element: bool = False
    by_place: bool = False
    span: tuple[int, ...] = ()
    span_words: str = ""
    against: Resolved | None = None
    materials_named: bool = False
    groups: int = 1
    at_points: bool = False

    @property
    def signed(self) -> bool:
        """Whether the sign of a value means something, as tension and compression of a bar do."""
        return self.measure.signed or self.field.kind in PULLS

    @property
    def words(self) -> dict[str, str]:
        """The word groups of the reading line, in order."""
        return {
            "of": OF_WORDS[self.reading.of],
            "measure": measure_label(self.measure, self.axes),
            "field": self.field.name.replace("_", " "),
            "averaging": self.averaging_words,
            "axes": axes_words(self.axes),
            "region": region_words(self.reading.region),
            "step": self.step_label,
            "over": self.over_words,
            "unit": self.unit or "1",
            "against": self.against_words,
        }

    @property
    def over_words(self) -> str:
        if self.reading.over == "step":
            return ""
        words = f"{OVER_WORDS[self.reading.over]} {self.span_words}"
        return f"step at which it is {words}" if self.reading.when else words

    @property
    def against_words(self) -> str:
        """What the second reading has that the first has not."""
        if self.against is None:
            return ""
        mine, other = self.words_alone(), self.against.words_alone()
        return "; ".join(other[k] for k in other if other[k] != mine[k] and other[k]) or "itself"

    def words_alone(self) -> dict[str, str]:
        return replace(self, against=None).words

    @property
    def averaging_words(self) -> str:
        reading = self.reading
        if self.field.names:
            return "as it is, a name and no quantity"
        if self.field.location == "node" and reading.averaging != "element":
            return "averaged before import" if self.field.averaged_before else "as computed at the nodes"
        words = AVERAGING_WORDS[reading.averaging]
        if reading.averaging in GROUPED:
            words += ", by volume" if reading.weight == "volume" else ""
            words += f", shells across folds up to {reading.fold:g}°" if reading.fold != FOLD else ""
        if reading.averaging in (*GROUPED, "element") and reading.order == "measure":
            words += ", measure first"
        if self.field.location == "element" and reading.averaging == "off":
            words = "each element as computed"
        if self.at_points:
            words = "each Gauss point as computed"
        return words

    def sentence(self, with_step: bool = True) -> str:
        w = self.words
        lead = f"{w['field']}" if self.measure.name == "value" else f"{w['measure']} of {w['field']}"
        if self.reading.of == "error":
            lead = f"error estimate in the energy norm of {w['field']}, against the mean energy density"
        elif w["of"]:
            lead = f"{w['of']} of {lead}"
        parts = [lead]
        if self.measure.needs and "plane" in self.measure.needs and self.reading.plane is not None:
            parts.append("on the plane square to ({:g}, {:g}, {:g})".format(*self.reading.plane))
        if self.by_element or self.by_place:
            parts.append(f"in {w['axes']}")
        parts += [w["averaging"]] if self.reading.of != "error" else []
        parts.append(f"on {w['region']}")
        if self.reading.over != "step":
            parts.append(w["over"])
        elif with_step:
            parts.append(f"at {w['step']} (step {self.reading.step + 1} of {self.step_count})")
        if self.against is not None:
            parts.append(f"less the same with {w['against']}")
        parts.append(f"in {self.unit}" if self.unit else "a pure number")
        return ", ".join(parts)

    @property
    def caveats(self) -> list[str]:
        notes = []
        reading, field = self.reading, self.field
        if field.averaged_before:
            notes.append("The file holds node values: they were averaged before import and cannot be un-averaged.")
        if field.recovered:
            notes.append(f"Recovered here, not from the file: {field.recovered}.")
        if reading.averaging == "all" and field.location != "node" and self.groups > 1:
            notes.append("Averaged across parts: at an interface this value exists in neither.")
        if reading.averaging == "material" and field.location != "node" and not self.materials_named:
            notes.append("The file names no materials: each part counts as a material of its own.")
        if field.location == "gauss" and not self.at_points and reading.averaging != "element":
            notes.append("Extrapolated from the Gauss points to the corners with the functions of their grid; nothing is clipped.")
        if field.precision == "single":
            notes.append("The file holds single precision: about seven digits.")
        if field.unit and field.unit_guessed:
            notes.append(f"The unit {field.unit} is a guess: the file states none.")
        if reading.of == "error":
            notes.append("An estimate from the averaged stress: it misses error that neighbouring elements share.")
        return notes


def measure_label(found: Measure, axes: Axes) -> str:
    """The measure's name, components by the directions of the axes they are told in."""
    if axes.is_global or found.direction is None:
        return found.label
    names = axes.directions
    if found.rank == "vector" or found.direction < 3:
        return f"{names[found.direction]} component"
    first, second = ((0, 1), (1, 2), (0, 2))[found.direction - 3]
    return f"{'engineering ' if found.name.startswith('gamma') else ''}shear {names[first]}-{names[second]}"


def axes_words(axes: Axes) -> str:
    if axes.kind in BY_ELEMENT:
        return f"each {'element' if axes.kind == 'element' else 'material'}'s own axes"
    return "global axes" if axes.is_global else f"axes {axes.name} ({axes.kind})"


def region_words(region: str) -> str:
    if region == "all":
        return "the whole model"
    kind, _, name = region.partition(":")
    return f"{kind} {name}"


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
    if reading.of == "error":
        if chosen.kind != "stress" or chosen.rank != "tensor":
            raise Impossible(f"'{chosen.name}' is no stress tensor.", "The error in the energy norm is estimated from stress.")
        if not source.setup.constants:
            raise Impossible(
                "The error in the energy norm needs the materials' constants.",
                "State Young's modulus and Poisson's ratio in Intake.",
            )
    if set(found.needs) & {"young", "poisson"} and not source.setup.constants:
        raise Impossible(f"'{found.label}' needs the materials' constants.", "State Young's modulus and Poisson's ratio in Intake.")
    span, span_words = _span(reading, source)
    own = chosen.unit if found.unit is None else found.unit
    if reading.of == "error":
        own = ""
    if reading.when:
        own = source.steps[0].unit
    unit = own if reading.unit is None else reading.unit
    settled = replace(reading, measure=name, unit=unit)
    step = source.steps[reading.step]
    against = None
    if reading.against is not None:
        if reading.against.against is not None:
            raise Impossible("A difference is taken of two readings, not of differences.", "Take one off the other.")
        against = resolve(replace(reading.against, unit=unit), source)
        settled = replace(settled, against=against.reading)
    turns = chosen.rank in ("vector", "tensor") and not axes.is_global
    mesh = source.mesh
    groups = len(mesh.part_names) if mesh.material is None else max(len(mesh.part_names), len(mesh.material_or_part_names))
    return Resolved(
        reading=settled,
        field=chosen,
        measure=found,
        unit=unit,
        factor=factor(own, unit),
        step_label=step.label,
        step_count=len(source.steps),
        axes=axes if turns else GLOBAL,
        by_element=turns and axes.kind in BY_ELEMENT,
        by_place=turns and axes.kind not in BY_ELEMENT,
        span=span,
        span_words=span_words,
        against=against,
        materials_named=mesh.material is not None,
        groups=groups,
    )


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
    if reading.when and reading.over == "step":
        raise Impossible("At which step something is largest can be told over several steps alone.", "Choose largest or smallest.")


def _find_axes(reading: Reading, chosen: Field, source: Source) -> Axes:
    if reading.axes == "material":
        if not source.setup.orientation:
            raise Impossible("The file has no material axes.", "State which field holds each element's orientation, in Intake.")
        return MATERIAL
    found = source.setup.axes_named(reading.axes)
    if found is None:
        known = ", ".join(["global", "element", *source.setup.axes])
        raise Impossible(f"There are no axes named '{reading.axes}'.", f"Axes here: {known}.")
    return found


def _in_axes(name: str, rank: str, axes: Axes) -> str:
    """Components may be asked for by the axes' own directions: hoop is the second of cylindrical axes."""
    if axes.kind == "cartesian" or (rank, name) in MEASURES or name not in axes.directions:
        return name
    return ("xx", "yy", "zz")[axes.directions.index(name)] if rank == "tensor" else "xyz"[axes.directions.index(name)]


def _span(reading: Reading, source: Source) -> tuple[tuple[int, ...], str]:
    """The steps a reading runs over, and what they are called."""
    count = len(source.steps)
    if reading.over == "step":
        return (reading.step,), ""
    if reading.span == "all":
        return tuple(range(count)), "all steps"
    if reading.span == "so-far":
        return tuple(range(reading.step + 1)), f"the steps so far, up to {source.steps[reading.step].label}"
    first, _, last = reading.span.partition(":")
    if not first.isdigit() or not last.isdigit() or not int(first) <= int(last) < count:
        raise Impossible(
            f"'{reading.span}' is no span of steps.", f"Write all, so-far, or two steps like 0:{count - 1}, counted from 0."
        )
    return tuple(range(int(first), int(last) + 1)), f"steps {int(first) + 1} to {int(last) + 1}"


def usual_measure(chosen: Field) -> str:
    return measures_for(chosen.rank, chosen.kind)[0].name


@dataclass(frozen=True, eq=False)
class Values:
    """Answers, flat, with ``offsets`` (places + 1,) telling where each place begins; NaN is no value.

    element, node: (answers,) positions the answer belongs to, -1 where that has no meaning.
    """

    values: Float
    offsets: Int
    element: Int
    node: Int
    resolved: Resolved
    caveats: list[str] = field(default_factory=list)

    @property
    def unit(self) -> str:
        return self.resolved.unit

    @property
    def quantity(self) -> Any:
        """The answers with their unit, as a pint quantity."""
        return registry().Quantity(self.values, self.unit or "dimensionless")

    @property
    def valid(self) -> NDArray[np.bool_]:
        return ~np.isnan(self.values)

    def of(self, place: int) -> Float:
        return self.values[self.offsets[place] : self.offsets[place + 1]]
