"""Where a value is reached inside elements, and what lies between two values: pieces with natural coordinates in their element.

A natural domain is split into simplices as for a plane (``geometry.cut``), as fine as it is drawn; the value is asked for at
their corners, inside each element by itself, and is linear between them. Nothing is blended from one element to the next.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import factorial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.geometry.cut import IN_FRONT, Pieces, between, marched, simplices_of, some_and_every, without_slivers
from ironstone.core.mesh.mesh import Block, Float, Int, Mesh

# How often a natural domain is halved, by the order of its functions.
USUAL = {1: 0, 2: 1}
RUN = 8192
# Values at places inside elements: elements (n,), natural coordinates (n, 3) -> (n,).
Inside = Callable[[Int, Float], Float]
Inner = tuple[Float, Float]


@dataclass(frozen=True, eq=False)
class Simplices:
    """Tetrahedra, triangles or segments inside elements of one shape: owner (s,) rows of ``block``, natural coordinates
    (s, d + 1, 3), values at their corners (s, d + 1)."""

    block: Block
    owner: Int
    xi: Float
    value: Float

    def sizes(self, mesh: Mesh) -> Float:
        """Volume (area, length) of each, (s,): its natural size times the element's ratio in its middle; of elements with curved
        sides, whose pieces are small, by the rule of the second degree with as many points as corners."""
        cell = self.block.cell
        dimension = cell.dimension
        many = dimension + 1
        near = _NEAR[dimension] if cell.order == 2 else 1.0 / many
        inner = np.full((many, many), near) + (1.0 - many * near) * np.eye(many) if cell.order == 2 else np.full((1, many), near)
        share = np.full(len(inner), 1.0 / len(inner) / factorial(dimension))
        total = np.zeros(len(self.owner))
        sides = self.xi[:, 1:, :dimension] - self.xi[:, :1, :dimension]
        for start in range(0, len(total), 4 * RUN):
            run = slice(start, start + 4 * RUN)
            nodes = mesh.points[self.block.nodes[self.owner[run]]].transpose(0, 2, 1)
            for corner, part in zip(inner, share, strict=True):
                slopes = cell.gradient(np.tensordot(self.xi[run], corner, axes=(1, 0)))[..., :dimension]
                along = np.matmul(np.matmul(nodes, slopes), sides[run].transpose(0, 2, 1))
                if dimension == 3:
                    a, b, c = (along[:, :, i] for i in range(3))
                    total[run] += part * np.abs((a * np.cross(b, c)).sum(1))
                else:
                    gram = np.matmul(along.transpose(0, 2, 1), along)
                    total[run] += part * np.sqrt(np.maximum(np.linalg.det(gram), 0.0))
        return total

    def places(self, mesh: Mesh) -> Float:
        """Where the corners are, (s, d + 1, 3)."""
        found = np.empty(self.xi.shape)
        for start in range(0, len(self.owner), RUN):
            run = slice(start, start + RUN)
            corners = self.xi[run]
            shape = self.block.cell.shape(corners.reshape(-1, 3)).reshape(*corners.shape[:2], -1)
            found[run] = np.matmul(shape, mesh.points[self.block.nodes[self.owner[run]]])
        return found


# Points of a simplex that integrate the second degree, one towards each corner: their weight at the other corners (Stroud 1971,
# from memory); on a segment Gauss' two points.
_NEAR = {1: (1 - 1 / np.sqrt(3)) / 2, 2: 1 / 6, 3: (5 - np.sqrt(5)) / 20}


@dataclass(frozen=True, eq=False)
class Band:
    """What lies between two values: elements that do as a whole (n,), pieces of the others, and elements without a value (m,)."""

    whole: Int
    pieces: tuple[Simplices, ...]
    missing: Int


def at_value(mesh: Mesh, corner: Float, read: Inside, value: float, finer: int = 0, inner: Inner | None = None) -> Iterator[Pieces]:
    """Where a value is reached: triangles in solids, segments in faces, points in bars.

    corner: values at all corners (corners,); an element whose corners do not reach the value is not looked into, nor one of which
    a corner has none. read: asked for values between the corners. finer: how often more than usual the domains are halved. inner:
    the lowest and highest value between the corners of all elements (elements,) each, of a reading that goes beyond them there.
    """
    front = corner >= value
    for block in mesh.blocks:
        if block.cell.dimension == 0:
            continue
        some, every = some_and_every(_of_block(mesh, block, front))
        if inner is not None:
            least, most = (of[block.elements] for of in inner)
            some, every = some | (most >= value), every & (least >= value)
        chosen = np.flatnonzero(some & ~every)
        for run, places, simplices, values in _runs(mesh, block, chosen, corner, read, finer):
            owner, end = marched(run.cell.dimension, simplices, values >= value)
            at_ends = values[owner[:, None, None], end]
            found = Pieces(run, owner, between(places, end, at_ends, value))
            if (at_ends == value).any():
                found = without_slivers(found)
            if len(found.owner):
                yield found


def in_band(mesh: Mesh, corner: Float, read: Inside, low: float, high: float, finer: int = 0, inner: Inner | None = None) -> Band:
    """What lies between two values, both of them included. See ``at_value``."""
    above, below, gone = corner >= low, corner <= high, np.isnan(corner)
    pieces, whole, missing = [], [np.zeros(0, dtype=np.int64)], [np.zeros(0, dtype=np.int64)]
    for block in mesh.blocks:
        if block.cell.dimension == 0:
            continue
        some_above, all_above = some_and_every(_of_block(mesh, block, above))
        some_below, all_below = some_and_every(_of_block(mesh, block, below))
        if inner is not None:
            least, most = (of[block.elements] for of in inner)
            some_above, all_above = some_above | (most >= low), all_above & (least >= low)
            some_below, all_below = some_below | (least <= high), all_below & (most <= high)
        inside = all_above & all_below
        whole.append(block.elements[inside])
        missing.append(block.elements[some_and_every(_of_block(mesh, block, gone))[0]])
        chosen = np.flatnonzero(some_above & some_below & ~inside)
        for run, places, simplices, values in _runs(mesh, block, chosen, corner, read, finer):
            count, each = len(run.elements), len(simplices)
            owner, at = np.repeat(np.arange(count), each), values[:, simplices].reshape(count * each, -1)
            # Simplices that lie outside as a whole are left out before any of them is taken apart.
            kept = np.flatnonzero((at >= low).any(1) & (at <= high).any(1))
            cut = Simplices(run, owner[kept], places[simplices][kept % each], at[kept])
            cut = clipped(clipped(cut, low, above=True), high, above=False)
            if len(cut.owner):
                pieces.append(cut)
    return Band(np.sort(np.concatenate(whole)), tuple(pieces), np.sort(np.concatenate(missing)))


def _of_block(mesh: Mesh, block: Block, corner: NDArray[Any]) -> NDArray[Any]:
    """What all corners have, as a table of a block's elements; without a copy where the mesh has one shape."""
    if len(mesh.blocks) == 1:
        return corner.reshape(len(block.elements), -1)
    return corner[block.corners]


def _runs(
    mesh: Mesh, block: Block, chosen: Int, corner: Float, read: Inside, finer: int
) -> Iterator[tuple[Block, Float, Int, Float]]:
    """Chosen elements in runs of bounded size: the run, the vertices and simplices of its domain, values (e, v) there."""
    level = USUAL[block.cell.order] + finer
    places, simplices = simplices_of(block.cell.vtk, level)
    for start in range(0, len(chosen), RUN):
        run = block.some(chosen[start : start + RUN])
        at_corners = corner[run.corners]
        missing = np.asarray(np.isnan(at_corners).any(1))
        if missing.any():
            run, at_corners = run.some(~missing), at_corners[~missing]
        if level == 0:
            # The vertices are the corners, in their order: there the values are known.
            yield run, places, simplices, at_corners[:, : len(places)]
            continue
        element = np.repeat(run.elements, len(places))
        yield run, places, simplices, read(element, np.tile(places, (len(run.elements), 1))).reshape(-1, len(places))


def clipped(whole: Simplices, level: float, above: bool) -> Simplices:
    """What of some simplices lies above a level (or below it), cut into simplices again."""
    dimension = whole.xi.shape[1] - 1
    value = whole.value if above else -whole.value
    at = level if above else -level
    with np.errstate(invalid="ignore"):
        bits = (value >= at) @ (1 << np.arange(dimension + 1)).astype(np.uint8)
    counts, orders = IN_FRONT[dimension]
    count = np.where(np.isnan(value).any(1), 0, counts[bits])
    owners, places, values = [whole.owner[:0]], [whole.xi[:0]], [value[:0]]
    for many, pattern in _CLIPS[dimension]:
        row = np.flatnonzero(count == many)
        if not len(row):
            continue
        if many == dimension + 1:
            # What lies above as a whole is taken as it is.
            owners.append(whole.owner[row])
            places.append(whole.xi[row])
            values.append(value[row])
            continue
        order = orders[bits[row]]
        xi, at_corners = whole.xi[row[:, None], order], value[row[:, None], order]
        # The corners of what is left: those in front, and where the edges to those behind reach the level.
        corner_xi, corner_value = {}, {}
        for first, second in {c for simplex in pattern for c in simplex}:
            if first == second:
                corner_xi[first, second], corner_value[first, second] = xi[:, first], at_corners[:, first]
                continue
            step = at_corners[:, second] - at_corners[:, first]
            share = (at - at_corners[:, first]) / np.where(step == 0.0, 1.0, step)
            corner_xi[first, second] = xi[:, first] + share[:, None] * (xi[:, second] - xi[:, first])
            corner_value[first, second] = np.full(len(row), at)
        for simplex in pattern:
            owners.append(whole.owner[row])
            places.append(np.stack([corner_xi[c] for c in simplex], axis=1))
            values.append(np.stack([corner_value[c] for c in simplex], axis=1))
    kept = np.concatenate(values)
    return Simplices(whole.block, np.concatenate(owners), np.concatenate(places), kept if above else -kept)


def _whole(dimension: int) -> tuple[tuple[tuple[int, int], ...], ...]:
    return (tuple((i, i) for i in range(dimension + 1)),)


# By dimension: how many corners lie in front (they come first), and the simplices that are left; each corner of one is a corner of
# the whole (i, i) or lies on the edge from i to j.
_CLIPS: dict[int, tuple[tuple[int, tuple[tuple[tuple[int, int], ...], ...]], ...]] = {
    1: ((1, (((0, 0), (0, 1)),)), (2, _whole(1))),
    2: (
        (1, (((0, 0), (0, 1), (0, 2)),)),
        (2, (((0, 0), (1, 1), (1, 2)), ((0, 0), (1, 2), (0, 2)))),
        (3, _whole(2)),
    ),
    3: (
        (1, (((0, 0), (0, 1), (0, 2), (0, 3)),)),
        # A wedge between the triangles (0, 02, 03) and (1, 12, 13).
        (2, (
            ((0, 0), (0, 2), (0, 3), (1, 1)),
            ((0, 2), (0, 3), (1, 1), (1, 2)),
            ((0, 3), (1, 1), (1, 2), (1, 3)),
        )),
        # A wedge between the triangles (0, 1, 2) and (03, 13, 23).
        (3, (
            ((0, 0), (1, 1), (2, 2), (0, 3)),
            ((1, 1), (2, 2), (0, 3), (1, 3)),
            ((2, 2), (0, 3), (1, 3), (2, 3)),
        )),
        (4, _whole(3)),
    ),
}  # fmt: skip
