"""Commands of several results: a reading of one less the same of another, and what it comes to as the mesh is refined."""

from __future__ import annotations

from typing import Annotated

import typer

from ironstone.cli.base import AsJson, ResultName, ReviewFile, StepChoice, answered, app, guarded, show, told, value_text
from ironstone.cli.words import Words, with_words
from ironstone.engine.said import PLACE


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
        lines = [f"  {v['place']}  {value_text(v['value'], answer.unit)}" for v in said["values"]]
        lines += [f"  {f.label} {value_text(f.value, f.unit)}  ({f.how})" for f in answer.figures]
        return told(answer, [*lines, f"  matched: {said['matched']}"])

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
        rows = zip(said["results"], said["sizes"], said["values"], strict=True)
        lines = [f"  {n}: elements of {s:.4g}, {value_text(v, answer.unit)}" for n, s, v in rows]
        lines += [f"  {f.label} {value_text(f.value, f.unit)}  ({f.how})" for f in answer.figures]
        return told(answer, lines)

    show(said, as_json, text)


@app.command("governing")
@with_words("over", "span", "when")
@guarded
def governing_command(
    review: ReviewFile,
    words: Words,
    cases: Annotated[str, typer.Option("--cases", help="Steps by name or number from 0, A,B,C; none: all combinations.")] = "",
    take: Annotated[str, typer.Option("--take", help="largest, smallest or magnitude.")] = "largest",
    by: Annotated[str, typer.Option("--by", help="part, set or element.")] = "part",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Say which of several steps and combinations governs: the largest over them, by part, set or element."""
    own = {"cases": [c.strip() for c in cases.split(",") if c.strip()], "take": take, "by": by, "result": result}
    said, answer = answered(review, "governing", {**words.named, **own})

    def text() -> str:
        lines = [f"  {r['of']}: {value_text(r['value'], answer.unit)} by {r['case']}, element {r['element']}" for r in said["rows"]]
        lines += [f"  {c['name']} governs {c['elements']} elements" for c in said["cases"]]
        return told(answer, lines)

    show(said, as_json, text)


@app.command("front")
@with_words("over", "span", "when")
@guarded
def front_command(
    review: ReviewFile,
    words: Words,
    value: Annotated[float | None, typer.Option("--value", help="The value on the front.")] = None,
    border: Annotated[
        str, typer.Option("--border", help="region: of the elements whose mean is at least the value; edge: of the surface.")
    ] = "",
    along: Annotated[str, typer.Option("--along", help="The way it goes, X,Y,Z; none: where its middle goes.")] = "",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Follow a front through the steps: where a reading has a value, the border of a region, the edge of a surface."""
    said, answer = answered(review, "front", {**words.named, "value": value, "border": border, "along": along, "result": result})
    table = {c.name: {"unit": c.unit, "values": c.values} for c in answer.columns}

    def text() -> str:
        lines = []
        for row in zip(*(c.values for c in answer.columns), strict=True):
            shown = (f"{c.name} {value_text(v, c.unit)}" for c, v in zip(answer.columns, row, strict=True))
            lines.append("  " + ", ".join(shown))
        return told(answer, lines)

    show({**said, "columns": table, "verdict": answer.verdict}, as_json, text)


@app.command("penetration")
@guarded
def penetration_command(
    review: ReviewFile,
    between: Annotated[str, typer.Option("--between", help="Two parts, 'A|B'; none: every two parts of solids.")] = "",
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Say whose nodes lie how deep inside whose faces, both ways, in the deformed shape at true scale."""
    said, answer = answered(review, "penetration", {"between": between, "step": step, "result": result})

    def text() -> str:
        lines = []
        for s in said["sides"]:
            at = f", deepest {value_text(s['deepest'], said['unit'])} at node {s['node']}" if s["count"] else ""
            lines.append(f"  {s['count']} nodes of {s['of']} inside {s['into']}{at}")
        return told(answer, lines)

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
