"""What is inside a result, in plain data: the same for the command line and the service."""

from __future__ import annotations

from typing import Any

import numpy as np

from ironstone.core.events import driver_history, marks
from ironstone.core.fields import Field
from ironstone.core.measures import Measure, measures_for
from ironstone.core.units import ANGLES, CHOICES, SYSTEMS
from ironstone.core.weld import KINDS_OF_RANK
from ironstone.store.review import ReviewSource


def contents(source: ReviewSource) -> dict[str, Any]:
    """Nodes, elements, parts, sets, steps, fields and warnings of a result, with every guess marked."""
    mesh = source.mesh
    warnings = list(source.warnings)
    if source.system_guessed:
        warnings.append(f"The files state no unit. Taken as {source.system.name}: state it in Intake if that is wrong.")
    for name, missing in source.summary.get("gaps", {}).items():
        warnings.append(f"'{name}' has no value at {missing} places of at least one step.")
    held = source.summary.get("sets", {})
    return {
        "id": source.id,
        "name": source.name,
        "nodes": len(mesh.points),
        "elements": len(mesh.types),
        "cells": {b.cell.name: len(b.elements) for b in mesh.blocks},
        "parts": [{"name": n, "elements": int((mesh.part == i).sum())} for i, n in enumerate(mesh.part_names)],
        "sets": [
            {"name": n, "of": "nodes", "count": len(v), "held": held.get(n, {}).get("held", "unknown"),
             "moves": held.get(n, {}).get("moves", False)}
            for n, v in mesh.node_sets.items()
        ]
        + [{"name": n, "of": "elements", "count": len(v), "held": None, "moves": False} for n, v in mesh.element_sets.items()],
        "steps": [{"index": s.index, "kind": s.kind, "value": s.value, "unit": s.unit, "label": s.label} for s in source.steps],
        "fields": [
            {
                "name": f.name,
                "kind": f.kind,
                "rank": f.rank,
                "location": f.location,
                "components": list(f.components),
                "unit": f.unit,
                "precision": f.precision,
                "guessed": f.guessed,
                "kinds": list(KINDS_OF_RANK[f.rank]),
                "averaged_before": f.averaged_before,
                "notes": list(f.notes),
                "measures": [
                    {"name": m.name, "label": m.label, "explanation": m.explanation, "signed": m.signed,
                     "unit": f.unit if m.unit is None else m.unit, "units": _units_of(m, f)}
                    for m in measures_for(f.rank, f.kind)
                ],
            }
            for f in source.fields.values()
        ],
        "system": source.system.name,
        "system_guessed": source.system_guessed,
        "systems": list(SYSTEMS),
        "welding": source.summary.get("welding", ""),
        "raw_points": source.summary.get("raw points", len(mesh.points)),
        "files": source.files,
        "size": mesh.size,
        "warnings": warnings,
    }  # fmt: skip


def _units_of(measure: Measure, field: Field) -> list[str]:
    """Units a measure of a field can be shown in."""
    if measure.unit is None:
        return list(CHOICES.get(field.kind, (field.unit,)))
    return list(ANGLES) if measure.unit == "deg" else [measure.unit]


def rail(source: ReviewSource) -> dict[str, Any]:
    """What the step rail shows: the driver's history and the events found, and the step that matters most."""
    sets = source.summary.get("sets", {})
    means = {n: np.array(v) for n, v in source.summary.get("set_means", {}).items() if len(v) == len(source.steps)}
    sums = {n: np.array(v) for n, v in source.summary.get("set_sums", {}).items() if len(v) == len(source.steps)}
    held = {n for n in means if sets.get(n, {}).get("held") == "held"}
    moving = {n for n in means if sets.get(n, {}).get("moves")}
    driver = driver_history(means, held, moving)
    supports = [sums[n] for n in sums if n in held and n not in moving]
    found = marks(driver[2] if driver else None, np.sum(supports, axis=0) if supports else None, source.summary.get("first_yield"))
    peak = next((m.step for m in found if m.kind == "peak"), len(source.steps) - 1)
    return {
        "driver": None
        if driver is None
        else {
            "set": driver[0],
            "axis": "xyz"[driver[1]],
            "unit": source.system.length,
            "values": driver[2].tolist(),
        },
        "supports": [n for n in sums if n in held and n not in moving],
        "marks": [{"step": m.step, "kind": m.kind, "label": m.label} for m in found],
        "opening_step": peak,
    }
