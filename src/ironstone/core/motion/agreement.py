"""Two frequency responses held against each other: one figure over all frequencies (FRAC), and peak against peak.

A response is complex where its phase is known, else a real amplitude. The first is the model's, the second the test's.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.mesh.mesh import Float
from ironstone.core.motion.response import Complex, Peak, peaks
from ironstone.core.verdicts import AGREES, DOUBTFUL, FAILS, by_share, worst_of

Response = Complex | Float
# A peak is looked for in the other response within this share of its frequency (common practice, no source).
REACH = 0.15
# A test has noise: of it a peak is what stands out by so many decibels, and nothing is missed that stands out by less, or is lower
# than this share of the highest (common practice, no source).
COUNTS, LOW = 3.0, 0.01
# Below so many common frequencies nothing is said of two responses as a whole.
FEWEST = 4


@dataclass(frozen=True)
class Limits:
    """The analyst's own limits. frequency, amplitude: shares by which a peak may be off; frac: what FRAC has to be at least. Up to
    twice a share off is doubtful."""

    frequency: float = 0.05
    amplitude: float = 0.25
    frac: float = 0.80


@dataclass(frozen=True)
class PeakPair:
    """One peak of both. off: of the model's frequency from the test's, ratio: of its amplitude to the test's; both as shares."""

    model: Peak
    test: Peak
    frequency: str
    amplitude: str

    @property
    def off(self) -> float:
        return self.model.frequency / self.test.frequency - 1.0

    @property
    def ratio(self) -> float:
        return self.model.amplitude / self.test.amplitude

    @property
    def verdict(self) -> str:
        return worst_of([self.frequency, self.amplitude])


@dataclass(frozen=True)
class ResponseMatch:
    """How a response agrees with a test. low, high: the frequencies both have, compared at so many, every one of the sparser of the
    two. frac: of amplitudes alone where a phase is missing. alone: peaks of the model, then of the test, without a counterpart."""

    low: float
    high: float
    count: int
    frac: float
    with_phase: bool
    pairs: tuple[PeakPair, ...]
    alone: tuple[tuple[Peak, ...], tuple[Peak, ...]]
    limits: Limits

    @property
    def frac_verdict(self) -> str:
        """FRAC falls quickly with a small shift of a sharp peak: below its limit it is doubtful, and fails where the peaks do."""
        if not np.isfinite(self.frac):
            return ""
        if self.frac >= self.limits.frac:
            return AGREES
        return DOUBTFUL if any(p.verdict == AGREES for p in self.pairs) else FAILS

    @property
    def verdict(self) -> str:
        """One word over all peaks and FRAC; peaks without a counterpart are doubtful, and fail where there is no pair at all."""
        alone = any(self.alone)
        left = [FAILS if not self.pairs else DOUBTFUL] if alone else []
        return worst_of([*(p.verdict for p in self.pairs), self.frac_verdict, *left])


def held_against(f: Float, model: Response, g: Float, test: Response, limits: Limits | None = None) -> ResponseMatch:
    """A response (n,) over increasing frequencies f (n,) against a test (m,) over g (m,), in one unit.

    Compared over the frequencies both have, at those of the sparser of the two; the other is read there by cubics through its real
    and imaginary part. Peaks belong together so that their frequencies are off by least in all, one to one, within REACH.
    Raises Impossible where fewer than four frequencies are common.
    """
    limits = limits or Limits()
    f, model = _known(f, model)
    g, test = _known(g, test)
    low, high = max(_end(f, 0), _end(g, 0)), min(_end(f, -1), _end(g, -1))
    mine, theirs = (f >= low) & (f <= high), (g >= low) & (g <= high)
    at = f[mine] if mine.sum() < theirs.sum() else g[theirs]
    if len(at) < FEWEST or min(len(f), len(g)) < FEWEST:
        raise Impossible(
            f"The two responses have {len(at)} frequencies in common.", f"{FEWEST} are needed: see their ranges, and the unit."
        )
    with_phase = np.iscomplexobj(model) and np.iscomplexobj(test)
    a, b = (_read(x, y if with_phase else np.abs(y), at) for x, y in ((f, model), (g, test)))
    all_mine, all_theirs = ([p for p in peaks(x, np.abs(y)) if low <= p.frequency <= high] for x, y in ((f, model), (g, test)))
    together = _together(all_mine, all_theirs)
    pairs = tuple(_pair(all_mine[i], all_theirs[j], limits) for i, j in together)
    alone = (_missed(all_mine, {i for i, _ in together}), _missed(all_theirs, {j for _, j in together}))
    return ResponseMatch(low, high, len(at), frac(a, b), with_phase, pairs, alone, limits)


def _missed(found: list[Peak], paired: set[int]) -> tuple[Peak, ...]:
    highest = max((p.amplitude for p in found), default=0.0)
    return tuple(p for k, p in enumerate(found) if k not in paired and p.stands >= COUNTS and p.amplitude >= LOW * highest)


def _known(x: Float, y: Response) -> tuple[Float, Response]:
    there = np.isfinite(x) & np.isfinite(y)
    return np.asarray(x, dtype=np.float64)[there], y[there]


def _end(x: Float, which: int) -> float:
    return float(x[which]) if len(x) else float("nan")


def _read(x: Float, y: Response, at: Float) -> Response:
    """A response at some frequencies within its own; exactly what it has at those that are its own."""
    from scipy.interpolate import CubicSpline, PchipInterpolator

    # An amplitude has no overshoot below zero.
    found: Response = CubicSpline(x, y)(at) if np.iscomplexobj(y) else PchipInterpolator(x, y)(at)
    return found


def _together(mine: list[Peak], theirs: list[Peak]) -> list[tuple[int, int]]:
    """Which peaks belong together, one to one, by frequency."""
    if not mine or not theirs:
        return []
    from scipy.optimize import linear_sum_assignment

    first, second = (np.array([p.frequency for p in found]) for found in (mine, theirs))
    apart = np.abs(np.log(first[:, None] / second[None, :]))
    # To leave a peak of each without a counterpart costs as much as a pair that is as far apart as pairs may be.
    reach = float(np.log1p(REACH))
    fits = apart <= reach
    cost = np.where(fits, apart - reach, 0.0)
    rows, columns = linear_sum_assignment(cost)
    return [(int(i), int(j)) for i, j in zip(rows, columns, strict=True) if fits[i, j]]


def _pair(model: Peak, test: Peak, limits: Limits) -> PeakPair:
    off, ratio = abs(model.frequency / test.frequency - 1.0), abs(model.amplitude / test.amplitude - 1.0)
    return PeakPair(
        model,
        test,
        by_share(off, limits.frequency, 2 * limits.frequency),
        by_share(ratio, limits.amplitude, 2 * limits.amplitude),
    )


def frac(first: Response, second: Response) -> float:
    """Frequency response assurance criterion of two responses at the same frequencies, |a^H b|^2 / ((a^H a)(b^H b))."""
    a, b = np.asarray(first), np.asarray(second)
    own = float((np.abs(a) ** 2).sum() * (np.abs(b) ** 2).sum())
    return min(float(abs(np.vdot(a, b)) ** 2) / own, 1.0) if own > 0.0 else float("nan")
