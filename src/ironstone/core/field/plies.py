"""Fields that laminates give a result: stress and strain in the plies, how many there are, how thick they are, whose zone it is.

What is in a ply is in the ply's own axes: 11 along the fibres, 22 across them, 12 the shear in the ply (of a strain as the change
of the angle), 23 and 13 the shears between the plies. It is never kept: layers are worked out one at a time, when asked for.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import PLY, Field, Setup, Source, Through
from ironstone.core.field.shell_axes import PLY as PLY_AXES
from ironstone.core.field.shell_axes import angle_to_laminate, turned_in_plane, turned_tensor, usual_way
from ironstone.core.mesh.mesh import Float, Int
from ironstone.core.strength.laminate import PLACES
from ironstone.core.strength.zones import Laminates, Zone, placed, zone_of_elements
from ironstone.core.units import convert

PLY_STRESS, PLY_STRAIN = "stress in plies", "strain in plies"
COUNT, THICKNESS, ZONE = "ply count", "laminate thickness", "laminate zone"
COMPONENTS = ("11", "22", "12", "23", "13")
NOTHING = (
    "It takes a stress with layers, section forces (and moments), or mid-plane strain (and curvature), by element; say in Intake "
    "what its arrays are."
)


def basis_of(fields: Mapping[str, Field]) -> Field | None:
    """What the stress in the plies follows from: a stress by layers, a mid-plane strain, or section forces; None of none."""
    here = [f for f in fields.values() if f.location == "element" and f.stored and not f.harmonic]
    layered = (f for f in here if f.kind in ("stress", "strain") and f.layers and f.rank == "tensor")
    plain = (f for kind in ("mid-plane strain", "section force") for f in here if f.kind == kind and f.plain)
    return next(layered, None) or next(plain, None)


def _kind(fields: Mapping[str, Field], kind: str) -> Field | None:
    return next((f for f in fields.values() if f.kind == kind and f.location == "element" and f.stored and f.plain), None)


def offered_plies(fields: Mapping[str, Field], laminates: Laminates | None, stress: str, length: str) -> list[Field]:
    """The fields that laminates give a result with these fields; stress, length: its units."""
    if laminates is None:
        return []
    basis = basis_of(fields)
    found = []
    if basis is not None:
        places = tuple(p or "middle" for p in basis.places) if basis.layers else PLACES
        way = "as the file has it" if basis.layers else "by lamination theory"
        common = {"rank": PLY, "location": "element", "components": COMPONENTS, "unit_guessed": basis.unit_guessed}
        more = {"layers": laminates.depth, "places": places, "sheets": laminates.sheets}
        found = [
            Field(PLY_STRESS, "stress", unit=stress, recovered=f"{way}, of '{basis.name}'", **common, **more),  # type: ignore[arg-type]
            Field(PLY_STRAIN, "strain", unit="", recovered=f"{way}, of '{basis.name}'", **common, **more),  # type: ignore[arg-type]
        ]
    said = "the stated laminates"
    found += [
        Field(COUNT, "", "scalar", "element", ("value",), "", recovered=said),
        Field(THICKNESS, "thickness", "scalar", "element", ("value",), length, recovered=said),
    ]
    if len(laminates.zones) > 1:
        names = tuple(z.name for z in laminates.zones)
        found.append(Field(ZONE, "", "scalar", "element", ("value",), "", names=True, labels=names, recovered=said))
    return [f for f in found if f.name not in fields]


def of_laminates(source: Source, name: str) -> Float:
    """Ply count, thickness or zone of each element, (elements, 1); NaN where no laminate is stated."""
    laminates = source.setup.laminates
    assert laminates is not None
    each = {
        COUNT: [float(len(z.laminate.plies)) for z in laminates.zones],
        THICKNESS: [z.laminate.thickness for z in laminates.zones],
        ZONE: [float(k) for k in range(len(laminates.zones))],
    }[name]
    # The last is of elements without a zone, position -1.
    return np.array([*each, np.nan])[zone_of_elements(source.mesh, laminates)][:, None]


@dataclass(frozen=True, eq=False)
class PlyState:
    """A run of elements of one zone at a step, from which strain and stress of any of its plies follow.

    strain: mid-plane strain and curvature (n, 6), or None where ``layers`` (n, layers, places, 6) came from the file. shear:
    transverse force per length (n, 2), None where the result has none. flat: the layers hold no shear between the plies.
    """

    zone: Zone
    laminates: Laminates
    elements: Int
    strain: Float | None
    layers: Float | None
    layers_are: str
    shear: Float | None
    flat: bool = False

    def stress(self, ply: int, place: int) -> Float:
        """Stress of the loads in a ply, (n, 5)."""
        return self._both(ply, place)[1]

    def strain_in(self, ply: int, place: int) -> Float:
        """Strain of the loads in a ply, (n, 5), shear as the change of the angle; between the plies it is not known."""
        return self._both(ply, place)[0]

    def on_bond(self, place: int) -> bool:
        """Whether a place lies at the border of its ply, where it is bonded to the next; the middle where it is all there is."""
        count = len(PLACES) if self.layers is None else self.layers.shape[2]
        return count == 1 or count != 3 or place != 1

    def _both(self, ply: int, place: int) -> tuple[Float, Float]:
        laminate = self.zone.laminate
        if self.layers is not None:
            own = self.layers[:, ply, place]
            flat, q = own[:, [0, 1, 3]], laminate.plies[ply].material.reduced_stiffness
            between = None if self.flat else own[:, [4, 5]]
            if self.layers_are == "strain":
                strain = flat * [1.0, 1.0, 2.0]
                return self._five(strain, None), self._five(strain @ q.T, None)
            return self._five(flat @ np.linalg.inv(q).T, None), self._five(flat, between)
        assert self.strain is not None
        strain, stress = laminate.in_ply(ply, place, self.strain)
        across = None if self.shear is None else self.shear @ laminate.interlaminar[ply, place].T
        return self._five(strain, None), self._five(stress, across)

    def _five(self, flat: Float, between: Float | None) -> Float:
        found = np.full((len(flat), 5), np.nan, order="F")
        found[:, :3] = flat
        if between is not None:
            found[:, 3:] = between
        return found

    def residual(self, ply: int, place: int) -> Float | None:
        """Stress (3,) that cooling has left in a ply, which does not scale with the loads; None of none."""
        if not self.laminates.turns:
            return None
        at = place if self.layers is None else min(place, 2)
        return self.zone.laminate.residual_in_ply(ply, at, self.laminates.change)


def ply_state(source: Source, zone: Zone, step: int, elements: Int) -> PlyState:
    """What the plies of some elements of a zone follow from at a step. Raises Impossible where nothing gives their stress."""
    laminates = source.setup.laminates
    assert laminates is not None
    basis, system = basis_of(source.fields), laminates.system
    if basis is None:
        raise Impossible("This result has nothing that stress of plies follows from.", NOTHING)

    def columns(field: Field, unit: str) -> NDArray[np.float64]:
        rows: Float = np.asarray(source.rows(field.name, step, elements), dtype=np.float64)
        return convert(rows, field.unit, unit) if unit and field.unit and field.unit != unit else rows

    def in_plane(field: Field, unit: str) -> NDArray[np.float64]:
        found, angle = columns(field, unit), angle_to_laminate(source, field, zone.axis, elements)
        return found if angle is None else turned_in_plane(found, angle, field.kind in ("mid-plane strain", "curvature"))

    across = _kind(source.fields, "transverse force")
    shear = None
    if across is not None:
        shear, angle = (
            columns(across, f"{system.force}/{system.length}")[:, :2],
            angle_to_laminate(source, across, zone.axis, elements),
        )
        shear = shear if angle is None else turned_in_plane(shear, angle)
    count = len(zone.laminate.plies)
    if basis.layers:
        if basis.layers < count:
            raise Impossible(
                f"'{basis.name}' has {basis.layers} layers, zone '{zone.name}' {count} plies.",
                "Each ply is a layer, from the bottom.",
            )
        rows = columns(basis, system.stress if basis.kind == "stress" else "")
        table = rows.reshape(len(elements), basis.layers, len(basis.places), -1)
        table = _into_plies(source, basis, zone, elements, table)
        return PlyState(zone, laminates, elements, None, table, basis.kind, shear, basis.flat)
    if basis.kind == "mid-plane strain":
        second, unit, first = _kind(source.fields, "curvature"), f"1/{system.length}", in_plane(basis, "")
    else:
        second, unit = _kind(source.fields, "section moment"), system.force
        first = in_plane(basis, f"{system.force}/{system.length}")
    both = np.concatenate([first, np.zeros_like(first) if second is None else in_plane(second, unit)], axis=1)
    strain = both if basis.kind == "mid-plane strain" else zone.laminate.strain_of(both)
    return PlyState(zone, laminates, elements, strain, None, "", shear)


def _into_plies(source: Source, basis: Field, zone: Zone, elements: Int, table: Float) -> Float:
    """Layers (n, layers, places, 6) in the axes of each ply of a zone, from those they are stated to be told in."""
    way = basis.surface_axes or usual_way(basis)
    if way == PLY_AXES:
        return table
    start = angle_to_laminate(source, basis, zone.axis, elements)
    turned = table.copy()
    for k, ply in enumerate(zone.laminate.plies):
        angle = np.full(len(elements), np.radians(ply.angle)) + (0.0 if start is None else start)
        for place in range(table.shape[2]):
            turned[:, k, place] = turned_tensor(table[:, k, place], angle)
    return turned


def zones_with_elements(source: Source) -> list[tuple[Zone, Int]]:
    """The zones that have elements here, each with them."""
    laminates = source.setup.laminates
    assert laminates is not None
    return [(z, e) for z, e in zip(laminates.zones, placed(source.mesh, laminates), strict=True) if len(e)]


class Laminated(Through):
    """A source with other laminates than those stated of it."""

    def __init__(self, source: Source, laminates: Laminates, stress: str, length: str) -> None:
        super().__init__(source)
        mine = (PLY_STRESS, PLY_STRAIN, COUNT, THICKNESS, ZONE)
        own = {n: f for n, f in source.fields.items() if n not in mine or not f.recovered}
        self.fields = own | {f.name: f for f in offered_plies(own, laminates, stress, length)}
        self._setup = replace(source.setup, laminates=laminates)

    @property
    def setup(self) -> Setup:
        return self._setup
