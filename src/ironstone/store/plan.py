"""What the first pass over the files settles: the weld, what each array is, where it lives, what is missing or doubtful."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.field.classify import AVERAGED, BREAKS, Guess, converted
from ironstone.core.field.stacked import Stack
from ironstone.core.kinds import kind_of
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.gauss import known_counts
from ironstone.core.mesh.mesh import Int, Mesh
from ironstone.core.mesh.weld import TOLERANCE, CopyCheck, Weld, weld
from ironstone.formats.registry import RawArray, RawStep
from ironstone.store.companions import Companions
from ironstone.store.joined import no_symmetric_tensor, taken_for
from ironstone.store.models import FieldRow
from ironstone.store.roles import MATERIALS, NAMES, PARTS, SET, UNUSED, divided


@dataclass
class Plan:
    """What the first pass over the files settles. first: the first step, with an example of every array that comes later. gauss:
    how many Gauss points its elements may have."""

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
    stacks: dict[str, Stack] = field(default_factory=dict)
    gauss: frozenset[int] = frozenset()
    companions: Companions = field(default_factory=Companions)

    def guesses(self) -> tuple[tuple[str, str, dict[str, Guess]], ...]:
        """Of each kind of array: where it lives in words, the attribute of a RawStep, and what its arrays were taken for."""
        return (
            ("points", "point_data", self.points),
            ("elements", "cell_data", self.cells),
            ("corners", "corner_data", self.corners),
        )


def gaps_in_numbers(paths: Sequence[Path]) -> list[str]:
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


def series_name(paths: Sequence[Path]) -> str:
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


def first_look(raw: RawStep) -> Plan:
    counts = [set(known_counts(CELLS[t])) for t in np.flatnonzero(np.bincount(raw.types, minlength=256)).tolist()]
    gauss = frozenset(set().union(*counts))
    points = {n: taken_for(n, a, False) for n, a in raw.point_data.items()}
    cells = {n: taken_for(n, a, True, gauss) for n, a in raw.cell_data.items()}
    corners = {n: taken_for(n, a, False) for n, a in raw.corner_data.items()}
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
        welded = weld(np.asarray(raw.points, dtype=np.float64), raw.connectivity, point_part, ids, raw.pieces)
    # Its tables are its own: an array that comes later is no array of the first step.
    first = replace(raw, point_data={**raw.point_data}, cell_data={**raw.cell_data}, corner_data={**raw.corner_data})
    plan = Plan(first, welded, points, cells, corners=corners, gauss=gauss)
    for array, guess in points.items():
        if guess.role == "field" and _watched(guess, welded):
            plan.checks[array] = CopyCheck(precision(raw.point_data[array].values))
    plan.warnings += raw.notes
    if welded.pieces and welded.by_place:
        plan.warnings.append(f"The mesh came in {welded.how}: what a node has is one value wherever all pieces agree on it.")
    for _, _, guesses in plan.guesses():
        plan.warnings += [note for g in guesses.values() if g.role == "ignored" for note in g.notes]
    return plan


def lay(plan: Plan, alone: Sequence[tuple[str, RawStep]]) -> None:
    """Lay files of points alone on the body: their marks become sets, their values fields of its nodes, the same at every step."""
    companions = plan.companions
    companions.steps = list(alone)
    companions.laid_on(plan.first)
    plan.warnings += companions.said
    plan.first = replace(plan.first, node_sets={**plan.first.node_sets, **companions.sets})
    for name, array in companions.arrays.items():
        plan.first.point_data[name] = array
        plan.points[name] = taken_for(name, array, False)


def _watched(guess: Guess, welded: Weld) -> bool:
    """Whether it is looked at all steps whether the copies of a node agree."""
    return welded.pieces or (kind_of(guess.kind).single_valued and not welded.shared)


def precision(values: NDArray[np.generic]) -> str:
    return "single" if values.dtype == np.float32 else "double"


def divides(plan: Plan) -> str:
    """The array that divides the body into parts, '' where none does or the format itself has parts."""
    return "" if plan.first.part is not None else _dividing(plan.cells)


def _dividing(cells: dict[str, Guess]) -> str:
    found = ((n, g) for wanted in ("part", "material", "") for n, g in cells.items() if (g.role, g.kind) == ("partition", wanted))
    return next((name for name, _ in found), "")


def _partition(raw: RawStep, cells: dict[str, Guess]) -> tuple[NDArray[np.int32], tuple[str, ...]]:
    """Part of each element and the names of the parts."""
    if raw.part is not None:
        return raw.part, raw.part_names
    name = _dividing(cells)
    if name:
        return divided(name, raw.cell_data[name].values[:, 0])
    return np.zeros(len(raw.types), dtype=np.int32), ("part 1",)


def _material(raw: RawStep, cells: dict[str, Guess]) -> tuple[NDArray[np.int32] | None, tuple[str, ...]]:
    """Material number of each element and the materials' names, None where the file has no such array."""
    if raw.material is not None:
        return raw.material, raw.material_names
    for name, guess in cells.items():
        if guess.role == "partition" and guess.kind == "material":
            return divided(name, raw.cell_data[name].values[:, 0])
    return None, ()


def _breaks(raw: RawStep) -> NDArray[np.int32] | None:
    """A number for each thickness and property that elements have, None where all have the same."""
    found = [a.values[:, 0] for n, a in raw.cell_data.items() if n.strip().lower().replace(" ", "_") in BREAKS]
    if not found:
        return None
    _, numbers = np.unique(np.stack(found, axis=1), axis=0, return_inverse=True)
    return numbers.ravel().astype(np.int32) if numbers.max(initial=0) else None


def look(plan: Plan, raw: RawStep, index: int, path: Path, first: Path) -> None:
    """Check one step, which is on the mesh of the first, and watch the copies of its nodes."""
    plan.times.append(raw.time)
    plan.moments.append((raw.kind, raw.loading))
    for where, attribute, guesses in plan.guesses():
        data: dict[str, RawArray] = getattr(raw, attribute)
        for name, array in data.items():
            if name not in guesses and index:
                # An array that begins later in the series is a field like the others, missing in the steps before.
                guesses[name] = taken_for(name, array, attribute == "cell_data", plan.gauss)
                getattr(plan.first, attribute)[name] = array
                if guesses[name].role == "field":
                    plan.missing.setdefault(name, []).extend(range(index))
                    if attribute == "point_data" and _watched(guesses[name], plan.weld):
                        plan.checks[name] = CopyCheck(precision(array.values))
        for name, guess in list(guesses.items()):
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
            if guess.rank == "tensor" and (said := no_symmetric_tensor(name, here, guess)):
                guesses[name] = Guess("ignored", notes=(said,))
                plan.warnings.append(said)
                plan.missing.pop(name, None)
                continue
            if here.values.dtype.kind == "f" and np.isinf(here.values).any():
                raise IronstoneError(f"{path.name}: '{name}' holds infinite values.", "Export the file again.")
    for name, check in plan.checks.items():
        if name not in raw.point_data or plan.points[name].role != "field":
            continue
        values = np.asarray(raw.point_data[name].values, dtype=np.float64)
        if plan.points[name].kind == "displacement" and plan.weld.by_place:
            reach = float(np.abs(np.nan_to_num(values)).max(initial=0.0))
            plan.weld.split(np.nan_to_num(values), 10 * TOLERANCE[check.precision] * max(reach, 1e-300))
        check.look(index, values, plan.weld)


def differs(first: RawStep, raw: RawStep) -> str:
    """In what a step has another mesh than a first one, '' where it is the same."""
    if len(raw.types) != len(first.types):
        return f"{len(raw.types)} elements against {len(first.types)}"
    if len(raw.points) != len(first.points):
        return f"{len(raw.points)} points against {len(first.points)}"
    if not np.array_equal(raw.types, first.types) or not np.array_equal(raw.connectivity, first.connectivity):
        return "its elements join other points"
    size = float(np.ptp(first.points, axis=0).max(initial=0.0))
    away = float(np.abs(raw.points.astype(np.float64) - first.points).max(initial=0.0))
    return f"its points lie up to {away:.3g} elsewhere" if away > 1e-5 * size else ""


# A mesh whose box is so many times larger or smaller than that of the step before is of another body.
ANOTHER_BODY = 10.0


def another_body(before: RawStep, raw: RawStep) -> bool:
    """Whether a mesh cannot be of the body of the one before: it lies farther off than either is large, or is of another size.

    A front that moves on lies beside where it was: it is the same one.
    """
    (low, high), (lowest, highest) = ((p.min(0), p.max(0)) for p in (before.points, raw.points))
    size, other = (float(np.linalg.norm(top - bottom)) for bottom, top in ((low, high), (lowest, highest)))
    slack = max(size, other)
    apart = bool((lowest > high + slack).any() or (highest < low - slack).any())
    return apart or not 1.0 / ANOTHER_BODY <= other / max(size, 1e-300) <= ANOTHER_BODY


def one_series(paths: Sequence[Path]) -> bool:
    """Whether files are the numbered steps of one run, or one file that holds them all."""
    return len(paths) == 1 or (bool(series_name(paths)) and all(re.search(r"\d", p.stem) for p in paths) and _stems_agree(paths))


def _stems_agree(paths: Sequence[Path]) -> bool:
    """Whether names are alike but for their last number."""
    return len({re.sub(r"\d+(?=\D*$)", "", p.stem) for p in paths}) == 1


def settle(plan: Plan, count: int) -> None:
    """Turn what was seen at all steps into the final place of each field, and warnings in words."""
    for name, check in plan.checks.items():
        if not check.agree and kind_of(plan.points[name].kind).single_valued:
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
        smooth = [n for n, g in plan.points.items() if g.role == "field" and kind_of(g.kind).smoothed]
        if smooth:
            plan.warnings.append(f"{', '.join(smooth)}: node values on shared nodes. {AVERAGED}.")
    if not any(g.role == "field" for _, _, guesses in plan.guesses() for g in guesses.values()):
        plan.warnings.append("The files hold a mesh and no results: they were cut off, or the results are in another file.")
    elif not any(g.kind == "displacement" for g in plan.points.values()):
        plan.warnings.append("No displacement was found: the deformed shape cannot be shown.")


def mesh_of(plan: Plan) -> Mesh:
    raw, welded = plan.first, plan.weld
    part, names = _partition(raw, plan.cells)
    first = welded.first
    ids = raw.node_ids if raw.node_ids is not None else _find_ids(raw.point_data, plan.points)
    element_ids = raw.element_ids if raw.element_ids is not None else _find_ids(raw.cell_data, plan.cells)
    node_sets: dict[str, Int] = {name: np.unique(welded.label[members]) for name, members in raw.node_sets.items()}
    for name, guess in plan.points.items():
        if guess.role == "set" and (members := np.unique(welded.label[raw.point_data[name].values[:, 0] == 1])).size:
            node_sets[name] = members
    element_sets = dict(raw.element_sets) | {
        name: members
        for name, g in plan.cells.items()
        if g.role == "set" and (members := np.flatnonzero(raw.cell_data[name].values[:, 0] == 1)).size
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


def as_field(name: str, guess: Guess, array: RawArray, divides: str) -> Guess | None:
    """What is stored as a field: fields, and whole numbers, whatever they were taken for: their role can be stated.

    divides: the array that divides the body into parts.
    """
    if guess.role == "field":
        return guess
    if array.values.shape[1] != 1 or array.values.dtype.kind not in "iub" or guess.role == "ids":
        return None
    if guess.role == "ignored" and not guess.notes:
        return None
    note = f"'{name}' holds whole numbers that name something: never averaged"
    if guess.role == "partition":
        role = MATERIALS if guess.kind == "material" else PARTS if name == divides or guess.kind == "part" else NAMES
    else:
        role = SET if guess.role == "set" else UNUSED
    return replace(guess, role=role, kind="", rank="scalar", components=("value",), names=True, notes=(note,), guessed=True)


def field_values(plan: Plan, attribute: str, array: RawArray | None, row: FieldRow) -> NDArray[np.floating] | None:
    if array is None:
        return None
    more = row.more
    values = converted(array.values, array.components, row.rank, more["points"] or more["layers"], more["harmonic"])
    if row.location == "node":
        return values if plan.weld.straight else values[plan.weld.first]
    if row.location == "corner" and attribute == "point_data":
        return values[plan.first.connectivity]
    return values
