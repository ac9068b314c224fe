"""Element shapes: nodes, faces, edges, shape functions and quadrature, by VTK cell type.

Natural coordinates run over the unit simplex, square, cube, or their products. Shape functions are found from the span of
each element's polynomials and the places of its nodes, N(xi) = P(xi) P(nodes)^-1, so that one rule serves every shape.
The spans are those of the usual Lagrange and serendipity elements (Zienkiewicz and Taylor, The Finite Element Method, vol. 1).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, cached_property
from itertools import product

import numpy as np
from numpy.typing import NDArray

Float = NDArray[np.float64]
Span = Callable[[Float], Float]
Index = NDArray[np.int32]
FEW = 2000


@dataclass(frozen=True)
class Cell:
    """One element shape. ``faces`` and ``edges`` list local nodes, corners first, then nodes at the middle of sides."""

    name: str
    vtk: int
    dimension: int
    corners: int
    order: int
    natural: tuple[tuple[float, ...], ...]
    faces: tuple[tuple[int, ...], ...]
    edges: tuple[tuple[int, ...], ...]
    span: Span

    @property
    def size(self) -> int:
        return len(self.natural)

    @cached_property
    def nodes(self) -> Float:
        """Natural coordinates of the nodes, (size, 3)."""
        return np.array(self.natural, dtype=np.float64)

    @cached_property
    def _inverse(self) -> Float:
        return np.asarray(np.linalg.inv(self.span(self.nodes)), dtype=np.float64)

    @cached_property
    def _slopes(self) -> tuple[Monomials, Float] | None:
        """Of a polynomial span: the monomials all its derivatives are made of, and what of each is in the derivative of each shape
        function by each coordinate, (monomials, size * dimension)."""
        if not isinstance(self.span, Monomials):
            return None
        lower, parts = self.span.derivatives(self.dimension)
        table = np.stack([part @ self._inverse for part in parts], axis=2)
        return lower, table.reshape(len(lower.exponents), -1)

    def shape(self, xi: Float) -> Float:
        """Shape functions (n, size) at natural coordinates (n, 3)."""
        return self.span(np.asarray(xi, dtype=np.float64)) @ self._inverse

    def gradient(self, xi: Float) -> Float:
        """Derivatives of the shape functions by natural coordinates, (n, size, dimension).

        Exact for polynomial spans; for the rational term of a pyramid central differences with a step of 1e-3, within 1e-5.
        """
        xi = np.asarray(xi, dtype=np.float64)
        if self._slopes is not None:
            lower, table = self._slopes
            return (lower(xi) @ table).reshape(len(xi), self.size, self.dimension)
        step = 1e-3
        columns = []
        for axis in range(self.dimension):
            shift = np.zeros(3)
            shift[axis] = step
            columns.append((self.shape(xi + shift) - self.shape(xi - shift)) / (2 * step))
        return np.stack(columns, axis=2)

    @cached_property
    def centre(self) -> Float:
        """Natural coordinates of the middle, (1, 3)."""
        centre: Float = self.nodes[: self.corners].mean(0, keepdims=True)
        return centre

    @property
    def family(self) -> str:
        """The shape without the count of its nodes: 'hex' of 'hex20'."""
        return self.name.rstrip("0123456789")

    @cached_property
    def quadrature(self) -> tuple[Float, Float]:
        """Points (q, 3) and weights (q,) that integrate the element's own products of shape and volume exactly."""
        return _quadrature(self.family, 3 if self.order == 2 else 2)


class Monomials:
    """Products of powers of the natural coordinates: x^a y^b z^c for each of some exponents (a, b, c)."""

    def __init__(self, *exponents: tuple[int, int, int]) -> None:
        self.exponents = np.array(exponents, dtype=np.int64)
        self._highest = int(self.exponents.max(initial=0))

    def __call__(self, xi: Float) -> Float:
        """Values at natural coordinates (n, 3), (n, number of exponents)."""
        return self._product(xi).T

    def derivatives(self, dimension: int) -> tuple[Monomials, list[Float]]:
        """The monomials the derivatives are made of, and for each coordinate what of each is in the derivative of each of these,
        (monomials, number of exponents)."""
        lowered = []
        for axis in range(dimension):
            lower = self.exponents.copy()
            lower[:, axis] = np.maximum(lower[:, axis] - 1, 0)
            lowered.append(lower)
        distinct, where = np.unique(np.concatenate(lowered), axis=0, return_inverse=True)
        count = len(self.exponents)
        parts = []
        for axis, at in enumerate(where.reshape(dimension, count)):
            part = np.zeros((len(distinct), count))
            part[at, np.arange(count)] = self.exponents[:, axis]
            parts.append(part)
        return Monomials(*(tuple(e) for e in distinct.tolist())), parts

    def _product(self, xi: Float) -> Float:
        """(number of exponents, n)."""
        one = np.ones(xi.T.shape)
        powers = [one, xi.T.copy()]
        while len(powers) <= self._highest:
            powers.append(powers[-1] * powers[1])
        if len(xi) < FEW:
            table = np.stack(powers)
            values: Float = table[self.exponents[:, 0], 0]
            for axis in (1, 2):
                if self.exponents[:, axis].any():
                    values = values * table[self.exponents[:, axis], axis]
            return values
        # Of many places each product is made by itself: the table would be copied once for every axis.
        found = np.empty((len(self.exponents), len(xi)))
        for row, exponents in zip(found, self.exponents.tolist(), strict=True):
            first, *others = [powers[e][axis] for axis, e in enumerate(exponents) if e] or [one[0]]
            np.copyto(row, first)
            for other in others:
                row *= other
        return found


def _tensor(order: int, dimension: int) -> Span:
    ranges = [range(order + 1)] * dimension + [range(1)] * (3 - dimension)
    return Monomials(*(tuple(reversed(p)) for p in product(*reversed(ranges))))  # type: ignore[arg-type]


def _serendipity(dimension: int) -> Span:
    """Monomials whose degree, not counting variables that enter linearly, is at most two."""
    ranges = [range(3)] * dimension + [range(1)] * (3 - dimension)
    return Monomials(*(p for p in product(*ranges) if sum(e for e in p if e > 1) <= 2))  # type: ignore[arg-type]


def _simplex(order: int, dimension: int) -> Span:
    ranges = [range(order + 1)] * dimension + [range(1)] * (3 - dimension)
    return Monomials(*(p for p in product(*ranges) if sum(p) <= order))  # type: ignore[arg-type]


def _wedge(order: int) -> Span:
    plane = [(a, b) for a, b in product(range(order + 1), repeat=2) if a + b <= order]
    exponents = [(a, b, c) for a, b in plane for c in (0, 1)]
    if order == 2:
        exponents += [(a, b, 2) for a, b in plane if a + b <= 1]
    return Monomials(*exponents)


def _wedge_of_eighteen() -> Span:
    """Quadratic in the triangle times quadratic along it."""
    return Monomials(*((a, b, c) for a, b, c in product(range(3), repeat=3) if a + b <= 2))


def _pyramid(xi: Float) -> Float:
    """1, r, s, t and the rational r s / (1 - t), which is linear on every triangular face; Bedrosian (1992), from memory."""
    r, s, t = xi.T
    below = 1.0 - t
    with np.errstate(invalid="ignore", divide="ignore"):
        rational = np.where(np.abs(below) > 1e-12, r * s / below, 0.0)
    return np.stack([np.ones_like(r), r, s, t, rational], axis=1)


def _pyramid_of_thirteen(xi: Float) -> Float:
    """All quadratics and r s / (1 - t) times 1, r, s: quadratic on every face; Bedrosian (1992), from memory."""
    r, s, t = xi.T
    below = 1.0 - t
    with np.errstate(invalid="ignore", divide="ignore"):
        rational = np.where(np.abs(below) > 1e-12, r * s / below, 0.0)
    plain = [np.ones_like(r), r, s, t, r * r, s * s, t * t, r * s, r * t, s * t]
    return np.stack([*plain, rational, rational * r, rational * s], axis=1)


def _quadrature(family: str, points: int) -> tuple[Float, Float]:
    """Gauss products; simplices and pyramids by collapsed (Gauss-Jacobi) products, Stroud (1971), from memory."""

    def rule(collapse: int) -> tuple[Float, Float]:
        if not collapse:
            x, w = np.polynomial.legendre.leggauss(points)
            return (x + 1) / 2, w / 2
        # Imported here: it takes half a second, and bricks and shells need none of it.
        from scipy.special import roots_jacobi

        x, w = roots_jacobi(points + 1, collapse, 0)
        return (x + 1) / 2, w / 2 ** (collapse + 1)

    collapses = {
        "vertex": (),
        "line": (0,),
        "quad": (0, 0),
        "hex": (0, 0, 0),
        "tri": (1, 0),
        "tet": (2, 1, 0),
        "wedge": (1, 0, 0),
        "pyramid": (0, 0, 2),
    }[family]
    rules = [rule(c) for c in collapses]
    grid = np.array(list(product(*(r[0] for r in rules)))) if rules else np.zeros((1, 0))
    weights = np.array([np.prod(w) for w in product(*(r[1] for r in rules))]) if rules else np.ones(1)
    xi = np.zeros((len(grid), 3))
    xi[:, : grid.shape[1]] = grid
    if family in ("tri", "wedge"):
        xi[:, 1] = grid[:, 1] * (1 - grid[:, 0])
    if family == "pyramid":
        xi[:, :2] = grid[:, :2] * (1 - grid[:, 2:3])
    if family == "tet":
        xi[:, 1] = grid[:, 1] * (1 - grid[:, 0])
        xi[:, 2] = grid[:, 2] * (1 - grid[:, 0]) * (1 - grid[:, 1])
    return xi, weights


def _middle(nodes: tuple[tuple[float, ...], ...], *sides: tuple[int, ...]) -> tuple[tuple[float, ...], ...]:
    added = tuple(tuple(float(v) for v in np.mean([nodes[i] for i in side], axis=0)) for side in sides)
    return nodes + added


_LINE = ((0.0, 0.0, 0.0), (1.0, 0.0, 0.0))
_TRI = (*_LINE, (0.0, 1.0, 0.0))
_QUAD = (*_LINE, (1.0, 1.0, 0.0), (0.0, 1.0, 0.0))
_TET = (*_TRI, (0.0, 0.0, 1.0))
_WEDGE = (*_TRI, *((r, s, 1.0) for r, s, _ in _TRI))
_HEX = (*_QUAD, *((r, s, 1.0) for r, s, _ in _QUAD))
_PYRAMID = (*_QUAD, (0.0, 0.0, 1.0))

_TRI_SIDES = ((0, 1), (1, 2), (2, 0))
_QUAD_SIDES = ((0, 1), (1, 2), (2, 3), (3, 0))
_TET_SIDES = ((0, 1), (1, 2), (2, 0), (0, 3), (1, 3), (2, 3))
_WEDGE_SIDES = ((0, 1), (1, 2), (2, 0), (3, 4), (4, 5), (5, 3), (0, 3), (1, 4), (2, 5))
_HEX_SIDES = (*_QUAD_SIDES, (4, 5), (5, 6), (6, 7), (7, 4), (0, 4), (1, 5), (2, 6), (3, 7))
_PYRAMID_SIDES = (*_QUAD_SIDES, (0, 4), (1, 4), (2, 4), (3, 4))
_TET_FACES = ((0, 1, 3), (1, 2, 3), (2, 0, 3), (0, 2, 1))
_WEDGE_FACES = ((0, 2, 1), (3, 4, 5), (0, 1, 4, 3), (1, 2, 5, 4), (2, 0, 3, 5))
_HEX_FACES = ((0, 4, 7, 3), (1, 2, 6, 5), (0, 1, 5, 4), (3, 7, 6, 2), (0, 3, 2, 1), (4, 5, 6, 7))
_PYRAMID_FACES = ((0, 3, 2, 1), (0, 1, 4), (1, 2, 4), (2, 3, 4), (3, 0, 4))


def _with_middles(
    loops: tuple[tuple[int, ...], ...], sides: tuple[tuple[int, ...], ...], corners: int, closed: bool = True
) -> tuple[tuple[int, ...], ...]:
    where = {frozenset(side): corners + i for i, side in enumerate(sides)}
    result = []
    for loop in loops:
        pairs = zip(loop, loop[1:] + loop[:1] if closed else loop[1:], strict=False)
        result.append(loop + tuple(where[frozenset(pair)] for pair in pairs))
    return tuple(result)


def _cell(
    name: str,
    vtk: int,
    dimension: int,
    corners: tuple[tuple[float, ...], ...],
    sides: tuple[tuple[int, ...], ...],
    faces: tuple[tuple[int, ...], ...],
    span: Span,
    order: int = 1,
    extra: tuple[tuple[int, ...], ...] = (),
) -> Cell:
    nodes, edges = corners, sides
    if order == 2:
        nodes = _middle(corners, *sides, *extra)
        edges = _with_middles(sides, sides, len(corners), closed=False)
        faces = _with_middles(faces, sides, len(corners))
    return Cell(name, vtk, dimension, len(corners), order, nodes, faces, edges, span)


_WEDGE_CENTRES = ((0, 1, 3, 4), (1, 2, 4, 5), (2, 0, 5, 3))
_HEX_CENTRES = ((0, 3, 4, 7), (1, 2, 5, 6), (0, 1, 4, 5), (2, 3, 6, 7), (0, 1, 2, 3), (4, 5, 6, 7), tuple(range(8)))

CELLS: dict[int, Cell] = {
    cell.vtk: cell
    for cell in (
        _cell("vertex1", 1, 0, ((0.0, 0.0, 0.0),), (), (), _tensor(0, 1)),
        _cell("line2", 3, 1, _LINE, ((0, 1),), (), _tensor(1, 1)),
        _cell("line3", 21, 1, _LINE, ((0, 1),), (), _tensor(2, 1), 2),
        _cell("tri3", 5, 2, _TRI, _TRI_SIDES, ((0, 1, 2),), _simplex(1, 2)),
        _cell("tri6", 22, 2, _TRI, _TRI_SIDES, ((0, 1, 2),), _simplex(2, 2), 2),
        _cell("quad4", 9, 2, _QUAD, _QUAD_SIDES, ((0, 1, 2, 3),), _tensor(1, 2)),
        _cell("quad8", 23, 2, _QUAD, _QUAD_SIDES, ((0, 1, 2, 3),), _serendipity(2), 2),
        _cell("quad9", 28, 2, _QUAD, _QUAD_SIDES, ((0, 1, 2, 3),), _tensor(2, 2), 2, ((0, 1, 2, 3),)),
        _cell("tet4", 10, 3, _TET, _TET_SIDES, _TET_FACES, _simplex(1, 3)),
        _cell("tet10", 24, 3, _TET, _TET_SIDES, _TET_FACES, _simplex(2, 3), 2),
        _cell("pyramid5", 14, 3, _PYRAMID, _PYRAMID_SIDES, _PYRAMID_FACES, _pyramid),
        _cell("pyramid13", 27, 3, _PYRAMID, _PYRAMID_SIDES, _PYRAMID_FACES, _pyramid_of_thirteen, 2),
        _cell("wedge6", 13, 3, _WEDGE, _WEDGE_SIDES, _WEDGE_FACES, _wedge(1)),
        _cell("wedge15", 26, 3, _WEDGE, _WEDGE_SIDES, _WEDGE_FACES, _wedge(2), 2),
        _cell("wedge18", 32, 3, _WEDGE, _WEDGE_SIDES, _WEDGE_FACES, _wedge_of_eighteen(), 2, _WEDGE_CENTRES),
        _cell("hex8", 12, 3, _HEX, _HEX_SIDES, _HEX_FACES, _tensor(1, 3)),
        _cell("hex20", 25, 3, _HEX, _HEX_SIDES, _HEX_FACES, _serendipity(3), 2),
        _cell("hex27", 29, 3, _HEX, _HEX_SIDES, _HEX_FACES, _tensor(2, 3), 2, _HEX_CENTRES),
    )
}


@cache
def face_samples(corners: int, detail: int) -> tuple[Float, NDArray[np.int32], NDArray[np.int32]]:
    """A face cut ``detail`` times along each side: weights of its corners (v, corners), triangles (t, 3), rim (e, 2).

    The rim lists, side after side, the pieces of the face's outline; ``detail`` of them a side.
    """
    n = detail
    if corners == 4:
        grid = [(i / n, j / n) for j in range(n + 1) for i in range(n + 1)]
        r, s = np.array(grid).T
        weights = np.stack([(1 - r) * (1 - s), r * (1 - s), r * s, (1 - r) * s], axis=1)

        def at(i: int, j: int) -> int:
            return j * (n + 1) + i

        triangles = [
            t
            for j in range(n)
            for i in range(n)
            for t in ((at(i, j), at(i + 1, j), at(i + 1, j + 1)), (at(i, j), at(i + 1, j + 1), at(i, j + 1)))
        ]
        sides = [
            [at(i, 0) for i in range(n + 1)],
            [at(n, j) for j in range(n + 1)],
            [at(n - i, n) for i in range(n + 1)],
            [at(0, n - j) for j in range(n + 1)],
        ]
    else:
        index = {(i, j): k for k, (i, j) in enumerate((i, j) for j in range(n + 1) for i in range(n + 1 - j))}
        r, s = np.array([(i / n, j / n) for i, j in index]).T
        weights = np.stack([1 - r - s, r, s], axis=1)
        triangles = [(index[i, j], index[i + 1, j], index[i, j + 1]) for j in range(n) for i in range(n - j)]
        triangles += [(index[i + 1, j], index[i + 1, j + 1], index[i, j + 1]) for j in range(n) for i in range(n - j - 1)]
        sides = [
            [index[i, 0] for i in range(n + 1)],
            [index[n - j, j] for j in range(n + 1)],
            [index[0, n - j] for j in range(n + 1)],
        ]
    rim = [(side[k], side[k + 1]) for side in sides for k in range(n)]
    return weights, np.array(triangles, dtype=np.int32), np.array(rim, dtype=np.int32)
