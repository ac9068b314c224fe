"""How deep nodes of one body lie inside another: the shortest way out through its faces, zero outside.

In the shape the mesh is given in: for contact that is the deformed one at true scale. Quadratic faces and sides count as curved as
they are.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree

from ironstone.core.errors import Impossible
from ironstone.core.geometry.locate import locate
from ironstone.core.geometry.nearest import outside_of
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

# Less than this share of the model is rounding of the coordinates: single precision holds seven digits.
ROUNDING = 5e-7
# Nearer than this share of the model two bodies face each other.
NEAR = 0.02
# How far beyond the end of two bodies the hinge lies about which one is turned over, as a multiple.
CLEAR = 1.1
# Places along a side of a planar body that are looked at first, and the nearest of them that are looked at closely.
PLACES, CLOSE, TURNS = 8, 4, 12


@dataclass(frozen=True, eq=False)
class Inside:
    """Of some nodes of one body, by position, (n,): how deep each lies inside the other, 0 outside, and the way out, (n, 3)."""

    nodes: Int
    depth: Float
    way: Float

    @property
    def deepest(self) -> int | None:
        """Which of the nodes lies deepest; None where none lies inside."""
        return int(np.argmax(self.depth)) if (self.depth > 0.0).any() else None


def moved(mesh: Mesh, displacement: Float | None) -> Mesh:
    """A mesh in its deformed shape at true scale, displacement (nodes, 3) without value taken for none."""
    return mesh if displacement is None else replace(mesh, points=mesh.points + np.nan_to_num(displacement))


def inside(mesh: Mesh, of: int, into: int) -> Inside:
    """How deep the nodes of part ``of`` lie inside part ``into``, by position of the parts.

    Raises Impossible where ``into`` has no inside, as a shell has none.
    """
    if not mesh.encloses(into):
        raise Impossible(f"'{mesh.part_names[into]}' encloses nothing: no node lies inside it.", "Choose a part of solids.")
    theirs = alone(mesh, into)
    nodes = np.unique(mesh.connectivity[mesh.corners_of(np.flatnonzero(mesh.part == of))])
    depth, way = np.zeros(len(nodes)), np.zeros((len(nodes), 3))
    low, high = theirs.box
    points = mesh.points[nodes]
    near = np.flatnonzero(((points >= low - ROUNDING * mesh.size) & (points <= high + ROUNDING * mesh.size)).all(1))
    if len(near):
        near = near[np.unique(locate(theirs, points[near]).point)]
    if len(near):
        out = (_sides if mesh.planar else _faces)(theirs, points[near])
        away = np.linalg.norm(out, axis=1)
        deep = away > ROUNDING * mesh.size
        depth[near[deep]], way[near[deep]] = away[deep], out[deep]
    return Inside(nodes, depth, way)


def facing(mesh: Mesh, of: int, into: int) -> tuple[Float, Float] | None:
    """Where part ``of`` is nearest to part ``into``: the middle of the faces of ``into`` there, and the way they look, (3,) each.
    None where they are nowhere near each other, or one has no outside."""
    theirs = alone(mesh, into)
    nodes = np.unique(mesh.connectivity[mesh.corners_of(np.flatnonzero(mesh.part == of))])
    if mesh.planar or not mesh.encloses(into) or not len(nodes):
        return None
    outside = outside_of(theirs)
    place, triangle, closest = outside.nearest(mesh.points[nodes])
    away = np.linalg.norm(closest - mesh.points[nodes], axis=1)
    limit = max(2.0 * float(away.min()), NEAR * mesh.size)
    near = away <= limit
    if away.min() > NEAR * mesh.size:
        return None
    # The faces all of whose corners are near: at the end of a face the nearest one may be the side of the body.
    drawn = outside.surface
    corners = drawn.points[drawn.triangles]
    ours = alone(mesh, of)
    low, high = ours.box
    there = np.flatnonzero(((drawn.points >= low - limit) & (drawn.points <= high + limit)).all(1))
    to_us = outside_of(ours).nearest(drawn.points[there])[2] - drawn.points[there]
    close = np.zeros(len(drawn.points), dtype=bool)
    close[there] = np.linalg.norm(to_us, axis=1) <= limit
    on = close[drawn.triangles].all(1)
    areas = drawn.triangle_areas
    if areas[on].sum() > 0:
        normal = areas[on] @ outside.normals[on]
        middle = areas[on] @ corners[on].mean(1) / areas[on].sum()
    else:
        normal = outside.normals[triangle[near]].sum(0)
        middle = positions(theirs, AtSamples(place.element[near], place.xi[near])).mean(0)
    return middle, normal / max(float(np.linalg.norm(normal)), 1e-300)


def hinge(mesh: Mesh, of: int, into: int, middle: Float, normal: Float) -> tuple[Float, Float]:
    """The line about which part ``of`` is turned over so that its face comes to lie beside that of ``into``, clear of both: a point
    of it and its direction, (3,) each. middle, normal: as ``facing`` tells them."""
    points = mesh.points[np.unique(mesh.connectivity[mesh.corners_of(np.flatnonzero((mesh.part == of) | (mesh.part == into)))])]
    flat = points - middle
    flat = flat - (flat @ normal)[:, None] * normal
    # The hinge lies along the longer way of both, at the end of the shorter one.
    _, ways = np.linalg.eigh(flat.T @ flat)
    axis = ways[:, 2] - (ways[:, 2] @ normal) * normal
    axis /= np.linalg.norm(axis)
    out = np.cross(normal, axis)
    return middle + CLEAR * float((flat @ out).max()) * out, axis


def of_all(mesh: Mesh) -> Float:
    """Of each node the deepest it lies inside any part it is not of, (nodes,): 0 at the nodes beside those, in the same elements,
    and NaN elsewhere."""
    deepest = np.full(len(mesh.points), np.nan)
    parts = [k for k in range(len(mesh.part_names)) if mesh.encloses(k)]
    boxes = {k: alone(mesh, k).box for k in range(len(mesh.part_names)) if (mesh.part == k).any()}
    for into in parts:
        for of in boxes:
            apart = (boxes[of][1] < boxes[into][0]).any() or (boxes[of][0] > boxes[into][1]).any()
            if of == into or apart:
                continue
            found = inside(mesh, of, into)
            here = found.depth > 0.0
            deepest[found.nodes[here]] = np.fmax(deepest[found.nodes[here]], found.depth[here])
    pressed = np.isfinite(deepest)
    elements = np.unique(mesh.corner_element[pressed[mesh.connectivity]])
    beside = np.unique(mesh.connectivity[mesh.corners_of(elements)])
    deepest[beside[~pressed[beside]]] = 0.0
    return deepest


def alone(mesh: Mesh, part: int) -> Mesh:
    """One part as a mesh of its own."""
    elements = np.flatnonzero(mesh.part == part)
    corners = mesh.corners_of(elements)
    nodes, connectivity = np.unique(mesh.connectivity[corners], return_inverse=True)
    counts = mesh.offsets[elements + 1] - mesh.offsets[elements]
    return Mesh(
        points=mesh.points[nodes],
        node_ids=mesh.node_ids[nodes],
        element_ids=mesh.element_ids[elements],
        types=mesh.types[elements],
        offsets=np.concatenate([[0], np.cumsum(counts)]),
        connectivity=connectivity.ravel(),
        part=np.zeros(len(elements), dtype=np.int32),
        part_names=(mesh.part_names[part],),
    )


def _faces(body: Mesh, points: Float) -> Float:
    """The way from points (n, 3) inside a body of solids to the nearest place of its faces, (n, 3)."""
    place, _, _ = outside_of(body).nearest(points)
    found: Float = positions(body, place) - points
    return found


def _sides(body: Mesh, points: Float) -> Float:
    """The way from points (n, 3) inside a planar body to the nearest place of its border, (n, 3)."""
    sides = border(body)
    places = np.linspace(-1.0, 1.0, PLACES + 1)
    shape = _along(places, sides.shape[1])
    nodes = body.points[sides]
    # A straight side among curved ones has its middle half way.
    straight = sides[:, -1] < 0
    nodes[straight, -1] = nodes[straight, :2].mean(1)
    looked = np.einsum("pn,snx->spx", shape, nodes)
    close = min(CLOSE, looked.shape[0] * looked.shape[1])
    _, nearest = cKDTree(looked.reshape(-1, 3)).query(points, k=[*range(1, close + 1)])
    best = np.full((len(points), 3), np.inf)
    for k in range(close):
        side, at = np.divmod(nearest[:, k], PLACES + 1)
        out = _closely(nodes[side], places[at], points)
        better = np.linalg.norm(out, axis=1) < np.linalg.norm(best, axis=1)
        best = np.where(better[:, None], out, best)
    return best


def border(mesh: Mesh) -> Int:
    """The sides of a planar mesh that belong to one element: their ends, and the node at their middle, -1 on a straight one;
    (sides, 2) where all are straight, else (sides, 3)."""
    every = []
    for block in mesh.blocks:
        for side in block.cell.edges:
            ends = block.nodes[:, list(side)]
            every.append(ends if ends.shape[1] == 3 else np.column_stack([ends, np.full(len(ends), -1)]))
    table = np.concatenate(every)
    _, first, counts = np.unique(np.sort(table[:, :2], axis=1), axis=0, return_index=True, return_counts=True)
    alone: Int = table[first[counts == 1]]
    return alone[:, :2] if (alone[:, 2] < 0).all() else alone


def _along(t: Float, count: int) -> Float:
    """Shape functions of a side with 2 or 3 nodes (the middle last) at t from -1 to 1, (places, nodes)."""
    if count == 2:
        return np.stack([(1 - t) / 2, (1 + t) / 2], axis=-1)
    return np.stack([t * (t - 1) / 2, t * (t + 1) / 2, 1 - t * t], axis=-1)


def _closely(nodes: Float, start: Float, points: Float) -> Float:
    """The way from points (n, 3) to the nearest place of a side each, (n, nodes, 3), by Newton's method from ``start`` (n,)."""
    t, count = start.copy(), nodes.shape[1]
    bend = nodes[:, 0] + nodes[:, 1] - 2 * nodes[:, 2] if count == 3 else np.zeros((len(nodes), 3))
    middle = (nodes[:, 1] - nodes[:, 0]) / 2
    for _ in range(TURNS):
        out = np.einsum("nk,nkx->nx", _along(t, count), nodes) - points
        slope = middle + bend * t[:, None]
        first, second = (out * slope).sum(1), (slope * slope).sum(1) + (out * bend).sum(1)
        # Where it bends away faster than it comes nearer, the plain step leads down as well.
        second = np.where(second > 0.0, second, (slope * slope).sum(1))
        t = np.clip(t - first / np.maximum(second, 1e-300), -1.0, 1.0)
    found: Float = np.einsum("nk,nkx->nx", _along(t, count), nodes) - points
    return found
