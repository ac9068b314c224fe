"""Writes the fonts that pictures and the PDF are set in, as TrueType, from the page's packages (SIL Open Font License 1.1).

``python -m tools.fonts``, after ``npm ci``: only needed when those packages change."""

from __future__ import annotations

from io import BytesIO
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

ROOT = Path(__file__).parents[1]
PACKAGES = ROOT / "web/node_modules"
TARGET = ROOT / "src/ironstone/engine/fonts"
WORDS = "@fontsource-variable/instrument-sans/files/instrument-sans-{}-wght-{}.woff2"
FIGURES = "@fontsource/spline-sans-mono/files/spline-sans-mono-{}-400-normal.woff2"
FACES = {
    "InstrumentSans-Regular": (WORDS, "normal", 400, "Instrument Sans", "Regular"),
    "InstrumentSans-SemiBold": (WORDS, "normal", 600, "Instrument Sans", "SemiBold"),
    "InstrumentSans-Italic": (WORDS, "italic", 400, "Instrument Sans", "Italic"),
    "SplineSansMono-Regular": (FIGURES, "", None, "Spline Sans Mono", "Regular"),
}


def face(pattern: str, slope: str, weight: int | None, family: str, style: str) -> TTFont:
    """The Latin letters and the extended ones as one font of one weight."""
    pieces = []
    for letters in ("latin", "latin-ext"):
        font = TTFont(PACKAGES / pattern.format(letters, slope))
        font.flavor = None
        if weight is not None:
            font = instantiateVariableFont(font, {"wght": weight})
        stream = BytesIO()
        font.save(stream)
        stream.seek(0)
        pieces.append(stream)
    merged = Merger().merge(pieces)
    for record in merged["name"].names:
        text = {1: family, 2: style, 4: f"{family} {style}", 6: f"{family}-{style}".replace(" ", ""), 16: family, 17: style}
        if record.nameID in text:
            record.string = text[record.nameID]
    if weight is not None:
        merged["OS/2"].usWeightClass = weight
    return merged


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    for name, of in FACES.items():
        face(*of).save(TARGET / f"{name}.ttf")


if __name__ == "__main__":
    main()
