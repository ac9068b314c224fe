"""Commands for every kind of question and everything that can be kept, by the same words as everywhere."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ironstone.cli.base import AsJson, ReviewFile, app, guarded, open_review, show
from ironstone.core.errors import IronstoneError
from ironstone.engine.found import Kinds

if TYPE_CHECKING:
    from pydantic import BaseModel

    from ironstone.engine.carrier import Answer

_ASKED, _KEPT = (", ".join(sorted(Kinds(family))) for family in ("Question", "Kept"))
Words = Annotated[list[str] | None, typer.Argument(help="NAME=VALUE ...; x.field=stress for a word of a word; JSON where wanted.")]


def words_of(given: list[str] | None, kind: type[BaseModel]) -> dict[str, Any]:
    """Words from NAME=VALUE, as text or JSON by what the word is. Raises IronstoneError for what is not written so."""
    words: dict[str, Any] = {}
    for text in given or []:
        name, equals, value = text.partition("=")
        if not equals:
            raise IronstoneError(f"'{text}' is not a word.", f"Write NAME=VALUE; the names are: {', '.join(kind.model_fields)}.")
        inside = words
        *way, last = name.replace("-", "_").split(".")
        for step in way:
            inside = inside.setdefault(step, {})
        field = None if way else kind.model_fields.get(last)
        inside[last] = value if field is not None and field.annotation in (str, str | None) and value != "null" else _value(value)
    return words


def _value(text: str) -> Any:
    """What a word says: JSON for numbers, lists, true, false and null; else the text itself."""
    try:
        found = json.loads(text)
    except ValueError:
        return text
    return found


def reply(answer: Answer) -> str:
    lines = [answer.sentence, *([answer.verdict] if answer.verdict else [])]
    if answer.columns:
        heads = [c.name + (f" [{c.unit}]" if c.unit else "") for c in answer.columns]
        rows = [["" if v is None else f"{v:.6g}" if isinstance(v, float) else str(v) for v in c.values] for c in answer.columns]
        width = [max(map(len, [h, *r])) for h, r in zip(heads, rows, strict=True)]
        lines.append("  ".join(h.ljust(w) for h, w in zip(heads, width, strict=True)).rstrip())
        lines += ["  ".join(v.ljust(w) for v, w in zip(row, width, strict=True)).rstrip() for row in zip(*rows, strict=True)]
    lines += [f"{f.label}: {'no value' if f.value is None else f'{f.value:.6g}'} {f.unit}".rstrip() for f in answer.figures]
    return "\n".join(lines + [f"  ! {c}" for c in answer.caveats])


@app.command("ask")
@guarded
def ask_command(
    review: ReviewFile,
    kind: Annotated[str, typer.Argument(help=f"What is asked: {_ASKED}.")],
    words: Words = None,
    table: Annotated[Path | None, typer.Option(help="Write the answer's table to NAME.csv, NAME.xlsx or NAME.parquet.")] = None,
    exhibit: Annotated[str | None, typer.Option(help="Keep the answer as an exhibit under this title.")] = None,
    as_json: AsJson = False,
) -> None:
    """Ask any kind of question: ``ask R.ironstone read field=stress measure=von-mises at=node:8``."""
    from pydantic import BaseModel

    from ironstone.engine.base import QUESTIONS, ask, question_of
    from ironstone.engine.kept.exhibits import keep_answer
    from ironstone.engine.tabled import form_of, tabled

    question = question_of(kind, words_of(words, QUESTIONS.get(kind, BaseModel)))
    with open_review(review) as opened:
        answer = ask(opened, question)
        if exhibit is not None:
            keep_answer(opened, exhibit, answer)
    if table is not None:
        table.write_bytes(tabled(answer.columns, form_of(table), answer.sentence))
    show(answer.model_dump(), as_json, lambda: reply(answer))


@app.command("keep")
@guarded
def keep_command(
    review: ReviewFile,
    kind: Annotated[str, typer.Argument(help=f"What is kept: {_KEPT}.")],
    words: Words = None,
    as_json: AsJson = False,
) -> None:
    """Keep something in a review: ``keep R.ironstone flag result=1 node=8 name=root``."""
    from pydantic import BaseModel

    from ironstone.engine.base import KEPT, keep, thing_of

    given = words_of(words, KEPT.get(kind, BaseModel))
    with open_review(review) as opened:
        if kind in KEPT and "result" in KEPT[kind].model_fields and not isinstance(given.get("result"), int):
            given["result"] = opened.result(given.get("result")).id
        item = keep(opened, thing_of(kind, given))
    show({"id": item.id, "kind": item.kind, "words": item.payload}, as_json, lambda: f"{item.kind} {item.id} is kept.")


@app.command("kept")
@guarded
def kept_command(
    review: ReviewFile,
    kind: Annotated[str | None, typer.Argument(help="One kind; all where not given.")] = None,
    as_json: AsJson = False,
) -> None:
    """List what is kept in a review, with its numbers."""
    from ironstone.engine.base import KEPT, unreadable

    with open_review(review) as opened:
        items = [{"id": i.id, "kind": i.kind, "words": i.payload} for i in opened.items(kind) if i.kind in KEPT]
        lost = unreadable(opened)

    def text() -> str:
        lines = [f"{i['kind']} {i['id']}: {json.dumps(i['words'], ensure_ascii=False)[:160]}" for i in items]
        return "\n".join(lines + [f"  ! {said}" for said in lost])

    show({"kept": items, "unreadable": lost}, as_json, text)


@app.command("bring")
@guarded
def bring_command(
    review: ReviewFile,
    file: Annotated[Path, typer.Argument(help="CSV of a test record.")],
    pairing: Annotated[str | None, typer.Option(help="The kept curve it is held against, by number or name.")] = None,
    as_json: AsJson = False,
) -> None:
    """Bring a test record in: which column is what is guessed and said, and can be stated anew in the bench."""
    from ironstone.engine.base import by_name
    from ironstone.engine.curves.pairings import PairingIn
    from ironstone.engine.curves.records import bring

    with open_review(review) as opened:
        held = by_name(opened, PairingIn, pairing)[0].id if pairing is not None else None
        record = bring(opened, file.read_bytes(), file.name, held)
    answer = record.model_dump(exclude={"x", "y"})
    use = record.use

    def text() -> str:
        read = ", ".join(f"{axis} is {of.column} [{of.unit or 'unit not stated'}]" for axis, of in (("x", use.x), ("y", use.y)))
        return f"{record.name}: {record.rows} rows, number {record.id}; {read}"

    show(answer, as_json, text)
