"""Laminates as JSON, version 1: materials, and zones of plies from the bottom to the top. Described in ``docs/formats.md``."""

from __future__ import annotations

import json
from typing import Any

from ironstone.core.errors import IronstoneError
from ironstone.core.strength.laminate import Laminate, Ply, PlyMaterial
from ironstone.core.units import SYSTEMS, UnitSystem

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


def parse_laminates(data: bytes, name: str) -> tuple[UnitSystem, dict[str, Laminate], list[dict[str, Any]]]:
    """The unit system, the laminates by their zone's name, and the zones as written.

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
    found: dict[str, Laminate] = {}
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
        found[label] = Laminate(tuple(plies), _number(zone.get("offset", 0.0), f"the offset of zone '{label}'"))
    return system, found, zones


def _materials(stated: Any) -> dict[str, PlyMaterial]:
    if not isinstance(stated, dict) or not stated:
        raise IronstoneError("'materials' is missing.", HOW)
    found = {}
    for name, constants in stated.items():
        if not isinstance(constants, dict):
            raise IronstoneError(f"The material '{name}' has no constants.", HOW)
        numbers = {k: _number(v, f"{k} of '{name}'") for k, v in constants.items() if not isinstance(v, str)}
        below = [k for k in ("Xt", "Xc", "Yt", "Yc", "S12", "S13", "S23", "E1", "E2", "G12") if k in numbers and not numbers[k] > 0]
        if below:
            raise IronstoneError(f"{below[0]} of '{name}' is not above zero.", "Moduli and strengths are written positive.")
        found[name] = PlyMaterial(name, numbers)
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
