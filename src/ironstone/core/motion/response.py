"""Frequency responses: amplitude, phase, peaks with damping by half power, levels in decibels, bands, agreement of two (FRAC).

A response is complex over frequency, X(f) = Re + i Im of what moves as Re cos a - Im sin a at phase a.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float

Complex = NDArray[np.complex128]
# A peak stands out by at least so many decibels (1 % of its own height), however high others are (common practice, no source).
PROMINENT = 0.1
# Reference of sound pressure in air, in Pa (IEC 61672).
SOUND = 20e-6


@dataclass(frozen=True)
class Peak:
    """One peak of an amplitude: where, how high, damping ratio by half power with the two frequencies, (lower, upper).

    damping is None where the amplitude does not fall to 1/sqrt 2 on both sides before it rises again or the sweep ends. bare: how
    many steps of the sweep lie between the half power points; below two the frequencies are too far apart for a damping. stands:
    by how many decibels it stands above the higher of the valleys beside it (its prominence).
    """

    frequency: float
    amplitude: float
    damping: float | None
    half: tuple[float, float] | None
    bare: int
    stands: float

    @property
    def quality(self) -> float | None:
        """1 / (2 zeta)."""
        return None if not self.damping else 0.5 / self.damping


def peaks(frequency: Float, amplitude: Float) -> list[Peak]:
    """Peaks of an amplitude over increasing frequencies, (n,) each.

    Between the steps 1/amplitude^2 is interpolated over the square of the frequency, by cubics: of one mass on a spring that is a
    parabola, so that its peak and half-power points are exact however coarse the sweep. Half power: (f2 - f1)/(2 f0) at 1/sqrt 2.
    """
    f, a = np.asarray(frequency, dtype=np.float64), np.asarray(amplitude, dtype=np.float64)
    known = np.isfinite(a) & (a > 0.0)
    f, a = f[known], a[known]
    if len(f) < 4:
        return []
    # A second to import, which whoever starts the bench would wait for.
    from scipy.interpolate import CubicSpline
    from scipy.signal import find_peaks

    at, told = find_peaks(20.0 * np.log10(a), prominence=PROMINENT)
    if not len(at):
        return []
    through = CubicSpline(f**2, 1.0 / a**2)
    between = [int(k + np.argmin(a[k : j + 1])) for k, j in zip(at[:-1], at[1:], strict=True)]
    valleys = [0, *between, len(f) - 1]
    beside = zip(at.tolist(), valleys[:-1], valleys[1:], told["prominences"].tolist(), strict=True)
    return [_peak(through, f, a, k, low, high, stands) for k, low, high, stands in beside]


def _peak(through: Any, f: Float, a: Float, k: int, low: int, high: int, stands: float) -> Peak:
    """The peak at a step of a sweep, between the valleys (steps) to either side. through: 1/amplitude^2 over the square."""
    turns = [float(r) for r in through.derivative().roots(extrapolate=False) if f[k - 1] ** 2 <= r <= f[k + 1] ** 2]
    top = min(turns, key=through, default=float(f[k]) ** 2)
    least = float(through(top))
    if not least > 0.0:
        top, least = float(f[k]) ** 2, float(a[k]) ** -2
    lower = _crossing(through, [top, *(x for x in f[low : k + 1][::-1] ** 2 if x < top)], 2.0 * least)
    upper = _crossing(through, [top, *(x for x in f[k : high + 1] ** 2 if x > top)], 2.0 * least)
    frequency, amplitude = float(np.sqrt(top)), float(least**-0.5)
    if lower is None or upper is None:
        return Peak(frequency, amplitude, None, None, 0, stands)
    inside = int(((f > lower) & (f < upper)).sum())
    return Peak(frequency, amplitude, (upper - lower) / (2.0 * frequency), (lower, upper), inside, stands)


def _crossing(through: Any, squares: list[float], level: float) -> float | None:
    """The frequency at which 1/amplitude^2 first reaches a level on the way through some squares of frequencies, from the peak
    outwards; None where it does not."""
    from scipy.optimize import brentq

    for inner, outer in zip(squares, squares[1:], strict=False):
        if float(through(outer)) >= level:
            near, far = sorted((inner, outer))
            return float(np.sqrt(brentq(lambda x: float(through(x)) - level, near, far, xtol=1e-13 * far)))
    return None


def decibels(amplitude: Float, reference: float) -> Float:
    """20 log10(amplitude / reference); no value where there is no amplitude."""
    with np.errstate(divide="ignore", invalid="ignore"):
        found: Float = 20.0 * np.log10(np.where(amplitude > 0.0, amplitude, np.nan) / reference)
    return found


def phase_degrees(response: Complex, unwrapped: bool = False) -> Float:
    """Phase in degrees, -180 to 180, or unwrapped along the sweep; no value where there is no amplitude."""
    angle = np.where(np.abs(response) > 0.0, np.angle(response), np.nan)
    if unwrapped:
        known = np.isfinite(angle)
        angle[known] = np.unwrap(angle[known])
    found: Float = np.degrees(angle)
    return found


def a_weighting(frequency: Float) -> Float:
    """A-weighting in dB, 0 at 1 kHz (IEC 61672-1, its analytical form, from memory)."""
    f = np.asarray(frequency, dtype=np.float64)

    def ratio(f: Float) -> Float:
        below = (f**2 + 20.598997**2) * np.sqrt((f**2 + 107.65265**2) * (f**2 + 737.86223**2)) * (f**2 + 12194.217**2)
        return np.asarray(12194.217**2 * f**4 / below)

    with np.errstate(divide="ignore"):
        found: Float = 20.0 * np.log10(ratio(f) / ratio(np.array(1000.0)))
    return found


def third_octaves(frequency: Float, level: Float) -> tuple[Float, Float]:
    """Centres of the third-octave bands a sweep has lines in, and the level of each: the energies of its lines added up.

    Centres are 1000 x 10^(n/10) Hz, edges 10^(1/20) to either side (IEC 61260-1). level: in dB, of each line (n,).
    """
    f = np.asarray(frequency, dtype=np.float64)
    known = np.isfinite(level) & (f > 0.0)
    number = np.round(10.0 * np.log10(f[known] / 1000.0)).astype(np.int64)
    bands = np.unique(number)
    energy = np.array([(10.0 ** (level[known][number == n] / 10.0)).sum() for n in bands])
    return 1000.0 * 10.0 ** (bands / 10.0), 10.0 * np.log10(energy)


def derived(frequency: Float, response: Complex | Float, times: int) -> Complex | Float:
    """A response differentiated over time so many times, integrated where ``times`` is below zero: multiplied by (i 2 pi f)^times.

    No value at 0 Hz where it is integrated. An amplitude without a phase stays one.
    """
    w = 2.0 * np.pi * np.asarray(frequency, dtype=np.float64)
    w = np.where((w == 0.0) & (times < 0), np.nan, w)
    with np.errstate(invalid="ignore"):
        found: Complex | Float = response * (1j * w) ** times if np.iscomplexobj(response) else response * w**times
    return found


def with_phase(response: Complex | Float) -> Complex | None:
    """A response that is complex; None of an amplitude alone."""
    return np.asarray(response, dtype=np.complex128) if np.iscomplexobj(response) else None
