"""Lines turned round, lengthened and shortened at their ends."""

from __future__ import annotations

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.geometry.borders import NONE, Parts
from ironstone.core.geometry.paths import Line, straight
from ironstone.core.mesh.mesh import Float, Mesh


def turned_round(line: Line) -> Line:
    """The same line from its end to its start."""
    back = slice(None, None, -1)
    return Line(line.distance[-1] - line.distance[back], line.points[back], line.element[back], line.xi[back])


def joined(*lines: Line) -> Line:
    """Lines one after the other, as one."""
    starts = np.concatenate([[0.0], np.cumsum([line.distance[-1] for line in lines])])
    distance = np.concatenate([start + line.distance for start, line in zip(starts, lines, strict=False)])
    points, element, xi = (np.concatenate([getattr(line, name) for line in lines]) for name in ("points", "element", "xi"))
    return Line(distance, points, element, xi)


# How many times the size of the model a line may reach beyond its ends, and the most samples there.
FARTHEST, MOST_SAMPLES = 10, 20_000


def resized(mesh: Mesh, line: Line, before: float, after: float, samples: int, side: Parts = frozenset()) -> Line:
    """A line lengthened before its start and after its end, straight on as it goes there; shortened along itself where negative.

    Raises Impossible where nothing would be left of it.
    """
    whole = float(line.distance[-1])
    reach = FARTHEST * max(mesh.size, whole)
    if not max(before, after) <= reach:
        raise Impossible(
            f"A line cannot be made longer by {max(before, after):.6g} here.", f"At most {reach:.6g}: {FARTHEST} times the model."
        )
    if max(-before, 0.0) + max(-after, 0.0) >= whole:
        raise Impossible(f"Nothing is left of this line: it is {whole:.6g} long.", "Take less off its ends.")
    if before < 0 or after < 0:
        line = _between(line, max(-before, 0.0), whole - max(-after, 0.0))
    pieces = [line]
    if before > 0:
        pieces.insert(0, turned_round(_straight_on(mesh, turned_round(line), before, samples, side)))
    if after > 0:
        pieces.append(_straight_on(mesh, line, after, samples, side))
    return joined(*pieces)


def _straight_on(mesh: Mesh, line: Line, length: float, samples: int, side: Parts) -> Line:
    """What follows on a line's end in the direction it has there, outside the body too."""
    last = line.points[-1]
    away = np.linalg.norm(line.points - last, axis=1)
    along = last - line.points[np.flatnonzero(away > 1e-9 * max(float(line.distance[-1]), 1e-300))[-1]]
    end = last + length * along / np.linalg.norm(along)
    each = min(max(2, round(samples * length / float(line.distance[-1]))), MOST_SAMPLES)
    try:
        return straight(mesh, last, end, each, side)
    except Impossible:
        share = np.linspace(0.0, 1.0, each)
        outside = np.full(each, NONE, dtype=np.int64)
        return Line(length * share, last + share[:, None] * (end - last), outside, np.full((each, 3), np.nan))


def _between(line: Line, low: float, high: float) -> Line:
    """What lies of a line between two distances; new ends are placed between two samples of one element."""
    kept = np.flatnonzero((line.distance > low) & (line.distance < high))
    first = int(np.searchsorted(line.distance, low, "right"))
    last = int(np.searchsorted(line.distance, high, "left"))
    ends = [_at(line, first - 1, low), _at(line, last - 1, high)]
    distance = np.concatenate([[low], line.distance[kept], [high]]) - low
    points = np.concatenate([ends[0][0][None], line.points[kept], ends[1][0][None]])
    element = np.concatenate([[ends[0][1]], line.element[kept], [ends[1][1]]]).astype(np.int64)
    xi = np.concatenate([ends[0][2][None], line.xi[kept], ends[1][2][None]])
    return Line(distance, points, element, xi)


def _at(line: Line, before: int, at: float) -> tuple[Float, int, Float]:
    """Point, element and natural coordinates of a line between a sample and the next."""
    before = min(max(before, 0), len(line.distance) - 2)
    step = float(line.distance[before + 1] - line.distance[before])
    share = (at - float(line.distance[before])) / step if step else 0.0
    point = line.points[before] + share * (line.points[before + 1] - line.points[before])
    xi = line.xi[before] + share * (line.xi[before + 1] - line.xi[before])
    return point, int(line.element[before]), xi
