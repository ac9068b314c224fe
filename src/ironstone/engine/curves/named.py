"""Curves over the steps: traces, numbers of the whole model, and what is worked out of them under a name."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from pydantic import Field

from ironstone.core.curves.arithmetic import FUNCTIONS, evaluate_curve, names_in
from ironstone.core.curves.curves import Curve
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.field.loadings import axis_of
from ironstone.core.units import name_and_unit
from ironstone.engine.base import Kept, readable
from ironstone.engine.reading import answers
from ironstone.engine.words import TraceSpec
from ironstone.store import Review
from ironstone.store.items import Item
from ironstone.store.source import ReviewSource


class NamedIn(Kept):
    """A curve over the steps under a name: one trace, or an expression over other named curves."""

    kind: ClassVar[str] = "named"
    result: int
    name: str = Field(pattern=r"^[A-Za-z][A-Za-z0-9_]*$", max_length=40)
    trace: TraceSpec | None = None
    expression: str = Field("", max_length=400)

    def check(self, review: Review) -> None:
        if self.name == "step" or self.name in FUNCTIONS or self.name == "pi":
            raise IronstoneError(f"'{self.name}' already means something in expressions.", "Choose another name.")
        if (self.trace is None) == (not self.expression.strip()):
            raise IronstoneError("A named curve is a trace or an expression.", "Give one of the two.")
        _of(review, review.result(self.result), self)

    def same(self, other: Kept) -> bool:
        return isinstance(other, NamedIn) and (other.result, other.name) == (self.result, self.name)

    def made(self) -> str:
        return f"Curve '{self.name}' named"

    def gone(self) -> str:
        return f"Curve '{self.name}' removed"


class NamedOut(NamedIn):
    """values over the steps; error says why there are none."""

    id: int
    values: list[float | None]
    unit: str
    sentence: str
    caveats: list[str]
    error: str | None


DEEPEST = 12


def traced(review: Review, source: ReviewSource, spec: TraceSpec) -> tuple[Curve, str, list[str]]:
    """A trace as a curve over the steps, its sentence and caveats; of a named curve where the specification names one."""
    axis = axis_of(source.steps)
    if spec.curve == "step":
        return Curve(axis.values, spec.sign * axis.values, axis.unit, axis.unit, axis.kind, axis.kind), axis.kind, []
    if spec.curve.startswith("total:"):
        name = spec.curve.removeprefix("total:")
        values, unit = total_curve(source, name)
        words = f"{name_and_unit(name)[0].replace('_', ' ')} of the whole model"
        return Curve(axis.values, spec.sign * values, axis.unit, unit, axis.kind, words), words, []
    if spec.curve:
        found = named_curve(review, source, spec.curve)
        return Curve(axis.values, spec.sign * found[0], axis.unit, found[1], axis.kind, spec.curve), found[2], found[3]
    return answers.trace_curve(spec.reading(), source, spec.at, spec.reduce, spec.sign)


def total_curve(source: ReviewSource, name: str) -> tuple[np.ndarray, str | None]:
    """A number of the whole model that the files hold at every step, and its unit where its name states one."""
    totals = source.summary.get("totals", {})
    if name not in totals:
        raise NotFound(f"The files hold no '{name}' of the whole model.", f"Here: {', '.join(totals) or 'none'}.")
    return np.array([np.nan if v is None else v for v in totals[name]]), name_and_unit(name)[1]


def named_curve(
    review: Review, source: ReviewSource, name: str, within: tuple[str, ...] = ()
) -> tuple[np.ndarray, str | None, str, list[str]]:
    """Values, unit, sentence and caveats of a named curve. Raises where it is not there, or made of itself."""
    if name in within or len(within) > DEEPEST:
        raise IronstoneError(f"The curve '{name}' is made of itself.", f"It goes round by {', '.join(within)}.")
    items = {c.name: c for _, c in readable(review, NamedIn, source.id)}
    if name not in items:
        raise NotFound(f"There is no curve named '{name}' with this result.", f"Curves here: {', '.join(items) or 'none'}.")
    return _of(review, source, items[name], within)


def _of(
    review: Review, source: ReviewSource, stated: NamedIn, within: tuple[str, ...] = ()
) -> tuple[np.ndarray, str | None, str, list[str]]:
    if stated.trace is not None:
        curve, sentence, caveats = traced(review, source, stated.trace)
        return curve.y, curve.y_unit, sentence, caveats
    known, caveats = {}, []
    items = {c.name for _, c in readable(review, NamedIn, source.id)}
    for name in sorted(names_in(stated.expression) & items):
        values, unit, _, more = named_curve(review, source, name, (*within, stated.name))
        known[name] = (values, unit)
        caveats += more
    axis = axis_of(source.steps)
    for total in source.summary.get("totals", {}):
        known.setdefault(name_and_unit(total)[0], total_curve(source, total))
    known.setdefault("step", (axis.values, axis.unit))
    values, unit = evaluate_curve(stated.expression, known)
    words = f"{stated.name} = {stated.expression}, over the steps, {'in ' + unit if unit else 'a pure number'}"
    return values, unit, words, list(dict.fromkeys(caveats))


def named_of(review: Review, result: int) -> list[NamedOut]:
    return [named_out(review, item, stated) for item, stated in readable(review, NamedIn, result)]


def named_out(review: Review, item: Item, stated: NamedIn) -> NamedOut:
    """A named curve with its values, or with why it has none."""
    try:
        values, unit, sentence, caveats = _of(review, review.result(stated.result), stated)
        answer = [answers.number(float(v)) for v in values]
        caveats = [*caveats, *answers.few_steps(review.result(stated.result), values)]
        return NamedOut(
            id=item.id, **stated.model_dump(), values=answer, unit=unit or "", sentence=sentence, caveats=caveats, error=None
        )
    except IronstoneError as error:
        return NamedOut(id=item.id, **stated.model_dump(), values=[], unit="", sentence="", caveats=[], error=str(error))
