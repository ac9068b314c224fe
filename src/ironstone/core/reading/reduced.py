"""Several answers at each place made into one: the larger of two, a harmonic at its phase, its magnitude, its peak."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.sliced import ANGLE, PEAK
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.resolve import linear
from ironstone.core.reading.resolved import Resolved, Values


def replaces(how: str, first: Float, second: Float) -> NDArray[np.bool_]:
    """Where a second value takes the place of a first: it is larger (smaller, of larger magnitude), or the first is missing."""
    with np.errstate(invalid="ignore"):
        beyond = {"largest": second > first, "smallest": second < first, "magnitude": np.abs(second) > np.abs(first)}[how]
    return np.asarray(beyond | (np.isnan(first) & ~np.isnan(second)))


def in_phase(at: Callable[[float], Values], resolved: Resolved) -> Values:
    """A harmonic at its phase; of a component its magnitude, which is also its peak; of any other measure its peak; or the phase at
    which that is reached, in the reading's unit of angles: of a component that of its largest value, from 0 to a full turn."""
    if isinstance(resolved.phase, float):
        return at(resolved.phase)
    if not linear(resolved.measure) and resolved.phase in (PEAK, ANGLE):
        largest, degrees = _peak(at)
        return largest if resolved.phase == PEAK else replace(largest, values=resolved.factor * degrees)
    real, imaginary = at(0.0), at(-90.0)
    size = np.hypot(real.values, imaginary.values)
    if resolved.phase == ANGLE:
        # Re cos a - Im sin a = |X| cos(a + arg X).
        turned = np.degrees(-np.arctan2(imaginary.values, real.values)) % 360.0
        return replace(real, values=resolved.factor * np.where(size > 0.0, turned, np.nan))
    return replace(real, values=size)


# Whether the square of a measure is that of a quadratic form is proved at a fourth phase, within this share of its largest.
QUADRATIC = 1e-6


def _peak(at: Callable[[float], Values]) -> tuple[Values, Float]:
    """The largest magnitude over a cycle, with its sign, and the phase it is reached at, in degrees."""
    found = _of_quadratic(at)
    return found if found is not None else _sampled(at)


def _of_quadratic(at: Callable[[float], Values]) -> tuple[Values, Float] | None:
    """Of a measure that is the root of a quadratic form of the components (von Mises, a length): m^2 = A + B cos 2a + C sin 2a,
    told by three phases; exact. None where a fourth one proves it is not."""
    answers = [at(phase) for phase in (0.0, 60.0, 120.0, 37.0)]
    squares = [np.asarray(a.values, dtype=np.float64) ** 2 for a in answers]
    if any((a.values < 0.0).any() for a in answers):
        return None
    mean = (squares[0] + squares[1] + squares[2]) / 3.0
    b = (2.0 * squares[0] - squares[1] - squares[2]) / 3.0
    c = (squares[1] - squares[2]) / np.sqrt(3.0)
    told = mean + b * np.cos(np.radians(74.0)) + c * np.sin(np.radians(74.0))
    largest = mean + np.hypot(b, c)
    if np.isnan(squares[3]).sum() != np.isnan(told).sum() or (np.abs(told - squares[3]) > QUADRATIC * largest).any():
        return None
    degrees = np.degrees(0.5 * np.arctan2(c, b)) % 180.0
    return replace(answers[0], values=np.sqrt(largest)), np.where(largest > 0.0, degrees, np.nan)


def _sampled(at: Callable[[float], Values]) -> tuple[Values, Float]:
    """The same of any measure: sampled every 5 degrees, then the vertex of a parabola through three."""
    phases = np.arange(0.0, 360.0, 5.0)
    answer = [at(float(phase)) for phase in phases]
    table = np.stack([t.values for t in answer])
    there = ~np.isnan(table).all(0)
    top = np.zeros(table.shape[1], dtype=np.int64)
    top[there] = np.nanargmax(np.abs(table[:, there]), axis=0)
    column = np.arange(table.shape[1])
    before, here, after = (table[(top + i) % len(phases), column] for i in (-1, 0, 1))
    bend = before - 2 * here + after
    with np.errstate(invalid="ignore", divide="ignore"):
        vertex = np.where(bend != 0.0, here - (after - before) ** 2 / (8 * bend), here)
        shift = np.where(bend != 0.0, -0.5 * (after - before) / bend, 0.0)
    # Where the measure turns a corner at its peak no parabola fits: the sample itself is taken.
    smooth = np.isfinite(vertex) & (np.abs(vertex - here) <= 0.01 * np.abs(here))
    degrees = (phases[top] + 5.0 * np.where(smooth, shift, 0.0)) % 360.0
    values = np.where(smooth, vertex, here)
    return replace(answer[0], values=values), np.where(there & (values != 0.0), degrees, np.nan)
