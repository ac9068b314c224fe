"""Curve tables as CSV or XLSX: a header row, perhaps a unit row, then numbers; any separator, decimal point or comma."""

from __future__ import annotations

import csv
import io
import math
import re
import zipfile
import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.mesh.mesh import Float
from ironstone.core.units import name_and_unit, tidied
from ironstone.formats.aside import aside, far
from ironstone.formats.functions import looks_universal, read_functions

LARGEST = 200_000_000
MOST_ROWS = 1_000_000
# Files a table may come in, by their suffix.
SUFFIXES = (".csv", ".txt", ".tsv", ".dat", ".xlsx")
SPACES = " "
REMARK = "#%"
# A number that stands between spaces.
PLAIN = re.compile(r"[-+\u2212]?(\d[\d.]*(,\d+)?|[.,]\d+)([eEdD][-+]?\d+)?|nan|NaN|n/a|-")


@dataclass(frozen=True, eq=False)
class Table:
    """Named columns of numbers. units: one for each column, None where the file states none."""

    names: tuple[str, ...]
    units: tuple[str | None, ...]
    columns: Float
    separator: str
    decimal: str

    def column(self, wanted: str) -> tuple[Float, str | None]:
        """A column by its name (any case) or its position counted from 1."""
        lowered = [n.lower() for n in self.names]
        if wanted.lower() in lowered:
            index = lowered.index(wanted.lower())
        elif wanted.isdigit() and 1 <= int(wanted) <= len(self.names):
            index = int(wanted) - 1
        else:
            raise NotFound(f"There is no column '{wanted}'.", f"Columns: {', '.join(self.names)}.")
        return self.columns[:, index], self.units[index]


def read_table(path: Path) -> Table:
    """Read a CSV file of a curve; errors say in which line and column."""
    try:
        if path.stat().st_size > LARGEST:
            raise IronstoneError(f"{path.name} is larger than {LARGEST // 1_000_000} MB.", "Thin it out first.")
        data = path.read_bytes()
    except FileNotFoundError as error:
        raise IronstoneError(f"There is no file {path.name}.", "Check the name and the folder.") from error
    return parse_table(data, path.name)


# What is read in a process of its own: text, and workbooks by what they unpack to.
LARGE_TEXT, LARGE_BOOK = 2 * 1024**2, 4 * 1024**2
# How often it is said how far a table is read, in rows.
SAID = 20_000


def _is_large(data: bytes) -> bool:
    """Whether a table takes long enough to be read in a process of its own."""
    if not data.startswith(b"PK\x03\x04"):
        return len(data) > LARGE_TEXT
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            return sum(m.file_size for m in packed.infolist()) > LARGE_BOOK
    except (zipfile.BadZipFile, OSError, EOFError, ValueError):
        return False


@aside(_is_large)
def parse_table(data: bytes, name: str = "the table") -> Table:
    """Read the bytes of a CSV file (UTF-8, or Latin-1 where that fails), an XLSX workbook, or a universal file with curves."""
    if data.startswith(b"PK\x03\x04"):
        return parse_table(_of_workbook(data, name), name)
    if looks_universal(data):
        labels, stated, columns = read_functions(data, name)
        return Table(tuple(labels), tuple(stated), columns, "", ".")
    text, _ = text_of(data, name)
    lines = [(i, line) for i, line in enumerate(text.splitlines(), start=1) if line.strip()]
    if not lines:
        raise IronstoneError(f"{name} is empty.", "Export the record as CSV with a header row.")
    _bounded(lines, name)
    remarks = {i for i, line in lines if line.lstrip()[0] in REMARK}
    separator, decimal = dialect([line for i, line in lines if i not in remarks] or [line for _, line in lines])
    try:
        rows = [_cells(line, separator) for _, line in lines]
    except (csv.Error, StopIteration) as error:
        raise IronstoneError(f"{name} is not a table: {error}.", "Export the record as CSV.") from error
    first = next((k for k, row in enumerate(rows) if lines[k][0] not in remarks and _all_numbers(row, decimal)), None)
    if first is None:
        raise IronstoneError(f"{name} has no row of numbers.", "A record needs a header row, perhaps a unit row, then numbers.")
    width = len(rows[first])
    names, units = _head([_head_cells(line, separator, width) for _, line in lines[:first]], width)
    answer = [k for k in range(first, len(lines)) if lines[k][0] not in remarks]
    lines, rows, first = [lines[k] for k in answer], [rows[k] for k in answer], 0
    plain = _plain_numbers(rows, width, decimal)
    values = np.empty((len(rows) - first, width)) if plain is None else plain
    if plain is not None:
        rows = []
    for i, row in enumerate(rows[first:]):
        line = lines[first + i][0]
        if i % SAID == 0:
            far(name, i)
        if len(row) != width:
            raise IronstoneError(
                f"{name}, line {line}: {len(row)} columns where {width} were expected.", "The file may be cut off there."
            )
        for j, cell in enumerate(row):
            number = number_in(cell, decimal)
            if number is None or math.isinf(number):
                raise IronstoneError(
                    f"{name}, line {line}, column '{names[j]}': '{cell[:40]}' is not a number.",
                    "Mend or remove that line.",
                )
            values[i, j] = number
    # A separator that ends every line leaves a column behind that has neither name nor number.
    kept = [j for j in range(width) if names[j] != f"column {j + 1}" or not np.isnan(values[:, j]).all()]
    return Table(tuple(names[j] for j in kept), tuple(units[j] for j in kept), values[:, kept], separator, decimal)


# What a table may hold, beyond which nobody reads it here.
MOST_CELLS, MOST_COLUMNS, MOST_WORDS = 6_000_000, 4_000, 100_000


def _bounded(lines: Sequence[tuple[int, str]], name: str) -> None:
    """Raise IronstoneError for a table that is too large to be one of a test, before it is taken apart."""
    cells = 0
    for number, line in lines:
        marked = max(line.count(separator) for separator in ("\t", ";", "|", ",")) + 1
        # Words of a remark are no columns, but neither are they without end.
        spaced = line.count(" ") + 1
        if marked > MOST_COLUMNS or spaced > MOST_WORDS:
            raise IronstoneError(f"{name}, line {number}: more than {MOST_COLUMNS} columns.", "Export fewer columns.")
        cells += max(marked, spaced)
        if cells > MOST_CELLS:
            raise IronstoneError(f"{name} has more than {MOST_CELLS // 10**6} million cells.", "Thin it out first.")


def _plain_numbers(rows: Sequence[Sequence[str]], width: int, decimal: str) -> Float | None:
    """All rows as numbers at once, where every cell is one as computers write them; None where any is not."""
    if decimal != "." or any(len(row) != width for row in rows):
        return None
    try:
        values: Float = np.array(rows, dtype=np.float64)
    except ValueError:
        return None
    return values if np.isfinite(values).all() else None


def _cells(line: str, separator: str) -> list[str]:
    if separator == SPACES:
        return line.split()
    # Without quotes a line needs no parser, which takes ten times as long.
    plain = '"' not in line and len(line) < csv.field_size_limit()
    cells = line.split(separator) if plain else next(csv.reader(io.StringIO(line), delimiter=separator))
    return [cell.strip() for cell in cells]


def _head_cells(line: str, separator: str, width: int) -> list[str]:
    """Cells of a line above the numbers, without the mark of a remark; names may hold single spaces where spaces separate."""

    def cells(text: str) -> list[str]:
        wide = re.split(r"\t|\s{2,}", text.strip())
        return wide if separator == SPACES and len(wide) == width else _cells(text, separator)

    plain = cells(line)
    # A per cent sign alone in a column is a unit.
    if line.lstrip()[0] not in REMARK or (len(plain) == width and plain[0] == "%"):
        return plain
    return cells(line.strip().lstrip(REMARK))


@aside(_is_large)
def _of_workbook(data: bytes, name: str) -> bytes:
    """The first sheet of an XLSX workbook that holds a table, as text with tabs between cells."""
    import openpyxl

    _unpacked_in_bounds(data, name)
    try:
        book = openpyxl.load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        for sheet in book.worksheets:
            rows, cells = [], 0
            # What a sheet says of its size is not believed: each row is as long as its own last cell.
            sheet.reset_dimensions()
            for row in sheet.iter_rows(values_only=True, max_row=MOST_ROWS):
                rows.append([_plain(c) for c in row])
                cells += len(row)
                if len(rows) % SAID == 0:
                    far(name, len(rows))
                if cells > MOST_CELLS:
                    raise _TooMuch
            rows = [row for row in rows if any(row)]
            width = max((max(i for i, c in enumerate(row) if c) + 1 for row in rows), default=0)
            if len(rows) > 1 and width:
                return "\n".join("\t".join((row + width * [""])[:width]) for row in rows).encode("utf-8")
    except _TooMuch as error:
        raise IronstoneError(f"{name} has more than {MOST_CELLS // 10**6} million cells.", "Thin it out first.") from error
    except Exception as error:  # openpyxl raises a wide family on a damaged file
        raise IronstoneError(f"{name} is no readable workbook.", "Save it again as XLSX, or export the sheet as CSV.") from error
    raise IronstoneError(f"{name} has no sheet with a table.", "A record needs a header row, perhaps a unit row, then numbers.")


class _TooMuch(Exception):
    """More cells than a table may have."""


# What a workbook may unpack to, all of it and the list of its texts, and how many files it may be made of.
UNPACKED, TEXTS, FILES = 256 * 1024**2, 32 * 1024**2, 2_000


def _unpacked_in_bounds(data: bytes, name: str) -> None:
    """Raise IronstoneError for a workbook that unpacks to far more than it says, or whose XML defines entities of its own."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            members = packed.infolist()
            if len(members) > FILES or sum(m.file_size for m in members) > UNPACKED:
                raise IronstoneError(f"{name} unpacks to more than {UNPACKED // 1024**2} MB.", "Export the sheet as CSV.")
            for member in members:
                if member.filename.endswith("sharedStrings.xml") and member.file_size > TEXTS:
                    raise IronstoneError(f"{name} holds more than {TEXTS // 1024**2} MB of texts.", "Export the sheet as CSV.")
                if member.filename.endswith((".xml", ".rels")):
                    with packed.open(member) as stream:
                        if b"<!DOCTYPE" in stream.read(4096):
                            raise IronstoneError(f"{name} defines entities of its own.", "Save it again as XLSX.")
    except (zipfile.BadZipFile, OSError, EOFError, NotImplementedError, RuntimeError, ValueError, zlib.error) as error:
        raise IronstoneError(f"{name} is no readable workbook.", "Save it again as XLSX, or export the sheet as CSV.") from error


def _plain(value: object) -> str:
    if value is None:
        return ""
    return repr(float(value)) if isinstance(value, (int, float)) and not isinstance(value, bool) else " ".join(str(value).split())


def text_of(data: bytes, name: str) -> tuple[str, str | None]:
    """The text of a CSV file, or of a workbook's first table; of the latter also what separates its cells."""
    if data.startswith(b"PK\x03\x04"):
        return _of_workbook(data, name).decode("utf-8"), "\t"
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if "\x00" in text:
        raise IronstoneError(f"{name} is not a text file.", "Export the record as CSV.")
    return text, None


def dialect(lines: Sequence[str]) -> tuple[str, str]:
    """What separates the cells of these lines, and what marks their decimals."""
    sample = lines[: min(len(lines), 50)]
    body = sample[len(sample) // 2 :]
    best, width = ",", 0
    for separator in ("\t", ";", "|", SPACES, ","):
        counts = [len(line.split()) - 1 if separator == SPACES else line.count(separator) for line in body]
        # A decimal comma also counts as a comma: a steady tab, semicolon, bar or run of spaces wins, where the commas are decimal.
        steady = min(counts) > 0 and min(counts) == max(counts) and width == 0
        if steady and (separator != SPACES or all(PLAIN.fullmatch(cell) for line in body for cell in line.split())):
            best, width = separator, counts[0]
    decimal = "," if best != "," and any(re.search(r"\d,\d", line) for line in body) else "."
    return best, decimal


def number_in(cell: str, decimal: str) -> float | None:
    """The number in a cell, NaN for an empty one; None where it is no number."""
    if cell == "" or cell.lower() in ("nan", "n/a", "-"):
        return float("nan")
    plain = cell.replace("\u202f", "").replace("\u00a0", "").replace("\u2212", "-").replace(" ", "")
    if decimal == ",":
        plain = plain.replace(".", "").replace(",", ".")
    # A D in place of the E of the exponent is a double's.
    plain = re.sub(r"(?<=[\d.])[dD](?=[-+]?\d+$)", "e", plain)
    try:
        return float(plain)
    except ValueError:
        return None


def _all_numbers(row: list[str], decimal: str) -> bool:
    numbers = [number_in(cell, decimal) for cell in row]
    return bool(numbers) and all(n is not None for n in numbers) and any(n == n for n in numbers if n is not None)


def _head(rows: list[list[str]], width: int) -> tuple[list[str], list[str | None]]:
    # A unit row that states none names nothing either.
    rows = [row for row in rows if len(row) == width and any(row)]
    names = [f"column {i + 1}" for i in range(width)]
    units: list[str | None] = [None] * width
    if rows:
        rows = [[_as_written(cell) for cell in row] for row in rows]
        last = [re.sub(r"^[\[(](.*)[\])]$", r"\1", cell) for cell in rows[-1]]
        tidy = ["" if cell == "1" else tidied(cell) for cell in last]
        if len(rows) > 1 and all(unit is not None for unit in tidy) and any(last):
            units = list(tidy)
            rows = rows[:-1]
    if rows:
        for i, cell in enumerate(rows[-1]):
            label, unit = name_and_unit(cell)
            if unit is not None and units[i] is None:
                names[i], units[i] = label, unit
            elif cell:
                names[i] = cell
    seen: dict[str, int] = {}
    for i, label in enumerate(names):
        seen[label] = seen.get(label, 0) + 1
        if seen[label] > 1:
            names[i] = f"{label} {seen[label]}"
    return names, units


def _as_written(cell: str) -> str:
    """A label as it was before ``_cell`` made sure that no spreadsheet takes it for a formula."""
    return cell[1:] if re.match(r"'[=@+\-]", cell) else cell


def without_formulas(text: str) -> str:
    """A table as CSV text with no cell that a spreadsheet would take for a formula; lines that begin with # stay as they are."""
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\n")
    for line in csv.reader(io.StringIO(text)):
        writer.writerow(line if line and line[0].startswith("#") else [_cell(cell) for cell in line])
    return stream.getvalue()


def write_table(names: Sequence[str], units: Sequence[str | None], columns: Sequence[Sequence[object] | Float]) -> str:
    """CSV text with a header row and a unit row; missing values are left empty."""
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow([_cell(n) for n in names])
    writer.writerow(["" if u is None else (u or "1") for u in units])
    for row in zip(*columns, strict=True):
        writer.writerow([_cell(value) for value in row])
    return stream.getvalue()


def _cell(value: object) -> str:
    if isinstance(value, (float, np.floating)):
        return "" if math.isnan(value) else f"{float(value):.10g}"
    # Characters no workbook may hold.
    text = re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f]", " ", str(value))
    # A cell that a spreadsheet would take for a formula is written as text.
    risky = text.startswith(("=", "@", "+", "-", "\t", "\r")) and not re.fullmatch(r"[+-]?[\d.]+([eE][+-]?\d+)?", text)
    return f"'{text}" if risky else text


def write_workbook(
    names: Sequence[str], units: Sequence[str | None], columns: Sequence[Sequence[object] | Float], sentence: str = ""
) -> bytes:
    """The same table as an XLSX workbook, numbers as numbers; the reading stands on a sheet of its own."""
    import openpyxl

    book = openpyxl.Workbook(write_only=True)
    sheet = book.create_sheet("values")
    sheet.append([_cell(n) for n in names])
    sheet.append(["" if u is None else (u or "1") for u in units])
    for row in zip(*columns, strict=True):
        sheet.append([_value(value) for value in row])
    if sentence:
        book.create_sheet("reading").append([_cell(sentence)])
    stream = io.BytesIO()
    book.save(stream)
    return stream.getvalue()


def _value(value: object) -> object:
    if isinstance(value, (float, np.floating)):
        return None if math.isnan(value) else float(value)
    return int(value) if isinstance(value, (int, np.integer)) else _cell(value)
