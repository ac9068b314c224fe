"""A model's curve held against a test record: corrections made, agreement in numbers, a verdict in words."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from scipy.optimize import minimize_scalar

from ironstone.core.curves import Curve, loops, moving_mean, reversals
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh import Float
from ironstone.core.units import product, ratio, same_kind


@dataclass(frozen=True)
class Correction:
    """What was done to one column of a record: y' = sign * scale * (y - zero), then the moving mean of ``smooth`` samples."""

    column: str
    sign: int = 1
    scale: float = 1.0
    zero: float = 0.0
    smooth: int = 1

    def __post_init__(self) -> None:
        if self.sign not in (1, -1):
            raise IronstoneError("A sign is 1 or -1.")
        if self.smooth < 1:
            raise IronstoneError("Smoothing is over 1 sample (none) or more.")

    def __call__(self, values: Float) -> Float:
        result: Float = self.sign * self.scale * (np.asarray(values, dtype=np.float64) - self.zero)
        return moving_mean(result, self.smooth) if self.smooth > 1 else result

    def words(self, unit: str | None) -> list[str]:
        said = []
        if self.zero:
            said.append(f"{self.column}: zero shifted by {-self.zero:+.4g} {unit or ''}".rstrip())
        if self.scale != 1.0:
            said.append(f"{self.column}: scaled by {self.scale:.6g}")
        if self.sign < 0:
            said.append(f"{self.column}: sign reversed")
        if self.smooth > 1:
            said.append(f"{self.column}: smoothed over {self.smooth} samples")
        return said


@dataclass(frozen=True)
class Limits:
    """The analyst's own accept limits, as shares: 0.1 is 10 %."""

    force: float = 0.10
    stiffness: float = 0.10
    energy: float = 0.12
    deviation: float = 0.10


@dataclass(frozen=True)
class Metric:
    """One line of the agreement. ratio: model over test; limit: accepted share, None for information only."""

    name: str
    label: str
    model: float
    test: float
    unit: str | None
    ratio: float
    limit: float | None = None

    @property
    def accepted(self) -> bool | None:
        if self.limit is None:
            return None
        return bool(np.isfinite(self.ratio) and abs(self.ratio - 1.0) <= self.limit)


@dataclass(frozen=True)
class Deviation:
    """How far the model is from the test over the test's range; ``share`` is the RMS over the test's largest |y|.

    x, away: where, and model less test there (n,).
    """

    rms: float
    share: float
    largest: float
    largest_at_x: float
    determination: float
    unit: str | None
    limit: float
    x: Float
    away: Float

    @property
    def accepted(self) -> bool:
        return bool(self.share <= self.limit)


@dataclass(frozen=True)
class Match:
    """The comparison of one curve with one record. kind: 'loops', 'monotonic', or 'transient', by time.

    shift: of a transient, by how much later than the record the model is, in its unit of time.
    """

    kind: str
    metrics: tuple[Metric, ...]
    deviation: Deviation
    corrections: tuple[str, ...]
    notes: tuple[str, ...] = field(default=())
    shift: float | None = None

    @property
    def agrees(self) -> bool:
        return self.deviation.accepted and all(m.accepted is not False for m in self.metrics)

    @property
    def verdict(self) -> str:
        said = []
        for m in (m for m in self.metrics if m.accepted is False):
            name = m.label[0].lower() + m.label[1:]
            if not np.isfinite(m.ratio):
                said.append(f"{name} cannot be compared")
                continue
            if m.ratio < 0:
                said.append(f"{name} of opposite sign")
                continue
            off = f"{_percent(m.ratio - 1.0)} {'high' if m.ratio > 1 else 'low'}"
            said.append(f"{name} {off} (limit {100 * (m.limit or 0):.3g} %)")
        if not self.deviation.accepted:
            said.append(f"RMS deviation {_percent(self.deviation.share)} (limit {100 * self.deviation.limit:.3g} %)")
        if not said:
            return "Agrees: everything is within the limits."
        checks = sum(m.accepted is not None for m in self.metrics) + 1
        if 2 * len(said) > checks:
            turned = any(m.ratio < 0 for m in self.metrics)
            return f"Does not agree: in the model, {', '.join(said)}.{' Is a sign still to be reversed?' if turned else ''}"
        lead = "one" if len(said) == 1 else f"{len(said)} of {checks}"
        return f"Agrees but for {lead}: in the model, {', '.join(said)}."


def _percent(share: float) -> str:
    size = abs(100.0 * share)
    return f"{size:.0f} %" if size >= 10.0 else f"{size:.2g} %"


def match(model: Curve, test: Curve, limits: Limits | None = None, corrections: tuple[str, ...] = ()) -> Match:
    """Compare a model's curve with a test record already corrected. The record is brought to the model's units.

    Against time: by time, with the best shift between the two. Both cyclic (two positive peaks of the driver or more): by cycle and
    branch. Else on a common abscissa.
    """
    limits = limits or Limits()
    test = test.in_units(model.x_unit, model.y_unit)
    for what, curve in (("model", model), ("test record", test)):
        if len(curve.x) < 2:
            raise IronstoneError(f"The {what} has fewer than two points.", "Choose other columns or rows.")
        if not (np.isfinite(curve.x).all() and np.isfinite(curve.y).all()):
            raise IronstoneError(f"The {what} has points without a value.", "Cut or fill the gaps first.")
    if in_time(model) and in_time(test):
        return _match_transient(model, test, limits, corrections)
    mine, theirs = loops(model), loops(test)
    if mine.cycles and theirs.cycles:
        return _match_loops(model, test, limits, corrections)
    notes = list(test.notes)
    if mine.cycles:
        end = int(reversals(model.x)[0]) + 1
        model = replace(model, x=model.x[:end], y=model.y[:end])
        notes.append("The test goes one way: the model's first loading is compared, up to where its driver turns.")
    if theirs.cycles:
        raise IronstoneError("The test is cyclic and the model is not.", "Check which columns are the driver and the force.")
    return _match_monotonic(model, test, limits, corrections, notes)


def _peaks(model: Curve, test: Curve, limits: Limits) -> list[Metric]:
    """Highest above and lowest below zero of both; a side the test does not go to (2 % of its largest) is left out."""
    unit = model.y_unit
    result = []
    reach = max(0.02 * float(np.abs(test.y).max()), 1e-300)
    for name, label, side in (("peak_positive", "Positive peak", 1), ("peak_negative", "Negative peak", -1)):
        a, b = (side * float((side * c.y).max()) for c in (model, test))
        if side * b > reach:
            result.append(Metric(name, label, a, b, unit, a / b, limits.force))
    return result


def _match_loops(model: Curve, test: Curve, limits: Limits, corrections: tuple[str, ...]) -> Match:
    mine, theirs = loops(model), loops(test)
    notes = list(test.notes)
    count = min(len(mine.cycles), len(theirs.cycles))
    if len(mine.cycles) != len(theirs.cycles):
        notes.append(f"The model has {len(mine.cycles)} cycles and the test {len(theirs.cycles)}: the first {count} are compared.")
    metrics = _peaks(model, test, limits)
    pairs = list(zip(mine.cycles[:count], theirs.cycles[:count], strict=True))
    widest = max(range(count), key=lambda i: pairs[i][1].amplitude)
    a, b = pairs[widest]
    metrics.append(
        Metric(
            "secant_stiffness",
            "Secant stiffness, widest cycle",
            a.secant_stiffness,
            b.secant_stiffness,
            mine.stiffness_unit,
            _share(a.secant_stiffness, b.secant_stiffness),
            limits.stiffness,
        )
    )
    whole, whole_test = sum(p[0].energy for p in pairs), sum(p[1].energy for p in pairs)
    metrics.append(
        Metric(
            "energy_total",
            "Energy, all cycles",
            whole,
            whole_test,
            mine.energy_unit,
            _share(whole, whole_test),
            limits.energy,
        )
    )
    for i, (a, b) in enumerate(pairs, start=1):
        metrics.append(
            Metric(
                f"energy_cycle_{i}", f"Energy, cycle {i}", a.energy, b.energy, mine.energy_unit,
                _share(a.energy, b.energy), limits.energy,
            )
        )  # fmt: skip
    metrics.append(
        Metric(
            "damping_ratio", "Damping ratio, widest cycle", pairs[widest][0].damping_ratio,
            pairs[widest][1].damping_ratio, "", _share(pairs[widest][0].damping_ratio, pairs[widest][1].damping_ratio),
        )
    )  # fmt: skip
    x, y, expected = _by_branch(model, test, notes)
    return Match("loops", tuple(metrics), _deviation(x, y, expected, model, limits), corrections, tuple(notes))


def _by_branch(model: Curve, test: Curve, notes: list[str]) -> tuple[Float, Float, Float]:
    """Test points (x, y) and the model's value at the same driver on the same branch, over the branches both have."""
    ends = [np.concatenate([[0], reversals(c.x), [len(c.x) - 1]]) for c in (model, test)]
    count = min(len(e) for e in ends) - 1
    if len(ends[0]) != len(ends[1]):
        notes.append(f"The first {count} branches are compared: the model has {len(ends[0]) - 1}, the test {len(ends[1]) - 1}.")
    xs, ys, expected = [], [], []
    for i in range(count):
        (a, b), (c, d) = (e[i : i + 2] for e in ends)
        u, f = model.x[a : b + 1], model.y[a : b + 1]
        order = np.argsort(u, kind="stable")
        x, y = test.x[c : d + 1], test.y[c : d + 1]
        inside = (x >= u.min()) & (x <= u.max())
        xs.append(x[inside])
        ys.append(y[inside])
        expected.append(np.interp(x[inside], u[order], f[order]))
    return np.concatenate(xs), np.concatenate(ys), np.concatenate(expected)


def _match_monotonic(model: Curve, test: Curve, limits: Limits, corrections: tuple[str, ...], notes: list[str]) -> Match:
    order = np.argsort(model.x, kind="stable")
    u, f = model.x[order], model.y[order]
    inside = (test.x >= u[0]) & (test.x <= u[-1])
    if inside.sum() < 2:
        raise IronstoneError(
            "The model and the test have no common range.",
            f"The model runs from {u[0]:.4g} to {u[-1]:.4g}, the test from {test.x.min():.4g} to {test.x.max():.4g}: "
            "check unit, sign and zero.",
        )
    if not inside.all():
        notes.append(f"{int((~inside).sum())} of {len(inside)} test points lie outside the model's range and are left out.")
    x, y = test.x[inside], test.y[inside]
    common = (model.x >= x.min()) & (model.x <= x.max())
    metrics = _peaks(replace(model, x=model.x[common], y=model.y[common]), replace(test, x=x, y=y), limits)
    stiff, stiff_test = _initial_stiffness(model), _initial_stiffness(test)
    stated = model.x_unit is not None and model.y_unit is not None
    unit = ratio(model.y_unit or "", model.x_unit or "") if stated else None
    if np.isfinite(stiff_test):
        metrics.append(
            Metric("initial_stiffness", "Initial stiffness", stiff, stiff_test, unit, _share(stiff, stiff_test), limits.stiffness)
        )
    expected = np.interp(x, u, f)
    along = np.argsort(x, kind="stable")
    work, work_test = (float(np.trapezoid(v[along], x[along])) for v in (expected, y))
    energy_unit = product(model.y_unit or "", model.x_unit or "") if stated else None
    metrics.append(
        Metric("energy_total", "Energy over the range", work, work_test, energy_unit, _share(work, work_test), limits.energy)
    )
    return Match("monotonic", tuple(metrics), _deviation(x, y, expected, model, limits), corrections, tuple(notes))


def in_time(curve: Curve) -> bool:
    """Whether a curve runs over time that always grows."""
    return curve.x_unit is not None and same_kind(curve.x_unit, "s") and bool((np.diff(curve.x) > 0).all())


def best_shift(model: Curve, test: Curve, most: float) -> float:
    """By how much later than the test the model is, (-most, most): the shift with the least mean square difference.

    Looked for on 401 even shifts, then refined within the best one's neighbours (Brent's bounded method).
    """
    tried = np.linspace(-most, most, 401)
    off = [_off(model, test, s) for s in tried]
    best = int(np.argmin(off))
    around = tried[max(best - 1, 0)], tried[min(best + 1, len(tried) - 1)]
    found = minimize_scalar(lambda s: _off(model, test, s), bounds=around, method="bounded", options={"xatol": 1e-7 * most})
    return float(found.x) if found.fun < off[best] else float(tried[best])


def _off(model: Curve, test: Curve, shift: float) -> float:
    """Mean square difference where both are, the model brought back by the shift; endless where less than half the test is."""
    x = test.x + shift
    inside = (x >= model.x[0]) & (x <= model.x[-1])
    if 2 * inside.sum() < len(x):
        return float("inf")
    return float(np.mean((np.interp(x[inside], model.x, model.y) - test.y[inside]) ** 2))


def _match_transient(model: Curve, test: Curve, limits: Limits, corrections: tuple[str, ...]) -> Match:
    notes = list(test.notes)
    lasts = min(float(np.ptp(model.x)), float(np.ptp(test.x)))
    if not np.isfinite(_off(model, test, 0.0)):
        raise IronstoneError(
            "The model and the test have no common time.",
            f"The model runs from {model.x[0]:.4g} to {model.x[-1]:.4g}, the test from {test.x[0]:.4g} to {test.x[-1]:.4g}: "
            "check unit and zero of the time.",
        )
    shift = best_shift(model, test, 0.1 * lasts)
    if shift and _off(model, test, shift) > (1 - 1e-6) * _off(model, test, 0.0):
        shift = 0.0
    x = test.x + shift
    inside = (x >= model.x[0]) & (x <= model.x[-1])
    expected = np.interp(x[inside], model.x, model.y)
    word = "later" if shift > 0 else "earlier"
    if shift:
        notes.append(f"The model is {abs(shift):.4g} {model.x_unit} {word} than the test: compared with that taken out.")
    if not inside.all():
        notes.append(f"{int((~inside).sum())} of {len(inside)} test points lie outside the model's time and are left out.")
    deviation = _deviation(test.x[inside], test.y[inside], expected, model, limits)
    return Match("transient", tuple(_peaks(model, test, limits)), deviation, corrections, tuple(notes), shift)


def _initial_stiffness(curve: Curve) -> float:
    """Slope by regression between 10 % and 40 % of the peak, before the peak."""
    peak = int(np.argmax(np.abs(curve.y)))
    y = np.abs(curve.y[: peak + 1])
    window = (y >= 0.1 * y[-1]) & (y <= 0.4 * y[-1])
    x = curve.x[: peak + 1][window]
    if len(x) < 2 or np.ptp(x) == 0.0:
        level = np.argsort(y)
        a, b = np.interp([0.1 * y[-1], 0.4 * y[-1]], y[level], curve.x[: peak + 1][level])
        return float(0.3 * abs(y[-1]) / (b - a)) if b != a else float("nan")
    return float(np.polyfit(x, curve.y[: peak + 1][window], 1)[0])


def _deviation(x: Float, y: Float, expected: Float, model: Curve, limits: Limits) -> Deviation:
    away = expected - y
    rms = float(np.sqrt(np.mean(away**2)))
    reach = float(np.abs(y).max())
    worst = int(np.argmax(np.abs(away)))
    spread = float(((y - y.mean()) ** 2).sum())
    return Deviation(
        rms=rms,
        share=rms / reach if reach else float("nan"),
        largest=float(away[worst]),
        largest_at_x=float(x[worst]),
        determination=1.0 - float((away**2).sum()) / spread if spread else float("nan"),
        unit=model.y_unit,
        limit=limits.deviation,
        x=x,
        away=away,
    )


def _share(a: float, b: float) -> float:
    return a / b if b else float("nan")
