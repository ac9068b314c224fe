"""Records that are responses over frequency: how their tables are understood."""

from __future__ import annotations

from ironstone.core.errors import IronstoneError
from ironstone.engine.curves.measured import Measured, columns_of, measured
from ironstone.engine.curves.uses import ColumnUse, TestUse, corrected
from ironstone.formats.tables import Table

# A file of more responses than this is a survey: the rest of it is left to be chosen by column.
MOST_RESPONSES = 40


def responses_of(table: Table) -> list[TestUse]:
    """How the responses over frequency in a table are understood; empty where it is a table of something else."""
    found = columns_of(table)
    if found is None:
        return []

    def use(k: int) -> ColumnUse:
        return ColumnUse(column=table.names[k], unit=table.units[k])

    x = use(found.frequency).model_copy(update={"unit": table.units[found.frequency] or "Hz"})
    return [
        TestUse(x=x, y=use(first), form=form, second=None if second is None else use(second))
        for form, first, second in found.responses[:MOST_RESPONSES]
    ]


def response_in(table: Table, use: TestUse) -> Measured:
    """The response over frequency in a table. Raises IronstoneError where its columns or their units are none."""
    (x, x_unit, _), (y, y_unit, _) = corrected(table, use.x), corrected(table, use.y)
    second = None if use.second is None else corrected(table, use.second)
    rows = slice(use.first - 1, use.last)
    return measured(
        use.form, (x[rows], x_unit), (y[rows], y_unit), None if second is None else (second[0][rows], second[1]),
        use.y.sign * use.y.scale,
    )  # fmt: skip


def responses_in(table: Table, name: str) -> Measured:
    """The first response over frequency in a table. Raises IronstoneError where there is none."""
    found = responses_of(table)
    if not found:
        raise IronstoneError(
            f"{name} has no response over frequency.", "A column of frequencies, and amplitude and phase beside it."
        )
    return response_in(table, found[0])
