"""What the flags say of a reading at every step: each element that meets at a flag, or one number of them."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.caveats import caveats as answer_caveats
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.resolve import resolve
from ironstone.engine import answers
from ironstone.engine.base import Answer, Column, Question
from ironstone.engine.flags import FlagOut, flags_of, place_of_flag
from ironstone.engine.words import ReadingWords
from ironstone.store import Review

_TAKEN: dict[str, Callable[..., Float]] = {"mean": np.nanmean, "max": np.nanmax, "min": np.nanmin}
_SAID = {"mean": "mean of", "max": "largest of", "min": "smallest of"}


class FlagSteps(ReadingWords, Question):
    """A reading at the flags of a result, followed through the steps."""

    kind: ClassVar[str] = "flag-steps"
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
        found = resolve(self.reading(), source)
        columns = [Column(name=source.steps[0].kind, unit=source.steps[0].unit, values=[s.value for s in source.steps])]
        groups = []
        for flag in planted:
            own = self._columns(self._values(review, flag), flag, numbered[flag.id], found.unit)
            groups.append({"flag": flag.id, "first": len(columns), "count": len(own)})
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
            caveats=answer_caveats(found, source, np.zeros(1)),
            more={"groups": groups},
        )

    def _values(self, review: Review, flag: FlagOut) -> tuple[Float, list[str]]:
        """What every element that meets at a flag says, (steps, elements), and what the elements are called."""
        source = self.source(review)
        place, _, _ = place_of_flag(source, flag)
        mesh, reading = source.mesh, self.reading()
        single = resolve(reading, source).field.location == "node" and flag.node is not None
        rows = [evaluate(reading.at(s.index), source, place).values[: 1 if single else None] for s in source.steps]
        names = [f"element {mesh.element_ids[e]} ({mesh.part_names[mesh.part[e]]})" for e in place.element]
        return np.array(rows, dtype=np.float64), [""] if single else names

    def _columns(self, found: tuple[Float, list[str]], flag: FlagOut, number: int, unit: str) -> list[Column]:
        values, names = found
        called = f"flag {number}{f' {flag.name}' if flag.name else ''}, {flag.place}"
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
