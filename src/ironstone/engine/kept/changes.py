"""What is another in an answer than in the same one given before: figures by their label, columns by the value that moved most."""

from __future__ import annotations

from collections import Counter

from pydantic import BaseModel

from ironstone.engine.carrier import Answer, Column, Figure

# What differs by no more than this share of its size is rounding.
SAME = 1e-9


class Change(BaseModel):
    """One figure that is another now; None where there is no value. Of a column, that of the row that moved most."""

    what: str
    unit: str
    then: float | None
    now: float | None


def changes_between(then: Answer, now: Answer) -> list[Change]:
    """The figures and columns of an answer that are not what they were; what is in one alone is a change as well."""
    before, after = _figures(then), _figures(now)
    found = [
        Change(what=label, unit=(after.get(label) or before[label]).unit, then=_value(before, label), now=_value(after, label))
        for label in dict.fromkeys([*before, *after])
        if label not in before or label not in after or not _same(_value(before, label), _value(after, label))
    ]
    theirs = {c.name: c for c in now.columns}
    for column in then.columns:
        other = theirs.pop(column.name, None)
        change = _of_column(column, other)
        if change is not None:
            found.append(change)
    return found + [
        Change(what=f"column {name}", unit=c.unit or "", then=None, now=float(len(c.values))) for name, c in theirs.items()
    ]


def _figures(answer: Answer) -> dict[str, Figure]:
    """Figures by label; of several of one label each has how it was found behind it."""
    often = Counter(f.label for f in answer.figures)
    return {f"{f.label}, {f.how}" if often[f.label] > 1 else f.label: f for f in answer.figures}


def _value(figures: dict[str, Figure], label: str) -> float | None:
    return figures[label].value if label in figures else None


def _same(then: float | None, now: float | None) -> bool:
    if then is None or now is None:
        return then is now
    return abs(then - now) <= SAME * max(abs(then), abs(now))


def _of_column(then: Column, now: Column | None) -> Change | None:
    """The row of a column that moved most; a column with other rows, or none, tells how many there are."""
    unit = then.unit or ""
    if now is None or len(now.values) != len(then.values):
        rows = None if now is None else float(len(now.values))
        return Change(what=f"rows of {then.name}", unit="", then=float(len(then.values)), now=rows)
    moved: tuple[float, Change] | None = None
    for row, (a, b) in enumerate(zip(then.values, now.values, strict=True)):
        if isinstance(a, str) or isinstance(b, str):
            away = 0.0 if a == b else float("inf")
        elif _same(a, b):
            continue
        else:
            away = float("inf") if a is None or b is None else abs(a - b)
        if away and (moved is None or away > moved[0]):
            told = [v if isinstance(v, int | float) else None for v in (a, b)]
            moved = away, Change(what=f"{then.name}, row {row + 1}", unit=unit, then=told[0], now=told[1])
    return None if moved is None else moved[1]
