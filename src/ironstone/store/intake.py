"""Taking results in: read in a child process, welded and classified, stored step by step, shown only once complete."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import insert, select, update

from ironstone.core.classify import SMOOTHED_KINDS, Guess, classify, converted, single_valued
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh import Int, Mesh
from ironstone.core.units import SYSTEMS
from ironstone.core.weld import TOLERANCE, CopyCheck, Weld, weld
from ironstone.formats import load, numbered_order, read_series
from ironstone.formats.registry import RawArray, RawStep
from ironstone.store import arrays
from ironstone.store.models import FieldRow, ResultRow, StepRow
from ironstone.store.review import Review, write_mesh

Tell = Callable[[float, str], None]
GUESSED_SYSTEM = "mm-N-s-t-MPa"


class Cancelled(IronstoneError):
    """The analyst stopped it."""


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


def intake(
    review: Review,
    paths: Sequence[Path],
    name: str | None = None,
    system: str | None = None,
    tell: Tell | None = None,
) -> int:
    """Take a numbered series of files in as one result and return its id.

    ``tell(share, text)`` hears of the progress and may raise ``Cancelled``. On any error the review is left as it was.
    """
    if not paths:
        raise IronstoneError("No file was given.", "Name one file, or a numbered series.")
    if system is not None and system not in SYSTEMS:
        raise IronstoneError(f"'{system}' is not a unit system.", f"Choose one of: {', '.join(SYSTEMS)}.")
    tell = tell or (lambda share, text: None)
    ordered = numbered_order(paths)
    repeated = {p.name for p in ordered if [q.name for q in ordered].count(p.name) > 1}
    if repeated:
        raise IronstoneError(f"{sorted(repeated)[0]} was given twice.", "Give each step's file once.")
    with tempfile.TemporaryDirectory(dir=review.path.parent, prefix=".arriving-") as scratch:
        pickles: list[Path] = []
        plan: _Plan | None = None
        for index, (path, pickled) in enumerate(read_series(ordered, Path(scratch))):
            raw = load(pickled)
            if plan is None:
                plan = _first_look(raw)
            _look(plan, raw, index, path, ordered[0])
            pickles.append(pickled)
            tell(0.6 * (index + 1) / len(ordered), f"read {path.name}")
        assert plan is not None
        _settle(plan, len(ordered))
        return _store(review, plan, ordered, pickles, name or _series_name(ordered), system, tell)


def _series_name(paths: Sequence[Path]) -> str:
    stem = paths[0].stem.rstrip("0123456789").rstrip("_-. ")
    return stem or paths[0].stem


def _find_ids(data: dict[str, RawArray], guesses: dict[str, Guess]) -> Int | None:
    for name, guess in guesses.items():
        if guess.role == "ids":
            return data[name].values[:, 0].astype(np.int64)
    return None


def _first_look(raw: RawStep) -> _Plan:
    points = {n: classify(n, a.values, a.components, False) for n, a in raw.point_data.items()}
    cells = {n: classify(n, a.values, a.components, True) for n, a in raw.cell_data.items()}
    part = _partition(raw, cells)[0]
    point_part = np.full(len(raw.points), -1, dtype=np.int64)
    point_part[raw.connectivity] = np.repeat(part, np.diff(raw.offsets))
    welded = weld(np.asarray(raw.points, dtype=np.float64), raw.connectivity, point_part, _find_ids(raw.point_data, points))
    plan = _Plan(raw, welded, points, cells)
    for array, guess in points.items():
        if guess.role == "field" and single_valued(guess.kind) and not welded.shared:
            plan.checks[array] = CopyCheck(_precision(raw.point_data[array].values))
    for guesses in (points, cells):
        plan.warnings += [note for g in guesses.values() if g.role == "ignored" for note in g.notes]
    return plan


def _precision(values: NDArray[np.generic]) -> str:
    return "single" if values.dtype == np.float32 else "double"


def _partition(raw: RawStep, cells: dict[str, Guess]) -> tuple[NDArray[np.int32], tuple[str, ...]]:
    """Part of each element and the names of the parts."""
    for wanted in ("part", "material", ""):
        for name, guess in cells.items():
            if guess.role == "partition" and guess.kind == wanted:
                distinct, part = np.unique(raw.cell_data[name].values[:, 0], return_inverse=True)
                return part.astype(np.int32), tuple(f"{name} {v}" for v in distinct.tolist())
    return np.zeros(len(raw.types), dtype=np.int32), ("part 1",)


def _material(raw: RawStep, cells: dict[str, Guess]) -> NDArray[np.int32] | None:
    """Material number of each element, None where the file has no such array."""
    for name, guess in cells.items():
        if guess.role == "partition" and guess.kind == "material":
            material: NDArray[np.int32] = np.unique(raw.cell_data[name].values[:, 0], return_inverse=True)[1].astype(np.int32)
            return material
    return None


def _look(plan: _Plan, raw: RawStep, index: int, path: Path, first: Path) -> None:
    """Check one step against the first and watch the copies of its nodes."""
    _same_mesh(plan.first, raw, path, first)
    plan.times.append(raw.time)
    for where, data, guesses in (("points", raw.point_data, plan.points), ("elements", raw.cell_data, plan.cells)):
        for name, guess in guesses.items():
            if guess.role != "field":
                continue
            array = data.get(name)
            if array is None:
                plan.missing.setdefault(name, []).append(index)
                continue
            expected = (plan.first.point_data if where == "points" else plan.first.cell_data)[name].values.shape
            if array.values.shape != expected:
                raise IronstoneError(
                    f"{path.name}: '{name}' has {array.values.shape[1]} columns on {array.values.shape[0]} {where}, "
                    f"{first.name} has {expected[1]} on {expected[0]}.",
                    "Take the files of one run in together.",
                )
            if array.values.dtype.kind == "f" and np.isinf(array.values).any():
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
    if len(given) == count and (np.diff(given) < 0).any():
        plan.warnings.append("The times do not rise in the order of the file numbers: the files' order is kept.")
    if plan.weld.shared:
        smooth = [n for n, g in plan.points.items() if g.role == "field" and g.kind in SMOOTHED_KINDS]
        if smooth:
            plan.warnings.append(
                f"{', '.join(smooth)}: node values on shared nodes. They were averaged before import and cannot be un-averaged."
            )
    if not any(g.kind == "displacement" for g in plan.points.values()):
        plan.warnings.append("No displacement was found: the deformed shape cannot be shown.")


def _mesh(plan: _Plan) -> Mesh:
    raw, welded = plan.first, plan.weld
    part, names = _partition(raw, plan.cells)
    first = welded.first
    ids = _find_ids(raw.point_data, plan.points)
    element_ids = _find_ids(raw.cell_data, plan.cells)
    node_sets: dict[str, Int] = {}
    for name, guess in plan.points.items():
        if guess.role == "set":
            node_sets[name] = np.unique(welded.label[raw.point_data[name].values[:, 0] == 1])
    element_sets = {
        name: np.flatnonzero(raw.cell_data[name].values[:, 0] == 1) for name, g in plan.cells.items() if g.role == "set"
    }
    return Mesh(
        points=np.asarray(raw.points, dtype=np.float64)[first],
        types=raw.types,
        offsets=raw.offsets,
        connectivity=welded.label[raw.connectivity],
        node_ids=ids[first] if ids is not None else np.arange(len(first)),
        element_ids=element_ids if element_ids is not None else np.arange(len(raw.types)),
        part=part,
        part_names=names,
        node_sets=node_sets,
        element_sets=element_sets,
        material=_material(raw, plan.cells),
    )


def _store(
    review: Review, plan: _Plan, paths: Sequence[Path], pickles: Sequence[Path], name: str, system: str | None, tell: Tell
) -> int:
    with review.session() as session:
        names = session.scalars(select(ResultRow.name)).all()
    unique, count = name, 1
    while unique in names:
        count += 1
        unique = f"{name} {count}"
    timed = all(t is not None for t in plan.times)
    mesh = _mesh(plan)
    with review.session() as session:
        row = ResultRow(
            name=unique,
            system=system or GUESSED_SYSTEM,
            system_guessed=system is None,
            files=[],
            warnings=plan.warnings,
            part_names=list(mesh.part_names),
            summary={"welding": plan.weld.how, "raw points": len(plan.first.points)},
        )
        session.add(row)
        session.flush()
        result_id = row.id
    try:
        fields = _declare(review, plan, result_id)
        watch = _Watch(mesh)
        files = []
        for index, (path, pickled) in enumerate(zip(paths, pickles, strict=True)):
            raw = load(pickled)
            with review.session() as session:
                connection = session.connection()
                if index == 0:
                    write_mesh(connection, result_id, mesh)
                for stored in fields:
                    values = _field_values(plan, raw, stored)
                    if values is not None:
                        arrays.write(connection, result_id, "field", values, stored.id, index)
                        watch.look(index, stored, values)
                value = plan.times[index] if timed else float(index)
                connection.execute(
                    insert(StepRow).values(
                        result_id=result_id, position=index, kind="time" if timed else "number", value=value, loading=""
                    )
                )
            files.append({"name": path.name, "bytes": path.stat().st_size, "sha256": _digest(path)})
            pickled.unlink()
            tell(0.6 + 0.4 * (index + 1) / len(paths), f"stored {path.name}")
        summary: dict[str, Any] = {"welding": plan.weld.how, "raw points": len(plan.first.points), **watch.summary()}
        with review.session() as session:
            session.execute(update(ResultRow).where(ResultRow.id == result_id).values(state="ready", files=files, summary=summary))
    except BaseException:
        review.remove_result(result_id)
        raise
    review.add("result", {"result": result_id, "name": unique}, f"Result '{unique}' taken in")
    return result_id


def _declare(review: Review, plan: _Plan, result_id: int) -> list[FieldRow]:
    rows = []
    for guesses, data, on_elements in (
        (plan.points, plan.first.point_data, False),
        (plan.cells, plan.first.cell_data, True),
    ):
        for name, guess in guesses.items():
            if guess.role != "field":
                continue
            agree = name not in plan.checks or plan.checks[name].agree
            at_node = plan.weld.shared or (single_valued(guess.kind) and agree)
            location = "element" if on_elements else "node" if at_node else "corner"
            rows.append(
                FieldRow(
                    result_id=result_id,
                    name=name if on_elements is False or name not in plan.points else f"{name} (elements)",
                    kind=guess.kind,
                    rank=guess.rank,
                    location=location,
                    components=list(guess.components),
                    precision=_precision(data[name].values),
                    guessed=guess.guessed,
                    averaged_before=plan.weld.shared and not on_elements and guess.kind in SMOOTHED_KINDS,
                    notes=list(guess.notes),
                )
            )
    with review.session() as session:
        session.add_all(rows)
    return rows


def _field_values(plan: _Plan, raw: RawStep, row: FieldRow) -> NDArray[np.floating] | None:
    on_elements = row.location == "element"
    data = raw.cell_data if on_elements else raw.point_data
    name = row.name.removesuffix(" (elements)") if on_elements else row.name
    array = data.get(name)
    if array is None:
        return None
    values = converted(array.values, array.components, row.rank)
    if row.location == "node":
        return values[plan.weld.first]
    if row.location == "corner":
        return values[raw.connectivity]
    return values


def _digest(path: Path) -> str:
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()


class _Watch:
    """Gathers, while the steps pass, which sets are held or moved, where forces peak and where yield begins."""

    def __init__(self, mesh: Mesh) -> None:
        self.mesh = mesh
        self.reaction: NDArray[np.floating] | None = None
        self.moved: NDArray[np.floating] | None = None
        self.precision = "double"
        self.sums: dict[str, list[Any]] = {name: [] for name in mesh.node_sets}
        self.means: dict[str, list[Any]] = {name: [] for name in mesh.node_sets}
        self.first_yield: int | None = None
        self.gaps: dict[str, int] = {}

    def look(self, step: int, row: FieldRow, values: NDArray[np.floating]) -> None:
        missing = int(np.isnan(values).any(1).sum())
        if missing:
            self.gaps[row.name] = max(self.gaps.get(row.name, 0), missing)
        if row.location == "node" and row.kind == "reaction":
            self.precision = row.precision
            largest = np.abs(np.nan_to_num(values)).max(1)
            self.reaction = largest if self.reaction is None else np.maximum(self.reaction, largest)
            for name, nodes in self.mesh.node_sets.items():
                self.sums[name].append(np.nansum(values[nodes], axis=0).astype(float).tolist())
        if row.location == "node" and row.kind == "displacement":
            largest = np.abs(np.nan_to_num(values)).max(1)
            self.moved = largest if self.moved is None else np.maximum(self.moved, largest)
            for name, nodes in self.mesh.node_sets.items():
                self.means[name].append(np.nan_to_num(values[nodes].mean(0)).astype(float).tolist())
        if row.kind == "plastic strain" and self.first_yield is None and np.nanmax(values, initial=0.0) > 1e-7:
            self.first_yield = step

    def summary(self) -> dict[str, Any]:
        sets: dict[str, Any] = {}
        for name, nodes in self.mesh.node_sets.items():
            sets[name] = {"nodes": len(nodes), "held": self._held(nodes), "moves": self._moves(nodes)}
        return {
            "sets": sets,
            "set_sums": {n: v for n, v in self.sums.items() if v},
            "set_means": {n: v for n, v in self.means.items() if v},
            "first_yield": self.first_yield,
            "gaps": self.gaps,
        }

    def _held(self, nodes: Int) -> str:
        """Held where a reaction shows in the step range: 1e-6 (double) or 1e-5 (single) of the largest."""
        if self.reaction is None or not len(nodes):
            return "unknown"
        limit = TOLERANCE[self.precision] * float(self.reaction.max(initial=0.0))
        held = self.reaction[nodes] > max(limit, 0.0)
        return "held" if held.all() else "partly" if held.any() else "free"

    def _moves(self, nodes: Int) -> bool:
        if self.moved is None or not len(nodes):
            return False
        return bool(self.moved[nodes].max() > 1e-6 * max(float(self.moved.max(initial=0.0)), 1e-300))
