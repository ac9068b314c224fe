"""The shortest way over the outside of a body: the way along edges, drawn straight over the faces.

The shortest way along edges and across faces from corner to corner (Dijkstra) says which way round; points of it are then moved to
the middle of their neighbours and back onto the outside, few points first and then twice as many, until they stay (curve
shortening, common practice).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ironstone.core.geometry.borders import Parts
from ironstone.core.geometry.paths import Line
from ironstone.core.geometry.routes import route
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

if TYPE_CHECKING:
    from ironstone.core.geometry.nearest import Outside


COARSEST, FINEST = 4, 128
# Rounds of a level: the few points of the first say where the way goes, the many of the last only follow.
ROUNDS = {4: 400, 8: 400, 16: 200, 32: 100, 64: 50, 128: 30}
# A round that moves no point by more than this share of the way ends a level.
STILL = 2e-5
# A point must not jump to a side of the body that looks the other way.
TURNED = -0.2
SHARP = 1e-10
# The sine of the angle between two faces from which on the way is led over the edge between them.
SHARP_EDGE = 0.3


def shortest_way(mesh: Mesh, start: int, end: int, samples: int, parts: Parts = frozenset()) -> Line:
    """A line over the outside from one node to another, both by position. Raises Impossible as ``route`` does."""
    from ironstone.core.geometry.nearest import outside_of

    nodes = route(mesh, start, end, parts, across=True)
    along_edges = mesh.points[nodes]
    outside = outside_of(mesh, parts)
    way = _round_edges(outside, _straightened(outside, along_edges, mesh.size))
    if _length(way) > _length(along_edges):
        way = along_edges
    return _on_surface(mesh, outside, way, samples)


def _length(way: Float) -> float:
    return float(np.linalg.norm(np.diff(way, axis=0), axis=1).sum())


def _resampled(way: Float, count: int) -> Float:
    """So many pieces of a polyline, evenly long."""
    run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(way, axis=0), axis=1))])
    at = np.linspace(0.0, run[-1], count + 1)
    return np.stack([np.interp(at, run, way[:, axis]) for axis in range(3)], axis=1)


def _straightened(outside: Outside, way: Float, size: float) -> Float:
    if len(way) < 3:
        return way
    count = COARSEST
    found = _resampled(way, count)
    while True:
        found[1:-1], normal = _onto(outside, found[1:-1])
        for _ in range(ROUNDS[count]):
            before = found[1:-1].copy()
            moved, turned = _onto(outside, (found[:-2] + found[2:]) / 2)
            kept = (turned * normal).sum(1) < TURNED
            moved[kept], turned[kept] = before[kept], normal[kept]
            found[1:-1], normal = moved, turned
            if np.linalg.norm(moved - before, axis=1).max() <= STILL * size:
                break
        if count >= FINEST:
            return found
        count *= 2
        found = _resampled(found, count)


def _round_edges(outside: Outside, way: Float) -> Float:
    """A polyline led over the sharp edges it crosses, not through the body behind them: both faces laid into one plane there."""
    normal = _onto(outside, way)[1]
    # The normal at an end may be that of either face that meets there: its neighbour's counts.
    normal[0], normal[-1] = normal[min(1, len(way) - 1)], normal[max(len(way) - 2, 0)]
    found = [way[0]]
    for i in range(len(way) - 1):
        a, b, along = way[i], way[i + 1], np.cross(normal[i], normal[i + 1])
        size = float(np.linalg.norm(along))
        if size > SHARP_EDGE:
            along /= size
            # The line both faces share: where both planes and the plane square to them through the middle meet.
            planes = np.stack([normal[i], normal[i + 1], along])
            origin = np.linalg.solve(planes, np.array([normal[i] @ a, normal[i + 1] @ b, along @ (a + b) / 2]))
            at, away = zip(*(((p - origin) @ along, np.linalg.norm(np.cross(p - origin, along))) for p in (a, b)), strict=True)
            share = away[0] / (away[0] + away[1]) if away[0] + away[1] else 0.5
            edge = origin + (at[0] + share * (at[1] - at[0])) * along
            if np.linalg.norm(edge - a) + np.linalg.norm(edge - b) < 2.0 * np.linalg.norm(b - a):
                found.append(edge)
        found.append(b)
    return np.array(found)


def _onto(outside: Outside, points: Float) -> tuple[Float, Float]:
    _, triangle, closest = outside.nearest(points)
    return closest, outside.normals[triangle]


def _on_surface(mesh: Mesh, outside: Outside, way: Float, samples: int) -> Line:
    """A polyline sampled on the outside: at even distances, and twice where it passes from one element to the next."""
    run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(way, axis=0), axis=1))])

    def at(distance: Float) -> AtSamples:
        points = np.stack([np.interp(distance, run, way[:, axis]) for axis in range(3)], axis=1)
        return outside.nearest(points)[0]

    distance = np.linspace(0.0, run[-1], max(samples, 2) * max(1, round(len(way) / max(samples, 2))))
    place = at(distance)
    element, xi = place.element, place.xi
    low, high = distance[:-1].copy(), distance[1:].copy()
    first, last = element[:-1].copy(), element[1:].copy()
    crossed = np.flatnonzero(first != last)
    low, high, first, last = low[crossed], high[crossed], first[crossed], last[crossed]
    before, after = xi[crossed].copy(), xi[crossed + 1].copy()
    while len(low) and (high - low).max() > SHARP * run[-1]:
        middle = (low + high) / 2
        inner = at(middle)
        same = inner.element == first
        # An element in between is passed over: it is touched for less than two samples.
        low, high = np.where(same, middle, low), np.where(same, high, middle)
        before[same] = inner.xi[same]
        other = ~same
        after[other], last[other] = inner.xi[other], inner.element[other]
    border = (low + high) / 2
    every = np.concatenate([distance, border, border])
    rank = np.concatenate([np.zeros(len(distance)), -np.ones(len(border)), np.ones(len(border))])
    order = np.lexsort((rank, every))
    owner: Int = np.concatenate([element, first, last])[order]
    inside = np.concatenate([xi, before, after])[order]
    return Line(every[order], positions(mesh, AtSamples(owner, inside)), owner, inside)
