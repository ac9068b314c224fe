"""What the flags say of a reading at every step: each element that meets at a flag, or one number of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.field.loadings import computed
from ironstone.core.mesh.mesh import Float
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.caveats import caveats as answer_caveats
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading import answers
from ironstone.engine.reading.flags import FlagOut, flags_of, place_of_flag
from ironstone.engine.reading.particulars import FlagStepsMore
from ironstone.engine.steps import steps_column
from ironstone.engine.weight import Reach
from ironstone.engine.words import ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource

_TAKEN: dict[str, Callable[..., Float]] = {"mean": np.nanmean, "max": np.nanmax, "min": np.nanmin}
_SAID = {"mean": "mean of", "max": "largest of", "min": "smallest of"}


class _At:
    """Where a flag stands in the elements that meet there (once where they all say the same), and what each is called."""

    def __init__(self, source: ReviewSource, flag: FlagOut, number: int, nodal: bool) -> None:
        mesh = source.mesh
        place, _, _ = place_of_flag(source, flag)
        self.flag, self.number, self.place = flag, number, place
        self.names = [f"element {mesh.element_ids[e]} ({mesh.part_names[mesh.part[e]]})" for e in place.element]
        if nodal and flag.node is not None:
            self.place, self.names = AtSamples(place.element[:1], place.xi[:1]), [""]


class FlagSteps(ReadingWords, Question):
    """A reading at the flags of a result, followed through the steps."""

    kind: ClassVar[str] = "flag-steps"
    more: ClassVar[type[BaseModel]] = FlagStepsMore
    reach: ClassVar[Reach] = "place"
    flags: list[int] | None = Field(None, description="Numbers of the flags; none: all of the result.")
    take: Literal["all", "band", "mean", "max", "min"] = Field(
        "all", description="all: every element that meets at a flag; band: its lowest and highest; else one number of them."
    )

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        planted = flags_of(review, source.id)
        numbered = {f.id: i for i, f in enumerate(planted, start=1)}
        if self.flags is not None:
            missing = [f for f in self.flags if f not in numbered]
            if missing:
                raise NotFound(f"There is no flag {missing[0]} on this result.", "It may have been removed.")
            planted = [f for f in planted if f.id in self.flags]
        if not planted:
            raise IronstoneError("No flag is planted on this result.", "Click the model where the value matters.")
        reading = self._followed()
        found = resolve(reading, source)
        places = [_At(source, flag, number=numbered[flag.id], nodal=found.field.location == "node") for flag in planted]
        whole = AtSamples(np.concatenate([p.place.element for p in places]), np.concatenate([p.place.xi for p in places]))
        values = np.array(
            [evaluate(reading.at(s.index), source, whole).values for s in source.steps[: len(computed(source.steps))]],
            dtype=np.float64,
        )
        columns = [steps_column(source)]
        groups, begin = [], 0
        for at in places:
            own = self._columns(values[:, begin : begin + len(at.names)], at, found.unit)
            begin += len(at.names)
            groups.append({"flag": at.flag.id, "first": len(columns), "count": len(own)})
            columns += own
        taken = (
            "" if self.take in ("all", "band") or found.field.location == "node" else f", {_SAID[self.take]} the elements that meet"
        )
        where = "the flags" if len(planted) > 1 else planted[0].place
        return Answer(
            kind=self.kind,
            sentence=f"{found.sentence(with_step=False)}, at {where}{taken}, over the steps",
            unit=found.unit,
            columns=columns,
            caveats=answer_caveats(found, source, values.ravel()),
            more={"groups": groups},
        )

    def _followed(self) -> Reading:
        """The reading at each step: one over all steps is the same at every one, so each step is asked for itself."""
        reading = self.reading()
        return reading if reading.span == "so-far" else replace(reading, over="step", when=False)

    def _columns(self, values: Float, at: _At, unit: str) -> list[Column]:
        """The columns of a flag, of its values (steps, elements)."""
        flag, names = at.flag, at.names
        called = f"flag {at.number}{f' {flag.name}' if flag.name else ''}, {flag.place}"
        if self.take == "all" or len(names) == 1:
            return [
                Column(name=f"{called}{f', {n}' if n else ''}", unit=unit, values=[answers.number(v) for v in values[:, i]])
                for i, n in enumerate(names)
            ]
        wanted = ["min", "max"] if self.take == "band" else [self.take]
        some = np.isfinite(values).any(1)
        columns = []
        for how in wanted:
            taken = np.full(len(values), np.nan)
            taken[some] = _TAKEN[how](values[some], axis=1)
            columns.append(
                Column(name=f"{called}, {_SAID[how]} {len(names)} elements", unit=unit, values=[answers.number(v) for v in taken])
            )
        return columns
