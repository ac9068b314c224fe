"""The plane or cylinder that picked faces lie on, so that axes can be taken from the model itself."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.mesh.mesh import Float

# Nodes of one shape are off it by less than this share of its size: more, and the faces are something else.
SLACK = 0.01
# Faces whose normals turn by less than this over all of them are a plane.
FLAT = np.radians(0.5)


@dataclass(frozen=True)
class Fitted:
    """A shape through points: a point of it (the axis' middle), its direction (axis or normal), and how far points are off it.

    radius: of a cylinder, else 0. All in the points' unit of length.
    """

    shape: Literal["plane", "cylinder"]
    origin: Float
    direction: Float
    radius: float
    off: float


def fit(points: Float, normals: Float) -> Fitted:
    """The plane or the cylinder of faces: points (n, 3) on them, their outward unit normals (m, 3).

    The axis starts as the direction square to all normals, the circle as the algebraic one (Kasa 1976, from memory); all five
    numbers of the cylinder are then settled by least squares of the distances. Raises Impossible where it is neither.
    """
    middle = points.mean(0)
    mean = normals.mean(0)
    length = float(np.linalg.norm(mean))
    size = float(np.linalg.norm(np.ptp(points, axis=0)))
    if length > 0 and float((normals @ mean).min()) / length > np.cos(FLAT):
        _, _, rows = np.linalg.svd(points - middle)
        normal = rows[2] * np.sign(rows[2] @ mean)
        off = float(np.abs((points - middle) @ normal).max())
        if off <= SLACK * size:
            return Fitted("plane", middle, normal, 0.0, off)
    _, _, rows = np.linalg.svd(normals)
    axis = rows[2]
    found = _cylinder(points, middle, axis, size)
    if found is None or found.off > SLACK * found.radius:
        said = (
            "" if found is None else f": nodes are off the nearest cylinder by up to {found.off / found.radius:.2g} of its radius"
        )
        raise Impossible(
            f"These faces are neither flat nor a cylinder{said}.",
            "Pick a face of the bore itself, lower the fold, or type the axes.",
        )
    return found


def _cylinder(points: Float, middle: Float, axis: Float, size: float) -> Fitted | None:
    from scipy.optimize import least_squares

    first = np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))])
    first /= np.linalg.norm(first)
    second = np.cross(axis, first)
    local = (points - middle) @ np.array([first, second, axis]).T / size
    design = np.column_stack([2 * local[:, :2], np.ones(len(local))])
    if np.linalg.matrix_rank(design, tol=1e-9) < 3:
        return None
    centre_x, centre_y, rest = np.linalg.lstsq(design, (local[:, :2] ** 2).sum(1), rcond=None)[0]
    start = [centre_x, centre_y, 0.0, 0.0, float(np.sqrt(max(rest + centre_x**2 + centre_y**2, 1e-30)))]

    def away(numbers: Float) -> Float:
        x, y, tilt_x, tilt_y, radius = numbers
        along = np.array([tilt_x, tilt_y, 1.0])
        along = along / np.linalg.norm(along)
        off: Float = np.linalg.norm(np.cross(local - [x, y, 0.0], along), axis=1) - radius
        return off

    solved = least_squares(away, start, xtol=1e-14, ftol=1e-14, gtol=1e-14)
    x, y, tilt_x, tilt_y, radius = solved.x
    along = tilt_x * first + tilt_y * second + axis
    along /= np.linalg.norm(along)
    base = middle + size * (x * first + y * second)
    origin = base + ((middle - base) @ along) * along
    return Fitted("cylinder", origin, along, float(radius * size), float(np.abs(solved.fun).max() * size))


def circle(points: Float) -> Fitted:
    """The circle through three points (3, 3): its centre, its normal and radius. Raises Impossible where they lie on one line."""
    a, b, c = points
    normal = np.cross(b - a, c - a)
    twice = float(np.linalg.norm(normal))
    reach = float(np.linalg.norm(points - points.mean(0), axis=1).max())
    if twice < 1e-9 * max(reach**2, 1e-300):
        raise Impossible("The three points lie on one line: no circle goes through them.", "Pick three points round the bore.")
    u, v = b - a, c - a
    centre = a + np.cross((u @ u) * v - (v @ v) * u, np.cross(u, v)) / (2 * twice**2)
    return Fitted("cylinder", centre, normal / twice, float(np.linalg.norm(centre - a)), 0.0)
