"""A stress through a wall as its membrane, bending and peak parts."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source
from ironstone.core.field.tensors import von_mises
from ironstone.core.geometry.paths import Line
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.corners import take_measure
from ironstone.core.reading.profile import profile
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve

NAMES = ("xx", "yy", "zz", "xy", "yz", "xz")
# A line is straight where it is no farther beside the chord than this share of its length.
STRAIGHT = 1e-4


@dataclass(frozen=True)
class Linearised:
    """Stress through a thickness as membrane, bending and peak parts, tensors (6,) in ``unit``, and the measure of the reading of
    each, in the reading's unit: of the tensor of the part, not of what the measure is along the line.

    bending: at the start; at the end it has the other sign. peak: what is left at the start and at the end. measures: of membrane,
    bending, membrane and bending at the start and the end, peak at the start and the end (6,). notes: what to know of the line.
    """

    membrane: Float
    bending: Float
    peak: tuple[Float, Float]
    thickness: float
    unit: str
    measures: Float
    notes: tuple[str, ...] = ()

    @property
    def membrane_and_bending(self) -> tuple[Float, Float]:
        """At the start and at the end."""
        return self.membrane + self.bending, self.membrane - self.bending

    @property
    def tensors(self) -> Float:
        """In the order of ``measures``, (6, 6)."""
        return np.stack([self.membrane, self.bending, *self.membrane_and_bending, *self.peak])

    def von_mises(self) -> dict[str, float | list[float]]:
        """Of each part, and of membrane and bending together, at the start and the end."""
        return by_part(von_mises(self.tensors))


def by_part(values: Float) -> dict[str, float | list[float]]:
    """Six values in the order of ``Linearised.measures``, by the names of the parts."""
    membrane, bending, *ends = (float(v) for v in values)
    return {"membrane": membrane, "bending": bending, "membrane_and_bending": ends[:2], "peak": ends[2:]}


def linearise(reading: Reading, source: Source, line: Line) -> Linearised:
    """The parts of a stress along a straight line through a thickness t, x from its start: membrane (1/t) int s dx, bending
    (6/t^2) int s (t/2 - x) dx, component by component in the axes, region and difference of the reading, as practice with pressure
    vessels has it (ASME VIII-2 annex 5-A, from memory). The measure of the reading is taken of the parts.

    Raises Impossible where the field is no tensor, the reading is no value at one step, the line is not straight, leaves the body
    and comes back, or passes where there is no value.
    """
    field = source.fields.get(reading.field)
    if field is None or field.rank != "tensor":
        raise Impossible(f"'{reading.field}' is no tensor.", "Linearise a stress.")
    both = [reading] if reading.against is None else [reading, reading.against]
    if any(r.over != "step" for r in both):
        raise Impossible("Membrane and bending are of one step: the largest over steps is no state of stress.", "Choose a step.")
    if any(r.of != "value" for r in both):
        raise Impossible("Membrane and bending are of the stress itself, not of its jump or error.", "Choose the value.")
    # What lies outside at either end is left out: the line may begin before the surface and end behind the other.
    within = np.flatnonzero(line.inside)
    if len(within) < 2 or within[-1] - within[0] + 1 != len(within):
        raise Impossible("This line leaves the body and comes back: it has no one thickness.", "Take it through one wall.")
    kept = slice(within[0], within[-1] + 1)
    line = Line(line.distance[kept], line.points[kept], line.element[kept], line.xi[kept])
    x = line.distance - line.distance[0]
    thick = float(x[-1])
    off = line.points - line.points[0] - np.outer(x / thick, line.points[-1] - line.points[0])
    if np.linalg.norm(off, axis=1).max() > STRAIGHT * thick:
        raise Impossible("This line is not straight: it goes through no one thickness.", "Take a straight line through the wall.")
    table = np.stack([profile(_component(reading, name), source, line).values for name in NAMES], axis=1)
    if np.isnan(table).any():
        raise Impossible("The stress is missing on a part of this line.", "Take a line where every element has it.")
    membrane = np.trapezoid(table, x, axis=0) / thick
    # Stress is linear between samples, and so is the arm: their product is integrated by Simpson's rule, which is exact for it.
    step = np.diff(x)[:, None]
    arm = (thick / 2 - x)[:, None]
    middle = (table[1:] + table[:-1]) / 2 * (arm[1:] + arm[:-1]) / 2
    bending = 6 / thick**2 * (step * (table[1:] * arm[1:] + table[:-1] * arm[:-1] + 4 * middle) / 6).sum(0)
    peak = (table[0] - membrane - bending, table[-1] - membrane + bending)
    parts = Linearised(membrane, bending, peak, thick, field.unit, np.zeros(6), _notes(source, line))
    return _told(parts, reading, source, line)


def _told(parts: Linearised, reading: Reading, source: Source, line: Line) -> Linearised:
    """With the measure of the reading; the tensors in its unit where that is a stress."""
    # The components are told in the axes already, and nothing is left to average.
    settled = replace(resolve(replace(reading, against=None), source), by_place=False, by_element=False)
    settled = replace(settled, reading=replace(settled.reading, averaging="off", order="components"))
    ends = line.element[[0, 0, 0, -1, 0, -1]]
    measures = take_measure(settled, source, parts.tensors, ends, None)
    if settled.measure.unit is not None:
        return replace(parts, measures=measures)
    membrane, bending, *_, first, last = (settled.scaled(t) for t in parts.tensors)
    return replace(parts, membrane=membrane, bending=bending, peak=(first, last), unit=settled.unit, measures=measures)


def _notes(source: Source, line: Line) -> tuple[str, ...]:
    mesh = source.mesh
    materials = dict.fromkeys(int(m) for m in mesh.material_or_part[line.element])
    if len(materials) < 2:
        return ()
    names = " and ".join(f"'{mesh.material_or_part_names[m]}'" for m in materials)
    return (f"This line passes through {names}: membrane and bending are meant for one material.",)


def _component(reading: Reading, name: str) -> Reading:
    """The same reading of one component, in the field's unit."""
    against = None if reading.against is None else _component(reading.against, name)
    return replace(reading, measure=name, unit=None, plane=None, against=against)
