"""The registry of measures: what scalar can be made of a field. Adding one is one line and one function."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field import tensors

Float = NDArray[np.float64]


@dataclass(frozen=True)
class Measure:
    """A scalar made of a field of one rank; ``signed`` measures get a colour map with its middle at zero.

    unit: the measure's own, where it is not the field's ('' is a pure number). needs: what the function takes beside the
    components: 'plane' (a unit normal), and constants of each row's material. only: 'stress' or 'strain', where it means
    nothing for the other. direction: of a component, which of the axes (or pairs of axes) it is told along.
    names: its numbers name something. limited: it fails at 1.
    """

    name: str
    label: str
    rank: str
    explanation: str
    signed: bool
    function: Callable[..., Float]
    unit: str | None = None
    needs: tuple[str, ...] = ()
    only: str = ""
    direction: int | None = None
    names: bool = False
    limited: bool = False


def _component(index: int) -> Callable[[Float], Float]:
    return lambda values: values[..., index]


def _twice(index: int) -> Callable[[Float], Float]:
    return lambda values: 2.0 * values[..., index]


def _magnitude(vector: Float) -> Float:
    value: Float = np.sqrt((vector**2).sum(-1))
    return value


def _over(values: Float, of: Callable[[Float], Float], limit: str, **limits: Float) -> Float:
    """A measure over the limit of the rows' material."""
    share: Float = of(values) / limits[limit]
    return share


_TENSOR_COMPONENTS = ("xx", "yy", "zz", "xy", "yz", "xz")
_WHAT = {"xx": "along x", "yy": "along y", "zz": "along z", "xy": "shear xy", "yz": "shear yz", "xz": "shear xz"}

_CRITERION = ("criterion",)
# Of plies, in the axes of each. What needs a criterion is worked out in ``reading.plies``.
_PLY_MEASURES = (
    Measure(
        "exposure", "exposure", "ply", "Share of the load to failure, 1 at failure: what plies, places and criteria are ranked by.",
        False, _component(0), "", _CRITERION, "stress", limited=True,
    ),
    Measure(
        "index", "failure index", "ply", "The criterion's own expression, 1 at failure; not linear in the load.",
        False, _component(0), "", _CRITERION, "stress", limited=True,
    ),
    Measure(
        "reserve", "reserve factor", "ply", "What the loads may be multiplied by until failure; not one over the index.",
        False, _component(0), "", _CRITERION, "stress",
    ),
    Measure(
        "mode", "mode of failure", "ply", "In which way the most exposed of these plies fails.",
        False, _component(0), "", _CRITERION, "stress", names=True,
    ),
    Measure(
        "first-ply", "ply that fails first", "ply", "Which of these plies is the most exposed.",
        False, _component(0), "", _CRITERION, "stress", names=True,
    ),
    *(
        Measure(name, f"{name} component", "ply", words, True, _component(i), only="" if i < 3 else "stress")
        for i, (name, words) in enumerate(
            {
                "11": "Along the fibres of the ply.",
                "22": "Across the fibres, in the ply.",
                "12": "Shear in the ply; of a strain the change of the angle.",
                "23": "Shear between the plies, across the fibres.",
                "13": "Shear between the plies, along the fibres.",
            }.items()
        )
    ),
)  # fmt: skip

MEASURES: dict[tuple[str, str], Measure] = {
    (m.rank, m.name): m
    for m in (
        Measure("value", "value", "scalar", "The number itself.", False, _component(0)),
        Measure("magnitude", "magnitude", "vector", "Length of the vector.", False, _magnitude),
        *(
            Measure(axis, f"{axis} component", "vector", f"Component along {axis}.", True, _component(i), direction=i)
            for i, axis in enumerate("xyz")
        ),
        Measure(
            "von-mises",
            "von Mises",
            "tensor",
            "Distortion as one number; of a stress, against yield.",
            False,
            tensors.von_mises,
            only="stress",
        ),
        Measure(
            "signed-von-mises",
            "signed von Mises",
            "tensor",
            "von Mises with the sign of the principal of largest magnitude.",
            True,
            tensors.signed_von_mises,
            only="stress",
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
        Measure("pressure", "pressure", "tensor", "The mean with its sign reversed.", True, tensors.pressure, only="stress"),
        *(
            Measure(name, f"{name} component", "tensor", f"Component {_WHAT[name]}.", True, _component(i), direction=i)
            for i, name in enumerate(_TENSOR_COMPONENTS)
        ),
        Measure(
            "triaxiality",
            "triaxiality",
            "tensor",
            "Mean over von Mises: 1/3 in tension.",
            True,
            tensors.triaxiality,
            "",
            only="stress",
        ),
        Measure(
            "lode-angle",
            "Lode angle",
            "tensor",
            "0 in tension, 30 in shear, 60 in compression.",
            False,
            tensors.lode_angle,
            "deg",
            only="stress",
        ),
        Measure(
            "equivalent-strain",
            "equivalent strain",
            "tensor",
            "sqrt(2/3 e':e') of the strain's deviator.",
            False,
            tensors.equivalent_strain,
            only="strain",
        ),
        Measure(
            "equivalent-elastic-strain",
            "equivalent elastic strain",
            "tensor",
            "Distortion over 1 + nu: von Mises stress over E while elastic.",
            False,
            tensors.equivalent_elastic_strain,
            needs=("poisson",),
            only="strain",
        ),
        *(
            Measure(
                f"gamma-{_TENSOR_COMPONENTS[i]}",
                f"engineering shear {_TENSOR_COMPONENTS[i]}",
                "tensor",
                "The change of the right angle: twice the tensor's shear.",
                True,
                _twice(i),
                only="strain",
                direction=i,
            )
            for i in (3, 4, 5)
        ),
        Measure(
            "plane-normal",
            "normal traction",
            "tensor",
            "Across a plane you choose: n . S n, tension positive.",
            True,
            tensors.normal_on_plane,
            needs=("plane",),
            only="stress",
        ),
        Measure(
            "plane-shear",
            "shear traction",
            "tensor",
            "Along a plane you choose: what the traction has left beside its normal part.",
            False,
            tensors.shear_on_plane,
            needs=("plane",),
            only="stress",
        ),
        *_PLY_MEASURES,
        *(
            Measure(
                f"{name}-utilisation",
                f"utilisation against {words}",
                "tensor",
                f"von Mises over the {words} of the part: 1 is there.",
                False,
                partial(_over, of=tensors.von_mises, limit=name),
                "",
                (name,),
                "stress",
                limited=True,
            )
            for name, words in (("yield", "yield"), ("ultimate", "ultimate strength"))
        ),
        Measure(
            "limit-utilisation",
            "utilisation of the plastic strain limit",
            "scalar",
            "Plastic strain over its limit of the part.",
            False,
            partial(_over, of=_component(0), limit="plastic_limit"),
            "",
            ("plastic_limit",),
            "plastic strain",
            limited=True,
        ),
        Measure(
            "elastic-energy",
            "elastic energy density",
            "tensor",
            "Energy in a unit of volume, from the stress and the material's constants.",
            False,
            tensors.elastic_energy,
            needs=("young", "poisson"),
            only="stress",
        ),
    )
}


def measures_for(rank: str, kind: str = "") -> list[Measure]:
    """The measures that make sense of a field of this rank and kind; the first is the usual one."""
    found = [m for (r, _), m in MEASURES.items() if r == rank]
    if rank in ("tensor", "ply") and kind:
        found = [m for m in found if m.only in ("", "strain" if "strain" in kind else "stress")]
        if "strain" in kind:
            found.sort(key=lambda m: m.name != "equivalent-strain")
    if rank == "scalar":
        found = [m for m in found if m.only in ("", kind)]
    return found


def measure(name: str, rank: str, field_name: str = "field", kind: str = "") -> Measure:
    """Find a measure by name; 'value' of a scalar is also what every scalar is asked for by default."""
    found = MEASURES.get((rank, name))
    if found is None:
        known = ", ".join(m.name for m in measures_for(rank, kind))
        raise Impossible(f"'{name}' cannot be taken of {field_name}, which is a {rank} field.", f"It can be read as: {known}.")
    if found.only and kind and found not in measures_for(rank, kind):
        known = ", ".join(m.name for m in measures_for(rank, kind))
        raise Impossible(f"'{name}' is taken of a {found.only}, and {field_name} is a {kind}.", f"It can be read as: {known}.")
    return found
