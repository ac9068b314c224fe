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
# A push that lets go for less than this share of its length goes on (common practice, no source).
LETS_GO = 0.1
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
    """When the push around the largest force begins and ends: where its size comes from, and falls to, a hundredth of that. What
    lets go for less than a tenth of the push, as touching bodies do at first, goes on.

    Raises Impossible where nothing pushes, or it does from the first step or to the last.
    """
    size = np.abs(np.nan_to_num(force))
    top = int(np.argmax(size))
    if not size[top] > 0.0:
        raise Impossible("Nothing pushes at any step.", "Choose the force of the contact, or say when the event begins and ends.")
    pushed = size > TOUCHES * size[top]
    # Runs of steps at which something pushes: the first of each, and the one after its last.
    turns = np.flatnonzero(np.diff(np.r_[False, pushed, False].astype(np.int8)))
    runs = [(int(a), int(b)) for a, b in zip(turns[::2], turns[1::2], strict=True)]
    k = next(k for k, (a, b) in enumerate(runs) if a <= top < b)
    first, last = k, k
    while True:
        begin, end = runs[first][0], runs[last][1]
        if begin == 0 or end == len(time):
            raise Impossible("It is pushed from the first step on, or to the last one.", "Say when the event begins and ends.")
        short = LETS_GO * float(time[end] - time[begin - 1])
        if first > 0 and time[begin] - time[runs[first - 1][1] - 1] < short:
            first -= 1
        elif last + 1 < len(runs) and time[runs[last + 1][0]] - time[end - 1] < short:
            last += 1
        else:
            return float(time[begin - 1]), float(time[end])


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
