"""How the values in a picture are spread: by the area that is drawn, or by volume."""

from __future__ import annotations

import numpy as np

from ironstone.core.geometry.surface import Surface
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.reading.averaging import RUN
from ironstone.core.reading.resolved import Values


def by_volume(mesh: Mesh, values: Values, hidden: frozenset[int], low: float, high: float, bins: int = 256) -> Float:
    """As ``distribution``, by the volume (area, length) of the elements: each value stands for its share of its element."""
    shown = ~np.isin(mesh.part, list(hidden))
    if not shown.any() or not high > low:
        return np.zeros(bins)
    count = np.zeros(len(mesh.types))
    runs = [slice(start, start + RUN) for start in range(0, len(values.values), RUN)]
    for run in runs:
        element = values.element[run]
        count += np.bincount(element[element >= 0], minlength=len(count))
    share = np.where(shown, mesh.volumes, 0.0) / np.maximum(count, 1)
    shares = np.zeros(bins)
    for run in runs:
        element, own = values.element[run], values.values[run]
        there = ~np.isnan(own) & (element >= 0)
        position = np.clip(((own[there] - low) / (high - low) * bins).astype(np.int64), 0, bins - 1)
        shares += np.bincount(position, weights=share[element[there]], minlength=bins)
    return shares / max(float(mesh.volumes[shown].sum()), 1e-300)


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
