"""Which of several numbers stands apart from the others."""

from __future__ import annotations

import numpy as np

from ironstone.core.mesh.mesh import Float

# Modified z-score above which a number stands apart (Iglewicz and Hoaglin, How to Detect and Handle Outliers, 1993; from memory).
APART = 3.5
# What differs by less than this share of the median agrees, however close the others are.
CLOSE = 0.01


def odd_one_out(values: Float) -> int | None:
    """Position of the number that stands farthest apart from the median of three or more, by the modified z-score
    0.6745 |x - median| / MAD; None where none does. NaN is no number."""
    known = np.flatnonzero(np.isfinite(values))
    if len(known) < 3:
        return None
    middle = float(np.median(values[known]))
    away = np.abs(values[known] - middle)
    spread = float(np.median(away))
    far = int(np.argmax(away))
    apart = 0.6745 * away[far] > APART * spread
    return int(known[far]) if apart and away[far] > CLOSE * max(abs(middle), 1e-300) else None
