"""Axes kept with a result: typed as three points, by three nodes picked on the model, or fitted to the faces round a picked one."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.axes import Axes, three_points
from ironstone.core.geometry.fitted import Fitted, circle, fit
from ironstone.core.geometry.measuring import smooth_faces
from ironstone.core.geometry.surface import face_nodes, face_normals
from ironstone.core.mesh.mesh import Float
from ironstone.engine.reading.drawing import surface
from ironstone.engine.words import LookQuery, Point, Strict
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Faces of a coarse bore turn by up to this from one to the next; a chamfer turns by more.
FOLD = 40.0


class AxesIn(Strict):
    """Axes and how they are made.

    points: the origin, one in the third direction (the axis), one in the first. nodes: three node numbers; of cylindrical axes they
    lie round the bore. face: a drawn face; the plane or cylinder that it and the faces joining it lie on.
    """

    name: str = Field("", max_length=60, description="None: called after what they are made from.")
    kind: Literal["cartesian", "cylindrical", "spherical"] = "cylindrical"
    how: Literal["points", "nodes", "face"] = "points"
    origin: Point | None = None
    third: Point | None = None
    first: Point | None = None
    nodes: list[int] = Field(default=[], max_length=3)
    face: int = Field(-1, ge=-1)
    fold: float = Field(FOLD, gt=0, le=180)
    look: LookQuery = LookQuery()
    want: Literal["", "radial", "hoop", "axial", "normal"] = ""


def make_axes(result: int, stated: AxesIn, review: Review) -> tuple[str, int | None]:
    """Make axes and keep them with the result.

    Returns their name and the direction that is wanted of them (0, 1 or 2; None where none is): normal to a surface is the third of
    a plane's axes and the first of a cylinder's. Raises IronstoneError where they cannot be made so.
    """
    source = review.result(result)
    if stated.how == "points":
        given = (stated.origin, stated.third, stated.first)
        if any(p is None for p in given):
            raise IronstoneError(
                "Axes by points need three of them.", "Give the origin, a point in the third direction, one in the first."
            )
        axes, how = three_points(stated.name.strip(), stated.kind, *(np.array(p) for p in given)), "by three points"
    elif stated.how == "nodes":
        axes, how = _by_nodes(source, stated)
    else:
        axes, how = _by_face(source, stated)
    direction = _wanted(stated.want, axes, stated.how)
    review.set_axes(result, axes, how)
    return axes.name, direction


def _wanted(want: str, axes: Axes, how: str) -> int | None:
    if not want:
        return None
    if want == "normal":
        return 2 if axes.kind == "cartesian" else 0
    if axes.kind != "cylindrical":
        said = "These faces are flat" if how == "face" else f"These axes are {axes.kind}"
        raise Impossible(f"{said}: they have no {want} direction.", "Pick a face of the bore or pin, or make cylindrical axes.")
    return axes.directions.index(want)


def _by_nodes(source: ReviewSource, stated: AxesIn) -> tuple[Axes, str]:
    if len(set(stated.nodes)) != 3:
        raise Impossible(
            "Axes by nodes take three different nodes.", "Pick three: round the bore, or origin, axis, first direction."
        )
    points = source.mesh.points[[source.mesh.node_position(n) for n in stated.nodes]]
    words = ", ".join(str(n) for n in stated.nodes)
    if stated.kind == "cylindrical":
        found = circle(points)
        name = stated.name.strip() or _free(source, "circle")
        return _turned(name, found), f"circle through nodes {words}, radius {found.radius:.5g} {source.system.length}"
    return three_points(stated.name.strip() or _free(source, "nodes"), stated.kind, *points), f"by nodes {words}"


def _by_face(source: ReviewSource, stated: AxesIn) -> tuple[Axes, str]:
    mesh, skin = source.mesh, surface(source, stated.look.look())
    if not 0 <= stated.face < len(skin.face_element):
        raise Impossible("That face is not drawn any more.", "Pick a face again.")
    faces = smooth_faces(skin, stated.face, stated.fold)
    normals = face_normals(skin.points, skin.triangles, skin.face, len(skin.face_element))[faces]
    found = fit(mesh.points[face_nodes(mesh, skin, faces)], normals)
    part = mesh.part_names[mesh.part[skin.face_element[stated.face]]]
    unit = source.system.length
    off = f"nodes off by up to {found.off:.2g} {unit}" if found.off > 1e-6 * mesh.size else "nodes lie on it"
    if found.shape == "plane":
        how = f"normal to {len(faces)} flat faces of {part}, {off}"
        return _turned(stated.name.strip() or _free(source, f"face of {part}"), found), how
    how = f"fitted to {len(faces)} faces of {part}, radius {found.radius:.5g} {unit}, {off}"
    return _turned(stated.name.strip() or _free(source, f"cylinder of {part}"), found), how


def _turned(name: str, found: Fitted) -> Axes:
    """Axes of a fitted shape: its direction is the third; the first is the global direction that is squarest to it."""
    third: Float = found.direction
    if found.shape == "cylinder":
        # An axis has no way of its own: it points where its largest component is positive.
        third = third * np.sign(third[int(np.argmax(np.abs(third).round(9)))])
    first = np.eye(3)[int(np.argmin(np.abs(third).round(9)))]
    kind = "cartesian" if found.shape == "plane" else "cylindrical"
    return three_points(name, kind, found.origin, found.origin + third, found.origin + first)


def _free(source: ReviewSource, name: str) -> str:
    taken, number, free = set(source.setup.axes), 1, name
    while free in taken:
        number += 1
        free = f"{name} {number}"
    return free
