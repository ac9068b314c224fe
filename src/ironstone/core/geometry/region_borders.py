"""The border of a region of a mesh: the sides between its elements and the others, and the edge of a surface."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.geometry.outlines import welded
from ironstone.core.mesh.mesh import Float, Int, Mesh

Which = NDArray[np.bool_]
# An edge faces a way where what lies outside it is less than 60 degrees off that way.
FACING = 0.5


def region_border(mesh: Mesh, chosen: Which, others: Which | None = None) -> Float:
    """The sides that chosen elements (elements,) share with others (all that are not chosen, unless told), as straight pieces
    (p, d, 3): segments of flat elements (d 2), triangles of solids (d 3). Elements meet where their corners coincide, also of two
    parts; curved sides are drawn through the nodes at their middle. Empty where the region is all there is, or nothing."""
    dimension, element, corners, points = _sides(mesh)
    at_place, inside = _meeting(corners, chosen[element])
    outside = ~inside if others is None else others[element]
    one_sided = (np.bincount(at_place, weights=inside) > 0) & (np.bincount(at_place, weights=outside) > 0)
    # Each side once, as the region's own element has it.
    own = np.flatnonzero(one_sided[at_place] & inside)
    _, first = np.unique(at_place[own], return_index=True)
    return _pieces(points[own[first]], dimension)


def edge_of_surface(mesh: Mesh, chosen: Which, along: Float) -> Float:
    """The edge of chosen flat elements (elements,) that faces a direction of unit length, as segments (p, 2, 3): sides no other
    element shares, whose outward normal in the element's plane is less than 60 degrees from it. Raises Impossible of solids."""
    dimension, element, corners, points = _sides(mesh)
    if dimension != 2:
        raise Impossible("A solid body has no edge.", "Follow the border of a region of it, or where a reading has a value.")
    kept = chosen[element]
    element, corners, points = element[kept], corners[kept], points[kept]
    if not len(element):
        return np.zeros((0, 2, 3))
    at_place, _ = _meeting(corners, np.ones(len(element), dtype=bool))
    free = np.bincount(at_place)[at_place] == 1
    middles = mesh.middles(element)
    one, other = points[:, 0], points[:, 1]
    side = other - one
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-300)
    out = (one + other) / 2 - middles
    out -= (out * side).sum(1, keepdims=True) * side
    out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-300)
    return _pieces(points[free & (out @ along > FACING)], 2)


def _sides(mesh: Mesh) -> tuple[int, Int, Float, Float]:
    """All sides of the elements of most dimensions: that dimension (2, 3), the element of each side (s,), its corners (s, k, 3),
    NaN where it has fewer, and its nodes on the way round (s, n, 3), the first again where it has fewer (of flat ones: the two
    ends, then what lies between). Raises Impossible of bars."""
    dimension = int(mesh.dimensions.max(initial=0))
    if dimension < 2:
        raise Impossible("Bars and points have no border.", "Follow where a reading has a value.")
    most = 2 if dimension == 2 else 4
    elements, corners, rings = [], [], []
    for block in mesh.blocks:
        cell = block.cell
        if cell.dimension != dimension:
            continue
        for nodes in cell.edges if dimension == 2 else cell.faces:
            count = len(nodes) // cell.order if dimension == 3 else 2
            places = mesh.points[block.nodes[:, list(nodes)]]
            own = np.full((len(places), most, 3), np.nan)
            own[:, :count] = places[:, :count]
            # Round a face each corner is followed by the node between it and the next.
            between = list(range(count, len(nodes)))
            order = [*range(2), *between] if dimension == 2 else [n for k in range(count) for n in (k, *between[k : k + 1])]
            ring = np.repeat(places[:, :1], 8 if dimension == 3 else 3, axis=1)
            ring[:, : len(order)] = places[:, order]
            if dimension == 2 and len(order) == 2:
                ring[:, 2] = places.mean(1)
            elements.append(block.elements)
            corners.append(own)
            rings.append(ring)
    return dimension, np.concatenate(elements).astype(np.int64), np.concatenate(corners), np.concatenate(rings)


def _meeting(corners: Float, inside: Which) -> tuple[Int, Which]:
    """A number for each side, the same for sides with the same corners; and what was told of them, unchanged."""
    flat = corners.reshape(-1, 3)
    there = ~np.isnan(flat[:, 0])
    number = np.full(len(flat), -1, dtype=np.int64)
    number[there] = welded(flat[there], 1e-7 * max(float(np.ptp(flat[there], axis=0).max()), 1e-300))
    _, at_place = np.unique(np.sort(number.reshape(len(corners), -1), axis=1), axis=0, return_inverse=True)
    return at_place.ravel().astype(np.int64), inside


def _pieces(rings: Float, dimension: int) -> Float:
    """Straight pieces of sides: both halves of an edge, the fan about the middle of a face."""
    if dimension == 2:
        halves = np.stack([rings[:, [0, 2]], rings[:, [2, 1]]], axis=1)
        return halves.reshape(-1, 2, 3)
    after = np.roll(rings, -1, axis=1)
    middle = np.broadcast_to(_middle_of_ring(rings)[:, None], rings.shape)
    fan = np.stack([middle, rings, after], axis=2).reshape(-1, 3, 3)
    sizes = np.linalg.norm(np.cross(fan[:, 1] - fan[:, 0], fan[:, 2] - fan[:, 0]), axis=1)
    kept: Float = fan[sizes > 0]
    return kept


def _middle_of_ring(rings: Float) -> Float:
    """The middle of the corners of each ring (s, 8, 3), whose last places repeat the first."""
    repeated = (rings[:, 1:] == rings[:, :1]).all(2)
    weight = np.concatenate([np.ones((len(rings), 1)), ~repeated], axis=1)
    middle: Float = (rings * weight[:, :, None]).sum(1) / weight.sum(1, keepdims=True)
    return middle
