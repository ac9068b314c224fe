"""What a report is made of: results and what was assumed of them, balance and checks, records, exhibits with their answers."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from ironstone.core.errors import IronstoneError
from ironstone.core.reading.over_steps import Tell
from ironstone.core.verdicts import State, state_of
from ironstone.engine.base import ask, engine, question_of, readable
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.curves.records import records_of
from ironstone.engine.kept.checks import CheckOut, hand_checks
from ironstone.engine.kept.exhibits import ExhibitKept, answers_of
from ironstone.engine.kept.outline import in_chapters, outline_of
from ironstone.engine.picture.model import turning
from ironstone.engine.picture.plot import plot_of
from ironstone.engine.picture.sheet import picture_of_view
from ironstone.engine.reading.gauges import GaugeList
from ironstone.engine.report.titles import TitleBlock, title_block
from ironstone.store import Review
from ironstone.store.describe import contents

# A table of more rows than this is shown from both ends, and said to be.
MOST_ROWS = 40


@dataclass(frozen=True)
class Shown:
    """A table as it is shown: columns with their units, rows as texts; said: what of it is left out."""

    heads: list[str]
    rows: list[list[str]]
    said: str = ""


@dataclass(frozen=True)
class Picture:
    """A picture as it is stored: png or jpeg."""

    kind: str
    data: bytes

    @property
    def address(self) -> str:
        return f"data:image/{self.kind};base64,{base64.b64encode(self.data).decode()}"


@dataclass(frozen=True)
class Leaf:
    """One exhibit: picture or plot as SVG, figures and tables of its answers. drawn: why the picture is not one that was kept.
    model: what a page needs to turn it, where that is asked for."""

    title: str
    result: str
    sentence: str
    shown: str
    caveats: list[str]
    note: str
    verdict: str
    state: State
    picture: Picture | None
    drawn: str
    model: dict[str, Any] | None
    photograph: Picture | None
    photographed: str
    plot: str
    figures: list[Figure]
    tables: list[Shown]
    questions: list[str]


@dataclass(frozen=True)
class InChapter:
    """A chapter: its title, '' where the review has none, and its exhibits."""

    title: str
    leaves: list[Leaf]


@dataclass(frozen=True)
class OfResult:
    """One result: what it is, what was assumed of it, whether it balances, its checks."""

    name: str
    facts: list[tuple[str, str]]
    files: list[dict[str, Any]]
    guesses: list[str]
    warnings: list[str]
    stated: list[str]
    corrected: list[str]
    balance: Answer | None
    balance_said: str
    sense: list[dict[str, Any]]
    checks: list[CheckOut]


@dataclass(frozen=True)
class Report:
    """All of it. verdicts: how many exhibits and checks came to what. block: of the title block, labels with what they say."""

    title: str
    made: str
    engine: str
    question: str
    block: TitleBlock
    results: list[OfResult]
    chapters: list[InChapter]
    records: list[tuple[str, list[str]]]
    gauges: list[tuple[str, str]]
    verdicts: dict[str, int] = field(default_factory=dict)

    @property
    def leaves(self) -> list[Leaf]:
        return [leaf for chapter in self.chapters for leaf in chapter.leaves]


def gather(review: Review, tell: Tell | None = None, turns: bool = False) -> Report:
    """All a report of a review is made of. What cannot be read says so in its place. tell: hears how far it is. turns: whether
    views bring what a page needs to turn them.

    Raises IronstoneError where the title block beside the review cannot be read.
    """
    told = tell or (lambda share, text: None)
    block = title_block(review.path)
    parts = in_chapters(review)
    count = len(review.results()) + sum(len(leaves) for _, leaves in parts)
    done = 0

    def next_one(what: str) -> None:
        nonlocal done
        told(done / max(count, 1), what)
        done += 1

    results = []
    for found in review.results():
        next_one(f"result {found.name}")
        try:
            results.append(_of_result(review, found.id))
        except IronstoneError as error:
            # A lean copy, or one that is damaged: the exhibits are told all the same.
            unread = [("not read", error.message)]
            results.append(OfResult(found.name, unread, found.files, [], [], [], [], None, "It cannot be read.", [], []))
    chapters = []
    for title, kept in parts:
        leaves = []
        for _, exhibit in kept:
            next_one(f"exhibit {exhibit.title}")
            leaves.append(_leaf(review, exhibit, turns))
        if leaves or title:
            chapters.append(InChapter(title, leaves))
    states = [leaf.state for c in chapters for leaf in c.leaves] + [state_of(c.verdict) for r in results for c in r.checks]
    words: dict[State, str] = {"good": "agree", "doubt": "doubtful", "bad": "do not agree"}
    records = [(t.name, t.corrections or ["as recorded"]) for t in records_of(review) if not t.error]
    names = {r.id: r.name for r in review.results()}
    gauges = [
        (kept.name, f"{len(kept.points)} points on {names.get(kept.result, 'a result that was removed')}")
        for _, kept in readable(review, GaugeList)
    ]
    verdicts = {words[s]: states.count(s) for s in ("good", "doubt", "bad")}
    made = datetime.now().strftime("%Y-%m-%d %H:%M")
    question = outline_of(review).question
    return Report(review.name, made, engine(), question, block, results, chapters, records, gauges, verdicts)


def _of_result(review: Review, number: int) -> OfResult:
    source = review.result(number)
    found = contents(source)
    fields = [f for f in found["fields"] if not f["recovered"]]
    facts = [
        ("nodes", f"{found['nodes']} ({found['welding']})"),
        ("elements", ", ".join(f"{count} {cell}" for cell, count in found["cells"].items())),
        ("parts", ", ".join(f"{p['name']} ({p['elements']} elements)" for p in found["parts"])),
        ("steps", f"{len(found['steps'])}, {found['steps'][0]['label']} to {found['steps'][-1]['label']}"),
        ("units", found["system"] + (", guessed" if found["system_guessed"] else "")),
        ("fields", ", ".join(f"{f['name']} ({f['location']}, {f['unit'] or 'pure number'})" for f in fields)),
    ]
    guesses = [f"'{f['name']}' is taken as {f['kind'] or 'no known kind'}" for f in fields if f["guessed"]]
    guesses += [f"'{w['name']}': {w['entry']['label']}" for w in found["whole_numbers"] if w["entry"]["state"] == "guessed"]
    stated = [
        f"{m['name']}: " + ", ".join(f"{name} {value:g}" for name, value in m["constants"].items())
        for m in found["materials"]
        if m["constants"]
    ]
    balance, said = None, ""
    try:
        balance = ask(review, question_of("balance", {"result": number}))
    except IronstoneError as error:
        said = f"{error.message} {error.hint}".strip()
    try:
        sense = ask(review, question_of("sense", {"result": number})).more["doubts"]
    except IronstoneError:
        sense = []
    doubts = [*found["warnings"], *(d["said"] for d in found["doubts"])]
    checks = hand_checks(number, review)
    corrected = _corrected(review.correction(number))
    return OfResult(source.name, facts, found["files"], guesses, doubts, stated, corrected, balance, said, sense, checks)


def _corrected(correction: Mapping[str, Any]) -> list[str]:
    """What the analyst has said of a result that its files do not say, in words."""
    said = [f"units are {correction['system']}"] if correction.get("system") else []
    for name, entry in correction.get("fields", {}).items():
        said += [f"'{name}': {word} is {value}" for word, value in entry.items() if isinstance(value, str | int | float)]
    half = correction.get("mirror")
    if half:
        said.append(f"one half of a body, mirrored at {'xyz'[half['axis']]} = {half['at']:g}")
    if correction.get("model"):
        said.append(f"model: {correction['model']}")
    for word, what in (("axes", "axes"), ("combinations", "combination"), ("sets", "set"), ("laminates", "laminate")):
        said += [f"{what} '{name}' made" for name in correction.get(word) or {}]
    return said


def _leaf(review: Review, kept: ExhibitKept, turns: bool) -> Leaf:
    answers = answers_of(review, kept)
    picture, drawn = _picture(review, kept)
    tabled = [a for a in answers if a.columns] if kept.of != "view" else []
    return Leaf(
        title=kept.title,
        result=kept.provenance[0].result if kept.provenance else "",
        sentence=kept.sentence,
        shown=kept.shown,
        caveats=kept.caveats,
        note=kept.note,
        verdict=kept.verdict,
        state=kept.state,
        picture=picture,
        drawn=drawn,
        model=_model(review, kept) if turns and picture else None,
        photograph=_attached(review, kept.photograph),
        photographed=kept.photographed,
        # A picture of the bench shows the plot already.
        plot="" if picture else next((svg for a in tabled if (svg := plot_of(a))), ""),
        figures=[f for a in answers for f in a.figures],
        tables=[shown_table(a.columns) for a in tabled],
        questions=[f"{p.question.get('kind', '')} at {p.revision}, by {p.engine}" for p in kept.provenance],
    )


def _attached(review: Review, number: int | None) -> Picture | None:
    if number is None:
        return None
    _, kind, data = review.attachment(number)
    return Picture(kind.removeprefix("image/"), data)


def _model(review: Review, kept: ExhibitKept) -> dict[str, Any] | None:
    """What a page needs to turn a view; None of one that shows another thing by now, or cannot be drawn."""
    there = {r.id: r.revision for r in review.results()}
    same = all(part in there.values() for p in kept.provenance for part in p.revision.split("+"))
    if kept.of != "view" or kept.view is None or kept.view.reading is None or kept.result not in there or not same:
        return None
    try:
        return turning(review, kept.view)
    except IronstoneError:
        return None


def _picture(review: Review, kept: ExhibitKept) -> tuple[Picture | None, str]:
    """The picture that was kept with an exhibit; of a view that has none, it is drawn now, and that is said."""
    if kept.picture is not None or kept.of != "view" or kept.view is None or kept.view.reading is None:
        return _attached(review, kept.picture), ""
    there = {r.id: r.revision for r in review.results()}
    if kept.result not in there:
        return None, "No picture was kept, and its result was removed: it cannot be drawn."
    try:
        drawn = picture_of_view(review, kept.view, said=kept.shown)
    except IronstoneError as error:
        return None, f"No picture was kept, and it cannot be drawn: {error.message}"
    same = all(part in there.values() for p in kept.provenance for part in p.revision.split("+"))
    said = "Drawn for this report."
    return Picture("png", drawn), said if same else f"{said} What is stated of its result has changed since it was kept."


STATES: dict[State, str] = {"good": "Agrees", "doubt": "Doubtful", "bad": "Does not agree"}


def judged(verdict: str, state: State) -> str:
    """A verdict in words that say its state: a colour alone says nothing in print."""
    said = any(word in verdict.lower() for word in ("agree", "doubt", "fail"))
    if not verdict or said or state not in STATES:
        return verdict[:1].upper() + verdict[1:]
    return f"{STATES[state]}: {verdict}"


def shown_table(columns: list[Column]) -> Shown:
    """A table as it is shown, its numbers with six digits; a long one from both ends."""
    heads = [f"{c.name} [{c.unit}]" if c.unit else c.name for c in columns]
    rows = [[_text(v) for v in row] for row in zip(*(c.values for c in columns), strict=True)]
    if len(rows) <= MOST_ROWS:
        return Shown(heads, rows)
    half = MOST_ROWS // 2
    said = f"{len(rows) - 2 * half} of {len(rows)} rows are left out."
    return Shown(heads, [*rows[:half], ["…"] * len(heads), *rows[-half:]], said)


def _text(value: Any) -> str:
    if value is None:
        return "no value"
    # Round-off below zero is 0.
    return f"{value + 0.0:.6g}" if isinstance(value, float) else str(value)
