"""Finding the elements that hold points: boxes in a regular grid, then inverse isoparametric mapping by Newton's method."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.kept import kept_with
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.jacobians import inverses
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

TOLERANCE = 1e-8
# In a solid Newton's method squares its error: after a step as short as this the next would be far below the tolerance.
LAST_STEP = 1e-5
INSIDE = 1e-6
STEPS = 30
# Grid cells an element may lie in before it counts as a large one, which is looked at for every point.
MANY_CELLS = 512
# Points that are mapped at once: their arrays stay in the processor's own memory.
RUN = 4096


@dataclass(frozen=True, eq=False)
class Located:
    """Which elements hold which points: point (n,), element (n,), natural coordinates (n, 3); in order of point, then element."""

    point: Int
    element: Int
    xi: Float


def find(mesh: Mesh, point: Float) -> AtSamples:
    """All elements that hold ``point`` (3,), with its natural coordinates in each. Raises when it lies outside the body."""
    found = locate(mesh, np.asarray(point, dtype=np.float64)[None, :])
    if not len(found.point):
        nearest = int(np.argmin(np.linalg.norm(mesh.points - point, axis=1)))
        away = float(np.linalg.norm(mesh.points[nearest] - point))
        raise Impossible(
            f"The point {tuple(float(v) for v in point)} lies outside the body.",
            f"The nearest node is {mesh.node_ids[nearest]}, {away:.4g} away.",
        )
    return AtSamples(found.element, found.xi)


def locate(mesh: Mesh, points: Float) -> Located:
    """All elements that hold any of some points (n, 3): on a border every one that meets there, outside none."""
    point, element = _index(mesh).near(points)
    xi = np.zeros((len(point), 3))
    inside = np.zeros(len(point), dtype=bool)
    types = mesh.types[element]
    for vtk in np.unique(types):
        here = np.flatnonzero(types == vtk)
        cell = CELLS[int(vtk)]
        nodes = mesh.points[mesh.connectivity[mesh.offsets[element[here]][:, None] + np.arange(cell.size)]]
        xi[here], inside[here] = natural(cell, nodes, points[point[here]])
    kept = np.flatnonzero(inside)
    kept = kept[np.lexsort((element[kept], point[kept]))]
    return Located(point[kept], element[kept], xi[kept])


@dataclass(frozen=True, eq=False)
class _Index:
    """Boxes of elements, and which of them touch each cell of a regular grid."""

    low: Float
    high: Float
    origin: Float
    step: Float
    shape: Int
    begins: Int
    elements: Int
    large: Int

    def near(self, points: Float) -> tuple[Int, Int]:
        """Pairs of a point and an element in whose box it lies."""
        cell = np.floor((points - self.origin) / self.step)
        there = np.flatnonzero(((cell >= 0) & (cell < self.shape)).all(1))
        number = np.ravel_multi_index(tuple(cell[there].astype(np.int64).T), tuple(self.shape)) if len(there) else there
        counts = self.begins[number + 1] - self.begins[number]
        within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
        element = self.elements[np.repeat(self.begins[number], counts) + within]
        point = np.repeat(there, counts)
        if len(self.large):
            point = np.concatenate([point, np.repeat(np.arange(len(points)), len(self.large))])
            element = np.concatenate([element, np.tile(self.large, len(points))])
        kept = ((points[point] >= self.low[element]) & (points[point] <= self.high[element])).all(1)
        return point[kept], element[kept]


@kept_with(1)
def _index(mesh: Mesh) -> _Index:
    low = np.full((len(mesh.types), 3), np.inf)
    high = np.full((len(mesh.types), 3), -np.inf)
    for block in mesh.blocks:
        least, greatest = np.full((len(block.elements), 3), np.inf), np.full((len(block.elements), 3), -np.inf)
        for node in range(block.cell.size):
            at = mesh.points[block.nodes[:, node]]
            np.minimum(least, at, out=least)
            np.maximum(greatest, at, out=greatest)
        low[block.elements], high[block.elements] = least, greatest
    # The sides of a curved element reach out of the box of its nodes.
    margin = 0.1 * (high - low).max(1, keepdims=True) + 1e-12
    low, high = low - margin, high + margin
    origin, top = low.min(0), high.max(0)
    usual = np.median(high - low, axis=0)
    step = np.maximum(1.5 * usual, (top - origin) / 200.0)
    step = np.where(step > 0.0, step, 1.0)
    shape = np.maximum(np.ceil((top - origin) / step).astype(np.int64), 1)
    first = np.clip(np.floor((low - origin) / step).astype(np.int64), 0, shape - 1)
    last = np.clip(np.floor((high - origin) / step).astype(np.int64), 0, shape - 1)
    spread = last - first + 1
    count = spread.prod(1)
    few = np.flatnonzero(count <= MANY_CELLS)
    repeated = np.repeat(few, count[few])
    within = np.arange(len(repeated)) - np.repeat(np.cumsum(count[few]) - count[few], count[few])
    wide, deep = spread[repeated, 1], spread[repeated, 2]
    x = first[repeated, 0] + within // (wide * deep)
    y = first[repeated, 1] + within // deep % wide
    z = first[repeated, 2] + within % deep
    number = np.ravel_multi_index((x, y, z), tuple(shape))
    order = np.argsort(number, kind="stable")
    begins = np.concatenate([[0], np.cumsum(np.bincount(number, minlength=int(shape.prod())))]).astype(np.int64)
    return _Index(low, high, origin, step, shape, begins, repeated[order], np.flatnonzero(count > MANY_CELLS))


def natural(cell: Cell, nodes: Float, points: Float, guess: Float | None = None) -> tuple[Float, NDArray[np.bool_]]:
    """Natural coordinates (n, 3) of points (n, 3), each in an element of its own with ``nodes`` (n, size, 3), and whether inside.
    guess: about where they lie, (n, 3), in place of the middle.

    Newton's method with the tolerance 1e-8 of the element; a point is inside up to 1e-6 of it. On a surface or a line the nearest
    place is found, and a point away from it is outside.
    """
    xi, inside = np.empty((len(points), 3)), np.empty(len(points), dtype=bool)
    for start in range(0, len(points), RUN):
        run = slice(start, start + RUN)
        xi[run], inside[run] = _natural(cell, nodes[run], points[run], None if guess is None else guess[run])
    return xi, inside


def _natural(cell: Cell, nodes: Float, points: Float, guess: Float | None) -> tuple[Float, NDArray[np.bool_]]:
    """The same of a run of points, worked on with the points last: each formula runs over whole arrays."""
    count, dimension = len(points), cell.dimension
    xi = np.tile(cell.centre, (count, 1)) if guess is None else guess.copy()
    at, wanted = np.ascontiguousarray(nodes.transpose(1, 2, 0)), np.ascontiguousarray(points.T)
    size = np.maximum((at.max(axis=0) - at.min(axis=0)).max(axis=0), 1e-300)
    going = np.arange(count)
    enough = LAST_STEP if dimension == 3 else TOLERANCE
    for _ in range(STEPS):
        if not len(going):
            break
        own = at if len(going) == count else at[:, :, going]
        here = xi[going]
        miss = wanted[:, going] - np.einsum("sn,sxn->xn", np.ascontiguousarray(cell.shape(here).T), own)
        slopes = np.ascontiguousarray(cell.gradient(here).transpose(1, 2, 0))
        jacobian = np.einsum("san,sxn->axn", slopes, own)
        step = (inverses(jacobian[None])[0] * miss).sum(axis=1)
        here[:, :dimension] += step.T
        with np.errstate(invalid="ignore"):
            lost = ~np.isfinite(here).all(1) | (np.abs(here).max(1) > 50.0)
        here[lost] = np.nan
        xi[going] = here
        going = going[~lost & (np.abs(step).max(axis=0) >= enough)]
    with np.errstate(invalid="ignore"):
        there = np.einsum("sn,sxn->xn", np.ascontiguousarray(cell.shape(xi).T), at)
        away = np.sqrt(((wanted - there) ** 2).sum(axis=0))
        inside = (away <= INSIDE * size) & (depths_of(cell, xi).min(1, initial=np.inf) >= -INSIDE)
    return xi, inside


# The most sides a domain has.
SIDES = 6


def depths_of(cell: Cell, xi: Float) -> Float:
    """How deep natural coordinates (n, 3) lie behind each side of the domain, (n, sides): below zero outside."""
    own = xi[:, : cell.dimension]
    if cell.family == "tet":
        return np.column_stack([own, 1.0 - xi.sum(1)])
    if cell.family in ("tri", "wedge"):
        return np.column_stack([own, 1.0 - xi[:, :2].sum(1), 1.0 - own[:, 2:]])
    if cell.family == "pyramid":
        return np.column_stack([own, 1.0 - xi[:, 2:] - xi[:, :2]])
    return np.column_stack([own, 1.0 - own])


def depths(mesh: Mesh, element: Int, points: Float) -> Float:
    """How deep points (n, 3), each in an element (n,), lie behind each of its sides in natural coordinates, (n, 6): below zero
    outside. Infinite for sides it does not have; NaN where the point is beside a surface or a line."""
    found = np.full((len(points), SIDES), np.inf)
    types = mesh.types[element]
    for vtk in np.unique(types):
        here = np.flatnonzero(types == vtk)
        cell = CELLS[int(vtk)]
        nodes = mesh.points[mesh.connectivity[mesh.offsets[element[here]][:, None] + np.arange(cell.size)]]
        xi, inside = natural(cell, nodes, points[here])
        own = depths_of(cell, xi)
        with np.errstate(invalid="ignore"):
            known = inside | (own < -INSIDE).any(1)
        found[here[:, None], np.arange(own.shape[1])] = np.where(known[:, None], own, np.nan)
    return found
