"""What the precision of the data cannot tell from zero is zero."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

# Shares of the values something was worked out from: sixteen and seven digits, less a few for sums of many.
ROUNDING = {"double": 1e-12, "single": 1e-6}


def settle(values: Any, reach: Any, precision: str = "double") -> NDArray[np.float64]:
    """Values with those below rounding of ``reach`` (of the same shape, or one number) put to 0; missing ones stay missing."""
    exact = np.asarray(values, dtype=np.float64)
    with np.errstate(invalid="ignore"):
        result: NDArray[np.float64] = np.where(np.abs(exact) <= ROUNDING[precision] * np.asarray(reach), 0.0, exact)
    return result
