"""Steps made of others, as they come in: one by one, or as a table of factors."""

from __future__ import annotations

from ironstone.core.field.combined import Combination, table_of
from ironstone.core.field.loadings import computed
from ironstone.formats.worded import rows_of
from ironstone.store import Review
from ironstone.store.source import ReviewSource

HOW = "Write a header with the steps (numbers from 0, or their names), then a row a combination: its name, a factor a step."


def read_combinations(data: bytes, name: str, source: ReviewSource) -> list[Combination]:
    """The combinations of a table of factors (CSV, XLSX). Raises IronstoneError that says which cell is wrong."""
    rows, decimal = rows_of(data, name, HOW)
    names = [source.steps[i].loading or source.steps[i].label for i in computed(source.steps)]
    plain = [[cell if k == 0 or decimal == "." else cell.replace(decimal, ".") for k, cell in enumerate(row)] for _, row in rows]
    return table_of(plain, names)


def bring_combinations(review: Review, result: int, data: bytes, name: str) -> None:
    """State the combinations of a table of factors; those of the same names are replaced."""
    review.set_combinations(result, read_combinations(data, name, review.result(result)))
