"""The registry of measures: what scalar can be made of a field. Adding one is one line and one function."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core import tensors
from ironstone.core.errors import Impossible

Float = NDArray[np.float64]


@dataclass(frozen=True)
class Measure:
    """A scalar made of a field of one rank; ``signed`` measures get a colour map with its middle at zero.

    unit: the measure's own, where it is not the field's ('' is a pure number).
    """

    name: str
    label: str
    rank: str
    explanation: str
    signed: bool
    function: Callable[[Float], Float]
    unit: str | None = None


def _component(index: int) -> Callable[[Float], Float]:
    return lambda values: values[..., index]


def _magnitude(vector: Float) -> Float:
    value: Float = np.sqrt((vector**2).sum(-1))
    return value


_TENSOR_COMPONENTS = ("xx", "yy", "zz", "xy", "yz", "xz")
_WHAT = {"xx": "along x", "yy": "along y", "zz": "along z", "xy": "shear xy", "yz": "shear yz", "xz": "shear xz"}

MEASURES: dict[tuple[str, str], Measure] = {
    (m.rank, m.name): m
    for m in (
        Measure("value", "value", "scalar", "The number itself.", False, _component(0)),
        Measure("magnitude", "magnitude", "vector", "Length of the vector.", False, _magnitude),
        *(
            Measure(axis, f"{axis} component", "vector", f"Component along global {axis}.", True, _component(i))
            for i, axis in enumerate("xyz")
        ),
        Measure(
            "von-mises",
            "von Mises",
            "tensor",
            "Distortion as one number; of a stress, against yield.",
            False,
            tensors.von_mises,
        ),
        Measure(
            "signed-von-mises",
            "signed von Mises",
            "tensor",
            "von Mises with the sign of the principal of largest magnitude.",
            True,
            tensors.signed_von_mises,
        ),
        Measure("principal-1", "largest principal", "tensor", "Most tensile principal value.", True, tensors.principal_1),
        Measure("principal-2", "middle principal", "tensor", "Principal value in between.", True, tensors.principal_2),
        Measure("principal-3", "smallest principal", "tensor", "Most compressive principal value.", True, tensors.principal_3),
        Measure(
            "principal-largest",
            "principal of largest magnitude",
            "tensor",
            "The principal farthest from zero, with its sign.",
            True,
            tensors.principal_of_largest_magnitude,
        ),
        Measure("max-shear", "maximum shear", "tensor", "Half the span of the principals.", False, tensors.max_shear),
        Measure("tresca", "Tresca", "tensor", "Span of the principals.", False, tensors.tresca),
        Measure("mean", "mean", "tensor", "A third of the trace.", True, tensors.mean),
        Measure("pressure", "pressure", "tensor", "The mean with its sign turned.", True, tensors.pressure),
        *(
            Measure(name, f"{name} component", "tensor", f"Component {_WHAT[name]}, global axes.", True, _component(i))
            for i, name in enumerate(_TENSOR_COMPONENTS)
        ),
        Measure("triaxiality", "triaxiality", "tensor", "Mean over von Mises: 1/3 in tension.", True, tensors.triaxiality, ""),
        Measure(
            "lode-angle", "Lode angle", "tensor", "0 in tension, 30 in shear, 60 in compression.", False, tensors.lode_angle, "deg"
        ),
        Measure(
            "equivalent-strain",
            "equivalent strain",
            "tensor",
            "sqrt(2/3 e':e') of the strain's deviator.",
            False,
            tensors.equivalent_strain,
        ),
    )
}


def measures_for(rank: str, kind: str = "") -> list[Measure]:
    """The measures that make sense of a field of this rank and kind; the first is the usual one."""
    names = [m for (r, _), m in MEASURES.items() if r == rank]
    if rank == "tensor":
        left_out = ("pressure", "triaxiality", "lode-angle") if "strain" in kind else ("equivalent-strain",)
        names = [m for m in names if m.name not in left_out]
        if "strain" in kind:
            names.sort(key=lambda m: m.name != "equivalent-strain")
            names = [m for m in names if "von-mises" not in m.name]
    return names


def measure(name: str, rank: str, field_name: str = "field", kind: str = "") -> Measure:
    """Find a measure by name; 'value' of a scalar is also what every scalar is asked for by default."""
    found = MEASURES.get((rank, name))
    if found is None:
        known = ", ".join(m.name for m in measures_for(rank, kind))
        raise Impossible(f"'{name}' cannot be taken of {field_name}, which is a {rank} field.", f"It can be read as: {known}.")
    return found
