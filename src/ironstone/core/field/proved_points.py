"""The order of the Gauss points of a file, found by holding its tensors against the strain of the displacement at each point.

The k-th column of a file is the point whose strain it fits, over all elements looked at, while no other point fits nearly as well.
Of a stress it is the deviator that is held against that of the strain, by their direction and how they vary: so of an isotropic
elastic body. Columns that two points fit alike (a field that does not vary in the element) prove nothing.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.proved import APART, FITS, SMALL, TIMES
from ironstone.core.field.recover import small_strain
from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.gauss import gauss_points, known_counts
from ironstone.core.mesh.jacobians import gradients
from ironstone.core.mesh.mesh import Float, Int, Mesh


def found_order(
    mesh: Mesh, elements: Int, displacement: NDArray[np.floating], kind: str, table: Float
) -> dict[str, tuple[list[int], float]]:
    """By the name of a shape: which column of ``table`` (elements, points, 6, a strain or a stress in our components) each of our
    points is, and how far the worst of them is from fitting, as a share. Shapes for which that is not clear are left out."""
    found = {}
    for block in mesh.blocks:
        _, here, inside = np.intersect1d(elements, block.elements, assume_unique=True, return_indices=True)
        count = _count(block.cell, table[here], mesh.planar)
        if len(here) < 2 or count < 2:
            continue
        part = block.some(inside)
        gradient = gradients(block.cell, gauss_points(block.cell, count), mesh.points[part.nodes], displacement[part.nodes])
        if not 0.0 < float(np.abs(gradient).max(initial=0.0)) < SMALL:
            continue
        strain = small_strain(gradient)
        order = _matched(_varies(table[here][:, :count], kind, mesh.planar), _varies(strain, kind, mesh.planar), kind == "strain")
        if order is not None:
            found[block.cell.name] = order
    return found


def _count(cell: Cell, table: Float, planar: bool) -> int:
    """How many of the columns hold points of the shape; 0 where their places are not known or a value is missing."""
    looked = [0, 1, 3] if planar else [0, 1, 2, 3, 4, 5]
    there: NDArray[np.bool_] = np.asarray(~np.isnan(table[..., looked]).any(axis=(0, 2)))
    count = int(np.flatnonzero(there)[-1]) + 1 if there.any() else 0
    whole = count in known_counts(cell) and there[:count].all()
    return count if whole else 0


def _varies(tensor: Float, kind: str, planar: bool) -> Float:
    """What is held against each other, (elements, points, components): a strain itself, of a stress its deviator; in a planar model
    in the plane."""
    t = tensor
    root = np.sqrt(2.0)
    if planar:
        half = (t[..., 0] - t[..., 1]) / root
        mean = [(t[..., 0] + t[..., 1]) / root] if kind == "strain" else []
        return np.stack([half, *mean, root * t[..., 3]], axis=-1)
    off = t.copy()
    if kind != "strain":
        off[..., :3] -= off[..., :3].mean(axis=-1, keepdims=True)
    off[..., 3:] *= root
    return off


def _matched(table: Float, strain: Float, same_size: bool) -> tuple[list[int], float] | None:
    """Which column each point is, and the worst misfit; None where a column has no point of its own that fits clearly best."""
    across = np.einsum("eic,ejc->ij", table, strain, optimize=True)
    first, second = (table**2).sum((0, 2))[:, None], (strain**2).sum((0, 2))[None, :]
    if not (first > 0).all() or not (second > 0).all():
        return None
    if same_size:
        off = np.sqrt(np.maximum(first + second - 2 * across, 0.0) / np.maximum(first, second))
    else:
        along = across / np.sqrt(first * second)
        off = np.where(along > 0, np.sqrt(np.maximum(1.0 - along**2, 0.0)), 1.0)
    ranked = np.sort(off, axis=1)
    best, other = ranked[:, 0], ranked[:, 1]
    clear = (best <= FITS) & (other >= TIMES * best) & (other - best >= APART)
    point = np.argmin(off, axis=1)
    if not clear.all() or len(set(point.tolist())) < len(point):
        return None
    return np.argsort(point).tolist(), float(best.max())
