"""Curves and loops: reversals, cycles, the energy in them, secant stiffness and equivalent viscous damping."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh import Float, Int
from ironstone.core.units import convert, product, ratio

PROMINENCE = 0.02
CLOSURE = 0.02


@dataclass(frozen=True, eq=False)
class Curve:
    """One quantity against another: x and y of one length, their units ('' is a pure number, None is not stated)."""

    x: Float
    y: Float
    x_unit: str | None = None
    y_unit: str | None = None
    x_label: str = "x"
    y_label: str = "y"
    notes: tuple[str, ...] = field(default=())

    def __post_init__(self) -> None:
        if len(self.x) != len(self.y):
            raise IronstoneError(f"A curve needs as many x as y: {len(self.x)} against {len(self.y)}.")

    def in_units(self, x_unit: str | None, y_unit: str | None) -> Curve:
        """The same curve in other units; a curve whose unit is not stated is taken as it is, and says so."""
        notes = list(self.notes)

        def turn(values: Float, have: str | None, want: str | None, label: str) -> tuple[Float, str | None]:
            if want is None or have == want:
                return values, have
            if have is None:
                notes.append(f"{label}: unit not stated, taken as {want or 'a pure number'}.")
                return values, want
            return convert(values, have, want), want

        x, xu = turn(self.x, self.x_unit, x_unit, self.x_label)
        y, yu = turn(self.y, self.y_unit, y_unit, self.y_label)
        return Curve(x, y, xu, yu, self.x_label, self.y_label, tuple(notes))


def moving_mean(values: Float, samples: int) -> Float:
    """The mean over so many samples about each; the ends are held, so that a record keeps its length, first and last level."""
    before = samples // 2
    padded = np.pad(np.asarray(values, dtype=np.float64), (before, samples - 1 - before), mode="edge")
    result: Float = np.convolve(padded, np.ones(samples) / samples, mode="valid")
    return result


FEW = 0.05


def coarse(x: Float, y: Float) -> tuple[int, float] | None:
    """Where steps are too few for a curve: the position and how far it may be off between steps, as a share of its range.

    Left out and drawn straight between its neighbours, a point shows the error of steps twice as wide; that of the steps as they
    are is about a quarter of it (linear interpolation, error in the square of the step). None where that is under 5 %.
    """
    x, y = np.asarray(x, dtype=np.float64), np.asarray(y, dtype=np.float64)
    reach = float(np.nanmax(y) - np.nanmin(y)) if np.isfinite(y).any() else 0.0
    if len(x) < 3 or reach <= 0.0 or not (np.diff(x) > 0).all():
        return None
    share = (x[1:-1] - x[:-2]) / (x[2:] - x[:-2])
    off = np.nan_to_num(np.abs(y[1:-1] - (y[:-2] + share * (y[2:] - y[:-2])))) / 4 / reach
    worst = int(np.argmax(off))
    return (worst + 1, float(off[worst])) if off[worst] > FEW else None


def reversals(driver: Float, prominence: float = PROMINENCE) -> Int:
    """Positions where the driver turns, ignoring wiggles below ``prominence`` times its range; the ends are not included.

    A turn is confirmed once the driver has moved back by the prominence; of equal extremes the first counts.
    """
    driver = np.asarray(driver, dtype=np.float64)
    if len(driver) < 3:
        return np.zeros(0, dtype=np.int64)
    limit = prominence * float(np.ptp(driver))
    if limit <= 0.0:
        return np.zeros(0, dtype=np.int64)
    found: list[int] = []
    high = low = 0
    direction = 0
    for i, value in enumerate(driver.tolist()):
        if direction >= 0 and value > driver[high]:
            high = i
        if direction <= 0 and value < driver[low]:
            low = i
        if direction >= 0 and driver[high] - value > limit:
            if direction > 0:
                found.append(high)
            direction, low = -1, i
        elif direction <= 0 and value - driver[low] > limit:
            if direction < 0:
                found.append(low)
            direction, high = 1, i
    return np.array(found, dtype=np.int64)


def positive_peaks(driver: Float, prominence: float = PROMINENCE) -> Int:
    """The reversals where the driver turns downwards.

    An end of the record counts too when it stands as high as the nearest peak (within 2 % of the range), so that a record
    cut exactly at its peaks loses no cycle.
    """
    driver = np.asarray(driver, dtype=np.float64)
    turns = reversals(driver, prominence)
    if not len(turns):
        return turns
    before = np.concatenate([[driver[0]], driver[turns][:-1]])
    peaks = turns[driver[turns] > before].tolist()
    last = len(driver) - 1
    near = CLOSURE * float(np.ptp(driver))
    if driver[turns[0]] < driver[0] and driver[0] >= driver[peaks[0] if peaks else last] - near:
        peaks.insert(0, 0)
    if driver[turns[-1]] < driver[last] and driver[last] >= driver[peaks[-1] if peaks else 0] - near:
        peaks.append(last)
    return np.array(peaks, dtype=np.int64)


@dataclass(frozen=True)
class Cycle:
    """One cycle of a loop, from ``start`` to ``stop`` (positions, both included).

    energy: the integral of F du over it, in y unit times x unit, signed. x_peak, x_trough: the driver's extremes;
    y_peak, y_trough: the force there. closed: its ends meet within 2 % of the amplitude.
    """

    start: int
    stop: int
    energy: float
    closed: bool
    secant_stiffness: float
    damping_ratio: float
    x_peak: float
    y_peak: float
    x_trough: float
    y_trough: float

    @property
    def amplitude(self) -> float:
        return (self.x_peak - self.x_trough) / 2.0


class OfCurve:
    """Units of what is worked out of a curve, in the analyst's own (kN·mm, kN/mm); None where one is not stated."""

    x_unit: str | None
    y_unit: str | None

    @property
    def energy_unit(self) -> str | None:
        return None if self.x_unit is None or self.y_unit is None else product(self.y_unit, self.x_unit)

    @property
    def stiffness_unit(self) -> str | None:
        return None if self.x_unit is None or self.y_unit is None else ratio(self.y_unit, self.x_unit)


@dataclass(frozen=True)
class Loops(OfCurve):
    """All cycles of a curve; units in the analyst's own (kN·mm, kN/mm)."""

    cycles: tuple[Cycle, ...]
    x_unit: str | None
    y_unit: str | None

    @property
    def energy_total(self) -> float:
        """Energy of all cycles together (what comes before the first and after the last is not a cycle)."""
        return float(sum(c.energy for c in self.cycles))


LEVEL = 0.05


def envelope(found: Loops) -> tuple[Float, Float]:
    """The backbone: driver and force at every extreme that goes further than all before it, through zero, from trough to peak.

    A peak (a trough) opens a new level where it lies more than 5 % beyond every one before it on its side.
    """
    points = [(0.0, 0.0)]
    up = down = 0.0
    for cycle in found.cycles:
        if cycle.x_peak > (1 + LEVEL) * up:
            up = cycle.x_peak
            points.append((cycle.x_peak, cycle.y_peak))
        if cycle.x_trough < (1 + LEVEL) * down:
            down = cycle.x_trough
            points.append((cycle.x_trough, cycle.y_trough))
    ordered = np.array(sorted(points))
    return ordered[:, 0], ordered[:, 1]


def retained(found: Loops) -> Float:
    """Secant stiffness of each cycle against that of the first cycle at its level (within 5 %): what repetition has left of it."""
    kept = []
    firsts: list[Cycle] = []
    for cycle in found.cycles:
        same = next((f for f in firsts if abs(cycle.amplitude - f.amplitude) <= LEVEL * f.amplitude), None)
        if same is None:
            firsts.append(cycle)
        first = cycle if same is None else same
        kept.append(cycle.secant_stiffness / first.secant_stiffness if first.secant_stiffness else float("nan"))
    return np.array(kept, dtype=np.float64)


def loops(curve: Curve, start: str = "peak", prominence: float = PROMINENCE) -> Loops:
    """Cycles of a curve. ``start``: 'peak', from one positive peak of the driver to the next, or 'zero', upward crossings.

    Equivalent viscous damping E_D / (4 pi E_S0) with E_S0 the mean of F u / 2 at both extremes, after Jacobsen (1930) and
    Chopra, Dynamics of Structures, section 3.9.
    """
    if np.isnan(curve.x).any() or np.isnan(curve.y).any():
        missing = int(np.flatnonzero(np.isnan(curve.x) | np.isnan(curve.y))[0])
        raise IronstoneError(f"The curve has no value at position {missing}.", "Fill or cut the gap first.")
    if start == "peak":
        marks = positive_peaks(curve.x, prominence)
    elif start == "zero":
        marks = upward_crossings(curve.x, prominence)
    else:
        raise IronstoneError(f"'{start}' is not a way to begin a cycle.", "Choose 'peak' or 'zero'.")
    found = tuple(_cycle(curve, int(a), int(b)) for a, b in zip(marks[:-1], marks[1:], strict=True))
    return Loops(found, curve.x_unit, curve.y_unit)


def upward_crossings(driver: Float, prominence: float = PROMINENCE) -> Int:
    """Positions where the driver leaves zero upwards: one before each positive peak, and the end when it is back at zero."""
    peaks = positive_peaks(driver, prominence)
    near = prominence * float(np.ptp(driver))
    marks = []
    for a, b in zip(np.concatenate([[0], peaks[:-1]]), peaks, strict=True):
        below = np.flatnonzero(driver[a : b + 1] <= 0.0)
        if len(below):
            marks.append(int(a + below[-1]))
        elif a == 0 and driver[0] <= near:
            marks.append(0)
    if len(peaks) and driver[-1] >= -near:
        after = driver[peaks[-1] :]
        if after.min() < -near:
            marks.append(len(driver) - 1)
    return np.array(marks, dtype=np.int64)


def _cycle(curve: Curve, start: int, stop: int) -> Cycle:
    u, f = curve.x[start : stop + 1], curve.y[start : stop + 1]
    energy = float(np.trapezoid(f, u))
    top, bottom = int(np.argmax(u)), int(np.argmin(u))
    amplitude = (u[top] - u[bottom]) / 2.0
    gap = abs(float(u[-1] - u[0]))
    closed = gap <= CLOSURE * amplitude
    if not closed:
        energy += float((f[0] + f[-1]) / 2.0 * (u[0] - u[-1]))
    stored = 0.25 * float(f[top] * u[top] + f[bottom] * u[bottom])
    return Cycle(
        start=start,
        stop=stop,
        energy=energy,
        closed=bool(closed),
        secant_stiffness=float((f[top] - f[bottom]) / (u[top] - u[bottom])),
        damping_ratio=energy / (4.0 * np.pi * stored) if stored else float("nan"),
        x_peak=float(u[top]),
        y_peak=float(f[top]),
        x_trough=float(u[bottom]),
        y_trough=float(f[bottom]),
    )
