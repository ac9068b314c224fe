"""Mass of a model as its elements have it: the consistent mass matrix of translations, and what modes move of it.

M_ij = integral of rho N_i N_j dV, one matrix for each of the three directions; shells by their thickness, bars by their section
area. Rotations of nodes carry no mass here. After O. C. Zienkiewicz and R. L. Taylor, The Finite Element Method, from memory.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ironstone.core.field.fields import Source, constants_of
from ironstone.core.field.volumes import is_turned, volume_per_size
from ironstone.core.kept import kept_with
from ironstone.core.mesh.mesh import Float, quadrature_weights


@dataclass(frozen=True, eq=False)
class Inertia:
    """Mass of a model: ``matrix`` (nodes, nodes) of one direction, sparse; its sum ``total``; ``how`` it came to be known."""

    matrix: Any
    total: float
    how: str


def inertia(source: Source, total: float | None = None) -> Inertia | None:
    """Mass from the densities of the materials; from a stated total, spread evenly over the volume, where one is given.

    None where neither is known, or where the volume of an element is not (a shell without a thickness, a bar without an area).
    """
    return _inertia(source, total)


@kept_with(2)
def _inertia(source: Source, total: float | None) -> Inertia | None:
    solid = source.mesh.dimensions > 0
    (density,) = constants_of(source.mesh, source.setup, "density")
    if total is not None:
        density = np.ones(len(source.mesh.types))
    per_size = volume_per_size(source, 0)
    if not solid.any() or not np.isfinite((density * per_size)[solid]).all():
        return None
    matrix = mass_matrix(source, density)
    found = float(matrix.sum())
    if not found > 0.0:
        return None
    if total is None:
        return Inertia(matrix, found, "from the densities of the materials")
    return Inertia(matrix * (total / found), total, "the stated total, spread evenly over the volume")


def mass_matrix(source: Source, density: Float) -> Any:
    """Consistent mass of one direction, sparse (nodes, nodes). density: of each element, (elements,)."""
    from scipy.sparse import coo_matrix

    mesh, turned = source.mesh, is_turned(source)
    per_volume = density * volume_per_size(source, 0)
    count = len(mesh.points)
    rows, columns, values = [], [], []
    for block in (piece for whole in mesh.blocks if whole.cell.dimension > 0 for piece in whole.pieces()):
        xi, _ = block.cell.quadrature
        shape = block.cell.shape(xi)
        weights = quadrature_weights(mesh, block, turned) * per_volume[block.elements][:, None]
        own = np.einsum("eq,qi,qj->eij", weights, shape, shape, optimize=True)
        rows.append(np.repeat(block.nodes, block.cell.size, axis=1).ravel())
        columns.append(np.tile(block.nodes, (1, block.cell.size)).ravel())
        values.append(own.ravel())
    whole = [np.concatenate(found) if found else np.zeros(0) for found in (values, rows, columns)]
    return coo_matrix((whole[0], (whole[1].astype(np.int64), whole[2].astype(np.int64))), shape=(count, count)).tocsr()
