"""The one evaluator: a reading at some places gives values. Contours, flags, traces and profiles all come through here.

Inside an element the components are interpolated with the element's own functions and the measure is taken after.
With averaging on, ``order`` says whether components are averaged first or the measure.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from ironstone.core.averaging import CornerAveraging, corner_averaging, spread
from ironstone.core.cells import CELLS
from ironstone.core.errors import Impossible, NotFound
from ironstone.core.fields import Source
from ironstone.core.mesh import Float, Int, Mesh, quadrature_weights
from ironstone.core.reading import Reading, Resolved, Values, resolve


@dataclass(frozen=True, eq=False)
class AtNodes:
    """Nodes by position; with averaging off a node has one answer for each element that meets there."""

    nodes: Int


@dataclass(frozen=True, eq=False)
class AtElements:
    """The mean of each element: the integral over it, divided by its volume."""

    elements: Int


@dataclass(frozen=True, eq=False)
class AtCorners:
    """Every corner of some elements, or of all (None)."""

    elements: Int | None = None


@dataclass(frozen=True, eq=False)
class AtSamples:
    """Places inside elements: element (n,) and natural coordinates (n, 3)."""

    element: Int
    xi: Float


FEW_SAMPLES = 64
Place = AtNodes | AtElements | AtCorners | AtSamples


@lru_cache(maxsize=16)
def _averaging(mesh: Mesh, name: str) -> CornerAveraging:
    return corner_averaging(mesh, name)


def evaluate(reading: Reading, source: Source, place: Place) -> Values:
    """Answer a reading at places. Raises IronstoneError when the reading or a place has no meaning in this result."""
    resolved = resolve(reading, source)
    mesh = source.mesh
    inside = region_elements(mesh, reading.region)
    if isinstance(place, AtNodes):
        return _at_nodes(resolved, source, place.nodes, inside)
    if isinstance(place, AtElements):
        values = _element_means(resolved, source, place.elements)
        values = np.where(inside[place.elements], values, np.nan)
        return _one_each(resolved, values, place.elements, np.full(len(values), -1))
    if isinstance(place, AtCorners):
        if place.elements is None:
            corners = np.arange(len(mesh.connectivity))
        else:
            corners = mesh.corners_of(place.elements)
        element = mesh.corner_element[corners]
        values = _take(resolved, _corner_components(resolved, source, corners))
        values = np.where(inside[element], values, np.nan)
        return _one_each(resolved, values, element, mesh.connectivity[corners])
    values = _at_samples(resolved, source, place)
    values = np.where(inside[place.element], values, np.nan)
    return _one_each(resolved, values, place.element, np.full(len(values), -1))


def region_elements(mesh: Mesh, region: str) -> NDArray[np.bool_]:
    """Which elements a region holds, (elements,)."""
    kind, _, name = region.partition(":")
    if region == "all":
        return np.ones(len(mesh.types), dtype=bool)
    if kind == "part" and name in mesh.part_names:
        return np.asarray(mesh.part == mesh.part_names.index(name))
    if kind == "set" and name in mesh.element_sets:
        chosen = np.zeros(len(mesh.types), dtype=bool)
        chosen[mesh.element_sets[name]] = True
        return chosen
    raise NotFound(
        f"There is no region '{region}' in this result.",
        f"Parts: {', '.join(mesh.part_names)}. Element sets: {', '.join(mesh.element_sets) or 'none'}.",
    )


def _one_each(resolved: Resolved, values: Float, element: Int, node: Int) -> Values:
    return Values(values, np.arange(len(values) + 1), element, node, resolved, caveats(resolved, values))


def caveats(resolved: Resolved, values: Float) -> list[str]:
    """What must be said beside these values: the reading's own caveats, and what the numbers themselves give away."""
    notes = resolved.caveats
    if resolved.field.kind == "plastic strain" and resolved.field.rank == "scalar" and len(values):
        low, high = np.nanmin(values, initial=0.0), np.nanmax(values, initial=0.0)
        if low < -1e-6 * max(high, 1e-30):
            notes.append("Extrapolated to the corners before import: an equivalent plastic strain below zero is not real.")
    return notes


def _take(resolved: Resolved, components: NDArray[np.floating]) -> Float:
    """The measure of components (n, c), in the reading's unit. Components already turned into the measure pass through."""
    exact: Float = np.asarray(components, dtype=np.float64)
    if resolved.reading.of != "value":
        # Shape functions of quadratic elements dip between nodes, and a jump is never below zero.
        return np.maximum(exact[..., 0], 0.0) * resolved.factor
    values: Float = exact[..., 0] if _measure_first(resolved) else resolved.measure.function(exact)
    return values * resolved.factor


def _measure_first(resolved: Resolved) -> bool:
    return resolved.reading.order == "measure" and resolved.reading.averaging in ("part", "material", "all", "element")


def _corner_components(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Components at some corners after averaging (or the measure, when that is taken first)."""
    mesh, field, step = source.mesh, resolved.field, resolved.reading.step
    if field.location == "node":
        nodes = mesh.connectivity[corners]
        raw = _rows(source, field.name, step, nodes)
        return _first(resolved, raw)
    averaging = resolved.reading.averaging
    if resolved.reading.of != "value":
        return _corner_jumps(resolved, source, corners)
    if averaging == "off":
        return _raw_corners(resolved, source, corners)
    if averaging == "element":
        elements, back = np.unique(mesh.corner_element[corners], return_inverse=True)
        return _mean_components(resolved, source, elements)[back]
    operator = _averaging(mesh, averaging)
    if 2 * len(corners) > len(mesh.connectivity):
        everywhere = operator(_first(resolved, _raw_corners(resolved, source, np.arange(len(mesh.connectivity)))))
        asked: Float = everywhere[corners]
        return asked
    slots = np.unique(operator.slot[corners])
    needed = np.unique(operator.gather[slots].indices)
    local = np.searchsorted(slots, operator.slot[needed])
    count = len(needed)
    part = CornerAveraging(local, csr_matrix((np.ones(count), (local, np.arange(count))), shape=(len(slots), count)))
    averaged = part(_first(resolved, _raw_corners(resolved, source, needed)))
    chosen: Float = averaged[np.searchsorted(needed, corners)]
    return chosen


def _corner_jumps(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Spread of the measure at the node of each corner between the elements that meet there, (corners, 1)."""
    operator = _averaging(source.mesh, "material" if resolved.reading.of == "jump-within-material" else "all")
    slots, back = np.unique(operator.slot[corners], return_inverse=True)
    rows = operator.gather[slots]
    raw = resolved.measure.function(_raw_corners(resolved, source, rows.indices.astype(np.int64)))
    begins = rows.indptr[:-1]
    with np.errstate(invalid="ignore"):
        spreads = np.fmax.reduceat(raw, begins) - np.fmin.reduceat(raw, begins)
    jumps: Float = spreads[back][:, None]
    return jumps


def _first(resolved: Resolved, components: Float) -> Float:
    """Take the measure now when the reading asks for it before averaging."""
    if _measure_first(resolved):
        return resolved.measure.function(np.asarray(components, dtype=np.float64))[:, None]
    return components


def _raw_corners(resolved: Resolved, source: Source, corners: Int) -> Float:
    field, step = resolved.field, resolved.reading.step
    if field.location == "corner":
        return _rows(source, field.name, step, corners)
    return _rows(source, field.name, step, source.mesh.corner_element[corners])


def _rows(source: Source, field: str, step: int, entities: Int) -> Float:
    """A few rows by seeking, many by reading the step once."""
    unique, back = np.unique(entities, return_inverse=True)
    if len(unique) <= 512:
        few: Float = np.asarray(source.rows(field, step, unique), dtype=np.float64)[back]
        return few
    many: Float = np.asarray(source.values(field, step), dtype=np.float64)[entities]
    return many


def _at_nodes(resolved: Resolved, source: Source, nodes: Int, inside: NDArray[np.bool_]) -> Values:
    mesh = source.mesh
    if resolved.field.location == "node":
        raw = _first(resolved, _rows(source, resolved.field.name, resolved.reading.step, nodes))
        values = _take(resolved, raw)
        return _one_each(resolved, values, np.full(len(nodes), -1), nodes)
    meeting = [mesh.corners_at(int(n)) for n in nodes]
    meeting = [c[inside[mesh.corner_element[c]]] for c in meeting]
    corners = np.concatenate(meeting) if meeting else np.zeros(0, dtype=np.int64)
    values = _take(resolved, _corner_components(resolved, source, corners))
    offsets = np.concatenate([[0], np.cumsum([len(c) for c in meeting])]).astype(np.int64)
    element, node = mesh.corner_element[corners], mesh.connectivity[corners]
    if resolved.reading.averaging in ("part", "material", "all") or resolved.reading.of != "value":
        # One answer for each group that meets there, not one for each element.
        grouping = {"jump": "all", "jump-within-material": "material"}.get(resolved.reading.of, resolved.reading.averaging)
        slot = _averaging(mesh, grouping).slot[corners]
        keep = [np.unique(slot[a:b], return_index=True)[1] + a for a, b in zip(offsets[:-1], offsets[1:], strict=True)]
        offsets = np.concatenate([[0], np.cumsum([len(k) for k in keep])]).astype(np.int64)
        chosen = np.concatenate(keep) if keep else np.zeros(0, dtype=np.int64)
        values, element, node = values[chosen], element[chosen], node[chosen]
    return Values(values, offsets, element, node, resolved, caveats(resolved, values))


def _mean_components(resolved: Resolved, source: Source, elements: Int) -> Float:
    """Volume mean of the components (or of the measure, taken first) over each element, (elements, c)."""
    mesh, field = source.mesh, resolved.field
    wanted = np.full(len(mesh.types), -1, dtype=np.int64)
    wanted[elements] = np.arange(len(elements))
    result: Float | None = None
    for block in mesh.blocks:
        here = wanted[block.elements] >= 0
        if not here.any():
            continue
        chosen = type(block)(block.cell, block.elements[here], block.nodes[here], block.corners[here])
        if field.location == "element":
            means = _first(resolved, _rows(source, field.name, resolved.reading.step, chosen.elements))
        else:
            entity = chosen.nodes if field.location == "node" else chosen.corners
            at = _rows(source, field.name, resolved.reading.step, entity.ravel()).reshape(*entity.shape, -1)
            xi, _ = block.cell.quadrature
            weights = quadrature_weights(mesh, chosen)
            inner = np.einsum("qn,enc->eqc", block.cell.shape(xi), at, optimize=True)
            inner = _first(resolved, inner.reshape(-1, inner.shape[2])).reshape(len(chosen.elements), len(xi), -1)
            means = np.einsum("eq,eqc->ec", weights, inner, optimize=True) / weights.sum(1)[:, None]
        if result is None:
            result = np.full((len(elements), means.shape[1]), np.nan)
        result[wanted[chosen.elements]] = means
    return result if result is not None else np.zeros((0, 1))


def _element_means(resolved: Resolved, source: Source, elements: Int) -> Float:
    return _take(resolved, _mean_components(resolved, source, elements))


def _at_samples(resolved: Resolved, source: Source, place: AtSamples) -> Float:
    """Values inside elements: corner components interpolated with the element's functions, then the measure."""
    mesh, field = source.mesh, resolved.field
    averaging = resolved.reading.averaging
    if field.location != "node" and averaging == "element":
        elements, back = np.unique(place.element, return_inverse=True)
        return _element_means(resolved, source, elements)[back]
    if field.location == "element" and averaging == "off" and resolved.reading.of == "value":
        return _take(resolved, _first(resolved, _rows(source, field.name, resolved.reading.step, place.element)))
    found = interpolation(mesh, place)
    return _take(resolved, found.matrix @ _corner_components(resolved, source, found.corners))


@dataclass(frozen=True, eq=False)
class Interpolation:
    """The elements' own shape functions at samples: matrix (samples, corners touched), and which corners those are."""

    corners: Int
    matrix: csr_matrix


def interpolation(mesh: Mesh, place: AtSamples) -> Interpolation:
    """Shape functions at samples; kept for the large sets that views are made of.

    Weights that are zero but for rounding are left out, so that a sample on a node does not lose its value to a neighbour
    that has none.
    """
    many = len(place.element) > FEW_SAMPLES
    return _kept_interpolation(mesh, place) if many else _interpolation(mesh, place)


@lru_cache(maxsize=8)
def _kept_interpolation(mesh: Mesh, place: AtSamples) -> Interpolation:
    return _interpolation(mesh, place)


def _interpolation(mesh: Mesh, place: AtSamples) -> Interpolation:
    touched = np.zeros(len(mesh.types), dtype=bool)
    touched[place.element] = True
    corners = mesh.corners_of(np.flatnonzero(touched))
    column = np.zeros(len(mesh.types), dtype=np.int64)
    column[touched] = np.concatenate([[0], np.cumsum(np.diff(mesh.offsets)[touched])])[:-1]
    rows, columns, weights = [], [], []
    types = mesh.types[place.element]
    for vtk in np.unique(types):
        cell = CELLS[int(vtk)]
        here = np.flatnonzero(types == vtk)
        shape = cell.shape(place.xi[here])
        at = column[place.element[here]][:, None] + np.arange(cell.size)
        keep = np.abs(shape) > 1e-12
        rows.append(np.broadcast_to(here[:, None], shape.shape)[keep])
        columns.append(at[keep])
        weights.append(shape[keep])
    size = (len(place.element), len(corners))
    if not rows:
        return Interpolation(corners, csr_matrix(size))
    parts = (np.concatenate(weights), (np.concatenate(rows), np.concatenate(columns)))
    return Interpolation(corners, csr_matrix(parts, shape=size))


def positions(mesh: Mesh, place: AtSamples, nodal: NDArray[np.floating] | None = None) -> Float:
    """Coordinates of samples, (n, 3), or of any nodal vector given instead, by the elements' own interpolation."""
    nodal = mesh.points if nodal is None else nodal
    found = interpolation(mesh, place)
    result: Float = found.matrix @ np.asarray(nodal[mesh.connectivity[found.corners]], dtype=np.float64)
    return result


@dataclass(frozen=True)
class Extreme:
    """A highest or lowest value and where it is; element, node are positions, -1 where it has none."""

    value: float
    element: int
    node: int
    xyz: tuple[float, float, float]


def extremes(reading: Reading, source: Source) -> tuple[Values, Extreme | None, Extreme | None]:
    """Lowest and highest over the region: at corners, at nodes of a nodal field, at elements of an element field."""
    resolved = resolve(reading, source)
    if (
        reading.of == "value"
        and resolved.field.location != "node"
        and (reading.averaging == "element" or (resolved.field.location == "element" and reading.averaging == "off"))
    ):
        values = evaluate(reading, source, AtElements(np.arange(len(source.mesh.types))))
    else:
        values = evaluate(reading, source, AtCorners())
    if not values.valid.any():
        return values, None, None
    return values, _extreme(values, source.mesh, np.nanargmin), _extreme(values, source.mesh, np.nanargmax)


def _extreme(values: Values, mesh: Mesh, pick: Any) -> Extreme:
    index = int(pick(values.values))
    element, node = int(values.element[index]), int(values.node[index])
    at = mesh.points[node] if node >= 0 else element_centre(mesh, element)
    return Extreme(float(values.values[index]), element, node, (float(at[0]), float(at[1]), float(at[2])))


def element_centre(mesh: Mesh, element: int) -> Float:
    cell = CELLS[int(mesh.types[element])]
    centre: Float = positions(mesh, AtSamples(np.array([element]), cell.centre))[0]
    return centre


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
    within = [spread(values.values[parts == p]) for p in np.unique(parts)]
    return Meeting(values, spread(values.values), max(within, default=float("nan")))


REDUCTIONS: dict[str, Callable[[Float], Any]] = {"sum": np.nansum, "mean": np.nanmean, "max": np.nanmax, "min": np.nanmin}


def trace(
    reading: Reading, source: Source, nodes: Int, reduce: str | None = None, steps: Iterable[int] | None = None
) -> tuple[Int, Float, Resolved]:
    """A reading at nodes followed through the steps: step indices (s,) and values (s,), reduced over the nodes.

    A trace needs one number a step. Where several elements meet at the node and nothing is averaged there is none.
    """
    if reduce is not None and reduce not in REDUCTIONS:
        raise Impossible(f"'{reduce}' is not a way to reduce a set.", f"Choose one of: {', '.join(REDUCTIONS)}.")
    chosen = np.array(list(range(len(source.steps)) if steps is None else steps), dtype=np.int64)
    resolved = resolve(reading, source)
    if reduce == "sum" and resolved.field.location != "node":
        raise Impossible(
            f"A sum over a set has no meaning for '{resolved.field.name}', which lives at {resolved.field.location}s.",
            "Take the mean, max or min, or sum a nodal field such as a reaction.",
        )
    result = np.full(len(chosen), np.nan)
    for i, step in enumerate(chosen):
        answer = evaluate(reading.at(int(step)), source, AtNodes(nodes))
        if not len(answer.values) or np.isnan(answer.values).all():
            continue
        if reduce is not None:
            result[i] = REDUCTIONS[reduce](answer.values)
        elif len(answer.values) == 1:
            result[i] = answer.values[0]
        else:
            raise Impossible(
                f"{len(answer.values)} values meet there and nothing is averaged, so a trace has no single number.",
                "Average (element values cannot be), name one node of one element, or reduce by mean, max or min.",
            )
    return chosen, result, resolved
