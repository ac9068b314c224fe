"""A curve that goes one way: stiffness, yield, ductility, energy; of stress against strain the figures of a tensile test."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ironstone.core.curves.curves import Curve, OfCurve
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float

LOW, HIGH = 0.1, 0.4


@dataclass(frozen=True)
class Monotonic(OfCurve):
    """stiffness: secant between 10 % and 40 % of the peak. yield_*: of the elastic-plastic line of equal energy up to the end.

    All is counted from the curve's first point, ``origin``; forces and displacements have their own signs (compression below
    zero), stiffness, energy (under the curve) and ductility (the end over the yield displacement) have none.
    """

    peak: float
    peak_at: float
    stiffness: float
    yield_force: float
    yield_at: float
    ductility: float
    energy: float
    end: float
    origin: tuple[float, float]
    x_unit: str | None
    y_unit: str | None


@dataclass(frozen=True, eq=False)
class FirstLoading:
    """Driver and force from the first point to where the driver is farthest from it, both counted from there and made positive.

    way, side: the sign they had, 1 or -1. origin: the first point.
    """

    x: Float
    y: Float
    way: float
    side: float
    origin: tuple[float, float]


def first_loading(curve: Curve) -> FirstLoading:
    """The first loading of a curve. Raises IronstoneError where there is none."""
    x, y = np.asarray(curve.x, dtype=np.float64), np.asarray(curve.y, dtype=np.float64)
    there = np.isfinite(x) & np.isfinite(y)
    x, y = x[there], y[there]
    if len(x) < 3:
        raise IronstoneError("The curve has fewer than three points.", "More steps are needed.")
    end = int(np.argmax(np.abs(x - x[0])))
    if end < 2:
        raise IronstoneError("The driver does not move.", "Choose another driver.")
    way = 1.0 if x[end] >= x[0] else -1.0
    side = 1.0 if y[end] >= y[0] else -1.0
    return FirstLoading(way * (x[: end + 1] - x[0]), side * (y[: end + 1] - y[0]), way, side, (float(x[0]), float(y[0])))


def monotonic(curve: Curve) -> Monotonic:
    """Figures of the first loading. Raises where the force never rises through 10 % and 40 % of its peak."""
    loading = first_loading(curve)
    x, y = loading.x, loading.y
    top = int(np.argmax(y))
    peak = float(y[top])
    if peak <= 0.0:
        raise IronstoneError("The force does not rise.", "Turn its sign, or choose another force.")
    low, high = (_crossing(x[: top + 1], y[: top + 1], share * peak) for share in (LOW, HIGH))
    if not high > low:
        raise IronstoneError("The curve is too steep for its steps: no stiffness can be read off.", "More steps are needed there.")
    stiffness = (HIGH - LOW) * peak / (high - low)
    energy = float(np.trapezoid(y, x))
    end = float(x[-1])
    # A = Fy u - Fy^2 / 2K, solved for Fy.
    inside = end**2 - 2.0 * energy / stiffness
    yield_force = stiffness * (end - np.sqrt(inside)) if inside > 0 and energy > 0 else float("nan")
    yield_at = yield_force / stiffness
    return Monotonic(
        peak=loading.side * peak,
        peak_at=loading.way * float(x[top]),
        stiffness=float(stiffness),
        yield_force=loading.side * float(yield_force),
        yield_at=loading.way * float(yield_at),
        ductility=float(end / yield_at) if yield_at else float("nan"),
        energy=energy,
        end=loading.way * end,
        origin=loading.origin,
        x_unit=curve.x_unit,
        y_unit=curve.y_unit,
    )


def _crossing(x: Float, y: Float, level: float) -> float:
    """Where a rising force first reaches a level, straight between points."""
    above = int(np.argmax(y >= level))
    if above == 0:
        return float(x[0])
    share = (level - y[above - 1]) / (y[above] - y[above - 1])
    return float(x[above - 1] + share * (x[above] - x[above - 1]))


@dataclass(frozen=True)
class Tensile:
    """modulus: by regression between 10 % and 40 % of the ultimate stress. proof: where the line offset by 0.002 meets the curve,
    NaN where it does not. ultimate and the strain there (uniform elongation); true values there: s(1+e), ln(1+e).

    Counted from the first point, ``origin``; stresses and strains of compression are below zero.
    """

    modulus: float
    proof: float
    ultimate: float
    uniform_strain: float
    true_ultimate: float
    true_uniform_strain: float
    origin: tuple[float, float]
    unit: str | None


def true_curve(curve: Curve) -> Curve:
    """True stress s (1 + e) against true strain ln(1 + e), of engineering ones; holds up to the neck."""
    pure = curve.in_units("", curve.y_unit)
    if (pure.x <= -1.0).any():
        raise IronstoneError("An engineering strain of -1 or less has no logarithm.", "Check the strain's unit.")
    return replace(pure, x=np.log1p(pure.x), y=pure.y * (1 + pure.x))


def tensile(curve: Curve, offset: float = 0.002) -> Tensile:
    """Figures of engineering stress (y) against strain (x, a pure number); after ISO 6892-1's definitions, from memory."""
    pure = curve.in_units("", curve.y_unit)
    loading = first_loading(pure)
    strain, stress, way, side = loading.x, loading.y, loading.way, loading.side
    top = int(np.argmax(stress))
    ultimate = float(stress[top])
    if ultimate <= 0.0:
        raise IronstoneError("The stress does not rise.", "Turn its sign.")
    window = (stress[: top + 1] >= LOW * ultimate) & (stress[: top + 1] <= HIGH * ultimate)
    if window.sum() < 2:
        raise IronstoneError("Fewer than two points lie between 10 % and 40 % of the ultimate.", "More steps are needed there.")
    modulus, start = np.polyfit(strain[: top + 1][window], stress[: top + 1][window], 1)
    below = stress - (modulus * (strain - offset) + start)
    crossed = np.flatnonzero((below[:-1] > 0) & (below[1:] <= 0))
    proof = float("nan")
    if len(crossed):
        i = int(crossed[0])
        share = below[i] / (below[i] - below[i + 1])
        proof = float(stress[i] + share * (stress[i + 1] - stress[i]))
    uniform = way * float(strain[top])
    return Tensile(
        modulus=float(modulus),
        proof=side * proof,
        ultimate=side * ultimate,
        uniform_strain=uniform,
        true_ultimate=side * ultimate * (1 + uniform),
        true_uniform_strain=float(np.log1p(uniform)),
        origin=loading.origin,
        unit=curve.y_unit,
    )
