"""A result whose mesh is another one at some of its steps: each run of steps on one mesh is a row, all seen as one result."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.fields import Step, other_mesh
from ironstone.core.mesh.mesh import Int
from ironstone.store.held import Held


@dataclass
class Runs:
    """Which run each step of a result belongs to, and which step it is there, (steps,) each; the rows of the runs, the first being
    that of the result itself; and the sources of those that were looked at."""

    rows: list[int]
    run_of: list[int]
    own: list[int]
    sources: dict[int, Any] = field(default_factory=dict)

    @property
    def begins(self) -> tuple[int, ...]:
        """For each step the first one that has its mesh."""
        return tuple(self.run_of.index(run) for run in self.run_of)


def runs_in(summary: Mapping[str, Any], result_id: int) -> Runs | None:
    """The runs of a result; None of one whose mesh is the same at all steps."""
    stored = summary.get("runs")
    if not stored:
        return None
    count = sum(len(run["steps"]) for run in stored)
    run_of, own = [0] * count, [0] * count
    for number, run in enumerate(stored):
        for position, step in enumerate(run["steps"]):
            run_of[step], own[step] = number, position
    return Runs([run["result"] or result_id for run in stored], run_of, own)


class HeldOfRun:
    """The arrays of one run, asked for by the steps of the whole result. Raises Impossible of a step that has another mesh."""

    def __init__(self, held: Held, runs: Runs, number: int, fields: frozenset[int], steps: Sequence[Step]) -> None:
        self._held, self._runs, self._number, self._fields, self._steps = held, runs, number, fields, steps

    def _own(self, step: int) -> int:
        if self._runs.run_of[step] != self._number:
            raise other_mesh(self._steps[step])
        return self._runs.own[step]

    def whole(self, field_id: int, step: int) -> NDArray[Any] | None:
        own = self._own(step)
        # A field that other runs have and this one has not is missing here.
        return self._held.whole(field_id, own) if field_id in self._fields else None

    def rows(self, field_id: int, steps: Sequence[int], entities: Int) -> Iterator[NDArray[Any] | None]:
        own = [self._own(int(step)) for step in steps]
        if field_id in self._fields:
            yield from self._held.rows(field_id, own, entities)
        else:
            yield from (None for _ in own)


def gathered(parts: Sequence[tuple[Sequence[int], Mapping[str, Any]]], count: int) -> dict[str, Any]:
    """What was gathered over the steps of each run, put together for the whole: sums and means of the sets that all runs have, the
    totals, where yield begins, the gaps. parts: the steps of each run, and what was gathered there."""
    found: dict[str, Any] = {}
    for what in ("set_sums", "set_means"):
        names = set.intersection(*(set(summary.get(what, {})) for _, summary in parts))
        table: dict[str, list[Any]] = {}
        for name in sorted(names):
            if all(len(summary[what][name]) == len(steps) for steps, summary in parts):
                rows: list[Any] = [None] * count
                for steps, summary in parts:
                    for step, row in zip(steps, summary[what][name], strict=True):
                        rows[step] = row
                table[name] = rows
        found[what] = table
    totals: dict[str, list[float | None]] = {}
    gaps: dict[str, int] = {}
    begins = []
    for steps, summary in parts:
        for name, values in summary.get("totals", {}).items():
            row = totals.setdefault(name, [None] * count)
            for step, value in zip(steps, values, strict=True):
                row[step] = value
        for name, missing in summary.get("gaps", {}).items():
            gaps[name] = max(gaps.get(name, 0), missing)
        if summary.get("first_yield") is not None:
            begins.append(steps[summary["first_yield"]])
    largest = max((float(summary.get("largest_stress", 0.0)) for _, summary in parts), default=0.0)
    first = int(np.min(begins)) if begins else None
    return {**found, "totals": totals, "gaps": gaps, "first_yield": first, "largest_stress": largest}
