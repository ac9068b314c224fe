"""Whether two results hold the same body."""

from __future__ import annotations

import numpy as np

from ironstone.store.opened import Other

# How far the boxes of two meshes of one body may be apart, as a share of its size.
ALIKE = 0.02


def one_body(first: Other, second: Other) -> bool:
    """Whether two results hold the same body, whatever their meshes: lengths in one unit, the same box within 2 % of its size."""
    if first.system.length != second.system.length:
        return False
    boxes = [np.array([s.mesh.points.min(0), s.mesh.points.max(0)]) for s in (first, second)]
    return bool(np.abs(boxes[0] - boxes[1]).max() <= ALIKE * first.mesh.size)
