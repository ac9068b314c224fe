"""Where a plane cuts elements: pieces with natural coordinates in the element that owns them, and points to integrate over them.

A natural domain is split into simplices (tetrahedra, triangles, segments), each cut where the signed distance from the plane
changes sign (marching simplices, common practice). The crossing on a simplex' edge is then found with the element's own shape
functions, so that curved elements are cut where they are, not where their corners would have it.

A plane may run through a layer of nodes. The cut is then taken as the limit from one side: ``BELOW`` takes the elements behind the
plane (against its normal), ``ABOVE`` those in front of it. Away from nodes both are the same.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cache
from itertools import permutations

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.mesh import Block, Float, Int, Mesh

BELOW, ABOVE = "below", "above"
NEAR = 1e-9
CURVED_LEVEL = {1: 1, 2: 2}
RUN = 1024


def distances(mesh: Mesh, origin: Float, normal: Float) -> Float:
    """Signed distance of every node from a plane of unit normal, (nodes,); exactly 0 within 1e-9 of the model's size."""
    away: Float = mesh.points @ normal - origin @ normal
    away[np.abs(away) <= NEAR * mesh.size] = 0.0
    return away


@dataclass(frozen=True, eq=False)
class Pieces:
    """What a plane cuts out of some elements of one shape: triangles of solids, segments of faces, points of lines.

    owner: (p,) rows of ``block``. xi: (p, d, 3) natural coordinates of each piece's d corners, d the element's dimension.
    straight: the elements are affine images of their natural domain.
    """

    block: Block
    owner: Int
    xi: Float
    straight: bool = False

    def samples(self, mesh: Mesh, origin: Float, normal: Float) -> Samples:
        """Points on the plane to integrate over the pieces, exact to the fifth degree in the pieces' own coordinates."""
        cell, count = self.block.cell, self.xi.shape[1]
        at, weight = _rule(count)
        xi = np.einsum("qv,pvx->pqx", at, self.xi)
        flat = xi.reshape(-1, 3)
        owner = np.repeat(self.owner, len(weight))
        nodes = mesh.points[self.block.nodes[owner]]
        shape = cell.shape(flat)
        points = np.matmul(shape[:, None], nodes)[:, 0]
        off = (points - origin) @ normal
        if np.abs(off).max(initial=0.0) > NEAR * mesh.size:
            # Between its corners a piece of a curved element leaves the plane: one step of Newton's method brings it back.
            slope = np.matmul((nodes @ normal)[:, None], cell.gradient(flat))[:, 0]
            flat[:, : cell.dimension] -= (off / np.maximum((slope**2).sum(1), 1e-300))[:, None] * slope
            shape = cell.shape(flat)
            points = np.matmul(shape[:, None], nodes)[:, 0]
        if count == 1:
            return Samples(self.block, owner, flat, shape, points, np.ones(len(flat)))
        if self.straight:
            slopes = cell.gradient(cell.centre)[0]
            jacobian = np.einsum("na,enx->exa", slopes, mesh.points[self.block.nodes])[owner]
        else:
            jacobian = np.matmul(nodes.transpose(0, 2, 1), cell.gradient(flat))
        sides = np.repeat(self.xi[:, 1:, : cell.dimension] - self.xi[:, :1, : cell.dimension], len(weight), axis=0)
        along = np.matmul(sides, jacobian.transpose(0, 2, 1))
        if count == 3:
            size = np.abs(np.cross(along[:, 0], along[:, 1]) @ normal)
        else:
            size = np.linalg.norm(along[:, 0], axis=1)
        return Samples(self.block, owner, flat, shape, points, size * np.tile(weight, len(self.owner)))


@dataclass(frozen=True, eq=False)
class Samples:
    """Points of a cut: owner (q,) rows of ``block``, natural coordinates (q, 3), shape functions (q, n), places (q, 3), and the
    area (length, count) each stands for (q,)."""

    block: Block
    owner: Int
    xi: Float
    shape: Float
    points: Float
    size: Float


def cut(mesh: Mesh, origin: Float, normal: Float, side: str = BELOW) -> Iterator[Pieces]:
    """Cut every element by a plane of unit normal, in runs of bounded size."""
    away = distances(mesh, origin, normal)
    front = _above(away, side)
    for whole in mesh.blocks:
        if whole.cell.dimension == 0:
            continue
        some, every = some_and_every(front.take(whole.nodes))
        crossed = np.flatnonzero(some & ~every)
        straight = _straight(mesh, whole.some(crossed))
        for flat in (True, False):
            chosen = crossed[straight == flat]
            for start in range(0, len(chosen), RUN):
                block = whole.some(chosen[start : start + RUN])
                found = _pieces(block, away[block.nodes], side, 0 if flat else CURVED_LEVEL[whole.cell.order], NEAR * mesh.size)
                if len(found.owner):
                    yield replace(found, straight=flat)


_AT_ONCE = {2: np.uint16, 4: np.uint32, 8: np.uint64}


def some_and_every(flags: NDArray[np.bool_]) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Whether some, and whether all, of the flags in each row (n, m) are set; 2, 4 or 8 of them are looked at in one piece."""
    whole = _AT_ONCE.get(flags.shape[1])
    if whole is None or not len(flags):
        return np.asarray(flags.any(1)), np.asarray(flags.all(1))
    packed = np.ascontiguousarray(flags).view(np.uint8).reshape(len(flags), -1).view(whole)[:, 0]
    return np.asarray(packed != 0), np.asarray(packed == int.from_bytes(bytes([1] * flags.shape[1]), "little"))


def touches_nodes(mesh: Mesh, origin: Float, normal: Float) -> NDArray[np.bool_]:
    """Which nodes lie on a plane of unit normal, (nodes,)."""
    return np.asarray(distances(mesh, origin, normal) == 0.0)


def _above(away: Float, side: str) -> NDArray[np.bool_]:
    """What counts as in front of the plane: seen from below, what lies on it does; seen from above it does not."""
    return np.asarray(away >= 0.0 if side == BELOW else away > 0.0)


def _straight(mesh: Mesh, block: Block) -> NDArray[np.bool_]:
    """Which elements are an affine image of their natural domain, (e,): there one cut of each simplex is exact."""
    cell = block.cell
    natural = np.column_stack([np.ones(cell.size), cell.nodes[:, : cell.dimension]])
    off = np.eye(cell.size) - natural @ np.linalg.pinv(natural)
    bent = np.abs(np.matmul(off, mesh.points[block.nodes])).max((1, 2), initial=0.0)
    return np.asarray(bent <= NEAR * mesh.size)


def _pieces(block: Block, away: Float, side: str, level: int, near: float) -> Pieces:
    cell = block.cell
    places, simplices = simplices_of(cell.vtk, level)
    value = away @ cell.shape(places).T
    value[np.abs(value) <= near] = 0.0
    owner, end = marched(cell.dimension, simplices, _above(value, side))
    if not len(owner):
        return Pieces(block, owner, np.zeros((0, cell.dimension, 3)))
    at_ends = value[owner[:, None, None], end]
    if level == 0:
        # The distance is linear inside: one step is exact, and only a vertex on the plane makes a piece of no size.
        found = Pieces(block, owner, between(places, end, at_ends, 0.0))
        return without_slivers(found) if (at_ends == 0.0).any() else found
    return without_slivers(Pieces(block, owner, _crossings(cell, away[owner], places[end], at_ends)))


def between(places: Float, end: Int, value: Float, level: float) -> Float:
    """Where the straight lines from vertex to vertex (p, d, 2) reach a level, by the values at both ends (p, d, 2): (p, d, 3)."""
    first, second = value[..., 0], value[..., 1]
    # One end is above the level and the other is not: they are never the same.
    share = (level - first) / (second - first)
    count = len(places)
    edge = end[..., 0] * count + end[..., 1]
    from_to = (places[None] - places[:, None]).reshape(-1, 3)
    found: Float = from_to.take(edge, 0, mode="clip")
    found *= share[..., None]
    found += places.take(end[..., 0], 0, mode="clip")
    return found


def marched(dimension: int, simplices: Int, above: NDArray[np.bool_]) -> tuple[Int, Int]:
    """Where simplices (s, d + 1) of some elements are crossed by the border between vertices above (e, v) and those that are not.

    Returns the element of each piece, (p,), and for each of its d corners the two vertices of the simplex between which it lies,
    (p, d, 2).
    """
    # Which corners of a simplex lie in front, as bits: they tell how many, and the order that has those in front first.
    bits = above[:, simplices] @ (1 << np.arange(dimension + 1)).astype(np.uint8)
    count, orders = IN_FRONT[dimension]
    many_in = count[bits]
    owners, ends = [], []
    for many, pattern in _PATTERNS[dimension]:
        row, which = np.nonzero(many_in == many)
        if not len(row):
            continue
        corner = simplices[which[:, None], orders[bits[row, which]]]
        for piece in pattern:
            first, second = (corner[:, [edge[k] for edge in piece]] for k in (0, 1))
            owners.append(row)
            ends.append(np.stack([first, second], axis=2))
    if not owners:
        return np.zeros(0, dtype=np.int64), np.zeros((0, dimension, 2), dtype=np.int64)
    return np.concatenate(owners).astype(np.int64), np.concatenate(ends)


def without_slivers(found: Pieces) -> Pieces:
    """Leave out pieces that have shrunk to less than a piece: where the plane touches no more than an edge or a corner."""
    count = found.xi.shape[1]
    if count == 1:
        return found
    sides = found.xi[:, 1:] - found.xi[:, :1]
    size = np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]) if count == 3 else sides[:, 0], axis=1)
    kept = size > 1e-12
    return Pieces(found.block, found.owner[kept], found.xi[kept])


def _crossings(cell: Cell, away: Float, ends: Float, value: Float) -> Float:
    """Where edges (p, d, 2, 3) with distances (p, d, 2) of either sign at their ends meet the plane, (p, d, 3).

    A straight guess, then the false position (Illinois) with the element's own functions until the distance is rounding.
    """
    pieces, corners = value.shape[:2]
    flat = ends.reshape(-1, 2, 3)
    low, high = value[..., 0].ravel().copy(), value[..., 1].ravel().copy()
    t_low, t_high = np.zeros(len(low)), np.ones(len(low))
    nodal = np.repeat(away, corners, axis=0)
    reach = np.abs(value).max(initial=0.0)
    t = low / np.where(low == high, 1.0, low - high)
    for _ in range(30):
        xi = flat[:, 0] + t[:, None] * (flat[:, 1] - flat[:, 0])
        here = np.einsum("pn,pn->p", cell.shape(xi), nodal)
        left = (np.abs(here) > 1e-13 * reach) & (low != 0.0) & (high != 0.0)
        if not left.any():
            break
        same = np.sign(here) == np.sign(low)
        high = np.where(left, np.where(same, high / 2, here), high)
        t_high = np.where(left & ~same, t, t_high)
        low = np.where(left, np.where(same, here, low / 2), low)
        t_low = np.where(left & same, t, t_low)
        t = np.where(left, t_low + (t_high - t_low) * low / np.where(low == high, 1.0, low - high), t)
    result: Float = (flat[:, 0] + t[:, None] * (flat[:, 1] - flat[:, 0])).reshape(pieces, corners, 3)
    return result


def _in_front(dimension: int) -> tuple[Int, Int]:
    flags = (np.arange(2 ** (dimension + 1))[:, None] >> np.arange(dimension + 1)) & 1
    return flags.sum(1), np.argsort(1 - flags, axis=1, kind="stable")


IN_FRONT = {dimension: _in_front(dimension) for dimension in (1, 2, 3)}
# By dimension: how many corners lie in front, and the pieces then cut out, each corner of a piece on the edge between two corners
# of the simplex (those in front come first).
_PATTERNS: dict[int, tuple[tuple[int, tuple[tuple[tuple[int, int], ...], ...]], ...]] = {
    1: ((1, (((0, 1),),)),),
    2: ((1, (((0, 1), (0, 2)),)), (2, (((0, 2), (1, 2)),))),
    3: (
        (1, (((0, 1), (0, 2), (0, 3)),)),
        (2, (((0, 2), (0, 3), (1, 3)), ((0, 2), (1, 3), (1, 2)))),
        (3, (((0, 3), (1, 3), (2, 3)),)),
    ),
}


def _rule(corners: int) -> tuple[Float, Float]:
    """Weights of a piece's corners at its integration points (q, corners), and what each point counts for (q,)."""
    if corners == 1:
        return np.ones((1, 1)), np.ones(1)
    xi, weight = CELLS[22 if corners == 3 else 21].quadrature
    natural = xi[:, : corners - 1]
    return np.column_stack([1.0 - natural.sum(1), natural]), weight


@cache
def simplices_of(vtk: int, level: int) -> tuple[Float, NDArray[np.int64]]:
    """A natural domain split into simplices, each halved along every side ``level`` times: places (v, 3), corners (s, d + 1)."""
    cell = CELLS[vtk]
    places = [tuple(p) for p in cell.natural[: cell.corners]]
    split: list[tuple[int, ...]] = []
    if cell.family == "hex":
        number = {p: i for i, p in enumerate(places)}
        for way in permutations(range(3)):
            corner, chain = [0.0, 0.0, 0.0], [number[0.0, 0.0, 0.0]]
            for axis in way:
                corner[axis] = 1.0
                chain.append(number[corner[0], corner[1], corner[2]])
            split.append(tuple(chain))
    else:
        named: dict[str, list[tuple[int, ...]]] = {
            "wedge": [(0, 1, 2, 5), (0, 1, 4, 5), (0, 3, 4, 5)],
            "pyramid": [(0, 1, 2, 4), (0, 2, 3, 4)],
            "quad": [(0, 1, 2), (0, 2, 3)],
        }
        split = named.get(cell.family, [tuple(range(cell.corners))])
    for _ in range(level):
        known: dict[frozenset[int], int] = {}

        def middle(a: int, b: int, known: dict[frozenset[int], int] = known) -> int:
            key = frozenset((a, b))
            if key not in known:
                known[key] = len(places)
                places.append(tuple((p + q) / 2 for p, q in zip(places[a], places[b], strict=True)))
            return known[key]

        split = [piece for simplex in split for piece in _halved(simplex, middle)]
    return np.array(places), np.array(split, dtype=np.int64)


def _halved(simplex: tuple[int, ...], middle: Callable[[int, int], int]) -> list[tuple[int, ...]]:
    """The simplices a simplex falls into when all its sides are halved (Bey, Computing 55, 1995, from memory)."""
    m = middle
    if len(simplex) == 2:
        a, b = simplex
        return [(a, m(a, b)), (m(a, b), b)]
    if len(simplex) == 3:
        a, b, c = simplex
        return [(a, m(a, b), m(a, c)), (m(a, b), b, m(b, c)), (m(a, c), m(b, c), c), (m(a, b), m(b, c), m(a, c))]
    a, b, c, d = simplex
    ab, ac, ad, bc, bd, cd = m(a, b), m(a, c), m(a, d), m(b, c), m(b, d), m(c, d)
    return [
        (a, ab, ac, ad), (ab, b, bc, bd), (ac, bc, c, cd), (ad, bd, cd, d),
        (ab, ac, ad, bd), (ab, ac, bc, bd), (ac, ad, bd, cd), (ac, bc, bd, cd),
    ]  # fmt: skip
