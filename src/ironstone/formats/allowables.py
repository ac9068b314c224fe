"""Allowables of metals as JSON, version 1: limits of parts, each a number or a table over temperature; see ``docs/formats.md``."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.units import SYSTEMS, convert

LIMITS = ("yield", "ultimate", "plastic_strain")
HOW = (
    'The file is JSON: {"version": 1, "units": "mm-N-s-t-MPa", "parts": {NAME or "all": {"yield", "ultimate", "plastic_strain"}}}.'
)


def parse_allowables(data: bytes, name: str, system: str) -> dict[str, dict[str, Float]]:
    """Limits by part, each as (temperatures, values) (2, n) in a unit system; one number holds at all temperatures.

    Raises IronstoneError that says where in the file something is wrong.
    """
    try:
        stated = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        raise IronstoneError(f"{name}: this is no JSON.", HOW) from error
    if (
        not isinstance(stated, dict)
        or stated.get("version") != 1
        or not isinstance(stated.get("parts"), dict)
        or not stated["parts"]
    ):
        raise IronstoneError(f"{name} holds no allowables of version 1.", HOW)
    units = SYSTEMS.get(str(stated.get("units")))
    if units is None:
        raise IronstoneError(f"{name} states no units.", f"Write one of {', '.join(SYSTEMS)}.")
    found: dict[str, dict[str, Float]] = {}
    for part, limits in stated["parts"].items():
        if not isinstance(limits, dict) or not set(limits) & set(LIMITS):
            raise IronstoneError(f"{name}: '{part}' has no limit.", HOW)
        found[part] = {}
        for limit in LIMITS:
            if limit in limits:
                table = _table(limits[limit], f"{limit} of '{part}'")
                if limit != "plastic_strain":
                    table[1] = convert(table[1], units.stress, SYSTEMS[system].stress)
                found[part][limit] = table
    return found


def _table(value: Any, where: str) -> Float:
    rows = [[0.0, value]] if isinstance(value, int | float) else value
    try:
        table = np.array(rows, dtype=np.float64)
    except (TypeError, ValueError) as error:
        raise IronstoneError(f"{where} is no number.", "Write a number, or [[temperature, value], ...].") from error
    if table.ndim != 2 or table.shape[1] != 2 or not np.isfinite(table).all() or not (table[:, 1] > 0).all():
        raise IronstoneError(f"{where} is no limit above zero.", "Write a number, or [[temperature, value], ...].")
    if (np.diff(table[:, 0]) <= 0).any():
        raise IronstoneError(f"The temperatures of {where} do not rise.", "Write them from the coldest on.")
    return table.T.copy()
