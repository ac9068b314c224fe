"""How the values in a picture are spread: by the area that is drawn, or by volume."""

from __future__ import annotations

import numpy as np

from ironstone.core.geometry.surface import Surface
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.reading.resolved import Values


def by_volume(mesh: Mesh, values: Values, hidden: frozenset[int], low: float, high: float, bins: int = 256) -> Float:
    """As ``distribution``, by the volume (area, length) of the elements: each value stands for its share of its element."""
    element = values.element
    there = ~np.isnan(values.values) & (element >= 0) & ~np.isin(mesh.part[element], list(hidden))
    if not there.any() or not high > low:
        return np.zeros(bins)
    weight = (mesh.volumes / np.maximum(np.bincount(element[element >= 0], minlength=len(mesh.types)), 1))[element[there]]
    position = np.clip(((values.values[there] - low) / (high - low) * bins).astype(np.int64), 0, bins - 1)
    total = mesh.volumes[~np.isin(mesh.part, list(hidden))].sum()
    shares: Float = np.bincount(position, weights=weight, minlength=bins) / max(float(total), 1e-300)
    return shares


def distribution(surface: Surface, values: Float, low: float, high: float, bins: int = 256) -> Float:
    """Share of the skin's area in each of ``bins`` equal classes between low and high; places without a value left out."""
    at = values[surface.triangles].mean(1)
    there = ~np.isnan(at)
    areas = surface.triangle_areas
    if not there.any() or not high > low:
        return np.zeros(bins)
    position = np.clip(((at[there] - low) / (high - low) * bins).astype(np.int64), 0, bins - 1)
    shares: Float = np.bincount(position, weights=areas[there], minlength=bins) / max(float(areas.sum()), 1e-300)
    return shares
