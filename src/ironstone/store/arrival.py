"""Taking results in: read in a child process, welded and classified, stored step by step, shown only once complete."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import insert, select

from ironstone.core.errors import IronstoneError
from ironstone.core.field.stacked import Stack
from ironstone.core.kinds import kind_of
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.statics.sense import mesh_warnings
from ironstone.core.units import SYSTEMS
from ironstone.formats import load, numbered_order, read_series
from ironstone.formats.registry import RawArray, RawStep, apart, reader_for
from ironstone.store import arrays
from ironstone.store.companions import places_alone
from ironstone.store.held import WithReader
from ironstone.store.joined import joined
from ironstone.store.lease import ARRIVING, leased
from ironstone.store.loads import SOUGHT, to_be_sought
from ironstone.store.mesh_rows import write_mesh
from ironstone.store.models import FieldRow, ResultRow, StepRow
from ironstone.store.naming import Given, described, given
from ironstone.store.plan import (
    Plan,
    as_field,
    divides,
    field_values,
    gaps_in_numbers,
    lay,
    look,
    mesh_of,
    precision,
    series_name,
    settle,
)
from ironstone.store.prover import Prover
from ironstone.store.review import Review
from ironstone.store.roles import NAMES
from ironstone.store.runs import gathered
from ironstone.store.runs_read import Read, Run, run_for
from ironstone.store.together import read_added, with_added
from ironstone.store.watch import Watch

Tell = Callable[[float, str], None]
Shown = Callable[[int], None]
GUESSED_SYSTEM = "mm-N-s-t-MPa"
LOG_BYTES = 32 * 1024**2


class Cancelled(IronstoneError):
    """The analyst stopped it."""


def intake(
    review: Review,
    paths: Sequence[Path],
    name: str | None = None,
    system: str | None = None,
    tell: Tell | None = None,
    shown: Shown | None = None,
    named: Callable[[], None] | None = None,
    added: Sequence[Sequence[Path]] = (),
    only: frozenset[str] | None = None,
    behind: int | None = None,
) -> int:
    """Take a numbered series of files in as one result and return its id. added: files of the same steps (or one for all of them)
    whose arrays, sets and parts are those of the body too. only: the fields that will be asked for; None: all are read. behind: the
    result it is to take the place of: until then it is not among the review's.

    ``tell(share, text)`` hears of the progress and may raise ``Cancelled``. ``shown(id)`` is called once all is read and checked,
    before it is stored: the result can be looked at from then on, and storing begins when it returns. ``named()`` is called once
    the files are named for good (SHA-256), which may be after this has returned: until then they must stay. On any error the review
    is left as it was, and nothing is named.
    """
    if not paths:
        raise IronstoneError("No file was given.", "Name one file, or a numbered series.")
    if system is not None and system not in SYSTEMS:
        raise IronstoneError(f"'{system}' is not a unit system.", f"Choose one of: {', '.join(SYSTEMS)}.")
    tell = tell or (lambda share, text: None)
    ordered = numbered_order(paths)
    repeated = [name for name, times in Counter(p.name for p in ordered).items() if times > 1]
    if repeated:
        raise IronstoneError(f"{min(repeated)} was given twice.", "Give each step's file once.")
    ordered, beside = apart(ordered)
    if not ordered:
        reader_for(beside[0])
        raise IronstoneError("These files name each other, and none of them is the first.", "Choose the one that names the others.")
    with leased(review.path.parent, ARRIVING) as scratch, ThreadPoolExecutor(1) as aside:
        sources = given([*ordered, *beside, *(path for files in added for path in files)], aside)
        runs: list[Run] = []
        stacks: dict[str, Stack] = {}
        place = {path: i for i, path in enumerate(ordered, start=1)}
        alone: list[tuple[Path, Path, RawStep]] = []
        places: RawStep | None = None

        count = 0

        def take(path: Path, stored: Path, raw: RawStep) -> None:
            nonlocal count
            run = run_for(runs, raw, count, path, ordered, stacks)
            look(run.plan, raw, len(run.read), path, run.path)
            run.doings.look(run.plan, raw, len(run.read))
            run.read.append(Read(stored, stored.stat().st_size, raw))
            run.steps.append(count)
            count += 1

        steps = read_series(ordered, scratch, only)
        more = read_added([numbered_order(files) for files in added], scratch)
        for path, stored in with_added(steps, more) if more else steps:
            raw = joined(load(stored), stacks)
            # A step on the mesh of the one before is told without it.
            places = raw if places_alone(raw) else places if raw.same_mesh else None
            if places is not None:
                alone.append((path, stored, replace(raw, points=places.points)))
            else:
                take(path, stored, raw)
            share = place[path] / len(ordered) if len(ordered) > 1 else 0.5
            tell(0.6 * share, f"read {path.name}, step {count + len(alone)}")
        if not runs:
            # Points alone, and nothing they could be laid on: they are what is looked at.
            for path, stored, raw in alone:
                take(path, stored, raw)
            alone.clear()
        if alone:
            lay(runs[0].plan, [(path.name, raw) for path, _, raw in alone])
            ordered = [path for path in ordered if path not in {path for path, _, _ in alone}]
        for run in runs:
            settle(run.plan, len(run.read))
        runs[0].plan.warnings += gaps_in_numbers(ordered)
        runs[0].plan.warnings += [one.said() for one in more]
        wanted = name or series_name(ordered)
        result_id = _stored(review, runs, count, sources, wanted, system, tell, shown, aside, scratch.name, behind)
    naming = review.naming.follow(result_id, sources)
    if behind is None:
        review.loads.follow(review.result(result_id))
    if named is not None:
        naming.add_done_callback(lambda _: named())
    return result_id


Finish = Callable[[dict[str, Any]], None]


def _stored(
    review: Review,
    runs: Sequence[Run],
    count: int,
    sources: Sequence[Given],
    name: str,
    system: str | None,
    tell: Tell,
    shown: Shown | None,
    aside: ThreadPoolExecutor,
    scratch: str,
    behind: int | None = None,
) -> int:
    """Store all runs of a result; it is there when the last one is. One whose mesh changes is looked at once it is stored."""
    first, *others = runs
    several = len(runs) > 1
    if several:
        said = f"The mesh is another one at {count - len(first.steps)} of {count} steps ({len(runs)} meshes in all)."
        first.plan.warnings.append(f"{said} Numbers of nodes and elements are those of each mesh.")
    result_id, summary, finish = _store(
        review, first, sources, name, system, tell, None if several else shown, aside, scratch, behind
    )
    try:
        parts = [(first.steps, summary)]
        told = [{"result": 0, "steps": first.steps}]
        for number, run in enumerate(others, start=2):
            own, gathered_here, done = _store(
                review, run, sources, f"{name}, mesh {number}", system, tell, None, aside, scratch, result_id
            )
            done({})
            parts.append((run.steps, gathered_here))
            told.append({"result": own, "steps": run.steps})
        finish({} if not several else {**gathered(parts, count), "runs": told})
    except BaseException:
        review.remove_result(result_id)
        raise
    return result_id


def _store(
    review: Review,
    run: Run,
    sources: Sequence[Given],
    name: str,
    system: str | None,
    tell: Tell,
    shown: Shown | None,
    aside: ThreadPoolExecutor,
    scratch: str,
    run_of: int | None = None,
) -> tuple[int, dict[str, Any], Finish]:
    """Store the steps of one mesh. Returns the row's number, what was gathered over its steps, and what makes it ready, with what
    is to be written of it besides. run_of: the result whose steps on another mesh these are."""
    plan, read, doings = run.plan, run.read, run.doings
    with review.session() as session:
        names = [*session.scalars(select(ResultRow.name)), *(i.payload["name"] for i in review.items("result"))]
    unique, count = name, 1
    while unique in names:
        count += 1
        unique = f"{name} {count}"
    timed = all(t is not None for t in plan.times)
    mesh = mesh_of(plan)
    rows = _rows(plan)
    known: dict[str, Any] = {
        "welding": plan.weld.how,
        "raw points": len(plan.first.points),
        "material names": list(mesh.material_names),
    }
    with review.session() as session:
        row = ResultRow(
            name=unique,
            system=system or GUESSED_SYSTEM,
            system_guessed=system is None,
            files=[],
            warnings=plan.warnings,
            part_names=list(mesh.part_names),
            summary={**known, "arriving in": scratch},
            run_of=run_of,
        )
        session.add(row)
        session.flush()
        result_id = row.id
    try:
        fields = _declare(review, rows, result_id)
        _time(review, run, result_id, timed)
        if shown is not None:
            _show(review, plan, read, fields, result_id, mesh)
            shown(result_id)
        if to_be_sought(mesh, [r for _, _, r in rows], bool(mesh.node_sets) or doings.loads_told):
            known[SOUGHT] = doings.step
        patches = doings.found(plan, mesh)
        found = {set_name: patch.nodes for set_name, patch in patches.items()}
        # The one that is looked at gets them once all is stored: until then others read it.
        shown_mesh, mesh = mesh, replace(mesh, node_sets={**mesh.node_sets, **found})
        known["found sets"] = {set_name: patch.how for set_name, patch in patches.items()}
        # The mesh is checked beside the storing, which waits for the disk.
        checked = aside.submit(mesh_warnings, mesh)
        watch, prover = Watch(mesh), Prover(mesh)
        # Whole numbers that say what is where are kept once.
        moving = [f for f in fields if f[2].more.get("role", NAMES) == NAMES]
        totals: dict[str, list[float | None]] = {}
        # The log is moved into the file while the next step is read, and begins anew: it stays as short as a step or two.
        settled = review.settle()
        for group in _groups([r.size for r in read]):
            settled.result()
            with review.bulk() as connection:
                for index in group:
                    raw = _raw(plan, read[index])
                    if index == 0:
                        write_mesh(connection, result_id, mesh)
                    for attribute, array, declared in fields if index == 0 else moving:
                        values = field_values(plan, attribute, getattr(raw, attribute).get(array), declared)
                        if values is not None:
                            arrays.write(connection, result_id, "field", values, declared.id, index)
                            prover.look(declared, values)
                            if not declared.more["layers"] and not declared.more["harmonic"]:
                                watch.look(index, declared.name, declared.kind, declared.location, declared.precision, values)
                    prover.step_is_over()
                    for total, number in raw.totals.items():
                        totals.setdefault(total, [None] * len(read))[index] = number if np.isfinite(number) else None
            settled = review.settle()
            for index in group:
                read[index].step = None
                read[index].stored.unlink()
            tell(0.6 + 0.4 * (group[-1] + 1) / len(read), f"stored step {group[-1] + 1} of {len(read)}")
        summary: dict[str, Any] = {
            **known,
            **watch.summary(),
            "totals": totals,
            "proved": prover.found,
            "proved points": prover.points,
        }
        shown_mesh.node_sets.update(found)
        files, changed = described(sources)
        said = plan.warnings + checked.result() + changed
    except BaseException:
        review.remove_result(result_id)
        raise
    return result_id, summary, lambda more: review.ready(result_id, unique, {**summary, **more}, said, files)


def _time(review: Review, run: Run, result_id: int, timed: bool) -> None:
    """Rows of the steps, at their places in the whole."""
    rows = [
        {"result_id": result_id, "position": at, "kind": kind if timed else "number", "loading": loading,
         "value": run.plan.times[index] if timed else float(at)}
        for index, (at, (kind, loading)) in enumerate(zip(run.steps, run.plan.moments, strict=True))
    ]  # fmt: skip
    with review.session() as session:
        session.execute(insert(StepRow), rows)


def _show(
    review: Review, plan: Plan, read: Sequence[Read], fields: list[tuple[str, str, FieldRow]], result_id: int, mesh: Mesh
) -> None:
    """Let the result be looked at from what the reader has left."""
    by_id = {row.id: (attribute, array, row) for attribute, array, row in fields}

    def get(field_id: int, step: int) -> NDArray[np.floating] | None:
        attribute, array, row = by_id[field_id]
        raw = _raw(plan, read[step])
        return field_values(plan, attribute, getattr(raw, attribute).get(array), row)

    review.show_arriving(result_id, WithReader(review, result_id, get), mesh)


def _raw(plan: Plan, one: Read) -> RawStep:
    """A step as it was read, with what lies on it."""
    return plan.companions.added_to(one.step or joined(load(one.stored), plan.stacks))


def _groups(sizes: Sequence[int]) -> list[list[int]]:
    """Steps that are stored in one transaction: as many as come to the size of the log, one at least."""
    groups: list[list[int]] = []
    size = 0
    for index, here in enumerate(sizes):
        if not groups or size + here > LOG_BYTES:
            groups.append([])
            size = 0
        groups[-1].append(index)
        size += here
    return groups


def _declare(review: Review, rows: list[tuple[str, str, FieldRow]], result_id: int) -> list[tuple[str, str, FieldRow]]:
    for _, _, row in rows:
        row.result_id = result_id
    with review.session() as session:
        session.add_all([r for _, _, r in rows])
    return rows


def _rows(plan: Plan) -> list[tuple[str, str, FieldRow]]:
    """Rows of the fields, each with where a RawStep holds its array and under which name."""
    rows: list[tuple[str, str, FieldRow]] = []
    taken: set[str] = set()
    dividing = divides(plan)
    for _, attribute, guesses in plan.guesses():
        data: dict[str, RawArray] = getattr(plan.first, attribute)
        for name, guess in guesses.items():
            shown = as_field(name, guess, data[name], dividing)
            if shown is None:
                continue
            agree = name not in plan.checks or plan.checks[name].agree
            welded = plan.weld
            at_node = (welded.shared and not welded.pieces) or (agree and (welded.pieces or kind_of(guess.kind).single_valued))
            location = {"cell_data": "gauss" if guess.points else "element", "corner_data": "corner"}.get(
                attribute, "node" if at_node else "corner"
            )
            unique = name if name not in taken else f"{name} ({'elements' if attribute == 'cell_data' else 'corners'})"
            taken.add(unique)
            row = FieldRow(
                name=unique,
                kind=shown.kind,
                rank=shown.rank,
                location=location,
                components=list(shown.components),
                precision=precision(data[name].values),
                guessed=shown.guessed,
                averaged_before=welded.shared and attribute == "point_data" and kind_of(guess.kind).smoothed,
                notes=list(shown.notes),
                more=shown.more if shown.role == "field" else {**shown.more, "role": shown.role},
            )
            rows.append((attribute, name, row))
    return rows
