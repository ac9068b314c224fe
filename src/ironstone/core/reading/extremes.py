"""Highest and lowest of a reading, and what meets at a node."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.fields import Source
from ironstone.core.mesh.interpolation import element_centre
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes, TheseCorners
from ironstone.core.reading.averaging import spread
from ironstone.core.reading.corners import averaging_operator
from ironstone.core.reading.evaluate import at_one_step, evaluate
from ironstone.core.reading.over_steps import Tell
from ironstone.core.reading.reading import GROUPED, Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Values
from ironstone.core.rounding import settle


@dataclass(frozen=True)
class Extreme:
    """A highest or lowest value and where it is; element, node are positions, -1 where it has none."""

    value: float
    element: int
    node: int
    xyz: tuple[float, float, float]


def extremes(reading: Reading, source: Source, tell: Tell | None = None) -> tuple[Values, Extreme | None, Extreme | None]:
    """Lowest and highest over the region: at corners, at nodes of a nodal field, at elements of an element field.

    Where corners share their mean, one of those that share it stands for all: the values that come with it are as many as means.
    """
    resolved = resolve(reading, source)
    by_element = reading.averaging == "element" or (resolved.field.location == "element" and reading.averaging == "off")
    alone = reading.of == "value" and resolved.field.location != "node" and resolved.against is None
    if reading.of == "error" or (alone and by_element):
        values = evaluate(reading, source, AtElements(np.arange(len(source.mesh.types))), tell)
    elif alone and reading.averaging in GROUPED and reading.over == "step" and reading.region == "all":
        values = at_one_step(resolved, source, TheseCorners(averaging_operator(resolved, source.mesh).first))
    else:
        values = evaluate(reading, source, AtCorners(), tell)
    if not values.valid.any():
        return values, None, None
    low, high = (_extreme(values, source.mesh, pick) for pick in (np.nanargmin, np.nanargmax))
    if resolved.offset:
        return values, low, high
    # What is rounding beside the other end is 0.
    reach = max(abs(low.value), abs(high.value))
    answer = [replace(e, value=float(settle(e.value, reach, resolved.field.precision))) for e in (low, high)]
    return values, answer[0], answer[1]


def _extreme(values: Values, mesh: Mesh, pick: Any) -> Extreme:
    index = int(pick(values.values))
    element, node = int(values.element[index]), int(values.node[index])
    at = mesh.points[node] if node >= 0 else element_centre(mesh, element)
    return Extreme(float(values.values[index]), element, node, (float(at[0]), float(at[1]), float(at[2])))


@dataclass(frozen=True)
class Meeting:
    """What a flag says of a node: one answer for each element (or group) there, and the jump between them."""

    values: Values
    jump: float
    jump_within_material: float


def meeting(reading: Reading, source: Source, node: int) -> Meeting:
    """Every element's value at a node, the jump over all of them and the largest jump within one material (part)."""
    values = evaluate(replace(reading, of="value"), source, AtNodes(np.array([node])))
    parts = np.where(values.element >= 0, source.mesh.material_or_part[values.element], -1)
    return Meeting(values, *jumps(values.values, parts))


def jumps(values: Float, materials: NDArray[np.integer]) -> tuple[float, float]:
    """Highest less lowest of the values that meet at a place, over all of them, and the largest within one material (part)."""
    within = [spread(values[materials == m]) for m in np.unique(materials)]
    return spread(values), max(within, default=float("nan"))
