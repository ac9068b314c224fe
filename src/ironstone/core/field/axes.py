"""Axes in which components are told: global, local Cartesian, cylindrical, spherical, an element's own, a material's."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float, Mesh

BY_PLACE = ("cartesian", "cylindrical", "spherical")
BY_ELEMENT = ("element", "material")
DIRECTIONS = {
    "cartesian": ("x", "y", "z"),
    "cylindrical": ("radial", "hoop", "axial"),
    "spherical": ("radial", "polar", "azimuthal"),
    "element": ("1", "2", "3"),
    "material": ("1", "2", "3"),
}


@dataclass(frozen=True)
class Axes:
    """Named axes. ``origin`` and ``matrix`` (rows: first, second, third direction) mean nothing for an element's own axes.

    Cylindrical axes turn about the third direction through the origin: radial, hoop, axial. Spherical ones are radial, polar
    (falling from the third direction), azimuthal.
    """

    name: str
    kind: str = "cartesian"
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0)
    matrix: tuple[tuple[float, float, float], ...] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))

    @property
    def directions(self) -> tuple[str, str, str]:
        a, b, c = DIRECTIONS[self.kind]
        return a, b, c

    @property
    def is_global(self) -> bool:
        return self.name == "global"

    def at(self, points: Float) -> Float:
        """Directions as rows at points (n, 3) -> (n, 3, 3); no value (NaN) where the point lies on the axis or in the origin."""
        base = np.array(self.matrix)
        if self.kind == "cartesian":
            return np.broadcast_to(base, (len(points), 3, 3))
        local = (points - np.array(self.origin)) @ base.T
        reach = max(float(np.abs(local).max(initial=0.0)), 1e-300)
        flat = np.hypot(local[:, 0], local[:, 1])
        result = np.full((len(points), 3, 3), np.nan)
        off = flat > 1e-9 * reach
        x, y = local[off, 0] / flat[off], local[off, 1] / flat[off]
        zero, one = np.zeros(len(x)), np.ones(len(x))
        if self.kind == "cylindrical":
            turned = np.stack([np.stack([x, y, zero], 1), np.stack([-y, x, zero], 1), np.stack([zero, zero, one], 1)], 1)
        else:
            far = np.sqrt(flat[off] ** 2 + local[off, 2] ** 2)
            cos, sin = local[off, 2] / far, flat[off] / far
            turned = np.stack(
                [np.stack([sin * x, sin * y, cos], 1), np.stack([cos * x, cos * y, -sin], 1), np.stack([-y, x, zero], 1)], 1
            )
        result[off] = turned @ base
        return result


GLOBAL = Axes("global")
ELEMENT = Axes("element", "element")
MATERIAL = Axes("material", "material")


def three_points(name: str, kind: str, origin: Float, third: Float, first: Float) -> Axes:
    """Axes from an origin, a point in the third direction (the axis of cylindrical ones) and a point in the first.

    The first direction is made square to the third. Raises when the three points lie on a line.
    """
    if kind not in BY_PLACE:
        raise IronstoneError(f"'{kind}' is not a kind of axes.", f"Choose one of: {', '.join(BY_PLACE)}.")
    if not name or name in ("global", "element", "material"):
        raise IronstoneError(f"Axes cannot be named '{name}'.", "Give them a name of their own.")
    given = np.array([origin, third, first], dtype=np.float64)
    if not np.isfinite(given).all():
        raise IronstoneError("A point of the axes has no finite coordinates.", "Give three numbers for each point.")
    e3, toward = given[1] - given[0], given[2] - given[0]
    reach = max(float(np.linalg.norm(e3)), float(np.linalg.norm(toward)))
    if np.linalg.norm(e3) < 1e-12 * max(reach, 1e-300) or reach == 0.0:
        raise IronstoneError("The third direction has no length.", "Choose a point away from the origin.")
    e3 = e3 / np.linalg.norm(e3)
    e1 = toward - (toward @ e3) * e3
    if np.linalg.norm(e1) < 1e-9 * max(reach, 1e-300):
        raise IronstoneError("The three points lie on one line.", "Choose a point aside for the first direction.")
    e1 = e1 / np.linalg.norm(e1)
    rows = np.array([e1, np.cross(e3, e1), e3])
    return Axes(name, kind, _three(given[0]), tuple(_three(row) for row in rows))


def _three(row: Float) -> tuple[float, float, float]:
    return float(row[0]), float(row[1]), float(row[2])


def element_axes(mesh: Mesh) -> Float:
    """Each element's own directions as rows, (elements, 3, 3), at its middle.

    First along the first natural coordinate; third square to the first two (a face's normal); a line has a first only.
    """
    result = np.full((len(mesh.types), 3, 3), np.nan)
    for block in mesh.blocks:
        if block.cell.dimension == 0:
            continue
        gradient = block.cell.gradient(block.cell.centre)[0]
        tangents = np.einsum("na,enx->eax", gradient, mesh.points[block.nodes])
        first = _unit(tangents[:, 0])
        if block.cell.dimension == 1:
            result[block.elements, 0] = first
            continue
        third = _unit(np.cross(first, tangents[:, 1]))
        result[block.elements] = np.stack([first, np.cross(third, first), third], axis=1)
    return result


def oriented(mesh: Mesh, orientation: NDArray[np.floating]) -> Float:
    """Material directions as rows from a file: nine numbers an element (rows 1, 2, 3), or three (the first direction).

    A first direction alone is laid into the element: square to its own third.
    """
    given = np.asarray(orientation, dtype=np.float64)
    if given.shape[1] == 9:
        rows = given.reshape(-1, 3, 3)
        return np.stack([_unit(rows[:, i]) for i in range(3)], axis=1)
    third = element_axes(mesh)[:, 2]
    first = _unit(given - (given * third).sum(1, keepdims=True) * third)
    return np.stack([first, np.cross(third, first), third], axis=1)


def _unit(vectors: Float) -> Float:
    with np.errstate(invalid="ignore", divide="ignore"):
        unit: Float = vectors / np.linalg.norm(vectors, axis=-1, keepdims=True)
    return unit


def rotate(components: Float, rows: Float) -> Float:
    """Vectors (n, 3) or symmetric tensors (n, 6) told along other directions, rows (n, 3, 3): R v and R T R'."""
    if components.shape[1] == 3:
        turned: Float = np.einsum("nij,nj->ni", rows, components)
        return turned
    xx, yy, zz, xy, yz, xz = components.T
    full = np.stack([xx, xy, xz, xy, yy, yz, xz, yz, zz], axis=1).reshape(-1, 3, 3)
    both = rows @ full @ rows.transpose(0, 2, 1)
    pairs = ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))
    return np.stack([both[:, i, j] for i, j in pairs], axis=1)
