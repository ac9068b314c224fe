"""Curves and loops: cycles, the energy in them, secant stiffness and equivalent viscous damping."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ironstone.core.curves.reversals import (
    CLOSURE,
    PROMINENCE,
    crossing_level,
    noise_of,
    positive_peaks,
    prominence_of,
    upward_crossings,
)
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.rounding import settle
from ironstone.core.units import convert, product, ratio


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
    """The mean over so many samples about each, of an even number with the outer two counted half, so that nothing is delayed; the
    ends are held, so that a record keeps its length, first and last level."""
    before = samples // 2
    weights = np.ones(2 * before + 1)
    if samples % 2 == 0:
        weights[[0, -1]] = 0.5
    padded = np.pad(np.asarray(values, dtype=np.float64), before, mode="edge")
    result: Float = np.convolve(padded, weights / samples, mode="valid")
    return result


FEW = 0.05


def coarse(x: Float, y: Float) -> tuple[int, float] | None:
    """Where steps are too few for a curve: the position and how far it may be off between steps, as a share of its range.

    Left out and drawn straight between its neighbours, a point shows the error of steps twice as wide; that of the steps as they
    are is about a quarter of it (linear interpolation, error in the square of the step). None where that is under 5 %.
    """
    x, y = np.asarray(x, dtype=np.float64), np.asarray(y, dtype=np.float64)
    reach = float(np.nanmax(y) - np.nanmin(y)) if np.isfinite(y).any() else 0.0
    if len(x) < 3 or reach <= 1e-6 * float(np.nanmax(np.abs(y), initial=0.0)) or not (np.diff(x) > 0).all():
        return None
    share = (x[1:-1] - x[:-2]) / (x[2:] - x[:-2])
    off = np.nan_to_num(np.abs(y[1:-1] - (y[:-2] + share * (y[2:] - y[:-2])))) / 4 / reach
    worst = int(np.argmax(off))
    return (worst + 1, float(off[worst])) if off[worst] > FEW else None


@dataclass(frozen=True)
class Cycle:
    """One cycle of a loop, from ``start`` to ``stop`` (positions, both included).

    energy: the integral of F du over it, its ends joined by a chord, in y unit times x unit, signed. x_peak, x_trough: the driver's
    extremes; y_peak, y_trough: the force there. closed: its ends meet within 2 % of the amplitude. x_turn, y_turn: the peak before
    its trough, which is where it starts from when it runs from peak to peak.
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
    x_turn: float
    y_turn: float

    @property
    def level(self) -> float:
        """Half the way of the driver from the peak before the trough to it: of a cycle that ends on a higher peak that of its own
        level."""
        return (self.x_turn - self.x_trough) / 2.0

    @property
    def way_back(self) -> float:
        """Secant stiffness from the peak before the trough to it."""
        return (self.y_turn - self.y_trough) / (self.x_turn - self.x_trough)

    @property
    def box(self) -> float:
        """(F+ - F-)(u+ - u-), without sign: what an energy is small or large against."""
        return abs((self.y_peak - self.y_trough) * (self.x_peak - self.x_trough))

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
    """All cycles of a curve; units in the analyst's own (kN·mm, kN/mm).

    prominence: how far the driver had to come back to have turned, as a share of its range. notes: what was assumed, and where the
    points are too few.
    """

    cycles: tuple[Cycle, ...]
    x_unit: str | None
    y_unit: str | None
    prominence: float = PROMINENCE
    notes: tuple[str, ...] = ()

    @property
    def energy_total(self) -> float:
        """Energy of all cycles together (what comes before the first and after the last is not a cycle)."""
        return float(sum(c.energy for c in self.cycles))


LEVEL = 0.05


def envelope(found: Loops) -> tuple[Float, Float]:
    """The backbone: driver and force at every extreme beyond all before it, through its middle, from trough to peak.

    The middle is zero, or that of the first cycle where it turns about another mean. A peak (a trough) opens a new level where it
    lies more than 5 % beyond every one before it on its side, from the middle.
    """
    middle = (0.0, 0.0)
    if found.cycles:
        first = found.cycles[0]
        centre = (first.x_peak + first.x_trough) / 2, (first.y_peak + first.y_trough) / 2
        middle = centre if abs(centre[0]) > LEVEL * first.amplitude else middle
    points = [middle]
    up = down = 0.0
    for cycle in found.cycles:
        if cycle.x_peak - middle[0] > (1 + LEVEL) * up:
            up = cycle.x_peak - middle[0]
            points.append((cycle.x_peak, cycle.y_peak))
        if cycle.x_trough - middle[0] < (1 + LEVEL) * down:
            down = cycle.x_trough - middle[0]
            points.append((cycle.x_trough, cycle.y_trough))
    ordered = np.array(sorted(points))
    return ordered[:, 0], ordered[:, 1]


def retained(found: Loops) -> Float:
    """Stiffness of each cycle against that of the first at its level (within 5 %): what repetition has left of it.

    Of both from the peak to the trough after it: where the level grows, a cycle from peak to peak begins on one level and ends on
    the next, and no two of them would be alike.
    """
    kept = []
    firsts: list[Cycle] = []
    for cycle in found.cycles:
        same = next((f for f in firsts if abs(cycle.level - f.level) <= LEVEL * f.level), None)
        if same is None:
            firsts.append(cycle)
        first = cycle if same is None else same
        kept.append(cycle.way_back / first.way_back if first.way_back else float("nan"))
    return np.array(kept, dtype=np.float64)


def loops(curve: Curve, start: str = "peak", prominence: float | None = None) -> Loops:
    """Cycles of a curve. ``start``: 'peak', from one positive peak of the driver to the next, or 'zero', upward crossings of zero,
    of the middle of its range where it stays on one side of zero.

    prominence: how far the driver comes back to have turned, as a share of its range; None is found from its noise. Equivalent
    viscous damping E_D / (4 pi E_S0) about the loop's own centre, E_S0 = (F+ - F-)(u+ - u-) / 8; for a loop about zero that is the
    mean of F u / 2 at both extremes, after Jacobsen (1930) and Chopra, Dynamics of Structures, section 3.9.
    """
    if np.isnan(curve.x).any() or np.isnan(curve.y).any():
        missing = int(np.flatnonzero(np.isnan(curve.x) | np.isnan(curve.y))[0])
        raise IronstoneError(f"The curve has no value at position {missing}.", "Fill or cut the gap first.")
    if prominence is not None and not 0.0 < prominence < 1.0:
        raise IronstoneError(f"A prominence of {prominence:g} finds no turns.", "State a share of the driver's range, like 0.05.")
    share = prominence_of(curve.x, prominence)
    if start == "peak":
        marks = positive_peaks(curve.x, share)
    elif start == "zero":
        marks = upward_crossings(curve.x, share)
    else:
        raise IronstoneError(f"'{start}' is not a way to begin a cycle.", "Choose 'peak' or 'zero'.")
    noise = noise_of(curve.x)
    found = tuple(_cycle(curve, int(a), int(b), noise, start == "peak") for a, b in zip(marks[:-1], marks[1:], strict=True))
    return Loops(found, curve.x_unit, curve.y_unit, share, tuple(_said_of(curve, found, start, share, prominence is None)))


def _said_of(curve: Curve, found: tuple[Cycle, ...], start: str, share: float, by_itself: bool) -> list[str]:
    """What was assumed of the cycles, and where their points are too few."""
    notes = []
    if by_itself and share > PROMINENCE:
        notes.append(f"The driver is noisy: wiggles below {100 * share:.2g} % of its range are not taken for turns.")
    level = crossing_level(curve.x, share) if len(curve.x) else 0.0
    if start == "zero" and level:
        notes.append(f"The driver stays on one side of zero: cycles begin where it crosses {level:.4g}, the middle of its range.")
    # A cycle on the way from one level to the next is lopsided; the usual one tells what the record turns about.
    tops = [float(curve.x[c.start] + curve.x[c.stop]) / 2.0 if start == "peak" else c.x_peak for c in found]
    middles = [(top + c.x_trough) / (c.x_peak - c.x_trough) for top, c in zip(tops, found, strict=True)]
    if found and abs(float(np.median(middles))) > LEVEL:
        notes.append("The loops turn about a mean that is not zero: damping is told about their own centre.")
    off = [(_too_few(curve, c), i, c) for i, c in enumerate(found, start=1)]
    worst = max(off, default=(0.0, 0, None), key=lambda o: o[0])
    if worst[2] is not None and worst[0] > FEW:
        many = worst[2].stop - worst[2].start
        notes.append(f"Cycle {worst[1]} has {many} points: its energy may be off by about {100 * worst[0]:.2g} %.")
    return notes


def _too_few(curve: Curve, cycle: Cycle) -> float:
    """How far a cycle's energy may be off for want of points, as a share of it: a third of what every other point would change
    (the trapezoid rule's error falls with the square of the spacing)."""
    every = np.append(np.arange(cycle.start, cycle.stop, 2), cycle.stop)
    if cycle.stop - cycle.start > 64 or not cycle.energy:
        return 0.0
    u, f = curve.x[every], curve.y[every]
    fewer = float(np.trapezoid(f, u) + (f[0] + f[-1]) / 2.0 * (u[0] - u[-1]))
    return abs(cycle.energy - fewer) / 3.0 / abs(cycle.energy)


def _cycle(curve: Curve, start: int, stop: int, noise: float, from_peak: bool) -> Cycle:
    u, f = curve.x[start : stop + 1], curve.y[start : stop + 1]
    # Joined by a chord, so that the force's mean takes no part in it however small the gap.
    energy = float(np.trapezoid(f, u)) + float((f[0] + f[-1]) / 2.0 * (u[0] - u[-1]))
    top, bottom = int(np.argmax(u)), int(np.argmin(u))
    amplitude = (u[top] - u[bottom]) / 2.0
    gap = abs(float(u[-1] - u[0]))
    closed = gap <= max(CLOSURE * amplitude, 4.0 * noise)
    box = float((f[top] - f[bottom]) * (u[top] - u[bottom]))
    energy, stored = float(settle(energy, abs(box))), box / 8.0
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
        x_turn=float(u[0] if from_peak else u[top]),
        y_turn=float(f[0] if from_peak else f[top]),
    )
