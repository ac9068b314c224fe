"""The command of gauge lists."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ironstone.cli.base import AsJson, ResultName, ReviewFile, StepChoice, app, guarded, open_review, show, value_text
from ironstone.cli.words import Words, with_words
from ironstone.core.errors import IronstoneError
from ironstone.engine.said import STRAIN_GAUGE


@app.command("gauges")
@with_words()
@guarded
def gauges_command(
    review: ReviewFile,
    points: Annotated[
        Path, typer.Argument(help="The list: CSV or XLSX with x, y, z, and perhaps name, dx, dy, dz, length, measured.")
    ],
    words: Words,
    along: Annotated[bool, typer.Option("--along", help=STRAIN_GAUGE)] = False,
    leave: Annotated[
        bool, typer.Option("--leave", help="Points outside the body are not read at the nearest place of it.")
    ] = False,
    length_unit: Annotated[str | None, typer.Option(help="Unit of coordinates whose column states none.")] = None,
    measured_unit: Annotated[str | None, typer.Option(help="Unit of what was measured, where its column states none.")] = None,
    uff: Annotated[Path | None, typer.Option(help="Write the displacement at the points, all steps, as a universal file.")] = None,
    kept: Annotated[str, typer.Option("--keep", help="Keep the list in the review under this name.")] = "",
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Read a field at the points of a gauge list, beside what was measured there."""
    from ironstone.engine.base import keep
    from ironstone.engine.reading.gauges import gauge_list, gauges_answer, write_moved
    from ironstone.engine.steps import find_step

    try:
        data = points.read_bytes()
    except FileNotFoundError as error:
        raise IronstoneError(f"There is no file {points.name}.", "Check the name and the folder.") from error
    with open_review(review) as opened:
        source = opened.result(result)
        found = gauge_list(source, kept or points.stem[:80] or "gauges", data, points.name, length_unit)
        found = found.model_copy(update={"move": not leave, "unit": found.unit if measured_unit is None else measured_unit})
        answer = gauges_answer(source, words.reading(find_step(source, step)), found, along)
        if kept:
            keep(opened, found)
        if uff is not None:
            write_moved(source, found, uff)

    def text() -> str:
        lines = [answer["sentence"]]
        for p in answer["points"]:
            where = "" if p["inside"] else f", {p['distance']:.4g} {source.system.length} outside"
            beside = "" if p["measured"] is None else f"  measured {value_text(p['measured'], answer['unit'])}"
            lines.append(
                f"  {p['name']}: {value_text(p['value'], answer['unit'])}{beside}  ({p['part']}, element {p['element']}{where})"
            )
        for r in answer["rosettes"]:
            for what in ("computed", "measured"):
                if r[what]:
                    lines.append(
                        f"  {r['name']} {what}: {r[what]['first']:.6g}, {r[what]['second']:.6g} at {r[what]['angle']:.3g}°"
                    )
        return "\n".join(lines + ([answer["verdict"]] if answer["verdict"] else []) + [f"  ! {c}" for c in answer["caveats"]])

    show(answer, as_json, text)
