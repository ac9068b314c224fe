"""What a cut of the model measures: a section by a plane, the surface where a reading has a value, the body between two values."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source, constants_of
from ironstone.core.geometry.cut import ABOVE, BELOW, Pieces, cut
from ironstone.core.geometry.levels import Band, Inside, at_value, in_band
from ironstone.core.mesh.interpolation import element_centres, positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtCorners, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import linear, resolve
from ironstone.core.reading.resolved import Values


@dataclass(frozen=True, eq=False)
class CutMeasure:
    """What a cut measures.

    Of a model of several kinds of elements those of the highest dimension count: solids, else shells, else bars. dimension: theirs.
    size: area of a section or surface, volume of a band; of shells length and area, of bars count and length. share: of a band, of
    all that has a value; mass_share: the same by mass, where every element of the model has a density. centroid (3,). low, high:
    values on it, NaN for none. box: its lowest and highest coordinates (2, 3). normal: of the plane that fits it best, the largest
    component positive (3,), and away: how far it is from that plane, RMS; None for a band and for what is no surface.
    """

    size: float
    share: float | None
    centroid: Float
    low: float
    high: float
    box: Float
    values: Values
    dimension: int
    normal: Float | None = None
    away: float = 0.0
    mass_share: float | None = None


def _reader(reading: Reading, source: Source) -> Inside:
    def read(element: Int, xi: Float) -> Float:
        found: Float = evaluate(reading, source, AtSamples(element, xi)).values
        return found

    return read


def _highest(mesh: Mesh) -> int:
    return int(mesh.dimensions.max(initial=0))


def _of_highest(mesh: Mesh, pieces: Iterable[Pieces]) -> list[Pieces]:
    return [p for p in pieces if p.block.cell.dimension == _highest(mesh)]


def _between(reading: Reading, source: Source) -> tuple[int, Float | None]:
    """How much finer than usual the elements are cut, and values in their middles, where a measure is not linear in the components:
    von Mises of a stress that changes its sign is 0 between two corners that are not."""
    if linear(resolve(reading, source).measure) and reading.over == "step":
        return 0, None
    mesh = source.mesh
    every = np.arange(len(mesh.types))
    xi = np.zeros((len(every), 3))
    for block in mesh.blocks:
        xi[block.elements] = block.cell.centre
    return 1, evaluate(reading, source, AtSamples(every, xi)).values


def section(reading: Reading, source: Source, origin: Float, normal: Float) -> CutMeasure:
    """A section by a plane, with the reading on it. Raises Impossible where it cuts nothing."""
    size = float(np.linalg.norm(normal))
    if not size:
        raise Impossible("The normal of the plane points nowhere.", "Write three numbers, like 0,0,1.")
    mesh, unit = source.mesh, normal / size
    pieces = section_pieces(mesh, origin, unit)
    found = [p.samples(mesh, origin, unit) for p in pieces]
    weight = np.concatenate([s.size for s in found])
    points = np.concatenate([s.points for s in found])
    middle = (points * weight[:, None]).sum(0) / weight.sum()
    return replace(_measured(reading, source, pieces, float(weight.sum()), middle), normal=unit)


def section_pieces(mesh: Mesh, origin: Float, normal: Float) -> list[Pieces]:
    """What a plane of unit normal cuts out of the elements that count. Raises Impossible where it cuts none."""
    pieces = _of_highest(mesh, cut(mesh, origin, normal, BELOW)) or _of_highest(mesh, cut(mesh, origin, normal, ABOVE))
    if not pieces:
        raise Impossible("The plane does not cut an element.", "Move it into the model.")
    return pieces


def iso_pieces(reading: Reading, source: Source, value: float) -> list[Pieces]:
    """Where a reading has a value, in the elements that count. Raises Impossible where it is reached nowhere."""
    mesh = source.mesh
    corner = evaluate(reading, source, AtCorners()).values
    finer, centre = _between(reading, source)
    pieces = _of_highest(mesh, at_value(mesh, corner, _reader(reading, source), value, finer, centre))
    if not pieces:
        low, high = (float(f(corner, initial=np.nan)) for f in (np.nanmin, np.nanmax))
        raise Impossible(f"The reading is {value:g} nowhere.", f"It runs from {low:.6g} to {high:.6g}.")
    return pieces


def band_pieces(reading: Reading, source: Source, low: float, high: float) -> tuple[Band, Values]:
    """The body in which a reading lies between two values, and the reading at all corners."""
    if not low < high:
        raise Impossible(f"A band runs from a lower to a higher value, not from {low:g} to {high:g}.", "Exchange the two.")
    answers = evaluate(reading, source, AtCorners())
    finer, centre = _between(reading, source)
    return in_band(source.mesh, answers.values, _reader(reading, source), low, high, finer, centre), answers


def iso_surface(reading: Reading, source: Source, value: float) -> CutMeasure:
    """Where a reading has a value, inside each element by itself. Raises Impossible where it is reached nowhere."""
    mesh, pieces = source.mesh, iso_pieces(reading, source, value)
    sizes, middles = zip(*(_sizes(mesh, p) for p in pieces), strict=True)
    weight, middle = np.concatenate(sizes), np.concatenate(middles)
    total = float(weight.sum())
    centroid = (middle * weight[:, None]).sum(0) / (total or 1.0)
    found = _measured(reading, source, pieces, total, centroid)
    if found.dimension != 3 or not total:
        return found
    # The plane of least squares: square to the direction in which the surface spreads least.
    from_middle = middle - centroid
    spread, directions = np.linalg.eigh((from_middle * weight[:, None]).T @ from_middle / total)
    normal = directions[:, 0] * np.sign(directions[np.abs(directions[:, 0]).argmax(), 0])
    return replace(found, normal=normal, away=float(np.sqrt(max(spread[0], 0.0))))


def band(reading: Reading, source: Source, low: float, high: float) -> CutMeasure:
    """The body in which a reading lies between two values. Raises Impossible where that is nowhere."""
    mesh = source.mesh
    found, answers = band_pieces(reading, source, low, high)
    corner = answers.values
    highest = _highest(mesh)
    volumes = np.where(mesh.dimensions == highest, mesh.volumes, 0.0)
    inner = found.whole[mesh.dimensions[found.whole] == highest]
    total, first = float(volumes[inner].sum()), np.zeros(3)
    (density,) = constants_of(mesh, source.setup, "density")
    mass = float((volumes * density)[inner].sum())
    if len(inner):
        first = (element_centres(mesh, inner) * volumes[inner, None]).sum(0)
    places = [mesh.points[mesh.connectivity[mesh.corners_of(inner)]]]
    held = [corner[mesh.corners_of(inner)]]
    for piece in (p for p in found.pieces if p.block.cell.dimension == highest):
        size = piece.sizes(mesh)
        at = piece.places(mesh)
        first += (at.mean(1) * size[:, None]).sum(0)
        total += float(size.sum())
        mass += float((size * density[piece.block.elements[piece.owner]]).sum())
        places.append(at.reshape(-1, 3))
        held.append(piece.value.ravel())
    points, values = np.concatenate(places), np.concatenate(held)
    if not total:
        raise Impossible(f"The reading lies between {low:g} and {high:g} nowhere.", "Choose other values.")
    whole = float(volumes.sum() - volumes[found.missing].sum())
    weighed = volumes * density
    all_of_it = float(weighed[volumes > 0].sum() - weighed[found.missing].sum())
    box = np.stack([points.min(0), points.max(0)])
    measured = CutMeasure(total, total / whole, first / total, float(values.min()), float(values.max()), box, answers, highest)
    return measured if np.isnan(all_of_it) else replace(measured, mass_share=mass / all_of_it)


def _sizes(mesh: Mesh, pieces: Pieces) -> tuple[Float, Float]:
    """Area (length, count) of pieces as they are drawn, (p,), and their middles (p, 3)."""
    count = pieces.xi.shape[1]
    element = np.repeat(pieces.block.elements[pieces.owner], count)
    at = positions(mesh, AtSamples(element, pieces.xi.reshape(-1, 3))).reshape(-1, count, 3)
    sides = at[:, 1:] - at[:, :1]
    if count == 1:
        size = np.ones(len(at))
    elif count == 2:
        size = np.linalg.norm(sides[:, 0], axis=1)
    else:
        size = np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1) / 2
    return size, at.mean(1)


def _measured(reading: Reading, source: Source, pieces: Sequence[Pieces], size: float, centroid: Float) -> CutMeasure:
    """Values and reach of pieces, at their corners."""
    element = np.concatenate([np.repeat(p.block.elements[p.owner], p.xi.shape[1]) for p in pieces])
    place = AtSamples(element, np.concatenate([p.xi.reshape(-1, 3) for p in pieces]))
    answers = evaluate(reading, source, place)
    points = positions(source.mesh, place)
    there = answers.values[answers.valid]
    low, high = (float(there.min()), float(there.max())) if len(there) else (float("nan"), float("nan"))
    return CutMeasure(size, None, centroid, low, high, np.stack([points.min(0), points.max(0)]), answers, _highest(source.mesh))
