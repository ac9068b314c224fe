"""The table of an answer as a file: CSV, XLSX or Parquet. What has no value is an empty cell, of numbers as of words."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Literal

from ironstone.core.errors import IronstoneError
from ironstone.engine.carrier import Column

Form = Literal["csv", "xlsx", "parquet"]
FORMS: tuple[Form, ...] = ("csv", "xlsx", "parquet")


def tabled(columns: Sequence[Column], form: Form, sentence: str = "") -> bytes:
    """Columns as the bytes of a file. Raises IronstoneError where the package a form needs is not installed."""
    missing = float("nan")
    numbers = [all(isinstance(v, int | float | None) for v in c.values) for c in columns]
    values = [[(missing if n else "") if v is None else v for v in c.values] for c, n in zip(columns, numbers, strict=True)]
    names, units = [c.name for c in columns], [c.unit for c in columns]
    if form == "parquet":
        from ironstone.formats.parquet import write_parquet

        return write_parquet(names, units, values, sentence)
    from ironstone.formats.tables import write_table, write_workbook

    return write_workbook(names, units, values, sentence) if form == "xlsx" else write_table(names, units, values).encode()


def form_of(path: Path) -> Form:
    """The form a file's suffix names. Raises IronstoneError for another."""
    found = next((form for form in FORMS if path.suffix.lower() == f".{form}"), None)
    if found is None:
        raise IronstoneError(
            f"A table is not written as {path.suffix or 'a file without an ending'}.", f"Name it .{', .'.join(FORMS)}."
        )
    return found
