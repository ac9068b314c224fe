"""What a result's own file says of failure (indices, reserves, margins), beside what is worked out here of the same plies."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel
from pydantic import Field as Word

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field
from ironstone.core.field.plies import PLY_STRESS
from ironstone.core.field.sliced import WORST
from ironstone.core.kinds import fails, kind_of
from ironstone.core.mesh.mesh import Float
from ironstone.core.mesh.places import AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading.answers import number
from ironstone.engine.said import CRITERION
from ironstone.engine.steps import find_step
from ironstone.engine.strength.particulars import SolverFailureMore
from ironstone.store import Review
from ironstone.store.source import ReviewSource

HERE = {"failure index": "index", "reserve factor": "reserve"}


def said_of_failure(source: ReviewSource) -> list[Field]:
    """The fields of a file that say whether something fails, as numbers."""
    found = (f for f in source.fields.values() if f.stored and not f.harmonic and f.location == "element")
    return [f for f in found if kind_of(f.kind).worst and not f.names]


class SolverFailure(Question):
    """What the file says of failure: of each index, reserve or margin the worst, where, how many elements fail, and how far the
    same worked out here lies from it."""

    kind: ClassVar[str] = "solver-failure"
    more: ClassVar[type[BaseModel]] = SolverFailureMore
    criterion: str = Word("", description=CRITERION)
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        step = find_step(source, self.step)
        rows = [_row(source, field, step, self.criterion) for field in said_of_failure(source)]
        names = ("field", "kind", "worst", "element", "layer", "fail", "here", "deviation")
        failed = [r for r in rows if r["fail"]]
        verdict = ""
        if rows:
            said = ", ".join(f"{r['fail']} by {r['field']}" for r in failed)
            verdict = f"By the file elements fail: {said}." if failed else "By the file nothing comes to its limit."
        return Answer(
            kind=self.kind,
            sentence=f"what the file says of failure, at {source.steps[step].label}",
            columns=[
                Column(name=n, unit="" if n in ("worst", "here", "deviation") else None, values=[r[n] for r in rows]) for n in names
            ],
            verdict=verdict,
            state="bad" if failed else "good" if rows else "",
            more={"rows": rows},
        )


def _row(source: ReviewSource, field: Field, step: int, criterion: str) -> dict[str, Any]:
    every = AtElements(np.arange(len(source.mesh.types)))
    values = evaluate(Reading(field.name, step=step), source, every).values
    row: dict[str, Any] = {"field": field.name, "kind": field.kind, "layers": field.layers}
    empty = dict.fromkeys(("worst", "element", "layer", "here", "deviation"))
    if np.isnan(values).all():
        return row | empty | {"fail": 0}
    at = int(np.nanargmax(values) if kind_of(field.kind).worst == "largest" else np.nanargmin(values))
    here = _worked_out(source, field, step, criterion, every)
    apart = None if here is None else np.abs(here - values)
    return row | {
        "worst": number(float(values[at])),
        "element": int(source.mesh.element_ids[at]),
        "layer": _layer_of(source, field, step, at, float(values[at])),
        "fail": int(fails(field.kind, values).sum()),
        "here": None if here is None else number(float(here[at])),
        "deviation": None if apart is None or np.isnan(apart).all() else number(float(np.nanmax(apart))),
    }


def _layer_of(source: ReviewSource, field: Field, step: int, element: int, value: float) -> int | None:
    """The layer, from 1, that has the worst of an element."""
    if not field.layers:
        return None
    table = source.rows(field.name, step, np.array([element])).reshape(field.layers, -1)
    return int(np.argwhere(table == value)[0, 0]) + 1


def _worked_out(source: ReviewSource, field: Field, step: int, criterion: str, every: AtElements) -> Float | None:
    """The same of the stated laminates, the worst of all plies of each element; None where nothing gives it."""
    if field.kind not in HERE or PLY_STRESS not in source.fields:
        return None
    try:
        found: Float = evaluate(
            Reading(PLY_STRESS, HERE[field.kind], step=step, layer=WORST, criterion=criterion), source, every
        ).values
    except Impossible:
        return None
    return found
