"""Whether faces of a mesh may lie on each other, told without looking for them."""

from __future__ import annotations

import numpy as np

from ironstone.core.mesh.mesh import Mesh

# Nodes at one place are looked for in meshes of so many nodes at most.
MODERATE = 100_000


def may_part(mesh: Mesh) -> bool:
    """Whether faces may lie on each other: parts that share no node, or (in meshes of moderate size) nodes at one place."""
    dimension = int(mesh.dimensions.max(initial=0))
    if dimension < 2 or (dimension == 2 and not mesh.planar):
        return False
    if len(mesh.part_names) > 1 and _apart(mesh):
        return True
    if len(mesh.points) > MODERATE:
        return False
    used = mesh.points[np.unique(mesh.connectivity)]
    return len(np.unique(np.round(used / max(mesh.size, 1e-300), 7), axis=0)) < len(used)


def _apart(mesh: Mesh) -> bool:
    """Whether some parts share no node, also not by way of others."""
    parts = len(mesh.part_names)
    part = mesh.part[mesh.corner_element]
    first, before = np.arange(parts), np.full(parts, -1)
    while (first != before).any():
        before = first.copy()
        at_node = np.full(len(mesh.points), parts)
        np.minimum.at(at_node, mesh.connectivity, first[part])
        np.minimum.at(first, part, at_node[mesh.connectivity])
    return len(np.unique(first[np.unique(mesh.part)])) > 1
