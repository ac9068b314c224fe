"""Which branches of two curves belong together, and what one curve is where the other has its points.

A branch is a run of the driver one way. Two curves of one thing may be sampled otherwise, stop earlier, repeat more often or start
the other way: branches are paired in order, only those that run the same way from about the same place, and as many as that allows.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.curves.curves import Curve
from ironstone.core.curves.reversals import branches
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float, Int

# Costs as shares of the range of both drivers: of leaving a branch out, of starts that lie apart, of ends that do.
LEFT_OUT, START, END = 0.2, 1.0, 0.25
MOST_PAIRS = 4_000_000


@dataclass(frozen=True, eq=False)
class Branches:
    """A curve cut where its driver turns: first and last position of each run, (n, 2)."""

    curve: Curve
    bounds: Int

    @classmethod
    def of(cls, curve: Curve, prominence: float | None = None) -> Branches:
        return cls(curve, branches(curve.x, prominence))

    def __len__(self) -> int:
        return len(self.bounds)

    @property
    def ends(self) -> Float:
        """The driver where each run begins and ends, (n, 2)."""
        return np.asarray(self.curve.x[self.bounds], dtype=np.float64)

    def run(self, branch: int) -> tuple[Float, Float]:
        """Driver and force along a branch, in the order of travel."""
        first, last = self.bounds[branch]
        return self.curve.x[first : last + 1], self.curve.y[first : last + 1]


def paired(model: Branches, test: Branches) -> list[tuple[int, int]]:
    """Pairs of branches (of the model, of the test) in order: as many as run alike, the earliest of equals."""
    if len(model) * len(test) > MOST_PAIRS:
        raise IronstoneError(
            f"The curves turn {len(model)} and {len(test)} times: too often to be compared branch by branch.",
            "State a larger share of the driver's range below which wiggles are no turns.",
        )
    a, b = model.ends, test.ends
    everything = np.concatenate([a.ravel(), b.ravel()])
    reach = float(np.ptp(everything)) if len(everything) else 0.0
    if reach <= 0.0:
        return []
    apart = np.abs(a[:, None, :] - b[None, :, :]) / reach
    cost = START * apart[:, :, 0] + END * apart[:, :, 1]
    alike = np.sign(a[:, 1] - a[:, 0])[:, None] == np.sign(b[:, 1] - b[:, 0])[None, :]
    cost[~alike | (cost >= 2 * LEFT_OUT)] = np.inf
    # The least cost of what follows, from the end; then forwards along it, pairing where that is no worse.
    n, m = cost.shape
    rest = np.zeros((n + 1, m + 1))
    rest[:, m] = LEFT_OUT * np.arange(n, -1, -1)
    rest[n, :] = LEFT_OUT * np.arange(m, -1, -1)
    for i in range(n - 1, -1, -1):
        for j in range(m - 1, -1, -1):
            rest[i, j] = min(cost[i, j] + rest[i + 1, j + 1], LEFT_OUT + rest[i + 1, j], LEFT_OUT + rest[i, j + 1])
    found, i, j = [], 0, 0
    while i < n and j < m:
        if cost[i, j] + rest[i + 1, j + 1] <= rest[i, j] + 1e-12:
            found.append((i, j))
            i, j = i + 1, j + 1
        elif rest[i, j + 1] <= rest[i + 1, j]:
            j += 1
        else:
            i += 1
    return found


def at_driver(u: Float, f: Float, x: Float, nearest: Float) -> Float:
    """A branch's force (u, f, in the order of travel) at places x of its driver, straight between points.

    Where the driver stands still the force may have any value it went through there: the one nearest to ``nearest`` (of x) is told.
    """
    way = 1.0 if u[-1] >= u[0] else -1.0
    order = np.argsort(way * u, kind="stable")
    along, force = way * u[order], f[order]
    answer = np.interp(way * x, along, force)
    distinct, start, count = np.unique(along, return_index=True, return_counts=True)
    if (count == 1).all():
        return np.asarray(answer, dtype=np.float64)
    low, high = np.minimum.reduceat(force, start), np.maximum.reduceat(force, start)
    where = np.clip(np.searchsorted(distinct, way * x), 0, len(distinct) - 1)
    still = (distinct[where] == way * x) & (count[where] > 1)
    result: Float = np.where(still, np.clip(nearest, low[where], high[where]), answer)
    return result


@dataclass(frozen=True, eq=False)
class Compared:
    """One pair of branches over what both cover. x, y, expected: the test's points and the model there; away: points left out.

    model_x, model_y, model_test: the model's points and the test there.
    """

    pair: tuple[int, int]
    x: Float
    y: Float
    expected: Float
    away: int
    model_x: Float
    model_y: Float
    model_test: Float

    @property
    def work(self) -> tuple[float, float]:
        """The integral of force by driver over what both cover, of the model and of the test, on the points of both."""
        way = 1.0 if len(self.x) < 2 or self.x[-1] >= self.x[0] else -1.0
        x = np.concatenate([self.x, self.model_x])
        order = np.argsort(way * x, kind="stable")
        both = (np.concatenate([self.expected, self.model_y])[order], np.concatenate([self.y, self.model_test])[order])
        return float(np.trapezoid(both[0], x[order])), float(np.trapezoid(both[1], x[order]))


def compared(model: Branches, test: Branches, pair: tuple[int, int]) -> Compared:
    """The points of one pair of branches over the range both cover."""
    (u, f), (x, y) = model.run(pair[0]), test.run(pair[1])
    low, high = max(u.min(), x.min()), min(u.max(), x.max())
    mine, theirs = (u >= low) & (u <= high), (x >= low) & (x <= high)
    expected = at_driver(u, f, x[theirs], y[theirs])
    other = at_driver(x, y, u[mine], f[mine])
    return Compared(pair, x[theirs], y[theirs], expected, int((~theirs).sum()), u[mine], f[mine], other)
