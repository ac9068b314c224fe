"""The forces that the stress of a step leaves at the nodes, where loads can be found by them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.fields import Field, Memory
from ironstone.core.field.recover import internal_force
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.weld import as_meant
from ironstone.core.reading.corners import corner_components
from ironstone.formats.registry import RawStep
from ironstone.store.models import FieldRow
from ironstone.store.plan import Plan, field_values
from ironstone.store.prover import Prover

# A mesh of more elements than these is not asked what its stress leaves: it takes longer than one waits for.
MOST_LEFT = 200_000


def forces_left(plan: Plan, mesh: Mesh, rows: list[tuple[str, str, FieldRow]], raw: RawStep) -> NDArray[np.float64] | None:
    """The forces (nodes, 3) that the stress of a step leaves at the nodes of solids; None where there is no such stress."""
    if len(mesh.types) > MOST_LEFT or not len(mesh.types) or mesh.dimensions.min() < 3:
        return None
    found = [r for r in rows if r[2].kind == "stress" and r[2].rank == "tensor"]
    plain = [r for r in found if not any(r[2].more[word] for word in ("flat", "layers", "harmonic"))]
    described = min(plain, key=lambda r: r[2].averaged_before, default=None)
    if described is None:
        return None
    row = described[2]
    told = {r.name: field_values(plan, at, getattr(raw, at).get(array), r) for at, array, r in rows}
    prover = Prover(mesh)
    for _, _, r in rows:
        if (values := told[r.name]) is not None:
            prover.look(r, values)
    prover.step_is_over()
    values = told[row.name]
    if values is None:
        return None
    order = prover.found.get(row.name, {}).get("order") or None
    values = as_meant(values, order, False, row.more["layout"]).reshape(len(values), -1)
    stress = Field(row.name, row.kind, row.rank, row.location, tuple(row.components), "", points=row.more["points"])
    source = Memory(mesh, [stress], {row.name: np.asarray(values)[None]})
    return internal_force(source, 0, corner_components(source, row.name, 0, np.arange(len(mesh.connectivity))))
