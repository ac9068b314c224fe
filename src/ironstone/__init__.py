"""Ironstone Ridge: the bench where finite element results are reviewed. From Python::

import ironstone

with ironstone.open("flexure.ironstone") as review:
    stress = review.result().read("stress", "von-mises", averaging="part", step=230)
    print(stress.quantity.max(), stress.resolved.sentence(), stress.caveats)
"""

from __future__ import annotations

from os import PathLike
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ironstone.store.review import Review

__version__ = "0.1.0"
__all__ = ["open", "take_in"]


def open(path: str | PathLike[str]) -> Review:  # shadows the builtin on purpose: ironstone.open(...)
    """Open a review file. Raises IronstoneError when it is not there or is none."""
    from ironstone.store.review import Review

    return Review.open(Path(path))


def take_in(path: str | PathLike[str], files: Sequence[str | PathLike[str]], name: str = "", units: str | None = None) -> Review:
    """Take result files into a review, made when it is not there, and return it open; the result is its newest."""
    from ironstone.store.intake import intake
    from ironstone.store.review import Review

    target = Path(path)
    review = Review.open(target) if target.exists() else Review.create(target)
    intake(review, [Path(f) for f in files], name or None, units)
    return review
