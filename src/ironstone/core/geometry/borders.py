"""Where a curve passes from element to element, from the body to what is outside of it, and where it runs along the outside."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.geometry.locate import INSIDE, depths, locate
from ironstone.core.mesh.mesh import Float, Int, Mesh

Parts = frozenset[int]
Curve = Callable[[Float], Float]
NONE = -1
# Borders are found to this share of the line.
SHARP = 1e-12
# Steps of the false position; what it does not find is halved until it is sharp.
STEPS = 24
# A line that runs along the outside is on it where it is no farther beside it than this share of an element's usual size: a circle
# is not quite where the sides of the elements have it.
BESIDE = 0.02
MANY = 10_000


@dataclass(frozen=True, eq=False)
class Walk:
    """A curve through a body: its place by its share from 0 to 1 (n,) -> (n, 3), and the parts it belongs to (none: all).

    steep: the sine of the angle between a curve and the outside up to which it runs along it; steeper it goes in or out.
    """

    mesh: Mesh
    curve: Curve
    side: Parts
    steep: float

    def holding(self, share: Float) -> tuple[Int, Int]:
        """Pairs of a share, by position, and an element of the side that holds the curve there."""
        found = locate(self.mesh, self.curve(share))
        kept = np.isin(self.mesh.part[found.element], list(self.side)) if self.side else np.ones(len(found.point), dtype=bool)
        return found.point[kept], found.element[kept]

    def owners(self, share: Float, *near: Int) -> Int:
        """The element the curve is in at some shares, -1 for none: of several the first of ``near`` among them, else the first."""
        point, element = self.holding(share)
        owner = np.full(len(share), NONE, dtype=np.int64)
        owner[point[::-1]] = element[::-1]
        for wanted in near[::-1]:
            same = element == wanted[point]
            owner[point[same]] = element[same]
        return owner

    def ahead(self, share: Float) -> Float:
        """The curve's direction at some shares, (n, 3)."""
        along = self.curve(np.minimum(share + 1e-6, 1.0)) - self.curve(np.maximum(share - 1e-6, 0.0))
        found: Float = along / np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-300)
        return found

    def beside(self, share: Float) -> tuple[Int, NDArray[np.bool_], NDArray[np.bool_]]:
        """At some shares: the nearest element of the outside, whether the curve is close beside it, and level with it."""
        from ironstone.core.geometry.nearest import outside_of

        points = self.curve(share)
        place, _, closest = outside_of(self.mesh, self.side).nearest(points)
        off = points - closest
        away = np.linalg.norm(off, axis=1)
        level = np.abs((off * self.ahead(share)).sum(1)) <= self.steep * away + 1e-9 * self.mesh.size
        return place.element, away <= BESIDE * usual_size(self.mesh), level


def usual_size(mesh: Mesh) -> float:
    """How large an element is across, the median of all."""
    sizes = np.maximum(mesh.volumes, 1e-300) ** (1.0 / np.maximum(mesh.dimensions, 1))
    return float(np.median(sizes))


def along_outside(walk: Walk, share: Float, owners: Int) -> Int:
    """The elements of samples that are outside, but beside an outside that the curve runs along; -1 for all others, (n,).

    A curve that leaves the body at a flat angle is close beside it for a while, too: a run of such samples counts only where it
    does not go on, as flat, to where it is no longer close.
    """
    found = np.full(len(owners), NONE, dtype=np.int64)
    lost = np.flatnonzero(owners < 0)
    if not len(lost) or len(owners) > MANY or not (walk.mesh.dimensions >= 2).any():
        return found
    element, close, level = walk.beside(share[lost])
    on, leaving = np.zeros(len(owners), dtype=bool), np.zeros(len(owners), dtype=bool)
    on[lost], leaving[lost] = close & level, ~close & level
    # A run has a number; the sample before it and the one behind it tell whether it counts.
    number = np.cumsum(np.diff(on, prepend=False) & on)
    away = np.zeros(int(number[-1]) + 1, dtype=bool)
    for shifted, here in ((leaving[:-1], slice(1, None)), (leaving[1:], slice(None, -1))):
        away[number[here][on[here] & shifted]] = True
    found[lost] = element
    return np.where(on & ~away[number], found, NONE)


@dataclass(frozen=True, eq=False)
class Stretch:
    """Between two shares of a curve it passes from an element to another (-1: outside). along: what is beside the outside counts as
    on it."""

    low: Float
    high: Float
    before: Int
    after: Int
    along: NDArray[np.bool_]

    def some(self, chosen: NDArray[np.bool_] | Int) -> Stretch:
        return Stretch(self.low[chosen], self.high[chosen], self.before[chosen], self.after[chosen], self.along[chosen])


def borders(walk: Walk, stretch: Stretch) -> tuple[Float, Int, Int]:
    """Where the curve passes from element to element: shares (b,), elements before and after (b,); see ``Stretch``."""
    at, found = _by_sides(walk, stretch)
    shares, before, after = [at[found]], [stretch.before[found]], [stretch.after[found]]
    left = stretch.some(~found)
    while len(left.low):
        done = left.high - left.low <= SHARP
        shares.append((left.low[done] + left.high[done]) / 2)
        before.append(left.before[done])
        after.append(left.after[done])
        left = left.some(~done)
        middle = (left.low + left.high) / 2
        owner = walk.owners(middle, left.before, left.after)
        lost = np.flatnonzero((owner < 0) & left.along)
        if len(lost):
            element, close, level = walk.beside(middle[lost])
            owner[lost] = np.where(close & level, element, NONE)
        front, back = owner != left.before, owner != left.after
        ahead = Stretch(left.low, middle, left.before, owner, left.along).some(front)
        behind = Stretch(middle, left.high, owner, left.after, left.along).some(back)
        left = Stretch(
            *(np.concatenate([getattr(ahead, n), getattr(behind, n)]) for n in ("low", "high", "before", "after", "along"))
        )
    return np.concatenate(shares), np.concatenate(before), np.concatenate(after)


def _by_sides(walk: Walk, stretch: Stretch) -> tuple[Float, NDArray[np.bool_]]:
    """Where the element before is left (that after is entered, where none is before) through the side behind which the other end
    lies farthest, by the false position (Illinois); and for which that is the border: the one ends where the other begins."""
    leaves = stretch.before >= 0
    element = np.where(leaves, stretch.before, stretch.after)
    low, high = stretch.low.copy(), stretch.high.copy()
    every = np.arange(len(low))
    outer = depths(walk.mesh, element, walk.curve(np.where(leaves, high, low)))
    side = np.where(np.isnan(outer), np.inf, outer).argmin(1)
    sign = np.where(leaves, 1.0, -1.0)

    def depth(chosen: Int, share: Float) -> Float:
        found: Float = depths(walk.mesh, element[chosen], walk.curve(share))[np.arange(len(chosen)), side[chosen]]
        return found * sign[chosen]

    f_low, f_high = (
        np.where(leaves == of, depth(every, end), outer[every, side] * sign) for end, of in ((low, True), (high, False))
    )
    slope = np.abs(f_low - f_high) / (high - low)
    at, moved = np.full(len(low), np.nan), np.full(len(low), -1)
    with np.errstate(invalid="ignore"):
        going = np.flatnonzero((f_low >= 0) & (f_high < 0) | (f_low > 0) & (f_high <= 0))
    for _ in range(STEPS):
        if not len(going):
            break
        a, b, fa, fb = low[going], high[going], f_low[going], f_high[going]
        middle = a + (b - a) * fa / (fa - fb)
        here = depth(going, middle)
        first = here > 0
        at[going] = middle
        low[going], f_low[going] = np.where(first, middle, a), np.where(first, here, fa)
        high[going], f_high[going] = np.where(first, b, middle), np.where(first, fb, here)
        # An end that stays a second time has its depth halved, so that it does not stay for ever.
        again = first == moved[going]
        f_high[going[again & first]] /= 2
        f_low[going[again & ~first]] /= 2
        moved[going] = first
        going = going[np.isfinite(here) & (np.abs(here) > 1e-15) & (high[going] - low[going] > SHARP / 4)]
    found = np.isfinite(at)
    known = np.flatnonzero(found)
    if len(known):
        before, after, lowest, highest = (getattr(stretch, n)[known] for n in ("before", "after", "low", "high"))
        # An element is found to hold what lies a little outside: looked at is just beyond that.
        beyond = np.clip(3.0 * INSIDE / np.maximum(slope[known], 1e-300), SHARP, (highest - lowest) / 4)
        one = walk.owners(np.maximum(at[known] - beyond, lowest), before)
        two = walk.owners(np.minimum(at[known] + beyond, highest), after)
        found[known] = (one == before) & (two == after)
    return at, found
