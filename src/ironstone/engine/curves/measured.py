"""Measured responses over frequency: which columns of a table they are, and what they come to."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.motion.agreement import Response
from ironstone.core.units import conversion, same_kind
from ironstone.formats.tables import Table

# What the columns of a response are; '': it is none.
Form = Literal["", "magnitude-phase", "real-imaginary", "magnitude"]
_FREQUENCY = re.compile(r"\bfreq", re.IGNORECASE)
_PHASE = re.compile(r"\b(phase|phi|angle)\b", re.IGNORECASE)
_REAL, _IMAGINARY = re.compile(r"\b(real|re)\b", re.IGNORECASE), re.compile(r"\b(imaginary|imag|im)\b", re.IGNORECASE)
# Hertz in a unit of frequency. A turn of 2 pi is no pure number here, as it would be to a table of units.
HERTZ = {
    "Hz": 1.0,
    "kHz": 1e3,
    "MHz": 1e6,
    "1/s": 1.0,
    "rad/s": 0.5 / np.pi,
    "radian/s": 0.5 / np.pi,
    "rad/sec": 0.5 / np.pi,
    "rpm": 1 / 60.0,
}


@dataclass(frozen=True)
class Columns:
    """Positions of columns: the frequency, and of each response its form, first and second column."""

    frequency: int
    responses: list[tuple[Form, int, int | None]]


@dataclass(frozen=True, eq=False)
class Measured:
    """A response over increasing frequencies (n,) in Hz, complex where its phase is known; its unit, None where it is not stated;
    what was assumed or done."""

    frequency: Float
    response: Response
    unit: str | None
    said: list[str]


def columns_of(table: Table) -> Columns | None:
    """Which columns of a table are responses over frequency; None where none is a frequency, by its unit or its name."""
    counted = range(len(table.names))
    over = next((k for k in counted if table.units[k] in HERTZ and table.units[k] != "1/s"), None)
    if over is None:
        over = next((k for k in counted if table.units[k] is None and _FREQUENCY.search(table.names[k])), None)
    if over is None or len(table.names) < 2:
        return None
    rest = [k for k in counted if k != over]
    phases = [k for k in rest if table.units[k] in ("deg", "rad", "°", "degree") or _PHASE.search(table.names[k])]
    real = [k for k in rest if _REAL.search(table.names[k])]
    imaginary = [k for k in rest if _IMAGINARY.search(table.names[k])]
    sizes = [k for k in rest if k not in (*phases, *real, *imaginary)]
    if sizes and len(phases) == len(sizes):
        return Columns(over, [("magnitude-phase", a, b) for a, b in zip(sizes, phases, strict=True)])
    if real and len(real) == len(imaginary):
        return Columns(over, [("real-imaginary", a, b) for a, b in zip(real, imaginary, strict=True)])
    return Columns(over, [("magnitude", k, None) for k in sizes]) if sizes else None


def measured(
    form: Form, frequency: tuple[Float, str | None], first: tuple[Float, str | None], second: Any, factor: float
) -> Measured:
    """A response from its columns (n,), each with its unit. factor: what its size was multiplied by, an imaginary part likewise.

    Rows without a number are left out, the others sorted by frequency. Raises IronstoneError where a unit is none of a frequency or
    of a phase, a column is missing, a frequency is told twice, or fewer than four rows are left.
    """
    said: list[str] = []
    f = frequency[0] * _to_hertz(frequency[1], said)
    y: Response = first[0]
    if first[1] in ("dB", "decibel"):
        raise IronstoneError("The amplitude is in decibels.", "Export it as an amplitude: what 0 dB is, is not in the file.")
    if form != "magnitude" and second is None:
        raise IronstoneError(f"A second column is missing: {_SECOND[form]}.", "Choose it, or take the response as amplitude alone.")
    if form == "magnitude-phase":
        y = y * np.exp(1j * second[0] * _to_radians(second[1], said))
    elif form == "real-imaginary":
        y = y + 1j * factor * second[0]
    else:
        said.append("amplitude alone: it has no phase")
    there = np.isfinite(f) & np.isfinite(y)
    if (~there).any():
        said.append(f"{int((~there).sum())} rows without a number left out")
    f, y = f[there], y[there]
    order = np.argsort(f, kind="stable")
    f, y = f[order], y[order]
    if len(f) < 4:
        raise IronstoneError(f"{len(f)} rows are left, too few for a response.", "See its columns and its rows.")
    if not (np.diff(f) > 0.0).all():
        again = float(f[np.flatnonzero(np.diff(f) <= 0.0)[0]])
        raise IronstoneError(f"{again:.6g} Hz is told twice.", "Take the rows of one sweep.")
    return Measured(f, y, first[1], said)


_SECOND = {"magnitude-phase": "the phase", "real-imaginary": "the imaginary part"}


def _to_hertz(unit: str | None, said: list[str]) -> float:
    if not unit:
        said.append("frequency taken as Hz: no unit is stated")
        return 1.0
    if unit not in HERTZ:
        raise IronstoneError(f"A frequency is not told in {unit}.", "Choose its column, and Hz, kHz or rad/s for its unit.")
    return HERTZ[unit]


def _to_radians(unit: str | None, said: list[str]) -> float:
    if not unit:
        said.append("phase taken as degrees: no unit is stated")
        return float(np.pi / 180.0)
    if not same_kind(unit, "rad"):
        raise IronstoneError(f"A phase is not told in {unit}.", "Choose its column, and deg or rad for its unit.")
    return conversion(unit, "rad")[0]
