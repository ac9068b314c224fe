"""Readings answered in plain data, with ids and places in words: what both the command line and the service print."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np

from ironstone.core.curves.agreement import Match
from ironstone.core.curves.curves import Curve, coarse, envelope, loops, retained
from ironstone.core.curves.monotonic import monotonic, tensile
from ironstone.core.curves.transient import in_time
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import Source
from ironstone.core.field.tensors import principal_directions
from ironstone.core.kept import kept_with
from ironstone.core.mesh.interpolation import element_centres, positions
from ironstone.core.mesh.places import AtGauss, AtNodes, AtSamples, Place
from ironstone.core.reading.caveats import caveats as answer_caveats
from ironstone.core.reading.corners import corner_components
from ironstone.core.reading.error_estimate import error_estimate
from ironstone.core.reading.evaluate import Tell, evaluate, gauss_positions
from ironstone.core.reading.extremes import Extreme, extremes, meeting
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolved import Resolved, Values
from ironstone.core.reading.where import Gauss, NamedSet, Node, Where, parse, place_of
from ironstone.core.statics.balance import Resultant, balance
from ironstone.core.units import difference_unit, product, same_kind
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
        xyz = gauss_positions(source, values)
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
    values: Values | None = None
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
    first = source.steps[0]
    axis = np.array([s.value for s in source.steps])
    if found.node is not None and np.isfinite(values).any():
        most = int(np.nanargmax(values) if reduce == "max" else np.nanargmin(values))
        reply = f"{'Largest' if reduce == 'max' else 'Smallest'} {values[most]:.4g} {resolved.unit}".rstrip()
        caveats.append(f"{reply} at node {int(mesh.node_ids[found.node[most]])}, {source.steps[most].label}.")
    curve = Curve(
        axis,
        sign * values,
        first.unit,
        resolved.unit,
        first.kind,
        f"{lead}, {words} {where}{turned}",
    )
    return curve, sentence, caveats


def few_steps(source: Source, values: Any, first: int = 0) -> list[str]:
    """A warning where steps, from ``first`` on, are too few for the curve they make; else nothing."""
    axis = np.array([s.value for s in source.steps[first : first + len(values)]])
    found = coarse(axis, values)
    if found is None:
        return []
    about = source.steps[first + found[0]].label
    return [f"The steps are few for this curve: about {about} it may be off by {100 * found[1]:.2g} % of its range."]


def held_sets(source: ReviewSource) -> dict[str, str]:
    """Which sets are held, as it was found when the result was taken in."""
    return {n: e["held"] for n, e in source.summary.get("sets", {}).items() if e.get("held") != "unknown"}


def balance_answer(source: ReviewSource, step: int, about: Any = None, deformed: bool = False) -> dict[str, Any]:
    """The load balance of a step in the form the command line and the service print."""
    found = balance(source, step, source.mesh.node_sets, about, deformed, held_sets(source))

    def reply(r: Resultant) -> dict[str, Any]:
        return {"force": r.force.tolist(), "moment": r.moment.tolist()}

    return {
        "step": step,
        "about": found.about.tolist(),
        "deformed": deformed,
        "force_unit": source.system.force,
        "moment_unit": product(source.system.force, source.system.length),
        "applied": reply(found.applied),
        "reaction": reply(found.reaction),
        "residual": reply(found.residual),
        "force_share": number(found.force_share),
        "moment_share": number(found.moment_share),
        "verdict": found.verdict,
        "sets": [
            {
                "name": s.name,
                "nodes": s.nodes,
                "held": s.held,
                **reply(s.reaction),
                "reaction": reply(s.reaction),
                "applied": reply(s.applied),
            }
            for s in found.sets
        ],
        "recovered": found.recovered,
        "free_residual": number(found.free_residual) if found.free_residual is not None else None,
        "notes": list(found.notes),
    }


def loops_answer(curve: Curve, start: str = "peak", prominence: float | None = None) -> dict[str, Any]:
    """The loops of a curve in the form the command line and the service print; ductility is against its first loading."""
    found = loops(curve, start, prominence)
    line_x, line_y = envelope(found)
    yield_at = float("nan")
    if found.cycles:
        first = slice(0, found.cycles[0].start + 1)
        try:
            yield_at = monotonic(replace(curve, x=curve.x[first], y=curve.y[first])).yield_at
        except IronstoneError:
            yield_at = float("nan")
    return {
        "envelope_x": line_x.tolist(),
        "envelope_y": line_y.tolist(),
        "yield_at": number(yield_at),
        "x_unit": found.x_unit,
        "y_unit": found.y_unit,
        "energy_unit": found.energy_unit,
        "stiffness_unit": found.stiffness_unit,
        "energy_total": number(found.energy_total),
        "prominence": found.prominence,
        "notes": list(found.notes),
        "cycles": [
            {
                "energy": number(c.energy),
                "closed": c.closed,
                "secant_stiffness": number(c.secant_stiffness),
                "retained": number(float(kept)),
                "ductility": number(abs(c.amplitude / yield_at)),
                "damping_ratio": number(c.damping_ratio),
                "x_peak": number(c.x_peak),
                "y_peak": number(c.y_peak),
                "x_trough": number(c.x_trough),
                "y_trough": number(c.y_trough),
                "start": c.start,
                "stop": c.stop,
            }
            for c, kept in zip(found.cycles, retained(found), strict=True)
        ],
    }


def figures(curve: Curve) -> list[dict[str, Any]]:
    """Figures of a curve that goes one way; of stress against strain those of a tensile test. Empty where it has none."""
    if not in_time(curve) and loops(curve).cycles:
        return []
    x, y = curve.x_unit or "", curve.y_unit or ""
    reply: list[dict[str, Any]] = []

    def add(label: str, value: float, unit: str | None, how: str) -> None:
        reply.append({"label": label, "value": number(value), "unit": unit or "", "how": how})

    if in_time(curve):
        for label, at in (("Largest", int(np.nanargmax(curve.y))), ("Smallest", int(np.nanargmin(curve.y)))):
            add(label, float(curve.y[at]), y, f"at {curve.x[at]:.4g} {x}")
        return reply
    try:
        if same_kind(x, "") and same_kind(y, "MPa"):
            t = tensile(curve)
            since = _counted_from(t.origin, "", y)
            add("Modulus", t.modulus, y, "regression between 10 % and 40 % of the ultimate")
            add("Proof stress 0.2 %", t.proof, y, f"where the line offset by 0.002 meets the curve{since}")
            add("Ultimate", t.ultimate, y, f"engineering stress of largest size{since}")
            add("Uniform elongation", t.uniform_strain, "", f"strain there{since}")
            add("True stress there", t.true_ultimate, y, "s (1 + e)")
            add("True strain there", t.true_uniform_strain, "", "ln(1 + e)")
            return reply
        m = monotonic(curve)
    except IronstoneError:
        return reply
    since = _counted_from(m.origin, x, y)
    add("Stiffness", m.stiffness, m.stiffness_unit, "secant between 10 % and 40 % of the peak")
    add("Peak", m.peak, y, f"at {m.peak_at:.4g} {x}{since}")
    add("Yield", m.yield_force, y, f"elastic-plastic line of equal energy{since}")
    add("Yield displacement", m.yield_at, x, f"yield over stiffness{since}")
    add("Ductility", m.ductility, "", "end over yield displacement")
    add("Energy", m.energy, m.energy_unit, "under the curve")
    return reply


def _counted_from(origin: tuple[float, float], x: str, y: str) -> str:
    """Said of figures that are counted from a first point other than zero."""
    if origin == (0.0, 0.0):
        return ""
    return f", counted from the first point ({f'{origin[0]:.4g} {x}'.rstrip()}, {f'{origin[1]:.4g} {y}'.rstrip()})"


def match_answer(found: Match) -> dict[str, Any]:
    d = found.deviation
    metrics: dict[str, Any] = {
        m.name: {
            "label": m.label,
            "model": number(m.model),
            "test": number(m.test),
            "unit": m.unit,
            "ratio": number(m.ratio),
            "limit": m.limit,
            "accepted": m.accepted,
        }
        for m in found.metrics
    }
    metrics["rms_deviation"] = {
        "label": "RMS deviation",
        "value": number(d.rms),
        "unit": d.unit,
        "share": number(d.share),
        "limit": d.limit,
        "accepted": d.accepted,
    }
    metrics["largest_deviation"] = {
        "label": "Largest deviation",
        "value": number(d.largest),
        "unit": d.unit,
        "at_x": number(d.largest_at_x),
    }
    if found.correlation is not None:
        metrics["correlation"] = {"label": "Correlation at the shift", "value": number(found.correlation), "unit": ""}
    metrics["determination"] = {"label": "Coefficient of determination", "value": number(d.determination), "unit": ""}
    return {
        "kind": found.kind,
        "metrics": metrics,
        "corrections": list(found.corrections),
        "notes": list(found.notes),
        "verdict": found.verdict,
        "agrees": found.agrees,
    }
