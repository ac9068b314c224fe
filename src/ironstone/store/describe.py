"""What is inside a result, in plain data: the same for the command line and the service."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np

from ironstone.core.curves.events import driver_history, marks
from ironstone.core.field.axes import ELEMENT, GLOBAL, MATERIAL
from ironstone.core.field.classify import AVERAGED
from ironstone.core.field.constants import CONSTANTS
from ironstone.core.field.fields import COMBINATION, MODELS, Field, Step, opening_field
from ironstone.core.field.loadings import computed
from ironstone.core.field.moved import moving
from ironstone.core.field.titles import field_title
from ironstone.core.kinds import kind_of
from ironstone.core.moments import KINDS
from ironstone.core.reading.measures import Measure, measures_for
from ironstone.core.statics.balance import held_state
from ironstone.core.units import ANGLES, SYSTEMS
from ironstone.store.doubts import doubts
from ironstone.store.entries import offers
from ironstone.store.review import Review
from ironstone.store.source import ReviewSource


def whole_contents(review: Review, which: int | str | None = None) -> dict[str, Any]:
    """The contents of a result once its loads are found as well."""
    if review.loads.needed(source := review.result(which)):
        source = review.result(which)
    return contents(source)


def contents(source: ReviewSource) -> dict[str, Any]:
    """Nodes, elements, parts, sets, steps, fields and warnings of a result, with every guess marked."""
    mesh = source.mesh
    moves = moving(source.fields) is not None
    warnings = [w for w in source.warnings if not (moves and w.startswith("No displacement was found"))]
    # What can be settled stands among the doubts.
    warnings = [w for w in warnings if AVERAGED not in w]
    for name, missing in source.summary.get("gaps", {}).items():
        warnings.append(f"'{name}' has no value at {missing} places of at least one step.")
    held = source.summary.get("sets", {})
    made = source.correction.get("sets", {})
    found_sets = source.summary.get("found sets", {})
    stated_axes = source.correction.get("axes", {})
    return {
        "id": source.id,
        "name": source.name,
        "stated": source.stated,
        "arriving": source.arriving,
        "nodes": len(mesh.points),
        "elements": len(mesh.types),
        "cells": {b.cell.name: len(b.elements) for b in mesh.blocks},
        "parts": [_part(source, i, n) for i, n in enumerate(mesh.part_names)],
        "sets": [
            {"name": n, "of": "nodes", "count": len(v),
             "held": held.get(n, {}).get("held") or (held_state(source, v) if n in made else "unknown"),
             "moves": held.get(n, {}).get("moves", False), "made": made[n]["how"] if n in made else None,
             "found": None if n in made else found_sets.get(n)}
            for n, v in list(mesh.node_sets.items())
        ]
        + [{"name": n, "of": "elements", "count": len(v), "held": None, "moves": False, "made": None, "found": None}
           for n, v in mesh.element_sets.items()],
        "loads_sought": source.review.loads.sought(source),
        "removed_sets": sorted(source.correction.get("removed sets", {})),
        "meshes": list(source.meshes),
        "steps": [_step(source, s) for s in source.steps],
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
                "title": field_title(f.name, source.fields).strip("'"),
                "entries": [asdict(offer) for offer in offers(source, f)],
                "averaged_before": f.averaged_before,
                "recovered": f.recovered,
                "names": f.names,
                "labels": list(f.labels),
                "points": f.points,
                "layers": f.layers,
                "places": list(f.places) if f.layers else [],
                "harmonic": f.harmonic,
                "notes": list(f.notes),
                "measures": [
                    {"name": m.name, "label": m.label, "explanation": m.explanation, "signed": m.signed,
                     "unit": f.unit if m.unit is None else m.unit, "units": units_of(m, f),
                     "needs": list(m.needs), "direction": m.direction}
                    for m in measures_for(f.rank, f.kind)
                ],
            }
            for f in source.fields.values()
            if f.rank != "matrix"
        ],
        "whole_numbers": [
            {"name": f.name, "location": f.location, "entry": asdict(offer)}
            for f in source.dictionary.values()
            for offer in offers(source, f)
            if offer.name == "role"
        ],
        "doubts": [asdict(doubt) for doubt in doubts(source)],
        "steps_stated": (source.correction.get("steps") or {}).get("how", ""),
        "step_kinds": list(KINDS),
        "opens": opens.name if (opens := opening_field(source.fields)) else None,
        "strength": _strength(source),
        "materials": _materials(source),
        "constants": [
            {"name": c.name, "label": c.label, "symbol": c.symbol, "unit": getattr(source.system, c.unit) if c.unit else ""}
            for c in CONSTANTS.values()
        ],
        "planar": mesh.planar,
        "moves": moves,
        "model": source.setup.model,
        "models": list(MODELS),
        "mirror": {"axis": source.setup.mirror.axis, "at": source.setup.mirror.at} if source.setup.mirror else None,
        "totals": sorted(source.summary.get("totals", {})),
        "sections": any(
            f.kind in ("thickness", "section area") and f.location == "element" and f.plain for f in source.fields.values()
        ),
        "axes": [
            {"name": a.name, "kind": a.kind, "origin": list(a.origin), "third": list(a.matrix[2]), "first": list(a.matrix[0]),
             "directions": list(a.directions), "how": stated_axes.get(a.name, {}).get("how", "")}
            for a in (GLOBAL, ELEMENT, *([MATERIAL] if source.setup.orientation else []), *source.setup.axes.values())
        ],
        "system": source.system.name,
        "length_unit": source.system.length,
        "system_guessed": source.system_guessed,
        "systems": list(SYSTEMS),
        "welding": source.summary.get("welding", ""),
        "raw_points": source.summary.get("raw points", len(mesh.points)),
        "files": source.files,
        "size": mesh.size,
        "centre": [float(v) for v in (mesh.points.min(0) + mesh.points.max(0)) / 2] if len(mesh.points) else [0.0, 0.0, 0.0],
        "warnings": warnings,
    }  # fmt: skip


def _part(source: ReviewSource, position: int, name: str) -> dict[str, Any]:
    own = source.mesh.part == position
    return {"name": name, "elements": int(own.sum()), "rigid": source.rigid is not None and bool(source.rigid[own].all())}


def _step(source: ReviewSource, step: Step) -> dict[str, Any]:
    """A step, and of one that is made of others what it is made of."""
    plain = {"index": step.index, "kind": step.kind, "value": step.value, "unit": step.unit, "label": step.label}
    if step.kind != COMBINATION:
        return plain
    made = source.combinations[step.index - len(computed(source.steps))]
    return plain | {"name": step.name, "made_of": ",".join(t.words for t in made.terms), "notes": list(step.notes)}


def _materials(source: ReviewSource) -> list[dict[str, Any]]:
    """Materials (parts, where the file names none) and the constants stated of them."""
    mesh = source.mesh
    counts = np.bincount(mesh.material_or_part, minlength=len(mesh.material_or_part_names))
    known = source.setup.constants
    return [
        {
            "name": name,
            "elements": int(count),
            "constants": dict(known.get(name, {})),
        }
        for name, count in zip(mesh.material_or_part_names, counts, strict=True)
    ]


def units_of(measure: Measure, field: Field) -> list[str]:
    """Units a measure of a field can be shown in."""
    if measure.unit is None:
        return list(kind_of(field.kind).choices or (field.unit,))
    return list(ANGLES) if measure.unit == "deg" else [measure.unit]


def rail(source: ReviewSource) -> dict[str, Any]:
    """What the step rail shows: the driver's history and the events found, and the step that matters most."""
    sets, own = source.summary.get("sets", {}), computed(source.steps)
    means = {n: np.array(v) for n, v in source.summary.get("set_means", {}).items() if len(v) == len(own)}
    sums = {n: np.array(v) for n, v in source.summary.get("set_sums", {}).items() if len(v) == len(own)}
    held = {n for n in means if sets.get(n, {}).get("held") == "held"}
    moving = {n for n in means if sets.get(n, {}).get("moves")}
    driver = driver_history(means, held, moving)
    supports = [sums[n] for n in sums if n in held and n not in moving]
    found = marks(driver[2] if driver else None, np.sum(supports, axis=0) if supports else None, source.summary.get("first_yield"))
    # Of modes the lowest is looked at first; what reacts at one says nothing about another.
    modes = [i for i in own if source.steps[i].kind == "mode"]
    peak = modes[0] if modes else next((m.step for m in found if m.kind == "peak"), len(own) - 1)
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


def _strength(source: ReviewSource) -> str:
    """What of a result is held against strengths: its plies, where laminates or layers are known, else a metal's stress."""
    fields = source.fields.values()
    if source.setup.laminates is not None or any(f.of_plies or f.layers for f in fields):
        return "plies"
    return "metals" if any(f.kind == "stress" and f.rank == "tensor" for f in fields) else "plies"
