"""Whether the arrays a VTU file promises can lie in it at all, told from its tags before anything is allocated for them."""

from __future__ import annotations

import mmap
import re
from pathlib import Path

from ironstone.core.errors import IronstoneError
from ironstone.formats.registry import EXPORT_AGAIN

_TAG = re.compile(rb"<(VTKFile|Piece|PointData|CellData|Points|Cells|FieldData|DataArray|AppendedData)\b([^>]{0,2000})>")
_WORD = re.compile(rb'([A-Za-z]+)\s*=\s*["\']([^"\']*)["\']')
_BITS = re.compile(r"\d+$")
# How many bytes of values a byte of the file can hold at most: a compressor's own limit; ascii spends two on a value of eight.
MOST_TIMES = {"": 1.0, "vtkZLibDataCompressor": 1100.0, "vtkLZ4DataCompressor": 260.0, "vtkLZMADataCompressor": 8000.0}
ASCII_TIMES = 4.0
SMALL = 64 * 1024**2


def promised(path: Path) -> list[int]:
    """How many points each piece of the file has, by its heads.

    Raises IronstoneError where an array is said to hold more than the file can.
    """
    pieces: list[int] = []
    size = path.stat().st_size
    times, section, rows = 1.0, b"", {b"Points": 0, b"PointData": 0, b"CellData": 0, b"FieldData": 0}
    with path.open("rb") as stream, mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ) as data:
        for tag in _TAG.finditer(data):
            kind, words = tag[1], {k: v.decode("latin-1") for k, v in _WORD.findall(tag[2])}
            if kind == b"AppendedData":
                return pieces
            if kind == b"VTKFile":
                times = MOST_TIMES.get(words.get(b"compressor", ""), max(MOST_TIMES.values()))
            elif kind == b"Piece":
                points, cells = _number(words.get(b"NumberOfPoints")), _number(words.get(b"NumberOfCells"))
                pieces.append(points)
                rows = {b"Points": points, b"PointData": points, b"CellData": cells, b"FieldData": 0}
            elif kind != b"DataArray":
                section = kind
            else:
                count = rows.get(section, 0) or _number(words.get(b"NumberOfTuples"))
                values = count * max(_number(words.get(b"NumberOfComponents")), 1)
                bits = _BITS.search(words.get(b"type", ""))
                claimed = values * (int(bits[0]) // 8 if bits else 1)
                most = ASCII_TIMES if words.get(b"format", "").lower() == "ascii" else times
                if claimed > max(most * size, SMALL):
                    name = words.get(b"Name", "") or section.decode()
                    raise IronstoneError(
                        f"{path.name}: '{name}' is said to hold {claimed / 1e9:.3g} GB, more than {size / 1e6:.3g} MB of file can.",
                        EXPORT_AGAIN,
                    )
    return pieces


def floating(path: Path) -> set[tuple[str, str]]:
    """The arrays of real numbers a file holds, by its tags: section ('PointData', 'CellData') and name."""
    found: set[tuple[str, str]] = set()
    section = b""
    with path.open("rb") as stream, mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ) as data:
        for tag in _TAG.finditer(data):
            if tag[1] == b"AppendedData":
                break
            if tag[1] != b"DataArray":
                section = tag[1]
                continue
            words = {k: v.decode("latin-1") for k, v in _WORD.findall(tag[2])}
            if words.get(b"type", "").startswith("Float"):
                found.add((section.decode(), words.get(b"Name", "")))
    return found


def points_alone(path: Path) -> bool:
    """Whether the heads of a file's pieces promise points and no cells at all: not a mesh that was cut off."""
    points = cells = 0
    with path.open("rb") as stream, mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ) as data:
        for tag in _TAG.finditer(data):
            if tag[1] == b"Piece":
                words = {k: v.decode("latin-1") for k, v in _WORD.findall(tag[2])}
                if not words.get(b"NumberOfCells", "").strip().isdigit():
                    return False
                points, cells = points + _number(words.get(b"NumberOfPoints")), cells + _number(words[b"NumberOfCells"])
    return points > 0 and cells == 0


def _number(text: str | None) -> int:
    return int(text) if text and text.strip().isdigit() else 0
