"""The mass of the whole model, stated where its materials have no densities."""

from __future__ import annotations

from typing import ClassVar

from pydantic import Field

from ironstone.core.motion.inertia import Inertia, inertia
from ironstone.core.units import conversion
from ironstone.engine.base import Kept, readable
from ironstone.store import Review
from ironstone.store.source import ReviewSource


class MassIn(Kept):
    """The mass of the whole of a result, spread evenly over its volume where no densities are stated."""

    kind: ClassVar[str] = "mass"
    result: int
    total: float = Field(gt=0, description="In the unit.")
    unit: str = Field("", max_length=60, description="Of mass; none: that of the result's system.")

    def check(self, review: Review) -> None:
        source = review.result(self.result)
        conversion(self.unit or source.system.mass, source.system.mass)

    def same(self, other: Kept) -> bool:
        return isinstance(other, MassIn) and other.result == self.result

    def made(self) -> str:
        return "Mass of the whole stated"

    def gone(self) -> str:
        return "Stated mass removed"


def stated_mass(review: Review, source: ReviewSource) -> float | None:
    """The mass that was stated of the whole and kept, in the result's unit of mass."""
    kept = [thing for _, thing in readable(review, MassIn, source.id)]
    return kept[0].total * conversion(kept[0].unit or source.system.mass, source.system.mass)[0] if kept else None


def mass_of(review: Review, source: ReviewSource, total: float | None = None) -> Inertia | None:
    """How the mass of a result is spread: a total that is asked with, the densities of its materials, or the total that was stated
    and kept; None where none is known, or where an element's volume is not. total: in the result's unit of mass."""
    if total is None:
        found = inertia(source)
        total = stated_mass(review, source) if found is None else None
        return found if total is None else inertia(source, total)
    return inertia(source, total)
