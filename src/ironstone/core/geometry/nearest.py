"""The place of a body that is nearest to a point: inside it where the point is, else on its outside."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import mutable, vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData, vtkStaticCellLocator

from ironstone.core.errors import Impossible
from ironstone.core.geometry.locate import locate
from ironstone.core.geometry.surface import Look, Surface, skin
from ironstone.core.kept import kept_with
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

Parts = frozenset[int]
# Pieces a face's side is cut into where elements are curved: the outside is looked for on these.
FINE = 6
# A point nearer to the outside than this share of the model is on it: coordinates are written with so many digits.
ON = 1e-4


@dataclass(frozen=True, eq=False)
class Nearest:
    """place: (n,) one for each point. points: where that is, (n, 3). distance: from the point, (n,), 0 inside. normal: of the
    outside there, pointing outwards, (n, 3); of a point inside that of the nearest place of the outside."""

    place: AtSamples
    points: Float
    distance: Float
    normal: Float


@dataclass(frozen=True, eq=False)
class Outside:
    """The outside in triangles, and what finds the nearest of them."""

    surface: Surface
    locator: vtkStaticCellLocator
    normals: Float
    held: tuple[object, ...]

    def nearest(self, points: Float) -> tuple[AtSamples, Int, Float]:
        """Nearest places (n,) on the outside, the triangles they lie in (n,) and where they are (n, 3)."""
        triangle = np.zeros(len(points), dtype=np.int64)
        closest = np.zeros((len(points), 3))
        cell: Any = mutable(0)
        sub: Any = mutable(0)
        square: Any = mutable(0.0)
        at = [0.0, 0.0, 0.0]
        for i, point in enumerate(points.tolist()):
            self.locator.FindClosestPoint(point, at, cell, sub, square)
            triangle[i], closest[i] = int(cell), at
        corners = self.surface.triangles[triangle]
        weights = _weights(self.surface.points[corners], closest)
        xi = np.einsum("nc,ncx->nx", weights, self.surface.vertices.xi[corners])
        element = np.asarray(self.surface.vertices.element[corners[:, 0]], dtype=np.int64)
        return AtSamples(element, xi), triangle, closest


@kept_with(4)
def outside_of(mesh: Mesh, parts: Parts = frozenset()) -> Outside:
    """The outside of some parts (of all, for none). Raises Impossible where there are no faces."""
    others = frozenset(range(len(mesh.part_names))) - parts if parts else frozenset()
    curved = any(block.cell.order == 2 for block in mesh.blocks)
    drawn = skin(mesh, Look(detail=FINE if curved else 1, hidden=others))
    if not len(drawn.triangles):
        raise Impossible("There is no outside to find a place on.", "Choose a part of solids or shells.")
    data, points, cells = vtkPolyData(), vtkPoints(), vtkCellArray()
    coordinates = np.ascontiguousarray(drawn.points)
    points.SetData(numpy_to_vtk(coordinates))
    offsets = np.arange(0, 3 * len(drawn.triangles) + 1, 3, dtype=np.int64)
    connectivity = np.ascontiguousarray(drawn.triangles.ravel().astype(np.int64))
    cells.SetData(numpy_to_vtk(offsets), numpy_to_vtk(connectivity))
    data.SetPoints(points)
    data.SetPolys(cells)
    locator = vtkStaticCellLocator()
    locator.SetDataSet(data)
    locator.BuildLocator()
    a, b, c = (drawn.points[drawn.triangles[:, i]] for i in range(3))
    normals = np.cross(b - a, c - a)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    return Outside(drawn, locator, normals, (data, coordinates, offsets, connectivity))


def _weights(corners: Float, points: Float) -> Float:
    """Barycentric coordinates (n, 3) of points (n, 3) in triangles (n, 3, 3)."""
    one, two, at = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0], points - corners[:, 0]
    a, b, c = (one * one).sum(1), (one * two).sum(1), (two * two).sum(1)
    p, q = (at * one).sum(1), (at * two).sum(1)
    size = np.maximum(a * c - b * b, 1e-300)
    s, t = (c * p - b * q) / size, (a * q - b * p) / size
    found: Float = np.clip(np.stack([1.0 - s - t, s, t], axis=1), 0.0, 1.0)
    found /= found.sum(1, keepdims=True)
    return found


def nearest(mesh: Mesh, points: Float, parts: Parts = frozenset()) -> Nearest:
    """For each of some points (n, 3) the nearest place of the body, or of some of its parts."""
    held = locate(mesh, points)
    kept = np.isin(mesh.part[held.element], list(parts)) if parts else np.ones(len(held.point), dtype=bool)
    point, element, xi = held.point[kept], held.element[kept], held.xi[kept]
    outside = outside_of(mesh, parts)
    place, triangle, _ = outside.nearest(points)
    found_element, found_xi = place.element.copy(), place.xi.copy()
    first = np.unique(point, return_index=True)
    found_element[first[0]], found_xi[first[0]] = element[first[1]], xi[first[1]]
    place = AtSamples(found_element, found_xi)
    at = positions(mesh, place)
    distance = np.linalg.norm(at - points, axis=1)
    distance[first[0]] = 0.0
    return Nearest(place, at, distance, outside.normals[triangle])


def is_on(mesh: Mesh, distance: Float) -> NDArray[np.bool_]:
    """Which points, by their distance from the body, count as being on it."""
    return np.asarray(distance <= ON * mesh.size)
