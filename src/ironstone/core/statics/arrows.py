"""Arrows of vectors and crosses of principal directions, at the nodes that are drawn or in the middle of the faces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source
from ironstone.core.field.tensors import principal_directions, principals
from ironstone.core.geometry.surface import Surface, face_normals
from ironstone.core.mesh.interpolation import interpolation, positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Resolved

MOST = 20_000


@dataclass(frozen=True, eq=False)
class Arrows:
    """Points (n, 3) as drawn, undeformed; place: where in the elements. values: (n, 3) the vector, or the principal values,
    largest first, with their directions (n, 3, 3), one a row. outward: (n, 3) away from the body there, to tell a push from a pull.
    spacing: side of the cubes that have one each, in the unit of length.
    """

    place: AtSamples
    points: Float
    values: Float
    directions: Float | None
    outward: Float
    resolved: Resolved
    spacing: float
    left_out: int

    @property
    def longest(self) -> float:
        """The largest magnitude: of a vector its length, of a tensor its principal value farthest from zero."""
        if not len(self.values):
            return 0.0
        if self.directions is None:
            return float(np.linalg.norm(self.values, axis=1).max())
        return float(np.abs(self.values).max())


def arrows(field: str, source: Source, surface: Surface, step: int, spacing: float, unit: str | None = None) -> Arrows:
    """A vector or tensor at the drawn nodes (nodal field) or faces (any other), as computed, one a cube of side ``spacing``.

    spacing: in the result's unit of length; it grows until at most 20,000 are left. Zero vectors and missing values are left
    out. Raises Impossible for a scalar field.
    """
    rank = source.fields[field].rank if field in source.fields else ""
    names = {"vector": ("x", "y", "z"), "tensor": ("xx", "yy", "zz", "xy", "yz", "xz")}.get(rank)
    if names is None:
        raise Impossible(f"'{field}' has no direction.", "Arrows are drawn of vectors, crosses of symmetric tensors.")
    if not source.fields[field].plain:
        raise Impossible(f"'{field}' has layers or a phase.", "Read it in colour: arrows are drawn of fields without.")
    first = resolve(Reading(field, names[0], step=step, unit=unit), source)
    if first.field.location == "node":
        place, _, outward = drawn_nodes(source.mesh, surface)
        points = positions(source.mesh, place)
    else:
        place, outward = _face_middles(surface), _normals(source.mesh, surface)
        points = positions(source.mesh, place)
    table = [evaluate(Reading(field, name, step=step, unit=unit), source, place).values for name in names]
    components = np.stack(table, axis=1)
    there = ~np.isnan(components).any(1)
    reach = float(np.abs(components[there]).max(initial=0.0))
    there &= np.nan_to_num(np.abs(components)).max(1, initial=0.0) > 1e-9 * reach
    left_out = int(len(there) - there.sum())
    # Thinned last: a support must not be left out for a neighbour that has no arrow.
    chosen = np.flatnonzero(there)
    kept, spacing = _thinned(points[chosen], spacing)
    chosen = chosen[kept]
    place, points = AtSamples(place.element[chosen], place.xi[chosen]), points[chosen]
    components, outward = components[chosen], outward[chosen]
    if rank == "vector":
        return Arrows(place, points, components, None, outward, first, spacing, left_out)
    directions = principal_directions(components)
    return Arrows(place, points, principals(components), directions, outward, first, spacing, left_out)


def _normals(mesh: Mesh, surface: Surface) -> Float:
    """Outward of each drawn face, (faces, 3): its normal, away from its element; of a bar nothing."""
    middles = positions(mesh, _face_middles(surface))
    normals = face_normals(surface.points, surface.triangles, surface.face, len(middles))
    if not len(middles):
        return normals
    inside = mesh.middles(surface.face_element)
    solid = mesh.dimensions[surface.face_element] == 3
    normals[solid] *= np.sign(np.einsum("ij,ij->i", normals[solid], (middles - inside)[solid]))[:, None]
    normals[mesh.dimensions[surface.face_element] < 2] = 0.0
    return normals


def drawn_nodes(mesh: Mesh, surface: Surface) -> tuple[AtSamples, Int, Float]:
    """Every node that is drawn, once, though several bars may meet there: its place, its number (n,) and outward of the faces
    around it (n, 3)."""
    at = surface.nodes
    place = AtSamples(surface.vertices.element[at], surface.vertices.xi[at])
    found = interpolation(mesh, place)
    node = mesh.connectivity[found.corners[np.asarray(found.matrix.argmax(axis=1)).ravel()]]
    numbers, first = np.unique(node, return_index=True)
    normals = _normals(mesh, surface)
    around = np.zeros((len(mesh.points), 3))
    for end in (0, 1):
        np.add.at(around, surface.sides[:, end], normals[surface.sides[:, 2]])
    # At a joint of bars outward is away from all of them together.
    bars = np.flatnonzero(mesh.dimensions == 1)
    ends = mesh.connectivity[mesh.offsets[bars][:, None] + np.array([0, 1])]
    way = mesh.points[ends[:, 1]] - mesh.points[ends[:, 0]]
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    np.add.at(around, ends[:, 0], -way)
    np.add.at(around, ends[:, 1], way)
    outward = around[numbers]
    alone = ~outward.any(1)
    outward[alone] = normals[surface.face[at[first]]][alone]
    return AtSamples(place.element[first], place.xi[first]), numbers, outward


def _face_middles(surface: Surface) -> AtSamples:
    corners = surface.face_corners.astype(np.int64)
    used = np.arange(4)[None, :] < corners[:, None]
    middle = (surface.face_natural * used[:, :, None]).sum(1) / corners[:, None]
    return AtSamples(surface.face_element, middle)


def _thinned(points: Float, spacing: float) -> tuple[Int, float]:
    """One point of each cube of side ``spacing``, in order; the cubes grow until few enough are left."""
    size = float(np.linalg.norm(np.ptp(points, axis=0))) if len(points) else 0.0
    spacing = max(spacing, 0.0)
    while True:
        if spacing > 0.0:
            cubes = np.floor((points - points.min(0)) / spacing).astype(np.int64) if len(points) else np.zeros((0, 3), np.int64)
            middle = ((points - points.min(0)) / spacing - cubes - 0.5) if len(points) else points
            near = (middle**2).sum(1)
            order = np.lexsort((near, cubes[:, 2], cubes[:, 1], cubes[:, 0]))
            ordered = cubes[order]
            fresh = np.ones(len(order), dtype=bool)
            fresh[1:] = (ordered[1:] != ordered[:-1]).any(1)
            kept = np.sort(order[fresh])
        else:
            kept = np.arange(len(points))
        if len(kept) <= MOST:
            return kept, spacing
        spacing = max(1.3 * spacing, size / 200)
