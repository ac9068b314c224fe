"""Commands of several results: a reading of one less the same of another, and what it comes to as the mesh is refined."""

from __future__ import annotations

from typing import Annotated

import typer

from ironstone.cli.base import AsJson, ReviewFile, StepChoice, answered, app, guarded, show, value_text
from ironstone.cli.words import Words, with_words

PLACE = "node:ID, element:ID, point:X,Y,Z or set:NAME."


@app.command("difference")
@with_words("against", "of")
@guarded
def difference_command(
    review: ReviewFile,
    words: Words,
    of: Annotated[str, typer.Option("--of", help="The result that is read.")],
    less: Annotated[str, typer.Option("--less", help="The result whose reading is taken off.")],
    at: Annotated[str | None, typer.Option(help=PLACE)] = None,
    step: StepChoice = "last",
    as_json: AsJson = False,
) -> None:
    """Read a result less the same of another: lowest, highest, RMS by volume, and at a place."""
    said, answer = answered(review, "difference", {**words.named, "result": of, "less": less, "at": at, "step": step})

    def text() -> str:
        lines = [answer.sentence]
        lines += [f"  {v['place']}  {value_text(v['value'], answer.unit)}" for v in said["values"]]
        lines += [f"  {f.label} {value_text(f.value, f.unit)}  ({f.how})" for f in answer.figures]
        return "\n".join([*lines, f"  matched: {said['matched']}", *(f"  ! {c}" for c in answer.caveats)])

    show(said, as_json, text)


@app.command("converge")
@with_words()
@guarded
def converge_command(
    review: ReviewFile,
    words: Words,
    results: Annotated[str, typer.Option("--results", help="The results, one a mesh: A,B,C.")],
    at: Annotated[str | None, typer.Option(help=PLACE)] = None,
    extremes: Annotated[bool, typer.Option("--extremes", help="The highest over the model.")] = False,
    lowest: Annotated[bool, typer.Option("--lowest", help="With --extremes: the lowest in its place.")] = False,
    size: Annotated[str, typer.Option("--size", help="Meshes told apart by length of elements, or by unknowns.")] = "length",
    step: StepChoice = "last",
    as_json: AsJson = False,
) -> None:
    """Say what a reading comes to over three or more meshes of one body: order, extrapolated value, band, verdict."""
    names = _names(review, results)
    own = {"results": names, "at": at, "extremes": extremes, "take": "lowest" if lowest else "highest", "size": size, "step": step}
    said, answer = answered(review, "converge", {**words.named, **own})

    def text() -> str:
        lines = [answer.sentence]
        rows = zip(said["results"], said["sizes"], said["values"], strict=True)
        lines += [f"  {n}: elements of {s:.4g}, {value_text(v, answer.unit)}" for n, s, v in rows]
        lines += [f"  {f.label} {value_text(f.value, f.unit)}  ({f.how})" for f in answer.figures]
        return "\n".join([*lines, f"  {answer.verdict}", *(f"  ! {c}" for c in answer.caveats)])

    show(said, as_json, text)


def _names(review: ReviewFile, text: str) -> list[str]:
    """Names of results that are written one behind the other; a name may have a comma in it."""
    from ironstone.cli.base import open_review

    with open_review(review) as opened:
        known = {r.name for r in opened.results()}
    pieces, names = [p.strip() for p in text.split(",")], []
    while pieces:
        # The longest run of pieces that is a name; a piece that is none goes on as it is, and is refused with the names there are.
        count = next((n for n in range(len(pieces), 0, -1) if ", ".join(pieces[:n]) in known), 1)
        names.append(", ".join(pieces[:count]))
        del pieces[:count]
    return names
