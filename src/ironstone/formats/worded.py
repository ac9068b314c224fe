"""Tables whose columns are known by name, some of words and some of numbers: gauges, plies, coupons, tested parts. CSV or XLSX."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ironstone.core.errors import IronstoneError
from ironstone.core.units import name_and_unit, tidied
from ironstone.formats.tables import dialect, number_in, text_of

MOST = 20_000


@dataclass(frozen=True)
class Columns:
    """What a table may hold. names: of each column, what files call it, in small letters. needed: without which it is none of these
    tables. words: columns of words; the others hold numbers. how: what to write."""

    names: Mapping[str, Sequence[str]]
    needed: Sequence[str]
    words: Sequence[str]
    how: str
    what: str = "row"


def rows_of(data: bytes, name: str, how: str) -> tuple[list[tuple[int, list[str]]], str]:
    """The rows of a table as they are written, each with the number of its line, and the decimal sign. Raises IronstoneError with
    ``how`` where there is none."""
    text, separator = text_of(data, name)
    lines = [(i, line) for i, line in enumerate(text.splitlines(), start=1) if line.strip() and not line.lstrip().startswith("#")]
    if not lines:
        raise IronstoneError(f"{name} is empty.", how)
    if separator is None:
        separator, decimal = dialect([line for _, line in lines])
    else:
        decimal = "."
    return [(i, [c.strip() for c in next(csv.reader(io.StringIO(line), delimiter=separator))]) for i, line in lines], decimal


def parse_worded(data: bytes, name: str, wanted: Columns) -> tuple[list[dict[str, Any]], dict[str, str | None]]:
    """The rows of a table by column (a number that is not there is None, the number of its line 'line'), and the units stated.

    Raises IronstoneError that says in which line and column something is wrong.
    """
    rows, decimal = rows_of(data, name, wanted.how)
    heads = [name_and_unit(cell) for cell in rows[0][1]]
    columns: dict[str, int] = {}
    for j, (label, _) in enumerate(heads):
        plain = label.strip().lower()
        known = next((k for k, names in wanted.names.items() if plain == k.lower() or plain in names), None)
        if known is not None and known not in columns:
            columns[known] = j
    lacking = [column for column in wanted.needed if column not in columns]
    if lacking:
        raise IronstoneError(f"{name} has no column {', '.join(lacking)}.", wanted.how)
    units = {k: heads[j][1] for k, j in columns.items()}
    body = rows[1:]
    numbers = [k for k in columns if k not in wanted.words]
    if body and _is_units(body[0][1], [columns[k] for k in numbers], decimal):
        for k in numbers:
            cell = body[0][1][columns[k]]
            if units[k] is None and cell:
                units[k] = tidied(cell.strip("[]()")) if cell != "1" else ""
        body = body[1:]
    if not body:
        raise IronstoneError(f"{name} has no {wanted.what}.", wanted.how)
    if len(body) > MOST:
        raise IronstoneError(f"{name} has {len(body)} {wanted.what}s, more than {MOST}.", "Divide it into several.")
    return [_row(cells, line, columns, wanted, name, decimal) for line, cells in body], units


def _is_units(row: list[str], places: Sequence[int], decimal: str) -> bool:
    """Whether a row holds units: no number in it, a unit in every column of numbers that is not empty, and one at least."""
    cells = [row[j] for j in places if j < len(row) and row[j]]
    return bool(cells) and all(
        c == "1" or (number_in(c, decimal) is None and tidied(c.strip("[]()")) is not None) for c in cells
    ) and any(c != "1" for c in cells)  # fmt: skip


def _row(cells: list[str], line: int, columns: Mapping[str, int], wanted: Columns, file: str, decimal: str) -> dict[str, Any]:
    found: dict[str, Any] = {"line": line}
    for column, j in columns.items():
        cell = cells[j] if j < len(cells) else None
        if cell is None:
            raise IronstoneError(f"{file}, line {line}: there is no {column}.", "The line may be cut off.")
        if column in wanted.words:
            found[column] = cell[:200]
            continue
        value = number_in(cell, decimal)
        if value is None or math.isinf(value) or (column in wanted.needed and math.isnan(value)):
            raise IronstoneError(f"{file}, line {line}, column '{column}': '{cell[:40]}' is not a number.", "Mend that line.")
        found[column] = None if math.isnan(value) else value
    return found
