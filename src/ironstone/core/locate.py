"""Finding the element that holds a point: inverse isoparametric mapping by Newton's method."""

from __future__ import annotations

import numpy as np

from ironstone.core.cells import Cell
from ironstone.core.errors import Impossible
from ironstone.core.mesh import Float, Mesh
from ironstone.core.places import AtSamples

TOLERANCE = 1e-8


def find(mesh: Mesh, point: Float) -> AtSamples:
    """All elements that hold ``point`` (3,), with its natural coordinates in each. Raises when it lies outside the body."""
    found, coordinates = [], []
    for block in mesh.blocks:
        corners = mesh.points[block.nodes]
        low, high = corners.min(1), corners.max(1)
        margin = 0.1 * (high - low).max(1, keepdims=True) + 1e-12
        near = np.flatnonzero(((point >= low - margin) & (point <= high + margin)).all(1))
        for candidate in near:
            xi = _natural(block.cell, corners[candidate], point)
            if xi is not None:
                found.append(int(block.elements[candidate]))
                coordinates.append(xi)
    if not found:
        nearest = int(np.argmin(np.linalg.norm(mesh.points - point, axis=1)))
        away = float(np.linalg.norm(mesh.points[nearest] - point))
        raise Impossible(
            f"The point {tuple(float(v) for v in point)} lies outside the body.",
            f"The nearest node is {mesh.node_ids[nearest]}, {away:.4g} away.",
        )
    order = np.argsort(found)
    return AtSamples(np.array(found)[order], np.array(coordinates)[order])


def _natural(cell: Cell, nodes: Float, point: Float) -> Float | None:
    """Natural coordinates of a point in one element, None when it lies outside (by more than 1e-6)."""
    xi = cell.centre.copy()
    size = max(float(np.ptp(nodes, axis=0).max()), 1e-300)
    for _ in range(30):
        miss = point - (cell.shape(xi) @ nodes)[0]
        jacobian = np.einsum("na,nx->xa", cell.gradient(xi)[0], nodes)
        step = np.linalg.lstsq(jacobian, miss, rcond=None)[0]
        xi[0, : cell.dimension] += step
        if not np.isfinite(xi).all() or np.abs(xi).max() > 50:
            return None
        if np.abs(step).max() < TOLERANCE:
            break
    if np.linalg.norm(point - (cell.shape(xi) @ nodes)[0]) > 1e-6 * size:
        return None
    result: Float = xi[0]
    if not (result >= -1e-6).all() or not (result <= 1.0 + 1e-6).all():
        return None
    if cell.name.startswith("tet") and result.sum() > 1.0 + 1e-6:
        return None
    if cell.name.startswith(("tri", "wedge")) and result[:2].sum() > 1.0 + 1e-6:
        return None
    if cell.name.startswith("pyramid") and result[:2].max() + result[2] > 1.0 + 1e-6:
        return None
    return result
