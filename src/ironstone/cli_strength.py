"""Commands of strength: laminates by themselves, and what fails of a result."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import numpy as np
import typer

from ironstone.cli_base import AsJson, ResultName, ReviewFile, StepChoice, app, guarded, show, value_text
from ironstone.core.errors import IronstoneError
from ironstone.core.strength.criteria import CRITERIA
from ironstone.engine.laminates import laminate_answer
from ironstone.engine.steps import find_step
from ironstone.engine.strength import strength_answer
from ironstone.store import Review


def _read(file: Path) -> bytes:
    try:
        return file.read_bytes()
    except FileNotFoundError as error:
        raise IronstoneError(f"There is no file {file.name}.", "Check the name and the folder.") from error


@app.command("laminate")
@guarded
def laminate_command(
    file: Annotated[Path, typer.Argument(help="The laminates: JSON, see the formats in the documentation.")],
    load: Annotated[str, typer.Option(help="Forces and moments per length, NX,NY,NXY,MX,MY,MXY, in the file's units.")] = "",
    criterion: Annotated[str, typer.Option(help=", ".join(CRITERIA) + ".")] = "",
    temperature: Annotated[float, typer.Option(help="Change of temperature; it does not scale with the load.")] = 0.0,
    as_json: AsJson = False,
) -> None:
    """Stiffness of laminates, and under a load strain, stress, index and reserve factor of every ply."""
    data, numbers = _read(file), None
    if load:
        try:
            numbers = np.array([float(v) for v in load.split(",")])
        except ValueError as error:
            raise IronstoneError(f"'{load}' is no load.", "Write six numbers: NX,NY,NXY,MX,MY,MXY.") from error
        if numbers.shape != (6,) or not np.isfinite(numbers).all():
            raise IronstoneError(f"'{load}' is no load.", "Write six numbers: NX,NY,NXY,MX,MY,MXY.")
    answer = laminate_answer(data, file.name, numbers, criterion, temperature)

    def text() -> str:
        units, lines = answer["units"], []
        for zone in answer["zones"]:
            kind = ", ".join(w for w, on in (("symmetric", zone["symmetric"]), ("balanced", zone["balanced"])) if on)
            count = len(zone["plies"]) // 3
            lines.append(
                f"{zone['name']}: {count} plies, {value_text(zone['thickness'], units['length'])}{', ' + kind if kind else ''}"
            )
            for name in "ABD":
                lines += [f"  {name if i == 0 else ' '} " + " ".join(f"{v:12.5g}" for v in row) for i, row in enumerate(zone[name])]
            for p in zone["plies"] if answer["load"] else []:
                stress = " ".join(f"{v:11.5g}" for v in p["stress"])
                more = "" if p["index"] is None else f"  index {p['index']:.4g}, reserve {value_text(p['reserve'])}, {p['mode']}"
                lines.append(f"  {p['position']:3d} {p['place']:<6s} {p['angle']:6g}° {stress} {units['stress']}{more}")
        return "\n".join(lines)

    show(answer, as_json, text)


@app.command("strength")
@guarded
def strength_command(
    review: ReviewFile,
    laminate: Annotated[Path, typer.Option(help="The laminates: JSON, see the formats in the documentation.")],
    criterion: Annotated[str, typer.Option(help=", ".join(CRITERIA) + ".")],
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """What fails of a result's laminates: the worst ply with its mode and reserve, the share of plies, the first failure."""
    data = _read(laminate)
    with Review.open(review) as opened:
        source = opened.result(result)
        answer = strength_answer(source, data, laminate.name, criterion, find_step(source, step))

    def text() -> str:
        lines = [answer["sentence"]]
        w = answer["worst"]
        if w is None:
            return "\n".join([*lines, "  no ply has a value"])
        sheet = f", sheet {w['sheet']}" if w["sheet"] else ""
        lines.append(f"  worst: element {w['element']}, zone {w['zone']}, ply {w['position']}{sheet}, {w['place']}: {w['mode']}")
        lines.append(f"  index {value_text(w['index'])}, reserve {value_text(w['reserve'])}")
        lines.append(f"  {100 * answer['share_of_plies_failed']:.4g} % of the plies failed, in {answer['failed_count']} elements")
        f = answer["first_failure"]
        if f and f["fails"]:
            lines.append(f"  first failure at {f['kind']} {value_text(f['at'], f['unit'])}: element {f['element']}, {f['mode']}")
        elif f:
            lines.append(f"  nothing fails; the loads of step {f['step']} can grow to {value_text(f['load_factor'])} times")
        return "\n".join(lines)

    show(answer, as_json, text)
