"""A mesh as arrays of a review: what each is called, and back."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, select
from sqlalchemy.orm import Session

from ironstone.core.mesh.mesh import Int, Mesh
from ironstone.store import arrays
from ironstone.store.models import ArrayRow, ResultRow


def write_mesh(connection: Connection, result_id: int, mesh: Mesh) -> None:
    """Store a mesh under its result. The caller commits."""
    plain: dict[str, NDArray[Any]] = {
        "points": mesh.points,
        "types": mesh.types,
        "offsets": mesh.offsets,
        "connectivity": mesh.connectivity,
        "node ids": mesh.node_ids,
        "element ids": mesh.element_ids,
        "part": mesh.part,
    }
    if mesh.material is not None:
        plain["material"] = mesh.material
    if mesh.breaks is not None:
        plain["breaks"] = mesh.breaks
    plain |= {f"node set {name}": members for name, members in mesh.node_sets.items()}
    plain |= {f"element set {name}": members for name, members in mesh.element_sets.items()}
    for role, values in plain.items():
        arrays.write(connection, result_id, role, values)


def read_mesh(session: Session, result_id: int, parts: tuple[str, ...], materials: tuple[str, ...]) -> tuple[Mesh, list[str]]:
    """The mesh of a result, and what of it is lost: sets that are damaged are left out. Raises Damaged where the rest is."""
    rows = session.scalars(select(ArrayRow).where(ArrayRow.result_id == result_id, ArrayRow.role != "field")).all()
    connection = session.connection()
    found: dict[str, NDArray[Any]] = {}
    lost = []
    for r in rows:
        try:
            found[r.role] = arrays.read(connection, r)
        except arrays.Damaged as error:
            # Without a set the rest of the mesh is what it is; without its points it is not.
            if " set " not in r.role:
                raise
            lost.append(str(error))
    row = session.get_one(ResultRow, result_id)
    for role in row.summary.get("arrays", {}).get("mesh", []):
        if role not in found and role not in {r.role for r in rows}:
            said = f"The mesh ({role}) of {row.name} is lost on the disk: it was stored, and is not there any more."
            if " set " not in role and role not in ("material", "breaks"):
                raise arrays.Damaged(said, f"To get it back, {arrays.way_back(row.files)}")
            lost.append(said)
    flat = {role: values[:, 0] for role, values in found.items() if role != "points"}
    sets: dict[str, dict[str, Int]] = {"node": {}, "element": {}}
    for role, values in flat.items():
        kind, _, name = role.partition(" set ")
        if name:
            sets[kind][name] = values.astype(np.int64, copy=False)
    return Mesh(
        points=found["points"].astype(np.float64, copy=False),
        types=flat["types"].astype(np.uint8, copy=False),
        offsets=flat["offsets"].astype(np.int64, copy=False),
        connectivity=flat["connectivity"].astype(np.int64, copy=False),
        node_ids=flat["node ids"].astype(np.int64, copy=False),
        element_ids=flat["element ids"].astype(np.int64, copy=False),
        part=flat["part"].astype(np.int32, copy=False),
        part_names=parts,
        node_sets=sets["node"],
        element_sets=sets["element"],
        material=flat["material"].astype(np.int32, copy=False) if "material" in flat else None,
        material_names=materials,
        breaks=flat["breaks"].astype(np.int32, copy=False) if "breaks" in flat else None,
    ), lost
