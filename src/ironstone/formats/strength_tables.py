"""Tables of strength as CSV or XLSX: plies of stacks, constants of ply materials, coupons, tested parts."""

from __future__ import annotations

from typing import Any

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.strength.zones import STRESSES
from ironstone.core.units import UnitSystem, convert
from ironstone.formats.laminates import VERSION
from ironstone.formats.worded import Columns, parse_worded

# What a coupon test can be of: a strength, in the direction and sense of its name.
PROPERTIES = ("Xt", "Xc", "Yt", "Yc", "S12", "S13", "S23", "e1t", "e1c", "e2t", "e2c", "g12", "E1", "E2", "G12", "nu12")

PLIES = Columns(
    names={"zone": (), "where": (), "sheet": ("ply", "physical ply"), "material": (), "thickness": (), "angle": ()},
    needed=("zone", "material", "thickness", "angle"),
    words=("zone", "where", "sheet", "material"),
    how="The first row names the columns: zone, where, sheet, material, thickness, angle; a row a ply, from the bottom.",
    what="ply",
)
_PLAIN = ("nu12", "a1", "a2", "F12", "e1t", "e1c", "e2t", "e2c", "g12", "ptp", "pcp")
MATERIALS = Columns(
    names={"material": ("name",), **{n: () for n in (*STRESSES, *_PLAIN)}, "source": (), "basis": (), "direction": ()},
    needed=("material", "E1", "E2", "G12", "nu12"),
    words=("material", "source", "basis", "direction"),
    how="The first row names the columns: material, E1, E2, G12, nu12, Xt, Xc, Yt, Yc, S12, ...; a row a material.",
    what="material",
)
COUPONS = Columns(
    names={"specimen": ("name", "coupon", "id"), "property": ("strength",), "value": ("result",), "s11": (), "s22": (), "s12": ()},
    needed=(),
    words=("specimen", "property"),
    how=f"Columns: specimen, property ({', '.join(PROPERTIES[:7])} or a modulus), value; or s11, s22, s12 at failure.",
    what="coupon",
)
PARTS = Columns(
    names={
        "specimen": ("name", "part", "id"),
        "load": ("failure load", "first failure", "first failure load"),
        "zone": ("place", "where"),
        "mode": ("failure mode", "observed mode"),
        "note": ("remark",),
    },
    needed=("load",),
    words=("specimen", "zone", "mode", "note"),
    how="Columns: specimen, load (at first failure), and perhaps zone, mode, note; a row a tested part.",
    what="tested part",
)


def _in(value: float, unit: str | None, target: str) -> float:
    return float(convert(np.array([value]), unit, target)[0]) if unit else value


def plies_into(content: dict[str, Any], data: bytes, name: str, system: UnitSystem) -> dict[str, Any]:
    """Laminates with their stacks from a table, the materials as they were. Lengths without a unit are in the system's."""
    rows, units = parse_worded(data, name, PLIES)
    zones: dict[str, dict[str, Any]] = {}
    before = {z["name"]: z for z in content.get("zones", [])}
    for row in rows:
        label = row["zone"]
        if not label:
            raise IronstoneError(f"{name}, line {row['line']}: the zone has no name.", "Name the zone in every row.")
        old = before.get(label, {})
        where = row.get("where") or old.get("where", f"part:{label}")
        zone = zones.setdefault(label, {**old, "name": label, "where": where, "plies": []})
        thickness = _in(row["thickness"], units.get("thickness"), system.length)
        zone["plies"].append(
            {"sheet": row.get("sheet", ""), "material": row["material"], "thickness": thickness, "angle": row["angle"]}
        )
    return {"version": VERSION, "units": system.name, "materials": {}, **content, "zones": list(zones.values())}


def materials_into(content: dict[str, Any], data: bytes, name: str, system: UnitSystem) -> dict[str, Any]:
    """Laminates with constants of materials from a table; those the table does not name stay, and so do the stacks."""
    rows, units = parse_worded(data, name, MATERIALS)
    known = dict(content.get("materials", {}))
    for row in rows:
        constants: dict[str, Any] = {}
        for column, value in row.items():
            if column in ("material", "line") or value in (None, ""):
                continue
            stress = column in STRESSES
            constants[column] = _in(value, units.get(column), system.stress) if stress else value
        known[row["material"]] = constants
    return {"version": VERSION, "units": system.name, "zones": [], **content, "materials": known}


def parse_coupons(data: bytes, name: str) -> tuple[list[dict[str, Any]], str | None]:
    """Coupons, and the unit of their stresses; None where the file states none."""
    rows, units = parse_worded(data, name, COUPONS)
    found = []
    for k, row in enumerate(rows, start=1):
        line, which = row.pop("line"), row.get("property", "")
        stresses = [row.get(s) for s in ("s11", "s22", "s12")]
        if which and which not in PROPERTIES:
            raise IronstoneError(
                f"{name}, line {line}: '{which}' is no property of a ply.", f"It is one of {', '.join(PROPERTIES)}."
            )
        if which and row.get("value") is None:
            raise IronstoneError(f"{name}, line {line}: there is no value.", "Write what the coupon reached.")
        if not which and all(s is None for s in stresses):
            raise IronstoneError(f"{name}, line {line} says neither a property nor stresses at failure.", COUPONS.how)
        kept: dict[str, Any] = {n: row[n] for n in ("property", "value", "s11", "s22", "s12") if n in row}
        found.append({"specimen": str(row.get("specimen") or f"C{k}")[:80], **kept})
    stated = {u for n, u in units.items() if u and n != "specimen"}
    if len(stated) > 1:
        raise IronstoneError(f"{name} states several units: {', '.join(sorted(stated))}.", "Write all stresses in one.")
    return found, next(iter(stated), None)


def parse_parts(data: bytes, name: str) -> tuple[list[dict[str, Any]], str | None]:
    """Tested parts, and the unit of their loads; None where the file states none."""
    rows, units = parse_worded(data, name, PARTS)
    for k, row in enumerate(rows, start=1):
        if not row["load"] > 0:
            raise IronstoneError(
                f"{name}, line {row['line']}: the load {row['load']:g} is not above zero.", "Write it without a sign."
            )
        del row["line"]
        row["specimen"] = (row.get("specimen") or f"T{k}")[:80]
    return rows, units.get("load")
