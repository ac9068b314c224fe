"""Words and numbers on a picture, in the fonts that ship with it."""

from __future__ import annotations

import math
from functools import cache
from pathlib import Path
from typing import Any

FONTS = Path(__file__).parents[1] / "fonts"
THIN, MINUS = "\u202f", "\u2212"
FACES = {"words": "InstrumentSans-Regular", "strong": "InstrumentSans-SemiBold", "figures": "SplineSansMono-Regular"}


@cache
def _font(face: str, size: int) -> tuple[Any, frozenset[int]]:
    """A font, and the letters it has."""
    from fontTools.ttLib import TTFont
    from PIL import ImageFont

    if face == "other":
        # What ours have no letter for (Greek, signs) is set in the package matplotlib's own font.
        from matplotlib import get_data_path

        path = Path(get_data_path()) / "fonts/ttf/DejaVuSans.ttf"
    else:
        path = FONTS / f"{FACES[face]}.ttf"
    return ImageFont.truetype(str(path), size), frozenset(TTFont(path, lazy=True).getBestCmap())


def _runs(text: str, face: str, size: int) -> list[tuple[str, Any]]:
    """Pieces of a text, each with the font that has its letters."""
    own, letters = _font(face, size)
    found: list[tuple[str, Any]] = []
    for letter in text:
        font = own if ord(letter) in letters else _font("other", size)[0]
        if found and found[-1][1] is font:
            found[-1] = (found[-1][0] + letter, font)
        else:
            found.append((letter, font))
    return found


def _placed(text: str, face: str, size: int) -> tuple[list[tuple[float, str, Any]], float]:
    """Pieces of a text with where each begins, and how wide all is. Between words stands the same room whatever the font's."""
    found, x, room = [], 0.0, 0.27 * size
    for word in text.replace(THIN, " ").replace("\u2009", " ").split(" "):
        for piece, font in _runs(word, face, size):
            found.append((x, piece, font))
            x += float(font.getlength(piece))
        x += room
    return found, max(x - room, 0.0)


def width_of(text: str, face: str, size: int) -> float:
    """How wide a text is, in pixels."""
    return _placed(text, face, size)[1]


def write(drawing: Any, at: tuple[float, float], text: str, face: str, size: int, colour: tuple[int, int, int]) -> None:
    """Writes a line of text, ``at`` the left end of its base line."""
    for x, piece, font in _placed(text, face, size)[0]:
        drawing.text((at[0] + x, at[1]), piece, font=font, fill=colour, anchor="ls")


def wrapped(text: str, width: float, face: str, size: int) -> list[str]:
    """A text in lines that are no wider; a word that is wider is broken."""
    lines, line = [], ""
    for word in text.split():
        while width_of(word, face, size) > width and len(word) > 1:
            fits = max(1, int(len(word) * width / width_of(word, face, size)) - 1)
            if line:
                lines.append(line)
                line = ""
            lines.append(word[:fits])
            word = word[fits:]
        longer = f"{line} {word}" if line else word
        if line and width_of(longer, face, size) > width:
            lines.append(line)
            line = word
        else:
            line = longer
    return [*lines, line] if line else lines


def figure(value: float | None, digits: int = 4) -> str:
    """A number with so many significant digits, grouped by thin spaces, with a true minus sign, as the bench writes it."""
    if value is None or not math.isfinite(value):
        return "no value"
    if value == 0:
        return "0"
    power = math.floor(math.log10(abs(value)))
    far = power >= 6 or power < -4
    shift = 3 * (power // 3) if far else 0
    decimals = min(max(0, digits - 1 - (power - shift)), 12)
    text = f"{abs(value) / 10.0**shift:.{decimals}f}"
    whole, point, rest = text.partition(".")
    if len(whole) > 4:
        whole = f"{int(whole):,}".replace(",", THIN)
    exponent = f"e{MINUS if shift < 0 else ''}{abs(shift)}" if far and shift else ""
    return f"{MINUS if value < 0 else ''}{whole}{point}{rest}{exponent}"


def digits_between(low: float | None, high: float | None, usual: int = 4) -> int:
    """How many digits tell two values apart; what most need is enough where they differ by as much as they are."""
    if low is None or high is None or not high > low:
        return usual
    apart = math.ceil(math.log10(max(abs(low), abs(high)) / (high - low)) - 1e-9)
    return min(max(usual, apart + usual - 2), 15)
