"""Several records of one test: their mean and how far they scatter, branch by branch."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ironstone.core.curves.branch_pairs import Branches, at_driver
from ironstone.core.curves.curves import Curve
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float

PLACES = 60
# Turns of records of one test may lie this far apart, as a share of the range of their drivers.
ALIKE = 0.05


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


def scatter(records: Sequence[Curve], places: int = PLACES, prominence: float | None = None) -> Scatter:
    """Mean and scatter of records of one test, in the units of the first, over what all of them cover.

    Each record is cut at the reversals of its driver. Along a branch that all went to its end, points at the same share of the way
    belong together, and both driver and force are averaged there: turns that lie a little apart stay turns. Along the last one,
    where a record may stop earlier than others, points at the same driver belong together, as far as the shortest goes.
    Raises IronstoneError where records start opposite ways, where their forces do, or where they turn at different places.
    """
    if len(records) < 2:
        raise IronstoneError("A mean takes two records or more.", "Bring another in.")
    units = records[0].x_unit, records[0].y_unit
    known = [r.in_units(*units) for r in records]
    for number, record in enumerate(known, start=1):
        if len(record.x) < 2 or not (np.isfinite(record.x).all() and np.isfinite(record.y).all()):
            raise IronstoneError(f"Record {number} has points without a value.", "Cut or fill the gaps first.")
    cut = [Branches.of(r, prominence) for r in known]
    if not all(len(b) for b in cut):
        raise IronstoneError("The driver of a record does not move.", "Choose another column for it.")
    _start_alike(cut)
    count = min(len(b) for b in cut)
    notes = []
    if len({len(b) for b in cut}) > 1:
        notes.append(f"The records have {', '.join(str(len(b)) for b in cut)} branches: the first {count} are averaged.")
    reach = float(np.ptp(np.concatenate([r.x for r in known])))
    xs, ys = [], []
    for branch in range(count):
        runs = [b.run(branch) for b in cut]
        begins, ends = (np.array([u[k] for u, _ in runs]) for k in (0, -1))
        last = branch == count - 1
        for where, places_there in (("begins", begins), ("ends", ends)):
            if np.ptp(places_there) > ALIKE * reach and not (last and where == "ends"):
                raise IronstoneError(
                    f"The records turn at different places: branch {branch + 1} {where} at "
                    f"{', '.join(f'{v:.4g}' for v in places_there)}.",
                    "Average records of one load history.",
                )
        if np.ptp(ends) > ALIKE * reach:
            way = 1.0 if ends[0] >= begins[0] else -1.0
            shortest = way * float((way * ends).min())
            if way * shortest <= float((way * begins).max()):
                break
            notes.append(
                f"Record {int(np.argmin(way * ends)) + 1} goes to {shortest:.4g} alone, others to {way * (way * ends).max():.4g}: "
                "the mean ends there."
            )
            ends = np.full(len(runs), shortest)
        at = [np.linspace(a, b, places) for a, b in zip(begins, ends, strict=True)]
        xs.append(np.stack(at))
        ys.append(np.stack([at_driver(u, f, x, np.zeros(places)) for (u, f), x in zip(runs, at, strict=True)]))
    if not xs:
        raise IronstoneError("The records have no branch in common.", "Average records of one load history.")
    x, y = np.concatenate(xs, axis=1), np.concatenate(ys, axis=1)
    mean = Curve(x.mean(0), y.mean(0), *units, records[0].x_label, records[0].y_label)
    return Scatter(mean, y.min(0), y.max(0), y.std(0, ddof=1), len(records), tuple(notes))


def _start_alike(cut: Sequence[Branches]) -> None:
    """Refuse records whose means would cancel: drivers that start opposite ways, or forces that answer them so."""
    ways, sides = [], []
    for record in cut:
        u, f = record.run(0)
        ways.append(np.sign(u[-1] - u[0]))
        # The slope of the force over the first branch, by least squares: no single point decides.
        sides.append(np.sign(((u - u.mean()) * (f - f.mean())).sum()))
    for what, signs in (("driver", ways), ("force", sides)):
        other = [i + 1 for i, s in enumerate(signs) if s != signs[0]]
        if other:
            raise IronstoneError(
                f"Record {other[0]} starts the other way than record 1: its {what} has the opposite sign.",
                f"Reverse the sign of its {what}, or leave it out.",
            )
