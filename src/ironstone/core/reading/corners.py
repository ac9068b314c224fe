"""Components and measures at the corners of elements: as they are, averaged at nodes, or how far they jump there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.axes import element_axes, oriented, rotate
from ironstone.core.field.constants import CONSTANTS
from ironstone.core.field.fields import Source, constants_of, rows_of
from ironstone.core.field.gauss_fields import extrapolated
from ironstone.core.kept import kept_with
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.reading.averaging import CornerAveraging, SlotMeans, corner_averaging
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Resolved
from ironstone.core.wanted import still_wanted


def take_measure(resolved: Resolved, source: Source, components: NDArray[np.floating], element: Int | None, points: Any) -> Float:
    """The measure of components (n, c), in the reading's unit. Components already turned into the measure pass through.

    element: (n,) the rows' elements, None where they have none; points: a function that gives the rows' places (n, 3).
    """
    exact: Float = np.asarray(components, dtype=np.float64)
    if resolved.reading.of != "value":
        # Shape functions of quadratic elements dip between nodes, and a jump is never below zero.
        return resolved.scaled(np.maximum(exact[..., 0], 0.0))
    if measure_first(resolved):
        return resolved.scaled(exact[..., 0])
    return resolved.scaled(measured(resolved, source, exact, element, points))


def measured(resolved: Resolved, source: Source, components: Float, element: Int | None, points: Any) -> Float:
    """Turn into axes that vary from place to place, where the measure tells them apart, then take the measure."""
    measure = resolved.measure
    if resolved.by_place and (measure.direction is not None or "plane" in measure.needs):
        components = rotate(components, resolved.axes.at(points()))
    more: dict[str, Any] = {}
    if "plane" in measure.needs:
        normal = np.array(resolved.reading.plane, dtype=np.float64)
        more["normal"] = normal / np.linalg.norm(normal)
    more |= _constants(resolved, source, element)
    values: Float = measure.function(components, **more)
    return values


def _constants(resolved: Resolved, source: Source, element: Int | None) -> dict[str, Float]:
    names = [name for name in resolved.measure.needs if name in CONSTANTS]
    wanted = dict(zip(names, constants_of(source.mesh, source.setup, *names), strict=True)) if names else {}
    if element is not None:
        return {name: table[element] for name, table in wanted.items()}
    if any(len(np.unique(table)) > 1 for table in wanted.values()):
        raise Impossible(
            f"'{resolved.measure.label}' at a node needs one material there, and this result has several.",
            "Read it at elements or corners.",
        )
    return {name: table[:1] for name, table in wanted.items()}


def measure_first(resolved: Resolved) -> bool:
    return resolved.reading.order == "measure" and resolved.reading.averaging in ("part", "material", "all", "element")


def corner_points(mesh: Mesh, corners: Int) -> Callable[[], Float]:
    return lambda: mesh.points[mesh.connectivity[corners]]


def averaged_components(resolved: Resolved, source: Source, corners: Int, means: SlotMeans | None = None) -> Float:
    """Components at some corners after averaging (or the measure, when that is taken first). means: those of each (node, group),
    where they are known already."""
    still_wanted()
    mesh = source.mesh
    averaging = resolved.reading.averaging
    if resolved.reading.of != "value":
        return _corner_jumps(resolved, source, corners)
    if averaging == "element":
        return raw_corners(resolved, source, corners)
    if resolved.field.location == "node" or averaging == "off":
        return _first(resolved, source, raw_corners(resolved, source, corners), corners)
    operator = averaging_operator(resolved, mesh)
    if means is not None or 2 * len(corners) > len(mesh.connectivity):
        found = group_means(resolved, source) if means is None else means
        shared: Float = found.means[operator.slot[corners]]
        if found.whole:
            return shared
        # A corner without a value keeps none.
        return np.where(np.isnan(_first(resolved, source, raw_corners(resolved, source, corners), corners)), np.nan, shared)
    part, needed = operator.some(corners)
    averaged = part(_first(resolved, source, raw_corners(resolved, source, needed), needed))
    chosen: Float = averaged[np.searchsorted(needed, corners)]
    return chosen


def group_means(resolved: Resolved, source: Source) -> SlotMeans:
    """The mean of each (node, group) of a reading's averaging, (slots, c), read a run of corners at a time."""

    def read(corners: Int) -> Float:
        return _first(resolved, source, raw_corners(resolved, source, corners), corners)

    return averaging_operator(resolved, source.mesh).means_of(read)


def averaging_operator(resolved: Resolved, mesh: Mesh) -> CornerAveraging:
    """The operator of a reading's averaging; kept, since building it costs more than using it."""
    reading = resolved.reading
    if reading.of.startswith("jump"):
        # Whatever meets there, bars at a joint and shells across a fold as well.
        return _meeting(mesh, "all" if reading.of == "jump" else "material")
    name = "material" if reading.of == "error" else reading.averaging
    fold = 180.0 if name == "all" else reading.fold
    return _operator(mesh, name, reading.weight, fold)


@kept_with(4)
def _meeting(mesh: Mesh, name: str) -> CornerAveraging:
    return corner_averaging(mesh, name, all_that_meets=True)


@kept_with(6)
def _operator(mesh: Mesh, name: str, weight: str, fold: float) -> CornerAveraging:
    return corner_averaging(mesh, name, weight, fold)


def _corner_jumps(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Spread of the measure at the node of each corner between the elements that meet there, (corners, 1)."""
    operator = averaging_operator(resolved, source.mesh)
    slots, back = np.unique(operator.slot[corners], return_inverse=True)
    meeting, begins = operator.corners_in(slots.astype(np.int64))
    components = raw_corners(resolved, source, meeting)
    raw = measured(resolved, source, components, source.mesh.owners(meeting), corner_points(source.mesh, meeting))
    with np.errstate(invalid="ignore"):
        spreads = np.fmax.reduceat(raw, begins) - np.fmin.reduceat(raw, begins)
    jumps: Float = spreads[back][:, None]
    return jumps


def _first(resolved: Resolved, source: Source, components: Float, corners: Int) -> Float:
    """Take the measure now, at corners, when the reading asks for it before averaging."""
    if not measure_first(resolved):
        return components
    mesh = source.mesh
    exact = np.asarray(components, dtype=np.float64)
    return measured(resolved, source, exact, mesh.owners(corners), corner_points(mesh, corners))[:, None]


def raw_corners(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Components at corners as they are, turned into the elements' own axes where those are asked for."""
    field, step, mesh = resolved.field, resolved.reading.step, source.mesh
    if field.location == "corner":
        raw = rows_of(source, field.name, step, corners)
    elif field.location == "node":
        raw = rows_of(source, field.name, step, mesh.connectivity[corners])
    elif field.location == "gauss":
        raw = _from_gauss(resolved, source, corners)
    else:
        raw = rows_of(source, field.name, step, mesh.owners(corners))
    if resolved.by_element:
        raw = rotate(raw, element_rows(source, resolved.axes.kind)[mesh.owners(corners)])
    return raw


def corner_components(source: Source, field: str, step: int, corners: Int) -> Float:
    """A field's components as they are at some corners, (corners, c), wherever the field lives; Gauss points extrapolated."""
    return raw_corners(resolve(Reading(field, step=step), source), source, corners)


def element_rows(source: Source, kind: str) -> Float:
    if kind == "element":
        return _own_axes(source.mesh)
    return oriented(source.mesh, source.values(source.setup.orientation, 0))


@kept_with(1)
def _own_axes(mesh: Mesh) -> Float:
    return element_axes(mesh)


def _from_gauss(resolved: Resolved, source: Source, corners: Int) -> Float:
    return extrapolated(source, resolved.field, resolved.reading.step, corners)
