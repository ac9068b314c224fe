"""A flag of one result at the same material point of another: what each has there, and the difference."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import displacement_of
from ironstone.core.mesh.interpolation import interpolation, positions
from ironstone.core.mesh.mesh import Float
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.elsewhere import matched, places_elsewhere, refuse_what_is_of_its_mesh
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.resolve import resolve
from ironstone.core.units import convert, same_kind
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.compare.particulars import FlagBesideMore
from ironstone.engine.reading.answers import number
from ironstone.engine.reading.flags import FlagIn, place_of_flag
from ironstone.engine.steps import find_step
from ironstone.engine.weight import Reach
from ironstone.engine.words import ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class OfFlag(ReadingWords):
    """The reading of the flag's own result that this one is held against."""

    step: int | str = "last"


class FlagBeside(ReadingWords, Question):
    """What this result has where a flag of another stands (or of the same, in another reading): in every element that meets there,
    on the side that element is on, beside what the flag itself says, and this less that."""

    kind: ClassVar[str] = "flag-beside"
    more: ClassVar[type[BaseModel]] = FlagBesideMore
    reach: ClassVar[Reach] = "place"
    step: int | str = "last"
    flag: int = Field(description="The number of the flag, of whichever result.")
    beside: OfFlag = Field(description="The reading at the flag itself: words of a reading, and its step.")

    def answer(self, review: Review) -> Answer:
        flag = FlagIn.understood(review.item(self.flag, "flag").payload)
        here = self.source(review)
        whole = review.result(flag.result)
        there = whole.at(find_step(whole, self.beside.step))
        mine = self.reading().at(find_step(here, self.step))
        own = self.beside.reading().at(find_step(there, self.beside.step))
        resolved = resolve(own, there), resolve(mine, here)
        if not matched(there, here):
            refuse_what_is_of_its_mesh(resolved[1])
        place, where, at = place_of_flag(there, flag)
        values = evaluate(own, there, place).values if len(place.element) else np.zeros(0)
        found = places_elsewhere(there, here, place)
        if not len(found.at):
            raise Impossible(f"'{here.name}' has no body where this flag of {there.name} stands.", "Plant one where both have one.")
        read = found.spread(evaluate(mine, here, found.places).values)
        units = resolved[0].unit, resolved[1].unit
        alike = same_kind(*units) and all(r.naming is None for r in resolved)
        differs = convert(read, units[1], units[0]) - values if alike else np.full(len(values), np.nan)
        parts = [there.mesh.part_names[there.mesh.part[e]] for e in place.element]
        mesh = here.mesh
        position = positions(mesh, found.places)[0]
        caveats = [] if alike else ["No difference: the two readings are not of one quantity."]
        if np.isnan(read).any() and np.isfinite(values).any():
            caveats.append(f"'{here.name}' has no value in some of the elements that meet there.")
        return Answer(
            kind=self.kind,
            sentence=f"{resolved[1].sentence()}, where a flag of {there.name} stands, at {where}, less what that says",
            unit=units[0],
            columns=[
                Column(name="element of the flag", values=[int(there.mesh.element_ids[e]) for e in place.element]),
                Column(name="part", values=parts),
                Column(name=f"at the flag, {there.name}", unit=units[0], values=[number(v) for v in values]),
                Column(name=f"here, {here.name}", unit=units[1], values=[number(v) for v in read]),
                Column(name="difference", unit=units[0], values=[number(v) for v in differs]),
            ],
            caveats=caveats,
            more={
                "name": flag.name,
                "of": there.name,
                "xyz": position.tolist(),
                "moved": _moved(here, found.places, mine.step).tolist(),
                "flag_unit": units[0],
                "here_unit": units[1],
                "entries": [
                    {"part": p, "flag": number(v), "here": number(h), "difference": number(d)}
                    for p, v, h, d in zip(parts, values, read, differs, strict=True)
                ],
                "sides": [
                    {
                        "part": p,
                        "flag": _reach(values, at_part),
                        "here": _reach(read, at_part),
                        "difference": _reach(differs, at_part),
                    }
                    for p in dict.fromkeys(parts)
                    for at_part in [np.array([q == p for q in parts])]
                ],
                "undeformed": at.tolist(),
            },
        )


def _reach(values: Float, chosen: NDArray[np.bool_]) -> list[float] | None:
    """The lowest and highest of some values; None where none of them is there."""
    own = values[chosen]
    own = own[np.isfinite(own)]
    return [float(own.min()), float(own.max())] if len(own) else None


def _moved(source: ReviewSource, places: AtSamples, step: int) -> Float:
    """The displacement at the first of some places, (3,); none where the result has none."""
    field = displacement_of(source.fields)
    if field is None:
        return np.zeros(3)
    own = interpolation(source.mesh, AtSamples(places.element[:1], places.xi[:1]))
    rows = np.asarray(source.rows(field.name, step, source.mesh.connectivity[own.corners]), dtype=float)
    moved: Float = np.nan_to_num((own.matrix @ rows)[0])
    return moved
