"""The orders in which files list the Gauss points of an element, beside the one kept here (first natural coordinate fastest)."""

from __future__ import annotations

from functools import cache

import numpy as np

from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.gauss import gauss_points, known_counts
from ironstone.core.mesh.mesh import Float, Int

FIRST, LAST, NODES = "first coordinate fastest", "last coordinate fastest", "as the nodes are numbered"
NAMED = (FIRST, LAST, NODES)


def numbers_of(way: str) -> tuple[int, ...]:
    """The numbers of a way told as '1,2,4,3' (the k-th point of the file is that point here), () where it is no such way."""
    pieces = way.replace(" ", "").split(",")
    numbers = tuple(int(p) for p in pieces if p.isdecimal() and len(p) < 4)
    return numbers if len(numbers) == len(pieces) > 1 and sorted(numbers) == list(range(1, len(numbers) + 1)) else ()


def told(columns: Int) -> str:
    """Columns as ``columns_of`` gives them, told as a way by the numbers of the points."""
    return ",".join(str(int(n) + 1) for n in np.argsort(columns))


@cache
def columns_of(cell: Cell, count: int, way: str) -> Int | None:
    """Which of the file's columns each Gauss point is, (count,), of a shape with so many points in a row; None where the way says
    nothing of it, or the places of its points are not known."""
    if count not in known_counts(cell):
        return None
    numbers = numbers_of(way)
    if numbers:
        return np.argsort(numbers) if len(numbers) == count else None
    points = gauss_points(cell, count)
    if way == FIRST or (way == LAST and cell.family in ("tri", "tet")):
        return np.arange(count)
    if way == LAST:
        # A wedge is a triangle, whose points stay together, times a line.
        if cell.family == "wedge":
            _, flat = np.unique(points[:, :2].round(9), axis=0, return_inverse=True)
            seen = {int(f): i for i, f in reversed(list(enumerate(flat)))}
            keys = [points[:, 2], np.array([seen[int(f)] for f in flat])]
        else:
            keys = [points[:, 2], points[:, 1], points[:, 0]]
        there = np.lexsort(keys)
        return np.argsort(there)
    if way != NODES:
        return None
    nodes = _nodes_of(cell, count)
    if nodes is None:
        return None
    # Each point belongs to the node it lies nearest to.
    nearest = np.argmin(np.linalg.norm(points[:, None] - nodes[None], axis=2), axis=1)
    return nearest if len(set(nearest.tolist())) == count else None


def _nodes_of(cell: Cell, count: int) -> Float | None:
    """As many nodes as there are points: all of the element, or its corners."""
    corners = {"line": 2, "tri": 3, "quad": 4, "tet": 4, "pyramid": 5, "wedge": 6, "hex": 8}.get(cell.family, 0)
    return cell.nodes[:count] if count in (cell.size, corners) else None


def ways_for(shapes: tuple[tuple[Cell, int], ...]) -> list[str]:
    """The named ways that differ on some shape with its number of points; none where there is one way."""
    found: list[str] = []
    seen: set[tuple[tuple[int, ...], ...]] = set()
    for way in NAMED:
        columns = [columns_of(cell, count, way) for cell, count in shapes]
        mark = tuple(tuple(c.tolist()) if c is not None else () for c in columns)
        if all(c is not None for c in columns) and mark not in seen:
            seen.add(mark)
            found.append(way)
    return found if len(found) > 1 or any(count > 1 for _, count in shapes) else []
