"""Readings answered in plain data, with ids and places in words: what both the command line and the service print."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ironstone.core.curves.curves import Curve, coarse
from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source
from ironstone.core.field.gauss_fields import gauss_positions
from ironstone.core.field.loadings import axis_of
from ironstone.core.field.tensors import principal_directions
from ironstone.core.kept import kept_with
from ironstone.core.mesh.interpolation import element_centres, positions
from ironstone.core.mesh.places import AtGauss, AtNodes, AtSamples, Place
from ironstone.core.reading.caveats import caveats as answer_caveats
from ironstone.core.reading.corners import corner_components
from ironstone.core.reading.error_estimate import error_estimate
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import Everywhere, Extreme, extremes, meeting
from ironstone.core.reading.over_steps import Tell
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolved import Resolved, Values
from ironstone.core.reading.where import Gauss, NamedSet, Node, Where, parse, place_of
from ironstone.core.units import difference_unit
from ironstone.store.source import ReviewSource


def number(value: float) -> float | None:
    """A number as JSON has it: missing is null."""
    return None if value is None or not math.isfinite(value) else float(value)


def place_of_extreme(extreme: Extreme | None, source: Source) -> dict[str, Any] | None:
    if extreme is None:
        return None
    mesh = source.mesh
    return {
        "value": number(extreme.value),
        "element": int(mesh.element_ids[extreme.element]) if extreme.element >= 0 else None,
        "node": int(mesh.node_ids[extreme.node]) if extreme.node >= 0 else None,
        "part": mesh.part_names[mesh.part[extreme.element]] if extreme.element >= 0 else None,
        "xyz": list(extreme.xyz),
    }


def _entry(source: Source, place: str, value: float, element: int, node: int, xyz: Any) -> dict[str, Any]:
    mesh = source.mesh
    return {
        "place": place,
        "value": number(value),
        "element": int(mesh.element_ids[element]) if element >= 0 else None,
        "node": int(mesh.node_ids[node]) if node >= 0 else None,
        "part": mesh.part_names[mesh.part[element]] if element >= 0 else None,
        "xyz": [number(v) for v in xyz],
    }


def _entries(where: Where, place: Place, values: Values, source: Source) -> list[dict[str, Any]]:
    """One entry for each answer: of a node one an element (or group) that meets there, of a Gauss point the point's own place."""
    mesh = source.mesh
    if isinstance(place, AtSamples):
        xyz = positions(mesh, place)
    elif isinstance(place, AtGauss):
        xyz = gauss_positions(mesh, values.element, values.offsets)
    else:
        xyz = np.where((values.node >= 0)[:, None], mesh.points[np.maximum(values.node, 0)], 0.0)
        alone = (values.node < 0) & (values.element >= 0)
        xyz[alone] = element_centres(mesh, values.element[alone])
    entries = []
    for row, (v, e, n) in enumerate(zip(values.values.tolist(), values.element.tolist(), values.node.tolist(), strict=True)):
        entries.append(_entry(source, where.of_row(mesh, row, e, n), v, e, n, xyz[row]))
    return entries


def read(reading: Reading, source: Source, at: str | None, with_extremes: bool = False, tell: Tell | None = None) -> dict[str, Any]:
    """Answer a reading at a place (see ``core.where``); None gives the extremes alone.

    Principal values come with their directions, an error estimate with its total.
    """
    answer: dict[str, Any] = {}
    entries: list[dict[str, Any]] = []
    values: Values | Everywhere | None = None
    if at is not None:
        where = parse(at)
        place = place_of(where, reading, source)
        values = evaluate(reading, source, place, tell)
        entries = _entries(where, place, values, source)
        if isinstance(where, Gauss) and where.point:
            if where.point > len(entries):
                raise Impossible(f"That element has no Gauss point {where.point}.", f"They run from 1 to {len(entries)}.")
            entries = [entries[where.point - 1]]
        if isinstance(where, Node) and isinstance(place, AtNodes):
            found = meeting(reading, source, int(place.nodes[0]))
            answer["jump"] = number(found.jump)
            answer["jump_within_material"] = number(found.jump_within_material)
            answer["jump_unit"] = difference_unit(values.unit)
    low = high = None
    if with_extremes or at is None:
        everywhere, low, high = extremes(reading, source, tell)
        values = values or everywhere
    assert values is not None
    resolved = values.resolved
    if reading.of == "error":
        estimate = error_estimate(reading, source)
        answer["error_total"] = number(estimate.total)
        answer["error_norm"], answer["energy_norm"] = number(estimate.error_norm), number(estimate.energy_norm)
    plain = resolved.reading.of == "value" and resolved.reading.over == "step" and resolved.against is None
    if at is not None and resolved.measure.name in PRINCIPALS and plain:
        _add_directions(entries, resolved, source)
    return {
        "sentence": resolved.sentence(),
        "unit": resolved.unit,
        "step": _step(resolved, source),
        "values": entries,
        "min": place_of_extreme(low, source),
        "max": place_of_extreme(high, source),
        "caveats": values.caveats,
        **answer,
    }


PRINCIPALS = {"principal-1": 0, "principal-2": 1, "principal-3": 2}


def _add_directions(entries: list[dict[str, Any]], resolved: Resolved, source: Source) -> None:
    """Beside each principal value at a node as computed, its direction in global axes; other places have none told."""
    mesh = source.mesh
    for entry in entries:
        if entry["node"] is None or entry["element"] is None or resolved.reading.averaging != "off" or not resolved.field.plain:
            continue
        element, node = mesh.element_position(entry["element"]), mesh.node_position(entry["node"])
        corners = mesh.corners_of(np.array([element]))
        corner = corners[mesh.connectivity[corners] == node][:1]
        tensor = np.asarray(corner_components(source, resolved.field.name, resolved.reading.step, corner), dtype=np.float64)
        direction = principal_directions(tensor)[0, PRINCIPALS[resolved.measure.name]]
        entry["direction"] = [number(v) for v in direction]


def _step(resolved: Resolved, source: Source) -> dict[str, Any]:
    step = source.steps[resolved.reading.step]
    return {"index": step.index, "kind": step.kind, "value": step.value, "unit": step.unit}


@kept_with(64, owner=1)
def trace_curve(reading: Reading, source: ReviewSource, at: str, reduce: str | None, sign: int = 1) -> tuple[Curve, str, list[str]]:
    """A trace over all steps as a curve over the step axis, its sentence and its caveats."""
    mesh = source.mesh
    # A trace is of one point: the first where none is named, and called so.
    place = parse(at).one()
    found = place.trace(reading, source, reduce)
    where = place.words
    values, resolved = found.values, found.resolved
    caveats = answer_caveats(resolved, source, values)
    if resolved.field.kind == "reaction" and isinstance(place, NamedSet):
        name = place.name
        held = source.summary.get("sets", {}).get(name, {}).get("held")
        if held == "free":
            caveats.append(f"The set '{name}' is not held: a reaction there means nothing.")
        elif held == "partly":
            caveats.append(f"Only some nodes of the set '{name}' are held: the reaction is that of those.")
    half = source.setup.mirror
    if half is not None and reduce == "sum":
        if resolved.by_place or resolved.by_element:
            caveats.append("Of the half alone: in rotated axes the other half has other components.")
        elif resolved.measure.direction == half.axis and resolved.field.rank == "vector":
            values = 0.0 * values
            caveats.append(f"Nothing is left of the whole square to its mirror plane {half.words}: the halves hold each other.")
        else:
            values = 2.0 * values
            caveats.append(f"Doubled: the result is one half, mirrored at {half.words}.")
            where += " and its mirror image"
    words = {"sum": "summed over", "mean": "mean over", "max": "largest over", "min": "smallest over", None: "at"}[reduce]
    lead = resolved.parts["lead"]
    turned = ", sign reversed" if sign < 0 else ""
    sentence = f"{lead}, {words} {where}{turned}{resolved.sentence(with_step=False).removeprefix(lead)}"
    axis = axis_of(source.steps)
    if found.node is not None and np.isfinite(values).any():
        most = int(np.nanargmax(values) if reduce == "max" else np.nanargmin(values))
        reply = f"{'Largest' if reduce == 'max' else 'Smallest'} {values[most]:.4g} {resolved.unit}".rstrip()
        caveats.append(f"{reply} at node {int(mesh.node_ids[found.node[most]])}, {source.steps[most].label}.")
    curve = Curve(
        axis.values,
        sign * values,
        axis.unit,
        resolved.unit,
        axis.kind,
        f"{lead}, {words} {where}{turned}",
    )
    return curve, sentence, caveats


def few_steps(source: Source, values: Any, first: int = 0) -> list[str]:
    """A warning where steps, from ``first`` on, are too few for the curve they make; else nothing."""
    axis = axis_of(source.steps).values[first : first + len(values)]
    found = coarse(axis, values)
    if found is None:
        return []
    about = source.steps[first + found[0]].label
    return [f"The steps are few for this curve: about {about} it may be off by {100 * found[1]:.2g} % of its range."]
