"""How far faces that lie on each other part: their relative displacement, square to the face and in it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from scipy.spatial import cKDTree

from ironstone.core.geometry.nearest import outside_of
from ironstone.core.geometry.penetration import alone
from ironstone.core.kept import kept_with
from ironstone.core.mesh.interpolation import interpolation
from ironstone.core.mesh.mesh import Float, Int, Mesh

# Nodes nearer than this share of the model are at one place; faces nearer than this share of their sides lie on each other.
AT_ONE_PLACE, ON_EACH_OTHER = 1e-6, 0.1


@dataclass(frozen=True, eq=False)
class Facing:
    """Nodes (n,) of faces that lie on others, undeformed. other: of nodal values what the face across has there, (n, nodes).
    normal, along, across: (n, 3) of unit length, outwards from the node's own face and two ways in it."""

    nodes: Int
    other: csr_matrix
    normal: Float
    along: Float
    across: Float


def opening(mesh: Mesh, displacement: Float) -> Float:
    """What the face across moves relative to a node's own, (nodes, 3): outwards from its own face (they part where it is above
    zero), along it and across it; NaN where no other face lies on it. displacement: (nodes, 3), NaN where there is none.

    Along is as near to x as the face allows, to y where it looks along x; across is square to both. Small rotations: the face is
    taken as it is undeformed.
    """
    found = np.full((len(mesh.points), 3), np.nan)
    facing = faces_on_each_other(mesh)
    if len(facing.nodes):
        relative = facing.other @ displacement - displacement[facing.nodes]
        found[facing.nodes] = np.stack([(relative * way).sum(1) for way in (facing.normal, facing.along, facing.across)], axis=1)
    return found


@kept_with(1)
def faces_on_each_other(mesh: Mesh) -> Facing:
    """Where the outside of a mesh lies on itself, as at a crack, or one part on another, whether their nodes meet or not.
    Where more than two nodes are at one place there is no telling which is across."""
    sides = _free_sides(mesh)
    nodes = np.unique(sides.nodes[sides.nodes >= 0])
    if not len(nodes):
        return _nothing(mesh)
    partner = _at_one_place(mesh, nodes)
    other = csr_matrix((np.ones((partner >= 0).sum()), (nodes[partner >= 0], partner[partner >= 0])), shape=(len(mesh.points),) * 2)
    met = np.zeros(len(mesh.points), dtype=bool)
    met[nodes[partner >= 0]] = True
    for part in range(len(mesh.part_names)):
        own = np.intersect1d(nodes[~met[nodes]], mesh.connectivity[mesh.corners_of(np.flatnonzero(mesh.part == part))])
        for against in range(len(mesh.part_names)):
            left = own[~met[own]]
            if against == part or not len(left) or not (mesh.part == against).any():
                continue
            there, weights = _on_other_part(mesh, sides, left, against)
            other = other + weights
            met[left[there]] = True
    normal = _normals(mesh, sides, met)
    size = np.linalg.norm(normal, axis=1)
    kept = np.flatnonzero(met & (size > 0))
    normal = normal[kept] / size[kept, None]
    start = np.where(np.abs(normal[:, :1]) > 0.9, [[0.0, 1.0, 0.0]], [[1.0, 0.0, 0.0]])
    along = start - (start * normal).sum(1, keepdims=True) * normal
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    return Facing(kept, csr_matrix(other.tocsr()[kept]), normal, along, np.cross(normal, along))


@dataclass(frozen=True, eq=False)
class _Sides:
    """Sides of one element alone: their element (s,), nodes (s, most), corners first, -1 where there are fewer, how many corners,
    middle (s, 3), and outward normal as long as the side is large (s, 3)."""

    element: Int
    nodes: Int
    corners: Int
    middle: Float
    normal: Float


def _nothing(mesh: Mesh) -> Facing:
    none = np.zeros((0, 3))
    return Facing(np.zeros(0, dtype=np.int64), csr_matrix((0, len(mesh.points))), none, none, none)


def _free_sides(mesh: Mesh) -> _Sides:
    """The outside of solids, and of planar models; shells have two faces on the same nodes, and none is told from the other."""
    dimension = int(mesh.dimensions.max(initial=0))
    if dimension < 2 or (dimension == 2 and not mesh.planar):
        return _Sides(*(np.zeros(0, dtype=np.int64),) * 3, *(np.zeros((0, 3)),) * 2)
    elements, every, counts = [], [], []
    for block in mesh.blocks:
        cell = block.cell
        if cell.dimension != dimension:
            continue
        for side in cell.edges if dimension == 2 else cell.faces:
            count = 2 if dimension == 2 else len(side) // cell.order
            # A node in the middle of a face is not told with its sides.
            middle = cell.nodes[list(side[:count])].mean(0)
            own = [*side, *(n for n in range(cell.size) if n not in side and np.allclose(cell.nodes[n], middle))]
            table = np.full((len(block.nodes), 9), -1, dtype=np.int64)
            table[:, : len(own)] = block.nodes[:, own]
            elements.append(block.elements)
            every.append(table)
            counts.append(np.full(len(table), count))
    element, nodes, corners = np.concatenate(elements).astype(np.int64), np.concatenate(every), np.concatenate(counts)
    key = np.where(np.arange(9) < corners[:, None], nodes, -1)
    _, first, times = np.unique(np.sort(key, axis=1), axis=0, return_index=True, return_counts=True)
    free = np.sort(first[times == 1])
    element, nodes, corners = element[free], nodes[free], corners[free]
    there = np.arange(9) < corners[:, None]
    points = np.where(there[:, :, None], mesh.points[nodes], 0.0)
    middle = points.sum(1) / corners[:, None]
    if dimension == 2:
        run = points[:, 1] - points[:, 0]
        normal = np.column_stack([run[:, 1], -run[:, 0], np.zeros(len(run))])
    else:
        # Newell: half the sum of the cross products round the polygon is its area vector.
        after = mesh.points[np.where(np.arange(9) + 1 < corners[:, None], np.roll(nodes, -1, axis=1), nodes[:, :1])]
        normal = np.where(there[:, :, None], np.cross(points - middle[:, None], after - middle[:, None]), 0.0).sum(1) / 2
    inwards = ((middle - mesh.middles(element)) * normal).sum(1) < 0
    normal[inwards] *= -1
    return _Sides(element, nodes, corners, middle, normal)


def _at_one_place(mesh: Mesh, nodes: Int) -> Int:
    """For each node the only other one at its place, -1 where there is none or more than one."""
    pairs = cKDTree(mesh.points[nodes]).query_pairs(AT_ONE_PLACE * mesh.size, output_type="ndarray")
    times = np.bincount(pairs.ravel(), minlength=len(nodes))
    alone_together = pairs[(times[pairs] == 1).all(1)]
    partner = np.full(len(nodes), -1, dtype=np.int64)
    partner[alone_together[:, 0]] = nodes[alone_together[:, 1]]
    partner[alone_together[:, 1]] = nodes[alone_together[:, 0]]
    return partner


def _on_other_part(mesh: Mesh, sides: _Sides, nodes: Int, part: int) -> tuple[NDArray[np.bool_], csr_matrix]:
    """Which nodes lie on the outside of another part, and the weights of its nodes there, (nodes of the mesh,) both ways."""
    points, count = mesh.points[nodes], len(mesh.points)
    reach = np.zeros(count)
    long = np.sqrt(np.linalg.norm(sides.normal, axis=1)) if not mesh.planar else np.linalg.norm(sides.normal, axis=1)
    for column in range(sides.nodes.shape[1]):
        own = sides.nodes[:, column] >= 0
        np.maximum.at(reach, sides.nodes[own, column], long[own])
    if mesh.planar:
        closest, ends, weights = _on_segments(mesh, sides, points, part)
        found = csr_matrix((weights.ravel(), (np.repeat(np.arange(len(nodes)), 2), ends.ravel())), shape=(len(nodes), count))
    else:
        body = alone(mesh, part)
        its_nodes = np.unique(mesh.connectivity[mesh.corners_of(np.flatnonzero(mesh.part == part))])
        place, _, closest = outside_of(body).nearest(points)
        within = interpolation(body, place)
        columns = its_nodes[body.connectivity[within.corners]]
        spread = csr_matrix((np.ones(len(columns)), (np.arange(len(columns)), columns)), shape=(len(columns), count))
        found = within.matrix @ spread
    there = np.linalg.norm(closest - points, axis=1) <= ON_EACH_OTHER * reach[nodes]
    place_of = csr_matrix((np.ones(there.sum()), (nodes[there], np.flatnonzero(there))), shape=(count, len(nodes)))
    return there, csr_matrix(place_of @ found)


def _on_segments(mesh: Mesh, sides: _Sides, points: Float, part: int) -> tuple[Float, Int, Float]:
    """The nearest place of a part's border to points: where it is (n, 3), the two nodes it lies between (n, 2), their weights."""
    own = np.flatnonzero(mesh.part[sides.element] == part)
    table = sides.nodes[own]
    # A curved side is followed through the node at its middle.
    halves = np.where(table[:, 2] >= 0, table[:, 2], table[:, 1])
    ends = np.concatenate([np.column_stack([table[:, 0], halves]), np.column_stack([halves, table[:, 1]])[table[:, 2] >= 0]])
    one, run = mesh.points[ends[:, 0]], mesh.points[ends[:, 1]] - mesh.points[ends[:, 0]]
    near = cKDTree(one + run / 2).query(points, k=min(6, len(ends)))[1].reshape(len(points), -1)
    share = np.clip(((points[:, None] - one[near]) * run[near]).sum(2) / np.maximum((run[near] ** 2).sum(2), 1e-300), 0.0, 1.0)
    at = one[near] + share[:, :, None] * run[near]
    best = np.linalg.norm(at - points[:, None], axis=2).argmin(1)
    each = np.arange(len(points))
    chosen, share = near[each, best], share[each, best]
    return at[each, best], ends[chosen], np.column_stack([1.0 - share, share])


def _normals(mesh: Mesh, sides: _Sides, met: NDArray[np.bool_]) -> Float:
    """At each node the outward area of the sides about it that lie on others, (nodes, 3): those whose middle is that of another
    side, or all corners of which lie on something."""
    pairs = cKDTree(sides.middle).query_pairs(AT_ONE_PLACE * mesh.size, output_type="ndarray")
    on = np.zeros(len(sides.element), dtype=bool)
    on[pairs.ravel()] = True
    corner = np.arange(sides.nodes.shape[1]) < sides.corners[:, None]
    on |= (met[sides.nodes] | ~corner).all(1)
    found = np.zeros((len(mesh.points), 3))
    for column in range(sides.nodes.shape[1]):
        own = on & (sides.nodes[:, column] >= 0)
        np.add.at(found, sides.nodes[own, column], sides.normal[own])
    return found
