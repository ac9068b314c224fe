"""Several records of one test: their mean and how far they scatter, branch by branch."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ironstone.core.curves import Curve, reversals
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh import Float

PLACES = 60


@dataclass(frozen=True, eq=False)
class Scatter:
    """mean: the mean record. low, high, deviation: (points,) of its y: lowest, highest, standard deviation (n - 1)."""

    mean: Curve
    low: Float
    high: Float
    deviation: Float
    count: int
    notes: tuple[str, ...]

    @property
    def share(self) -> float:
        """The largest standard deviation against the largest mean |y|."""
        reach = float(np.abs(self.mean.y).max(initial=0.0))
        return float(self.deviation.max(initial=0.0)) / reach if reach else 0.0


def scatter(records: Sequence[Curve], places: int = PLACES) -> Scatter:
    """Mean and scatter of records of one test, in the units of the first.

    Each record is cut at the reversals of its driver; points at the same share of the way along the same branch belong together,
    and both driver and force are averaged there. Records with fewer branches end the mean.
    """
    if len(records) < 2:
        raise IronstoneError("A mean takes two records or more.", "Bring another in.")
    units = records[0].x_unit, records[0].y_unit
    known = [r.in_units(*units) for r in records]
    cut = []
    for number, record in enumerate(known, start=1):
        if len(record.x) < 2 or not (np.isfinite(record.x).all() and np.isfinite(record.y).all()):
            raise IronstoneError(f"Record {number} has points without a value.", "Cut or fill the gaps first.")
        cut.append(_branches(record))
    count = min(len(b) for b in cut)
    notes = []
    if len({len(b) for b in cut}) > 1:
        notes.append(f"The records have {', '.join(str(len(b)) for b in cut)} branches: the first {count} are averaged.")
    x = np.stack([np.concatenate([_along(r.x[s], places) for s in b[:count]]) for r, b in zip(known, cut, strict=True)])
    y = np.stack([np.concatenate([_of(r, s, places) for s in b[:count]]) for r, b in zip(known, cut, strict=True)])
    mean = Curve(x.mean(0), y.mean(0), *units, records[0].x_label, records[0].y_label)
    return Scatter(mean, y.min(0), y.max(0), y.std(0, ddof=1), len(records), tuple(notes))


def _branches(record: Curve) -> list[slice]:
    ends = np.concatenate([[0], reversals(record.x), [len(record.x) - 1]])
    return [slice(int(a), int(b) + 1) for a, b in zip(ends[:-1], ends[1:], strict=True) if b > a]


def _along(x: Float, places: int) -> Float:
    """The driver at even shares of the way from one end of a branch to the other."""
    return np.linspace(x[0], x[-1], places)


def _of(record: Curve, branch: slice, places: int) -> Float:
    """The force there: against a driver that is noisy, it is read off in order of travel."""
    x, y = record.x[branch], record.y[branch]
    way = 1.0 if x[-1] >= x[0] else -1.0
    order = np.argsort(way * x, kind="stable")
    result: Float = np.interp(way * _along(x, places), way * x[order], y[order])
    return result
