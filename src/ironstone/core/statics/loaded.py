"""Where a body is loaded that no file says so of: the forces its stress leaves at nodes that nothing holds."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ironstone.core.geometry.faces import boundary
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.patches import HOW, LOADED, NOTHING, SLIDING, Done, Patch, add_groups, sides_of, where_of

# Forces that a stress leaves: the error inside the body, as a share of the largest, below which a node's force is told from it; how
# many times the error a load is, and the least share of the largest.
OFF, WELL, LEAST = 0.05, 5.0, 0.02


def left_by_stress(mesh: Mesh, force: Float, found: Mapping[str, Patch], done: Done = NOTHING) -> Mapping[str, Patch]:
    """Loaded patches by the force (nodes, 3) that a stress leaves at nodes, beside the supports and driven patches ``found``.

    Inside the body nothing acts: what a stress leaves there is its error, and what is a load stands well above it. Where that is
    not so, a side of the body over which the forces come to the whole load; with weight nothing is found.
    """
    size = np.linalg.norm(np.nan_to_num(force), axis=1)
    held = np.zeros(len(size), dtype=bool)
    for patch in found.values():
        held[patch.nodes] |= not patch.how.startswith(HOW[SLIDING, False])
    if done.reaction is not None:
        held |= done.reaction > done.loose * float(np.nanmax(done.reaction, initial=0.0))
    free = ~held & ~np.isnan(force).any(axis=1)
    if not free.any():
        return {}
    outside = np.zeros(len(size), dtype=bool)
    outside[_skin_nodes(mesh)] = True
    inside = size[free & ~outside]
    error = float(inside.max()) if len(inside) else float(np.median(size[free]))
    largest = float(size[free].max())
    loads: dict[str, Patch] = {}
    if largest <= done.loose * float(np.nan_to_num(size).max(initial=0.0)):
        # Beside what acts where the body is held it is rounding.
        return {}
    if error <= OFF * largest:
        add_groups(loads, mesh, LOADED, free & outside & (size > max(WELL * error, LEAST * largest)), Done(), reactions=False)
        return loads
    # A stress that is even in each element leaves forces at every node of a bent body, which cancel over a side.
    total = np.nan_to_num(force)[free].sum(0)
    against = float(size[held].sum()) if held.any() else float(size.sum())
    if not np.linalg.norm(total) > LEAST * against:
        return {}
    whole = [nodes for _, nodes in sides_of(mesh) if _carries(force, nodes[free[nodes]], total)]
    if whole:
        nodes = min(whole, key=len)
        loads[f"{LOADED} {where_of(mesh, nodes)}"] = Patch(nodes[free[nodes]], HOW[LOADED, False])
    return loads


def _carries(force: Float, nodes: Int, total: Float) -> bool:
    """Whether the forces at some nodes come to the whole."""
    own = np.nan_to_num(force)[nodes].sum(0)
    return bool(len(nodes)) and bool(np.linalg.norm(own - total) <= LEAST * np.linalg.norm(total))


def _skin_nodes(mesh: Mesh) -> Int:
    """The nodes of faces that one element has alone."""
    faces = boundary(mesh, np.ones(len(mesh.types), dtype=bool))
    found = [np.zeros(0, dtype=np.int64)]
    for vtk in np.unique(mesh.types[faces[:, 0]]):
        for local, nodes in enumerate(CELLS[int(vtk)].faces):
            here = faces[(mesh.types[faces[:, 0]] == vtk) & (faces[:, 1] == local), 0]
            found.append(mesh.connectivity[mesh.offsets[here][:, None] + np.array(nodes)].ravel())
    return np.unique(np.concatenate(found))
