"""Several answers at each place made into one: the larger of two, a harmonic at its phase, its magnitude, its peak."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.sliced import PEAK
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.resolve import linear
from ironstone.core.reading.resolved import Resolved, Values


def replaces(how: str, first: Float, second: Float) -> NDArray[np.bool_]:
    """Where a second value takes the place of a first: it is larger (smaller, of larger magnitude), or the first is missing."""
    with np.errstate(invalid="ignore"):
        beyond = {"largest": second > first, "smallest": second < first, "magnitude": np.abs(second) > np.abs(first)}[how]
    return np.asarray(beyond | (np.isnan(first) & ~np.isnan(second)))


def in_phase(at: Callable[[float], Values], resolved: Resolved) -> Values:
    """A harmonic at its phase; of a component its magnitude, which is also its peak; of any other measure its peak."""
    if isinstance(resolved.phase, float):
        return at(resolved.phase)
    if resolved.phase == PEAK and not linear(resolved.measure):
        return _peak(at)
    real, imaginary = at(0.0), at(-90.0)
    return replace(real, values=np.hypot(real.values, imaginary.values))


def _peak(at: Callable[[float], Values]) -> Values:
    """The largest magnitude over a cycle, with its sign: sampled every 5 degrees, then the vertex of a parabola through three."""
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
    # Where the measure turns a corner at its peak no parabola fits: the sample itself is taken.
    smooth = np.isfinite(vertex) & (np.abs(vertex - here) <= 0.01 * np.abs(here))
    return replace(answer[0], values=np.where(smooth, vertex, here))
