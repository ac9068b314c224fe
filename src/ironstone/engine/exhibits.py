"""Exhibits: a kept view, curve or table with its reading, note and verdict; and named views."""

from __future__ import annotations

import re
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, Field

from ironstone.core.errors import IronstoneError
from ironstone.core.field.fields import displacement_of
from ironstone.core.verdicts import State
from ironstone.engine.base import Kept, keep, readable
from ironstone.engine.carrier import Answer
from ironstone.engine.pairings import PairingIn
from ironstone.engine.printed import picture_of
from ironstone.engine.records import Record
from ironstone.engine.words import WITH_PICTURES, Strict
from ironstone.formats.tables import without_formulas, write_table
from ironstone.store import Review
from ironstone.store.items import Item


class ShownIn(Strict):
    """What an exhibit is of beside its reading: the result, how it is drawn, and the curve and record that are held together."""

    result: int | None = None
    hidden: list[int] = Field(default=[], max_length=10_000, description="Positions of parts that are left out.")
    exaggeration: float = Field(1.0, ge=0)
    mirrored: bool = True
    drawn: bool = Field(False, description="Whether it is a picture of the model.")
    pairing: int | None = None
    test: int | None = None


def shown_words(shown: ShownIn, review: Review) -> str:
    """The result by its name, and all that makes a picture or a curve another one than it seems."""
    if shown.result is None:
        return ""
    source = review.result(shown.result)
    words = [f"Result {source.name}"]
    if shown.pairing is not None:
        words.append(f"curve {PairingIn.understood(review.item(shown.pairing, 'pairing').payload).name}")
    if shown.test is not None:
        words.append(f"test record {Record.understood(review.item(shown.test, 'test').payload).name}")
    if shown.drawn:
        names = source.mesh.part_names
        hidden = [names[i] for i in shown.hidden if 0 <= i < len(names)]
        if hidden:
            words.append(f"hidden: {', '.join(hidden)}")
        if shown.exaggeration != 1 and displacement_of(source.fields) is not None:
            words.append(f"drawn deformed {shown.exaggeration:.4g} times" if shown.exaggeration else "drawn undeformed")
        half = source.setup.mirror
        if half is not None:
            words.append(f"{'completed by its mirror image' if shown.mirrored else 'one half'} at {half.words}")
    return "; ".join(words)


class ExhibitIn(Strict):
    """A kept view, curve or table. ``picture`` is a PNG as a data address; ``table`` is CSV text."""

    longest: ClassVar[int] = WITH_PICTURES
    kind: Literal["view", "curve", "table"]
    title: str = Field(max_length=200)
    sentence: str = Field(max_length=2000)
    caveats: list[str] = []
    note: str = Field("", max_length=4000)
    verdict: str = Field("", max_length=4000)
    state: State = ""
    address: str = Field("", max_length=4000)
    shown: ShownIn = ShownIn()
    picture: str | None = None
    table: str | None = None


# Of two that begin at one place the first here decides.
_SAYS: dict[State, re.Pattern[str]] = {
    "bad": re.compile(r"\bnot\b[^.:;,]*\bagree|\bdisagree|\bfails?\b|\bfailed\b"),
    "doubt": re.compile(r"\bagrees? but\b|\bdoubtful\b"),
    "good": re.compile(r"\bagrees?\b"),
}


def _state_in_words(verdict: str) -> State:
    """The state of a verdict that was kept without one, by what it says first; '' where it says nothing of agreeing."""
    places = [(found.start(), state) for state, words in _SAYS.items() if (found := words.search(verdict.lower()))]
    return min(places, key=lambda p: p[0], default=(0, ""))[1]


class ExhibitKept(Kept):
    """An exhibit as it is stored: picture and table are numbers of kept files."""

    kind: ClassVar[str] = "exhibit"
    version: ClassVar[int] = 2
    title: str
    sentence: str
    caveats: list[str] = []
    note: str = ""
    verdict: str = ""
    state: State = ""
    address: str = ""
    result: int | None = None
    shown: str = Field("", description="What it is of beside its reading, in words.")
    picture: int | None = None
    table: int | None = None
    of: Literal["view", "curve", "table"] = "view"

    @classmethod
    def upgraded(cls, stored: dict[str, Any], version: int) -> dict[str, Any]:
        # What an exhibit is of was called its kind once; the state of its verdict was read off the words.
        named = {("of" if name == "kind" else name): value for name, value in stored.items()}
        return {"state": _state_in_words(str(named.get("verdict", ""))), **named}

    def made(self) -> str:
        return f"Exhibit '{self.title}' kept"

    def gone(self) -> str:
        return f"Exhibit '{self.title}' removed"


def exhibits_of(review: Review) -> list[ExhibitOut]:
    there = {r.id for r in review.results()}
    return [exhibit_of(item, kept, there) for item, kept in readable(review, ExhibitKept)]


class ExhibitEdit(Strict):
    title: str = Field(max_length=200)
    note: str = Field("", max_length=4000)
    verdict: str = Field("", max_length=4000)


class ExhibitOut(BaseModel):
    id: int
    revision: int
    kind: str
    title: str
    sentence: str
    caveats: list[str]
    note: str
    verdict: str
    address: str
    result: int | None
    shown: str
    state: State = Field(description="Of the verdict: good, doubt, bad, or nothing.")
    gone: str = Field(description="Why it cannot be reopened, in words; '' where it can.")
    has_picture: bool
    has_table: bool


class ViewIn(Kept):
    """A named view: where the camera stands and what is shown, as the address bar holds it."""

    kind: ClassVar[str] = "view"
    result: int
    name: str = Field(min_length=1, max_length=80)
    address: str = Field(max_length=2000)

    def check(self, review: Review) -> None:
        review.result(self.result)

    def same(self, other: Kept) -> bool:
        return isinstance(other, ViewIn) and (other.result, other.name) == (self.result, self.name)

    def made(self) -> str:
        return f"View '{self.name}' kept"

    def gone(self) -> str:
        return f"View '{self.name}' removed"


class ViewOut(ViewIn):
    id: int


def exhibit_of(item: Item, kept: ExhibitKept, there: set[int]) -> ExhibitOut:
    """An exhibit as it is told; ``there``: the results that are in the review now."""
    away = kept.result is not None and kept.result not in there
    reply = kept.model_dump(exclude={"picture", "table", "of"})
    return ExhibitOut(
        id=item.id,
        revision=item.revision,
        kind=kept.of,
        gone="Its result was removed. Bring it back to go there." if away else "",
        has_picture=kept.picture is not None,
        has_table=kept.table is not None,
        **reply,
    )


def keep_exhibit(exhibit: ExhibitIn, review: Review) -> ExhibitOut:
    """Keep an exhibit, its picture and its table beside it."""
    payload = exhibit.model_dump(exclude={"shown"})
    words = shown_words(exhibit.shown, review)
    payload |= {"result": exhibit.shown.result, "shown": words}
    with review.writing():
        if exhibit.picture is not None:
            kind, data = picture_of(exhibit.picture)
            if kind != "png":
                raise IronstoneError("The picture is no PNG.", "Keep it again.")
            payload["picture"] = review.attach(f"{exhibit.title}.png", "image/png", data)
        if exhibit.table is not None:
            text = without_formulas(exhibit.table).rstrip()
            payload["table"] = review.attach(
                f"{exhibit.title}.csv",
                "text/csv",
                f"{text}\n\n# {exhibit.sentence}\n# {words}\n".encode(),
            )
        kept = ExhibitKept.understood(payload)
        item = keep(review, kept)
    return exhibit_of(item, kept, {r.id for r in review.results()})


def keep_answer(review: Review, title: str, answer: Answer) -> Item:
    """Keep an answer as an exhibit: its sentence, caveats and verdict, and its table."""
    missing: list[list[object]] = [["" if v is None else v for v in c.values] for c in answer.columns]
    names, units = [c.name for c in answer.columns], [c.unit for c in answer.columns]
    text = write_table(names, units, missing) if answer.columns else None
    with review.writing():
        kept = ExhibitKept(
            of="table",
            title=title,
            sentence=answer.sentence,
            caveats=answer.caveats,
            verdict=answer.verdict,
            state=answer.state,
            shown=f"Result {answer.provenance.result}" if answer.provenance else "",
            table=review.attach(f"{title}.csv", "text/csv", text.encode()) if text else None,
        )
        return keep(review, kept)


def edit_exhibit(review: Review, number: int, edit: ExhibitEdit) -> ExhibitOut:
    """Change what is written on an exhibit: its title, note and verdict."""
    with review.writing():
        kept = ExhibitKept.understood(review.item(number, "exhibit").payload).model_copy(update=edit.model_dump())
        item = review.change(number, kept.written(), f"Exhibit '{edit.title}' edited")
    return exhibit_of(item, kept, {r.id for r in review.results()})
