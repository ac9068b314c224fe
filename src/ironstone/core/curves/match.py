"""A model's curve held against a test record, branch by branch or by time."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from ironstone.core.curves.agreement import Limits, Match, Metric, deviation_of, peaks, share_of
from ironstone.core.curves.branch_pairs import Branches, Compared, at_driver, compared, paired
from ironstone.core.curves.curves import Curve, Cycle, Loops, loops
from ironstone.core.curves.transient import in_time, match_transient
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.units import product, ratio


def match(
    model: Curve,
    test: Curve,
    limits: Limits | None = None,
    corrections: tuple[str, ...] = (),
    prominence: float | None = None,
    only: Collection[int] = (),
) -> Match:
    """Compare a model's curve with a test record already corrected. The record is brought to the model's units.

    Against time: by time, with the best shift between the two. Else branch by branch, each branch of one with the branch of the
    other that runs alike, on the range both cover; what cannot be paired is left out and named. prominence: how far the driver
    comes back to have turned; None is found from its noise. only: numbers of the model's cycles, from 1; these and the test's that
    go with them are compared, nothing else. Raises Impossible where the test has none for one of them.
    """
    limits = limits or Limits()
    test = _checked(model, test)
    if in_time(model) and in_time(test):
        if only:
            raise Impossible("Curves over time are compared by time, not by cycles.", "Compare the whole of them.")
        return match_transient(model, test, limits, corrections)
    mine, theirs = Branches.of(model, prominence), Branches.of(test, prominence)
    pairs = _compared(mine, theirs)
    if not pairs:
        raise IronstoneError(
            "The model and the test have no common range: no branch of one runs as a branch of the other.",
            f"The model's driver runs from {model.x[0]:.4g} between {model.x.min():.4g} and {model.x.max():.4g}, the test's from "
            f"{test.x[0]:.4g} between {test.x.min():.4g} and {test.x.max():.4g}: check unit, sign and zero.",
        )
    notes = [*test.notes, *_left_out(mine, theirs, pairs)]
    found = loops(model, prominence=prominence), loops(test, prominence=prominence)
    notes += [f"{what}: {n}" for what, answer in zip(("Model", "Test"), found, strict=True) for n in answer.notes]
    cycles = _paired_cycles(*found, mine, theirs, pairs)
    if only:
        cycles = _picked(cycles, only, len(found[0].cycles))
        pairs = _within(mine, pairs, [ours for _, ours, _ in cycles])
        notes = [*test.notes, f"Compared: {named(only)} of {len(found[0].cycles)}."]
    metrics = peaks(
        np.concatenate([v for c in pairs for v in (c.expected, c.model_y)]),
        np.concatenate([v for c in pairs for v in (c.y, c.model_test)]),
        model.y_unit,
        limits,
    )
    metrics += _of_cycles(cycles, found[0], limits, notes) if cycles else _of_loading(mine, theirs, pairs, model, limits)
    if len(only) == 1:
        # Of one cycle the whole is that cycle: it is not counted twice.
        metrics = [m for m in metrics if m.name != "energy_total"]
    x, y, expected = (np.concatenate([getattr(c, n) for c in pairs]) for n in ("x", "y", "expected"))
    kind = "loops" if cycles else "monotonic"
    return Match(kind, tuple(metrics), deviation_of(x, y, expected, model, limits), corrections, tuple(notes))


def _checked(model: Curve, test: Curve) -> Curve:
    """The test in the model's units. Raises IronstoneError where one of the two cannot be compared."""
    test = test.in_units(model.x_unit, model.y_unit)
    for what, curve in (("model", model), ("test record", test)):
        if len(curve.x) < 2:
            raise IronstoneError(f"The {what} has fewer than two points.", "Choose other columns or rows.")
        if not (np.isfinite(curve.x).all() and np.isfinite(curve.y).all()):
            raise IronstoneError(f"The {what} has points without a value.", "Cut or fill the gaps first.")
    return test


def _compared(mine: Branches, theirs: Branches) -> list[Compared]:
    """The branches that are paired and have something in common."""
    found = (compared(mine, theirs, p) for p in paired(mine, theirs))
    return [c for c in found if len(c.x) and len(c.x) + len(c.model_x) > 2]


def cycles_of_test(model: Curve, test: Curve, prominence: float | None = None) -> dict[int, tuple[int, int]]:
    """The cycles of the test that go with the model's, by the number of the model's: first and last position of each."""
    test = _checked(model, test)
    if in_time(model) and in_time(test):
        return {}
    mine, theirs = Branches.of(model, prominence), Branches.of(test, prominence)
    pairs = _compared(mine, theirs)
    found = loops(model, prominence=prominence), loops(test, prominence=prominence)
    return {number: (other.start, other.stop) for number, _, other in _paired_cycles(*found, mine, theirs, pairs)}


def named(only: Collection[int]) -> str:
    """Some cycles by their numbers: 'cycle 3', 'cycles 2, 3 and 5'."""
    numbers = [str(n) for n in sorted(only)]
    return f"cycle {numbers[0]}" if len(numbers) == 1 else f"cycles {', '.join(numbers[:-1])} and {numbers[-1]}"


def _picked(cycles: list[tuple[int, Cycle, Cycle]], only: Collection[int], count: int) -> list[tuple[int, Cycle, Cycle]]:
    """The pairs of cycles that were picked, by the model's number."""
    absent = [n for n in only if not 1 <= n <= count]
    if absent:
        there = f"It has {count}." if count else "It has none."
        raise Impossible(f"The curve has no {named(absent)}.", there)
    lost = sorted(set(only) - {number for number, _, _ in cycles})
    if lost:
        goes = "has no counterpart" if len(lost) == 1 else "have no counterpart"
        raise Impossible(f"The model's {named(lost)} {goes} in the test.", "Pick others, or compare all.")
    return [c for c in cycles if c[0] in only]


def _within(mine: Branches, pairs: list[Compared], cycles: list[Cycle]) -> list[Compared]:
    """The pairs of branches that lie within some of the model's cycles."""
    spans = [(c.start, c.stop) for c in cycles]
    return [p for p in pairs if any(a <= mine.bounds[p.pair[0]][0] and mine.bounds[p.pair[0]][1] <= b for a, b in spans)]


# Noise at the turns takes some points beyond the other's range: a share of them that is not worth a word.
FEW_POINTS = 0.05


def _left_out(mine: Branches, theirs: Branches, pairs: list[Compared]) -> list[str]:
    """Which branches and points have no counterpart, and turns that lie apart, in words."""
    notes = []
    if np.sign(np.subtract(*mine.ends[0][::-1])) != np.sign(np.subtract(*theirs.ends[0][::-1])):
        notes.append("The test starts the other way than the model.")
    taken = [{c.pair[k] for c in pairs} for k in (0, 1)]
    for what, whole, used in (("model", mine, taken[0]), ("test", theirs, taken[1])):
        if what == "model" and len(theirs) == 1 and used == {0} and len(mine) > 1:
            notes.append("The test goes one way: the model's first loading is compared, up to where its driver turns.")
            continue
        lost = [str(i + 1) for i in range(len(whole)) if i not in used]
        if lost:
            named = ", ".join(lost[:6]) + (f" and {len(lost) - 6} more" if len(lost) > 6 else "")
            word = "branch" if len(lost) == 1 else "branches"
            notes.append(f"{len(used)} of the {what}'s {len(whole)} branches are compared; left out: {word} {named}.")
    # Branches share the point they turn at.
    away, of = sum(c.away for c in pairs), 1 + sum(c.away + len(c.x) - 1 for c in pairs)
    if away > (FEW_POINTS * of if len(pairs) > 1 else 0):
        notes.append(f"{away} of {of} test points lie outside the model's range and are left out.")
    return notes


def _paired_cycles(
    mine: Loops, theirs: Loops, model: Branches, test: Branches, pairs: list[Compared]
) -> list[tuple[int, Cycle, Cycle]]:
    """Cycles of both whose branches are paired, with their number in the model."""
    other = dict(c.pair for c in pairs)
    begins = [{int(b[0]): i for i, b in enumerate(whole.bounds)} for whole in (model, test)]
    of_test = {begins[1].get(c.start): c for c in theirs.cycles}
    found = []
    for number, cycle in enumerate(mine.cycles, start=1):
        first = begins[0].get(cycle.start)
        if first is None or first not in other or other.get(first + 1) != other[first] + 1:
            continue
        if other[first] in of_test:
            found.append((number, cycle, of_test[other[first]]))
    return found


# A cycle that takes less of (F+ - F-)(u+ - u-) than this takes nothing that could be compared.
NOTHING = 0.005


def _of_cycles(cycles: list[tuple[int, Cycle, Cycle]], mine: Loops, limits: Limits, notes: list[str]) -> list[Metric]:
    """Stiffness and damping of the widest pair of cycles, energy of each and of all that take any."""
    _, a, b = max(cycles, key=lambda c: c[2].amplitude)
    metrics = [
        Metric(
            "secant_stiffness", "Secant stiffness, widest cycle", a.secant_stiffness, b.secant_stiffness, mine.stiffness_unit,
            share_of(a.secant_stiffness, b.secant_stiffness), limits.stiffness,
        )
    ]  # fmt: skip
    if all(abs(c.energy) <= NOTHING * c.box for pair in cycles for c in pair[1:]):
        notes.append("The cycles of both are lines that take no energy: energy and damping are not compared.")
        return metrics
    whole, whole_test = sum(c[1].energy for c in cycles), sum(c[2].energy for c in cycles)
    many = f"{len(cycles)} cycle{'s' if len(cycles) > 1 else ''} compared"
    label = "Energy, all cycles" if len(cycles) == len(mine.cycles) else f"Energy, {many}"
    metrics.append(Metric("energy_total", label, whole, whole_test, mine.energy_unit, share_of(whole, whole_test), limits.energy))
    for number, ours, others in cycles:
        metrics.append(
            Metric(
                f"energy_cycle_{number}", f"Energy, cycle {number}", ours.energy, others.energy, mine.energy_unit,
                share_of(ours.energy, others.energy), limits.energy,
            )
        )  # fmt: skip
    damping = a.damping_ratio, b.damping_ratio
    metrics.append(Metric("damping_ratio", "Damping ratio, widest cycle", *damping, "", share_of(*damping)))
    return metrics


def _of_loading(mine: Branches, theirs: Branches, pairs: list[Compared], model: Curve, limits: Limits) -> list[Metric]:
    """Initial stiffness of the first loading, and the work of all that is compared."""
    stated = model.x_unit is not None and model.y_unit is not None
    metrics = []
    if pairs[0].pair == (0, 0):
        stiff = _initial_stiffness(mine, theirs, pairs[0])
        unit = ratio(model.y_unit or "", model.x_unit or "") if stated else None
        if stiff is not None:
            metrics.append(Metric("initial_stiffness", "Initial stiffness", *stiff, unit, share_of(*stiff), limits.stiffness))
    work, work_test = (sum(c.work[k] for c in pairs) for k in (0, 1))
    energy_unit = product(model.y_unit or "", model.x_unit or "") if stated else None
    label = "Energy over the range" if len(pairs) == 1 else f"Energy over {len(pairs)} branches"
    metrics.append(Metric("energy_total", label, work, work_test, energy_unit, share_of(work, work_test), limits.energy))
    return metrics


LOW, HIGH, PLACES = 0.1, 0.4, 41


def _initial_stiffness(mine: Branches, theirs: Branches, first: Compared) -> tuple[float, float] | None:
    """Slopes of model and test by regression where each rises from 10 % to 40 % of its own highest force on the range both cover;
    None where one does not rise through both."""
    tops = (float(np.abs(np.concatenate(v)).max()) for v in ((first.expected, first.model_y), (first.y, first.model_test)))
    slopes = [_slope(*whole.run(0), LOW * top, HIGH * top) for whole, top in zip((mine, theirs), tops, strict=True)]
    return (slopes[0], slopes[1]) if np.isfinite(slopes).all() else None


def _slope(u: Float, f: Float, low: float, high: float) -> float:
    """Slope of a branch between the places where its force first reaches two levels in size, by regression on even places."""
    size = np.abs(f)
    if size[0] > low or not (size >= high).any():
        return float("nan")
    ends = []
    for level in (low, high):
        k = int(np.argmax(size >= level))
        step = size[k] - size[k - 1] if k else 0.0
        ends.append(float(u[k - 1] + (level - size[k - 1]) / step * (u[k] - u[k - 1])) if step > 0.0 else float(u[k]))
    at = np.linspace(ends[0], ends[1], PLACES)
    return float(np.polyfit(at, at_driver(u, f, at, np.zeros(PLACES)), 1)[0]) if ends[0] != ends[1] else float("nan")
