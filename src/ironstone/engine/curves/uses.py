"""How a test record is understood: which column is what, in which unit, what is corrected of it, what it is held to."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from ironstone.core.curves.agreement import Correction
from ironstone.engine.curves.measured import Form
from ironstone.engine.words import Sign, Strict
from ironstone.formats.tables import Table


class ColumnUse(Strict):
    """How one column of a record is taken: y' = sign * scale * (y - zero), zero in the column's own unit."""

    column: str
    unit: str | None = None
    sign: Sign = 1
    scale: float = 1.0
    zero: float = 0.0
    smooth: int = Field(1, ge=1, le=100_000)


class LimitsIn(Strict):
    """Accept limits as shares: 0.1 is 10 %."""

    force: float = Field(0.10, ge=0)
    stiffness: float = Field(0.10, ge=0)
    energy: float = Field(0.12, ge=0)
    deviation: float = Field(0.10, ge=0)


class TestUse(Strict):
    """How a record is understood and what it is held to."""

    x: ColumnUse
    y: ColumnUse
    first: int = Field(1, ge=1, description="The first row taken, counted from 1.")
    last: int | None = Field(None, ge=1, description="The last row taken; none: to the end.")
    true: bool = Field(False, description="Engineering strain and stress are converted to true ones.")
    limits: LimitsIn = LimitsIn()
    pairing: int | None = Field(None, description="The curve it is held against; none: whichever is in view.")
    form: Form = Field("", description="Of a response over frequency, what its columns are; '': a plain curve.")
    second: ColumnUse | None = Field(None, description="Of a response: its phase, or its imaginary part; sign: -1: counted back.")
    at: str = Field("", max_length=500, description="Of a response: where in the model it was measured, node:ID, point:X,Y,Z.")


def corrected(table: Table, use: ColumnUse) -> tuple[Any, str | None, list[str]]:
    values, stated = table.column(use.column)
    unit = stated if use.unit is None else use.unit
    correction = Correction(use.column, use.sign, use.scale, use.zero, use.smooth)
    said = correction.words(unit)
    if use.unit is not None and use.unit != stated:
        said.append(f"{use.column}: unit taken as {unit or 'a pure number'}, the file states {stated or 'none'}")
    return correction(values), unit, said
