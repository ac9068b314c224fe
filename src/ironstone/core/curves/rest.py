"""What a record reads before its test begins."""

from __future__ import annotations

import numpy as np

from ironstone.core.mesh.mesh import Float

# What the driver may drift by, as a share of its range, while a test has not begun; and the most samples that are taken.
AT_REST = 0.002
SAMPLES = 20


def samples_at_rest(driver: Float) -> int:
    """How many first samples of a driver (n,) come before it moves: at most 20, the first alone where it moves at once, 0 where
    there is none. Common practice, no source: a mean over samples that move already would take the movement for an offset."""
    if not len(driver) or not np.isfinite(driver[0]):
        return 0
    reach = float(np.ptp(driver[np.isfinite(driver)]))
    moves = np.flatnonzero(~(np.abs(driver - driver[0]) <= AT_REST * reach))
    return min(int(moves[0]) if len(moves) else len(driver), SAMPLES)
