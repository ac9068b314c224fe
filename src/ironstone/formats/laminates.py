"""Laminates as JSON, version 1: materials, and zones of plies from the bottom to the top. Described in ``docs/formats.md``.

As tables too: one of the stacks, a row a ply, and one of the materials, a row each.
"""

from __future__ import annotations

import json
import math
from typing import Any

from ironstone.core.errors import IronstoneError
from ironstone.core.strength.laminate import Laminate, Ply, PlyMaterial
from ironstone.core.strength.zones import ALL, STRESSES, Laminates, Zone
from ironstone.core.units import SYSTEMS

VERSION = 1
HOW = "The file is JSON: version, units, materials by name, and zones with plies; see the formats in the documentation."


def _number(value: Any, where: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or value != value or abs(value) == float("inf"):
        raise IronstoneError(f"{where} is not a number.", "Write it without quotes and without a unit.")
    return float(value)


def _list(value: Any, where: str) -> list[Any]:
    if not isinstance(value, list) or not value:
        raise IronstoneError(f"{where} is missing, or no list with something in it.", HOW)
    return value


def parse_laminates(data: bytes, name: str) -> Laminates:
    """The laminates of a file.

    Raises IronstoneError that says where in the file something is wrong.
    """
    try:
        stated = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        line = f", line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise IronstoneError(f"{name}{line}: this is no JSON.", HOW) from error
    if not isinstance(stated, dict):
        raise IronstoneError(f"{name} holds no laminates.", HOW)
    version = stated.get("version")
    if version != VERSION:
        raise IronstoneError(f"{name} is of version {version}, not {VERSION}.", "Write it in this version, or use a newer program.")
    system = SYSTEMS.get(str(stated.get("units")))
    if system is None:
        raise IronstoneError(f"{name} states no units.", f"Write one of {', '.join(SYSTEMS)}.")
    materials = _materials(stated.get("materials"))
    found: dict[str, Zone] = {}
    zones = _list(stated.get("zones"), "'zones'")
    for k, zone in enumerate(zones, start=1):
        if not isinstance(zone, dict) or not zone.get("name"):
            raise IronstoneError(f"Zone {k} has no name.", HOW)
        label = str(zone["name"])
        if label in found:
            raise IronstoneError(f"Two zones are called '{label}'.", "Give each its own name.")
        plies = [
            _ply(p, f"ply {i} of zone '{label}'", materials)
            for i, p in enumerate(_list(zone.get("plies"), f"'plies' of zone '{label}'"), 1)
        ]
        laminate = Laminate(tuple(plies), _number(zone.get("offset", 0.0), f"the offset of zone '{label}'"))
        found[label] = Zone(label, laminate, str(zone.get("where", ALL)), _axis(zone.get("axis"), label))
    change = stated.get("temperature", 0.0)
    return Laminates(
        system, tuple(found.values()), _number(change, "'temperature', the change since the plies were free of stress,")
    )


def write_laminates(laminates: Laminates) -> dict[str, Any]:
    """Laminates as they are written to a file."""
    return {
        "version": VERSION,
        "units": laminates.system.name,
        **({"temperature": laminates.change} if laminates.change else {}),
        "materials": {m.name: {**m.constants, **m.notes} for m in laminates.materials},
        "zones": [
            {
                "name": z.name,
                "where": z.where,
                "offset": z.laminate.offset,
                "axis": list(z.axis),
                "plies": [
                    {"sheet": p.sheet, "material": p.material.name, "thickness": p.thickness, "angle": p.angle}
                    for p in z.laminate.plies
                ],
            }
            for z in laminates.zones
        ],
    }


def _axis(stated: Any, zone: str) -> tuple[float, float, float]:
    if stated is None:
        return 1.0, 0.0, 0.0
    if not isinstance(stated, list) or len(stated) != 3:
        raise IronstoneError(f"The axis of zone '{zone}' is no direction.", "Write three numbers, like [1, 0, 0].")
    x, y, z = (_number(v, f"the axis of zone '{zone}'") for v in stated)
    if math.hypot(x, y, z) == 0.0:
        raise IronstoneError(f"The axis of zone '{zone}' points nowhere.", "Write three numbers, like [1, 0, 0].")
    return x, y, z


def _materials(stated: Any) -> dict[str, PlyMaterial]:
    if not isinstance(stated, dict) or not stated:
        raise IronstoneError("'materials' is missing.", HOW)
    found = {}
    for name, constants in stated.items():
        if not isinstance(constants, dict):
            raise IronstoneError(f"The material '{name}' has no constants.", HOW)
        numbers = {k: _number(v, f"{k} of '{name}'") for k, v in constants.items() if not isinstance(v, str)}
        below = [k for k in STRESSES if k in numbers and not numbers[k] > 0]
        if below:
            raise IronstoneError(f"{below[0]} of '{name}' is not above zero.", "Moduli and strengths are written positive.")
        found[name] = PlyMaterial(name, numbers, {k: v for k, v in constants.items() if isinstance(v, str)})
    return found


def _ply(stated: Any, where: str, materials: dict[str, PlyMaterial]) -> Ply:
    if not isinstance(stated, dict):
        raise IronstoneError(f"{where[0].upper()}{where[1:]} is no ply.", HOW)
    material = materials.get(str(stated.get("material")))
    if material is None:
        raise IronstoneError(f"{where[0].upper()}{where[1:]} is of no material of the file.", f"Materials: {', '.join(materials)}.")
    thickness = _number(stated.get("thickness"), f"the thickness of {where}")
    if not thickness > 0:
        raise IronstoneError(f"The thickness of {where} is not above zero.", "Leave the ply out where it is not there.")
    return Ply(material, thickness, _number(stated.get("angle", 0.0), f"the angle of {where}"), str(stated.get("sheet", "")))
