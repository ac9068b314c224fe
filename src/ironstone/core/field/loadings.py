"""Loadings: named runs of steps (a load case, a stage of a load history, a set of modes, a frequency sweep) within a result.

What runs over steps (the largest over all of them, what was so far, a rate) stays within one: a load factor and a frequency, or
two load cases, have no common order.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ironstone.core.field.fields import COMBINATION, Step
from ironstone.core.mesh.mesh import Float

# The axis of steps that have none in common: their numbers.
NUMBER = "step number"


@dataclass(frozen=True)
class Axis:
    """What curves over the steps are drawn over: ``kind`` with its unit, and the value of each step, (steps,)."""

    kind: str
    unit: str
    values: Float


def computed(steps: Sequence[Step]) -> range:
    """The steps, by position, a result came with. Those made of others come after them, and are no part of its history."""
    return range(sum(s.kind != COMBINATION for s in steps))


def loading_of(steps: Sequence[Step], step: int) -> tuple[int, ...]:
    """The steps, by position, of the loading a step belongs to: those of its name and of its kind."""
    here = steps[step]
    return tuple(i for i, s in enumerate(steps) if (s.loading, s.kind) == (here.loading, here.kind))


def loadings(steps: Sequence[Step]) -> list[tuple[str, tuple[int, ...]]]:
    """The loadings of a result in the order they begin: what each is called, and its steps by position."""
    found: dict[tuple[str, str], list[int]] = {}
    for i, s in enumerate(steps):
        found.setdefault((s.loading, s.kind), []).append(i)
    named = len({name for name, _ in found}) == len(found)
    return [(name or kind if named else f"{name} {kind}".strip(), tuple(of)) for (name, kind), of in found.items()]


def loading_name(steps: Sequence[Step], step: int) -> str:
    """What the loading of a step is called where there are several; '' where there is one."""
    known = loadings([steps[i] for i in computed(steps)])
    return "" if steps[step].kind == COMBINATION or len(known) < 2 else next(name for name, of in known if step in of)


def axis_of(steps: Sequence[Step]) -> Axis:
    """What curves over steps are drawn over: what all of them are told by, or their numbers from 1 where they are of several
    loadings."""
    steps = [steps[i] for i in computed(steps)]
    if len(loadings(steps)) > 1:
        return Axis(NUMBER, "", np.arange(1.0, len(steps) + 1))
    return Axis(steps[0].kind, steps[0].unit, np.array([s.value for s in steps]))
