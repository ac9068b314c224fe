"""What elements of all dimensions count for in a share by volume: solids, shells by their thickness, bars by their section area."""

from __future__ import annotations

import numpy as np

from ironstone.core.field.fields import Source, thickness_of
from ironstone.core.mesh.mesh import Float, quadrature_weights


def is_turned(source: Source) -> bool:
    """Whether a planar model stands for a body of revolution, x the radius: each place counts 2 pi x."""
    return source.setup.model == "axisymmetric" and source.mesh.planar


def section_area_of(source: Source) -> Float | None:
    """Section area of each element (elements,), where the result has it by element."""
    found = next((f for f in source.fields.values() if f.kind == "section area" and f.location == "element" and f.plain), None)
    return None if found is None else np.asarray(source.values(found.name, 0), dtype=np.float64)[:, 0]


def volume_per_size(source: Source, step: int) -> Float:
    """Volume of each element over its own volume, area or length (elements,): 1 of a solid, the thickness of a shell, the section
    area of a bar, 0 of a point; NaN where the thickness or area is not known. A planar model whose thickness is not known is taken
    as equally thick everywhere."""
    mesh = source.mesh
    found = np.where(mesh.dimensions == 3, 1.0, np.where(mesh.dimensions == 0, 0.0, np.nan))
    shells, bars = mesh.dimensions == 2, mesh.dimensions == 1
    if is_turned(source):
        found[shells] = 1.0
    elif shells.any():
        thickness = thickness_of(source, step)
        found[shells] = thickness[shells] if thickness is not None else 1.0 if mesh.planar else np.nan
    if bars.any():
        area = section_area_of(source)
        found[bars] = np.nan if area is None else area[bars]
    return found


def volumes_of(source: Source, step: int) -> Float:
    """Volume of each element (elements,), NaN where it is not known; of a body of revolution all the way round."""
    mesh, per_size = source.mesh, volume_per_size(source, step)
    if not is_turned(source):
        return mesh.volumes * per_size
    found = np.zeros(len(mesh.types))
    for block in mesh.blocks:
        for piece in block.pieces():
            found[piece.elements] = quadrature_weights(mesh, piece, turned=True).sum(1)
    return found * per_size
