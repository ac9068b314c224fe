"""How elements map their natural domain to space: slopes, inverse and ratio of volume in closed form, for many elements at once.

The axis of the elements comes last, so that each formula runs over whole arrays; one matrix product turns what the nodes have into
derivatives at all places. Determinant and inverse of 3 x 3 are by cross products, of surfaces and lines by their own directions.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.cells import Cell, Float

# Bytes of one array of a piece: what is worked out in turn stays in the processor's own memory.
PIECE = 1024**2


def small_runs(count: int, places: int) -> Iterator[slice]:
    """So many elements in runs whose Jacobians at so many places are about ``PIECE`` bytes."""
    step = max(64, PIECE // (72 * max(places, 1)))
    yield from (slice(start, min(start + step, count)) for start in range(0, count, step))


def natural_slopes(cell: Cell, xi: Float, nodal: NDArray[np.floating]) -> Float:
    """Derivatives by the natural coordinates at places xi (q, 3) of what the nodes of some elements have (e, size, c):
    (q, dimension, c, e)."""
    slopes = cell.gradient(xi)
    places, size, dimension = slopes.shape
    table = np.ascontiguousarray(slopes.transpose(0, 2, 1)).reshape(places * dimension, size)
    count, _, components = nodal.shape
    last = np.ascontiguousarray(nodal.transpose(1, 2, 0), dtype=np.float64).reshape(size, components * count)
    result: Float = (table @ last).reshape(places, dimension, components, count)
    return result


def crossed(a: Float, b: Float) -> Float:
    """a x b of vectors with their components at the third axis from the end: (..., 3, e) of (..., 3, e)."""
    result = np.empty(np.broadcast_shapes(a.shape, b.shape))
    for i, j, k in ((0, 1, 2), (1, 2, 0), (2, 0, 1)):
        np.multiply(a[..., j, :], b[..., k, :], out=result[..., i, :])
        result[..., i, :] -= a[..., k, :] * b[..., j, :]
    return result


def cofactors(jacobian: Float) -> tuple[Float, Float]:
    """Of Jacobians (q, 3, 3, e) of solids, rows dx/dxi_a: their cofactors (q, 3, 3, e), rows det * dxi_a/dx, and det (q, e)."""
    a, b, c = (jacobian[:, i] for i in range(3))
    rows = np.stack([crossed(b, c), crossed(c, a), crossed(a, b)], axis=1)
    return rows, (a * rows[:, 0]).sum(axis=1)


def ratios(jacobian: Float) -> Float:
    """The size in space of a unit of the natural domain, (q, e): of volume, area or length."""
    dimension = jacobian.shape[1]
    if dimension == 3:
        a, b, c = (jacobian[:, i] for i in range(3))
        volume: Float = np.abs((a * crossed(b, c)).sum(axis=1))
        return volume
    along = jacobian[:, 0] if dimension == 1 else crossed(jacobian[:, 0], jacobian[:, 1])
    result: Float = np.sqrt((along**2).sum(axis=1))
    return result


def inverses(jacobian: Float) -> Float:
    """dxi_a/dx (q, dimension, 3, e) of Jacobians (q, dimension, 3, e); NaN where an element has no extent there. On a surface or a
    line the tangential ones."""
    dimension = jacobian.shape[1]
    with np.errstate(invalid="ignore", divide="ignore"):
        if dimension == 3:
            rows, det = cofactors(jacobian)
            result: Float = rows / np.where(det == 0.0, np.nan, det)[:, None, None]
            return result
        if dimension == 2:
            a, b = jacobian[:, 0], jacobian[:, 1]
            normal = crossed(a, b)
            square = (normal**2).sum(axis=1)
            rows = np.stack([crossed(b, normal), crossed(normal, a)], axis=1)
        else:
            rows = jacobian
            square = (jacobian[:, 0] ** 2).sum(axis=1)
        tangential: Float = rows / np.where(square == 0.0, np.nan, square)[:, None, None]
        return tangential


def size_ratios(cell: Cell, xi: Float, nodes: Float) -> Float:
    """``ratios`` at places xi (q, 3) of elements whose nodes lie at (e, size, 3), (e, q)."""
    result = np.empty((len(nodes), len(xi)))
    for run in small_runs(len(nodes), len(xi)):
        result[run] = ratios(natural_slopes(cell, xi, nodes[run])).T
    return result


def gradients(cell: Cell, xi: Float, nodes: Float, nodal: NDArray[np.floating]) -> Float:
    """Derivatives by x, y, z at places xi (q, 3) of elements whose nodes lie at (e, size, 3), of what these nodes have
    (e, size, c): (e, q, c, 3); along a shell or line, tangential. NaN where an element has no extent."""
    result = np.empty((len(nodes), len(xi), nodal.shape[2], 3))
    for run in small_runs(len(nodes), len(xi)):
        inward = inverses(natural_slopes(cell, xi, nodes[run]))
        slopes = natural_slopes(cell, xi, nodal[run])
        total = slopes[:, 0, :, None] * inward[:, 0, None]
        for axis in range(1, cell.dimension):
            total += slopes[:, axis, :, None] * inward[:, axis, None]
        result[run] = np.moveaxis(total, -1, 0)
    return result
