"""Commands on curves in files: their cycles, and how well two agree."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ironstone.cli.base import AsJson, app, guarded, show, value_text

if TYPE_CHECKING:
    from ironstone.core.curves.curves import Curve


Prominence = Annotated[
    float | None,
    typer.Option(help="Share of the driver's range it comes back to have turned; else found from its noise."),
]


def _curve(path: Path, x: str, y: str) -> Curve:
    from ironstone.core.curves.curves import Curve
    from ironstone.formats.tables import read_table

    table = read_table(path)
    (u, u_unit), (f, f_unit) = table.column(x), table.column(y)
    return Curve(u, f, u_unit, f_unit, x, y)


@app.command("loop")
@guarded
def loop_command(
    curve: Annotated[Path, typer.Argument(help="CSV: a header row, perhaps a unit row, then numbers.")],
    x: Annotated[str, typer.Option("--x", help="Column of the driver.")],
    y: Annotated[str, typer.Option("--y", help="Column of the force.")],
    start: Annotated[str, typer.Option(help="A cycle begins at a positive 'peak' or an upward 'zero' crossing.")] = "peak",
    prominence: Prominence = None,
    as_json: AsJson = False,
) -> None:
    """Cycles of a curve: energy, secant stiffness, equivalent viscous damping."""
    from ironstone.engine.curves import curve_answers

    answer = curve_answers.loops_answer(_curve(curve, x, y), start, prominence)

    def text() -> str:
        unit, stiff = answer["energy_unit"] or "", answer["stiffness_unit"] or ""
        lines = [
            f"cycle {i}: energy {value_text(c['energy'], unit)}, secant {value_text(c['secant_stiffness'], stiff)}, "
            f"damping {value_text(c['damping_ratio'])}{'' if c['closed'] else ', open'}"
            for i, c in enumerate(answer["cycles"], start=1)
        ]
        lines.append(f"all cycles: energy {value_text(answer['energy_total'], unit)}")
        return "\n".join(lines + [f"  ! {n}" for n in answer["notes"]])

    show(answer, as_json, text)


@app.command("match")
@guarded
def match_command(
    model: Annotated[Path, typer.Argument(help="CSV of the model's curve.")],
    test: Annotated[Path, typer.Argument(help="CSV of the test record.")],
    x: Annotated[str, typer.Option("--x", help="Column of the driver, in both files.")],
    y: Annotated[str, typer.Option("--y", help="Column of the force, in both files.")],
    test_x: Annotated[str | None, typer.Option(help="Column of the driver in the test, where it differs.")] = None,
    test_y: Annotated[str | None, typer.Option(help="Column of the force in the test, where it differs.")] = None,
    x_unit: Annotated[str | None, typer.Option(help="Unit of the test's driver, where its file states none.")] = None,
    y_unit: Annotated[str | None, typer.Option(help="Unit of the test's force, where its file states none.")] = None,
    sign: Annotated[int, typer.Option(help="-1 turns the test's force.")] = 1,
    zero: Annotated[float, typer.Option(help="Taken off the test's force, in its own unit.")] = 0.0,
    scale: Annotated[float, typer.Option(help="Factor on the test's force.")] = 1.0,
    smooth: Annotated[int, typer.Option(help="Moving mean of the test's force over so many samples.")] = 1,
    x_sign: Annotated[int, typer.Option(help="-1 turns the test's driver.")] = 1,
    x_zero: Annotated[float, typer.Option(help="Taken off the test's driver, in its own unit.")] = 0.0,
    force_limit: Annotated[float, typer.Option(help="Accepted share on forces.")] = 0.10,
    stiffness_limit: Annotated[float, typer.Option(help="Accepted share on stiffness.")] = 0.10,
    energy_limit: Annotated[float, typer.Option(help="Accepted share on energy.")] = 0.12,
    deviation_limit: Annotated[float, typer.Option(help="Accepted RMS deviation, of the test's largest value.")] = 0.10,
    prominence: Prominence = None,
    as_json: AsJson = False,
) -> None:
    """Hold a model's curve against a test record. The exit status is 0 whatever the verdict."""
    from ironstone.core.curves.agreement import Correction, Limits
    from ironstone.core.curves.curves import Curve
    from ironstone.core.curves.match import match
    from ironstone.engine.curves import curve_answers

    mine = _curve(model, x, y)
    theirs = _curve(test, test_x or x, test_y or y)
    on_x = Correction(test_x or x, x_sign, 1.0, x_zero, 1)
    on_y = Correction(test_y or y, sign, scale, zero, smooth)
    units = (theirs.x_unit if x_unit is None else x_unit, theirs.y_unit if y_unit is None else y_unit)
    corrected = Curve(on_x(theirs.x), on_y(theirs.y), *units, theirs.x_label, theirs.y_label)
    said = (*on_x.words(units[0]), *on_y.words(units[1]))
    limits = Limits(force_limit, stiffness_limit, energy_limit, deviation_limit)
    answer = curve_answers.match_answer(match(mine, corrected, limits, said, prominence))

    def text() -> str:
        lines = [answer["verdict"]]
        for m in answer["metrics"].values():
            if "ratio" in m:
                lines.append(f"  {m['label']}: model {value_text(m['model'], m['unit'])}, test {value_text(m['test'], m['unit'])}, "
                             f"ratio {value_text(m['ratio'])}")  # fmt: skip
            else:
                lines.append(f"  {m['label']}: {value_text(m['value'], m['unit'])}")
        return "\n".join(lines + [f"  done to the record: {c}" for c in said] + [f"  ! {n}" for n in answer["notes"]])

    show(answer, as_json, text)
