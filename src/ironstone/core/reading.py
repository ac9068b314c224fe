"""A reading: one fully specified quantity, and the answers it is given.

Immutable, serialisable, and prints itself as the sentence that captions every picture, curve and table.
"""

from __future__ import annotations

from collections.abc import Iterable
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
from ironstone.core.units import conversion, difference_unit, registry

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
THIRD = {
    ("stress", "plane strain"): "nu (s_xx + s_yy) of plane strain",
    ("strain", "plane stress"): "-nu/(1 - nu) (e_xx + e_yy) of plane stress",
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
    of the value. against: a second reading that is taken off; together: it is of the step of this one, whichever that is.
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
    together: bool = False

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    def at(self, step: int) -> Reading:
        """The same reading at another step; a second reading goes along where the two are taken together, else it stays."""
        if self.against is not None and self.together:
            return replace(self, step=step, against=self.against.at(step))
        return replace(self, step=step)

    def minus(self, text: str) -> Reading:
        """This reading, less itself with some words changed: 'step=0;averaging=all'. Named a step, the second stays at it."""
        other = self.changed(text)
        named = {piece.partition("=")[0].strip() for piece in text.split(";")}
        return replace(self, against=other, together="step" not in named)

    def changed(self, text: str) -> Reading:
        """This reading with some words changed: 'step=0;averaging=all'. Named a step and no span, it is of that one step."""
        kinds: dict[str, Any] = {"step": int, "fold": float, "when": lambda v: v in ("1", "true", "yes")}
        changes: dict[str, Any] = {}
        for piece in filter(None, (p.strip() for p in text.split(";"))):
            name, _, value = piece.partition("=")
            if name not in self.__dataclass_fields__ or name in ("against", "together"):
                raise Impossible(f"'{name}' is no word of a reading.", "Write like step=0;averaging=all.")
            try:
                changes[name] = plane_of(value) if name == "plane" else kinds.get(name, str)(value)
            except ValueError as error:
                raise Impossible(f"'{value}' is not right for {name}.", "Write like step=0;averaging=all.") from error
        if "step" in changes and not changes.keys() & {"over", "span", "when"}:
            changes |= {"over": "step", "span": "all", "when": False}
        if changes.get("over") == "step":
            changes.setdefault("when", False)
        return replace(self, against=None, together=False, **changes)


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
    groups: how many groups the averaging keeps apart. at_points: answered at Gauss points themselves. in_mean: answered as the mean
    of each element. factor, offset: from the field's unit to the reading's, value * factor + offset. name: the field's, in words.
    """

    reading: Reading
    field: Field
    measure: Measure
    unit: str
    factor: float
    step_label: str
    step_count: int
    step_kind: str = "time"
    model: str = ""
    axes: Axes = GLOBAL
    by_element: bool = False
    by_place: bool = False
    span: tuple[int, ...] = ()
    span_words: str = ""
    against: Resolved | None = None
    materials_named: bool = False
    groups: int = 1
    at_points: bool = False
    in_mean: bool = False
    offset: float = 0.0
    name: str = ""

    def scaled(self, values: Float) -> Float:
        """Values of the measure in the field's unit, brought to the reading's."""
        return values * self.factor + self.offset if self.offset else values * self.factor

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
            "field": self.name,
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
        """What the second reading has that the first has not, whole; its step wherever it does not go with the first's."""
        if self.against is None:
            return ""
        mine, other = self.parts, self.against.parts
        told = {name: words or ("in global axes" if name == "axes" else "") for name, words in other.items()}
        moved = self.reading.together or self.against.over_words
        different = [n for n in told if told[n] and (other[n] != mine[n] or (n == "step" and not moved))]
        return "; ".join(told[n] for n in different) or "itself"

    @property
    def parts(self) -> dict[str, str]:
        """The sentence in its parts, without the second reading and the unit; every part says all there is to it."""
        reading = self.reading
        lead = self.name if self.measure.name == "value" else f"{measure_label(self.measure, self.axes)} of {self.name}"
        if reading.of == "error":
            lead = f"error estimate in the energy norm of {self.name}, against the mean energy density"
        elif OF_WORDS[reading.of]:
            lead = f"{OF_WORDS[reading.of]} of {lead}"
        if "plane" in self.measure.needs and reading.plane is not None:
            lead += ", on the plane square to ({}, {}, {})".format(*(f"{v:.15g}" for v in reading.plane))
        return {
            "lead": lead,
            "axes": f"in {axes_words(self.axes)}" if self.by_element or self.by_place else "",
            "averaging": self.averaging_words,
            "region": f"on {region_words(reading.region)}",
            "step": self.over_words or self.step_words,
        }

    @property
    def step_words(self) -> str:
        label = self.step_label
        if self.step_kind == "number":
            return f"at step {self.reading.step + 1} of {self.step_count}"
        return f"at {label} (step {self.reading.step + 1} of {self.step_count})"

    @property
    def averaging_words(self) -> str:
        reading, field = self.reading, self.field
        if field.names:
            return "as it is, a name and no quantity"
        if reading.of == "error":
            return "" if not self.mean_words else f"averaged within each material{self.mean_words}"
        if self.at_points:
            return "each Gauss point as computed"
        if field.location == "node" and reading.averaging != "element":
            words = "averaged before import" if field.averaged_before else "as computed at the nodes"
        elif field.location == "element" and reading.averaging == "off":
            words = "each element as computed"
        else:
            words = AVERAGING_WORDS[reading.averaging]
        if reading.averaging in GROUPED:
            words += self.mean_words
        if reading.averaging in (*GROUPED, "element") and reading.order == "measure":
            words += ", measure first"
        return f"{words}, mean of each element" if self.in_mean else words

    @property
    def mean_words(self) -> str:
        """What is unusual of a mean at a node."""
        words = ", by volume" if self.reading.weight == "volume" else ""
        return words + (f", shells across folds up to {self.reading.fold:.15g}°" if self.reading.fold != FOLD else "")

    def sentence(self, with_step: bool = True) -> str:
        """All the reading is of, in words. Two readings with different answers have different sentences."""
        parts = self.parts
        if not with_step and not self.over_words:
            parts.pop("step")
        told = [words for words in parts.values() if words]
        if self.against is not None:
            told.append(f"minus the same, {self.against_words}" if self.against_words != "itself" else "minus itself")
        told.append(f"in {self.unit}" if self.unit else "a pure number")
        return ", ".join(told)

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
        if field.flat:
            law = THIRD.get((field.kind, self.model))
            if law and (self.measure.rank != "tensor" or self.measure.direction not in (0, 1, 3) or not self.axes.is_global):
                notes.append(f"The third direction is not in the file: {law}, which holds while elastic and not once it yields.")
        if field.unit and field.unit_guessed:
            notes.append(f"The unit {field.unit} is a guess: the file states none.")
        if reading.of == "error":
            notes.append("An estimate from the averaged stress: it misses error that neighbouring elements share.")
        return notes


def field_words(name: str, names: Iterable[str]) -> str:
    """A field's name as it stands in sentences: plain words where no other field would be called the same."""
    plain = name.replace("_", " ")
    if sum(n.replace("_", " ") == plain for n in names) > 1:
        plain = name
    return f"'{plain}'" if " of " in plain or "," in plain or ";" in plain else plain


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
    return name if name.startswith(f"{kind} ") else f"{kind} {name}"


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
    scale, offset = conversion(own, unit)
    # At a node there is one value: averaging over the elements there changes nothing.
    averaging = "off" if chosen.location == "node" and reading.averaging in GROUPED else reading.averaging
    settled = replace(reading, measure=name, unit=unit, averaging=averaging)
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
        unit=difference_unit(unit) if reading.of != "value" or against is not None else unit,
        factor=scale,
        offset=0.0 if reading.of != "value" else offset,
        step_label=step.label,
        step_count=len(source.steps),
        step_kind=step.kind,
        model=source.setup.model,
        name=field_words(chosen.name, source.fields),
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
        now = source.steps[reading.step]
        where = "" if now.kind == "number" else f"{now.label}, "
        return tuple(range(reading.step + 1)), f"the steps so far, up to {where}step {reading.step + 1} of {count}"
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
