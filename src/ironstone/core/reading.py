"""A reading: one fully specified quantity, and the answers it is given.

Immutable, serialisable, and prints itself as the sentence that captions every picture, curve and table.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.averaging import AVERAGINGS
from ironstone.core.errors import Impossible
from ironstone.core.fields import Field, Source
from ironstone.core.measures import Measure, measure, measures_for
from ironstone.core.mesh import Float, Int
from ironstone.core.units import factor

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
}


@dataclass(frozen=True)
class Reading:
    """What is asked. ``step`` is an index from 0; ``region`` is 'all', 'part:NAME' or 'set:NAME'; ``unit`` None is the result's.

    of: 'value', 'jump' (spread between the elements that meet at a node) or 'jump-within-material'.
    """

    field: str
    measure: str = ""
    averaging: str = "off"
    order: str = "components"
    step: int = 0
    region: str = "all"
    unit: str | None = None
    of: str = "value"

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    def at(self, step: int) -> Reading:
        return replace(self, step=step)


@dataclass(frozen=True)
class Resolved:
    """A reading with every word settled against one result: nothing is left to guess."""

    reading: Reading
    field: Field
    measure: Measure
    unit: str
    factor: float
    step_label: str
    step_count: int
    materials_named: bool = False

    @property
    def words(self) -> dict[str, str]:
        """The word groups of the reading line, in order."""
        return {
            "of": OF_WORDS[self.reading.of],
            "measure": self.measure.label,
            "field": self.field.name.replace("_", " "),
            "averaging": self.averaging_words,
            "region": region_words(self.reading.region),
            "step": self.step_label,
            "unit": self.unit or "1",
        }

    @property
    def averaging_words(self) -> str:
        if self.field.location == "node":
            return "averaged before import" if self.field.averaged_before else "as computed at the nodes"
        words = AVERAGING_WORDS[self.reading.averaging]
        if self.reading.averaging in ("part", "material", "all") and self.reading.order == "measure":
            words += ", measure first"
        if self.field.location == "element" and self.reading.averaging == "off":
            words = "each element as computed"
        return words

    def sentence(self, with_step: bool = True) -> str:
        w = self.words
        lead = f"{w['field']}" if self.measure.name == "value" else f"{w['measure']} of {w['field']}"
        if w["of"]:
            lead = f"{w['of']} of {lead}"
        parts = [lead, w["averaging"], f"on {w['region']}"]
        if with_step:
            parts.append(f"at {w['step']} (step {self.reading.step + 1} of {self.step_count})")
        parts.append(f"in {self.unit}" if self.unit else "a pure number")
        return ", ".join(parts)

    @property
    def caveats(self) -> list[str]:
        notes = []
        if self.field.averaged_before:
            notes.append("The file holds node values: they were averaged before import and cannot be un-averaged.")
        if self.reading.averaging == "all" and self.field.location != "node":
            notes.append("Averaged across parts: at an interface this value exists in neither.")
        if self.reading.averaging == "material" and self.field.location != "node" and not self.materials_named:
            notes.append("The file names no materials: each part counts as a material of its own.")
        if self.field.unit and self.field.unit_guessed:
            notes.append(f"The unit {self.field.unit} is a guess: the file states none.")
        return notes


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
    if reading.averaging not in AVERAGINGS:
        raise Impossible(f"'{reading.averaging}' is not an averaging.", f"Choose one of: {', '.join(AVERAGINGS)}.")
    if reading.order not in ("components", "measure"):
        raise Impossible(f"'{reading.order}' is not an order.", "Average 'components' first or the 'measure' first.")
    if reading.of not in OF_WORDS:
        raise Impossible(f"'{reading.of}' cannot be taken.", f"Choose one of: {', '.join(OF_WORDS)}.")
    if reading.of != "value" and chosen.location == "node":
        raise Impossible(
            f"'{chosen.name}' has one value at each node: there is no jump.", "Take the jump of a corner or element field."
        )
    if reading.of != "value" and reading.averaging != "off":
        raise Impossible("A jump is taken of values as computed.", "Set averaging to off.")
    if not 0 <= reading.step < len(source.steps):
        raise Impossible(f"There is no step {reading.step} in this result.", f"Steps run from 0 to {len(source.steps) - 1}.")
    name = reading.measure or usual_measure(chosen)
    found = measure(name, chosen.rank, f"'{chosen.name}'", chosen.kind)
    own = chosen.unit if found.unit is None else found.unit
    unit = own if reading.unit is None else reading.unit
    settled = replace(reading, measure=name, unit=unit)
    step = source.steps[reading.step]
    return Resolved(
        settled, chosen, found, unit, factor(own, unit), step.label, len(source.steps), source.mesh.material is not None
    )


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
    def valid(self) -> NDArray[np.bool_]:
        return ~np.isnan(self.values)

    def of(self, place: int) -> Float:
        return self.values[self.offsets[place] : self.offsets[place + 1]]
