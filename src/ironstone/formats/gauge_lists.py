"""Gauge lists as CSV or XLSX: x, y, z required; name, direction, gauge length and what was measured where they are there."""

from __future__ import annotations

from typing import Any

from ironstone.core.units import convert
from ironstone.formats.worded import Columns, parse_worded

LENGTHS = ("x", "y", "z", "length")
GAUGES = Columns(
    names={
        "name": ("name", "gauge", "point", "id", "label"),
        "x": (),
        "y": (),
        "z": (),
        "dx": ("direction x", "direction_x"),
        "dy": ("direction y", "direction_y"),
        "dz": ("direction z", "direction_z"),
        "length": ("gauge length", "gauge_length"),
        "measured": ("value", "reading", "test"),
        "rosette": (),
    },
    needed=("x", "y", "z"),
    words=("name", "rosette"),
    how="The first row names the columns: x, y, z, and perhaps name, dx, dy, dz, length, measured, rosette.",
    what="point",
)


def parse_gauges(data: bytes, name: str, length_unit: str) -> tuple[list[dict[str, Any]], str | None]:
    """Points of a gauge list in ``length_unit``, and the unit of what was measured (None where the file states none).

    Raises IronstoneError that says in which line and column something is wrong.
    """
    points, units = parse_worded(data, name, GAUGES)
    for k, point in enumerate(points, start=1):
        del point["line"]
        point["name"] = (point.get("name") or f"G{k}")[:80]
        if "rosette" in point:
            point["rosette"] = point["rosette"][:80]
        for column in LENGTHS:
            if point.get(column) is not None and units.get(column):
                point[column] = float(convert(point[column], units[column] or "", length_unit))
    return points, units.get("measured")
