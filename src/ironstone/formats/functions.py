"""Curves in universal files (dataset 58), by the package pyuff: columns of a table over their common abscissa."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import pyuff

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.units import known

HINT = "Export the curves again, or as CSV."


def looks_universal(data: bytes) -> bool:
    """Whether these bytes begin as a universal file does: a line of -1, then a number."""
    lines = data[:400].splitlines()[:2]
    return len(lines) == 2 and lines[0].strip() == b"-1" and lines[1].strip()[:3].rstrip(b"b").isdigit()


def read_functions(data: bytes, name: str) -> tuple[list[str], list[str | None], Float]:
    """Names, units and columns of the curves of dataset 58; the first column is the abscissa all of them share.

    Complex curves give four: amplitude, phase in degrees, real and imaginary part. A response has the unit of the ratio it is.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "curves.uff"
        path.write_bytes(data)
        try:
            file = pyuff.UFF(str(path))
            sets: list[dict[str, Any]] = [file.read_sets(i) for i, kind in enumerate(file.get_set_types()) if int(kind) == 58]
        except Exception as error:  # the package raises whatever the text makes it stumble over
            raise IronstoneError(f"{name} is damaged: its curves could not be read ({str(error)[:120]}).", HINT) from error
    if not sets:
        raise IronstoneError(f"{name} holds no curves (dataset 58).", "A universal file with a mesh is taken in as a result.")
    x = np.asarray(sets[0]["x"], dtype=np.float64)
    names, units, columns = [_label(sets[0], "abscissa", "x")], [_unit(sets[0], "abscissa")], [x]
    for index, one in enumerate(sets, start=1):
        if len(one["x"]) != len(x) or not np.allclose(one["x"], x):
            raise IronstoneError(
                f"{name}: curve {index} has another abscissa than the first.", "Export curves of one abscissa together."
            )
        label = str(one.get("id1", "")).strip() or _label(one, "ordinate", f"curve {index}")
        label = label if label not in names else f"{label} {index}"
        y = np.asarray(one["data"])
        unit = _ratio(_unit(one, "ordinate"), _unit(one, "orddenom"))
        for ending, values, in_unit in _columns(y, unit):
            names.append(label + ending)
            units.append(in_unit)
            columns.append(np.asarray(values, dtype=np.float64))
    return names, units, np.stack(columns, axis=1)


def _columns(y: Any, unit: str | None) -> list[tuple[str, Any, str | None]]:
    """What a curve gives: the ending of the name, values, unit."""
    if not np.iscomplexobj(y):
        return [("", y, unit)]
    phase = np.degrees(np.angle(y))
    return [
        (" (amplitude)", np.abs(y), unit),
        (" (phase)", phase, "deg"),
        (" (real)", y.real, unit),
        (" (imaginary)", y.imag, unit),
    ]


def _ratio(above: str | None, below: str | None) -> str | None:
    if below is None or above is None:
        return above
    return f"{above}/({below})" if any(sign in below for sign in "*/ ") else f"{above}/{below}"


def _label(one: dict[str, Any], axis: str, otherwise: str) -> str:
    text = str(one.get(f"{axis}_axis_lab", "")).strip()
    return text if text and text.upper() != "NONE" else otherwise


def _unit(one: dict[str, Any], axis: str) -> str | None:
    text = str(one.get(f"{axis}_axis_units_lab", "")).strip()
    return text if text and text.upper() != "NONE" and known(text) else None
