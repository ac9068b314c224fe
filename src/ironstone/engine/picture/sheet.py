"""A view with its key and its caption on one sheet, as PNG."""

from __future__ import annotations

import io
from typing import Any

from ironstone.core.picture.colours import INK, SHEET, pieces, table
from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.letters import digits_between, figure, width_of, wrapped, write
from ironstone.engine.picture.view import GROUND, SIZE, Drawn, drawn_view
from ironstone.store import Review

KEY_WIDTH, MARGIN = 160, 16
DOUBT = (122, 79, 16)


def picture_of_view(review: Review, view: InView, size: tuple[int, int] = SIZE, said: str = "") -> bytes:
    """What is in view as a PNG, with key and caption. size: of the model's part, in pixels; said: what it is of beside its reading.

    Raises IronstoneError where there is nothing to draw.
    """
    return sheet_of(drawn_view(review, view, size), size, said)


def sheet_of(drawn: Drawn, size: tuple[int, int], said: str = "") -> bytes:
    """What was drawn as a PNG, with key and caption."""
    from PIL.PngImagePlugin import PngInfo

    sheet = _sheet(drawn, size, said)
    words = PngInfo()
    words.add_itxt("Description", f"{drawn.head.sentence}. {said}".strip())
    stream = io.BytesIO()
    sheet.save(stream, format="PNG", pnginfo=words)
    return stream.getvalue()


def _sheet(drawn: Drawn, size: tuple[int, int], said: str) -> Any:
    from PIL import Image, ImageDraw

    width = size[0] + KEY_WIDTH
    lines = wrapped(drawn.head.sentence, width - 2 * MARGIN, "strong", 15)
    shape = [] if "deformed" in said else drawn.notes
    caveats = [*([f"{said}."] if said else []), *shape, *drawn.head.caveats]
    notes = [line for caveat in caveats for line in wrapped(caveat, width - 2 * MARGIN, "words", 13)]
    foot = 26 + 20 * len(lines) + 17 * len(notes)
    sheet = Image.new("RGB", (width, size[1] + foot), GROUND)
    sheet.paste(Image.fromarray(drawn.pixels), (0, 0))
    drawing = ImageDraw.Draw(sheet)
    _labels(drawing, drawn, size)
    if drawn.head.categories is not None:
        _names(drawing, drawn, size[0] + 12)
    else:
        _key(drawing, drawn, size[0] + 12, min(size[1] - 150, 320))
    drawing.rectangle((0, size[1], width, size[1] + foot), fill=SHEET)
    y = size[1] + 24
    for line in lines:
        write(drawing, (MARGIN, y), line, "strong", 15, INK)
        y += 20
    for line in notes:
        write(drawing, (MARGIN, y), line, "words", 13, DOUBT)
        y += 17
    return sheet


def _labels(drawing: Any, drawn: Drawn, size: tuple[int, int]) -> None:
    """Highest and lowest where they are."""
    low, high = (at.value if at else None for at in (drawn.head.min, drawn.head.max))
    digits = digits_between(low, high)
    taken: list[tuple[float, float]] = []
    for word, value, x, y in drawn.marks:
        if not (0 <= x <= size[0] and 0 <= y <= size[1]):
            continue
        up = -1 if word == "highest" else 1
        drawing.polygon([(x, y + 5 * up), (x + 5, y - 4 * up), (x - 5, y - 4 * up)], fill=INK, outline=SHEET)
        text = f"{word} {figure(value, digits)} {drawn.head.unit}".strip()
        long = width_of(text, "words", 13) + 8
        left = x + 10 if x + 10 + long < size[0] else x - 10 - long
        top = min(max(y - 22, 2), size[1] - 20)
        while any(abs(top - t) < 19 and abs(left - other) < long for other, t in taken):
            top += 20
        taken.append((left, top))
        drawing.rectangle((left, top, left + long, top + 18), fill=SHEET)
        write(drawing, (left + 4, top + 13), text, "words", 13, INK)


def _key(drawing: Any, drawn: Drawn, x: int, height: int) -> None:
    key, head = drawn.key, drawn.head
    top = 34
    write(drawing, (x, top - 12), head.unit or head.words.get("measure", ""), "strong", 13, INK)
    for first, last, colour in pieces(key):
        drawing.rectangle((x, round(top + height * (1 - last)), x + 20, round(top + height * (1 - first))), fill=colour)
    drawing.rectangle((x, top, x + 20, top + height), outline=INK)
    digits = digits_between(key.low, key.high)
    ticks = key.bands if 0 < key.bands <= 12 else 8
    for i in range(ticks + 1):
        at = top + height * (1 - i / ticks)
        write(drawing, (x + 27, at + 4), figure(key.value_at(i / ticks), digits), "figures", 12, INK)
    if key.breaks and key.limit is not None and key.low < key.limit < key.high:
        at = top + height * (1 - key.break_at)
        drawing.rectangle((x - 6, at - 1, x + 26, at + 1), fill=INK)
        write(drawing, (x + 27, at - 6), f"{key.limit:g} fails", "words", 12, INK)
    below = top + height + 24
    beyond = (head.max is not None and (head.max.value or 0.0) > key.high) or (
        head.min is not None and (head.min.value or 0.0) < key.low
    )
    for note in [*(["hatched: outside"] if beyond else []), *(["dotted: no value"] if head.missing > 0 else [])]:
        write(drawing, (x, below), note, "words", 12, INK)
        below += 18
    for word, extreme in (("highest", head.max), ("lowest", head.min)):
        if extreme is None:
            continue
        write(drawing, (x, below), f"{word} {figure(extreme.value, digits)} {head.unit}".rstrip(), "words", 12, INK)
        where = [
            f"el. {extreme.element}" if extreme.element is not None else "",
            f"node {extreme.node}" if extreme.node is not None else "",
        ]
        write(drawing, (x, below + 15), ", ".join(w for w in where if w), "words", 12, INK)
        below += 36


def _names(drawing: Any, drawn: Drawn, x: int) -> None:
    write(drawing, (x, 22), drawn.head.words.get("field", ""), "strong", 13, INK)
    colours = table("batlowS")
    for i, one in enumerate((drawn.head.categories or [])[:20]):
        y = 34 + 20 * i
        drawing.rectangle((x, y, x + 14, y + 12), fill=tuple(int(c) for c in colours[one.colour % len(colours)]))
        for line in wrapped(one.name, KEY_WIDTH - 40, "words", 13)[:1]:
            write(drawing, (x + 20, y + 11), line, "words", 13, INK)
