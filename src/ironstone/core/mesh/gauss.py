"""Integration points as solvers write them, and from there to an element's own nodes.

Where the points lie is common practice: Gauss-Legendre products on lines, squares and cubes (first natural coordinate running
fastest), the symmetric rules of one, three and six points on triangles and of one and four on tetrahedra (Zienkiewicz and
Taylor, The Finite Element Method, vol. 1; coordinates from memory), triangle times line for wedges.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from itertools import product

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.cells import Cell, Monomials

Float = NDArray[np.float64]
_GRIDS: dict[str, dict[int, tuple[int, ...]]] = {
    "line": {1: (1,), 2: (2,), 3: (3,)},
    "quad": {1: (1, 1), 4: (2, 2), 9: (3, 3)},
    "hex": {1: (1, 1, 1), 8: (2, 2, 2), 27: (3, 3, 3)},
}
_TRIANGLE_WEIGHTS = {
    1: (1 / 2,),
    3: (1 / 6,) * 3,
    6: (0.223381589678011 / 2,) * 3 + (0.109951743655322 / 2,) * 3,
}
_WEDGES = {1: (1, 1), 6: (3, 2), 9: (3, 3), 18: (6, 3)}


def known_counts(cell: Cell) -> tuple[int, ...]:
    """How many Gauss points an element of this shape may have for their places to be known."""
    simplices = {"tri": (1, 3, 6), "tet": (1, 4), "wedge": tuple(_WEDGES), "vertex": (1,), "pyramid": (1,)}
    return simplices.get(cell.family) or tuple(_GRIDS[cell.family])


@cache
def gauss_points(cell: Cell, count: int) -> Float:
    """Natural coordinates of the Gauss points of an element, (count, 3). Raises KeyError where they are not known."""
    if count not in known_counts(cell):
        raise KeyError(count)
    return _rule(cell, count)[0]


@cache
def gauss_weights(cell: Cell, count: int) -> Float:
    """What each Gauss point counts for in the natural domain, (count,); they add up to its volume (area, length).

    The six-point rule of the triangle: Dunavant (1985), from memory. Raises KeyError where the points are not known.
    """
    if count not in known_counts(cell):
        raise KeyError(count)
    family = cell.family
    if family in _GRIDS:
        lines = [np.polynomial.legendre.leggauss(n)[1] / 2 for n in _GRIDS[family][count]]
        return np.array([np.prod(w) for w in product(*reversed(lines))])
    if family == "wedge":
        flat, along = _WEDGES[count]
        return np.outer(np.polynomial.legendre.leggauss(along)[1] / 2, _TRIANGLE_WEIGHTS[flat]).ravel()
    if family == "tri":
        return np.array(_TRIANGLE_WEIGHTS[count])
    volume = {"tet": 1 / 6, "pyramid": 1 / 3, "vertex": 1.0}[family]
    return np.full(count, volume / count)


@cache
def extrapolation(cell: Cell, count: int) -> Float:
    """From Gauss points to the element's nodes, (size, count): the functions of the Gauss grid that the element has too, by least
    squares over its volume, taken at the nodes.

    Exact for every field that both hold: constant for one point, linear for 2 x 2 x 2, and so on. What a grid of more points than
    the element has functions for shows beyond them (a parabola in an element of eight nodes) is levelled out, not carried to the
    nodes, from where it would come back as another field inside. Nothing is clipped.
    """
    points, powers = _rule(cell, count)
    if isinstance(cell.span, Monomials):
        own = {tuple(e) for e in cell.span.exponents.tolist()}
        powers = powers[[tuple(p) in own for p in powers.tolist()]]
    weight = np.sqrt(gauss_weights(cell, count))
    matrix: Float = _powers(cell.nodes, powers) @ (np.linalg.pinv(weight[:, None] * _powers(points, powers)) * weight)
    return matrix


def _powers(xi: Float, powers: NDArray[np.int64]) -> Float:
    values: Float = np.prod(xi[:, None, :] ** powers[None, :, :], axis=2)
    return values


def _rule(cell: Cell, count: int) -> tuple[Float, NDArray[np.int64]]:
    """Points (count, 3) and the exponents (count, 3) of as many monomials that they settle."""
    family = cell.family
    if family in _GRIDS:
        sizes = _GRIDS[family][count]
        axes = [(np.polynomial.legendre.leggauss(n)[0] + 1) / 2 for n in sizes]
        points = [tuple(reversed(p)) for p in product(*reversed(axes))]
        powers = [tuple(reversed(p)) for p in product(*(range(n) for n in reversed(sizes)))]
        return _padded(points), _padded(powers).astype(np.int64)
    if family == "tri":
        plane, exponents = _triangle(count)
        return _padded(plane), _padded(exponents).astype(np.int64)
    if family == "wedge":
        flat, along = _WEDGES[count]
        plane, exponents = _triangle(flat)
        heights = (np.polynomial.legendre.leggauss(along)[0] + 1) / 2
        points = [(*p, h) for h in heights for p in plane]
        return _padded(points), _padded([(*e, k) for k in range(along) for e in exponents]).astype(np.int64)
    if family == "tet" and count == 4:
        a, b = (5 + 3 * np.sqrt(5)) / 20, (5 - np.sqrt(5)) / 20
        points = [(b, b, b), (a, b, b), (b, a, b), (b, b, a)]
        return _padded(points), _padded([(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)]).astype(np.int64)
    centre = cell.centre if family != "pyramid" else np.array([[0.375, 0.375, 0.25]])
    return centre, np.zeros((1, 3), dtype=np.int64)


def _triangle(count: int) -> tuple[list[tuple[float, float]], list[tuple[int, int]]]:
    if count == 1:
        return [(1 / 3, 1 / 3)], [(0, 0)]
    if count == 3:
        return [(1 / 6, 1 / 6), (2 / 3, 1 / 6), (1 / 6, 2 / 3)], [(0, 0), (1, 0), (0, 1)]
    near, far = 0.445948490915965, 0.091576213509771
    points = [(x, y) for a in (near, far) for x, y in ((a, a), (1 - 2 * a, a), (a, 1 - 2 * a))]
    return points, [(a, b) for a in range(3) for b in range(3 - a)]


def _padded(rows: Sequence[Sequence[float]]) -> Float:
    table = np.array(rows, dtype=np.float64)
    return np.column_stack([table, np.zeros((len(table), 3 - table.shape[1]))])
