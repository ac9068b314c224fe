"""Whether faces of a mesh may lie on each other, told without looking for them."""

from __future__ import annotations

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components

from ironstone.core.mesh.mesh import Mesh

# Nodes at one place are looked for in meshes of so many nodes at most.
MODERATE = 100_000


def may_part(mesh: Mesh) -> bool:
    """Whether faces may lie on each other: parts that share no node, or (in meshes of moderate size) nodes at one place."""
    dimension = int(mesh.dimensions.max(initial=0))
    if dimension < 2 or (dimension == 2 and not mesh.planar):
        return False
    if len(mesh.part_names) > 1:
        # A part and the parts it shares nodes with, however far on, are one.
        count, parts = len(mesh.points), len(mesh.part_names)
        nodes, part = mesh.connectivity, mesh.part[mesh.corner_element] + count
        joined = csr_matrix((np.ones(len(nodes)), (nodes, part)), shape=(count + parts, count + parts))
        number = connected_components(joined, directed=False)[1][count:]
        there = np.bincount(mesh.part, minlength=parts) > 0
        if len(np.unique(number[there])) > 1:
            return True
    if len(mesh.points) > MODERATE:
        return False
    used = mesh.points[np.unique(mesh.connectivity)]
    return len(np.unique(np.round(used / max(mesh.size, 1e-300), 7), axis=0)) < len(used)
