"""Taking results in: read in a child process, welded and classified, stored step by step, shown only once complete."""

from __future__ import annotations

import hashlib
import re
from collections import Counter
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import insert, select

from ironstone.core.cells import CELLS
from ironstone.core.classify import BREAKS, SMOOTHED_KINDS, Guess, classify, converted, single_valued
from ironstone.core.errors import IronstoneError
from ironstone.core.gauss import known_counts
from ironstone.core.mesh import Int, Mesh
from ironstone.core.sense import mesh_warnings
from ironstone.core.units import SYSTEMS
from ironstone.core.weld import TOLERANCE, CopyCheck, Weld, weld
from ironstone.formats import load, numbered_order, read_series
from ironstone.formats.registry import RawArray, RawStep, apart, reader_for
from ironstone.store import arrays
from ironstone.store.held import WithReader
from ironstone.store.lease import ARRIVING, leased
from ironstone.store.mesh_rows import write_mesh
from ironstone.store.models import FieldRow, ResultRow, StepRow
from ironstone.store.review import Review
from ironstone.store.watch import Watch

Tell = Callable[[float, str], None]
Shown = Callable[[int], None]
GUESSED_SYSTEM = "mm-N-s-t-MPa"
LOG_BYTES = 32 * 1024**2
# Below this a step stays mapped between the two passes: to open it again would cost more than it holds.
SMALL_STEP = 2 * 1024**2


class Cancelled(IronstoneError):
    """The analyst stopped it."""


@dataclass
class _Read:
    """A step as the reader left it: in a file, and mapped from it where it is small."""

    stored: Path
    size: int
    step: RawStep | None

    def __post_init__(self) -> None:
        if self.size > SMALL_STEP:
            self.step = None


@dataclass
class _Plan:
    """What the first pass over the files settles."""

    first: RawStep
    weld: Weld
    points: dict[str, Guess]
    cells: dict[str, Guess]
    checks: dict[str, CopyCheck] = field(default_factory=dict)
    times: list[float | None] = field(default_factory=list)
    warnings: list[str] = field(default_factory=list)
    missing: dict[str, list[int]] = field(default_factory=dict)
    corners: dict[str, Guess] = field(default_factory=dict)
    moments: list[tuple[str, str]] = field(default_factory=list)

    def guesses(self) -> tuple[tuple[str, str, dict[str, Guess]], ...]:
        """Of each kind of array: where it lives in words, the attribute of a RawStep, and what its arrays were taken for."""
        return (
            ("points", "point_data", self.points),
            ("elements", "cell_data", self.cells),
            ("corners", "corner_data", self.corners),
        )


def intake(
    review: Review,
    paths: Sequence[Path],
    name: str | None = None,
    system: str | None = None,
    tell: Tell | None = None,
    shown: Shown | None = None,
) -> int:
    """Take a numbered series of files in as one result and return its id.

    ``tell(share, text)`` hears of the progress and may raise ``Cancelled``. ``shown(id)`` is called once all is read and checked,
    before it is stored: the result can be looked at from then on, and storing begins when it returns. On any error the review is
    left as it was.
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
    with leased(review.path.parent, ARRIVING) as scratch, ThreadPoolExecutor(1) as aside:
        given = [path for path in (*ordered, *beside) if path.is_file()]
        # Hashing takes a core for longer than reading: where somebody waits for a picture it comes after that.
        hash_all = partial(_hash_all, given, aside)
        digests = None if shown else hash_all()
        read: list[_Read] = []
        plan: _Plan | None = None
        place = {path: i for i, path in enumerate(ordered, start=1)}
        for path, stored in read_series(ordered, scratch):
            raw = load(stored)
            if plan is None:
                plan = _first_look(raw)
            _look(plan, raw, len(read), path, ordered[0])
            read.append(_Read(stored, stored.stat().st_size, raw))
            share = place[path] / len(ordered) if len(ordered) > 1 else 0.5
            tell(0.6 * share, f"read {path.name}, step {len(read)}")
        assert plan is not None
        _settle(plan, len(read))
        plan.warnings += _gaps_in_numbers(ordered)

        def look_first(result_id: int) -> None:
            nonlocal digests
            if shown:
                shown(result_id)
                digests = hash_all()

        def files() -> list[dict[str, Any]]:
            return [{"name": p.name, "bytes": p.stat().st_size, "sha256": d.result()} for p, d in (digests or {}).items()]

        first = look_first if shown else None
        return _store(review, plan, read, files, name or _series_name(ordered), system, tell, first, aside, scratch.name)


def _gaps_in_numbers(paths: Sequence[Path]) -> list[str]:
    """Say which files of a numbered series are not there: a step that was forgotten, or never written."""
    found = [re.findall(r"\d+", p.stem) for p in paths]
    if len(paths) < 3 or not all(found):
        return []
    numbers = [int(f[-1]) for f in found]
    strides = np.diff(numbers)
    usual = int(np.median(strides))
    if usual < 1:
        return []
    lost = [n + usual * k for n, d in zip(numbers, strides.tolist(), strict=False) if d > usual for k in range(1, -(-d // usual))]
    if not lost or len(lost) > len(numbers):
        return []
    shown = ", ".join(map(str, lost[:5])) + (" and more" if len(lost) > 5 else "")
    return [f"The files' numbers leave out {shown}: steps may be missing."]


def _series_name(paths: Sequence[Path]) -> str:
    """The name of a single file whole, as in 'le10' or 'lug_v2'; of a numbered series what its files share before the number."""
    if len(paths) == 1:
        return paths[0].stem
    stems = [p.stem for p in paths]
    shared = next((i for i, letters in enumerate(zip(*stems, strict=False)) if len(set(letters)) > 1), min(map(len, stems)))
    return stems[0][:shared].rstrip("0123456789").rstrip("_-. ") or stems[0]


def _find_ids(data: dict[str, RawArray], guesses: dict[str, Guess]) -> Int | None:
    for name, guess in guesses.items():
        if guess.role == "ids":
            return data[name].values[:, 0].astype(np.int64)
    return None


def _first_look(raw: RawStep) -> _Plan:
    counts = [set(known_counts(CELLS[t])) for t in np.flatnonzero(np.bincount(raw.types, minlength=256)).tolist()]
    gauss = frozenset(set().union(*counts))
    points = {n: classify(n, a.values, a.components, False) for n, a in raw.point_data.items()}
    cells = {n: classify(n, a.values, a.components, True, gauss) for n, a in raw.cell_data.items()}
    corners = {n: classify(n, a.values, a.components, False) for n, a in raw.corner_data.items()}
    ids = raw.node_ids if raw.node_ids is not None else _find_ids(raw.point_data, points)
    if raw.node_ids is not None:
        # The format itself has nodes: nothing is to be joined.
        welded = Weld(np.arange(len(raw.points)), len(raw.points), True, "nodes shared, numbered by the file")
    else:
        part = _partition(raw, cells)[0]
        shared = len(raw.points) > 0 and np.bincount(raw.connectivity).max(initial=0) > 1
        point_part = np.full(len(raw.points), -1, dtype=np.int64)
        if not shared:
            point_part[raw.connectivity] = np.repeat(part, np.diff(raw.offsets))
        welded = weld(np.asarray(raw.points, dtype=np.float64), raw.connectivity, point_part, ids)
    plan = _Plan(raw, welded, points, cells, corners=corners)
    for array, guess in points.items():
        if guess.role == "field" and single_valued(guess.kind) and not welded.shared:
            plan.checks[array] = CopyCheck(_precision(raw.point_data[array].values))
    plan.warnings += raw.notes
    for _, _, guesses in plan.guesses():
        plan.warnings += [note for g in guesses.values() if g.role == "ignored" for note in g.notes]
    return plan


def _precision(values: NDArray[np.generic]) -> str:
    return "single" if values.dtype == np.float32 else "double"


def _partition(raw: RawStep, cells: dict[str, Guess]) -> tuple[NDArray[np.int32], tuple[str, ...]]:
    """Part of each element and the names of the parts."""
    if raw.part is not None:
        return raw.part, raw.part_names
    for wanted in ("part", "material", ""):
        for name, guess in cells.items():
            if guess.role == "partition" and guess.kind == wanted:
                distinct, part = np.unique(raw.cell_data[name].values[:, 0], return_inverse=True)
                return part.astype(np.int32), tuple(f"{name} {v}" for v in distinct.tolist())
    return np.zeros(len(raw.types), dtype=np.int32), ("part 1",)


def _material(raw: RawStep, cells: dict[str, Guess]) -> tuple[NDArray[np.int32] | None, tuple[str, ...]]:
    """Material number of each element and the materials' names, None where the file has no such array."""
    if raw.material is not None:
        return raw.material, raw.material_names
    for name, guess in cells.items():
        if guess.role == "partition" and guess.kind == "material":
            distinct, material = np.unique(raw.cell_data[name].values[:, 0], return_inverse=True)
            return material.astype(np.int32), tuple(f"{name} {v}" for v in distinct.tolist())
    return None, ()


def _breaks(raw: RawStep) -> NDArray[np.int32] | None:
    """A number for each thickness and property that elements have, None where all have the same."""
    found = [a.values[:, 0] for n, a in raw.cell_data.items() if n.strip().lower().replace(" ", "_") in BREAKS]
    if not found:
        return None
    _, numbers = np.unique(np.stack(found, axis=1), axis=0, return_inverse=True)
    return numbers.ravel().astype(np.int32) if numbers.max(initial=0) else None


def _look(plan: _Plan, raw: RawStep, index: int, path: Path, first: Path) -> None:
    """Check one step against the first and watch the copies of its nodes."""
    if not raw.same_mesh and raw is not plan.first:
        _same_mesh(plan.first, raw, path, first)
    plan.times.append(raw.time)
    plan.moments.append((raw.kind, raw.loading))
    for where, attribute, guesses in plan.guesses():
        data: dict[str, RawArray] = getattr(raw, attribute)
        for name, array in data.items():
            if name not in guesses and index:
                # An array that begins later in the series is a field like the others, missing in the steps before.
                guesses[name] = classify(name, array.values, array.components, attribute == "cell_data")
                getattr(plan.first, attribute)[name] = array
                if guesses[name].role == "field":
                    plan.missing.setdefault(name, []).extend(range(index))
                    if attribute == "point_data" and single_valued(guesses[name].kind) and not plan.weld.shared:
                        plan.checks[name] = CopyCheck(_precision(array.values))
        for name, guess in guesses.items():
            if guess.role != "field":
                continue
            here = data.get(name)
            if here is None:
                plan.missing.setdefault(name, []).append(index)
                continue
            expected = getattr(plan.first, attribute)[name].values.shape
            if here.values.shape != expected:
                raise IronstoneError(
                    f"{path.name}: '{name}' has {here.values.shape[1]} columns on {here.values.shape[0]} {where}, "
                    f"{first.name} has {expected[1]} on {expected[0]}.",
                    "Take the files of one run in together.",
                )
            if here.values.dtype.kind == "f" and np.isinf(here.values).any():
                raise IronstoneError(f"{path.name}: '{name}' holds infinite values.", "Export the file again.")
    for name, check in plan.checks.items():
        if name not in raw.point_data:
            continue
        values = np.asarray(raw.point_data[name].values, dtype=np.float64)
        if plan.points[name].kind == "displacement" and plan.weld.how.startswith("joined by coincidence"):
            reach = float(np.abs(np.nan_to_num(values)).max(initial=0.0))
            plan.weld.split(np.nan_to_num(values), 10 * TOLERANCE[check.precision] * max(reach, 1e-300))
        check.look(index, values, plan.weld)


def _same_mesh(first: RawStep, raw: RawStep, path: Path, first_path: Path) -> None:
    def differs(what: str) -> IronstoneError:
        return IronstoneError(
            f"{path.name} holds another mesh than {first_path.name}: {what}.",
            "Take it in as a result of its own; series whose mesh changes are not read yet.",
        )

    if len(raw.types) != len(first.types):
        raise differs(f"{len(raw.types)} elements against {len(first.types)}")
    if len(raw.points) != len(first.points):
        raise differs(f"{len(raw.points)} points against {len(first.points)}")
    if not np.array_equal(raw.types, first.types) or not np.array_equal(raw.connectivity, first.connectivity):
        raise differs("its elements join other points")
    size = float(np.ptp(first.points, axis=0).max(initial=0.0))
    away = float(np.abs(raw.points.astype(np.float64) - first.points).max(initial=0.0))
    if away > 1e-5 * size:
        raise differs(f"its points lie up to {away:.3g} elsewhere")


def _settle(plan: _Plan, count: int) -> None:
    """Turn what was seen at all steps into the final place of each field, and warnings in words."""
    for name, check in plan.checks.items():
        if not check.agree:
            plan.warnings.append(
                f"'{name}' differs between copies of one node by up to {check.disagreement:.3g} "
                f"(step {check.worst_step + 1}), though a {plan.points[name].kind} has one value there: kept at the corners."
            )
    for name, steps in plan.missing.items():
        plan.warnings.append(f"'{name}' is missing in {len(steps)} of {count} steps: no value there.")
    given = [t for t in plan.times if t is not None]
    if len(given) < count and given:
        plan.warnings.append("Some files state no time: steps are counted instead.")
    if len(given) == count and len(set(plan.moments)) == 1 and (np.diff(given) < 0).any():
        plan.warnings.append("The times do not rise in the order of the file numbers: the files' order is kept.")
    if plan.weld.shared:
        smooth = [n for n, g in plan.points.items() if g.role == "field" and g.kind in SMOOTHED_KINDS]
        if smooth:
            plan.warnings.append(
                f"{', '.join(smooth)}: node values on shared nodes. They were averaged before import and cannot be un-averaged."
            )
    if not any(g.role == "field" for _, _, guesses in plan.guesses() for g in guesses.values()):
        plan.warnings.append("The files hold a mesh and no results: they were cut off, or the results are in another file.")
    elif not any(g.kind == "displacement" for g in plan.points.values()):
        plan.warnings.append("No displacement was found: the deformed shape cannot be shown.")


def _mesh(plan: _Plan) -> Mesh:
    raw, welded = plan.first, plan.weld
    part, names = _partition(raw, plan.cells)
    first = welded.first
    ids = raw.node_ids if raw.node_ids is not None else _find_ids(raw.point_data, plan.points)
    element_ids = raw.element_ids if raw.element_ids is not None else _find_ids(raw.cell_data, plan.cells)
    node_sets: dict[str, Int] = {name: np.unique(welded.label[members]) for name, members in raw.node_sets.items()}
    for name, guess in plan.points.items():
        if guess.role == "set":
            node_sets[name] = np.unique(welded.label[raw.point_data[name].values[:, 0] == 1])
    element_sets = dict(raw.element_sets) | {
        name: np.flatnonzero(raw.cell_data[name].values[:, 0] == 1) for name, g in plan.cells.items() if g.role == "set"
    }
    material, material_names = _material(raw, plan.cells)
    return Mesh(
        points=np.asarray(raw.points, dtype=np.float64)[first],
        types=raw.types,
        offsets=raw.offsets,
        connectivity=raw.connectivity if welded.straight else welded.label[raw.connectivity],
        node_ids=ids[first] if ids is not None else np.arange(len(first)),
        element_ids=element_ids if element_ids is not None else np.arange(len(raw.types)),
        part=part,
        part_names=names,
        node_sets=node_sets,
        element_sets=element_sets,
        material=material,
        material_names=material_names,
        breaks=_breaks(raw),
    )


def _store(
    review: Review,
    plan: _Plan,
    read: Sequence[_Read],
    files: Callable[[], list[dict[str, Any]]],
    name: str,
    system: str | None,
    tell: Tell,
    shown: Shown | None,
    aside: ThreadPoolExecutor,
    scratch: str,
) -> int:
    with review.session() as session:
        names = session.scalars(select(ResultRow.name)).all()
    unique, count = name, 1
    while unique in names:
        count += 1
        unique = f"{name} {count}"
    timed = all(t is not None for t in plan.times)
    mesh = _mesh(plan)
    known = {"welding": plan.weld.how, "raw points": len(plan.first.points), "material names": list(mesh.material_names)}
    with review.session() as session:
        row = ResultRow(
            name=unique,
            system=system or GUESSED_SYSTEM,
            system_guessed=system is None,
            files=[],
            warnings=plan.warnings,
            part_names=list(mesh.part_names),
            summary={**known, "arriving in": scratch},
        )
        session.add(row)
        session.flush()
        result_id = row.id
    try:
        fields = _declare(review, plan, result_id)
        _time(review, plan, result_id, timed)
        if shown is not None:
            _show(review, plan, read, fields, result_id, mesh)
            shown(result_id)
        # The mesh is checked beside the storing, which waits for the disk.
        checked = aside.submit(mesh_warnings, mesh)
        watch = Watch(mesh)
        totals: dict[str, list[float | None]] = {}
        # The log is moved into the file while the next step is read, and begins anew: it stays as short as a step or two.
        settled = review.settle()
        for group in _groups([r.size for r in read]):
            settled.result()
            with review.bulk() as connection:
                for index in group:
                    raw = read[index].step or load(read[index].stored)
                    if index == 0:
                        write_mesh(connection, result_id, mesh)
                    for attribute, array, declared in fields:
                        values = _field_values(plan, attribute, getattr(raw, attribute).get(array), declared)
                        if values is not None:
                            arrays.write(connection, result_id, "field", values, declared.id, index)
                            watch.look(index, declared.name, declared.kind, declared.location, declared.precision, values)
                    for total, number in raw.totals.items():
                        totals.setdefault(total, [None] * len(read))[index] = number if np.isfinite(number) else None
            settled = review.settle()
            for index in group:
                read[index].step = None
                read[index].stored.unlink()
            tell(0.6 + 0.4 * (group[-1] + 1) / len(read), f"stored step {group[-1] + 1} of {len(read)}")
        summary: dict[str, Any] = {**known, **watch.summary(), "totals": totals}
        review.ready(result_id, unique, summary, plan.warnings + checked.result(), files())
    except BaseException:
        review.remove_result(result_id)
        raise
    return result_id


def _time(review: Review, plan: _Plan, result_id: int, timed: bool) -> None:
    """Rows of the steps."""
    rows = [
        {"result_id": result_id, "position": index, "kind": kind if timed else "number", "loading": loading,
         "value": plan.times[index] if timed else float(index)}
        for index, (kind, loading) in enumerate(plan.moments)
    ]  # fmt: skip
    with review.session() as session:
        session.execute(insert(StepRow), rows)


def _show(
    review: Review, plan: _Plan, read: Sequence[_Read], fields: list[tuple[str, str, FieldRow]], result_id: int, mesh: Mesh
) -> None:
    """Let the result be looked at from what the reader has left."""
    by_id = {row.id: (attribute, array, row) for attribute, array, row in fields}

    def get(field_id: int, step: int) -> NDArray[np.floating] | None:
        attribute, array, row = by_id[field_id]
        raw = read[step].step or load(read[step].stored)
        return _field_values(plan, attribute, getattr(raw, attribute).get(array), row)

    review.show_arriving(result_id, WithReader(review, result_id, get), mesh)


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


def _declare(review: Review, plan: _Plan, result_id: int) -> list[tuple[str, str, FieldRow]]:
    """Rows of the fields, each with where a RawStep holds its array and under which name."""
    rows: list[tuple[str, str, FieldRow]] = []
    taken: set[str] = set()
    for _, attribute, guesses in plan.guesses():
        data: dict[str, RawArray] = getattr(plan.first, attribute)
        for name, guess in guesses.items():
            shown = _as_field(name, guess)
            if shown is None:
                continue
            agree = name not in plan.checks or plan.checks[name].agree
            at_node = plan.weld.shared or (single_valued(guess.kind) and agree)
            location = {"cell_data": "gauss" if guess.points else "element", "corner_data": "corner"}.get(
                attribute, "node" if at_node else "corner"
            )
            unique = name if name not in taken else f"{name} ({'elements' if attribute == 'cell_data' else 'corners'})"
            taken.add(unique)
            row = FieldRow(
                result_id=result_id,
                name=unique,
                kind=shown.kind,
                rank=shown.rank,
                location=location,
                components=list(shown.components),
                precision=_precision(data[name].values),
                guessed=shown.guessed,
                averaged_before=plan.weld.shared and location == "node" and guess.kind in SMOOTHED_KINDS,
                notes=list(shown.notes),
                more=shown.more,
            )
            rows.append((attribute, name, row))
    with review.session() as session:
        session.add_all([r for _, _, r in rows])
    return rows


def _as_field(name: str, guess: Guess) -> Guess | None:
    """What is stored as a field: fields, and model data that come as whole numbers, as names."""
    if guess.role == "field":
        return guess
    if guess.role == "partition" and guess.kind != "part":
        note = f"'{name}' holds whole numbers that name something: never averaged"
        return replace(guess, role="field", kind="", rank="scalar", components=("value",), names=True, notes=(note,), guessed=True)
    return None


def _field_values(plan: _Plan, attribute: str, array: RawArray | None, row: FieldRow) -> NDArray[np.floating] | None:
    if array is None:
        return None
    values = converted(array.values, array.components, row.rank, row.more["points"])
    if row.location == "node":
        return values if plan.weld.straight else values[plan.weld.first]
    if row.location == "corner" and attribute == "point_data":
        return values[plan.first.connectivity]
    return values


def _hash_all(paths: Sequence[Path], aside: ThreadPoolExecutor) -> dict[Path, Future[str]]:
    return {path: aside.submit(_digest, path) for path in paths}


def _digest(path: Path) -> str:
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()
