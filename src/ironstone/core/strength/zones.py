"""Laminates on a model: zones, each of one stack of plies, and the elements they are of."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.kept import kept_with
from ironstone.core.mesh.mesh import Int, Mesh
from ironstone.core.strength.laminate import Laminate, Ply, PlyMaterial
from ironstone.core.units import UnitSystem, convert

ALL = "all"
# Constants that are stresses.
STRESSES = ("E1", "E2", "E3", "G12", "G13", "G23", "Xt", "Xc", "Yt", "Yc", "Zt", "S12", "S13", "S23")


@dataclass(frozen=True, eq=False)
class Zone:
    """A part of the model with one stack. where: 'all' (what no other zone claims), 'part:NAME', 'set:NAME' or 'elements:ID,ID'.
    axis: what the first axis of the laminate follows, projected onto the surface."""

    name: str
    laminate: Laminate
    where: str = ALL
    axis: tuple[float, float, float] = (1.0, 0.0, 0.0)


@dataclass(frozen=True, eq=False)
class Laminates:
    """The zones of a result. change: of temperature since the plies were free of stress; it does not scale with the loads. edited:
    the name of the file they are of, where they were changed after they were read; else ''."""

    system: UnitSystem
    zones: tuple[Zone, ...]
    change: float = 0.0
    edited: str = ""

    @property
    def notes(self) -> list[str]:
        """What is to be said wherever they are used."""
        return [f"The laminates of '{self.edited}' were edited here after they were read."] if self.edited else []

    @cached_property
    def depth(self) -> int:
        """The most plies a zone has."""
        return max(len(z.laminate.plies) for z in self.zones)

    @cached_property
    def sheets(self) -> tuple[str, ...]:
        """The cut sheets by name, in the order they are met."""
        return tuple(dict.fromkeys(p.sheet for z in self.zones for p in z.laminate.plies if p.sheet))

    @cached_property
    def ply_names(self) -> tuple[str, ...]:
        """What plies are called: their sheet, else their place in the stack."""
        plain = (ply_name(p, k) for z in self.zones for k, p in enumerate(z.laminate.plies))
        return tuple(dict.fromkeys((*self.sheets, *plain)))

    @cached_property
    def materials(self) -> tuple[PlyMaterial, ...]:
        return tuple({p.material.name: p.material for z in self.zones for p in z.laminate.plies}.values())

    @property
    def turns(self) -> bool:
        """Whether a change of temperature leaves stress in the plies."""
        return self.change != 0.0 and any(m.expansion.any() for m in self.materials)

    def told_in(self, system: UnitSystem) -> Laminates:
        """The same laminates, their numbers in another system of units."""
        if system.name == self.system.name:
            return self
        one = np.ones(1)
        stress, length = (float(convert(one, getattr(self.system, u), getattr(system, u))[0]) for u in ("stress", "length"))
        powers = {n: 1 for n in STRESSES} | {"F12": -2}
        known = {
            m.name: replace(m, constants={n: v * stress ** powers.get(n, 0) for n, v in m.constants.items()})
            for m in self.materials
        }
        zones = []
        for zone in self.zones:
            old = zone.laminate
            plies = tuple(replace(p, material=known[p.material.name], thickness=p.thickness * length) for p in old.plies)
            zones.append(replace(zone, laminate=Laminate(plies, old.offset * length)))
        return Laminates(system, tuple(zones), self.change, self.edited)

    def plies_of(self, zone: Zone, layer: int | str) -> list[int]:
        """Positions from 0 in a zone's stack of a layer (position from 0) or a sheet; none where it does not lie there."""
        plies = zone.laminate.plies
        if isinstance(layer, int):
            return [layer] if layer < len(plies) else []
        return [k for k, p in enumerate(plies) if p.sheet == layer]


def ply_name(ply: Ply, position: int) -> str:
    """What a ply is called: its sheet, else its place in the stack from the bottom, counted from 1."""
    return ply.sheet or f"ply {position + 1}"


@kept_with(4)
def placed(mesh: Mesh, laminates: Laminates) -> tuple[Int, ...]:
    """The elements of each zone by position. 'all' takes what the others leave of the shells (of everything, where there is none).

    Raises NotFound where a part or set is not there, Impossible where two zones claim an element or none is of any.
    """
    owner = np.full(len(mesh.types), -1)
    shells = mesh.dimensions == 2
    for k, zone in enumerate(laminates.zones):
        if zone.where == ALL:
            continue
        here = _claimed(mesh, zone)
        taken = here[owner[here] >= 0]
        if len(taken):
            other = laminates.zones[int(owner[taken[0]])].name
            raise Impossible(
                f"Element {mesh.element_ids[taken[0]]} is of zone '{other}' and of zone '{zone.name}'.", "Each has one stack."
            )
        owner[here] = k
    left = (owner < 0) & (shells if shells.any() else True)
    found = tuple(np.flatnonzero(left if z.where == ALL else owner == k) for k, z in enumerate(laminates.zones))
    if not any(len(f) for f in found):
        raise Impossible("No element of this result is of any zone.", "Say with 'where' which parts or sets the zones are of.")
    return found


def _claimed(mesh: Mesh, zone: Zone) -> Int:
    kind, _, name = zone.where.partition(":")
    if kind == "part" and name in mesh.part_names:
        return np.flatnonzero(mesh.part == mesh.part_names.index(name))
    if kind == "set" and name in mesh.element_sets:
        return np.asarray(mesh.element_sets[name], dtype=np.int64)
    if kind == "elements":
        try:
            return np.array([mesh.element_position(int(n)) for n in name.split(",")], dtype=np.int64)
        except ValueError as error:
            raise NotFound(f"Zone '{zone.name}' is of '{zone.where}'.", "Write elements:ID,ID,...") from error
    known = [f"part:{p}" for p in mesh.part_names] + [f"set:{s}" for s in mesh.element_sets]
    raise NotFound(f"Zone '{zone.name}' is of '{zone.where}', which is not in this result.", f"Here: all, {', '.join(known)}.")


def zone_of_elements(mesh: Mesh, laminates: Laminates) -> Int:
    """Which zone each element is of, (elements,), -1 where none."""
    owner = np.full(len(mesh.types), -1, dtype=np.int64)
    for k, elements in enumerate(placed(mesh, laminates)):
        owner[elements] = k
    return owner


def drop_offs(laminates: Laminates) -> Iterator[tuple[str, str, tuple[str, ...], tuple[str, ...]]]:
    """Of each zone and the next: what ends between them and what begins, by sheet."""
    for one, other in zip(laminates.zones[:-1], laminates.zones[1:], strict=True):
        here, there = ({p.sheet for p in z.laminate.plies if p.sheet} for z in (one, other))
        ends = tuple(s for s in laminates.sheets if s in here - there)
        begins = tuple(s for s in laminates.sheets if s in there - here)
        yield one.name, other.name, ends, begins
