"""What a value comes to as the mesh is refined: observed order, extrapolated value and its band.

Richardson's extrapolation with Roache's grid convergence index (P. J. Roache 1994, 1998), from memory; unequal ratios of refinement
after I. Celik et al. (2008), from memory. h is the size of elements, f the value; of three meshes f1 is of the finest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

Verdict = Literal["settles", "not yet", "grows", "not monotonic", "too few"]
# Roache's factor of safety where the order is observed on three meshes.
SAFETY = 1.25
# A band narrower than this share of the value is taken as settled (common practice, no source).
SETTLED = 0.05
# Growth as h^-q is told from slow settling above this q.
GROWS = 0.1
# Values that differ by no more than this share are the same.
SAME = 1e-9


@dataclass(frozen=True)
class Convergence:
    """Of values on meshes from coarse to fine; None where it cannot be said.

    order: p of f = f0 + C h^p on the finest three. extrapolated: f0. band: what f0 may be off by. exponent: q of f ~ h^-q, of what
    grows without end.
    """

    verdict: Verdict
    order: float | None = None
    extrapolated: float | None = None
    band: float | None = None
    exponent: float | None = None


def converge(sizes: Sequence[float], values: Sequence[float]) -> Convergence:
    """What values (n,) on meshes of these sizes (n,), in any order, come to. Raises ValueError for sizes that are not all
    different and above zero."""
    h, f = np.asarray(sizes, dtype=np.float64), np.asarray(values, dtype=np.float64)
    if len(np.unique(h)) != len(h) or not (h > 0).all():
        raise ValueError("sizes must be different and above zero")
    known = np.isfinite(f)
    order = np.argsort(h[known])
    h, f = h[known][order], f[known][order]
    if len(h) < 3:
        return Convergence("too few")
    scale = float(np.abs(f).max())
    fine, coarse = f[0] - f[1], f[1] - f[2]
    if abs(fine) <= SAME * scale:
        return Convergence("settles", extrapolated=float(f[0]), band=float(abs(fine)))
    if abs(coarse) <= SAME * scale or fine * coarse < 0:
        return Convergence("not monotonic")
    exponent = -float(np.polyfit(np.log(h), np.log(np.maximum(np.abs(f), 1e-300)), 1)[0])
    p = _observed(h, fine, coarse)
    if p is None or p <= 0.0:
        # The differences grow as the mesh is refined: there is no value it goes to.
        return Convergence("grows", exponent=exponent) if exponent > GROWS else Convergence("not yet")
    away = fine / ((h[1] / h[0]) ** p - 1.0)
    band = SAFETY * abs(away)
    settled = band <= SETTLED * abs(f[0] + away)
    return Convergence("settles" if settled else "not yet", p, float(f[0] + away), float(band))


def _observed(h: np.ndarray, fine: float, coarse: float) -> float | None:
    """The order that makes both differences of the three finest meshes those of one law; None where none does.

    (h2^p - h1^p) / (h3^p - h2^p) = fine / coarse has one solution in p: the left side falls with p.
    """
    a, b, c = (h[:3] / h[2]).tolist()
    wanted = fine / coarse

    def share(p: float) -> float:
        if abs(p) < 1e-9:
            return float(np.log(b / a) / np.log(c / b))
        return float((b**p - a**p) / (c**p - b**p))

    low, high = -20.0, 20.0
    if not share(high) < wanted < share(low):
        return None
    for _ in range(200):
        middle = (low + high) / 2
        low, high = (middle, high) if share(middle) > wanted else (low, middle)
    return (low + high) / 2
