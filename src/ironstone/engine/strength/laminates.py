"""Laminates answered by themselves: stiffness, and under a load the strain, stress, index and reserve of every ply."""

from __future__ import annotations

from typing import Any

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.mesh.mesh import Float
from ironstone.core.strength.criteria import Criterion, criterion_of
from ironstone.core.strength.laminate import PLACES, Laminate
from ironstone.core.units import product
from ironstone.engine.reading.answers import number
from ironstone.formats.laminates import parse_laminates


def laminate_answer(data: bytes, name: str, load: Float | None = None, criterion: str = "", change: float = 0.0) -> dict[str, Any]:
    """Every zone of a laminate file in plain data. load: NX, NY, NXY, MX, MY, MXY per length, in the file's units. change: of
    temperature, which does not scale with the load."""
    laminates = parse_laminates(data, name)
    system = laminates.system
    change = change or laminates.change
    chosen = criterion_of(criterion) if criterion else None
    force = f"{system.force}/{system.length}"
    return {
        "units": {
            "length": system.length,
            "stress": system.stress,
            "force": force,
            "moment": product(system.force, system.length) + f"/{system.length}",
        },
        "load": None if load is None else load.tolist(),
        "criterion": None if chosen is None else chosen.label,
        "zones": [_zone(zone.name, zone.laminate, load, chosen, change) for zone in laminates.zones],
    }


def _zone(name: str, laminate: Laminate, load: Float | None, criterion: Criterion | None, change: float) -> dict[str, Any]:
    abd = laminate.abd
    reply: dict[str, Any] = {
        "name": name,
        "thickness": laminate.thickness,
        "symmetric": laminate.symmetric,
        "balanced": laminate.balanced,
        "A": abd[:3, :3].tolist(),
        "B": abd[:3, 3:].tolist(),
        "D": abd[3:, 3:].tolist(),
        "strain": None,
        "curvature": None,
        "notes": [],
    }
    if criterion is not None:
        lacking = sorted({f"{n} of {p.material.name}" for p in laminate.plies for n in criterion.lacking(p.material)})
        if lacking:
            raise Impossible(f"{criterion.label} needs more of the materials.", f"Missing: {', '.join(lacking)}.")
    strain = stress = None
    outcomes: list[Any] = []
    if load is not None:
        middle = laminate.strain_of(load, change)
        reply |= {"strain": middle[:3].tolist(), "curvature": middle[3:].tolist()}
        strain, stress = laminate.in_plies(middle, change)
        fixed = laminate.in_plies(laminate.strain_of(np.zeros(6), change), change)[1]
        if criterion is not None:
            pairs = zip(laminate.plies, stress - fixed, fixed, strict=True)
            outcomes = [criterion.check(p.material, own, still) for p, own, still in pairs]
    plies = []
    for k, ply in enumerate(laminate.plies):
        for at, place in enumerate(PLACES):
            entry: dict[str, Any] = {
                "position": k + 1,
                "sheet": ply.sheet or None,
                "material": ply.material.name,
                "angle": ply.angle,
                "place": place,
                "strain": None if strain is None else strain[k, at].tolist(),
                "stress": None if stress is None else stress[k, at].tolist(),
                "index": None,
                "reserve": None,
                "mode": None,
            }
            if outcomes:
                found = outcomes[k]
                entry |= {
                    "index": number(float(found.index[at])),
                    "reserve": number(float(found.reserve[at])),
                    "mode": found.modes[int(found.mode[at])],
                }
            plies.append(entry)
    reply["plies"] = plies
    if outcomes:
        there = [p for p in plies if p["reserve"] is not None]
        worst = min(there, key=lambda p: p["reserve"], default=None)
        reply["worst"] = worst and {k: worst[k] for k in ("position", "sheet", "place", "index", "reserve", "mode")}
    return reply
