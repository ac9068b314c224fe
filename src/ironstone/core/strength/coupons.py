"""What coupon tests say of a strength: mean, scatter, and bounds that a share of the population lies above with some confidence.

One-sided tolerance bounds of a normal population: mean - k s, k by the noncentral t distribution (Owen 1963; Natrella 1963).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.mesh.mesh import Float

# Share of the population above the bound, and confidence: the two that are usual.
B_BOUND, A_BOUND = (0.90, 0.95), (0.99, 0.95)
# Below this the hypothesis of a normal population is doubtful.
DOUBTFUL = 0.05


def tolerance_factor(count: int, share: float, confidence: float) -> float:
    """k of a one-sided tolerance bound of a normal population, of a sample of this size (two at least)."""
    from scipy import stats

    root = np.sqrt(count)
    return float(stats.nct.ppf(confidence, count - 1, stats.norm.ppf(share) * root) / root)


@dataclass(frozen=True)
class Sample:
    """count, mean, standard deviation (of the sample) and its share of the mean; b, a: the two bounds, None below two values or
    where they fall below zero; normal: p of Shapiro and Wilk's test, None below three values."""

    count: int
    mean: float
    deviation: float | None
    variation: float | None
    b: float | None
    a: float | None
    normal: float | None
    notes: tuple[str, ...]


def sample_of(values: Float) -> Sample:
    """What a sample says; its notes say what it does not."""
    from scipy import stats

    values = np.asarray(values, dtype=np.float64)
    count, mean = len(values), float(values.mean())
    if count < 2:
        return Sample(count, mean, None, None, None, None, None, ("One value says nothing of scatter.",))
    deviation = float(values.std(ddof=1))
    bounds = [mean - tolerance_factor(count, *which) * deviation for which in (B_BOUND, A_BOUND)]
    notes = []
    if count < 6:
        notes.append(f"{count} values are few: the bounds lie far below the mean.")
    normal = None
    if count >= 3 and deviation > 0:
        normal = float(stats.shapiro(values).pvalue)
        if normal < DOUBTFUL:
            notes.append(
                f"The values do not look normal (p = {normal:.2g}): the bounds, which take them so, are not to be relied on."
            )
    if any(b <= 0 for b in bounds):
        notes.append("A bound falls below zero: too much scatter for so few values.")
    b, a = (v if v > 0 else None for v in bounds)
    return Sample(count, mean, deviation, deviation / mean if mean else None, b, a, normal, tuple(notes))
