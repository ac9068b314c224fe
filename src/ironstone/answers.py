"""Readings answered in plain data, with ids and places in words: what both the command line and the service print."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

import numpy as np

from ironstone.core.curves import Curve, Loops
from ironstone.core.errors import Impossible
from ironstone.core.evaluate import (
    AtElements,
    AtNodes,
    Extreme,
    element_centre,
    evaluate,
    extremes,
    meeting,
    positions,
    trace,
)
from ironstone.core.fields import Source
from ironstone.core.locate import find
from ironstone.core.match import Match
from ironstone.core.reading import Reading, Resolved, Values
from ironstone.store.review import ReviewSource


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
        "xyz": [float(v) for v in xyz],
    }


def read(reading: Reading, source: Source, at: str | None, with_extremes: bool = False) -> dict[str, Any]:
    """Answer a reading at 'node:ID', 'element:ID', 'point:X,Y,Z' or 'set:NAME'; None gives the extremes alone."""
    mesh = source.mesh
    answer: dict[str, Any] = {}
    entries: list[dict[str, Any]] = []
    values: Values | None = None
    if at is not None:
        kind, _, name = at.partition(":")
        try:
            if kind == "node":
                node = mesh.node_position(int(name))
                found = meeting(reading, source, node)
                values = found.values
                entries = [
                    _entry(source, at, v, int(e), node, mesh.points[node])
                    for v, e in zip(values.values, values.element, strict=True)
                ]
                answer["jump"] = number(found.jump)
                answer["jump_within_material"] = number(found.jump_within_material)
            elif kind == "element":
                element = mesh.element_position(int(name))
                values = evaluate(reading, source, AtElements(np.array([element])))
                entries = [_entry(source, at, values.values[0], element, -1, element_centre(mesh, element))]
            elif kind == "point":
                place = find(mesh, np.array([float(v) for v in name.split(",")]).reshape(3))
                values = evaluate(reading, source, place)
                where = positions(mesh, place)
                entries = [
                    _entry(source, at, v, int(e), -1, xyz) for v, e, xyz in zip(values.values, place.element, where, strict=True)
                ]
            elif kind == "set":
                nodes = mesh.node_set(name)
                values = evaluate(reading, source, AtNodes(nodes))
                entries = [
                    _entry(source, f"node:{mesh.node_ids[n]}", v, int(e), int(n), mesh.points[n])
                    for v, e, n in zip(values.values, values.element, values.node, strict=True)
                ]
            else:
                raise Impossible(f"'{at}' is not a place.", "Write node:ID, element:ID, point:X,Y,Z or set:NAME.")
        except ValueError as error:
            raise Impossible(f"'{at}' is not a place: {error}.", "Write node:ID, element:ID, point:X,Y,Z or set:NAME.") from error
    low = high = None
    if with_extremes or at is None:
        everywhere, low, high = extremes(reading, source)
        values = values or everywhere
    assert values is not None
    resolved = values.resolved
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


def _step(resolved: Resolved, source: Source) -> dict[str, Any]:
    step = source.steps[resolved.reading.step]
    return {"index": step.index, "kind": step.kind, "value": step.value, "unit": step.unit}


@lru_cache(maxsize=64)
def trace_curve(reading: Reading, source: ReviewSource, at: str, reduce: str | None, sign: int = 1) -> tuple[Curve, str, list[str]]:
    """A trace over all steps as a curve over the step axis, its sentence and its caveats."""
    mesh = source.mesh
    kind, _, name = at.partition(":")
    caveats: list[str] = []
    if kind == "node" and name.isdigit():
        nodes = np.array([mesh.node_position(int(name))])
        where = f"node {name}"
    elif kind == "set":
        nodes = mesh.node_set(name)
        where = f"set {name}"
        if reduce is None:
            raise Impossible(f"The set '{name}' has {len(nodes)} nodes.", "Reduce it: sum, mean, max or min.")
    else:
        raise Impossible(f"'{at}' is not a place a trace can follow.", "Write node:ID or set:NAME.")
    _, values, resolved = trace(reading, source, nodes, reduce)
    caveats += resolved.caveats
    if resolved.field.kind == "reaction" and kind == "set":
        held = source.summary.get("sets", {}).get(name, {}).get("held")
        if held == "free":
            caveats.append(f"The set '{name}' is not held: a reaction there means nothing.")
        elif held == "partly":
            caveats.append(f"Only some nodes of the set '{name}' are held: the reaction is that of those.")
    words = {"sum": "summed over", "mean": "mean over", "max": "largest over", "min": "smallest over", None: "at"}[reduce]
    lead = resolved.field.name.replace("_", " ")
    if resolved.measure.name != "value":
        lead = f"{resolved.measure.label} of {lead}"
    parts = [lead, f"{words} {where}"]
    if resolved.field.location != "node":
        parts.insert(1, resolved.averaging_words)
    if sign < 0:
        parts.append("sign turned")
    parts.append(f"in {resolved.unit}" if resolved.unit else "a pure number")
    first = source.steps[0]
    curve = Curve(
        np.array([s.value for s in source.steps]),
        sign * values,
        first.unit,
        resolved.unit,
        first.kind,
        f"{lead}, {words} {where}" + (", sign turned" if sign < 0 else ""),
    )
    return curve, ", ".join(parts), caveats


def loops_answer(found: Loops) -> dict[str, Any]:
    """Loops in the form the command line and the service print."""
    return {
        "x_unit": found.x_unit,
        "y_unit": found.y_unit,
        "energy_unit": found.energy_unit,
        "stiffness_unit": found.stiffness_unit,
        "energy_total": number(found.energy_total),
        "cycles": [
            {
                "energy": number(c.energy),
                "closed": c.closed,
                "secant_stiffness": number(c.secant_stiffness),
                "damping_ratio": number(c.damping_ratio),
                "x_peak": number(c.x_peak),
                "y_peak": number(c.y_peak),
                "x_trough": number(c.x_trough),
                "y_trough": number(c.y_trough),
                "start": c.start,
                "stop": c.stop,
            }
            for c in found.cycles
        ],
    }


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
    metrics["determination"] = {"label": "Coefficient of determination", "value": number(d.determination), "unit": ""}
    return {
        "kind": found.kind,
        "metrics": metrics,
        "corrections": list(found.corrections),
        "notes": list(found.notes),
        "verdict": found.verdict,
        "agrees": found.agrees,
    }
