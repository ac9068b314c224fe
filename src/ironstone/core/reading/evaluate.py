"""The one evaluator: a reading at some places gives values. Contours, flags, traces and profiles all come through here.

Inside an element the components are interpolated with the element's own functions and the measure is taken after. With
averaging on, ``order`` says whether components are averaged first or the measure. Axes that belong to elements are turned into
before anything is averaged; axes that vary from place to place where the components are told, and so also at every integration
point of an element's mean.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.field.axes import rotate
from ironstone.core.field.fields import Source, rows_of
from ironstone.core.field.gauss_fields import gauss_count, gauss_places, gauss_rows
from ironstone.core.field.sliced import Slice, sliced
from ironstone.core.kept import kept_with
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.interpolation import interpolation, positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtGauss, AtNodes, AtSamples, Place, TheseCorners
from ironstone.core.reading.averaging import RUN, SlotMeans
from ironstone.core.reading.caveats import caveats
from ironstone.core.reading.corners import (
    averaged_components,
    averaging_operator,
    corner_points,
    element_rows,
    group_means,
    measure_first,
    measured,
    take_measure,
)
from ironstone.core.reading.element_means import element_means
from ironstone.core.reading.elsewhere import taken_off
from ironstone.core.reading.error_estimate import errors_of
from ironstone.core.reading.over_steps import Tell, over_steps
from ironstone.core.reading.plies import as_plain
from ironstone.core.reading.reading import GROUPED, Reading
from ironstone.core.reading.reduced import in_phase, replaces
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Resolved, Values
from ironstone.core.wanted import still_wanted

# More samples than these are answered a run at a time.
MANY_SAMPLES = 1 << 18


def evaluate(reading: Reading, source: Source, place: Place, tell: Tell | None = None) -> Values:
    """Answer a reading at places. Raises IronstoneError when the reading or a place has no meaning in this result.

    ``tell(share, text)`` hears how far a reading over many steps has come, and may raise to stop it.
    """
    still_wanted()
    resolved = resolve(reading, source)
    if resolved.against is None and reading.over == "step":
        return at_one_step(resolved, source, place)
    flat, offsets = _same_places(resolved, source, place)
    if resolved.against is None:
        values, more = over_steps(resolved, source, flat, at_one_step, tell)
        own = values.values
    else:
        half = None if tell is None else (lambda share, text: tell(share / 2, text))
        rest = None if tell is None else (lambda share, text: tell(0.5 + share / 2, text))
        values = evaluate(replace(resolved.reading, against=None), source, flat, half)
        other, more = taken_off(resolved.against, source, flat, partial(evaluate, tell=rest), values.caveats)
        own = values.values
        values = replace(values, values=own - other)
    if offsets is not None:
        values = replace(values, begins=offsets)
    said = said_at(resolved, place)
    # Of a difference of two results each says for itself what it lacks.
    notes = caveats(said, source, own if more and resolved.against is not None else values.values)
    return replace(values, resolved=said, caveats=[*notes, *more])


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


def at_one_step(resolved: Resolved, source: Source, place: Any) -> Values:
    """The reading at its one step: of one slice of the field's axes, or the largest (smallest, peak) of several."""
    field = resolved.field
    if field.plain:
        return _plain(resolved, source, place)
    if field.of_plies:
        answer = _plain(*as_plain(resolved, source), place)
        return replace(answer, resolved=resolved, caveats=caveats(resolved, source, answer.values))

    def of(layer: int | str, inside: int, phase: float) -> Values:
        cut = sliced(source, field.name, Slice(int(layer), inside, phase))
        return _plain(replace(resolved, field=cut.fields[field.name]), cut, place)

    best: Values | None = None
    for layer, inside in resolved.layers.slices or ((0, 0),):
        now = in_phase(partial(of, layer, inside), resolved)
        if best is None:
            best = now
        else:
            beyond = replaces(resolved.layers.how, best.values, now.values)
            best = replace(best, values=np.where(beyond, now.values, best.values))
    assert best is not None
    said = replace(best.resolved, field=field)
    return replace(best, resolved=said, caveats=caveats(said, source, best.values))


def _plain(resolved: Resolved, source: Source, place: Any) -> Values:
    """The reading of a field that has no axes beside its Gauss points and components."""
    still_wanted()
    mesh = source.mesh
    inside = region_elements(mesh, resolved.reading.region)
    if isinstance(place, AtNodes) and resolved.reading.of != "error":
        return _at_nodes(resolved, source, place.nodes, inside)
    node = np.zeros(0, dtype=np.int64)
    if isinstance(place, AtGauss):
        return _at_gauss(resolved, source, place, inside)
    if isinstance(place, AtElements):
        element = place.elements
        values = element_means(resolved, source, element)
        resolved = said_at(resolved, place)
    elif isinstance(place, AtSamples):
        element = place.element
        values = _at_samples(resolved, source, place)
    else:
        corners = _corners_at(mesh, place)
        if corners is None:
            element, node = mesh.corner_element, mesh.connectivity
        else:
            element, node = mesh.owners(corners), mesh.connectivity[corners]
        values = _corner_values(resolved, source, corners)
    if not inside.all():
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
    return Values(values, None, element, node, resolved, caveats(resolved, source, values))


def _corners_at(mesh: Mesh, place: AtNodes | AtCorners | TheseCorners) -> Int | None:
    """The corners a place is made of; None for all of the mesh."""
    if isinstance(place, AtNodes):
        return np.concatenate([mesh.corners_at(int(n)) for n in place.nodes])
    if isinstance(place, TheseCorners):
        return place.corners
    return None if place.elements is None else mesh.corners_of(place.elements)


def corner_runs(resolved: Resolved, source: Source, corners: Int | None, for_all: bool = False) -> Iterator[tuple[Int, Float]]:
    """Some corners (None: all), a run of them at a time, and the reading there: what many of them take is bounded. for_all: each
    stands for all corners that share its mean, whether it has a value itself or not."""
    count = len(source.mesh.connectivity) if corners is None else len(corners)
    several = (count > RUN or for_all) and _averaged_in_groups(resolved)
    means = group_means(resolved, source) if several else None
    if means is not None and for_all:
        means = replace(means, whole=True)
    for start in range(0, count, RUN):
        still_wanted(f"values at corners, {start:,} of {count:,}" if start else "")
        end = min(start + RUN, count)
        own = np.arange(start, end) if corners is None else corners[start:end]
        yield own, _of_corners(resolved, source, own, means)


def _corner_values(resolved: Resolved, source: Source, corners: Int | None) -> Float:
    """The reading at some corners; None: at all."""
    count, done = len(source.mesh.connectivity) if corners is None else len(corners), 0
    result = np.empty(count)
    for own, values in corner_runs(resolved, source, corners):
        result[done : done + len(own)] = values
        done += len(own)
    return result


def _averaged_in_groups(resolved: Resolved) -> bool:
    """Whether corners share the means of their (node, group)."""
    return resolved.reading.of == "value" and resolved.field.location != "node" and resolved.reading.averaging in GROUPED


def _of_corners(resolved: Resolved, source: Source, corners: Int, means: SlotMeans | None) -> Float:
    """The reading at a run of corners. means: those of each (node, group), where they are known already."""
    mesh = source.mesh
    element = mesh.owners(corners)
    if resolved.reading.of == "error":
        errors: Float = errors_of(resolved, source)[element] * resolved.factor
        return errors
    if resolved.reading.averaging == "element":
        elements, back = np.unique(element, return_inverse=True)
        return element_means(resolved, source, elements)[back]
    components = averaged_components(resolved, source, corners, means)
    return take_measure(resolved, source, components, element, corner_points(mesh, corners))


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
            rows = rotate(rows, np.repeat(element_rows(source, resolved.axes.kind)[[e]], count, axis=0))
        owner = np.full(count, e, dtype=np.int64)
        points = gauss_places(mesh, int(e), cell, count)
        answer = take_measure(resolved, source, rows, owner, lambda points=points: points)
        values.append(np.where(inside[e], answer, np.nan))
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
        if measure_first(resolved):
            raw = measured(resolved, source, raw, None, lambda: mesh.points[nodes])[:, None]
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


def _at_samples(resolved: Resolved, source: Source, place: AtSamples) -> Float:
    """Values inside elements: corner components interpolated with the element's functions, then the measure; many places a run at a
    time."""
    if len(place.element) > MANY_SAMPLES:
        return np.concatenate([_at_samples(resolved, source, run) for run in _sample_runs(source.mesh, place)])
    mesh, field = source.mesh, resolved.field
    averaging = resolved.reading.averaging
    if resolved.reading.of == "error":
        return errors_of(resolved, source)[place.element] * resolved.factor
    if averaging == "element":
        elements, back = np.unique(place.element, return_inverse=True)
        return element_means(resolved, source, elements)[back]

    def points() -> Float:
        return positions(mesh, place)

    if field.location == "element" and averaging == "off" and resolved.reading.of == "value":
        if not resolved.by_place:
            # Every sample of an element has the same answer: it is worked out once.
            elements, back = _distinct_elements(place)
            return element_means(resolved, source, elements)[back]
        raw = rows_of(source, field.name, resolved.reading.step, place.element)
        return take_measure(resolved, source, raw, place.element, points)
    found = interpolation(mesh, place)
    components = averaged_components(resolved, source, found.corners)
    if field.names:
        nearest = np.asarray(found.matrix.argmax(axis=1)).ravel()
        return take_measure(resolved, source, components[nearest], place.element, points)
    return take_measure(resolved, source, found.matrix @ components, place.element, points)


@kept_with(4)
def _sample_runs(mesh: Mesh, place: AtSamples) -> list[AtSamples]:
    """Many samples as runs, the same ones whenever they are asked for, so that their interpolation is kept."""
    starts = range(0, len(place.element), RUN)
    return [AtSamples(place.element[a : a + RUN], place.xi[a : a + RUN]) for a in starts]


@kept_with(1)
def _distinct_elements(place: AtSamples) -> tuple[Int, Int]:
    elements, back = np.unique(place.element, return_inverse=True)
    return elements, back
