"""Which step of one result goes with which of another: by what the steps mean, else by their number."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import COMBINATION, Source
from ironstone.core.reading.elsewhere import same_moment
from ironstone.engine.base import Question
from ironstone.engine.bodies import one_body
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.compare.particulars import MatchedStepsMore
from ironstone.engine.weight import Reach
from ironstone.store import Review


class MatchedSteps(Question):
    """For each step of a result the one of another that goes with it: at the same time, load factor or frequency, of the same name,
    of modes the one of the same shape, else the nearest, else the one of its number; and whether the two are the same moment."""

    kind: ClassVar[str] = "matched-steps"
    more: ClassVar[type[BaseModel]] = MatchedStepsMore
    reach: ClassVar[Reach] = "kept"
    other: str = Field(min_length=1, max_length=200, description="The other result, by name or number.")

    def others(self) -> list[str]:
        return [self.other]

    def answer(self, review: Review) -> Answer:
        mine = self.source(review)
        theirs = mine.other(self.other)
        alike = by_shape(mine, theirs)
        found = [alike.get(i) or matched_step(mine, i, theirs) for i in range(len(mine.steps))]
        steps, same = [s for s, _ in found], [e for _, e in found]
        return Answer(
            kind=self.kind,
            sentence=f"steps of {theirs.name} that go with those of {mine.name}",
            columns=[
                Column(name="step", values=[s.label for s in mine.steps]),
                Column(name=f"of {theirs.name}", values=[theirs.steps[s].label for s in steps]),
                Column(name="the same moment", values=["yes" if e else "no" for e in same]),
            ],
            more={"steps": steps, "same": same, "one_body": one_body(mine, theirs)},
        )


def by_shape(mine: Source, theirs: Source) -> dict[int, tuple[int, bool]]:
    """For the modes of a result those of another that have their shape, whatever their numbers, and that each is the same one; none
    where one of the two has no modes, or they have no place in common."""
    if not all(any(s.kind == "mode" for s in source.steps) for source in (mine, theirs)):
        return {}
    from ironstone.core.motion.common import at_common_places, flat, modes_of, without_gaps
    from ironstone.core.motion.modes import near_equal
    from ironstone.core.motion.shapes import ALIKE, pairs

    of, other = modes_of(mine), modes_of(theirs)
    try:
        common = at_common_places(mine, of, theirs, other)
    except Impossible:
        return {}
    first, second = without_gaps(flat(common.first), flat(common.second))
    groups = [near_equal(np.array([s.steps[i].value for i in which])) for s, which in ((mine, of), (theirs, other))]
    return {of[p.of]: (other[p.other], True) for p in pairs(first, second, *groups) if p.mac >= ALIKE}


def matched_step(mine: Source, step: int, theirs: Source) -> tuple[int, bool]:
    """The step of another result that goes with one of this, and whether it is the same moment."""
    here = mine.steps[step]
    if here.name:
        named = [s.index for s in theirs.steps if (s.name, s.kind) == (here.name, here.kind)]
        if named:
            return named[0], True
    if here.kind != COMBINATION:
        try:
            return same_moment(here, theirs), True
        except Impossible:
            pass
    alike = [s for s in theirs.steps if s.kind == here.kind and s.unit == here.unit and here.kind not in ("number", COMBINATION)]
    if alike:
        return min(alike, key=lambda s: abs(s.value - here.value)).index, False
    return min(step, len(theirs.steps) - 1), False
