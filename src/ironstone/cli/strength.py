"""Commands of strength: laminates by themselves, and what fails of a result."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import numpy as np
import typer

from ironstone.cli.base import AsJson, ResultName, ReviewFile, StepChoice, app, bytes_of, guarded, open_review, show, value_text
from ironstone.core.errors import IronstoneError
from ironstone.core.strength.criteria import CRITERIA
from ironstone.engine.said import ACCEPT, ACCEPT_SAID, CRITERION

if TYPE_CHECKING:
    from ironstone.engine.carrier import Answer


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
    from ironstone.engine.strength.laminates import laminate_answer

    data, numbers = bytes_of(file), None
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
    laminate: Annotated[Path | None, typer.Option(help="The laminates; none: those stated of the result.")] = None,
    allowables: Annotated[
        Path | None, typer.Option(help="Limits of metals by part: JSON, see the formats in the documentation.")
    ] = None,
    criterion: Annotated[str, typer.Option(help=CRITERION)] = "",
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """What fails of a result's laminates: the worst ply, the share of plies, the first failure; or metals against their limits."""
    from ironstone.engine.steps import find_step
    from ironstone.engine.strength.failure import strength_answer
    from ironstone.engine.strength.metals import utilisation

    with open_review(review) as opened:
        source = opened.result(result)
        index = find_step(source, step)
        if allowables is not None:
            metals = utilisation(source, bytes_of(allowables), index)
            show({**metals.more, "sentence": metals.sentence}, as_json, lambda: _metals_text(metals))
            return
        data = None if laminate is None else bytes_of(laminate)
        if not criterion:
            raise IronstoneError("No criterion was named.", f"Add --criterion: {', '.join(CRITERIA)}.")
        answer = strength_answer(source, data, "the laminates" if laminate is None else laminate.name, criterion, index)

    def text() -> str:
        lines = [answer["sentence"]]
        w = answer["worst"]
        if w is None:
            return "\n".join([*lines, "  no ply has a value"])
        sheet = f", sheet {w['sheet']}" if w["sheet"] else ""
        lines.append(f"  worst: element {w['element']}, zone {w['zone']}, ply {w['position']}{sheet}, {w['place']}: {w['mode']}")
        state = f": {w['state']}" if w["state"] else ""
        lines.append(f"  index {value_text(w['index'])}, reserve {value_text(w['reserve'])}{state}")
        lines.append(f"  {100 * answer['share_of_plies_failed']:.4g} % of the plies failed, in {answer['failed_count']} elements")
        f = answer["first_failure"]
        if f and f["fails"]:
            lines.append(f"  first failure {f['moment']}: element {f['element']}, {f['mode']}")
        elif f:
            lines.append(f"  nothing fails; the loads of step {f['step']} can grow to {value_text(f['load_factor'])} times")
        return "\n".join([*lines, *(f"  ! {note}" for note in answer["assumed"])])

    show(answer, as_json, text)


def _metals_text(answer: Answer) -> str:
    lines = [answer.sentence]
    for row in answer.more["rows"]:
        lines.append(
            f"  {row['part']}: {value_text(row['utilisation'])} of {row['against']} {value_text(row['limit'])} at element "
            f"{row['element']}"
            + ("" if row["over_share"] is None else f", {100 * row['over_share']:.4g} % of the volume at 1 or more")
        )
    return "\n".join(lines)


@app.command("coupons")
@guarded
def coupons_command(
    review: ReviewFile,
    file: Annotated[Path, typer.Argument(help="Coupons: CSV or XLSX with specimen, property, value; or s11, s22, s12 at failure.")],
    material: Annotated[str, typer.Option(help="Of which ply material.")] = "",
    as_json: AsJson = False,
) -> None:
    """Keep coupon tests in a review, and say their means, scatter and tolerance bounds."""
    from ironstone.engine.base import ask, keep
    from ironstone.engine.strength.coupons import CouponBasis, coupons_of

    data = bytes_of(file)
    with open_review(review) as opened:
        item = keep(opened, coupons_of(data, file.name, material))
        answer = ask(opened, CouponBasis(named=item.id))
    rows = list(zip(*(c.values for c in answer.columns), strict=True))
    names = [c.name for c in answer.columns]

    def text() -> str:
        lines = [answer.sentence]
        for row in rows:
            lines.append(
                "  " + ", ".join(f"{n} {v:.6g}" if isinstance(v, float) else f"{n} {v}" for n, v in zip(names, row, strict=True))
            )
        return "\n".join([*lines, *(f"  ! {c}" for c in answer.caveats)])

    show(
        {"sentence": answer.sentence, "rows": [dict(zip(names, r, strict=True)) for r in rows], "caveats": answer.caveats},
        as_json,
        text,
    )


@app.command("part-tests")
@guarded
def part_tests_command(
    review: ReviewFile,
    file: Annotated[Path, typer.Argument(help="Tested parts: CSV or XLSX with specimen, load, and perhaps zone, mode, note.")],
    criterion: Annotated[str, typer.Option(help=CRITERION)],
    per_factor: Annotated[float, typer.Option(help="The load at a load factor of 1, in the unit of the tests.")] = 1.0,
    accept: Annotated[float, typer.Option(help=ACCEPT_SAID)] = ACCEPT,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Keep tests of a part, and hold the predicted first failure against them; exit status 1 where they do not agree."""
    from ironstone.engine.base import ask, keep
    from ironstone.engine.strength.part_tests import Tested, part_tests_of

    data = bytes_of(file)
    with open_review(review) as opened:
        item = keep(opened, part_tests_of(opened.result(result), data, file.name, per_factor))
        answer = ask(opened, Tested(named=item.id, criterion=criterion, accept=accept))

    def text() -> str:
        lines = [answer.sentence, f"  {answer.verdict}"]
        lines += [f"  {f.label}: {value_text(f.value, f.unit)}" for f in answer.figures]
        lines += [
            f"  {r['label']}: {value_text(r['predicted'], answer.unit)}, {r['mode']} in {r['zone']}"
            for r in answer.more["criteria"]
        ]
        return "\n".join([*lines, *(f"  ! {c}" for c in answer.caveats)])

    reply = {**answer.more, "sentence": answer.sentence, "verdict": answer.verdict}
    show(reply, as_json, text)
    if not answer.more["agrees"]:
        raise typer.Exit(1)
