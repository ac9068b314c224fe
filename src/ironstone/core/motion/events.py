"""Before and after of an event: speed in and out, coefficient of restitution, impulse against change of momentum.

Restitution is the relative speed of parting over that of approach; the impulse of what pushes is the change of momentum it makes
(Newton).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.mesh.mesh import Float

# What pushes by less than this share of its largest does not count as the event (common practice, no source).
TOUCHES = 0.01
# Speeds are means over so many steps before and after.
STEPS = 3


@dataclass(frozen=True)
class Event:
    """From when to when something pushed, and the relative speeds before and after, towards the other and away from it."""

    begins: float
    ends: float
    before: float
    after: float

    @property
    def restitution(self) -> float | None:
        """-after / before; None where nothing approached."""
        return None if self.before == 0.0 else -self.after / self.before


def duration(time: Float, force: Float) -> tuple[float, float]:
    """When the push around the largest force begins and ends: where its size comes from, and falls to, a hundredth of that.

    Raises Impossible where nothing pushes, or it does from the first step or to the last.
    """
    size = np.abs(np.nan_to_num(force))
    top = int(np.argmax(size))
    if not size[top] > 0.0:
        raise Impossible("Nothing pushes at any step.", "Choose the force of the contact, or say when the event begins and ends.")
    quiet = size <= TOUCHES * size[top]
    before, after = np.flatnonzero(quiet[:top]), np.flatnonzero(quiet[top:])
    if not len(before) or not len(after):
        raise Impossible("It is pushed from the first step on, or to the last one.", "Say when the event begins and ends.")
    return float(time[before[-1]]), float(time[top + after[0]])


def event(time: Float, speed: Float, begins: float, ends: float) -> Event:
    """Of a relative speed over time (n,) the means of a few steps before and after. Raises Impossible where there are none."""
    first, last = np.flatnonzero(time <= begins)[-STEPS:], np.flatnonzero(time >= ends)[:STEPS]
    if not begins < ends or not len(first) or not len(last):
        raise Impossible(
            f"There is no step before {begins:.4g} and after {ends:.4g}.", f"Times run from {time[0]:.4g} to {time[-1]:.4g}."
        )
    return Event(begins, ends, float(np.nanmean(speed[first])), float(np.nanmean(speed[last])))


def impulse(time: Float, force: Float, begins: float, ends: float) -> float:
    """Integral of a force over an event, straight between its steps."""
    inside = (time > begins) & (time < ends)
    t = np.concatenate([[begins], time[inside], [ends]])
    return float(np.trapezoid(np.interp(t, time, force), t))
