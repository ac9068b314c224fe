"""A reading with every word settled, the sentence it prints, and the answers it is given."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.axes import BY_ELEMENT, GLOBAL, Axes
from ironstone.core.field.fields import Field
from ironstone.core.field.shell_axes import SAID
from ironstone.core.field.sliced import ANGLE, NO_LAYERS, Layers
from ironstone.core.kinds import kind_of
from ironstone.core.mesh.mesh import Float, Int
from ironstone.core.reading.measures import Measure
from ironstone.core.reading.reading import FOLD, GROUPED, Reading
from ironstone.core.units import registry

AVERAGING_WORDS = {
    "off": "each corner as computed",
    "element": "mean of each element",
    "part": "averaged within each part",
    "material": "averaged within each material",
    "all": "averaged over all elements at a node",
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


@dataclass(frozen=True)
class Resolved:
    """A reading with every word settled against one result: nothing is left to guess.

    by_element, by_place: whether components are turned into axes that belong to elements, or that vary with the place.
    groups: how many groups the averaging keeps apart. at_points: answered at Gauss points themselves. in_mean: answered as the mean
    of each element. factor, offset: from the field's unit to the reading's, value * factor + offset. name: the field's, in words.
    layers, phase: which slices of the field's axes are read. revisions: of all results that are read. elsewhere: the other
    result that a second reading is of, as it was asked for; called: its name. cases: what the steps are called by position, of a
    reading that answers which of them it is.
    """

    reading: Reading
    field: Field
    measure: Measure
    unit: str
    factor: float
    step_label: str
    step_notes: tuple[str, ...]
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
    layers: Layers = NO_LAYERS
    phase: float | str = 0.0
    phase_words: str = ""
    criterion_words: str = ""
    revisions: tuple[str, ...] = ()
    elsewhere: str = ""
    called: str = ""
    cases: tuple[str, ...] = ()

    @property
    def naming(self) -> Field | None:
        """The field whose names the answers are the numbers of; None of answers that are no names."""
        if self.cases:
            return replace(self.field, names=True, labels=self.cases)
        return self.field if self.field.names else None

    def scaled(self, values: Float) -> Float:
        """Values of the measure in the field's unit, brought to the reading's."""
        return values * self.factor + self.offset if self.offset else values * self.factor

    @property
    def signed(self) -> bool:
        """Whether the sign of a value means something, as tension and compression of a bar do."""
        return self.phase != ANGLE and (self.measure.signed or kind_of(self.field.kind).signed)

    @property
    def limited(self) -> bool:
        """Whether it fails at 1: a failure index, a share of a limit."""
        return self.reading.of == "value" and self.against is None and (self.measure.limited or kind_of(self.field.kind).limited)

    @property
    def layer_words(self) -> str:
        """Which layers are read. Plies are ranked by exposure: the reserve of the largest is the lowest."""
        words = self.layers.words
        if self.measure.name != "reserve":
            return words
        for of_exposure, of_reserve in (("largest magnitude", "lowest"), ("largest", "lowest"), ("smallest", "highest")):
            if words.startswith(of_exposure):
                return of_reserve + words.removeprefix(of_exposure)
        return words

    @property
    def words(self) -> dict[str, str]:
        """The word groups of the reading line, in order."""
        return {
            "of": OF_WORDS[self.reading.of],
            "measure": measure_label(self.measure, self.axes),
            "field": self.name,
            "layer": self.layer_words,
            "phase": self.phase_words,
            "criterion": self.criterion_words,
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
        return f"{'case' if self.cases else 'step'} at which it is {words}" if self.reading.when else words

    @property
    def against_words(self) -> str:
        """What the second reading has that the first has not, whole; its step wherever it does not go with the first's."""
        if self.against is None:
            return ""
        mine, other = self.parts, self.against.parts
        answer = {name: words or ("in global axes" if name == "axes" else "") for name, words in other.items()}
        moved = self.reading.together or self.against.over_words
        different = [n for n in answer if answer[n] and (other[n] != mine[n] or (n == "step" and not moved))]
        if self.against.elsewhere:
            # The region is that of the first: it says where, and the second is read there.
            said = [answer[n] for n in different if n != "region"]
            return "; ".join([f"of {self.against.called}", *said])
        return "; ".join(answer[n] for n in different) or "itself"

    @property
    def taken_off(self) -> str:
        """The second reading as the sentence tells it: itself, the same of another result, or the same but for some words."""
        if self.against is None:
            return ""
        words = self.against_words
        return "minus itself" if words == "itself" else f"minus the same{' ' if self.against.elsewhere else ', '}{words}"

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
            "axes": f"in {axes_words(self.axes)}" if self.by_element or self.by_place else self.surface_words,
            "criterion": self.criterion_words,
            "layer": self.layer_words,
            "phase": self.phase_words,
            "averaging": self.averaging_words,
            "region": f"on {region_words(reading.region)}",
            "step": self.over_words or self.step_words,
        }

    @property
    def surface_words(self) -> str:
        """The axes in the surface of a shell its components are told in, as stated."""
        directed = self.measure.direction is not None or "plane" in self.measure.needs
        return f"in {SAID[self.field.surface_axes]}" if self.field.surface_axes and directed else ""

    @property
    def step_words(self) -> str:
        label = self.step_label
        if self.step_kind == "number" and label.startswith("step "):
            return f"at step {self.reading.step + 1} of {self.step_count}"
        return f"at {label} (step {self.reading.step + 1} of {self.step_count})"

    @property
    def averaging_words(self) -> str:
        reading, field = self.reading, self.field
        if field.of_plies:
            return "each element as computed" if reading.averaging == "off" else AVERAGING_WORDS[reading.averaging]
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
        answer = [words for words in parts.values() if words]
        if self.against is not None:
            answer.append(self.taken_off)
        if not self.measure.names and not self.cases:
            answer.append(f"in {self.unit}" if self.unit else "a pure number")
        return ", ".join(answer)

    @property
    def caveats(self) -> list[str]:
        reading, field = self.reading, self.field
        notes = list(self.step_notes) if reading.over == "step" else []
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
        if field.layers and not field.surface_axes and not field.recovered and self.measure.direction is not None:
            notes.append("Which axes in the surface of the shell these components are told in is not stated: state it in Intake.")
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
    return name if name.startswith(f"{kind} ") else f"{kind} {name}"


@dataclass(frozen=True, eq=False)
class Values:
    """Answers, flat; NaN is no value. begins: (places + 1,) where those of each place begin, None where each has one.

    element, node: (answers,) positions the answer belongs to, -1 where that has no meaning.
    """

    values: Float
    begins: Int | None
    element: Int
    node: Int
    resolved: Resolved
    caveats: list[str] = field(default_factory=list)

    @property
    def offsets(self) -> Int:
        """Where the answers of each place begin, (places + 1,)."""
        return np.arange(len(self.values) + 1) if self.begins is None else self.begins

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
