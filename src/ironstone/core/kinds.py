"""The one table of field kinds: what a field can be, the names it goes by, and what follows from it."""

from __future__ import annotations

from dataclasses import dataclass

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
    by whoever wrote them. signed: the sign of the plain number means something.
    """

    name: str
    ranks: tuple[str, ...]
    names: tuple[str, ...]
    unit: str = ""
    choices: tuple[str, ...] = ()
    single_valued: bool = False
    smoothed: bool = False
    signed: bool = False


_TABLE = (
    Kind("reaction", ("vector",), ("reaction", "reactions", "reaction_force"), "{force}", FORCES, single_valued=True),
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
    ),
    Kind("stress", ("tensor",), ("stress", "stresses", "cauchy_stress", "sigma"), "{stress}", STRESSES, smoothed=True),
    Kind("strain", ("tensor",), ("strain", "strains", "total_strain", "epsilon"), choices=STRAINS, smoothed=True),
    Kind(
        "internal force",
        ("vector",),
        ("internal_force", "internal_forces", "nodal_internal_force"),
        "{force}",
        FORCES,
        single_valued=True,
    ),
    Kind(
        "force",
        ("vector",),
        ("force", "nodal_force", "load", "applied_force", "external_force"),
        "{force}",
        FORCES,
        single_valued=True,
    ),
    Kind("pressure", ("scalar",), ("pressure", "contact_pressure"), "{stress}", STRESSES),
    Kind("thickness", ("scalar",), ("thickness", "shell_thickness"), "{length}", LENGTHS),
    Kind("section force", ("vector",), ("section_force", "section_forces", "membrane_force"), "{force}/{length}"),
    Kind("section moment", ("vector",), ("section_moment", "section_moments"), "{force}"),
    Kind("transverse force", ("vector",), ("transverse_force", "transverse_forces", "transverse_shear_force"), "{force}/{length}"),
    Kind("mid-plane strain", ("vector",), ("midplane_strain", "mid_plane_strain", "membrane_strain"), choices=STRAINS),
    Kind("curvature", ("vector",), ("curvature", "curvatures"), "1/{length}"),
    Kind("ply angle", ("scalar",), ("ply_angle", "ply_angles", "fibre_angle", "fibre_angles"), "deg", signed=True),
    Kind("ply thickness", ("scalar",), ("ply_thickness", "ply_thicknesses"), "{length}", LENGTHS),
    Kind("ply material", ("scalar",), ("ply_material", "ply_materials")),
    Kind("axial force", ("scalar",), ("axial_force", "bar_force", "member_force", "normal_force"), "{force}", FORCES, signed=True),
    Kind("fibre stress", ("scalar",), ("fibre_stress", "fiber_stress", "bending_stress"), "{stress}", STRESSES, signed=True),
    Kind("axial stress", ("scalar",), ("axial_stress", "bar_stress", "member_stress"), "{stress}", STRESSES, signed=True),
    Kind("yielded share", ("scalar",), ("yielded_share", "plastic_share")),
    Kind("section area", ("scalar",), ("section_area", "bar_area", "cross_section_area"), "{length}²"),
    Kind("orientation", ("vector", "matrix"), ("orientation", "material_axes", "material_orientation", "fibre_direction")),
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


def by_ply(name: str) -> bool:
    """Whether an array of this name has a number for each ply."""
    return guess_kind(name, 1)[0].startswith("ply ")


def kinds_of_rank(rank: str) -> tuple[str, ...]:
    """What a field of this rank can be."""
    return tuple(kind.name for kind in _TABLE if rank in kind.ranks)


def guess_kind(name: str, components: int) -> tuple[str, str]:
    """Kind of a field from its name, and the reason: ('stress', "named 'stress'"); ('', '') when nothing fits."""
    plain = name.strip().lower().replace(" ", "_").replace("-", "_")
    words = set(plain.split("_"))
    for exact in (True, False):
        for kind in _TABLE:
            hit = plain in kind.names if exact else any(len(n) > 3 and n in plain for n in kind.names)
            if kind.name == "force" and not exact and words & set(_OTHER_FORCES):
                hit = False
            if hit and any(components in _WIDTH[rank] for rank in kind.ranks):
                return kind.name, f"named '{name}', {components} component{'s' if components > 1 else ''}"
    return "", ""
