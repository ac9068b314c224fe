"""The share of each mode in a motion: modal coordinates, the motion rebuilt from chosen modes, what is left over.

u = sum phi_i q_i. With a mass matrix q solves (Phi' M Phi) q = Phi' M u (mass-weighted least squares; with shapes normal to each
other that is phi' M u / phi' M phi); without one q are least squares over all nodes. What is left is told in the same weight.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float
from ironstone.core.motion.inertia import Inertia


@dataclass(frozen=True, eq=False)
class Coordinates:
    """Modal coordinates of motions: ``q`` (steps, modes), real or complex; ``left`` (steps,): what no mode has, as a share of the
    motion's size; ``weighted``: by mass rather than by node."""

    q: NDArray[np.generic]
    left: Float
    weighted: bool


def coordinates(shapes: Float, motions: NDArray[np.generic], mass: Inertia | None) -> Coordinates:
    """Shares of shapes (m, nodes, 3) in motions (s, nodes, 3), real or complex. Values that are missing in either are left out.

    Shapes that depend on each other share what they have in common evenly (least norm).
    """
    known = np.isfinite(shapes).all(axis=(0, 2)) & np.isfinite(motions).all(axis=(0, 2))
    if mass is None or not known.all():
        basis = np.asarray(shapes[:, known], dtype=np.float64).reshape(len(shapes), -1)
        moved = np.asarray(motions[:, known]).reshape(len(motions), -1)
        weighed, weighted = basis, False
    else:
        basis = np.asarray(shapes, dtype=np.float64).reshape(len(shapes), -1)
        moved = np.asarray(motions).reshape(len(motions), -1)
        weighed, weighted = np.stack([(mass.matrix @ shape).ravel() for shape in np.asarray(shapes, dtype=np.float64)]), True
    gram = weighed @ basis.T
    scale = 1.0 / np.sqrt(np.maximum(np.diag(gram), 1e-300))
    q = (
        np.linalg.pinv(gram * np.outer(scale, scale), rcond=1e-10, hermitian=True) @ (scale[:, None] * (weighed @ moved.T))
    ).T * scale
    rest = moved - q @ basis
    if weighted and mass is not None:
        square = [_weighed(part, mass) for part in (rest, moved)]
    else:
        square = [(np.abs(part) ** 2).sum(axis=1) for part in (rest, moved)]
    with np.errstate(invalid="ignore", divide="ignore"):
        left: Float = np.where(
            square[1] > 0.0, np.sqrt(np.maximum(square[0], 0.0) / np.where(square[1] > 0.0, square[1], 1.0)), np.nan
        )
    return Coordinates(q, left, weighted)


def _weighed(moved: NDArray[np.generic], mass: Inertia) -> Float:
    """Of motions (s, nodes x 3): u^H M u, (s,)."""
    return np.array([float(np.vdot(u, (mass.matrix @ u.reshape(-1, 3)).ravel()).real) for u in np.asarray(moved)])
