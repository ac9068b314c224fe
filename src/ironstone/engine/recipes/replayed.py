"""A replay on another result of the same review, as a question that can be kept; and what was seen then and now, side by side."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.verdicts import State
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure, Particulars
from ironstone.engine.kept.exhibits import ExhibitKept
from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.sheet import sheet_of
from ironstone.engine.picture.view import SIZE, Drawn, drawn_view
from ironstone.engine.recipes.replay import Became, Replayed, compared, copied, files_in_words, taken_in
from ironstone.store import Review

TEMPLATE = Path(__file__).with_name("replay.html.j2")
# Pixels that differ by less than this in any colour are the same.
SAME_COLOUR = 12


class ReplayParticulars(Particulars):
    items: list[Became]
    notes: list[str]


class Replay(Question):
    """What is kept of a result (hand checks, exhibits) asked of another result of the review: what is the same, what changed."""

    kind: ClassVar[str] = "replay"
    more: ClassVar[type[BaseModel]] = ReplayParticulars
    revised: str = Field(max_length=200, description="The revised result, by name.")
    tolerance: float = Field(0.01, ge=0, description="Share by which a number may be another and is still the same.")

    def others(self) -> list[str]:
        return [self.revised]

    def answer(self, review: Review) -> Answer:
        old, revised = review.result(self.result).id, review.result(self.revised).id
        if old == revised:
            raise Impossible("A result is replayed on another one.", "Choose the revised result.")
        with copied(review.path) as copy:
            found, _ = compared(copy, old, revised, self.tolerance)
        return answer_of(found, self.tolerance)


def answer_of(found: Replayed, tolerance: float) -> Answer:
    """A replay as a table, with a verdict."""
    items = found.items
    counts = {status: sum(i.status == status for i in items) for status in ("same", "changed", "gone")}
    words = [f"{counts['same']} the same", f"{counts['changed']} changed", f"{counts['gone']} cannot be read any more"]
    state: State = "" if not items else "bad" if counts["gone"] else "doubt" if counts["changed"] else "good"
    verdict = "" if not items else f"{'agrees' if state == 'good' else 'does not agree' if state == 'bad' else 'doubtful'}: "
    return Answer(
        kind=Replay.kind,
        sentence=f"What is kept of {found.result}, asked of {found.revised}, the same within {100 * tolerance:g} %",
        columns=[
            Column(name="what", values=[i.title for i in items]),
            Column(name="then", values=[i.then for i in items]),
            Column(name="now", values=[i.now for i in items]),
            Column(name="in", values=[i.unit for i in items]),
            Column(name="change", values=[i.change for i in items]),
            Column(name="verdict then", values=[i.verdict_then for i in items]),
            Column(name="verdict now", values=[i.verdict_now for i in items]),
            Column(name="became", values=[i.said for i in items]),
        ],
        figures=[Figure(label=label, value=float(counts[key])) for key, label in LABELS.items()],
        caveats=found.notes,
        verdict=f"{verdict}{', '.join(words)}" if items else "",
        state=state,
        more={"items": [i.model_dump() for i in items], "notes": found.notes},
    )


LABELS = {"same": "the same", "changed": "changed", "gone": "cannot be read any more"}


class Beside(BaseModel):
    """What was seen then and what is seen now: two PNGs, and the share of pixels of the model that differ."""

    then: bytes
    now: bytes
    differs: float


def side_by_side(review: Review, exhibit: int, revised: str, size: tuple[int, int] = SIZE) -> Beside:
    """The view of an exhibit drawn of its own result and of a revised one, from one place with one key. Raises IronstoneError."""
    kept = ExhibitKept.understood(review.item(exhibit, "exhibit").payload)
    if kept.of != "view" or kept.view is None or kept.view.reading is None:
        raise Impossible("This exhibit is no view: there is nothing to draw.", "See its numbers then and now.")
    return beside(review, kept.view, review.result(revised).id, size)


def beside(review: Review, view: InView, revised: int, size: tuple[int, int] = SIZE) -> Beside:
    """A view drawn of its own result and of another one, from one place and with the limits of the first."""
    then = drawn_view(review, view, size)
    other = view.model_copy(update={"result": revised, "low": then.key.low, "high": then.key.high})
    now = drawn_view(review, other, size, then.camera)
    ground = then.pixels[0, 0].astype(int)
    shown = (np.abs(then.pixels.astype(int) - ground).max(2) > SAME_COLOUR) | (
        np.abs(now.pixels.astype(int) - ground).max(2) > SAME_COLOUR
    )
    apart = np.abs(then.pixels.astype(int) - now.pixels.astype(int)).max(2) > SAME_COLOUR
    differs = float(apart[shown].mean()) if shown.any() else 0.0
    names = {r.id: r.name for r in review.results()}

    def written(drawn: Drawn, number: int | None) -> bytes:
        return sheet_of(drawn, size, f"Result {names.get(number or 0, '')}")

    return Beside(then=written(then, view.result), now=written(now, revised), differs=differs)


def replay_page(path: Path, files: Sequence[Path], result: str | None, tolerance: float) -> tuple[Replayed, str]:
    """A replay on the files of a revised result, and a page of it with what was seen then and now. Raises IronstoneError."""
    from jinja2 import Environment, StrictUndefined

    with copied(path) as review:
        old, revised = taken_in(review, files, result)
        found, views = compared(review, old, revised, tolerance)
        seen: dict[int, Any] = {}
        for number, view in views.items():
            try:
                one = beside(review, view.model_copy(update={"result": old}), revised)
            except IronstoneError as error:
                seen[number] = {"said": error.message}
                continue
            seen[number] = {"then": _address(one.then), "now": _address(one.now), "differs": one.differs}
    found.revised = files_in_words(files)
    page = Environment(autoescape=True, undefined=StrictUndefined).from_string(TEMPLATE.read_text(encoding="utf-8"))
    return found, page.render(found=found, answer=answer_of(found, tolerance), seen=seen)


def _address(data: bytes) -> str:
    return f"data:image/png;base64,{base64.b64encode(data).decode()}"
