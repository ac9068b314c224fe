"""Highest and lowest of a reading, and what meets at a node."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.fields import Source
from ironstone.core.mesh.interpolation import element_centre
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes
from ironstone.core.reading.averaging import spread
from ironstone.core.reading.caveats import caveats
from ironstone.core.reading.corners import averaging_operator
from ironstone.core.reading.evaluate import corner_runs, evaluate, region_elements, said_at
from ironstone.core.reading.over_steps import Tell
from ironstone.core.reading.reading import GROUPED, Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Resolved, Values
from ironstone.core.rounding import settle


@dataclass(frozen=True)
class Extreme:
    """A highest or lowest value and where it is; element, node are positions, -1 where it has none."""

    value: float
    element: int
    node: int
    xyz: tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Everywhere:
    """A reading over its whole region, with what is to be said of it. names: the distinct numbers, of what names something."""

    resolved: Resolved
    caveats: list[str]
    names: Float


def extremes(reading: Reading, source: Source, tell: Tell | None = None) -> tuple[Everywhere, Extreme | None, Extreme | None]:
    """Lowest and highest over the region: at corners, at nodes of a nodal field, at elements of an element field.

    Corners are gone through a run at a time, so that a large model takes little more than its field.
    """
    resolved = resolve(reading, source)
    by_element = reading.averaging == "element" or (resolved.field.location == "element" and reading.averaging == "off")
    alone = reading.of == "value" and resolved.field.location != "node" and resolved.against is None
    one_step = resolved.against is None and reading.over == "step" and resolved.field.plain
    found = _Ends(source.mesh, resolved)
    if reading.of == "error" or (alone and by_element):
        found.take_all(evaluate(reading, source, AtElements(np.arange(len(source.mesh.types))), tell))
    elif one_step:
        found.resolved = said_at(resolved, AtCorners())
        inside = region_elements(source.mesh, reading.region)
        corners = None if inside.all() else source.mesh.corners_of(np.flatnonzero(inside))
        found.lacking = corners is not None
        shared = alone and reading.averaging in GROUPED and corners is None
        if shared:
            # Corners that share a mean are one: one of each stands for all.
            corners = averaging_operator(resolved, source.mesh).first
        for own, values in corner_runs(resolved, source, corners, shared):
            found.take(values, source.mesh.owners(own), source.mesh.connectivity[own])
        found.caveats = caveats(found.resolved, source, found.signs)
    else:
        found.take_all(evaluate(reading, source, AtCorners(), tell))
    everywhere = Everywhere(found.resolved, found.caveats, found.names)
    if found.low is None or found.high is None:
        return everywhere, None, None
    if resolved.offset:
        return everywhere, found.low, found.high
    # What is rounding beside the other end is 0.
    reach = max(abs(found.low.value), abs(found.high.value))
    low, high = (replace(e, value=float(settle(e.value, reach, resolved.field.precision))) for e in (found.low, found.high))
    return everywhere, low, high


class _Ends:
    """The lowest and highest of what passes by, the first of equals, and what the numbers give away."""

    def __init__(self, mesh: Mesh, resolved: Resolved) -> None:
        self.mesh, self.resolved = mesh, resolved
        self.low: Extreme | None = None
        self.high: Extreme | None = None
        self.caveats: list[str] = []
        self.names = np.zeros(0)
        # Whether a value is missing, and how many there were.
        self.lacking, self.count = False, 0

    def take_all(self, values: Values) -> None:
        self.take(values.values, values.element, values.node)
        self.resolved, self.caveats = values.resolved, values.caveats

    def take(self, values: Float, element: Int, node: Int) -> None:
        there = ~np.isnan(values)
        self.count += len(values)
        self.lacking = self.lacking or not there.all()
        if not there.any():
            return
        if self.resolved.naming is not None:
            self.names = np.unique(np.concatenate([self.names, values[there]]))
        low, high = int(np.nanargmin(values)), int(np.nanargmax(values))
        if self.low is None or values[low] < self.low.value:
            self.low = self._at(values[low], element[low], node[low])
        if self.high is None or values[high] > self.high.value:
            self.high = self._at(values[high], element[high], node[high])

    def _at(self, value: float, element: int, node: int) -> Extreme:
        at = self.mesh.points[node] if node >= 0 else element_centre(self.mesh, int(element))
        return Extreme(float(value), int(element), int(node), (float(at[0]), float(at[1]), float(at[2])))

    @property
    def signs(self) -> Float:
        """As few values as say of all what caveats are told by: the ends, whether one is missing, whether there are several."""
        ends = [e.value for e in (self.low, self.high) if e is not None]
        found = [*ends, *([np.nan] if self.lacking else [])]
        return np.array(found[:1] if self.count == 1 and not self.lacking else found)


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
