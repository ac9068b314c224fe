"""The force through picked faces: from stress, from what its nodes are loaded and held with, and of a pressure on them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source, stress_of
from ironstone.core.field.tensors import matrices
from ironstone.core.geometry.measuring import smooth_faces
from ironstone.core.geometry.surface import Look, Surface, face_nodes, skin
from ironstone.core.mesh.interpolation import interpolation, positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.corners import corner_components
from ironstone.core.statics.balance import Resultant, applied_forces, at_nodes, force_field, resultant


@dataclass(frozen=True)
class FaceForce:
    """What acts on the body through picked faces: from stress, and what its nodes are loaded and held with.

    area_vector: the integral of the outward normal; a pressure p pushes with -p times it. through: the integral of S n, None
    without stress. acting: applied forces and reactions at the faces' nodes, None without either, or where the faces lie inside.
    inner: those of the nodes on the edge, which other faces share, are left out: without them it comes nearer to the stress.
    residual_share: through less acting, against the larger and the stress itself times the area.
    """

    area: float
    area_vector: Float
    centre: Float
    count: int
    through: Resultant | None
    acting: Resultant | None
    pushed: Resultant | None
    inner: bool
    residual_share: float | None


FACETS = 8


def over_faces(
    source: Source, step: int, look: Look, face: int, fold: float, pressure: float | None = None, about: Float | None = None
) -> FaceForce:
    """Force and moment through a drawn face of solids and all that join it within ``fold`` degrees; and of a pressure on them.

    Each face is cut into flat triangles (8 x 8 a side where it is curved), stress taken with the element's own functions; the
    product with the lever arm by the mid-side rule. pressure: in the result's stress unit, positive pushes into the body.
    """
    mesh = source.mesh
    curved = any(b.cell.order > 1 for b in mesh.blocks)
    drawn = skin(mesh, replace(look, solid=False, detail=FACETS if curved else 1))
    if not 0 <= face < len(drawn.face_element):
        raise Impossible("That face is not drawn any more.", "Pick a face again.")
    chosen = np.zeros(len(drawn.face_element), dtype=bool)
    chosen[smooth_faces(drawn, face, fold)] = True
    if (mesh.dimensions[drawn.face_element[chosen]] != 3).any():
        raise Impossible("Some of those faces are no faces of solids.", "Pick faces of a solid body.")
    triangles = drawn.triangles[chosen[drawn.face[drawn.triangles[:, 0]]]]
    used, flat = np.unique(triangles, return_inverse=True)
    flat = flat.reshape(-1, 3)
    place = AtSamples(drawn.vertices.element[used], drawn.vertices.xi[used])
    corners = positions(mesh, place)[flat]
    vector = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
    owner = place.element[flat[:, 0]]
    inside = mesh.middles(owner)
    vector *= np.sign(np.einsum("ij,ij->i", vector, corners.mean(1) - inside))[:, None]
    size = np.linalg.norm(vector, axis=1)
    area = float(size.sum())
    centre = (corners.mean(1) * size[:, None]).sum(0) / max(area, 1e-300)
    point = centre if about is None else np.asarray(about, dtype=np.float64)

    def summed(pull: Callable[[int, int], Float]) -> Resultant:
        total = Resultant(np.zeros(3), np.zeros(3))
        for i, j in ((0, 1), (1, 2), (2, 0)):
            part = pull(i, j) / 3
            total += Resultant(part.sum(0), np.cross((corners[:, i] + corners[:, j]) / 2 - point, part).sum(0))
        return total

    through, stressed = None, 0.0
    stress = stress_of(source.fields)
    if stress is not None:
        shape = interpolation(mesh, place)
        rows = np.asarray(corner_components(source, stress.name, step, shape.corners), dtype=np.float64)
        tensor = (shape.matrix @ rows)[flat]
        if np.isfinite(tensor).all():
            through = summed(lambda i, j: np.einsum("tij,tj->ti", matrices((tensor[:, i] + tensor[:, j]) / 2), vector))
            stressed = float((np.linalg.norm(matrices(tensor.mean(1)), axis=(1, 2)) * size).sum())
    pushed = None if pressure is None else summed(lambda i, j: -pressure * vector)
    acting, inner, share = None, False, None
    ours = face_nodes(mesh, drawn, np.flatnonzero(chosen))
    theirs = _other_nodes(mesh, drawn, chosen)
    if theirs is not None:
        acting = _acting(source, step, ours, point)
        alone = _acting(source, step, np.setdiff1d(ours, theirs), point)
        if acting is not None and alone is not None and through is not None:
            off, off_alone = (float(np.linalg.norm(through.force - a.force)) for a in (acting, alone))
            if off_alone < off:
                acting, inner, off = alone, True, off_alone
            reach = max(stressed, *(float(np.linalg.norm(v.force)) for v in (through, acting)))
            share = off / reach if reach else 0.0
    return FaceForce(area, vector.sum(0), centre, int(chosen.sum()), through, acting, pushed, inner, share)


def _other_nodes(mesh: Mesh, drawn: Surface, chosen: NDArray[np.bool_]) -> Int | None:
    """Nodes of the body's skin beside chosen faces; None where those are not of its skin, but laid bare by what is hidden."""
    whole = skin(mesh, Look(detail=1))
    keys = [s.face_element * 8 + s.face_local for s in (whole, drawn)]
    picked = np.isin(keys[0], keys[1][chosen])
    if picked.sum() < chosen.sum():
        return None
    return face_nodes(mesh, whole, np.flatnonzero(~picked))


def _acting(source: Source, step: int, nodes: Int, about: Float) -> Resultant | None:
    given, loads = force_field(source, "reaction"), applied_forces(source, step)
    if given is None and loads is None:
        return None
    total = np.zeros((len(nodes), 3)) if loads is None else loads[nodes]
    if given is not None:
        total = total + np.nan_to_num(at_nodes(source, given.name, step)[nodes])
    return resultant(source.mesh.points[nodes], total, about)
