"""The one table of field kinds: what a field can be, the names it goes by, and what follows from it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

STRESSES = ("MPa", "GPa", "kPa", "Pa", "psi", "ksi")
LENGTHS = ("mm", "m", "µm", "in")
FORCES = ("N", "kN", "MN", "lbf", "kip")
STRAINS = ("", "%", "µstrain")


@dataclass(frozen=True)
class Kind:
    """What a field of one kind is.

    ranks: scalar, vector, tensor, matrix. names: what files call it; a longer name of a file that holds one of them is taken for
    it too, the first in the table winning. unit: by the words of a unit system ('{length}/{time}'), '' a pure number. choices:
    units it is shown in, beside its own. single_valued: one value at a node by nature. smoothed: node values of it were averaged
    by whoever wrote them. signed: the sign of the plain number means something. own: it belongs to an element and a ply, and is
    never averaged. limited: it fails at 1. worst: which of several plies is told, 'largest' or 'smallest'. naming: its whole
    numbers name something. portion: a share of a whole that falls to a node or an element of its mesh (a force), and is nothing
    between them. adds: a single number of it is linear in the load. stays: it belongs to the model, whatever the load. strained: it
    tells of a body that gives: a rigid one has none.
    """

    name: str
    ranks: tuple[str, ...]
    names: tuple[str, ...]
    unit: str = ""
    choices: tuple[str, ...] = ()
    single_valued: bool = False
    smoothed: bool = False
    signed: bool = False
    own: bool = False
    limited: bool = False
    worst: str = ""
    naming: bool = False
    portion: bool = False
    adds: bool = False
    stays: bool = False
    strained: bool = False


_TABLE = (
    Kind("rotation", ("vector",), ("rotation", "rotations"), "rad", ("rad", "deg"), single_valued=True),
    Kind("moment", ("vector",), ("moment", "moments", "reaction_moment"), "{force}·{length}", single_valued=True, portion=True),
    Kind("reaction", ("vector",), ("reaction", "reactions", "reaction_force"), "{force}", FORCES, single_valued=True, portion=True),
    Kind("displacement", ("vector",), ("displacement", "displacements", "disp", "u"), "{length}", LENGTHS, single_valued=True),
    Kind("velocity", ("vector",), ("velocity", "vel", "v"), "{length}/{time}", single_valued=True),
    Kind("acceleration", ("vector",), ("acceleration", "acc", "accel"), "{length}/{time}²", single_valued=True),
    Kind("temperature", ("scalar",), ("temperature", "temp"), "K", ("K", "degC", "degF"), single_valued=True),
    Kind(
        "plastic strain",
        ("scalar",),
        ("plastic_strain", "equivalent_plastic_strain", "accumulated_plastic_strain"),
        choices=STRAINS,
        smoothed=True,
        strained=True,
    ),
    Kind(
        "stress",
        ("tensor", "scalar"),
        ("stress", "stresses", "cauchy_stress", "sigma", "von_mises", "vonmises", "mises", "tresca"),
        "{stress}",
        STRESSES,
        smoothed=True,
        strained=True,
    ),
    Kind(
        "strain",
        ("tensor", "scalar"),
        ("strain", "strains", "total_strain", "epsilon"),
        choices=STRAINS,
        smoothed=True,
        strained=True,
    ),
    Kind(
        "internal force",
        ("vector",),
        ("internal_force", "internal_forces", "nodal_internal_force"),
        "{force}",
        FORCES,
        single_valued=True,
        portion=True,
    ),
    Kind(
        "force",
        ("vector",),
        ("force", "nodal_force", "load", "applied_force", "external_force"),
        "{force}",
        FORCES,
        single_valued=True,
        portion=True,
    ),
    Kind("pressure", ("scalar",), ("pressure", "contact_pressure"), "{stress}", STRESSES),
    Kind(
        "energy density", ("scalar",), ("energy_density", "strain_energy_density", "sed"), "{stress}", smoothed=True, strained=True
    ),
    Kind("damage", ("scalar",), ("damage", "phase_field"), smoothed=True, strained=True),
    Kind("density", ("scalar",), ("density", "rho", "mass_density"), "{mass}/{length}³", stays=True),
    Kind("contact gap", ("scalar",), ("gap", "contact_gap", "penetration"), "{length}", LENGTHS, signed=True),
    Kind("opening", ("scalar",), (), "{length}", LENGTHS, signed=True),
    Kind("depth inside", ("scalar",), (), "{length}", LENGTHS),
    Kind("thickness", ("scalar",), ("thickness", "shell_thickness"), "{length}", LENGTHS, stays=True),
    Kind("section force", ("vector",), ("section_force", "section_forces", "membrane_force"), "{force}/{length}"),
    Kind("section moment", ("vector",), ("section_moment", "section_moments"), "{force}"),
    Kind("transverse force", ("vector",), ("transverse_force", "transverse_forces", "transverse_shear_force"), "{force}/{length}"),
    Kind("mid-plane strain", ("vector",), ("midplane_strain", "mid_plane_strain", "membrane_strain"), choices=STRAINS),
    Kind("curvature", ("vector",), ("curvature", "curvatures"), "1/{length}"),
    Kind("ply angle", ("scalar",), ("ply_angle", "ply_angles", "fibre_angle", "fibre_angles"), "deg", signed=True, stays=True),
    Kind("ply thickness", ("scalar",), ("ply_thickness", "ply_thicknesses"), "{length}", LENGTHS, stays=True),
    Kind("ply material", ("scalar",), ("ply_material", "ply_materials"), stays=True),
    Kind(
        "failure index",
        ("scalar",),
        ("failure_index", "failure_indices", "max_failure_index", "ply_failure_index"),
        own=True,
        limited=True,
        worst="largest",
    ),
    Kind(
        "reserve factor",
        ("scalar",),
        ("reserve_factor", "strength_ratio", "safety_factor", "factor_of_safety"),
        own=True,
        worst="smallest",
    ),
    Kind("margin", ("scalar",), ("margin_of_safety", "safety_margin", "margin"), signed=True, own=True, worst="smallest"),
    Kind(
        "ply number", ("scalar",), ("ply_number", "critical_ply", "failed_ply", "failing_ply", "worst_ply"), own=True, naming=True
    ),
    Kind("failure mode", ("scalar",), ("failure_mode", "mode_of_failure"), own=True, naming=True),
    Kind("status", ("scalar",), ("status", "ply_status", "failure_status", "contact_status"), own=True, naming=True),
    Kind(
        "axial force",
        ("scalar",),
        ("axial_force", "bar_force", "member_force", "normal_force"),
        "{force}",
        FORCES,
        signed=True,
        adds=True,
    ),
    Kind(
        "fibre stress",
        ("scalar",),
        ("fibre_stress", "fiber_stress", "bending_stress"),
        "{stress}",
        STRESSES,
        signed=True,
        adds=True,
        strained=True,
    ),
    Kind(
        "axial stress",
        ("scalar",),
        ("axial_stress", "bar_stress", "member_stress"),
        "{stress}",
        STRESSES,
        signed=True,
        adds=True,
        strained=True,
    ),
    Kind("yielded share", ("scalar",), ("yielded_share", "plastic_share")),
    Kind("section area", ("scalar",), ("section_area", "bar_area", "cross_section_area"), "{length}²", stays=True),
    Kind(
        "orientation", ("vector", "matrix"), ("orientation", "material_axes", "material_orientation", "fibre_direction"), stays=True
    ),
)

KINDS: dict[str, Kind] = {kind.name: kind for kind in _TABLE}
NOT_KNOWN = Kind("", ("scalar", "vector", "tensor", "matrix"), ())

# Forces of these words are not what is applied from outside.
_OTHER_FORCES = (
    "internal", "residual", "balance", "unbalanced", "contact", "inertia", "damping", "spring", "section", "shear", "normal",
    "axial", "member", "bar", "elastic", "friction", "interface", "net", "total",
)  # fmt: skip
_WIDTH = {"scalar": (1,), "vector": (2, 3), "tensor": (6,), "matrix": (9,)}


def kind_of(name: str) -> Kind:
    """The kind of this name; one of which nothing is known for ''."""
    return KINDS.get(name, NOT_KNOWN)


def naming_kind(plain: str) -> str:
    """What whole numbers of this name ('max_failure_index_ply') stand for: a ply, a mode, a status; '' where it says none."""
    words = plain.split("_")
    if "status" in words or "state" in words:
        return "status"
    if "mode" in words and "failure" in words:
        return "failure mode"
    last = [w for w in words if w not in ("number", "id", "no", "index")][-1:]
    return "ply number" if last and last[0] in ("ply", "layer", "lamina") else ""


def fails(kind: str, values: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Whether values of a kind say failure: an index from 1 on, a reserve down from 1, a margin down from 0; no value says none."""
    if kind == "failure index":
        return np.asarray(values >= 1.0)
    limit = {"reserve factor": 1.0, "margin": 0.0}.get(kind, -np.inf)
    return np.asarray(values <= limit)


def by_ply(name: str) -> bool:
    """Whether an array of this name has a number for each ply."""
    return guess_kind(name, 1)[0].startswith("ply ")


def kinds_of_rank(rank: str) -> tuple[str, ...]:
    """What a field of this rank can be."""
    return tuple(kind.name for kind in _TABLE if rank in kind.ranks)


@cache
def guess_kind(name: str, components: int) -> tuple[str, str]:
    """Kind of a field from its name, and the reason: ('stress', "named 'stress'"); ('', '') when nothing fits."""
    plain = name.strip().lower().replace(" ", "_").replace("-", "_")
    words = set(plain.split("_"))
    usual = [k for k in _TABLE if components in _WIDTH[k.ranks[0]]]
    others = [k for k in _TABLE if components not in _WIDTH[k.ranks[0]] and any(components in _WIDTH[rank] for rank in k.ranks)]
    for table in (usual, others):
        for exact in (True, False):
            for kind in table:
                hit = plain in kind.names if exact else any(len(n) > 3 and n in plain for n in kind.names)
                if kind.name in ("force", "moment") and not exact and words & set(_OTHER_FORCES):
                    hit = False
                if hit and not kind.naming:
                    return kind.name, f"named '{name}', {components} component{'s' if components > 1 else ''}"
    return "", ""
