"""How much memory a question may take while it is worked out, told before it is: what is heavy waits its turn."""

from __future__ import annotations

from typing import Literal

from ironstone.core.reading.reading import GROUPED
from ironstone.store import Review

# What a question looks at. whole: the model. place: a few places, or the model where it averages over more than an element.
# kept: what is kept or stated, and next to nothing of the model.
Reach = Literal["whole", "place", "kept"]

# Bytes at the peak, a corner of an element. Measured (a million hexahedra, stress at the corners): 206 for a view of von Mises as
# computed and its first surface, 211 for jumps, 115 for extremes, 118 for the checks of sense.
A_CORNER = 210
# What takes less than this does not wait: a model of some 40,000 hexahedra is looked at within tenths of a second.
LIGHT = 64 * 1024**2


def weight(review: Review, reach: Reach, result: int | str | None, averaging: str = "off") -> int:
    """Bytes a question may take at its peak, by what it looks at. Raises NotFound where there is no such result."""
    if reach == "kept" or (reach == "place" and averaging not in GROUPED):
        return 0
    return len(review.result(result).mesh.connectivity) * A_CORNER
