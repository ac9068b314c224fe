"""Exhibits: questions that are kept with their answers as they were, with the view they were asked in, a note and a verdict.

So one can be asked again, and what changed since is told. Named views keep the view alone.
"""

from __future__ import annotations

import json
import re
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, Field

from ironstone.core.errors import IronstoneError
from ironstone.core.field.moved import moving
from ironstone.core.verdicts import State
from ironstone.engine.base import Kept, Question, ask, by_name, keep, question_of
from ironstone.engine.carrier import Answer, Provenance
from ironstone.engine.curves.pairings import PairingIn
from ironstone.engine.curves.printed import picture_of
from ironstone.engine.curves.records import Record
from ironstone.engine.kept.changes import Change, changes_between
from ironstone.engine.kept.in_view import InView
from ironstone.engine.report.notes import blocks_of
from ironstone.engine.words import WITH_PICTURES, Strict
from ironstone.formats.tables import without_formulas, write_table
from ironstone.store import Review
from ironstone.store.items import Item

Of = Literal["view", "curve", "table"]


class Asked(Strict):
    """A question as it is kept: its kind and its words."""

    kind: str = Field(max_length=80)
    words: dict[str, Any] = {}

    def question(self) -> Question:
        return question_of(self.kind, self.words)


class ShownIn(Strict):
    """What an exhibit is to be of: its questions, and the view they are asked in as the address bar has it."""

    of: Of = "view"
    questions: list[Asked] = Field(default=[], max_length=20)
    address: str = Field("", max_length=4000)


class ExhibitIn(ShownIn):
    """What is to be kept. The engine asks the questions; ``picture`` is a PNG as a data address, ``notes`` what it shows beside."""

    longest: ClassVar[int] = WITH_PICTURES
    questions: list[Asked] = Field(min_length=1, max_length=20)
    title: str = Field(max_length=200)
    note: str = Field("", max_length=4000)
    notes: list[str] = Field(default=[], max_length=100)
    picture: str | None = None


def shown_words(shown: ShownIn, review: Review) -> str:
    """The result by its name, and all that makes a picture or a curve another one than it seems."""
    view = InView.from_address(shown.address)
    said = [asked.words for asked in shown.questions]
    if not said and view.result is None:
        return ""
    source = shown.questions[0].question().source(review) if said else review.result(view.result)
    words = [f"Result {source.name}"]
    named_by: tuple[tuple[str, type[PairingIn] | type[Record], str], ...] = (
        ("pairing", PairingIn, "curve"),
        ("test", Record, "test record"),
    )
    for word, kept, what in named_by:
        named = next((w[word] for w in said if w.get(word) not in (None, "")), None)
        if named is not None:
            words.append(f"{what} {by_name(review, kept, named)[1].name}")
    if shown.of == "view":
        names = source.mesh.part_names
        hidden = [names[i] for i in view.hidden if 0 <= i < len(names)]
        if hidden:
            words.append(f"hidden: {', '.join(hidden)}")
        if view.exaggeration != 1 and moving(source.fields) is not None:
            words.append(f"drawn deformed {view.exaggeration:.4g} times" if view.exaggeration else "drawn undeformed")
        half = source.setup.mirror
        if half is not None:
            words.append(f"{'completed by its mirror image' if view.mirrored else 'one half'} at {half.words}")
    return "; ".join(words)


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
    """An exhibit as it is stored: picture, table and answers are numbers of kept files.

    One that was kept before exhibits were questions has none, and cannot be asked again.
    """

    kind: ClassVar[str] = "exhibit"
    version: ClassVar[int] = 3
    title: str
    sentence: str
    caveats: list[str] = []
    note: str = ""
    verdict: str = ""
    state: State = ""
    questions: list[Asked] = []
    provenance: list[Provenance] = []
    view: InView | None = None
    result: int | None = None
    shown: str = Field("", description="What it is of beside its reading, in words.")
    picture: int | None = None
    photograph: int | None = Field(None, description="A photograph that stands beside it, of a specimen or a break.")
    photographed: str = Field("", description="What the photograph shows.")
    table: int | None = None
    answers: int | None = None
    of: Of = "view"

    @classmethod
    def upgraded(cls, stored: dict[str, Any], version: int) -> dict[str, Any]:
        # What an exhibit is of was called its kind once; the state of its verdict was read off the words; its view was an address.
        named = {("of" if name == "kind" else name): value for name, value in stored.items()}
        if version < 2:
            named = {"state": _state_in_words(str(named.get("verdict", ""))), **named}
        if "address" in named:
            address = named.pop("address")
            named["view"] = InView.from_address(str(address)).model_dump() if address else None
        return named

    def made(self) -> str:
        return f"Exhibit '{self.title}' kept"

    def gone(self) -> str:
        return f"Exhibit '{self.title}' removed"


class ExhibitEdit(Strict):
    title: str = Field(max_length=200)
    note: str = Field("", max_length=4000)
    verdict: str = Field("", max_length=4000)


class NoteRun(BaseModel):
    """Words of a note that are set alike."""

    text: str
    strong: bool = False
    emph: bool = False
    code: bool = False


class NoteBlock(BaseModel):
    """A paragraph (p), a heading (h), code or a rule with its runs; a list (ul, ol) or a quote with its items."""

    kind: str
    runs: list[NoteRun] = []
    items: list[list[NoteBlock]] = []


class ExhibitOut(BaseModel):
    id: int
    revision: int
    kind: str
    title: str
    sentence: str
    caveats: list[str]
    note: str
    verdict: str
    address: str = Field(description="Of the view it was kept in; '' where it has none.")
    result: int | None
    shown: str
    state: State = Field(description="Of the verdict: good, doubt, bad, or nothing.")
    gone: str = Field(description="Why it cannot be reopened, in words; '' where it can.")
    can_ask: bool = Field(description="Whether its questions are kept, so that they can be asked again.")
    changed: bool = Field(
        description="Whether what was stated of a result it is of has changed since: its answer may be another one."
    )
    has_picture: bool
    has_table: bool
    has_photograph: bool
    photographed: str
    note_blocks: list[NoteBlock] = Field(description="The note, which is Markdown, in pieces to be shown.")


class Again(BaseModel):
    """An exhibit asked again: what it said and says. changes: of its figures and columns; said: in one sentence."""

    sentence_then: str
    sentence_now: str
    verdict_then: str
    verdict_now: str
    state_now: State
    changes: list[Change]
    said: str


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


def exhibit_of(item: Item, kept: ExhibitKept, there: dict[int, str]) -> ExhibitOut:
    """An exhibit as it is told; ``there``: the results that are in the review now, each with its revision."""
    away = kept.result is not None and kept.result not in there
    now = set(there.values())
    reply = kept.model_dump(include=set(ExhibitOut.model_fields) - {"id", "revision"})
    return ExhibitOut(
        id=item.id,
        revision=item.revision,
        kind=kept.of,
        address=f"/?{kept.view.address()}" if kept.view else "",
        gone="Its result was removed. Bring it back to go there." if away else "",
        can_ask=bool(kept.questions),
        # Of a difference every result that was read counts.
        changed=not away and any(part not in now for p in kept.provenance for part in p.revision.split("+")),
        has_picture=kept.picture is not None,
        has_table=kept.table is not None,
        has_photograph=kept.photograph is not None,
        note_blocks=[NoteBlock.model_validate(block) for block in blocks_of(kept.note)] if kept.note else [],
        **reply,
    )


def keep_exhibit(exhibit: ExhibitIn, review: Review) -> ExhibitOut:
    """Ask the questions of an exhibit and keep it with their answers, its picture and its table."""
    answers = [ask(review, asked.question()) for asked in exhibit.questions]
    view = InView.from_address(exhibit.address) if exhibit.address else None
    picture = None
    if exhibit.picture is not None:
        kind, picture = picture_of(exhibit.picture)
        if kind != "png":
            raise IronstoneError("The picture is no PNG.", "Keep it again.")
    item, kept = _kept(review, exhibit, answers, shown_words(exhibit, review), view, picture)
    return exhibit_of(item, kept, {r.id: r.revision for r in review.results()})


def keep_answer(review: Review, title: str, answer: Answer) -> Item:
    """Keep an answer as an exhibit, with the question it was given to."""
    assert answer.provenance is not None
    words = dict(answer.provenance.question)
    asked = Asked(kind=words.pop("kind"), words=words)
    exhibit = ExhibitIn(of="table", title=title, questions=[asked])
    return _kept(review, exhibit, [answer], f"Result {answer.provenance.result}", None, None)[0]


def _kept(
    review: Review, exhibit: ExhibitIn, answers: list[Answer], shown: str, view: InView | None, picture: bytes | None
) -> tuple[Item, ExhibitKept]:
    judged = next((a for a in answers if a.verdict), answers[0])
    tabled = next((a for a in answers if a.columns), None) if exhibit.of != "view" else None
    provenance = [a.provenance for a in answers if a.provenance is not None]
    with review.writing():
        number = next((r.id for r in review.results() if provenance and r.name == provenance[0].result), None)

        def attached(suffix: str, kind: str, data: bytes | None) -> int | None:
            return None if data is None else review.attach(f"{exhibit.title}.{suffix}", kind, data)

        kept = ExhibitKept(
            of=exhibit.of,
            title=exhibit.title,
            note=exhibit.note,
            sentence=answers[0].sentence,
            caveats=list(dict.fromkeys([*exhibit.notes, *(c for a in answers for c in a.caveats)])),
            verdict=judged.verdict,
            state=judged.state,
            questions=exhibit.questions,
            provenance=provenance,
            view=view,
            result=number,
            shown=shown,
            picture=attached("png", "image/png", picture),
            table=attached("csv", "text/csv", _table(tabled, shown) if tabled else None),
            answers=attached("json", "application/json", json.dumps([a.model_dump() for a in answers]).encode()),
        )
        return keep(review, kept), kept


def _table(answer: Answer, shown: str) -> bytes:
    rows: list[list[object]] = [["" if v is None else v for v in c.values] for c in answer.columns]
    text = write_table([c.name for c in answer.columns], [c.unit for c in answer.columns], rows)
    return f"{without_formulas(text).rstrip()}\n\n# {answer.sentence}\n# {shown}\n".encode()


def answers_of(review: Review, kept: ExhibitKept) -> list[Answer]:
    """The answers of an exhibit as they were."""
    if kept.answers is None:
        return []
    return [Answer.model_validate(a) for a in json.loads(review.attachment(kept.answers)[2])]


def asked_again(review: Review, number: int) -> Again:
    """Ask the questions of an exhibit again, and tell what is another now. Raises IronstoneError where it cannot be asked."""
    kept = ExhibitKept.understood(review.item(number, "exhibit").payload)
    if not kept.questions:
        raise IronstoneError(
            "This exhibit was kept before exhibits kept their questions: it cannot be asked again.", "Go there, and keep it anew."
        )
    then = answers_of(review, kept)
    now = [ask(review, asked.question()) for asked in kept.questions]
    changes = [change for before, after in zip(then, now, strict=True) for change in changes_between(before, after)]
    judged = next((a for a in now if a.verdict), now[0])
    other = judged.state != kept.state
    if not changes and not other:
        said = "It says the same now."
    else:
        what = (
            f"{len(changes)} figure{'s are' if len(changes) != 1 else ' is'} another now" if changes else "The figures are the same"
        )
        said = f"{what}{', and the verdict is another' if other else ''}."
    return Again(
        sentence_then=kept.sentence,
        sentence_now=now[0].sentence,
        verdict_then=kept.verdict,
        verdict_now=judged.verdict,
        state_now=judged.state,
        changes=changes,
        said=said,
    )


class PhotographIn(Strict):
    """A photograph beside an exhibit: a PNG or a JPEG as a data address, and what it shows; without one it is taken away."""

    longest: ClassVar[int] = WITH_PICTURES
    picture: str | None = None
    said: str = Field("", max_length=400)


def photographed(review: Review, number: int, stated: PhotographIn) -> ExhibitOut:
    """Put a photograph beside an exhibit, or take it away. Raises IronstoneError for what is no picture."""
    kind, data = ("", b"") if stated.picture is None else picture_of(stated.picture)
    with review.writing():
        kept = ExhibitKept.understood(review.item(number, "exhibit").payload)
        attached = review.attach(f"{kept.title}.{kind}", f"image/{kind}", data) if data else None
        kept = kept.model_copy(update={"photograph": attached, "photographed": stated.said if data else ""})
        said = "Photograph put beside" if data else "Photograph taken from"
        item = review.change(number, kept.written(), f"{said} '{kept.title}'")
    return exhibit_of(item, kept, {r.id: r.revision for r in review.results()})


def edit_exhibit(review: Review, number: int, edit: ExhibitEdit) -> ExhibitOut:
    """Change what is written on an exhibit: its title, note and verdict."""
    with review.writing():
        kept = ExhibitKept.understood(review.item(number, "exhibit").payload).model_copy(update=edit.model_dump())
        item = review.change(number, kept.written(), f"Exhibit '{edit.title}' edited")
    return exhibit_of(item, kept, {r.id: r.revision for r in review.results()})
