"""What whole numbers of a file are for: they divide the body into parts or materials, mark a set, name something, or count."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Mesh

PARTS, MATERIALS, SET, NAMES, NUMBERS, UNUSED = "parts", "materials", "set", "names", "numbers", "not used"
SAID = {
    PARTS: ("divides the body into parts", "Averages stop where it changes; parts are shown and hidden by it."),
    MATERIALS: ("divides the body into materials", "Averages within a material stop where it changes; constants are stated by it."),
    SET: ("a set, where it is 1", "A set to read and sum over."),
    NAMES: ("names something", "Shown as names; never averaged."),
    NUMBERS: ("plain numbers", "A field like any other."),
    UNUSED: ("not used", "Bare numbers, such as a numbering."),
}
# As many parts as can be told apart in a list.
MOST = 4096


def ways(location: str) -> list[str]:
    """What the whole numbers at a location can be."""
    return [PARTS, MATERIALS, SET, NAMES, NUMBERS, UNUSED] if location == "element" else [SET, NUMBERS, UNUSED]


def divided(name: str, values: NDArray[np.generic]) -> tuple[NDArray[np.int32], tuple[str, ...]]:
    """The place of each element (elements,) among the names that whole numbers give, and the names."""
    distinct, part = np.unique(values, return_inverse=True)
    return part.astype(np.int32), tuple(f"{name} {int(v)}" for v in distinct.tolist())


def refuse(name: str, role: str, values: NDArray[np.floating]) -> None:
    """Raise IronstoneError where whole numbers cannot be what they are stated to be."""
    distinct = np.unique(values)
    if role in (PARTS, MATERIALS, NAMES) and len(distinct) > MOST:
        raise IronstoneError(f"'{name}' has {len(distinct)} different numbers: too many to divide a body.", "Leave it as numbers.")
    if role == SET and not np.isin(distinct, (0, 1)).all():
        raise IronstoneError(f"'{name}' holds other numbers than 0 and 1: it marks no set.", "State it as what divides the body.")


def with_roles(mesh: Mesh, arrays: Mapping[str, tuple[str, str, str, NDArray[np.floating]]]) -> Mesh:
    """A mesh as whole numbers are stated to divide it. arrays: by name where they live, the role they were taken for, the one
    that is stated, and the numbers (entities,). Which points are one node stays as it was taken in."""
    part, part_names = mesh.part, mesh.part_names
    material, material_names = mesh.material, mesh.material_names
    node_sets, element_sets = dict(mesh.node_sets), dict(mesh.element_sets)
    roles = {name: stated for name, (_, _, stated, _) in arrays.items()}
    for name, (location, taken, stated, _) in arrays.items():
        if taken == SET and stated != SET:
            (element_sets if location == "element" else node_sets).pop(name, None)
        if taken == PARTS and stated != PARTS and PARTS not in roles.values():
            part, part_names = np.zeros(len(mesh.types), dtype=np.int32), ("part 1",)
        if taken == MATERIALS and stated != MATERIALS and MATERIALS not in roles.values():
            material, material_names = None, ()
            if part_names and all(p.startswith(f"{name} ") for p in part_names) and PARTS not in roles.values():
                part, part_names = np.zeros(len(mesh.types), dtype=np.int32), ("part 1",)
    for name, (location, _, stated, values) in arrays.items():
        if stated == PARTS:
            part, part_names = divided(name, values)
        elif stated == MATERIALS:
            material, material_names = divided(name, values)
        elif stated == SET:
            marked = np.flatnonzero(values == 1)
            if location == "element":
                element_sets[name] = marked
            else:
                node_sets[name] = marked if location == "node" else np.unique(mesh.connectivity[marked])
    return replace(
        mesh, part=part, part_names=part_names, material=material, material_names=material_names, node_sets=node_sets,
        element_sets=element_sets,
    )  # fmt: skip
