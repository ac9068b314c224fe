"""What a report is made of: results and what was assumed of them, balance and checks, records, exhibits with their answers."""

from __future__ import annotations

import base64
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from ironstone.core.errors import IronstoneError
from ironstone.core.verdicts import State, state_of
from ironstone.engine.base import ask, engine, question_of, readable
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.curves.records import records_of
from ironstone.engine.kept.checks import CheckOut, hand_checks
from ironstone.engine.kept.exhibits import ExhibitKept, answers_of
from ironstone.engine.report.plot import plot_of
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
class Leaf:
    """One exhibit: picture as a data address or plot as SVG, figures and tables of its answers."""

    title: str
    result: str
    sentence: str
    shown: str
    caveats: list[str]
    note: str
    verdict: str
    state: State
    picture: str
    plot: str
    figures: list[Figure]
    tables: list[Shown]
    questions: list[str]


@dataclass(frozen=True)
class OfResult:
    """One result: what it is, what was assumed of it, whether it balances, its checks."""

    name: str
    facts: list[tuple[str, str]]
    files: list[dict[str, Any]]
    guesses: list[str]
    warnings: list[str]
    stated: list[str]
    balance: Answer | None
    balance_said: str
    sense: list[dict[str, Any]]
    checks: list[CheckOut]


@dataclass(frozen=True)
class Report:
    """All of it. verdicts: how many exhibits and checks came to what."""

    title: str
    made: str
    engine: str
    results: list[OfResult]
    leaves: list[Leaf]
    records: list[tuple[str, list[str]]]
    verdicts: dict[str, int] = field(default_factory=dict)


def gather(review: Review) -> Report:
    """All a report of a review is made of. What cannot be read says so in its place."""
    results = [_of_result(review, r.id) for r in review.results()]
    leaves = [_leaf(review, kept) for _, kept in readable(review, ExhibitKept)]
    states = [leaf.state for leaf in leaves] + [state_of(c.verdict) for r in results for c in r.checks]
    words: dict[State, str] = {"good": "agree", "doubt": "doubtful", "bad": "do not agree"}
    records = [(t.name, t.corrections or ["as recorded"]) for t in records_of(review) if not t.error]
    verdicts = {words[s]: states.count(s) for s in ("good", "doubt", "bad")}
    return Report(review.name, datetime.now().strftime("%Y-%m-%d %H:%M"), engine(), results, leaves, records, verdicts)


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
    return OfResult(source.name, facts, found["files"], guesses, doubts, stated, balance, said, sense, checks)


def _leaf(review: Review, kept: ExhibitKept) -> Leaf:
    answers = answers_of(review, kept)
    picture = ""
    if kept.picture is not None:
        _, kind, data = review.attachment(kept.picture)
        picture = f"data:{kind};base64,{base64.b64encode(data).decode()}"
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
        # A picture of the bench shows the plot already.
        plot="" if picture else next((svg for a in tabled if (svg := plot_of(a))), ""),
        figures=[f for a in answers for f in a.figures],
        tables=[shown_table(a.columns) for a in tabled],
        questions=[f"{p.question.get('kind', '')} at {p.revision}, by {p.engine}" for p in kept.provenance],
    )


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
    return f"{value:.6g}" if isinstance(value, float) else str(value)
