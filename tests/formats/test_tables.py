from __future__ import annotations

import csv
import io
import tracemalloc
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.errors import IronstoneError
from ironstone.formats.tables import _cells, parse_table, without_formulas, write_table, write_workbook


def test_header_unit_row_and_numbers() -> None:
    table = parse_table(b"Time,Stroke,Load cell\ns,mm,kN\n0,0,0.34\n0.1,1.5,2.0\n")
    assert table.names == ("Time", "Stroke", "Load cell")
    assert table.units == ("s", "mm", "kN")
    assert table.columns.tolist() == [[0, 0, 0.34], [0.1, 1.5, 2.0]]


def test_decimal_commas_and_semicolons() -> None:
    table = parse_table("Weg [mm];Kraft [kN]\n0,5;1,25\n1,0;2,50\n".encode("latin-1"))
    assert table.units == ("mm", "kN")
    assert table.names == ("Weg", "Kraft")
    assert table.columns.tolist() == [[0.5, 1.25], [1.0, 2.5]]
    assert table.decimal == ","


def test_tabs_and_lines_of_talk_above_the_header() -> None:
    table = parse_table(b"Rig 4, specimen F-3\noperator: nobody\nstroke\tload\nmm\tN\n1\t2\n3\t4\n")
    assert table.names == ("stroke", "load")
    assert table.units == ("mm", "N")


@pytest.mark.parametrize(
    ("text", "names", "units"),
    [
        ("Time      Load cell\ns         kN\n0.0  1.5\n0.1  -2e1\n", ("Time", "Load cell"), ("s", "kN")),
        ("time  load\n0.0D+00  1.5d0\n1.0D-01  -2.0D+1\n", ("time", "load"), (None, None)),
        ("time load\n0.0 1.5\n0.1 -20\n", ("time", "load"), (None, None)),
        ("# time  load [kN]\n0.0 1.5\n0.1 -20\n# end of record\n", ("time", "load"), (None, "kN")),
        ("% time,load\n% s,kN\n0.0,1.5\n0.1,-20\n", ("time", "load"), ("s", "kN")),
        ("Zeit  Kraft\ns  kN\n0,0  1,5\n0,1  -20,0\n", ("Zeit", "Kraft"), ("s", "kN")),
        ("time;load;\ns;kN;\n0.0;1.5;\n0.1;-20;\n", ("time", "load"), ("s", "kN")),
        ("time, load\ns, kN\n0.0, 1.5\n0.1, -20\n", ("time", "load"), ("s", "kN")),
        ("strain,stress\n%,MPa\n0.0,1.5\n0.1,-20\n", ("strain", "stress"), ("%", "MPa")),
        ("strain  stress\n%  MPa\n0.0  1.5\n0.1  -20\n", ("strain", "stress"), ("%", "MPa")),
        ("   0.0    1.5\n   0.1  -20\n", ("column 1", "column 2"), (None, None)),
    ],
)
def test_records_as_laboratories_write_them(text: str, names: tuple[str, ...], units: tuple[str | None, ...]) -> None:
    """Columns set by spaces, remarks above and below, decimal commas between spaces, a separator at the end of every line."""
    table = parse_table(text.encode())
    assert table.names == names and table.units == units
    assert table.columns.tolist() == [[0.0, 1.5], [0.1, -20.0]]


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.floats(-1e6, 1e6), st.floats(-1e6, 1e6), st.floats(-1e6, 1e6)), min_size=2, max_size=12),
    st.sampled_from(["\t", ";", ",", "|", " ", "   "]),
    st.booleans(),
)
def test_any_way_of_setting_numbers_apart_gives_them_back(rows: list[tuple[float, ...]], between: str, comma: bool) -> None:
    comma &= between != ","
    lines = [between.join(f"{v:.6f}".replace(".", "," if comma else ".") for v in row) for row in rows]
    table = parse_table("\n".join([between.join(("t", "u", "f")), *lines]).encode())
    assert table.names == ("t", "u", "f")
    assert table.columns == pytest.approx(np.round(np.array(rows), 6), abs=2e-6)


def test_no_header_at_all() -> None:
    table = parse_table(b"1,2\n3,4\n")
    assert table.names == ("column 1", "column 2")
    assert table.units == (None, None)


def test_a_name_row_that_is_no_unit_row_stays_a_header() -> None:
    assert parse_table(b"u,f\n1,2\n3,4\n").names == ("u", "f")


@pytest.mark.parametrize(
    ("text", "answer"),
    [
        (b"", "empty"),
        (b"a,b\nc,d\n", "no row of numbers"),
        (b"x,y\n1,2\n3\n", "line 3: 1 columns where 2"),
        (b"x,y\n1,2\n3,four\n", "line 3, column 'y': 'four' is not a number"),
        (b"x,y\n1,2\n3,inf\n", "not a number"),
        (b"\x00\x01\x02", "not a text file"),
    ],
)
def test_what_is_wrong_is_told_with_its_place(text: bytes, answer: str) -> None:
    with pytest.raises(IronstoneError, match=answer):
        parse_table(text, "record.csv")


def test_a_missing_number_is_missing() -> None:
    assert np.isnan(parse_table(b"x,y\n1,2\n3,\n").columns[1, 1])


number = st.floats(-1e9, 1e9, allow_nan=False)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(number, number), min_size=2, max_size=20))
def test_a_written_table_reads_back(rows: list[tuple[float, float]]) -> None:
    x, y = np.array(rows).T
    table = parse_table(write_table(("stroke", "load"), ("mm", "kN"), (x, y)).encode())
    assert table.names == ("stroke", "load")
    assert table.units == ("mm", "kN")
    assert table.columns == pytest.approx(np.array(rows), rel=1e-9, abs=1e-300)


@settings(max_examples=150, deadline=None)
@given(st.binary(max_size=300))
def test_any_bytes_give_a_table_or_an_error_of_the_family(data: bytes) -> None:
    try:
        parse_table(data)
    except IronstoneError as error:
        assert error.message


def test_a_text_cell_is_no_formula_in_a_spreadsheet() -> None:
    assert "'=1+1" in write_table(("name",), ("",), (["=1+1"],))
    head = write_table(
        ("=cmd()", "-u", "@x", ""), ("", "", "", ""), (["", "-1.5e3", "-2+3", "plain"], [1.0] * 4, [2.0] * 4, [3.0] * 4)
    )
    lines = head.splitlines()
    assert lines[0] == "'=cmd(),'-u,'@x,", "names of columns are guarded too, and an empty one is left empty"
    assert [line.split(",")[0] for line in lines[2:]] == ["", "-1.5e3", "'-2+3", "plain"]


def test_a_workbook_is_read_as_it_was_written() -> None:
    columns = ([0.0, 0.5, 1.25], [1.0, float("nan"), -3e-7])
    back = parse_table(write_workbook(("Stroke", "Load cell"), ("mm", "kN"), columns, "what it is"), "record.xlsx")
    assert back.names == ("Stroke", "Load cell") and back.units == ("mm", "kN")
    assert back.columns[:, 0] == pytest.approx(columns[0])
    assert back.columns[:, 1] == pytest.approx(columns[1], nan_ok=True)


def test_a_damaged_or_empty_workbook_is_told() -> None:
    whole = write_workbook(("a", "b"), (None, None), ([1.0, 2.0], [3.0, 4.0]))
    with pytest.raises(IronstoneError, match="no readable workbook"):
        parse_table(whole[: len(whole) // 2], "cut.xlsx")
    with pytest.raises(IronstoneError, match="no sheet with a table"):
        parse_table(write_workbook((), (), ()), "empty.xlsx")


@given(
    st.lists(st.text(st.characters(blacklist_characters='"\r\n', blacklist_categories=["Cs", "Cc", "Zl", "Zp"])), min_size=1),
    st.sampled_from([",", ";", "\t"]),
)
def test_a_line_without_quotes_has_the_cells_a_csv_parser_finds(cells: list[str], separator: str) -> None:
    line = separator.join(cells)
    found = next(csv.reader([line], delimiter=separator), [""])
    assert _cells(line, separator) == [cell.strip() for cell in found] or line == ""


def test_a_quoted_cell_may_hold_the_separator() -> None:
    assert _cells('"load, static",12', ",") == ["load, static", "12"]


@pytest.mark.parametrize("label", ["=F", "+F", "-F", "@F", "F"])
def test_a_label_that_a_spreadsheet_would_take_for_a_formula_is_read_back_as_it_was(label: str) -> None:
    text = write_table(["u", label], ["mm", "kN"], [[1.0, 2.0], [3.0, 4.0]])
    assert parse_table(text.encode(), "a.csv").names == ("u", label)


def test_no_cell_of_a_table_that_came_along_is_a_formula_and_a_workbook_holds_no_control_character() -> None:
    text = without_formulas('a,"=1+1"\n-2.5,@x\n# =kept, as it is\n')
    assert text.splitlines()[:2] == ["a,'=1+1", "-2.5,'@x"] and "# =kept" in text
    assert write_workbook(["a\x07b"], [None], [["c\x00d"]])


def bomb(texts: int) -> bytes:
    """A small workbook whose list of texts unpacks to so many bytes."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/sharedStrings.xml", b"<sst>" + b"<si><t>a</t></si>" * (texts // 17) + b"</sst>")
        packed.writestr("[Content_Types].xml", b"<Types/>")
    return stream.getvalue()


def test_a_workbook_that_unpacks_to_far_more_than_it_is_is_refused_before_it_is_unpacked() -> None:
    data = bomb(60_000_000)
    assert len(data) < 400_000
    tracemalloc.start()
    with pytest.raises(IronstoneError, match="MB of texts"):
        parse_table(data, "b.xlsx")
    assert tracemalloc.get_traced_memory()[1] < 20_000_000
    tracemalloc.stop()


def test_a_workbook_that_defines_entities_is_refused() -> None:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as packed:
        packed.writestr("xl/workbook.xml", '<?xml version="1.0"?><!DOCTYPE z [<!ENTITY a "aaaa">]><workbook>&a;</workbook>')
    with pytest.raises(IronstoneError, match="entities"):
        parse_table(stream.getvalue(), "e.xlsx")


@pytest.mark.parametrize(("text", "words"), [("1," * 5_000_000, "columns"), ("1,2,3,4\n" * 1_700_000, "million cells")])
def test_a_table_of_too_many_cells_is_refused_at_once(text: str, words: str) -> None:
    with pytest.raises(IronstoneError, match=words):
        parse_table(text.encode(), "large.csv")


@given(st.lists(st.lists(st.floats(-1e12, 1e12), min_size=3, max_size=3), min_size=1, max_size=6), st.booleans())
def test_numbers_read_all_at_once_are_those_read_one_by_one(rows: list[list[float]], gap: bool) -> None:
    lines = [",".join(map(repr, row)) for row in rows] + ([f"{1.5!r},,{2.5!r}"] if gap else [])
    table = parse_table(("a,b,c\n" + "\n".join(lines)).encode(), "t.csv")
    expected = np.array(rows + ([[1.5, np.nan, 2.5]] if gap else []))
    np.testing.assert_array_equal(table.columns[: len(expected)], expected)
