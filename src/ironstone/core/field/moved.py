"""How far the nodes have moved at a step; of a harmonic at a phase."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ironstone.core.field.fields import Field, Source
from ironstone.core.field.sliced import Slice, picked
from ironstone.core.mesh.mesh import Float, Int


def moving(fields: Mapping[str, Field]) -> Field | None:
    """The displacement at the nodes, real or of a harmonic, where a result has one."""
    found = [f for f in fields.values() if f.kind == "displacement" and f.location == "node" and not f.layers]
    return min(found, key=lambda f: f.harmonic, default=None)


def degrees_of(phase: str) -> float:
    """The phase a shape is drawn at where a reading has this one: its degrees; 0 where it has the magnitude or the peak."""
    try:
        found = float(phase or 0.0)
    except ValueError:
        return 0.0
    return found if np.isfinite(found) else 0.0


def moved_nodes(source: Source, step: int, phase: str = "", nodes: Int | None = None) -> Float | None:
    """Displacement at a step of all nodes, or of some, (n, 3), 0 where it has no value; None where the result has no displacement.
    phase: of a harmonic, as a reading has it."""
    field = moving(source.fields)
    if field is None:
        return None
    rows = source.values(field.name, step) if nodes is None else source.rows(field.name, step, nodes)
    found: Float = np.nan_to_num(np.asarray(picked(field, rows, Slice(0, 0, degrees_of(phase))), dtype=np.float64))
    return found
