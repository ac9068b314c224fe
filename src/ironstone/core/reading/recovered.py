"""Recovered fields as the evaluator reads them: rows of corners or nodes, worked out when asked for."""

from __future__ import annotations

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.constants import ELASTIC
from ironstone.core.field.fields import Source, constants_of, displacement_of, stress_of
from ironstone.core.field.plies import COUNT, PLY_STRAIN, PLY_STRESS, THICKNESS, ZONE, of_laminates
from ironstone.core.field.recover import (
    ELASTIC_STRESS,
    INTERNAL_FORCE,
    OPENINGS,
    PENETRATION,
    RATES,
    SMALL,
    STRAINS,
    elastic_stress,
    internal_force,
    rate,
    strain,
)
from ironstone.core.mesh.mesh import Float, Int
from ironstone.core.reading.corners import corner_components


def recovered_values(source: Source, name: str, step: int, elements: Int | None = None) -> Float:
    """A recovered field at all its places, or at the corners of some elements in the order of ``Mesh.corners_of``."""
    if name in STRAINS:
        return strain(name, source, step, elements)
    if name in RATES:
        return rate(name, source, step)
    if name in (COUNT, THICKNESS, ZONE):
        return of_laminates(source, name)
    if name in (PLY_STRESS, PLY_STRAIN):
        raise Impossible(f"'{name}' has layers that are read one at a time.", "Name a ply, or the worst of them.")
    mesh = source.mesh
    if name == PENETRATION:
        # What finds the nearest face takes its time to load: only who asks for this pays for it.
        from ironstone.core.geometry.penetration import moved, of_all

        moves = displacement_of(source.fields)
        displacement = None if moves is None else np.asarray(source.values(moves.name, step), dtype=np.float64)
        return of_all(moved(mesh, displacement))[:, None]
    if name in OPENINGS:
        from ironstone.core.geometry.opening import opening

        moves = displacement_of(source.fields)
        assert moves is not None
        apart = opening(mesh, np.asarray(source.values(moves.name, step), dtype=np.float64))
        return apart[:, OPENINGS[name]][:, None]
    if name == ELASTIC_STRESS:
        given = next(
            (f for f in source.fields.values() if f.kind == "strain" and f.rank == "tensor" and f.plain and not f.recovered), None
        )
        corners = np.arange(len(mesh.connectivity)) if elements is None else mesh.corners_of(elements)
        strains = strain(SMALL, source, step, elements) if given is None else corner_components(source, given.name, step, corners)
        young, poisson = (table[mesh.corner_element[corners]] for table in constants_of(mesh, source.setup, *ELASTIC))
        return elastic_stress(strains, young, poisson)
    if name == INTERNAL_FORCE:
        stress = stress_of(source.fields)
        assert stress is not None
        return internal_force(source, step, corner_components(source, stress.name, step, np.arange(len(mesh.connectivity))))
    raise Impossible(f"'{name}' is not recovered here.")


def recovered_rows(source: Source, name: str, step: int, entities: Int) -> Float:
    """A few rows of a recovered field, by the elements they belong to alone where that is enough."""
    if name in RATES:
        return rate(name, source, step, entities)
    if source.fields[name].location in ("node", "element"):
        return recovered_values(source, name, step)[entities]
    mesh = source.mesh
    elements = np.unique(mesh.corner_element[entities])
    corners = mesh.corners_of(elements)
    rows: Float = recovered_values(source, name, step, elements)[np.searchsorted(corners, entities)]
    return rows
