"""The one unit table: consistent systems a result can be in, and conversion between units, by pint."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.kinds import kind_of

if TYPE_CHECKING:
    import pint

Float = NDArray[np.float64]


@dataclass(frozen=True)
class UnitSystem:
    """A consistent set of units, chosen at intake; ``name`` is what the analyst and the command line call it."""

    name: str
    length: str
    force: str
    time: str
    mass: str
    stress: str

    @property
    def density(self) -> str:
        return f"{self.mass}/{self.length}³"

    def unit_of(self, kind: str) -> str:
        """Unit of a kind of field, '' for pure numbers and for kinds without a known dimension."""
        return kind_of(kind).unit.format(length=self.length, force=self.force, time=self.time, stress=self.stress, mass=self.mass)


SYSTEMS: dict[str, UnitSystem] = {
    s.name: s
    for s in (
        UnitSystem("mm-N-s-t-MPa", "mm", "N", "s", "t", "MPa"),
        UnitSystem("m-N-s-kg-Pa", "m", "N", "s", "kg", "Pa"),
        UnitSystem("mm-kN-ms-kg-GPa", "mm", "kN", "ms", "kg", "GPa"),
        UnitSystem("mm-kN-s-Gg-GPa", "mm", "kN", "s", "Gg", "GPa"),
        UnitSystem("ft-lbf-s-slug", "ft", "lbf", "s", "slug", "lbf/ft²"),
        UnitSystem("in-lbf-s-psi", "in", "lbf", "s", "lbf*s**2/in", "psi"),
    )
}

ANGLES = ("deg", "rad")
# Units whose letters are often written in another case; those that would then mean something else are left alone.
_LETTERS = ("N", "kN", "MN", "Pa", "kPa", "MPa", "GPa", "psi", "ksi", "mm", "m", "cm", "s", "ms", "sec", "kip", "lbf", "Hz", "kHz")
_CASES = {unit.lower(): unit for unit in _LETTERS}
# What is known in capitals as something that no record of a test is in.
_MEANT = {"MM": "mm", "CM": "cm", "SEC": "s"}
_STEPS = {"degC": "K", "°C": "K", "celsius": "K", "degF": "delta_degF", "°F": "delta_degF", "fahrenheit": "delta_degF"}


@cache
def registry() -> pint.UnitRegistry[float]:
    import pint

    units: pint.UnitRegistry[float] = pint.UnitRegistry(autoconvert_offset_to_baseunit=False)
    units.define("microstrain = 1e-6 = µstrain = ustrain")
    return units


# A unit as texts have them: letters, signs and small whole powers, never a power of a power, never arithmetic on large numbers.
LONGEST_UNIT = 60
_SIGNS = re.compile(r"[A-Za-z0-9 _.*/^()\-+%°µμΩ·²³⁴¹⁻]*")
_NUMBER = re.compile(r"\d+(?:\.\d+)?(?:[eE][-+]?\d{1,3})?")
_POWER = re.compile(r"(?:\*\*|\^)\s*(?:\(\s*([-+]?\d+)\s*\)|([-+]?\d+(?:\.\d+)?))(?!\s*(?:\*\*|\^))(?![\d.eE])")
LARGEST_POWER = 12


def _bounded(unit: str) -> bool:
    """Whether a text can be a unit at all: looked at before anything is worked out, which odd powers would make take for ever."""
    if len(unit) > LONGEST_UNIT or not _SIGNS.fullmatch(unit):
        return False
    if any(len(number) > 12 for number in _NUMBER.findall(unit)):
        return False
    powers = _POWER.findall(unit)
    if len(re.findall(r"\*\*|\^", unit)) != len(powers):
        return False
    return all(abs(float(one or other)) <= LARGEST_POWER for one, other in powers)


@cache
def conversion(source: str, target: str) -> tuple[float, float]:
    """(factor, offset) by which a number in ``source`` is one in ``target``: value * factor + offset; '' is a pure number.

    The offset is that of scales with a zero of their own (degC, degF); of everything else it is 0.
    """
    if source == target:
        return 1.0, 0.0
    for unit in (source, target):
        if not _bounded(unit):
            raise IronstoneError(f"The unit '{unit[:LONGEST_UNIT]}' is not known.", "Write it like kN, mm, MPa, s or in.")
    import pint

    try:
        units = registry()
        turned = [float(units.Quantity(v, source or "dimensionless").to(target or "dimensionless").magnitude) for v in (0.0, 1.0)]
        return turned[1] - turned[0] if turned[0] else turned[1], turned[0]
    except pint.DimensionalityError as error:
        raise IronstoneError(
            f"{source or 'a pure number'} cannot be converted to {target or 'a pure number'}.",
            "Choose a unit of the same kind.",
        ) from error
    except (pint.UndefinedUnitError, pint.OffsetUnitCalculusError, AttributeError, ValueError, TypeError, AssertionError) as error:
        raise IronstoneError(
            f"The unit '{target if known(source) else source}' is not known.", "Write it like kN, mm, MPa, s or in."
        ) from error


def convert(values: Float, source: str, target: str) -> Float:
    """Numbers in ``source`` as numbers in ``target``."""
    scale, offset = conversion(source, target)
    result: Float = np.asarray(values, dtype=np.float64) * scale + offset
    return result


def difference_unit(unit: str) -> str:
    """The unit of a difference of two numbers in this one: of a scale with a zero of its own, its step ('K' of 'degC')."""
    return _STEPS.get(unit, unit)


def known(unit: str) -> bool:
    """Whether this text is a unit (the empty text is: a pure number)."""
    if not _bounded(unit):
        return False
    try:
        registry().Unit(unit or "dimensionless")
    except Exception:  # pint raises a wide family on odd text
        return False
    return True


def tidied(text: str) -> str | None:
    """A unit as laboratories write it, as one that is known: N/mm2, N/mm^2, KN, Mpa, kN.m; None where it is none."""
    text = _MEANT.get(text.strip(), text.strip())
    if known(text):
        return text
    plain = re.sub(r"(?<=[A-Za-z])(-[1-4]|[234])\b", r"**\1", text)
    plain = re.sub(r"(?<=[A-Za-z])-(?=[A-Za-z])", "*", plain)
    for found in (plain, re.sub(r"[A-Za-zµ]+", lambda m: _CASES.get(m[0].lower(), m[0]), plain)):
        if known(found):
            return found
    return None


def name_and_unit(text: str) -> tuple[str, str | None]:
    """'load [kN]' or 'load (kN)' as its name and its unit; None where it ends in no unit that is known."""
    found = re.fullmatch(r"(.*?)\s*[\[(]([^\])]*)[\])]", text)
    unit = tidied(found[2]) if found and found[1] else None
    return (found[1], unit) if found and unit is not None else (text, None)


def same_kind(first: str, second: str) -> bool:
    """Whether two units measure the same kind of quantity."""
    if not (known(first) and known(second)):
        return False
    units = registry()
    return bool(units.Unit(first or "dimensionless").dimensionality == units.Unit(second or "dimensionless").dimensionality)


def product(first: str, second: str) -> str:
    """The unit of a product, as in kN·mm, in the analyst's own units (nothing is reduced)."""
    return "·".join(u for u in (first, second) if u)


def ratio(first: str, second: str) -> str:
    """The unit of a quotient, as in kN/mm; of a unit that is a quotient or product itself worked out, as in kN·s/mm."""
    if not second:
        return first
    if any(mark in second for mark in "/·*") and known(first) and known(second):
        units = registry()
        return f"{units.Unit(first or 'dimensionless') / units.Unit(second):~P}"
    return f"{first or '1'}/{second}"
