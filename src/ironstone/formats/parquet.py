"""Tables as Parquet, by the package pyarrow: numbers as numbers, units and the reading in the schema's own words."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from typing import Any

from ironstone.core.errors import IronstoneError


def write_parquet(
    names: Sequence[str], units: Sequence[str | None], columns: Sequence[Sequence[object]], sentence: str = ""
) -> bytes:
    """A table as the bytes of a Parquet file. A column's unit stands in its metadata as 'unit', the reading in the table's.

    Raises IronstoneError where the package pyarrow is not installed.
    """
    try:
        import pyarrow
        from pyarrow import parquet
    except ImportError as error:
        raise IronstoneError(
            "The package pyarrow is not installed: no Parquet can be written.",
            "Install it: pip install 'ironstone[parquet]'; or write CSV or XLSX.",
        ) from error
    apart = [name if names.index(name) == i else f"{name} ({i + 1})" for i, name in enumerate(names)]
    arrays = [_array(pyarrow, column) for column in columns]
    fields = [
        pyarrow.field(name, array.type, metadata={"unit": unit or ""})
        for name, array, unit in zip(apart, arrays, units, strict=True)
    ]
    schema = pyarrow.schema(fields, metadata={"reading": sentence} if sentence else None)
    stream = io.BytesIO()
    parquet.write_table(pyarrow.table(arrays, schema=schema), stream)
    return stream.getvalue()


def _array(pyarrow: Any, column: Sequence[object]) -> Any:
    """A column of numbers with what is missing as null, or of words."""
    values = list(column)
    numbers = [v for v in values if v not in ("", None)]
    if all((isinstance(v, int | float) and not isinstance(v, bool)) or hasattr(v, "dtype") for v in numbers):
        plain = [None if v in ("", None) or math.isnan(float(str(v))) else float(str(v)) for v in values]
        return pyarrow.array(plain, type=pyarrow.float64())
    return pyarrow.array([None if v is None else str(v) for v in values], type=pyarrow.string())
