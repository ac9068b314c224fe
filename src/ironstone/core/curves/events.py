"""What stands out along the steps: reversals of the driver, the largest reaction, first yield."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.curves.reversals import reversals
from ironstone.core.mesh.mesh import Float


@dataclass(frozen=True)
class Mark:
    """One event on the step rail."""

    step: int
    kind: str
    label: str


def driver_history(means: dict[str, Float], held: set[str], moving: set[str]) -> tuple[str, int, Float] | None:
    """The driven set, its axis and history: the held set that moves furthest. means: set -> (steps, 3)."""
    best: tuple[float, str, int] | None = None
    for name in sorted(held & moving):
        reach = np.ptp(means[name], axis=0)
        axis = int(np.argmax(reach))
        if best is None or reach[axis] > best[0]:
            best = (float(reach[axis]), name, axis)
    if best is None or best[0] == 0.0:
        return None
    return best[1], best[2], means[best[1]][:, best[2]]


def marks(driver: Float | None, support: Float | None, first_yield: int | None) -> list[Mark]:
    """Events in step order. driver: (steps,) of the driven set; support: (steps, 3) reaction summed over the supports."""
    found = []
    if driver is not None:
        found += [Mark(int(i), "reversal", "reversal of the driver") for i in reversals(driver)]
    if support is not None and len(support):
        size = np.linalg.norm(support, axis=1)
        if size.max() > 0.0:
            found.append(Mark(int(np.argmax(size)), "peak", "largest reaction"))
    if first_yield is not None:
        found.append(Mark(first_yield, "yield", "first yield"))
    return sorted(found, key=lambda m: (m.step, m.kind))
