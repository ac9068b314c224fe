"""The one evaluator: a reading at some places gives values. Contours, flags, traces and profiles all come through here.

Inside an element the components are interpolated with the element's own functions and the measure is taken after. With
averaging on, ``order`` says whether components are averaged first or the measure. Axes that belong to elements are turned into
before anything is averaged; axes that vary from place to place where the components are told, and so also at every integration
point of an element's mean.
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
from ironstone.core.axes import element_axes, oriented, rotate
from ironstone.core.cells import CELLS, Cell
from ironstone.core.errors import Impossible, NotFound
from ironstone.core.fields import Source, constants_of
from ironstone.core.gauss import extrapolation, gauss_points, known_counts
from ironstone.core.mesh import Float, Int, Mesh, quadrature_weights
from ironstone.core.reading import GROUPED, Reading, Resolved, Values, resolve
from ironstone.core.recover import energies


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
class AtGauss:
    """The Gauss points of some elements, for a field that has them: one answer for each, as the file holds it."""

    elements: Int


@dataclass(frozen=True, eq=False)
class AtSamples:
    """Places inside elements: element (n,) and natural coordinates (n, 3)."""

    element: Int
    xi: Float


@dataclass(frozen=True, eq=False)
class _TheseCorners:
    corners: Int


FEW_SAMPLES = 64
Place = AtNodes | AtElements | AtCorners | AtGauss | AtSamples
Tell = Callable[[float, str], None]


def evaluate(reading: Reading, source: Source, place: Place, tell: Tell | None = None) -> Values:
    """Answer a reading at places. Raises IronstoneError when the reading or a place has no meaning in this result.

    ``tell(share, text)`` hears how far a reading over many steps has come, and may raise to stop it.
    """
    resolved = resolve(reading, source)
    if resolved.against is None and reading.over == "step":
        return _at_one_step(resolved, source, place)
    flat, offsets = _same_places(resolved, source, place)
    if resolved.against is None:
        values = _over_steps(resolved, source, flat, tell)
    else:
        half = None if tell is None else (lambda share, text: tell(share / 2, text))
        rest = None if tell is None else (lambda share, text: tell(0.5 + share / 2, text))
        values = evaluate(replace(resolved.reading, against=None), source, flat, half)
        other = evaluate(resolved.against.reading, source, flat, rest)
        values = replace(values, values=values.values - other.values)
    if offsets is not None:
        values = replace(values, offsets=offsets)
    return replace(values, resolved=resolved, caveats=caveats(resolved, source, values.values))


def _same_places(resolved: Resolved, source: Source, place: Place) -> tuple[Any, Int | None]:
    """Places that have as many answers whatever the reading: the corners that meet at nodes in place of the nodes."""
    fields = [resolved.field] + ([resolved.against.field] if resolved.against else [])
    if not isinstance(place, AtNodes) or all(f.location == "node" for f in fields):
        return place, None
    meeting = [source.mesh.corners_at(int(n)) for n in place.nodes]
    offsets = np.concatenate([[0], np.cumsum([len(c) for c in meeting])]).astype(np.int64)
    return _TheseCorners(np.concatenate(meeting) if meeting else np.zeros(0, dtype=np.int64)), offsets


def _over_steps(resolved: Resolved, source: Source, place: Any, tell: Tell | None) -> Values:
    """The largest (smallest, of largest magnitude) over a span of steps, or at which step; one step in memory at a time."""
    plain = replace(resolved.reading, over="step", when=False, unit=resolved.unit if not resolved.reading.when else None)
    best: Values | None = None
    when = np.zeros(0)
    steps = resolved.span
    for count, step in enumerate(steps):
        if tell is not None:
            tell(count / len(steps), f"step {count + 1} of {len(steps)}")
        now = _at_one_step(resolve(plain.at(step), source), source, place)
        if best is None:
            best, when = now, np.where(np.isnan(now.values), np.nan, source.steps[step].value)
            held = best.values.copy()
            continue
        with np.errstate(invalid="ignore"):
            beyond = {
                "largest": now.values > held,
                "smallest": now.values < held,
                "magnitude": np.abs(now.values) > np.abs(held),
            }[resolved.reading.over]
        beyond |= np.isnan(held) & ~np.isnan(now.values)
        held = np.where(beyond, now.values, held)
        when = np.where(beyond, source.steps[step].value, when)
    assert best is not None
    return replace(best, values=when if resolved.reading.when else held)


def _at_one_step(resolved: Resolved, source: Source, place: Any) -> Values:
    mesh = source.mesh
    inside = region_elements(mesh, resolved.reading.region)
    if isinstance(place, AtNodes) and resolved.reading.of != "error":
        return _at_nodes(resolved, source, place.nodes, inside)
    node = np.zeros(0, dtype=np.int64)
    if isinstance(place, AtGauss):
        return _at_gauss(resolved, source, place, inside)
    if isinstance(place, AtElements):
        element = place.elements
        values = _element_means(resolved, source, element)
    elif isinstance(place, AtSamples):
        element = place.element
        values = _at_samples(resolved, source, place)
    else:
        if isinstance(place, AtNodes):
            corners = np.concatenate([mesh.corners_at(int(n)) for n in place.nodes])
        elif isinstance(place, _TheseCorners):
            corners = place.corners
        elif place.elements is None:
            corners = np.arange(len(mesh.connectivity))
        else:
            corners = mesh.corners_of(place.elements)
        element, node = mesh.corner_element[corners], mesh.connectivity[corners]
        values = _corner_values(resolved, source, corners)
    values = np.where(inside[element], values, np.nan)
    return _one_each(resolved, source, values, element, node if len(node) else np.full(len(values), -1))


def region_elements(mesh: Mesh, region: str) -> NDArray[np.bool_]:
    """Which elements a region holds, (elements,)."""
    kind, _, name = region.partition(":")
    if region == "all":
        return np.ones(len(mesh.types), dtype=bool)
    if kind == "part" and name in mesh.part_names:
        return np.asarray(mesh.part == mesh.part_names.index(name))
    if kind == "material" and name in mesh.material_or_part_names:
        return np.asarray(mesh.material_or_part == mesh.material_or_part_names.index(name))
    if kind == "set" and name in mesh.element_sets:
        chosen = np.zeros(len(mesh.types), dtype=bool)
        chosen[mesh.element_sets[name]] = True
        return chosen
    raise NotFound(
        f"There is no region '{region}' in this result.",
        f"Parts: {', '.join(mesh.part_names)}. Element sets: {', '.join(mesh.element_sets) or 'none'}.",
    )


def _one_each(resolved: Resolved, source: Source, values: Float, element: Int, node: Int) -> Values:
    return Values(values, np.arange(len(values) + 1), element, node, resolved, caveats(resolved, source, values))


def caveats(resolved: Resolved, source: Source, values: Float) -> list[str]:
    """What must be said beside these values: the reading's own caveats, and what the numbers themselves give away."""
    notes = resolved.caveats
    if resolved.field.kind == "plastic strain" and resolved.field.rank == "scalar" and len(values):
        low, high = np.nanmin(values, initial=0.0), np.nanmax(values, initial=0.0)
        if low < -1e-6 * max(high, 1e-30):
            notes.append("Extrapolated to the corners before import: an equivalent plastic strain below zero is not real.")
    if len(values) and np.isnan(values).any():
        notes.append(f"No value {'here' if len(values) == 1 else 'at some places'}: {_why_missing(resolved, source)}.")
    return notes


def _why_missing(resolved: Resolved, source: Source) -> str:
    """The likeliest reasons a value is missing, most certain first."""
    reading, field = resolved.reading, resolved.field
    if reading.region != "all":
        return f"the reading is of {resolved.words['region']} alone"
    if any(n in ("young", "poisson") for n in resolved.measure.needs) or reading.of == "error":
        return "no material constants are stated there"
    if field.recovered and source.mesh.planar and resolved.measure.direction not in (0, 1, 3):
        return "the strain across a planar model is not known until its model and Poisson's ratio are stated"
    if field.flat:
        return "the file leaves the third direction out, and the model and Poisson's ratio that give it are not stated"
    if resolved.axes.kind in ("cylindrical", "spherical"):
        return "the file has none, or the place lies on the axis itself"
    if resolved.measure.name in ("triaxiality", "lode-angle"):
        return "the file has none, or nothing distorts there"
    return "the file has none"


def _take(resolved: Resolved, source: Source, components: NDArray[np.floating], element: Int | None, points: Any) -> Float:
    """The measure of components (n, c), in the reading's unit. Components already turned into the measure pass through.

    element: (n,) the rows' elements, None where they have none; points: a function that gives the rows' places (n, 3).
    """
    exact: Float = np.asarray(components, dtype=np.float64)
    if resolved.reading.of != "value":
        # Shape functions of quadratic elements dip between nodes, and a jump is never below zero.
        return np.maximum(exact[..., 0], 0.0) * resolved.factor
    if _measure_first(resolved):
        return exact[..., 0] * resolved.factor
    return _measured(resolved, source, exact, element, points) * resolved.factor


def _measured(resolved: Resolved, source: Source, components: Float, element: Int | None, points: Any) -> Float:
    """Turn into axes that vary from place to place, where the measure tells them apart, then take the measure."""
    measure = resolved.measure
    if resolved.by_place and (measure.direction is not None or "plane" in measure.needs):
        components = rotate(components, resolved.axes.at(points()))
    more: dict[str, Any] = {}
    if "plane" in measure.needs:
        normal = np.array(resolved.reading.plane, dtype=np.float64)
        more["normal"] = normal / np.linalg.norm(normal)
    if "young" in measure.needs or "poisson" in measure.needs:
        more |= _constants(resolved, source, element)
    values: Float = measure.function(components, **more)
    return values


def _constants(resolved: Resolved, source: Source, element: Int | None) -> dict[str, Float]:
    tables = dict(zip(("young", "poisson"), constants_of(source.mesh, source.setup), strict=True))
    wanted = {name: tables[name] for name in resolved.measure.needs}
    if element is not None:
        return {name: table[element] for name, table in wanted.items()}
    if any(len(np.unique(table)) > 1 for table in wanted.values()):
        raise Impossible(
            f"'{resolved.measure.label}' at a node needs one material there, and this result has several.",
            "Read it at elements or corners.",
        )
    return {name: table[:1] for name, table in wanted.items()}


def _measure_first(resolved: Resolved) -> bool:
    return resolved.reading.order == "measure" and resolved.reading.averaging in ("part", "material", "all", "element")


def _corner_points(mesh: Mesh, corners: Int) -> Callable[[], Float]:
    return lambda: mesh.points[mesh.connectivity[corners]]


def _corner_values(resolved: Resolved, source: Source, corners: Int) -> Float:
    """The reading at some corners."""
    mesh = source.mesh
    element = mesh.corner_element[corners]
    if resolved.reading.of == "error":
        return _errors(resolved, source)[element] * resolved.factor
    if resolved.reading.averaging == "element":
        elements, back = np.unique(element, return_inverse=True)
        return _element_means(resolved, source, elements)[back]
    components = _corner_components(resolved, source, corners)
    return _take(resolved, source, components, element, _corner_points(mesh, corners))


def _corner_components(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Components at some corners after averaging (or the measure, when that is taken first)."""
    mesh = source.mesh
    averaging = resolved.reading.averaging
    if resolved.reading.of != "value":
        return _corner_jumps(resolved, source, corners)
    if resolved.field.location == "node" or averaging == "off":
        return _first(resolved, source, _raw_corners(resolved, source, corners), corners)
    operator = averaging_operator(resolved, mesh)
    every = np.arange(len(mesh.connectivity))
    if corners is operator.first:
        return operator.means(_first(resolved, source, _raw_corners(resolved, source, every), every))
    if 2 * len(corners) > len(mesh.connectivity):
        averaged = operator(_first(resolved, source, _raw_corners(resolved, source, every), every))
        asked: Float = averaged if len(corners) == len(every) and bool((corners == every).all()) else averaged[corners]
        return asked
    part, needed = operator.some(corners)
    averaged = part(_first(resolved, source, _raw_corners(resolved, source, needed), needed))
    chosen: Float = averaged[np.searchsorted(needed, corners)]
    return chosen


def averaging_operator(resolved: Resolved, mesh: Mesh) -> CornerAveraging:
    """The operator of a reading's averaging; kept, since building it costs more than using it."""
    reading = resolved.reading
    name = {"jump": "all", "jump-within-material": "material", "error": "material"}.get(reading.of, reading.averaging)
    fold = 180.0 if name == "all" else reading.fold
    return _operator(mesh, name, reading.weight, fold)


@lru_cache(maxsize=6)
def _operator(mesh: Mesh, name: str, weight: str, fold: float) -> CornerAveraging:
    return corner_averaging(mesh, name, weight, fold)


def _corner_jumps(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Spread of the measure at the node of each corner between the elements that meet there, (corners, 1)."""
    operator = averaging_operator(resolved, source.mesh)
    slots, back = np.unique(operator.slot[corners], return_inverse=True)
    rows = operator.gather[slots]
    meeting = rows.indices.astype(np.int64)
    components = _raw_corners(resolved, source, meeting)
    raw = _measured(resolved, source, components, source.mesh.corner_element[meeting], _corner_points(source.mesh, meeting))
    begins = rows.indptr[:-1]
    with np.errstate(invalid="ignore"):
        spreads = np.fmax.reduceat(raw, begins) - np.fmin.reduceat(raw, begins)
    jumps: Float = spreads[back][:, None]
    return jumps


def _first(resolved: Resolved, source: Source, components: Float, corners: Int) -> Float:
    """Take the measure now, at corners, when the reading asks for it before averaging."""
    if not _measure_first(resolved):
        return components
    mesh = source.mesh
    exact = np.asarray(components, dtype=np.float64)
    return _measured(resolved, source, exact, mesh.corner_element[corners], _corner_points(mesh, corners))[:, None]


def _raw_corners(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Components at corners as they are, turned into the elements' own axes where those are asked for."""
    field, step, mesh = resolved.field, resolved.reading.step, source.mesh
    if field.location == "corner":
        raw = _rows(source, field.name, step, corners)
    elif field.location == "node":
        raw = _rows(source, field.name, step, mesh.connectivity[corners])
    elif field.location == "gauss":
        raw = _from_gauss(resolved, source, corners)
    else:
        raw = _rows(source, field.name, step, mesh.corner_element[corners])
    if resolved.by_element:
        raw = rotate(raw, _element_rows(source, resolved.axes.kind)[mesh.corner_element[corners]])
    return raw


def corner_components(source: Source, field: str, step: int, corners: Int) -> Float:
    """A field's components as they are at some corners, (corners, c), wherever the field lives; Gauss points extrapolated."""
    return _raw_corners(resolve(Reading(field, step=step), source), source, corners)


def _element_rows(source: Source, kind: str) -> Float:
    if kind == "element":
        return _own_axes(source.mesh)
    return oriented(source.mesh, source.values(source.setup.orientation, 0))


@lru_cache(maxsize=4)
def _own_axes(mesh: Mesh) -> Float:
    return element_axes(mesh)


def _gauss_rows(resolved: Resolved, source: Source, elements: Int) -> Float:
    """Values at Gauss points, (elements, points, components)."""
    field = resolved.field
    table = _rows(source, field.name, resolved.reading.step, elements)
    return table.reshape(len(elements), field.points, -1)


def _gauss_count(cell: Cell, table: Float) -> int:
    """How many points the elements of a shape have: a column that is empty for all of them belongs to other shapes."""
    there = ~np.isnan(table).all(axis=(0, 2))
    count = int(np.flatnonzero(there)[-1]) + 1 if there.any() else table.shape[1]
    return count


def _from_gauss(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Components at corners, extrapolated from the Gauss points with the functions of their grid; nothing is clipped."""
    mesh = source.mesh
    elements, back = np.unique(mesh.corner_element[corners], return_inverse=True)
    table = _gauss_rows(resolved, source, elements)
    local = corners - mesh.offsets[mesh.corner_element[corners]]
    result = np.full((len(corners), table.shape[2]), np.nan)
    types = mesh.types[elements]
    for vtk in np.unique(types):
        cell = CELLS[int(vtk)]
        mine = types == vtk
        count = _gauss_count(cell, table[mine])
        known = count in known_counts(cell)
        outward = extrapolation(cell, count) if known else np.full((cell.size, count), 1.0 / count)
        at_nodes = np.full((len(elements), cell.size, table.shape[2]), np.nan)
        at_nodes[mine] = np.einsum("np,epc->enc", outward, table[mine][:, :count], optimize=True)
        here = mine[back]
        result[here] = at_nodes[back[here], local[here]]
    return result


def _at_gauss(resolved: Resolved, source: Source, place: AtGauss, inside: NDArray[np.bool_]) -> Values:
    """Each Gauss point's own value, nothing extrapolated."""
    mesh = source.mesh
    if resolved.field.location != "gauss":
        raise Impossible(
            f"'{resolved.field.name}' lives at {resolved.field.location}s: it has no Gauss points.", "Read it at elements or nodes."
        )
    if resolved.reading.of != "value" or resolved.reading.averaging != "off":
        raise Impossible("Gauss points are read as computed.", "Set averaging to off, and read the value itself.")
    values, element, counts = [], [], []
    for e in place.elements:
        cell = CELLS[int(mesh.types[e])]
        table = _gauss_rows(resolved, source, np.array([e]))
        count = _gauss_count(cell, table)
        rows = table[0, :count]
        if resolved.by_element:
            rows = rotate(rows, np.repeat(_element_rows(source, resolved.axes.kind)[[e]], count, axis=0))
        owner = np.full(count, e, dtype=np.int64)
        points = _gauss_places(mesh, int(e), cell, count)
        told = _take(resolved, source, rows, owner, lambda points=points: points)
        values.append(np.where(inside[e], told, np.nan))
        element.append(owner)
        counts.append(count)
    flat = np.concatenate(values)
    offsets = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
    node = np.full(len(flat), -1)
    there = replace(resolved, at_points=True)
    return Values(flat, offsets, np.concatenate(element), node, there, caveats(there, source, flat))


def _gauss_places(mesh: Mesh, element: int, cell: Cell, count: int) -> Float:
    if count not in known_counts(cell):
        return np.full((count, 3), np.nan)
    xi = gauss_points(cell, count)
    return positions(mesh, AtSamples(np.full(count, element), xi))


def _rows(source: Source, field: str, step: int, entities: Int) -> Float:
    """A few rows by seeking, many by reading the step once."""
    if len(entities) <= 4096:
        unique, back = np.unique(entities, return_inverse=True)
        if len(unique) <= 512:
            few: Float = np.asarray(source.rows(field, step, unique), dtype=np.float64)[back]
            return few
    whole = source.values(field, step)
    if len(entities) == len(whole) and bool((entities == np.arange(len(whole))).all()):
        return np.asarray(whole, dtype=np.float64)
    many: Float = np.asarray(whole[entities], dtype=np.float64)
    return many


def _at_nodes(resolved: Resolved, source: Source, nodes: Int, inside: NDArray[np.bool_]) -> Values:
    mesh = source.mesh
    if resolved.field.location == "node":
        if resolved.by_element:
            raise Impossible(
                f"'{resolved.field.name}' has one value at a node, where several elements meet, each with axes of its own.",
                "Read it inside an element, or choose other axes.",
            )
        raw = _rows(source, resolved.field.name, resolved.reading.step, nodes)
        if _measure_first(resolved):
            raw = _measured(resolved, source, raw, None, lambda: mesh.points[nodes])[:, None]
        values = _take(resolved, source, raw, None, lambda: mesh.points[nodes])
        return _one_each(resolved, source, values, np.full(len(nodes), -1), nodes)
    meeting = [mesh.corners_at(int(n)) for n in nodes]
    meeting = [c[inside[mesh.corner_element[c]]] for c in meeting]
    corners = np.concatenate(meeting) if meeting else np.zeros(0, dtype=np.int64)
    values = _corner_values(resolved, source, corners)
    offsets = np.concatenate([[0], np.cumsum([len(c) for c in meeting])]).astype(np.int64)
    element, node = mesh.corner_element[corners], mesh.connectivity[corners]
    if resolved.reading.averaging in ("part", "material", "all") or resolved.reading.of != "value":
        # One answer for each group that meets there, not one for each element.
        slot = averaging_operator(resolved, mesh).slot[corners]
        keep = [np.unique(slot[a:b], return_index=True)[1] + a for a, b in zip(offsets[:-1], offsets[1:], strict=True)]
        offsets = np.concatenate([[0], np.cumsum([len(k) for k in keep])]).astype(np.int64)
        chosen = np.concatenate(keep) if keep else np.zeros(0, dtype=np.int64)
        values, element, node = values[chosen], element[chosen], node[chosen]
    return Values(values, offsets, element, node, resolved, caveats(resolved, source, values))


def _mean_components(resolved: Resolved, source: Source, elements: Int) -> Float:
    """Volume mean of the components (or of the measure, taken first) over each element, (elements, c)."""
    mesh = source.mesh
    wanted = np.full(len(mesh.types), -1, dtype=np.int64)
    wanted[elements] = np.arange(len(elements))
    result: Float | None = None
    turned = source.setup.model == "axisymmetric" and mesh.planar
    for block in mesh.blocks:
        here = wanted[block.elements] >= 0
        for chosen in block.some(here).pieces():
            flat = chosen.corners.ravel()
            at = _raw_corners(resolved, source, flat).reshape(*chosen.corners.shape, -1)
            xi, _ = block.cell.quadrature
            weights = quadrature_weights(mesh, chosen, turned)
            shape = block.cell.shape(xi)
            inner = np.einsum("qn,enc->eqc", shape, at, optimize=True).reshape(-1, at.shape[2])
            points = _inner_points(mesh, shape, chosen.nodes)
            if _measure_first(resolved):
                inner = _measured(resolved, source, inner, np.repeat(chosen.elements, len(xi)), points)[:, None]
            elif resolved.by_place:
                inner = rotate(inner, resolved.axes.at(points()))
            inner = inner.reshape(len(chosen.elements), len(xi), -1)
            means = np.einsum("eq,eqc->ec", weights, inner, optimize=True) / weights.sum(1)[:, None]
            if result is None:
                result = np.full((len(elements), means.shape[1]), np.nan)
            result[wanted[chosen.elements]] = means
    return result if result is not None else np.zeros((0, 1))


def _inner_points(mesh: Mesh, shape: Float, nodes: Int) -> Callable[[], Float]:
    return lambda: np.einsum("qn,enx->eqx", shape, mesh.points[nodes], optimize=True).reshape(-1, 3)


def _element_means(resolved: Resolved, source: Source, elements: Int) -> Float:
    if resolved.reading.of == "error":
        return _errors(resolved, source)[elements] * resolved.factor
    if resolved.field.location == "element" and not resolved.by_place:
        raw = _rows(source, resolved.field.name, resolved.reading.step, elements)
        if resolved.by_element:
            raw = rotate(raw, _element_rows(source, resolved.axes.kind)[elements])
        return _measured(resolved, source, raw, elements, None) * resolved.factor
    # Components come back told in the axes: nothing is left to turn.
    settled = replace(resolved, by_place=False)
    return _take(settled, source, _mean_components(resolved, source, elements), elements, None)


def _at_samples(resolved: Resolved, source: Source, place: AtSamples) -> Float:
    """Values inside elements: corner components interpolated with the element's functions, then the measure."""
    mesh, field = source.mesh, resolved.field
    averaging = resolved.reading.averaging
    if resolved.reading.of == "error":
        return _errors(resolved, source)[place.element] * resolved.factor
    if averaging == "element":
        elements, back = np.unique(place.element, return_inverse=True)
        return _element_means(resolved, source, elements)[back]

    def points() -> Float:
        return positions(mesh, place)

    if field.location == "element" and averaging == "off" and resolved.reading.of == "value":
        if not resolved.by_place:
            # Every sample of an element has the same answer: it is worked out once.
            elements, back = _distinct_elements(place)
            return _element_means(resolved, source, elements)[back]
        raw = _rows(source, field.name, resolved.reading.step, place.element)
        return _take(resolved, source, raw, place.element, points)
    found = interpolation(mesh, place)
    components = _corner_components(resolved, source, found.corners)
    if field.names:
        nearest = np.asarray(found.matrix.argmax(axis=1)).ravel()
        return _take(resolved, source, components[nearest], place.element, points)
    return _take(resolved, source, found.matrix @ components, place.element, points)


@lru_cache(maxsize=8)
def _distinct_elements(place: AtSamples) -> tuple[Int, Int]:
    elements, back = np.unique(place.element, return_inverse=True)
    return elements, back


@dataclass(frozen=True)
class ErrorEstimate:
    """Energy norm of the error of a stress: of each element as a share of the mean energy density, and in total.

    elements: sqrt(e_i / v_i) / sqrt((u + e) / v), a pure number; total: sqrt(e / (u + e)), its root mean square by volume.
    """

    elements: Float
    total: float
    error_norm: float
    energy_norm: float


def error_estimate(reading: Reading, source: Source) -> ErrorEstimate:
    """Zienkiewicz and Zhu (1987): the energy norm of (recovered - raw) stress, recovered by averaging within a material."""
    resolved = resolve(replace(reading, of="error"), source)
    return _estimate(source, resolved.field.name, resolved.reading.step, resolved.reading.weight, resolved.reading.fold)


@lru_cache(maxsize=4)
def _estimate(source: Source, field: str, step: int, weight: str, fold: float) -> ErrorEstimate:
    mesh = source.mesh
    resolved = resolve(Reading(field, step=step, weight=weight, fold=fold, of="error"), source)
    plain = replace(resolved, reading=replace(resolved.reading, of="value"))
    raw = np.asarray(_raw_corners(plain, source, np.arange(len(mesh.connectivity))), dtype=np.float64)
    smooth = averaging_operator(resolved, mesh)(raw)
    turned = source.setup.model == "axisymmetric" and mesh.planar
    error, energy, volume = energies(mesh, raw, smooth, *constants_of(mesh, source.setup), turned).T
    there = np.isfinite(error) & np.isfinite(energy)
    e, u, v = error[there].sum(), energy[there].sum(), volume[there].sum()
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.sqrt(error / volume) / np.sqrt((u + e) / v) if there.any() else np.full(len(error), np.nan)
    total = float(np.sqrt(e / (u + e))) if u + e > 0.0 else float("nan")
    return ErrorEstimate(share, total, float(np.sqrt(e)), float(np.sqrt(u)))


def _errors(resolved: Resolved, source: Source) -> Float:
    r = resolved.reading
    return _estimate(source, resolved.field.name, r.step, r.weight, r.fold).elements


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
        shape = _shapes(cell, place.xi[here])
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


def _shapes(cell: Cell, xi: Float) -> Float:
    """Shape functions at samples; those of a view repeat a few places in every face, which are then worked out once."""
    key = xi @ np.array([1.0, np.sqrt(2.0), np.sqrt(3.0)])
    distinct, first, back = np.unique(key, return_index=True, return_inverse=True)
    if 4 * len(distinct) < len(xi) and bool((xi[first][back] == xi).all()):
        few: Float = cell.shape(xi[first])[back]
        return few
    return cell.shape(xi)


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
        values = _at_one_step(resolved, source, _TheseCorners(averaging_operator(resolved, source.mesh).first))
    else:
        values = evaluate(reading, source, AtCorners(), tell)
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
    return Meeting(values, *jumps(values.values, parts))


def jumps(values: Float, materials: NDArray[np.integer]) -> tuple[float, float]:
    """Highest less lowest of the values that meet at a place, over all of them, and the largest within one material (part)."""
    within = [spread(values[materials == m]) for m in np.unique(materials)]
    return spread(values), max(within, default=float("nan"))


REDUCTIONS: dict[str, Callable[[Float], Any]] = {"sum": np.nansum, "mean": np.nanmean, "max": np.nanmax, "min": np.nanmin}


@dataclass(frozen=True, eq=False)
class Trace:
    """A reading followed through steps (s,): values (s,), and where over a set the largest or smallest is: node positions (s,), or
    None where the trace is not one of an extreme."""

    steps: Int
    values: Float
    resolved: Resolved
    node: Int | None = None


def trace(reading: Reading, source: Source, place: Place, reduce: str | None = None, steps: Iterable[int] | None = None) -> Trace:
    """A reading at one place followed through the steps, or reduced over several: sum, mean, max or min.

    A trace needs one number a step. Where several elements meet at a node and nothing is averaged there is none.
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
    where = np.full(len(chosen), -1, dtype=np.int64)
    extreme = {"max": np.nanargmax, "min": np.nanargmin}.get(reduce or "")

    def reduced(i: int, values: Float, nodes: Int) -> None:
        if np.isnan(values).all():
            return
        result[i] = REDUCTIONS[reduce or "mean"](values)
        if extreme is not None:
            where[i] = nodes[extreme(values)]

    plainly = resolved.field.location == "node" and reading.over == "step" and resolved.against is None and not resolved.by_element
    if isinstance(place, AtNodes) and plainly and (reduce is not None or len(place.nodes) == 1):
        table = source.history(resolved.field.name, chosen, place.nodes)
        flat = np.asarray(table.reshape(-1, table.shape[2]), dtype=np.float64)
        plain = replace(resolved, reading=replace(resolved.reading, averaging="off"))
        told = _take(plain, source, flat, None, lambda: np.tile(source.mesh.points[place.nodes], (len(chosen), 1)))
        for i, row in enumerate(told.reshape(len(chosen), len(place.nodes))):
            reduced(i, row, place.nodes)
        return Trace(chosen, result, resolved, None if extreme is None else where)
    for i, step in enumerate(chosen):
        answer = evaluate(reading.at(int(step)), source, place)
        if not len(answer.values):
            continue
        if reduce is None and len(answer.values) > 1:
            raise Impossible(
                f"{len(answer.values)} values meet there and nothing is averaged, so a trace has no single number.",
                "Average (element values cannot be), name one node of one element, or reduce by mean, max or min.",
            )
        reduced(i, answer.values, answer.node)
    return Trace(chosen, result, resolved, None if extreme is None else where)


def trace_at_gauss(reading: Reading, source: Source, element: int, point: int) -> Trace:
    """One Gauss point of an element (by position), numbered from 1, followed through all steps."""
    chosen = np.arange(len(source.steps))
    values = np.full(len(chosen), np.nan)
    for i, step in enumerate(chosen):
        told = evaluate(reading.at(int(step)), source, AtGauss(np.array([element]))).values
        if not 1 <= point <= len(told):
            raise Impossible(f"That element has no Gauss point {point}.", f"They run from 1 to {len(told)}.")
        values[i] = told[point - 1]
    return Trace(chosen, values, replace(resolve(reading, source), at_points=True))
