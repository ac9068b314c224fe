"""Curves read off a printed picture by marked axes, and the pictures that come with what is kept."""

from __future__ import annotations

import base64
import binascii
import struct
from typing import ClassVar

import numpy as np
from pydantic import Field

from ironstone.core.curves.printed import AxisMarks, read_off
from ironstone.core.errors import IronstoneError
from ironstone.engine.base import keep
from ironstone.engine.curves.records import LARGEST_RECORD, Record, TestOut, understood_as
from ironstone.engine.curves.uses import ColumnUse, TestUse
from ironstone.engine.words import WITH_PICTURES, Strict
from ironstone.formats.tables import number_in, parse_table, write_table
from ironstone.store import Review


class AxisMarksIn(Strict):
    """Two places of a picture (pixels, right and down) where an axis has known values."""

    first: tuple[float, float]
    first_value: float
    second: tuple[float, float]
    second_value: float
    logarithmic: bool = False
    label: str = Field(min_length=1, max_length=60)
    unit: str = Field("", max_length=30)


class PrintedIn(Strict):
    """A printed curve: its picture (PNG or JPEG, a data address), the marks on its axes, the places of its points in order."""

    longest: ClassVar[int] = WITH_PICTURES
    name: str = Field(min_length=1, max_length=80)
    picture: str
    x: AxisMarksIn
    y: AxisMarksIn
    points: list[tuple[float, float]] = Field(min_length=2, max_length=5000)
    pairing: int | None = None


PNG = b"\x89PNG\r\n\x1a\n"


def read_printed(stated: PrintedIn, review: Review) -> TestOut:
    """A printed curve read off its picture by marked axes; the picture is kept with the record."""
    kind, data = picture_of(stated.picture)
    for axis in (stated.x, stated.y):
        if any(number_in(axis.label, point) is not None for point in ".,"):
            raise IronstoneError(f"'{axis.label}' is a number, and no label of an axis.", "Write what the axis is of: force, time.")
    marks = {a: AxisMarks(**getattr(stated, a).model_dump(exclude={"label", "unit"})) for a in "xy"}
    x, y = read_off(np.array(stated.points), marks["x"], marks["y"])
    labels = stated.x.label, stated.y.label if stated.y.label != stated.x.label else f"{stated.y.label} (y)"
    text = write_table(labels, (stated.x.unit, stated.y.unit), (x, y)).encode()
    use = TestUse(
        x=ColumnUse(column=labels[0], unit=stated.x.unit), y=ColumnUse(column=labels[1], unit=stated.y.unit), pairing=stated.pairing
    )
    parse_table(text, stated.name)
    kept = Record(
        name=stated.name,
        attachment=review.attach(f"{stated.name}.csv", "text/csv", text),
        picture=review.attach(f"{stated.name}.{kind}", f"image/{kind}", data),
        printed={"points": len(stated.points), **{a: getattr(stated, a).model_dump() for a in "xy"}},
        use=use,
    )
    return understood_as(review, kept, keep(review, kept))[1]


def picture_of(address: str) -> tuple[str, bytes]:
    """Kind and bytes of a PNG or JPEG that came as a data address."""
    head, _, body = address.partition(",")
    try:
        data = base64.b64decode(body, validate=True)
    except (binascii.Error, ValueError) as error:
        raise IronstoneError("The picture did not arrive whole.", "Try again.") from error
    kind = "png" if data.startswith(PNG) else "jpeg" if data.startswith(b"\xff\xd8\xff") else ""
    if not kind or not head.startswith("data:image/"):
        raise IronstoneError("That is no PNG or JPEG picture.", "Save it as one of the two.")
    if len(data) > LARGEST_RECORD:
        raise IronstoneError(f"The picture is larger than {LARGEST_RECORD // 1024**2} MB.", "Scale it down first.")
    wide, high = _size(kind, data)
    if wide * high > MOST_PIXELS:
        raise IronstoneError(
            f"The picture is said to be {wide} by {high} pixels: more than {MOST_PIXELS // 10**6} million.", "Scale it down first."
        )
    return kind, data


# A picture of more than this fills the memory of whoever looks at it, however small its file is.
MOST_PIXELS = 100_000_000


def _size(kind: str, data: bytes) -> tuple[int, int]:
    """Width and height a PNG or JPEG states of itself. Raises IronstoneError where it states none."""
    if kind == "png" and data[12:16] == b"IHDR" and len(data) >= 24:
        wide, high = struct.unpack(">2I", data[16:24])
        return int(wide), int(high)
    at = 2
    while kind == "jpeg" and at + 9 <= len(data) and data[at] == 0xFF:
        marker, length = data[at + 1], int.from_bytes(data[at + 2 : at + 4], "big")
        # Frames begin with markers C0 to CF, but for those of tables (C4, C8, CC).
        if 0xC0 <= marker <= 0xCF and marker not in (0xC4, 0xC8, 0xCC):
            high, wide = struct.unpack(">2H", data[at + 5 : at + 9])
            return int(wide), int(high)
        at += 2 + length
    raise IronstoneError("The picture does not say how large it is.", "Save it again as PNG or JPEG.")
