"""Bars and shells as bodies: tubes along bars, plates about the middle surface of shells. For the eye alone."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

ROUND = 10


@dataclass(frozen=True, eq=False)
class Drawn:
    """Vertices of tubes: element, natural and face coordinates, points as drawn; what joins them; one vertex at each end."""

    element: Int
    xi: Float
    st: Float
    points: Float
    triangles: Int
    edges: Int
    outline: Int
    ends: Int


@dataclass(frozen=True, eq=False)
class Plates:
    """Faces drawn twice: points of all vertices, first those there were, then the copies of ``copied``."""

    copied: Int
    points: Float
    triangles: NDArray[np.int32]
    edges: NDArray[np.int32]
    outline: NDArray[np.int32]


def stacked(first: NDArray[np.int32], more: NDArray[np.integer], start: int) -> NDArray[np.int32]:
    """Index rows of two sets of vertices, the second numbered from ``start``."""
    return np.concatenate([first, more + start]).astype(np.int32)


def tubes(mesh: Mesh, bars: Int, detail: int, radius: Float) -> Drawn:
    """A round tube about each bar, (bars,) radii in the mesh's unit of length; ``detail`` pieces along."""
    first, last = CELLS[3].nodes[:, 0]
    along = np.linspace(first, last, detail + 1)
    rings, around = len(along), np.arange(ROUND)
    xi = np.zeros((len(bars), rings, 3))
    xi[:, :, 0] = along
    axis = positions(mesh, AtSamples(np.repeat(bars, rings), xi.reshape(-1, 3))).reshape(len(bars), rings, 3)
    tangent = np.gradient(axis, axis=1)
    tangent /= np.maximum(np.linalg.norm(tangent, axis=2, keepdims=True), 1e-300)
    # One direction across for the whole bar, so that a curved tube does not twist.
    least = np.eye(3)[np.abs(tangent[:, rings // 2]).argmin(1)][:, None]
    across = np.cross(tangent, least)
    across /= np.maximum(np.linalg.norm(across, axis=2, keepdims=True), 1e-300)
    other = np.cross(tangent, across)
    angle = 2 * np.pi * around / ROUND
    ring = np.cos(angle)[:, None] * across[:, :, None] + np.sin(angle)[:, None] * other[:, :, None]
    points = axis[:, :, None] + radius[:, None, None, None] * ring
    count = rings * ROUND
    base = count * np.arange(len(bars))
    here, there = around, (around + 1) % ROUND
    lower = ROUND * np.arange(detail)[:, None]
    a, b, c, d = lower + here, lower + there, lower + ROUND + there, lower + ROUND + here
    wall = np.stack([a, b, c, a, c, d], axis=2).reshape(-1, 3)
    fan = np.stack([np.zeros(ROUND - 2, dtype=np.int64), np.arange(1, ROUND - 1), np.arange(2, ROUND)], axis=1)
    cut = np.concatenate([wall, fan, fan + count - ROUND])
    ends = np.stack([here, there], axis=1)
    lines = ROUND * np.arange(detail)[:, None] + np.array([0, ROUND // 2])
    sides = np.stack([lines, lines + ROUND], axis=2).reshape(-1, 2)
    st = np.zeros((rings, ROUND, 2))
    st[:, :, 0] = np.linspace(0.0, 1.0, rings)[:, None]
    st[:, :, 1] = around / ROUND
    return Drawn(
        element=np.repeat(bars, count),
        xi=np.repeat(xi, ROUND, axis=1).reshape(-1, 3),
        st=np.tile(st.reshape(-1, 2), (len(bars), 1)),
        points=points.reshape(-1, 3),
        triangles=(base[:, None, None] + cut).reshape(-1, 3),
        edges=(base[:, None, None] + np.concatenate([ends, ends + count - ROUND])).reshape(-1, 2),
        outline=(base[:, None, None] + sides).reshape(-1, 2),
        ends=(base[:, None] + np.array([0, count - ROUND])).reshape(-1),
    )


def octahedra(mesh: Mesh, points: Int, radius: float) -> Drawn:
    """A small body about each element that is a point alone, so that its value is seen."""
    around = np.concatenate([np.eye(3), -np.eye(3)]) * radius
    count = len(around)
    base = count * np.arange(len(points))
    x, y, z, minus_x, minus_y, minus_z = range(count)
    belt = ((x, y), (y, minus_x), (minus_x, minus_y), (minus_y, x))
    cut = np.array([*((a, b, z) for a, b in belt), *((b, a, minus_z) for a, b in belt)])
    rim = np.array([*belt, *((a, top) for a, _ in belt for top in (z, minus_z))])
    middles = mesh.points[mesh.connectivity[mesh.offsets[points]]]
    return Drawn(
        element=np.repeat(points, count),
        xi=np.zeros((count * len(points), 3)),
        st=np.zeros((count * len(points), 2)),
        points=(middles[:, None] + around).reshape(-1, 3),
        triangles=(base[:, None, None] + cut).reshape(-1, 3),
        edges=(base[:, None, None] + rim).reshape(-1, 2),
        outline=(base[:, None, None] + rim).reshape(-1, 2),
        ends=base,
    )


def thickened(
    mesh: Mesh,
    place: AtSamples,
    face: NDArray[np.int32],
    triangles: NDArray[np.int32],
    edges: NDArray[np.int32],
    outline: NDArray[np.int32],
    thickness: Float,
) -> Plates | None:
    """Plates of the given thickness (vertices,) about shell faces; None where there is no shell of known thickness."""
    shell = mesh.dimensions[place.element] == 2
    thick = shell & (thickness > 0)
    if not thick.any():
        return None
    middle = positions(mesh, place)
    normal = _normals(mesh, place, face, triangles, middle, thick)
    copied = np.flatnonzero(thick)
    copy = np.arange(len(thick))
    copy[copied] = len(thick) + np.arange(len(copied))
    half = np.where(thick, thickness / 2, 0.0)[:, None] * normal
    points = np.concatenate([middle + half, (middle - half)[copied]])
    plate = triangles[thick[triangles[:, 0]]]
    rim = outline[thick[outline[:, 0]]]
    a, b = rim.T
    walls = np.concatenate([np.stack([a, copy[a], copy[b]], 1), np.stack([a, copy[b], b], 1)])
    return Plates(
        copied=copied,
        points=points,
        triangles=np.concatenate([triangles, copy[plate][:, ::-1], walls]).astype(np.int32),
        edges=np.concatenate([edges, copy[edges[thick[edges[:, 0]]]]]).astype(np.int32),
        outline=np.concatenate([outline, copy[rim]]).astype(np.int32),
    )


def _normals(
    mesh: Mesh, place: AtSamples, face: NDArray[np.int32], triangles: NDArray[np.int32], points: Float, thick: NDArray[np.bool_]
) -> Float:
    """Unit normals of shells at display vertices: the mean at each node, turned to the side of the face's own."""
    own = np.zeros((int(face.max()) + 1, 3))
    used = triangles[thick[triangles[:, 0]]]
    a, b, c = (points[used[:, i]] for i in range(3))
    np.add.at(own, face[used[:, 0]], np.cross(b - a, c - a))
    own /= np.maximum(np.linalg.norm(own, axis=1, keepdims=True), 1e-300)
    at = own[face]
    shells, first = np.unique(place.element[thick], return_index=True)
    corners = mesh.corners_of(shells)
    nodal = np.zeros_like(mesh.points)
    np.add.at(nodal, mesh.connectivity[corners], at[thick][first][np.searchsorted(shells, mesh.corner_element[corners])])
    smooth = positions(mesh, place, nodal)
    length = np.linalg.norm(smooth, axis=1, keepdims=True)
    smooth /= np.maximum(length, 1e-300)
    agree = (smooth * at).sum(1, keepdims=True)
    result: Float = np.where((np.abs(agree) > 0.3) & (length > 1e-9), np.sign(agree) * smooth, at)
    return result
