"""A review replayed on a revised result: its hand checks and exhibits are asked of that, and what changed is told.

It is done on a copy of the review, which stays as it is.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from pydantic import BaseModel, Field

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.verdicts import State
from ironstone.engine.base import KEPT, Kept, ask, keep, question_of, readable
from ironstone.engine.carrier import Answer
from ironstone.engine.kept.changes import Change, changes_between
from ironstone.engine.kept.checks import CheckIn, CheckOut, check_of
from ironstone.engine.kept.exhibits import ExhibitKept, answers_of
from ironstone.engine.kept.in_view import InView
from ironstone.engine.recipes.made import NAMED
from ironstone.store import Review, intake
from ironstone.store.items import Item

# What is kept of a result and does not depend on its mesh by numbers, in the order in which one names the other.
CARRIED = ("path", "gauges", "mass", "named", "pairing", "cut")


# Columns of numbers that only name what stands beside them.
NUMBERS = ("node", "element", "place", "step", "column node", "column element")


class Became(BaseModel):
    """One thing that was replayed. then, now: the number that changed most; change: of it, as a share of what it was; None where
    there is none. said: what became of it, in words. status: same, changed, or gone (cannot be read any more)."""

    title: str
    what: str = ""
    then: float | None = None
    now: float | None = None
    unit: str = ""
    change: float | None = None
    verdict_then: str = ""
    verdict_now: str = ""
    state_now: State = ""
    status: str = Field(description="same, changed, gone")
    said: str
    exhibit: int | None = Field(None, description="The exhibit it was, by number; None of a hand check.")
    pictured: bool = Field(False, description="Whether it is a view, that can be drawn of both.")


class Replayed(BaseModel):
    """What became of a review on a revised result."""

    result: str
    revised: str
    items: list[Became]
    notes: list[str]

    @property
    def status(self) -> int:
        """0 nothing changed by more than the tolerance, 1 something did, 2 something cannot be read any more."""
        return max(({"same": 0, "changed": 1, "gone": 2}[i.status] for i in self.items), default=0)


def replay(path: Path, files: Sequence[Path], result: str | None = None, tolerance: float = 0.01) -> Replayed:
    """Replay what is kept of a result (the newest) of a review on the files of a revised one; the review is left as it is.

    tolerance: the share by which a number may be another and be the same. Raises IronstoneError for files that cannot be read.
    """
    with copied(path) as review:
        found, _ = compared(review, *taken_in(review, files, result), tolerance)
    found.revised = files_in_words(files)
    return found


def files_in_words(files: Sequence[Path]) -> str:
    """The files of a result, a long series by its ends."""
    names = [f.name for f in files]
    return ", ".join(names) if len(names) <= 3 else f"{names[0]} to {names[-1]} ({len(names)} files)"


@contextmanager
def copied(path: Path) -> Iterator[Review]:
    """A copy of a review as it is now, open, and gone afterwards: what is done to it leaves the review as it is."""
    if not path.is_file():
        raise NotFound(f"There is no review {path.name}.", "Check the name and the folder.")
    with TemporaryDirectory(prefix="ironstone-replay-") as folder:
        copy = Path(folder) / path.name
        _copied(path, copy)
        with Review.open(copy) as review:
            yield review


def taken_in(review: Review, files: Sequence[Path], result: str | None = None) -> tuple[int, int]:
    """The files of a revised result taken in; the numbers of the old result (the newest where none is named) and of the revised."""
    old = review.result(result)
    return old.id, intake(review, list(files), f"{old.name}, revised", old.system.name)


def _copied(path: Path, copy: Path) -> None:
    """A copy of a review as it is now, whoever has it open."""
    try:
        with (
            closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)) as there,
            closing(sqlite3.connect(copy)) as here,
        ):
            there.backup(here)
    except sqlite3.Error as error:
        raise IronstoneError(f"{path.name} is no review that can be read.", "Open it with serve to see what is wrong.") from error


def compared(review: Review, old: int, revised: int, tolerance: float) -> tuple[Replayed, dict[int, InView]]:
    """What is kept of one result asked of another of the review: what became of it, and the views of exhibits there, by number.

    What is kept of the one is kept of the other too: it is done to a copy.
    """
    names = {r.id: r.name for r in review.results()}
    notes = [f"Not taken over: {line}." for line in review.take_statements(old, revised)]
    numbers = _carried(review, old, revised, notes)
    items = [_check(review, item, check, revised, tolerance) for item, check in readable(review, CheckIn, old)]
    views: dict[int, InView] = {}
    for item, exhibit in readable(review, ExhibitKept):
        if exhibit.result != old or not exhibit.questions or any(asked.kind == "replay" for asked in exhibit.questions):
            continue
        view = exhibit.view if exhibit.of == "view" and exhibit.view is not None and exhibit.view.reading is not None else None
        became = _exhibit(review, exhibit, old, revised, numbers, tolerance)
        for one in became:
            one.exhibit, one.pictured = item.id, view is not None and one.status != "gone"
        if view is not None:
            views[item.id] = view.model_copy(update={"result": revised})
        items += became
    if not items:
        notes.append(f"Nothing is kept of '{names[old]}' that could be asked again: no hand check, no exhibit.")
    return Replayed(result=names[old], revised=names[revised], items=items, notes=notes), views


def _carried(review: Review, old: int, revised: int, notes: list[str]) -> dict[tuple[str, int], int]:
    """What is kept of the one result kept of the other too: the new number by kind and old one."""
    numbers: dict[tuple[str, int], int] = {}
    for kind in CARRIED:
        kept: type[Kept] = KEPT[kind]
        for item, thing in readable(review, kept, old):
            words = _of_revised(thing.model_dump(mode="json"), old, revised)
            try:
                numbers[kind, item.id] = keep(review, kept.stated(words)).id
            except IronstoneError as error:
                notes.append(f"{kind} '{getattr(thing, 'name', item.id)}' cannot be made of the revised result: {error.message}")
    return numbers


def _of_revised(words: Any, old: int, revised: int) -> Any:
    """Words with the revised result wherever the old one is named."""
    if isinstance(words, dict):
        return {k: revised if k == "result" and v == old else _of_revised(v, old, revised) for k, v in words.items()}
    return [_of_revised(v, old, revised) for v in words] if isinstance(words, list) else words


def _check(review: Review, item: Item, check: CheckIn, revised: int, tolerance: float) -> Became:
    """A hand check then and now."""
    then = check_of(review, item, check)
    now: CheckOut = check_of(review, item, check.model_copy(update={"result": revised}))
    reply = {"title": check.name, "what": f"hand check at {check.at}", "unit": then.unit, "verdict_then": then.verdict}
    if now.value is None:
        return Became(**reply, then=then.value, status="gone", verdict_now="not checked", said=now.sentence)
    change = _share(then.value, now.value)
    changed = then.verdict != now.verdict or change is None or abs(change) > tolerance
    return Became(
        **reply, then=then.value, now=now.value, change=change, verdict_now=now.verdict,
        state_now={"agrees": "good", "fails": "bad"}.get(now.verdict, ""),
        status="changed" if changed else "same", said=_said(change, then.verdict != now.verdict),
    )  # fmt: skip


def _exhibit(
    review: Review, kept: ExhibitKept, old: int, revised: int, numbers: dict[tuple[str, int], int], tolerance: float
) -> list[Became]:
    """The questions of an exhibit then and now: one item each, told by the figure that changed most."""
    found = []
    for asked, then in zip(kept.questions, answers_of(review, kept), strict=False):
        title = kept.title if len(kept.questions) == 1 else f"{kept.title}, {asked.kind}"
        reply = {"title": title, "verdict_then": then.verdict}
        words = _of_revised({"result": old, **asked.words}, old, revised)
        for word, kind in ((w, k.kind) for w, k in NAMED.items()):
            if isinstance(words.get(word), int):
                words[word] = numbers.get((kind, words[word]), words[word])
        try:
            now = ask(review, question_of(asked.kind, words))
        except IronstoneError as error:
            found.append(Became(**reply, status="gone", said=f"It cannot be read any more: {error.message}"))
            continue
        found.append(_compared(reply, then, now, tolerance))
    return found


def _compared(reply: dict[str, Any], then: Answer, now: Answer, tolerance: float) -> Became:
    told = [c for c in changes_between(then, now) if c.what not in NUMBERS and _size(c) > tolerance]
    other = then.state != now.state
    # What has a number on both sides says more than what has appeared or gone.
    most = max(told, key=lambda c: (not c.what.startswith("rows of"), _share(c.then, c.now) is not None, _size(c)), default=None)
    reply = {**reply, "verdict_now": now.verdict, "state_now": now.state}
    if most is None:
        return Became(**reply, status="changed" if other else "same", said=_said(0.0, other))
    change = _share(most.then, most.now)
    said = f"{most.what}: {_said(change, other)}" + (f" ({len(told)} figures are others)" if len(told) > 1 else "")
    return Became(
        **reply, what=most.what, then=most.then, now=most.now, unit=most.unit, change=change, status="changed", said=said
    )  # fmt: skip


def _share(then: float | None, now: float | None) -> float | None:
    """By what share a number is another; None where one is missing, or it was nothing."""
    if then is None or now is None:
        return None
    if then == now:
        return 0.0
    return now / then - 1.0 if then else None


def _size(change: Change) -> float:
    share = _share(change.then, change.now)
    return float("inf") if share is None else abs(share)


def _said(change: float | None, verdict: bool) -> str:
    moved = (
        "there is no value to compare" if change is None else "the same" if change == 0.0 else f"changed by {100 * change:+.3g} %"
    )
    return f"{moved}{', and the verdict is another' if verdict else ''}"
