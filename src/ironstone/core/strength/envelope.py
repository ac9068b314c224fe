"""The envelope of a criterion: where a ply fails in a plane of two of its stresses, the third held."""

from __future__ import annotations

import numpy as np

from ironstone.core.mesh.mesh import Float
from ironstone.core.strength.criteria import Criterion
from ironstone.core.strength.laminate import PlyMaterial

PLANES = {"22-12": (1, 2), "11-22": (0, 1), "11-12": (0, 2)}
SCALES = (("Xt", "Xc"), ("Yt", "Yc"), ("S12", "S12"))


def envelope(criterion: Criterion, material: PlyMaterial, plane: str, third: float = 0.0, count: int = 361) -> Float:
    """Points (count, 2) where a criterion is met, once around; NaN where it is met in no such direction.

    plane: of PLANES; third: the stress that is held. Directions are even where each axis is in its own strength.
    """
    first, second = PLANES[plane]
    turn = np.linspace(0.0, 2 * np.pi, count)
    rays = np.zeros((count, 3))
    for axis, along in ((first, np.cos(turn)), (second, np.sin(turn))):
        up, down = (material[n] for n in SCALES[axis])
        rays[:, axis] = along * np.where(along >= 0, up, down)
    fixed = np.zeros(3)
    fixed[3 - first - second] = third
    outcome = criterion.check(material, rays, fixed if third else None)
    with np.errstate(invalid="ignore"):
        found = rays[:, [first, second]] * outcome.reserve[:, None]
    return np.where(np.isfinite(found), found, np.nan)
