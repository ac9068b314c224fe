"""The one evaluator: a reading at some places gives values. Contours, flags, traces and profiles all come through here.

Inside an element the components are interpolated with the element's own functions and the measure is taken after. With
averaging on, ``order`` says whether components are averaged first or the measure. Axes that belong to elements are turned into
before anything is averaged; axes that vary from place to place where the components are told, and so also at every integration
point of an element's mean.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.averaging import CornerAveraging, corner_averaging
from ironstone.core.axes import element_axes, oriented, rotate
from ironstone.core.cells import CELLS
from ironstone.core.errors import Impossible, NotFound
from ironstone.core.fields import Source, constants_of, rows_of
from ironstone.core.gauss import gauss_points, gauss_weights, known_counts
from ironstone.core.gauss_fields import extrapolated, gauss_count, gauss_places, gauss_rows, unplaced
from ironstone.core.interpolation import interpolation, positions
from ironstone.core.kept import kept_with
from ironstone.core.mesh import Block, Float, Int, Mesh, quadrature_weights
from ironstone.core.places import AtElements, AtGauss, AtNodes, AtSamples, Place, TheseCorners
from ironstone.core.reading import GROUPED, Reading, Resolved, Values, resolve
from ironstone.core.recover import energies

Tell = Callable[[float, str], None]


def evaluate(reading: Reading, source: Source, place: Place, tell: Tell | None = None) -> Values:
    """Answer a reading at places. Raises IronstoneError when the reading or a place has no meaning in this result.

    ``tell(share, text)`` hears how far a reading over many steps has come, and may raise to stop it.
    """
    resolved = resolve(reading, source)
    if resolved.against is None and reading.over == "step":
        return at_one_step(resolved, source, place)
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
    said = said_at(resolved, place)
    return replace(values, resolved=said, caveats=caveats(said, source, values.values))


def said_at(resolved: Resolved, place: Place) -> Resolved:
    """The reading as its sentence tells it of the answers at a place: means of elements and Gauss points are called so."""
    if resolved.against is not None:
        resolved = replace(resolved, against=said_at(resolved.against, place))
    if isinstance(place, AtElements):
        return _said_of_elements(resolved)
    return replace(resolved, at_points=True) if isinstance(place, AtGauss) else resolved


def _same_places(resolved: Resolved, source: Source, place: Place) -> tuple[Any, Int | None]:
    """Places that have as many answers whatever the reading: the corners that meet at nodes in place of the nodes."""
    fields = [resolved.field] + ([resolved.against.field] if resolved.against else [])
    readings = [resolved.reading] + ([resolved.against.reading] if resolved.against else [])
    nodal = all(f.location == "node" and r.averaging != "element" for f, r in zip(fields, readings, strict=True))
    if not isinstance(place, AtNodes) or nodal:
        return place, None
    meeting = [source.mesh.corners_at(int(n)) for n in place.nodes]
    offsets = np.concatenate([[0], np.cumsum([len(c) for c in meeting])]).astype(np.int64)
    return TheseCorners(np.concatenate(meeting) if meeting else np.zeros(0, dtype=np.int64)), offsets


def _over_steps(resolved: Resolved, source: Source, place: Any, tell: Tell | None) -> Values:
    """The largest (smallest, of largest magnitude) over a span of steps, or at which step; one step in memory at a time."""
    plain = replace(resolved.reading, over="step", when=False, unit=resolved.unit if not resolved.reading.when else None)
    best: Values | None = None
    when = np.zeros(0)
    steps = resolved.span
    for count, step in enumerate(steps):
        if tell is not None:
            tell(count / len(steps), f"step {count + 1} of {len(steps)}")
        now = at_one_step(resolve(plain.at(step), source), source, place)
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


def at_one_step(resolved: Resolved, source: Source, place: Any) -> Values:
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
        resolved = said_at(resolved, place)
    elif isinstance(place, AtSamples):
        element = place.element
        values = _at_samples(resolved, source, place)
    else:
        if isinstance(place, AtNodes):
            corners = np.concatenate([mesh.corners_at(int(n)) for n in place.nodes])
        elif isinstance(place, TheseCorners):
            corners = place.corners
        elif place.elements is None:
            corners = np.arange(len(mesh.connectivity))
        else:
            corners = mesh.corners_of(place.elements)
        element, node = mesh.corner_element[corners], mesh.connectivity[corners]
        values = _corner_values(resolved, source, corners)
    values = np.where(inside[element], values, np.nan)
    return _one_each(resolved, source, values, element, node if len(node) else np.full(len(values), -1))


def _said_of_elements(resolved: Resolved) -> Resolved:
    """What is answered as the mean of each element is called so."""
    reading = resolved.reading
    if resolved.field.location == "element" or reading.averaging == "element" or reading.of == "error":
        return resolved
    if reading.averaging == "off" and reading.of == "value":
        return replace(resolved, reading=replace(reading, averaging="element", order="components"))
    return replace(resolved, in_mean=True)


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
    if kind == "set" and name in mesh.node_sets:
        raise Impossible(f"'{name}' is a set of nodes, and a region is made of elements.", f"Read it at the place set:{name}.")
    raise NotFound(
        f"There is no region '{region}' in this result.",
        f"Parts: {', '.join(mesh.part_names)}. Element sets: {', '.join(mesh.element_sets) or 'none'}.",
    )


def _one_each(resolved: Resolved, source: Source, values: Float, element: Int, node: Int) -> Values:
    return Values(values, np.arange(len(values) + 1), element, node, resolved, caveats(resolved, source, values))


def caveats(resolved: Resolved, source: Source, values: Float) -> list[str]:
    """What must be said beside these values: the reading's own caveats, and what the numbers themselves give away."""
    notes = resolved.caveats
    if resolved.field.location == "gauss" and not resolved.at_points:
        notes += _of_gauss(resolved, source)
    if resolved.field.kind == "plastic strain" and resolved.field.rank == "scalar" and len(values):
        low, high = np.nanmin(values, initial=0.0), np.nanmax(values, initial=0.0)
        if low < -1e-6 * max(high, 1e-30):
            notes.append("Extrapolated to the corners before import: an equivalent plastic strain below zero is not real.")
    if len(values) and np.isnan(values).any():
        notes.append(f"No value {'here' if len(values) == 1 else 'at some places'}: {_why_missing(resolved, source)}.")
    return notes


def _of_gauss(resolved: Resolved, source: Source) -> list[str]:
    """How values at corners, or of elements, came from the Gauss points."""
    without = unplaced(source, resolved.field)
    if without:
        return [f"Where the Gauss points of a {without} lie is not known: corners and means show their plain mean."]
    if resolved.reading.averaging == "element" and resolved.reading.of == "value":
        return []
    return ["Extrapolated from the Gauss points to the corners with the functions of their grid; nothing is clipped."]


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


def take_measure(resolved: Resolved, source: Source, components: NDArray[np.floating], element: Int | None, points: Any) -> Float:
    """The measure of components (n, c), in the reading's unit. Components already turned into the measure pass through.

    element: (n,) the rows' elements, None where they have none; points: a function that gives the rows' places (n, 3).
    """
    exact: Float = np.asarray(components, dtype=np.float64)
    if resolved.reading.of != "value":
        # Shape functions of quadratic elements dip between nodes, and a jump is never below zero.
        return resolved.scaled(np.maximum(exact[..., 0], 0.0))
    if _measure_first(resolved):
        return resolved.scaled(exact[..., 0])
    return resolved.scaled(_measured(resolved, source, exact, element, points))


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
    return take_measure(resolved, source, components, element, _corner_points(mesh, corners))


def _corner_components(resolved: Resolved, source: Source, corners: Int) -> Float:
    """Components at some corners after averaging (or the measure, when that is taken first)."""
    mesh = source.mesh
    averaging = resolved.reading.averaging
    if resolved.reading.of != "value":
        return _corner_jumps(resolved, source, corners)
    if averaging == "element":
        return _raw_corners(resolved, source, corners)
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
        raw = rows_of(source, field.name, step, corners)
    elif field.location == "node":
        raw = rows_of(source, field.name, step, mesh.connectivity[corners])
    elif field.location == "gauss":
        raw = _from_gauss(resolved, source, corners)
    else:
        raw = rows_of(source, field.name, step, mesh.corner_element[corners])
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


@kept_with(1)
def _own_axes(mesh: Mesh) -> Float:
    return element_axes(mesh)


def _from_gauss(resolved: Resolved, source: Source, corners: Int) -> Float:
    return extrapolated(source, resolved.field, resolved.reading.step, corners)


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
        count = gauss_count(source, resolved.field, cell)
        rows = gauss_rows(source, resolved.field, resolved.reading.step, np.array([e]))[0, :count]
        if resolved.by_element:
            rows = rotate(rows, np.repeat(_element_rows(source, resolved.axes.kind)[[e]], count, axis=0))
        owner = np.full(count, e, dtype=np.int64)
        points = gauss_places(mesh, int(e), cell, count)
        told = take_measure(resolved, source, rows, owner, lambda points=points: points)
        values.append(np.where(inside[e], told, np.nan))
        element.append(owner)
        counts.append(count)
    flat = np.concatenate(values)
    offsets = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
    node = np.full(len(flat), -1)
    there = replace(resolved, at_points=True)
    return Values(flat, offsets, np.concatenate(element), node, there, caveats(there, source, flat))


def _at_nodes(resolved: Resolved, source: Source, nodes: Int, inside: NDArray[np.bool_]) -> Values:
    mesh = source.mesh
    if resolved.field.location == "node" and resolved.reading.averaging != "element":
        if resolved.by_element:
            raise Impossible(
                f"'{resolved.field.name}' has one value at a node, where several elements meet, each with axes of its own.",
                "Read it inside an element, or choose other axes.",
            )
        raw = rows_of(source, resolved.field.name, resolved.reading.step, nodes)
        if _measure_first(resolved):
            raw = _measured(resolved, source, raw, None, lambda: mesh.points[nodes])[:, None]
        values = take_measure(resolved, source, raw, None, lambda: mesh.points[nodes])
        if not inside.all():
            there = np.zeros(len(mesh.points), dtype=bool)
            there[mesh.connectivity[inside[mesh.corner_element]]] = True
            values = np.where(there[nodes], values, np.nan)
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
    """Volume mean of the components (or of the measure, taken first) over each element, (elements, c).

    Of what is kept at Gauss points by their own weights; else of what the corners have, as the reading averages it.
    """
    mesh = source.mesh
    wanted = np.full(len(mesh.types), -1, dtype=np.int64)
    wanted[elements] = np.arange(len(elements))
    result: Float | None = None
    turned = source.setup.model == "axisymmetric" and mesh.planar
    reading = resolved.reading
    from_gauss = resolved.field.location == "gauss" and reading.of == "value" and reading.averaging not in GROUPED
    # Jumps, and measures averaged at the nodes, come as the measure itself.
    measured = reading.of != "value" or (_measure_first(resolved) and reading.averaging in GROUPED)
    for block in mesh.blocks:
        here = wanted[block.elements] >= 0
        for chosen in block.some(here).pieces():
            if from_gauss:
                inner, weights, places = _inside_gauss(resolved, source, chosen, turned)
            else:
                xi, _ = block.cell.quadrature
                shape = block.cell.shape(xi)
                at = _corner_components(resolved, source, chosen.corners.ravel()).reshape(*chosen.corners.shape, -1)
                weights = quadrature_weights(mesh, chosen, turned)
                inner = np.einsum("qn,enc->eqc", shape, at, optimize=True).reshape(-1, at.shape[2])
                places = _inner_points(mesh, shape, chosen.nodes)
            count = weights.shape[1]
            if not measured and _measure_first(resolved):
                inner = _measured(resolved, source, inner, np.repeat(chosen.elements, count), places)[:, None]
            elif not measured and resolved.by_place:
                inner = rotate(inner, resolved.axes.at(places()))
            inner = inner.reshape(len(chosen.elements), count, -1)
            means = np.einsum("eq,eqc->ec", weights, inner, optimize=True) / weights.sum(1)[:, None]
            if result is None:
                result = np.full((len(elements), means.shape[1]), np.nan)
            result[wanted[chosen.elements]] = means
    return result if result is not None else np.zeros((0, 1))


def _inside_gauss(resolved: Resolved, source: Source, chosen: Block, turned: bool) -> tuple[Float, Float, Callable[[], Float]]:
    """Components at the Gauss points of some elements of one shape (e q, c), their weights (e, q), and where they are.

    Where their places are not known each counts the same.
    """
    mesh, cell = source.mesh, chosen.cell
    table = gauss_rows(source, resolved.field, resolved.reading.step, chosen.elements)
    count = gauss_count(source, resolved.field, cell)
    rows = table[:, :count].reshape(-1, table.shape[2])
    if resolved.by_element:
        rows = rotate(rows, np.repeat(_element_rows(source, resolved.axes.kind)[chosen.elements], count, axis=0))
    if count not in known_counts(cell):
        return rows, np.ones((len(chosen.elements), count)), lambda: np.full((len(rows), 3), np.nan)
    xi = gauss_points(cell, count)
    weights = quadrature_weights(mesh, chosen, turned, (xi, gauss_weights(cell, count)))
    return rows, weights, _inner_points(mesh, cell.shape(xi), chosen.nodes)


def _inner_points(mesh: Mesh, shape: Float, nodes: Int) -> Callable[[], Float]:
    return lambda: np.einsum("qn,enx->eqx", shape, mesh.points[nodes], optimize=True).reshape(-1, 3)


def _element_means(resolved: Resolved, source: Source, elements: Int) -> Float:
    if resolved.reading.of == "error":
        return _errors(resolved, source)[elements] * resolved.factor
    if resolved.field.location == "element" and not resolved.by_place:
        raw = rows_of(source, resolved.field.name, resolved.reading.step, elements)
        if resolved.by_element:
            raw = rotate(raw, _element_rows(source, resolved.axes.kind)[elements])
        return resolved.scaled(_measured(resolved, source, raw, elements, None))
    # Components come back told in the axes: nothing is left to turn.
    settled = replace(resolved, by_place=False)
    return take_measure(settled, source, _mean_components(resolved, source, elements), elements, None)


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
        raw = rows_of(source, field.name, resolved.reading.step, place.element)
        return take_measure(resolved, source, raw, place.element, points)
    found = interpolation(mesh, place)
    components = _corner_components(resolved, source, found.corners)
    if field.names:
        nearest = np.asarray(found.matrix.argmax(axis=1)).ravel()
        return take_measure(resolved, source, components[nearest], place.element, points)
    return take_measure(resolved, source, found.matrix @ components, place.element, points)


@kept_with(1)
def _distinct_elements(place: AtSamples) -> tuple[Int, Int]:
    elements, back = np.unique(place.element, return_inverse=True)
    return elements, back


@dataclass(frozen=True)
class ErrorEstimate:
    """Energy norm of the error of a stress: of each element as a share of the mean energy density, and in total.

    elements: sqrt(e_i / v_i) / sqrt((u + e) / v), a pure number; total: sqrt(e / (u + e)), its root mean square by volume.
    error_norm: sqrt(e). energy_norm: sqrt(u), u the energy norm squared of the finite element stress as computed.
    """

    elements: Float
    total: float
    error_norm: float
    energy_norm: float


def error_estimate(reading: Reading, source: Source) -> ErrorEstimate:
    """Zienkiewicz and Zhu (1987): the energy norm of (recovered - raw) stress, recovered by averaging within a material."""
    resolved = resolve(replace(reading, of="error"), source)
    return _estimate(source, resolved.field.name, resolved.reading.step, resolved.reading.weight, resolved.reading.fold)


@kept_with(4)
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
