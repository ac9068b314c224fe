"""One number of an answer, by what is to be taken of it: for tables of several results, and whatever asks for a number by name."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.engine.carrier import Answer, Figure

HOW = "Take highest, lowest, value, first, last, figure:LABEL, or column:NAME:max|min|mean|first|last."


@dataclass(frozen=True)
class Taken:
    """A number with its unit and where it is; None where the answer has no value there."""

    value: float | None
    unit: str
    place: str = ""


def taken(answer: Answer, take: str) -> Taken:
    """The number of an answer that is asked for. Raises Impossible, with what there is, where the answer has none of that name."""
    word, _, rest = take.partition(":")
    if word in ("highest", "lowest"):
        figure = _figure(answer, word, *(("max",) if word == "highest" else ("min",)))
        return Taken(figure.value, figure.unit, figure.how)
    if word == "figure" and rest:
        figure = _figure(answer, rest)
        return Taken(figure.value, figure.unit, figure.how)
    if word == "value":
        found = [v.get("value") for v in answer.more.get("values", [])]
        known = [v for v in found if v is not None]
        if not found:
            raise Impossible("This answer has no single value.", HOW)
        if len(known) > 1 and np.ptp(known) > 1e-9 * np.abs(known).max():
            raise Impossible(f"There are {len(known)} values at this place.", "Average there, or take highest or lowest.")
        return Taken(known[0] if known else None, answer.unit or "")
    name, _, how = rest.rpartition(":") if word == "column" else ("", "", word)
    return _of_column(answer, name, how)


def _figure(answer: Answer, *labels: str) -> Figure:
    for label in labels:
        for figure in answer.figures:
            if figure.label == label:
                return figure
    said = ", ".join(f.label for f in answer.figures) or "none"
    raise Impossible(f"This answer has no figure '{labels[0]}'.", f"Its figures: {said}.")


def _of_column(answer: Answer, name: str, how: str) -> Taken:
    if how not in ("max", "min", "mean", "first", "last"):
        raise Impossible(f"'{how}' is not what can be taken of an answer.", HOW)
    numbers = [c for c in answer.columns if not any(isinstance(v, str) for v in c.values)]
    column = next((c for c in numbers if c.name == name), None) if name else (numbers[-1] if numbers else None)
    if column is None:
        raise Impossible(f"This answer has no column of numbers '{name}'.", f"Columns: {', '.join(c.name for c in numbers)}.")
    values = np.array([np.nan if v is None else float(v) for v in column.values])
    if np.isnan(values).all():
        return Taken(None, column.unit or "")
    known = values[~np.isnan(values)]
    value = {"max": known.max(), "min": known.min(), "mean": known.mean(), "first": values[0], "last": values[-1]}[how]
    return Taken(None if np.isnan(value) else float(value), column.unit or "")
