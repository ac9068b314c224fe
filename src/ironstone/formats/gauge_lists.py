"""Gauge lists as CSV or XLSX: x, y, z required; name, direction, gauge length and what was measured where they are there."""

from __future__ import annotations

import csv
import io
import math
from typing import Any

from ironstone.core.errors import IronstoneError
from ironstone.core.units import convert, name_and_unit, tidied
from ironstone.formats.tables import dialect, number_in, text_of

# What a column may be called, in small letters and without its unit.
NAMES = {
    "name": ("name", "gauge", "point", "id", "label"),
    "x": ("x",),
    "y": ("y",),
    "z": ("z",),
    "dx": ("dx", "direction x", "direction_x"),
    "dy": ("dy", "direction y", "direction_y"),
    "dz": ("dz", "direction z", "direction_z"),
    "length": ("length", "gauge length", "gauge_length"),
    "measured": ("measured", "value", "reading", "test"),
    "rosette": ("rosette",),
}
WORDS = ("name", "rosette")
LENGTHS = ("x", "y", "z", "length")
HOW = "The first row names the columns: x, y, z, and perhaps name, dx, dy, dz, length, measured, rosette."
MOST = 20_000


def parse_gauges(data: bytes, name: str, length_unit: str) -> tuple[list[dict[str, Any]], str | None]:
    """Points of a gauge list in ``length_unit``, and the unit of what was measured (None where the file states none).

    Raises IronstoneError that says in which line and column something is wrong.
    """
    text, separator = text_of(data, name)
    lines = [(i, line) for i, line in enumerate(text.splitlines(), start=1) if line.strip() and not line.lstrip().startswith("#")]
    if not lines:
        raise IronstoneError(f"{name} is empty.", HOW)
    if separator is None:
        separator, decimal = dialect([line for _, line in lines])
    else:
        decimal = "."
    rows = [(i, [c.strip() for c in next(csv.reader(io.StringIO(line), delimiter=separator))]) for i, line in lines]
    heads = [name_and_unit(cell) for cell in rows[0][1]]
    columns: dict[str, int] = {}
    for j, (label, _) in enumerate(heads):
        known = next((k for k, names in NAMES.items() if label.strip().lower() in names), None)
        if known is not None and known not in columns:
            columns[known] = j
    lacking = [axis for axis in "xyz" if axis not in columns]
    if lacking:
        raise IronstoneError(f"{name} has no column {', '.join(lacking)}.", HOW)
    units = {k: heads[j][1] for k, j in columns.items()}
    body = rows[1:]
    if body and _is_units(body[0][1], columns, decimal):
        for k, j in columns.items():
            if units[k] is None and body[0][1][j]:
                units[k] = tidied(body[0][1][j].strip("[]()")) if body[0][1][j] != "1" else ""
        body = body[1:]
    if not body:
        raise IronstoneError(f"{name} has no point.", HOW)
    if len(body) > MOST:
        raise IronstoneError(f"{name} has {len(body)} points, more than {MOST}.", "Divide it into several lists.")
    points = [_point(row, line, k, columns, name, decimal) for k, (line, row) in enumerate(body, start=1)]
    for point in points:
        for column in LENGTHS:
            if point.get(column) is not None and units.get(column):
                point[column] = float(convert(point[column], units[column] or "", length_unit))
    return points, units.get("measured")


def _is_units(row: list[str], columns: dict[str, int], decimal: str) -> bool:
    return all(len(row) > columns[a] and number_in(row[columns[a]], decimal) is None for a in "xyz") and all(
        tidied(row[columns[a]].strip("[]()")) is not None for a in "xyz"
    )


def _point(row: list[str], line: int, count: int, columns: dict[str, int], file: str, decimal: str) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for column, j in columns.items():
        cell = row[j] if j < len(row) else None
        if cell is None:
            raise IronstoneError(f"{file}, line {line}: there is no {column}.", "The line may be cut off.")
        if column in WORDS:
            found[column] = cell[:80]
            continue
        value = number_in(cell, decimal)
        if value is None or math.isinf(value) or (column in "xyz" and math.isnan(value)):
            raise IronstoneError(f"{file}, line {line}, column '{column}': '{cell[:40]}' is not a number.", "Mend that line.")
        found[column] = None if math.isnan(value) else value
    found["name"] = found.get("name") or f"G{count}"
    return found
