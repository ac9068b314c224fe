"""How much memory a question may take while it is worked out, told before it is: what is heavy waits its turn."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from ironstone.core.errors import Impossible
from ironstone.core.reading.reading import GROUPED
from ironstone.store import Review

# What a question looks at. whole: the model. place: a few places, or the model where it averages over more than an element.
# kept: what is kept or stated, and next to nothing of the model.
Reach = Literal["whole", "place", "kept"]

# Bytes at the peak, a corner of an element. Measured (2 December 2026, hexahedra with eight Gauss points, whole process): 75 for
# extremes, 85 for averaging, 78 for jumps; 206 for a view of von Mises as computed and its first surface.
A_CORNER = 210
# Bytes at the peak, a place (corner or integration point) that is looked for in another mesh. Measured: 290 to 410.
A_PLACE = 450
# What takes less than this does not wait (a model of some 40,000 hexahedra is looked at within tenths of a second); and what is
# worked on at once is about as much beside what is said.
LIGHT = 64 * 1024**2


def weight(review: Review, reach: Reach, result: int | str | None, averaging: str = "off", other: bool = False) -> int:
    """Bytes a question may take at its peak, by what it looks at. other: it is held against another result, of another mesh or not.
    Raises NotFound where there is no such result."""
    if reach == "kept" or (reach == "place" and averaging not in GROUPED):
        return 0
    mesh = review.result(result).mesh
    corners = len(mesh.connectivity)
    if not other:
        return corners * A_CORNER
    inside = sum(len(block.elements) * len(block.cell.quadrature[0]) for block in mesh.blocks if block.cell.dimension)
    return corners * A_CORNER + (corners + inside) * A_PLACE


def held_against_another(words: Mapping[str, Any]) -> bool:
    """Whether what is asked with these words is held against another result."""
    return bool(words.get("less")) or "result=" in str(words.get("against") or "")


def refuse_what_does_not_fit(review: Review, reach: Reach, words: Mapping[str, Any], allowed: int) -> None:
    """Raise Impossible where a question would take more memory than there is, with what would fit."""
    averaging = str(words.get("averaging") or "off")
    taken = weight(review, reach, words.get("result"), averaging, held_against_another(words))
    if taken > allowed:
        raise Impossible(
            f"This may take {taken / 1024**3:.2g} GB of memory, and there are {allowed / 1024**3:.2g} GB.",
            "Ask for it at a place, of one part in a result of its own, or on a machine with more.",
        )
