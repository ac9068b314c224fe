"""Whether a legacy VTK file holds all that its headers promise: VTK's own reader fills in what a cut has taken away.

After the published description of the format (versions 1 to 5.1). Headers are walked through in order; each states how many
numbers of which type follow. What is not known here ends the walk without a verdict: the reader's own complaints decide then.
"""

from __future__ import annotations

import math
import re
from pathlib import Path

from ironstone.core.errors import IronstoneError
from ironstone.formats.registry import EXPORT_AGAIN

BYTES = {
    "unsigned_char": 1, "char": 1, "signed_char": 1, "unsigned_short": 2, "short": 2, "unsigned_int": 4, "int": 4,
    "unsigned_long": 8, "long": 8, "float": 4, "double": 8, "vtkidtype": 4, "vtktypeint64": 8, "vtktypeuint64": 8,
}  # fmt: skip
# Numbers that follow an attribute's header, for each point or cell.
PER_ENTITY = {"VECTORS": 3, "NORMALS": 3, "TENSORS": 9, "TENSORS6": 6, "GLOBAL_IDS": 1, "PEDIGREE_IDS": 1}
SMALL = 1_000_000
_WORD = re.compile(rb"(?m)^[ \t]*[A-Za-z]")


class _Short(Exception):
    """The file ends before what it promises."""


class _Unknown(Exception):
    """Something that is not walked through here."""


class _Large(Exception):
    """The file promises more than it can hold."""

    def __init__(self, count: int) -> None:
        self.count = count


class _Walk:
    def __init__(self, data: bytes) -> None:
        self.data, self.at = data, 0
        self.version = self.line()
        self.line()
        self.binary = self.line().strip().upper() == "BINARY"

    def line(self) -> str:
        """The next line that is not empty; '' at the end. One without its end is not known to be whole."""
        while self.at < len(self.data):
            end = self.data.find(b"\n", self.at)
            if end < 0:
                raise _Short
            text = self.data[self.at : end].decode("latin-1").strip()
            self.at = end + 1
            if text:
                return text
        return ""

    def numbers(self, count: int, kind: str) -> None:
        """Pass so many numbers of a type."""
        size = BYTES.get(kind.lower())
        if size is None:
            raise _Unknown
        if self.binary:
            self.at += count * size
            if self.at > len(self.data):
                raise _Short
            return
        found = _WORD.search(self.data, self.at)
        while found and found[0].strip().lower() in (b"n", b"i") and self.data[found.end() - 1 :][:3].lower() in (b"nan", b"inf"):
            found = _WORD.search(self.data, found.end())
        end = found.start() if found else len(self.data)
        piece = self.data[self.at : end]
        if len(piece.split()) < count or (not found and count and not piece[-1:].isspace()):
            raise _Short
        self.at = end

    def metadata(self) -> None:
        """Lines about the array before, up to an empty one."""
        while self.at < len(self.data):
            end = self.data.find(b"\n", self.at)
            if end < 0:
                raise _Short
            line, self.at = self.data[self.at : end], end + 1
            if not line.strip():
                return


def promised(path: Path) -> None:
    """Raises IronstoneError where the file ends before what its headers promise."""
    try:
        _walk(_Walk(path.read_bytes()))
    except _Short:
        raise IronstoneError(
            f"{path.name} ends before what its headers promise: it was cut off, or lacks the line break at its end.", EXPORT_AGAIN
        ) from None
    except _Large as large:
        size = path.stat().st_size / 1e6
        raise IronstoneError(
            f"{path.name} is said to have {large.count:.3g} points, more than a file of {size:.3g} MB can hold values of.",
            EXPORT_AGAIN,
        ) from None
    except (_Unknown, ValueError, IndexError):
        return


def _walk(walk: _Walk) -> None:
    entities = 0
    while line := walk.line():
        word, *rest = line.split()
        word = word.upper()
        if word in ("POINT_DATA", "CELL_DATA"):
            entities = int(rest[0])
        elif word == "DIMENSIONS":
            points = math.prod(int(n) for n in rest[:3])
            # A grid whose points are not listed has a byte of values at least for each of them, or is nothing to look at.
            if points > max(len(walk.data), SMALL):
                raise _Large(points)
        elif word in ("DATASET", "ORIGIN", "SPACING", "ASPECT_RATIO"):
            continue
        elif word == "METADATA":
            walk.metadata()
        elif word == "POINTS":
            walk.numbers(3 * int(rest[0]), rest[1])
        elif word in ("X_COORDINATES", "Y_COORDINATES", "Z_COORDINATES"):
            walk.numbers(int(rest[0]), rest[1])
        elif word in ("CELLS", "VERTICES", "LINES", "POLYGONS", "TRIANGLE_STRIPS"):
            if "version 5" in walk.version.lower():
                for count in rest[:2]:
                    walk.numbers(int(count), walk.line().split()[1])
            else:
                walk.numbers(int(rest[1]), "int")
        elif word == "CELL_TYPES":
            walk.numbers(int(rest[0]), "int")
        elif word == "FIELD":
            _fields(walk, int(rest[1]))
        elif word == "SCALARS":
            table = walk.line().split()
            if table[0].upper() != "LOOKUP_TABLE":
                raise _Unknown
            walk.numbers(entities * (int(rest[2]) if len(rest) > 2 else 1), rest[1])
        elif word in PER_ENTITY:
            walk.numbers(entities * PER_ENTITY[word], rest[1])
        else:
            raise _Unknown


def _fields(walk: _Walk, count: int) -> None:
    for _ in range(count):
        line = walk.line()
        while line.split()[:1] == ["METADATA"]:
            walk.metadata()
            line = walk.line()
        if not line:
            raise _Short
        _, components, tuples, kind = line.split()
        walk.numbers(int(components) * int(tuples), kind)
