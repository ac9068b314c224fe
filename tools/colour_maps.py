"""Writes the colour tables the bench ships with, from the package cmcrameri (Crameri, Scientific colour maps, MIT licence).

``python -m tools.colour_maps``: for the page, and for pictures that are drawn without one."""

from __future__ import annotations

import base64
import json
from pathlib import Path

import numpy as np
from cmcrameri import cm

MAPS = ("batlow", "vik", "lapaz", "broc")
WRITTEN = "Written by tools/colour_maps.py from the package cmcrameri."
ROOT = Path(__file__).parents[1]


def table(name: str) -> list[int]:
    """256 colours as 768 numbers from 0 to 255."""
    colours = cm.cmaps[name](np.linspace(0.0, 1.0, 256))[:, :3]
    return [round(255 * float(c)) for c in colours.ravel()]


def names(count: int) -> list[int]:
    """The first colours of batlow's categorical order, for things that have a name and no size."""
    return [round(255 * float(c)) for colour in cm.cmaps["batlowS"].colors[:count] for c in colour[:3]]


def main() -> None:
    lines = [f"export const {name}: number[] = {json.dumps(table(name))};" for name in MAPS]
    lines.append(f"export const batlowS: number[] = {json.dumps(names(24))};")
    (ROOT / "web/src/theme/colourTables.ts").write_text(f"// {WRITTEN}\n" + "\n".join(lines) + "\n")
    found = {name: table(name) for name in MAPS} | {"batlowS": names(24)}
    # Long lines are told to the linter.
    texts = [
        f'    "{name}": "{base64.b64encode(bytes(t)).decode()}",' + ("  # noqa: E501" if len(t) > 90 else "")
        for name, t in found.items()
    ]
    head = f'"""Colour tables, three bytes a colour. {WRITTEN}"""\n\nfrom __future__ import annotations\n\n'
    body = "\n".join(["# fmt: off", "TABLES: dict[str, str] = {", *texts, "}", ""])
    (ROOT / "src/ironstone/core/picture/tables.py").write_text(head + body)


if __name__ == "__main__":
    main()
