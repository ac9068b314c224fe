"""Writes the colour tables the bench ships with, from the package cmcrameri (Crameri, Scientific colour maps, MIT licence)."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
from cmcrameri import cm


def table(name: str) -> list[int]:
    """256 colours as 768 numbers from 0 to 255."""
    colours = cm.cmaps[name](np.linspace(0.0, 1.0, 256))[:, :3]
    return [round(255 * float(c)) for c in colours.ravel()]


def names(count: int) -> list[int]:
    """The first colours of batlow's categorical order, for things that have a name and no size."""
    return [round(255 * float(c)) for colour in cm.cmaps["batlowS"].colors[:count] for c in colour[:3]]


def main(target: Path) -> None:
    lines = [f"export const {name}: number[] = {json.dumps(table(name))};" for name in ("batlow", "vik", "lapaz", "broc")]
    lines.append(f"export const batlowS: number[] = {json.dumps(names(24))};")
    target.write_text("// Written by tools/colour_maps.py from the package cmcrameri.\n" + "\n".join(lines) + "\n")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
