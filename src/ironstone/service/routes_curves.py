"""Routes of named curves: traces and what is worked out of them, over the steps."""

from __future__ import annotations

import numpy as np
from fastapi import APIRouter, Response

from ironstone import answers
from ironstone.core.arithmetic import FUNCTIONS, evaluate_curve, names_in
from ironstone.core.curves import Curve
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.units import name_and_unit
from ironstone.service.deps import Form, OpenReview, table
from ironstone.service.schemas import NamedIn, NamedOut, TraceSpec
from ironstone.store import Review
from ironstone.store.review import Item
from ironstone.store.source import ReviewSource

router = APIRouter(tags=["curves"])
DEEPEST = 12


def traced(review: Review, source: ReviewSource, spec: TraceSpec) -> tuple[Curve, str, list[str]]:
    """A trace as a curve over the steps, its sentence and caveats; of a named curve where the specification names one."""
    if spec.curve == "step":
        first = source.steps[0]
        steps = np.array([s.value for s in source.steps])
        return Curve(steps, spec.sign * steps, first.unit, first.unit, first.kind, first.kind), first.kind, []
    if spec.curve.startswith("total:"):
        first = source.steps[0]
        name = spec.curve.removeprefix("total:")
        values, unit = total_curve(source, name)
        steps = np.array([s.value for s in source.steps])
        words = f"{name_and_unit(name)[0].replace('_', ' ')} of the whole model"
        return Curve(steps, spec.sign * values, first.unit, unit, first.kind, words), words, []
    if spec.curve:
        found = named_curve(review, source, spec.curve)
        first = source.steps[0]
        steps = np.array([s.value for s in source.steps])
        return Curve(steps, spec.sign * found[0], first.unit, found[1], first.kind, spec.curve), found[2], found[3]
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
    items = {i.payload["name"]: i for i in review.items("named") if i.payload["result"] == source.id}
    if name not in items:
        raise NotFound(f"There is no curve named '{name}' with this result.", f"Curves here: {', '.join(items) or 'none'}.")
    return _of(review, source, NamedIn.model_validate(items[name].payload), within)


def _of(
    review: Review, source: ReviewSource, stated: NamedIn, within: tuple[str, ...] = ()
) -> tuple[np.ndarray, str | None, str, list[str]]:
    if stated.trace is not None:
        curve, sentence, caveats = traced(review, source, stated.trace)
        return curve.y, curve.y_unit, sentence, caveats
    known, caveats = {}, []
    items = {i.payload["name"] for i in review.items("named") if i.payload["result"] == source.id}
    for name in sorted(names_in(stated.expression) & items):
        values, unit, _, more = named_curve(review, source, name, (*within, stated.name))
        known[name] = (values, unit)
        caveats += more
    first = source.steps[0]
    for total in source.summary.get("totals", {}):
        known.setdefault(name_and_unit(total)[0], total_curve(source, total))
    known.setdefault("step", (np.array([s.value for s in source.steps]), first.unit))
    values, unit = evaluate_curve(stated.expression, known)
    words = f"{stated.name} = {stated.expression}, over the steps, {'in ' + unit if unit else 'a pure number'}"
    return values, unit, words, list(dict.fromkeys(caveats))


def _out(review: Review, item: Item) -> NamedOut:
    stated = NamedIn.model_validate(item.payload)
    try:
        values, unit, sentence, caveats = _of(review, review.result(stated.result), stated)
        told = [answers.number(float(v)) for v in values]
        caveats = [*caveats, *answers.few_steps(review.result(stated.result), values)]
        return NamedOut(
            id=item.id, **stated.model_dump(), values=told, unit=unit or "", sentence=sentence, caveats=caveats, error=None
        )
    except IronstoneError as error:
        return NamedOut(id=item.id, **stated.model_dump(), values=[], unit="", sentence="", caveats=[], error=str(error))


@router.get("/functions")
def functions() -> dict[str, str]:
    """The functions an expression may use, each with what it does."""
    return {name: told for name, (_, _, told) in FUNCTIONS.items()}


@router.get("/named")
def named(result: int, review: OpenReview) -> list[NamedOut]:
    return [_out(review, i) for i in review.items("named") if i.payload["result"] == result]


@router.post("/named")
def keep_named(curve: NamedIn, review: OpenReview) -> NamedOut:
    """Keep a curve under a name; another of that name is replaced."""
    source = review.result(curve.result)
    if curve.name == "step" or curve.name in FUNCTIONS or curve.name == "pi":
        raise IronstoneError(f"'{curve.name}' already means something in expressions.", "Choose another name.")
    if (curve.trace is None) == (not curve.expression.strip()):
        raise IronstoneError("A named curve is a trace or an expression.", "Give one of the two.")
    _of(review, source, curve)
    for old in review.items("named"):
        if old.payload["result"] == curve.result and old.payload["name"] == curve.name:
            return _out(review, review.change(old.id, curve.model_dump(), f"Curve '{curve.name}' made anew"))
    return _out(review, review.add("named", curve.model_dump(), f"Curve '{curve.name}' named"))


@router.delete("/named/{curve}", status_code=204)
def remove_named(curve: int, review: OpenReview) -> None:
    name = review.item(curve, "named").payload["name"]
    review.remove(curve, f"Curve '{name}' removed")


@router.get("/results/{result}/curves.{form}", response_class=Response)
def curves_table(form: Form, result: int, review: OpenReview) -> Response:
    """All named curves over the steps as CSV."""
    source = review.result(result)
    told = [c for c in named(result, review) if c.error is None]
    first = source.steps[0]
    missing = float("nan")
    return table(
        form,
        (first.kind, *(c.name for c in told)),
        (first.unit, *(c.unit for c in told)),
        ([s.value for s in source.steps], *([missing if v is None else v for v in c.values] for c in told)),
        f"{source.name} curves",
    )
