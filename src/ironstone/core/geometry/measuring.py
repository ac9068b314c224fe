"""Measuring on a model: length, angle, area, volume, of the undeformed shape and of the deformed one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.geometry.surface import Surface, face_normals
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh


@dataclass(frozen=True)
class Measured:
    """A measure of the undeformed and of the deformed shape (None without displacement): mm, degrees, mm2, mm3 as the mesh has."""

    undeformed: float
    deformed: float | None
    count: int = 0


def length(mesh: Mesh, nodes: Int, displacement: Float | None) -> Measured:
    """Along a chain of nodes, by positions; displacement: (nodes, 3) of the mesh."""
    return _both(mesh, displacement, lambda p: float(np.linalg.norm(np.diff(p[nodes], axis=0), axis=1).sum()))


def angle(mesh: Mesh, nodes: Int, displacement: Float | None) -> Measured:
    """At the second of three nodes, in degrees."""

    def between(points: Float) -> float:
        a, b = points[nodes[0]] - points[nodes[1]], points[nodes[2]] - points[nodes[1]]
        if not a.any() or not b.any():
            raise Impossible("Two of the three nodes are at one place.", "Pick three different nodes; the angle is at the second.")
        return float(np.degrees(np.arctan2(np.linalg.norm(np.cross(a, b)), a @ b)))

    return _both(mesh, displacement, between)


def area(mesh: Mesh, surface: Surface, face: int, fold: float, displacement: Float | None) -> Measured:
    """Of a drawn face and all that join it without folding by more than ``fold`` degrees; 0 takes the one face alone."""
    chosen = smooth_faces(surface, face, fold)
    there = np.zeros(len(surface.face_element), dtype=bool)
    there[chosen] = True
    used = surface.triangles[there[surface.face[surface.triangles[:, 0]]]]

    def of(nodal: Float) -> float:
        points = positions(mesh, surface.vertices, nodal)
        a, b, c = (points[used[:, i]] for i in range(3))
        return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)

    return replace(_both(mesh, displacement, of), count=len(chosen))


def volume(mesh: Mesh, elements: NDArray[np.bool_], displacement: Float | None) -> Measured:
    """Of some solid elements (elements,), by their own quadrature; flat elements and bars have none."""
    chosen = elements & (mesh.dimensions == 3)
    if not chosen.any():
        raise Impossible("No solid element is among those.", "Shells and bars have no volume of their own in the mesh.")
    found = _both(mesh, displacement, lambda p: float(replace(mesh, points=p).volumes[chosen].sum()))
    return replace(found, count=int(chosen.sum()))


def smooth_faces(surface: Surface, face: int, fold: float) -> Int:
    """Faces that join a face, one to the next, across sides that bend by at most ``fold`` degrees."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    if fold <= 0:
        return np.array([face])
    count = len(surface.face_element)
    order = np.lexsort((surface.sides[:, 1], surface.sides[:, 0]))
    ordered = surface.sides[order]
    same = (ordered[1:, :2] == ordered[:-1, :2]).all(1)
    a, b = ordered[:-1][same, 2], ordered[1:][same, 2]
    normals = face_normals(surface.points, surface.triangles, surface.face, count)
    flat = (normals[a] * normals[b]).sum(1) >= np.cos(np.radians(fold)) - 1e-12
    graph = coo_matrix((np.ones(int(flat.sum())), (a[flat], b[flat])), shape=(count, count))
    _, group = connected_components(graph, directed=False)
    return np.flatnonzero(group == group[face])


def _both(mesh: Mesh, displacement: Float | None, of: Callable[[Float], float]) -> Measured:
    return Measured(of(mesh.points), None if displacement is None else of(mesh.points + displacement))
