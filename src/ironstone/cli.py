"""The command line: the same engine without a window. Errors go to standard error with exit status 2, never a traceback."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import numpy as np
import typer
from numpy.typing import NDArray

import ironstone.cli_asked  # noqa: F401  (its commands register themselves)
from ironstone.cli_base import AsJson, ResultName, ReviewFile, StepChoice, app, guarded, show
from ironstone.core.agreement import Correction, Limits
from ironstone.core.averaging import FOLD
from ironstone.core.axes import three_points
from ironstone.core.curves import Curve
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.match import match
from ironstone.core.reading import Reading, plane_of
from ironstone.engine import answers
from ironstone.engine.steps import find_step
from ironstone.formats import end_ahead, start_ahead
from ironstone.formats.out import SINGLE_STEP
from ironstone.formats.tables import read_table, write_table
from ironstone.store import Review, intake
from ironstone.store.damage import check
from ironstone.store.describe import contents
from ironstone.store.export import export


def _value(value: float | None, unit: str | None = "") -> str:
    return "no value" if value is None else f"{value:.6g} {unit or ''}".rstrip()


@app.command("intake")
@guarded
def intake_command(
    review: ReviewFile,
    files: Annotated[list[Path], typer.Argument(help="One result file, or a numbered series.")],
    name: Annotated[str | None, typer.Option(help="Name of the result.")] = None,
    units: Annotated[str | None, typer.Option(help="Unit system, such as mm-N-s-t-MPa.")] = None,
    as_json: AsJson = False,
) -> None:
    """Take result files into a review (made when it is not there)."""
    for path in files:
        if not path.is_file():
            raise NotFound(f"There is no file {path.name}.", "Check the name and the folder.")
    start_ahead()
    fresh = not review.exists()
    opened = Review.create(review) if fresh else Review.open(review)
    try:
        with opened:
            result = opened.result(intake(opened, files, name, units))
            answer = {"results": [contents(result)]}
    except IronstoneError:
        if fresh:
            for leftover in (review, *(review.with_name(review.name + end) for end in ("-wal", "-shm"))):
                leftover.unlink(missing_ok=True)
        raise
    finally:
        end_ahead()
    show(answer, as_json, lambda: describe(answer))


def describe(answer: dict[str, Any]) -> str:
    lines = []
    for r in answer["results"]:
        lines.append(f"{r['name']}: {r['nodes']} nodes ({r['welding']}), {r['elements']} elements, {len(r['steps'])} steps")
        lines.append(f"  units {r['system']}{' (guessed)' if r['system_guessed'] else ''}")
        lines += [f"  part {p['name']}: {p['elements']} elements" for p in r["parts"]]
        lines += [f"  set {s['name']}: {s['count']} {s['of']}{', ' + s['held'] if s['held'] else ''}" for s in r["sets"]]
        for f in r["fields"]:
            mark = " (guessed)" if f["guessed"] else ""
            lines.append(f"  field {f['name']}: {f['kind'] or 'kind not known'}{mark}, {f['rank']} per {f['location']}, "
                         f"{f['unit'] or 'pure number'}, {f['precision']} precision"
                         f"{', recovered: ' + f['recovered'] if f['recovered'] else ''}")  # fmt: skip
        lines += [f"  ! {w}" for w in r["warnings"]]
    return "\n".join(lines)


@app.command("contents")
@guarded
def contents_command(review: ReviewFile, as_json: AsJson = False) -> None:
    """Say what is inside a review."""
    with Review.open(review) as opened:
        answer = {"results": [contents(r) for r in opened.results()]}
    show(answer, as_json, lambda: describe(answer))


@app.command("check")
@guarded
def check_command(review: ReviewFile, as_json: AsJson = False) -> None:
    """Compare all a review holds with its checksums: what is lost, and how to get it back. Exit status 1 where something is."""
    with Review.open(review) as opened:
        answer = check(opened)
    show(answer, as_json, lambda: told_of_check(answer))
    if not answer["whole"]:
        raise typer.Exit(1)


def told_of_check(answer: dict[str, Any]) -> str:
    lines = []
    for r in answer["results"]:
        lines.append(f"{r['name']}: {r['arrays']} arrays, {'damaged' if r['lost'] else 'all as they were stored'}")
        lines += [f"  lost: {what}" for what in r["lost"]]
        lines += [f"  to get it back, {r['way_back']}"] if r["lost"] else []
    lines += [f"the file itself: {said}" for said in answer["structure"]]
    lines.append("The review is whole." if answer["whole"] else "The rest of the review can be read.")
    return "\n".join(lines)


@app.command("discard")
@guarded
def discard_command(
    review: ReviewFile, result: Annotated[str, typer.Argument(help="Name of the result.")], as_json: AsJson = False
) -> None:
    """Remove a result for good and give its space back to the disk. This cannot be undone."""
    with Review.open(review) as opened:
        freed = opened.discard(result)
    show({"result": result, "bytes": freed}, as_json, lambda: f"{result} is removed; {freed / 1e6:.1f} MB given back.")


FieldName = Annotated[str, typer.Option("--field", help="Name of the field.")]
MeasureName = Annotated[str, typer.Option("--measure", help="von-mises, principal-1, xx, hoop, magnitude, ...")]
AveragingName = Annotated[str, typer.Option("--averaging", help="off, element, part, material or all.")]
OrderName = Annotated[str, typer.Option("--order", help="What is averaged first: components or measure.")]
UnitName = Annotated[str | None, typer.Option("--unit", help="Unit of the answer.")]
AxesName = Annotated[str, typer.Option("--axes", help="global, element, material, or axes kept with the result.")]
PlaneNormal = Annotated[str | None, typer.Option("--plane", help="Normal of the plane for a traction: X,Y,Z in the axes.")]
WeightName = Annotated[str, typer.Option("--weight", help="What counts in a mean at a node: plain, or by volume.")]
FoldLimit = Annotated[float, typer.Option("--fold", help="Degrees above which shells are not averaged across a fold.")]
OfName = Annotated[str, typer.Option(help="value, jump, jump-within-material (between elements at a node), or error.")]
OverName = Annotated[str, typer.Option(help="step, or largest, smallest, magnitude over many steps.")]
SpanName = Annotated[str, typer.Option(help="Which steps: all, so-far (up to --step), or A:B counted from 0.")]
WhenChoice = Annotated[bool, typer.Option("--when", help="The step at which, in place of the value.")]
AgainstWords = Annotated[str | None, typer.Option(help="Take off the same with some words changed: 'step=0;averaging=all'.")]
Region = Annotated[str, typer.Option("--region", help="all, part:NAME, material:NAME or set:NAME.")]


@app.command("state")
@guarded
def state_command(
    review: ReviewFile,
    units: Annotated[str | None, typer.Option(help="Unit system, such as mm-N-s-t-MPa.")] = None,
    model: Annotated[
        str | None, typer.Option(help="Of a planar model: plane stress, plane strain, axisymmetric (x the radius).")
    ] = None,
    field: Annotated[str | None, typer.Option(help="The field whose entry is corrected by the next five.")] = None,
    kind: Annotated[str | None, typer.Option(help="stress, strain, displacement, ...")] = None,
    order: Annotated[str | None, typer.Option(help="Components in the file's order, such as xx,yy,zz,xy,xz,yz.")] = None,
    shear: Annotated[str | None, typer.Option(help="tensor or engineering.")] = None,
    averaged_before: Annotated[bool | None, typer.Option(help="Whether node values were averaged before import.")] = None,
    unit: Annotated[str | None, typer.Option(help="The field's own unit.")] = None,
    material: Annotated[str | None, typer.Option(help="The material (or part) whose constants are stated.")] = None,
    young: Annotated[float | None, typer.Option(help="Young's modulus in the result's stress unit.")] = None,
    poisson: Annotated[float | None, typer.Option(help="Poisson's ratio.")] = None,
    axes: Annotated[str | None, typer.Option(help="Name of axes to keep, by three points.")] = None,
    axes_kind: Annotated[str, typer.Option(help="cartesian, cylindrical or spherical.")] = "cylindrical",
    origin: Annotated[str, typer.Option(help="Origin of the axes, X,Y,Z.")] = "0,0,0",
    third: Annotated[str, typer.Option(help="A point in the third direction (the axis of cylindrical axes).")] = "0,0,1",
    first: Annotated[str, typer.Option(help="A point in the first direction.")] = "1,0,0",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """State what the files do not say: units, fields, materials, axes. Nothing stored is changed, and all can be undone."""
    with Review.open(review) as opened:
        chosen = opened.result(result).id
        if units is not None:
            opened.set_units(chosen, units)
        if model is not None:
            opened.set_model(chosen, model)
        given: dict[str, Any] = {
            "kind": kind,
            "order": order.replace(" ", "").split(",") if order is not None else None,
            "shear": shear,
            "averaged_before": averaged_before,
            "unit": unit,
        }
        entry = {name: value for name, value in given.items() if value is not None}
        if entry:
            if field is None:
                raise NotFound("No field was named.", "Add --field.")
            opened.correct_field(chosen, field, entry)
        if material is not None:
            opened.set_constants(chosen, material, young, poisson)
        if axes is not None:
            opened.set_axes(chosen, three_points(axes, axes_kind, *(point_of(p) for p in (origin, third, first))))
        answer = {"results": [contents(opened.result(chosen))]}
    show(answer, as_json, lambda: describe(answer))


def point_of(text: str) -> NDArray[np.float64]:
    """A point from 'X,Y,Z'."""
    try:
        x, y, z = (float(v) for v in text.split(","))
    except ValueError as error:
        raise NotFound(f"'{text}' is not a point.", "Write three numbers, like 0,0,1.") from error
    return np.array([x, y, z])


@app.command("export")
@guarded
def export_command(
    review: ReviewFile,
    file: Annotated[Path, typer.Argument(help="Where to: NAME.vtu (one step), NAME.vtkhdf or NAME.uff.")],
    step: Annotated[str | None, typer.Option(help="One step; all where not given, the last for VTU.")] = None,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Write a result as a file again, and say what its format cannot carry."""
    with Review.open(review) as opened:
        source = opened.result(result)
        if step is None and file.suffix.lower() not in SINGLE_STEP:
            steps = range(len(source.steps))
        else:
            index = find_step(source, step or "last")
            steps = range(index, index + 1)
        lost = export(source, file, steps)
    answer = {"file": file.name, "steps": len(steps), "not_carried": lost}
    show(answer, as_json, lambda: "\n".join([f"{file.name}: {len(steps)} steps", *(f"  ! not carried: {w}" for w in lost)]))


@app.command("read")
@guarded
def read_command(
    review: ReviewFile,
    field: FieldName,
    measure: MeasureName = "",
    averaging: AveragingName = "off",
    order: OrderName = "components",
    of: OfName = "value",
    at: Annotated[str | None, typer.Option(help="node:ID, element:ID, gauss:ELEMENT[:POINT], point:X,Y,Z or set:NAME.")] = None,
    extremes: Annotated[bool, typer.Option("--extremes", help="Lowest and highest over the model.")] = False,
    unit: UnitName = None,
    step: StepChoice = "last",
    axes: AxesName = "global",
    plane: PlaneNormal = None,
    weight: WeightName = "plain",
    fold: FoldLimit = FOLD,
    region: Region = "all",
    over: OverName = "step",
    span: SpanName = "all",
    when: WhenChoice = False,
    against: AgainstWords = None,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Read a field at a place, or its extremes."""
    with Review.open(review) as opened:
        source = opened.result(result)
        reading = Reading(
            field, measure, averaging, order, find_step(source, step), region, unit, of, axes, plane_of(plane) if plane else None,
            weight, fold, over, span, when,
        )  # fmt: skip
        if against is not None:
            reading = reading.minus(against)
        answer = answers.read(reading, source, at, extremes)

    def text() -> str:
        lines = [answer["sentence"]]
        for v in answer["values"]:
            where = ", ".join(f"{k} {v[k]}" for k in ("node", "element", "part") if v[k] is not None)
            along = f", along {', '.join(f'{c:.3f}' for c in v['direction'])}" if "direction" in v else ""
            lines.append(f"  {_value(v['value'], answer['unit'])}  ({where}{along})")
        if "error_total" in answer:
            lines.append(f"  in total {_value(answer['error_total'])} of the energy norm")
        if "jump" in answer:
            lines.append(f"  jump {_value(answer['jump'], answer['unit'])}")
        for end in ("min", "max"):
            if answer[end]:
                e = answer[end]
                lines.append(f"  {end} {_value(e['value'], answer['unit'])} at node {e['node']}, element {e['element']}")
        return "\n".join(lines + [f"  ! {c}" for c in answer["caveats"]])

    show(answer, as_json, text)


@app.command("trace")
@guarded
def trace_command(
    review: ReviewFile,
    field: FieldName,
    at: Annotated[str, typer.Option(help="node:ID, element:ID, gauss:ELEMENT:POINT, point:X,Y,Z or set:NAME.")],
    measure: MeasureName = "",
    reduce: Annotated[str | None, typer.Option(help="Of a set: sum, mean, max or min.")] = None,
    averaging: AveragingName = "off",
    order: OrderName = "components",
    unit: UnitName = None,
    sign: Annotated[int, typer.Option(help="1, or -1 to reverse the sign.")] = 1,
    axes: AxesName = "global",
    plane: PlaneNormal = None,
    weight: WeightName = "plain",
    fold: FoldLimit = FOLD,
    region: Region = "all",
    of: OfName = "value",
    over: OverName = "step",
    span: SpanName = "all",
    when: WhenChoice = False,
    against: AgainstWords = None,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Follow a reading through the steps."""
    with Review.open(review) as opened:
        source = opened.result(result)
        reading = Reading(
            field, measure, averaging, order, 0, region, unit, of, axes, plane_of(plane) if plane else None,
            weight, fold, over, span, when,
        )  # fmt: skip
        if against is not None:
            reading = reading.minus(against)
        curve, sentence, caveats = answers.trace_curve(reading, source, at, reduce, sign)
        caveats = [*caveats, *answers.few_steps(source, curve.y)]
    answer = {
        "sentence": sentence,
        "unit": curve.y_unit,
        "x_unit": curve.x_unit,
        "x_kind": curve.x_label,
        "x": curve.x.tolist(),
        "y": [answers.number(v) for v in curve.y],
        "caveats": caveats,
    }

    def text() -> str:
        for caveat in [sentence, *caveats]:
            typer.echo(f"# {caveat}", err=True)
        return write_table((curve.x_label, field), (curve.x_unit, curve.y_unit), (curve.x, curve.y)).rstrip()

    show(answer, as_json, text)


@app.command("balance")
@guarded
def balance_command(
    review: ReviewFile,
    about: Annotated[str | None, typer.Option(help="Point the moments are about, X,Y,Z; the middle where not given.")] = None,
    deformed: Annotated[bool, typer.Option("--deformed", help="Moments on the deformed shape.")] = False,
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Applied force against reaction, over the model and set by set."""
    with Review.open(review) as opened:
        source = opened.result(result)
        point = None if about is None else point_of(about)
        answer = answers.balance_answer(source, find_step(source, step), point, deformed)

    def text() -> str:
        force, moment = answer["force_unit"], answer["moment_unit"]

        def row(name: str, r: dict[str, Any]) -> str:
            shown = (" ".join(f"{v:12.5g}" for v in r[what]) + f" {unit}" for what, unit in (("force", force), ("moment", moment)))
            return f"  {name:<20s} " + "   ".join(shown)

        lines = [f"{answer['verdict']}: about ({', '.join(f'{v:g}' for v in answer['about'])})"]
        lines += [row(k, answer[k]) for k in ("applied", "reaction", "residual")]
        lines += [row(f"{s['name']}, {s['held']}", s["reaction"]) for s in answer["sets"]]
        for s in answer["sets"]:
            if s["held"] != "held":
                lines.append(f"  ! the set '{s['name']}' is {s['held']}: a reaction there is not that of a support")
        return "\n".join(lines + [f"  ! {n}" for n in answer["notes"]])

    show(answer, as_json, text)


Prominence = Annotated[
    float | None,
    typer.Option(help="Share of the driver's range it comes back to have turned; else found from its noise."),
]


def _curve(path: Path, x: str, y: str) -> Curve:
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
    answer = answers.loops_answer(_curve(curve, x, y), start, prominence)

    def text() -> str:
        unit, stiff = answer["energy_unit"] or "", answer["stiffness_unit"] or ""
        lines = [
            f"cycle {i}: energy {_value(c['energy'], unit)}, secant {_value(c['secant_stiffness'], stiff)}, "
            f"damping {_value(c['damping_ratio'])}{'' if c['closed'] else ', open'}"
            for i, c in enumerate(answer["cycles"], start=1)
        ]
        lines.append(f"all cycles: energy {_value(answer['energy_total'], unit)}")
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
    mine = _curve(model, x, y)
    theirs = _curve(test, test_x or x, test_y or y)
    on_x = Correction(test_x or x, x_sign, 1.0, x_zero, 1)
    on_y = Correction(test_y or y, sign, scale, zero, smooth)
    units = (theirs.x_unit if x_unit is None else x_unit, theirs.y_unit if y_unit is None else y_unit)
    corrected = Curve(on_x(theirs.x), on_y(theirs.y), *units, theirs.x_label, theirs.y_label)
    said = (*on_x.words(units[0]), *on_y.words(units[1]))
    limits = Limits(force_limit, stiffness_limit, energy_limit, deviation_limit)
    answer = answers.match_answer(match(mine, corrected, limits, said, prominence))

    def text() -> str:
        lines = [answer["verdict"]]
        for m in answer["metrics"].values():
            if "ratio" in m:
                lines.append(f"  {m['label']}: model {_value(m['model'], m['unit'])}, test {_value(m['test'], m['unit'])}, "
                             f"ratio {_value(m['ratio'])}")  # fmt: skip
            else:
                lines.append(f"  {m['label']}: {_value(m['value'], m['unit'])}")
        return "\n".join(lines + [f"  done to the record: {c}" for c in said] + [f"  ! {n}" for n in answer["notes"]])

    show(answer, as_json, text)


@app.command("serve")
@guarded
def serve_command(
    review: ReviewFile,
    port: Annotated[int, typer.Option(help="Port on 127.0.0.1.")] = 8737,
) -> None:
    """Open the bench on a review (made when it is not there), at http://127.0.0.1:PORT."""
    from ironstone.service.run import serve

    serve(review, port)


@app.command("demo")
@guarded
def demo_command(
    review: Annotated[Path, typer.Option(help="Where the demo's review is kept.")] = Path("demo/review/brake_flexure.ironstone"),
    data: Annotated[Path, typer.Option(help="The demo's result files.")] = Path("demo/data/flexure"),
    port: Annotated[int, typer.Option(help="Port on 127.0.0.1.")] = 8737,
    fresh: Annotated[bool, typer.Option("--fresh", help="Forget what was done to the demo's review.")] = False,
    prepare: Annotated[bool, typer.Option("--prepare", help="Make the review and stop.")] = False,
) -> None:
    """Open the bench on the brake flexure of the Ironstone Ridge ropeway."""
    from ironstone.demo_review import make
    from ironstone.service.run import serve

    make(review, data, fresh)
    if not prepare:
        serve(review, port)


def main() -> None:
    """The entry point."""
    app()


if __name__ == "__main__":
    main()
