"""The axes in the surface of a shell that its strains, forces and layers are told in, and turning them into a laminate's."""

from __future__ import annotations

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.axes import element_axes, oriented
from ironstone.core.field.fields import Field, Setup, Source
from ironstone.core.kept import kept_with
from ironstone.core.mesh.mesh import Float, Int

PLY, LAMINATE, EDGE, LAID, ORIENTATION = "each ply", "laminate", "first edge", "global", "orientation"
SAID = {
    PLY: "the axes of each ply",
    LAMINATE: "the axes of the laminate",
    EDGE: "the first edge of each element",
    LAID: "global x laid into the surface",
    ORIENTATION: "the orientation of each element",
}
KINDS = ("mid-plane strain", "curvature", "section force", "section moment", "transverse force")


def ways_of(field: Field, setup: Setup) -> list[str]:
    """What the axes of a shell's field can be stated to be; none where it is told in no axes of a surface."""
    layered = field.layers > 0 and field.rank == "tensor"
    if field.location != "element" or not field.stored or not (layered or field.kind in KINDS):
        return []
    ways = [*([PLY] if layered else []), LAMINATE, EDGE, LAID]
    return [*ways, ORIENTATION] if setup.orientation else ways


def usual_way(field: Field) -> str:
    """What the axes are taken for as long as nothing is stated."""
    return PLY if field.layers else LAMINATE


def angle_to_laminate(source: Source, field: Field, axis: tuple[float, float, float], elements: Int) -> Float | None:
    """The angle (n,) in radians, about each element's normal, from the first of a field's axes to the first of the laminate, which
    follows ``axis`` laid into the surface. None where they are the same; NaN where a direction stands square to the surface."""
    way = field.surface_axes or usual_way(field)
    if way in (PLY, LAMINATE):
        return None
    found: Float = _angles(source, way, axis)[elements]
    return found


@kept_with(8)
def _angles(source: Source, way: str, axis: tuple[float, float, float]) -> Float:
    mesh = source.mesh
    third = element_axes(mesh)[:, 2]
    count = len(mesh.types)
    if way == EDGE:
        start, end = (mesh.connectivity[mesh.offsets[:-1] + k] for k in (0, 1))
        first = mesh.points[end] - mesh.points[start]
    elif way == LAID:
        first = np.tile([1.0, 0.0, 0.0], (count, 1))
    elif way == ORIENTATION and source.setup.orientation:
        first = oriented(mesh, source.values(source.setup.orientation, 0))[:, 0]
    else:
        raise Impossible("The result holds no orientation of its elements.", "State other axes in Intake.")
    mine, wanted = laid(first, third), laid(np.tile(np.asarray(axis, dtype=np.float64), (count, 1)), third)
    sine = np.einsum("ni,ni->n", np.cross(mine, wanted), third)
    found: Float = np.arctan2(sine, np.einsum("ni,ni->n", mine, wanted))
    return found


def laid(directions: Float, normals: Float) -> Float:
    """Directions (n, 3) laid into surfaces with these unit normals, of length 1; NaN where one stands square to its surface."""
    inside = directions - np.einsum("ni,ni->n", directions, normals)[:, None] * normals
    length, whole = np.linalg.norm(inside, axis=1), np.linalg.norm(directions, axis=1)
    inside[~(length > 1e-6 * whole)] = np.nan
    return np.asarray(inside / length[:, None], dtype=np.float64)


def turned_in_plane(values: Float, angle: Float, engineering: bool = False) -> Float:
    """Components (n, 3) xx, yy, xy told along axes turned by ``angle`` (n,). engineering: the shear is the change of the angle.

    (n, 2): a vector x, y. Cauchy's transformation, any textbook.
    """
    c, s = np.cos(angle), np.sin(angle)
    if values.shape[1] == 2:
        return np.stack([c * values[:, 0] + s * values[:, 1], -s * values[:, 0] + c * values[:, 1]], axis=1)
    xx, yy, xy = values.T
    half = xy / 2 if engineering else xy
    along = c * c * xx + s * s * yy + 2 * c * s * half
    across = s * s * xx + c * c * yy - 2 * c * s * half
    shear = c * s * (yy - xx) + (c * c - s * s) * half
    return np.stack([along, across, 2 * shear if engineering else shear], axis=1)


def turned_tensor(tensor: Float, angle: Float) -> Float:
    """Tensors (n, 6) xx, yy, zz, xy, yz, xz told along axes turned about the third by ``angle`` (n,)."""
    flat = turned_in_plane(tensor[:, [0, 1, 3]], angle)
    through = turned_in_plane(tensor[:, [5, 4]], angle)
    return np.stack([flat[:, 0], flat[:, 1], tensor[:, 2], flat[:, 2], through[:, 1], through[:, 0]], axis=1)
