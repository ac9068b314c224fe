"""Large tables are read in a process of their own: the same table, the same errors, and an end when nobody waits."""

from __future__ import annotations

import io
import time

import numpy as np
import openpyxl
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.core.wanted import NotWanted, wanted_while
from ironstone.formats import aside, tables
from ironstone.formats.tables import parse_table


@pytest.fixture
def apart(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every table is a large one."""
    monkeypatch.setattr(tables, "LARGE_TEXT", 0)
    monkeypatch.setattr(tables, "LARGE_BOOK", 0)


def workbook(rows: int) -> bytes:
    book = openpyxl.Workbook(write_only=True)
    sheet = book.create_sheet()
    sheet.append(["u [mm]", "F [N]"])
    for i in range(rows):
        sheet.append([0.5 * i, 2.0 * i])
    stream = io.BytesIO()
    book.save(stream)
    return stream.getvalue()


def test_a_workbook_of_many_rows_is_read() -> None:
    """A row was once taken for as wide as a table may be, so that 1,500 rows were too many cells."""
    table = parse_table(workbook(2_500), "many.xlsx")
    np.testing.assert_array_equal(table.columns, np.arange(2_500)[:, None] * [0.5, 2.0])
    assert table.names == ("u", "F") and table.units == ("mm", "N")


@pytest.mark.usefixtures("apart")
@pytest.mark.parametrize("data", [b"u [mm];F [N]\n0,5;1\n1,5;2\n", workbook(3)], ids=["text", "workbook"])
def test_a_table_read_apart_is_the_same_table(data: bytes, monkeypatch: pytest.MonkeyPatch) -> None:
    there = parse_table(data, "t")
    monkeypatch.setattr(aside, "_within", True)
    here = parse_table(data, "t")
    np.testing.assert_array_equal(there.columns, here.columns)
    assert (there.names, there.units, there.separator, there.decimal) == (here.names, here.units, here.separator, here.decimal)


@pytest.mark.usefixtures("apart")
def test_what_is_wrong_with_a_table_is_told_from_there_too() -> None:
    with pytest.raises(IronstoneError, match="line 4, column 'b': 'x' is not a number") as told:
        parse_table(b"a,b\n1,2\n3,4\n5,x\n", "bad.csv")
    assert told.value.hint == "Mend or remove that line."


@pytest.mark.usefixtures("apart")
def test_a_table_nobody_waits_for_is_not_read_on() -> None:
    begun, said = time.monotonic(), []
    with wanted_while(lambda: False, said.append), pytest.raises(NotWanted):
        parse_table(b"a,b\n" + b"1,2\n" * 400_000, "long.csv")
    assert said == ["Reading long.csv"] and time.monotonic() - begun < 5


@pytest.mark.usefixtures("apart")
def test_how_far_a_table_is_is_told_to_who_waits() -> None:
    said: list[str] = []
    with wanted_while(lambda: True, said.append):
        parse_table(b"a,b\n1,\n" + b"1,2\n" * 60_000, "long.csv")
    assert "Reading long.csv: 40\u202f000 rows" in said


@pytest.mark.usefixtures("apart")
def test_a_table_that_takes_too_long_is_given_up(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(aside, "SECONDS", 0.0)
    with pytest.raises(IronstoneError, match="was not read within"):
        parse_table(b"a,b\n1,2\n", "slow.csv")


def dies(_data: bytes, _name: str) -> None:
    raise SystemExit(3)


def test_a_reader_that_ends_without_an_answer_is_an_error() -> None:
    with pytest.raises(IronstoneError, match="the reader stopped"):
        aside.aside(lambda data: True)(dies)(b"x", "odd.csv")
