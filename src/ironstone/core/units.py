"""The one unit table: consistent systems a result can be in, and conversion between units, by pint."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache

import pint

from ironstone.core.errors import IronstoneError


@dataclass(frozen=True)
class UnitSystem:
    """A consistent set of units, chosen at intake; ``name`` is what the analyst and the command line call it."""

    name: str
    length: str
    force: str
    time: str
    mass: str
    stress: str

    def unit_of(self, kind: str) -> str:
        """Unit of a kind of field, '' for pure numbers and for kinds without a known dimension."""
        return {
            "displacement": self.length,
            "coordinates": self.length,
            "velocity": f"{self.length}/{self.time}",
            "acceleration": f"{self.length}/{self.time}²",
            "force": self.force,
            "reaction": self.force,
            "stress": self.stress,
            "pressure": self.stress,
            "time": self.time,
            "thickness": self.length,
            "axial force": self.force,
            "axial stress": self.stress,
            "fibre stress": self.stress,
            "section area": f"{self.length}²",
            "temperature": "K",
        }.get(kind, "")


SYSTEMS: dict[str, UnitSystem] = {
    s.name: s
    for s in (
        UnitSystem("mm-N-s-t-MPa", "mm", "N", "s", "t", "MPa"),
        UnitSystem("m-N-s-kg-Pa", "m", "N", "s", "kg", "Pa"),
        UnitSystem("mm-kN-ms-kg-GPa", "mm", "kN", "ms", "kg", "GPa"),
        UnitSystem("in-lbf-s-psi", "in", "lbf", "s", "lbf*s**2/in", "psi"),
    )
}

ANGLES = ("deg", "rad")

CHOICES: dict[str, tuple[str, ...]] = {
    "stress": ("MPa", "GPa", "kPa", "Pa", "psi", "ksi"),
    "pressure": ("MPa", "GPa", "kPa", "Pa", "psi", "ksi"),
    "displacement": ("mm", "m", "µm", "in"),
    "coordinates": ("mm", "m", "µm", "in"),
    "force": ("N", "kN", "MN", "lbf", "kip"),
    "axial force": ("N", "kN", "MN", "lbf", "kip"),
    "fibre stress": ("MPa", "GPa", "kPa", "Pa", "psi", "ksi"),
    "axial stress": ("MPa", "GPa", "kPa", "Pa", "psi", "ksi"),
    "reaction": ("N", "kN", "MN", "lbf", "kip"),
    "time": ("s", "ms"),
    "temperature": ("K",),
    "strain": ("", "%", "µstrain"),
    "plastic strain": ("", "%", "µstrain"),
}


@cache
def registry() -> pint.UnitRegistry[float]:
    units: pint.UnitRegistry[float] = pint.UnitRegistry(autoconvert_offset_to_baseunit=False)
    units.define("microstrain = 1e-6 = µstrain = ustrain")
    return units


@cache
def factor(source: str, target: str) -> float:
    """What a number in ``source`` is multiplied by to be in ``target``; '' is a pure number."""
    if source == target:
        return 1.0
    try:
        return float(registry().Quantity(1.0, source or "dimensionless").to(target or "dimensionless").magnitude)
    except pint.DimensionalityError as error:
        raise IronstoneError(
            f"{source or 'a pure number'} cannot be turned into {target or 'a pure number'}.",
            "Choose a unit of the same kind.",
        ) from error
    except (pint.UndefinedUnitError, AttributeError, ValueError, TypeError, AssertionError) as error:
        raise IronstoneError(
            f"The unit '{target if known(source) else source}' is not known.", "Write it like kN, mm, MPa, s or in."
        ) from error


def known(unit: str) -> bool:
    """Whether this text is a unit (the empty text is: a pure number)."""
    try:
        registry().Unit(unit or "dimensionless")
    except Exception:  # pint raises a wide family on odd text
        return False
    return True


def name_and_unit(text: str) -> tuple[str, str | None]:
    """'load [kN]' or 'load (kN)' as its name and its unit; None where it ends in no unit that is known."""
    found = re.fullmatch(r"(.*?)\s*[\[(]([^\])]*)[\])]", text)
    if found and found[1] and known(found[2]):
        return found[1], found[2]
    return text, None


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
    """The unit of a quotient, as in kN/mm."""
    if not second:
        return first
    return f"{first or '1'}/{second}"
