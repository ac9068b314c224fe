"""Commands on a review: taking results in, what is inside, what is stated of them, checking, leaving."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from ironstone.cli.base import AsJson, ResultName, ReviewFile, app, bytes_of, guarded, named_numbers, open_review, point_of, show
from ironstone.cli.progress import Progress
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.field.constants import CONSTANTS
from ironstone.core.field.loadings import computed


@app.command("intake")
@guarded
def intake_command(
    review: ReviewFile,
    files: Annotated[list[Path], typer.Argument(help="One result file, or a numbered series.")],
    name: Annotated[str | None, typer.Option(help="Name of the result.")] = None,
    units: Annotated[str | None, typer.Option(help="Unit system, such as mm-N-s-t-MPa.")] = None,
    role: Annotated[
        list[str] | None,
        typer.Option(help="NAME=ROLE: what files chosen together are: body, added, steps, places, along or own."),
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Take result files into a review (made when it is not there)."""
    from ironstone.engine.together import take_in
    from ironstone.formats import end_ahead, start_ahead
    from ironstone.store import Review
    from ironstone.store.describe import whole_contents

    for path in files:
        if not path.is_file():
            raise NotFound(f"There is no file {path.name}.", "Check the name and the folder.")
    start_ahead()
    fresh = not review.exists()
    opened = Review.create(review) if fresh else open_review(review)
    try:
        with opened:
            made = take_in(opened, files, name, units, Progress().share, roles=dict(_role(r) for r in role or []))
            answer = {"results": [whole_contents(opened, number) for number in made]}
    except IronstoneError:
        if fresh:
            for leftover in (review, *(review.with_name(review.name + end) for end in ("-wal", "-shm"))):
                leftover.unlink(missing_ok=True)
        raise
    finally:
        end_ahead()
    show(answer, as_json, lambda: describe(answer))


def _role(text: str) -> tuple[str, str]:
    name, sign, role = text.rpartition("=")
    if not sign:
        raise IronstoneError(f"'{text}' states no role.", "Write NAME=ROLE, like --role crack=along.")
    return name, role


def describe(answer: dict[str, Any]) -> str:
    lines = []
    for r in answer["results"]:
        lines.append(f"{r['name']}: {r['nodes']} nodes ({r['welding']}), {r['elements']} elements, {len(r['steps'])} steps")
        lines.append(f"  units {r['system']}{' (guessed)' if r['system_guessed'] else ''}")
        lines += [
            f"  {p['name'] if p['name'].startswith('part ') else 'part ' + p['name']}: {p['elements']} elements" for p in r["parts"]
        ]
        lines += [f"  set {s['name']}: {s['count']} {s['of']}{', ' + s['held'] if s['held'] else ''}" for s in r["sets"]]
        for f in r["fields"]:
            mark = " (guessed)" if f["guessed"] else ""
            lines.append(f"  field {f['name']}: {f['kind'] or 'kind not known'}{mark}, {f['rank']} per {f['location']}, "
                         f"{f['unit'] or 'pure number'}, {f['precision']} precision"
                         f"{', recovered: ' + f['recovered'] if f['recovered'] else ''}")  # fmt: skip
            lines += [f"    {note}" for note in f["notes"]]
        lines += [f"  whole numbers {n['name']}: {n['entry']['label']} ({n['entry']['state']})" for n in r["whole_numbers"]]
        lines += [f"  ? {d['said']} {d['why']}" for d in r["doubts"]]
        lines += [f"  ! {w}" for w in r["warnings"]]
    return "\n".join(lines)


@app.command("contents")
@guarded
def contents_command(review: ReviewFile, as_json: AsJson = False) -> None:
    """Say what is inside a review."""
    from ironstone.store.describe import whole_contents

    with open_review(review) as opened:
        answer = {"results": [whole_contents(opened, r.id) for r in opened.results()]}
    show(answer, as_json, lambda: describe(answer))


@app.command("check")
@guarded
def check_command(review: ReviewFile, as_json: AsJson = False) -> None:
    """Compare all a review holds with its checksums: what is lost, and how to get it back. Exit status 1 where something is."""
    from ironstone.store.damage import check

    with open_review(review) as opened:
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
    lines += answer["made"]
    lines.append("The review is whole." if answer["whole"] else "The rest of the review can be read.")
    return "\n".join(lines)


@app.command("discard")
@guarded
def discard_command(
    review: ReviewFile,
    result: Annotated[str | None, typer.Argument(help="Name of the result.")] = None,
    removed: Annotated[
        bool, typer.Option("--removed", help="All that was removed: results, exhibits, records, flags, curves.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Remove a result, or all that was removed already, for good, and give the space back to the disk. This cannot be undone."""
    from ironstone.store.discarding import discard_removed

    if (result is None) != removed:
        raise NotFound("What is to go was not said.", "Name a result, or add --removed.")
    with open_review(review) as opened:
        freed = discard_removed(opened) if result is None else opened.discard(result)
    what = result or "All that was removed"
    show({"result": result, "bytes": freed}, as_json, lambda: f"{what} is removed for good; {freed / 1e6:.1f} MB given back.")


@app.command("state")
@guarded
def state_command(
    review: ReviewFile,
    units: Annotated[str | None, typer.Option(help="Unit system, such as mm-N-s-t-MPa.")] = None,
    model: Annotated[
        str | None, typer.Option(help="Of a planar model: plane stress, plane strain, axisymmetric (x the radius).")
    ] = None,
    steps: Annotated[
        str | None, typer.Option(help="What the steps are: time, load factor, frequency, mode, number; '' as the files say.")
    ] = None,
    values: Annotated[
        str, typer.Option(help="With --steps: a value a step (0,0.5,1), first and increment (0:0.1), or names (of the files).")
    ] = "0:1",
    combination: Annotated[
        list[str] | None, typer.Option(help="NAME=STEP:FACTOR,STEP:FACTOR: a step made of others; several times.")
    ] = None,
    combinations: Annotated[
        Path | None, typer.Option(help="A table of factors: a header with the steps, a row a combination (CSV, XLSX).")
    ] = None,
    no_combination: Annotated[str | None, typer.Option(help="A combination that is taken away.")] = None,
    rigid: Annotated[list[str] | None, typer.Option(help="A part that is a rigid body: it has no stress; several times.")] = None,
    gives: Annotated[list[str] | None, typer.Option(help="A part that is no rigid body after all.")] = None,
    cost: Annotated[list[str] | None, typer.Option(help="What the run took: 'time [s]=340', 'memory [MB]=900'.")] = None,
    field: Annotated[str | None, typer.Option(help="The field whose entry is corrected by the next nine.")] = None,
    kind: Annotated[str | None, typer.Option(help="stress, strain, displacement, ...")] = None,
    order: Annotated[str | None, typer.Option(help="Components in the file's order, such as xx,yy,zz,xy,xz,yz.")] = None,
    shear: Annotated[str | None, typer.Option(help="tensor or engineering.")] = None,
    averaged_before: Annotated[bool | None, typer.Option(help="Whether node values were averaged before import.")] = None,
    columns: Annotated[
        str | None, typer.Option(help="What several sets of components are: Gauss points, layers, layers with bottom, top.")
    ] = None,
    points_order: Annotated[
        str | None,
        typer.Option(help="How Gauss points are listed: 'last coordinate fastest', 'as the nodes are numbered', or 1,2,4,3."),
    ] = None,
    role: Annotated[
        str | None, typer.Option(help="What whole numbers are: parts, materials, set, names, numbers, 'not used'.")
    ] = None,
    layout: Annotated[
        str | None, typer.Option(help="What three or four columns of a tensor are, such as 'xx, xy, yx, yy'.")
    ] = None,
    surface_axes: Annotated[
        str | None, typer.Option(help="The axes in the surface that a shell's field is told in, such as 'first edge'.")
    ] = None,
    unit: Annotated[str | None, typer.Option(help="The field's own unit.")] = None,
    material: Annotated[str | None, typer.Option(help="The material (or part) whose constants are stated.")] = None,
    young: Annotated[float | None, typer.Option(help="Young's modulus, the same as --constant young=VALUE.")] = None,
    poisson: Annotated[float | None, typer.Option(help="Poisson's ratio, the same as --constant poisson=VALUE.")] = None,
    constant: Annotated[
        list[str] | None, typer.Option(help=f"NAME=VALUE in the result's units, several times: {', '.join(CONSTANTS)}.")
    ] = None,
    laminates: Annotated[
        Path | None, typer.Option(help="The laminates of shells: JSON, or a table of materials, then one of plies.")
    ] = None,
    axes: Annotated[str | None, typer.Option(help="Name of axes to keep, by three points.")] = None,
    axes_kind: Annotated[str, typer.Option(help="cartesian, cylindrical or spherical.")] = "cylindrical",
    origin: Annotated[str, typer.Option(help="Origin of the axes, X,Y,Z.")] = "0,0,0",
    third: Annotated[str, typer.Option(help="A point in the third direction (the axis of cylindrical axes).")] = "0,0,1",
    first: Annotated[str, typer.Option(help="A point in the first direction.")] = "1,0,0",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """State what the files do not say: units, fields, materials, axes. Nothing stored is changed, and all can be undone."""
    from ironstone.core.field.axes import three_points
    from ironstone.core.field.combined import combination_of
    from ironstone.engine.compare.combinations import read_combinations
    from ironstone.engine.strength.stacks import bring_laminates
    from ironstone.store.describe import whole_contents

    with open_review(review) as opened:
        chosen = opened.result(result).id
        if units is not None:
            opened.set_units(chosen, units)
        made = [combination_of(text) for text in combination or ()]
        if combinations is not None:
            made += read_combinations(combinations.read_bytes(), combinations.name, opened.result(chosen))
        if made:
            opened.set_combinations(chosen, made)
        for part in rigid or ():
            opened.set_rigid(chosen, part, True)
        for part in gives or ():
            opened.set_rigid(chosen, part, False)
        for name, value in named_numbers(cost or []).items():
            opened.set_cost(chosen, name, value)
        if no_combination is not None:
            opened.remove_combination(chosen, no_combination)
        if model is not None:
            opened.set_model(chosen, model)
        if steps is not None:
            opened.set_steps(chosen, steps, values)
        given: dict[str, Any] = {
            "kind": kind,
            "order": order,
            "shear": shear,
            "averaged_before": None if averaged_before is None else "yes" if averaged_before else "no",
            "columns": columns,
            "points_order": points_order,
            "layout": layout,
            "role": role,
            "surface_axes": surface_axes,
            "unit": unit,
        }
        entry = {name: value for name, value in given.items() if value is not None}
        if entry:
            if field is None:
                raise NotFound("No field was named.", "Add --field.")
            opened.correct_fields(chosen, [field], entry)
        if material is not None:
            both = {"young": young, "poisson": poisson}
            opened.set_constants(chosen, material, {n: v for n, v in both.items() if v is not None} | named_numbers(constant or []))
        if laminates is not None:
            bring_laminates(opened, chosen, bytes_of(laminates), laminates.name)
        if axes is not None:
            opened.set_axes(chosen, three_points(axes, axes_kind, *(point_of(p) for p in (origin, third, first))))
        answer = {"results": [whole_contents(opened, chosen)]}
    show(answer, as_json, lambda: describe(answer))


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
    from ironstone.engine.steps import find_step
    from ironstone.formats.out import SINGLE_STEP
    from ironstone.store.export import export

    with open_review(review) as opened:
        source = opened.result(result)
        if step is None and file.suffix.lower() not in SINGLE_STEP:
            steps = computed(source.steps)
        else:
            index = find_step(source, step or "last")
            steps = range(index, index + 1)
        lost = export(source, file, steps)
    answer = {"file": file.name, "steps": len(steps), "not_carried": lost}
    show(answer, as_json, lambda: "\n".join([f"{file.name}: {len(steps)} steps", *(f"  ! not carried: {w}" for w in lost)]))


@app.command("copy")
@guarded
def copy_command(
    review: ReviewFile,
    file: Annotated[Path | None, typer.Argument(help="The copy, a file that is not there yet; none: its sizes are told.")] = None,
    lean: Annotated[bool, typer.Option("--lean", help="Without meshes and values: exhibits, records and notes alone.")] = False,
    as_json: AsJson = False,
) -> None:
    """Copy a review to be shared, whole or lean, with its SHA-256 beside it; without a file, say how large either would be."""
    from ironstone.store.copies import copy_review, sizes

    with open_review(review) as opened:
        found = sizes(opened)
        told: dict[str, Any] = {"whole": found.whole, "lean": found.lean}
        if file is not None:
            told = {"file": file.name, "sha256": copy_review(opened, file, lean), "bytes": file.stat().st_size}

    def text() -> str:
        if file is None:
            return f"whole copy about {found.whole / 1e6:.3g} MB, lean copy about {found.lean / 1e6:.3g} MB"
        return f"{file.name}, {told['bytes'] / 1e6:.3g} MB, SHA-256 {told['sha256']}"

    show(told, as_json, text)
