"""What a cut of the model measures: a section by a plane, the surface where a reading has a value, the body between two values."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source, constants_of
from ironstone.core.field.volumes import is_turned, volume_per_size, volumes_of
from ironstone.core.geometry.cut import ABOVE, BELOW, Pieces, cut, simplices_of
from ironstone.core.geometry.levels import RUN, USUAL, Band, Inner, Inside, Simplices, at_value, in_band
from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.interpolation import element_centres, positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtCorners, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import linear, resolve
from ironstone.core.reading.resolved import Values

T = TypeVar("T", Pieces, Simplices)
# Elements up to which what is not linear is looked for at many places in each, pieces up to which it is looked at more finely, and
# the share of its size within which that has settled.
FEW, VERY_FEW, MOST, SETTLED = 2_000, 64, 60_000, 0.003


@dataclass(frozen=True, eq=False)
class CutMeasure:
    """What a cut measures.

    Of a model of several kinds of elements those of the highest dimension count: solids, else shells, else bars. dimension: theirs.
    size: area of a section or surface, volume of a band; of shells length and area, of bars count and length. share: of a band, of
    all that has a value, by volume: of shells with their thickness, of bars with their section area, of a body of revolution all
    the way round; None where that is not known. mass_share: the same by mass, where every element has a density. centroid (3,).
    low, high: values on it, NaN for none. box: its lowest and highest coordinates (2, 3). normal: of the plane that fits it best,
    the largest component positive (3,), and away: how far it is from that plane, RMS; None for a band and what is no surface.
    off: by which share the size may be off, as the reading is not linear inside elements.
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
    off: float = 0.0


def _reader(reading: Reading, source: Source) -> Inside:
    def read(element: Int, xi: Float) -> Float:
        found: Float = evaluate(reading, source, AtSamples(element, xi)).values
        return found

    return read


def _highest(mesh: Mesh) -> int:
    return int(mesh.dimensions.max(initial=0))


def _of_highest(mesh: Mesh, pieces: Iterable[Pieces]) -> list[Pieces]:
    return [p for p in pieces if p.block.cell.dimension == _highest(mesh)]


def _inner(reading: Reading, source: Source, corner: Float) -> Inner | None:
    """The lowest and highest value of each element between its corners (elements,) each, where a measure is not linear in the
    components: von Mises of a stress that changes its sign is 0 between two corners that are not. None where it is linear.

    Looked at in the middle, of few elements at many places; and beyond what is met there by as much as the middle is off the mean
    of the corners.
    """
    if linear(resolve(reading, source).measure) and reading.over == "step":
        return None
    mesh = source.mesh
    mean = np.bincount(mesh.corner_element, weights=corner, minlength=len(mesh.types)) / np.maximum(np.diff(mesh.offsets), 1)
    low, high = np.full(len(mesh.types), np.nan), np.full(len(mesh.types), np.nan)
    for block in mesh.blocks:
        xi, few = block.cell.centre, len(mesh.types) <= FEW
        if few and block.cell.dimension:
            xi = np.concatenate([xi, simplices_of(block.cell.vtk, 2 if len(mesh.types) <= VERY_FEW else 1)[0]])
        for start in range(0, len(block.elements), RUN):
            run = block.elements[start : start + RUN]
            at = evaluate(reading, source, AtSamples(np.repeat(run, len(xi)), np.tile(xi, (len(run), 1)))).values
            table = at.reshape(len(run), -1)
            off = np.abs(table[:, 0] - mean[run]) * (0.25 if few else 1.0)
            low[run], high[run] = table.min(1) - off, table.max(1) + off
    return low, high


def _settled(make: Callable[[int], list[T]], size: Callable[[list[T]], float], everywhere: int) -> tuple[list[T], float]:
    """What is cut out of a reading that is not linear inside elements, domains halved until its size settles or there are too many
    pieces, and by which share the size may still be off. everywhere: elements that may be looked into where nothing is found."""
    before, now, finer = make(0), make(1), 1
    was, is_ = size(before), size(now)
    while True:
        off = abs(is_ - was) / is_ / 3 if is_ else 0.0
        looked_into = sum(len(np.unique(p.owner)) * _pieces_in(p.block.cell, finer + 1) for p in now)
        if (is_ and off < SETTLED) or (looked_into or everywhere * 6 * 8 ** (finer + 1)) > MOST:
            # What is left falls to a quarter with every halving.
            return now, off
        finer += 1
        now, was = make(finer), is_
        is_ = size(now)


def _pieces_in(cell: Cell, finer: int) -> int:
    """How many pieces an element is looked at in."""
    return int(len(simplices_of(cell.vtk, USUAL[cell.order])[1]) * 2 ** (cell.dimension * finer))


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
    return _iso(reading, source, value)[0]


def _iso(reading: Reading, source: Source, value: float) -> tuple[list[Pieces], float]:
    """The same, and by which share of its size it may be off."""
    mesh, read = source.mesh, _reader(reading, source)
    corner = evaluate(reading, source, AtCorners()).values
    inner = _inner(reading, source, corner)

    def make(finer: int) -> list[Pieces]:
        return _of_highest(mesh, at_value(mesh, corner, read, value, finer, inner))

    def size(pieces: list[Pieces]) -> float:
        return sum(float(_sizes(mesh, p)[0].sum()) for p in pieces)

    pieces, off = (make(0), 0.0) if inner is None else _settled(make, size, len(mesh.types))
    if not pieces:
        low, high = (float(f(corner, initial=np.nan)) for f in (np.nanmin, np.nanmax))
        hint = f"It runs from {low:.6g} to {high:.6g}." if np.isfinite(low) else "It has no value at all at this step."
        raise Impossible(f"The reading is {value:g} nowhere.", hint)
    return pieces, off


def band_pieces(reading: Reading, source: Source, low: float, high: float) -> tuple[Band, Values]:
    """The body in which a reading lies between two values, and the reading at all corners."""
    return _band(reading, source, low, high)[:2]


def _band(reading: Reading, source: Source, low: float, high: float) -> tuple[Band, Values, float, dict[int, Float]]:
    """The same, by which share of its size it may be off, and the sizes of its pieces that are known already, by their identity."""
    if not low < high:
        raise Impossible(f"A band runs from a lower to a higher value, not from {low:g} to {high:g}.", "Exchange the two.")
    mesh, read = source.mesh, _reader(reading, source)
    answers = evaluate(reading, source, AtCorners())
    inner = _inner(reading, source, answers.values)
    if inner is None:
        return in_band(mesh, answers.values, read, low, high), answers, 0.0, {}
    made: dict[int, Band] = {}
    sizes: dict[int, Float] = {}

    def make(finer: int) -> list[Simplices]:
        made[finer] = in_band(mesh, answers.values, read, low, high, finer, inner)
        return [p for p in made[finer].pieces if p.block.cell.dimension == _highest(mesh)]

    def size(pieces: list[Simplices]) -> float:
        for piece in pieces:
            sizes[id(piece)] = piece.sizes(mesh)
        return float(mesh.volumes[made[max(made)].whole].sum()) + sum(float(sizes[id(p)].sum()) for p in pieces)

    _, off = _settled(make, size, len(mesh.types))
    return made[max(made)], answers, off, sizes


def iso_surface(reading: Reading, source: Source, value: float) -> CutMeasure:
    """Where a reading has a value, inside each element by itself. Raises Impossible where it is reached nowhere."""
    mesh = source.mesh
    pieces, off = _iso(reading, source, value)
    sizes, middles = zip(*(_sizes(mesh, p) for p in pieces), strict=True)
    weight, middle = np.concatenate(sizes), np.concatenate(middles)
    total = float(weight.sum())
    centroid = (middle * weight[:, None]).sum(0) / (total or 1.0)
    found = replace(_measured(reading, source, pieces, total, centroid), off=off)
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
    found, answers, off, known = _band(reading, source, low, high)
    corner = answers.values
    highest = _highest(mesh)
    counted = mesh.dimensions == highest
    sizes, volumes = np.where(counted, mesh.volumes, 0.0), np.where(counted, volumes_of(source, reading.step), 0.0)
    per_size = volume_per_size(source, reading.step)
    inner = found.whole[mesh.dimensions[found.whole] == highest]
    total, first = float(sizes[inner].sum()), np.zeros(3)
    (density,) = constants_of(mesh, source.setup, "density")
    volume, mass = float(volumes[inner].sum()), float((volumes * density)[inner].sum())
    if len(inner):
        first = (element_centres(mesh, inner) * sizes[inner, None]).sum(0)
    places = [mesh.points[mesh.connectivity[mesh.corners_of(inner)]]]
    held = [corner[mesh.corners_of(inner)]]
    for piece in (p for p in found.pieces if p.block.cell.dimension == highest):
        size = known[id(piece)] if id(piece) in known else piece.sizes(mesh)
        at = piece.places(mesh)
        first += (at.mean(1) * size[:, None]).sum(0)
        total += float(size.sum())
        owner = piece.block.elements[piece.owner]
        # Of a body of revolution each piece goes round with its middle (Pappus).
        bulk = size * per_size[owner] * (2 * np.pi * np.abs(at.mean(1)[:, 0]) if is_turned(source) else 1.0)
        volume += float(bulk.sum())
        mass += float((bulk * density[owner]).sum())
        places.append(at.reshape(-1, 3))
        held.append(piece.value.ravel())
    points, values = np.concatenate(places), np.concatenate(held)
    if not total:
        raise Impossible(f"The reading lies between {low:g} and {high:g} nowhere.", "Choose other values.")
    whole = float(volumes.sum() - volumes[found.missing].sum())
    weighed = volumes * density
    all_of_it = float(weighed[counted].sum() - weighed[found.missing].sum())
    box = np.stack([points.min(0), points.max(0)])
    share = volume / whole if whole > 0.0 else None
    measured = CutMeasure(total, share, first / total, float(values.min()), float(values.max()), box, answers, highest)
    return replace(measured, off=off, mass_share=None if np.isnan(all_of_it) else mass / all_of_it)


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
