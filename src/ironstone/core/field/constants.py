"""The one table of material constants: what can be stated of a material, and between which bounds it makes sense."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.words import listed


@dataclass(frozen=True)
class Constant:
    """One constant of a material. symbol: as in formulas. unit: a word of the unit system, '' for a pure number. low, high: it
    lies between these, neither of them included."""

    name: str
    label: str
    symbol: str
    unit: str
    low: float
    high: float


CONSTANTS: dict[str, Constant] = {
    c.name: c
    for c in (
        Constant("young", "Young's modulus", "E", "stress", 0.0, np.inf),
        Constant("poisson", "Poisson's ratio", "ν", "", -1.0, 0.5),
        Constant("yield", "Yield strength", "σy", "stress", 0.0, np.inf),
        Constant("ultimate", "Ultimate strength", "σu", "stress", 0.0, np.inf),
        Constant("plastic_limit", "Plastic strain limit", "εp", "", 0.0, np.inf),
        Constant("density", "Density", "ρ", "density", 0.0, np.inf),
    )
}

# What an isotropic elastic material is told by.
ELASTIC = ("young", "poisson")


def checked(values: Mapping[str, float]) -> dict[str, float]:
    """Constants of one material as they are kept. Raises IronstoneError where one is not known or makes no sense."""
    for name, value in values.items():
        found = CONSTANTS.get(name)
        if found is None:
            raise IronstoneError(f"'{name}' is no constant of a material.", f"Constants are: {', '.join(CONSTANTS)}.")
        if not found.low < value < found.high:
            between = f"above {found.low or 'zero'}" if np.isinf(found.high) else f"between {found.low:g} and {found.high:g}"
            raise IronstoneError(f"{found.label} cannot be {value:g}.", f"It lies {between}.")
    return dict(values)


def labels(names: Iterable[str]) -> str:
    """Constants in a sentence: Young's modulus and Poisson's ratio."""
    return listed(CONSTANTS[name].label for name in names)


def lacking(names: Iterable[str], stated: Mapping[str, Mapping[str, float]]) -> list[str]:
    """Which of these constants are stated of no material at all."""
    return [n for n in names if not any(n in of for of in stated.values())]


def table(
    names: Iterable[str], materials: Iterable[str], stated: Mapping[str, Mapping[str, float]]
) -> dict[str, NDArray[np.float64]]:
    """Each constant by material, (materials,) each; NaN where nothing is stated."""
    order = list(materials)
    return {n: np.array([stated.get(m, {}).get(n, np.nan) for m in order], dtype=np.float64) for n in names}
