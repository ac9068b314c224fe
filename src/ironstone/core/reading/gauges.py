"""Readings at gauge points: strain along a gauge on the surface, the mean over its length, and the principals of a rosette."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source
from ironstone.core.field.shell_axes import laid
from ironstone.core.mesh.mesh import Float
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading

if TYPE_CHECKING:
    from ironstone.core.geometry.nearest import Nearest


COMPONENTS = ("xx", "yy", "zz", "xy", "yz", "xz")
# Places along a gauge its strain is averaged over (Simpson's rule).
ALONG = 9


def strain_along(reading: Reading, source: Source, at: Nearest, direction: Float, length: Float) -> Float:
    """Strain of gauges (n,): d . e . d with d the gauge's direction laid into the surface, the mean over its length.

    direction: (n, 3), NaN where there is none. length: (n,), 0 for a strain at a point. Raises Impossible where the field is no
    strain.
    """
    from ironstone.core.geometry.nearest import outside_of

    field = source.fields.get(reading.field)
    if field is None or field.rank != "tensor" or "strain" not in field.kind:
        raise Impossible(f"'{reading.field}' is no strain.", "A strain gauge reads a strain: choose one.")
    along = laid(direction, at.normal)
    there = np.isfinite(along).all(1)
    values = np.full(len(along), np.nan)
    mesh = source.mesh
    for row in np.flatnonzero(there).tolist():
        place, weight = AtSamples(at.place.element[[row]], at.place.xi[[row]]), np.ones(1)
        if length[row] > 0:
            share = np.linspace(-0.5, 0.5, ALONG) * length[row]
            # The gauge follows the surface: every place along it is brought onto it.
            place = outside_of(mesh).nearest(at.points[row] + share[:, None] * along[row])[0]
            weight = np.array([1, *[4, 2] * (ALONG // 2 - 1), 4, 1], dtype=np.float64)
        tensors = np.stack(
            [evaluate(replace(reading, measure=name, axes="global", unit=None), source, place).values for name in COMPONENTS], 1
        )
        xx, yy, zz, xy, yz, xz = tensors.T
        x, y, z = along[row]
        own = x * x * xx + y * y * yy + z * z * zz + 2 * (x * y * xy + y * z * yz + x * z * xz)
        values[row] = float((own * weight).sum() / weight.sum())
    return values


def rosette(directions: Float, normal: Float, strains: Float) -> tuple[float, float, float]:
    """Principal strains of a rosette, the larger first, and the angle in degrees from its first gauge to the larger one, by the
    right hand about the outward normal; from three gauges or more (n,), by least squares.

    e(a) = (e1 + e2)/2 + (e1 - e2)/2 cos 2(a - p): common practice. Raises Impossible where the gauges do not tell three strains.
    """
    along = laid(directions, np.broadcast_to(normal, directions.shape))
    first = along[0]
    across = np.cross(normal, first)
    angle = np.arctan2(along @ across, along @ first)
    table = np.column_stack([np.ones(len(angle)), np.cos(2 * angle), np.sin(2 * angle)])
    if not np.isfinite(table).all() or np.linalg.matrix_rank(table, tol=1e-3) < 3:
        raise Impossible("These gauges are no rosette: their directions do not tell three strains.", "Give three directions.")
    mean, cosine, sine = np.linalg.lstsq(table, strains, rcond=None)[0]
    half = float(np.hypot(cosine, sine))
    turned = float(np.degrees(np.arctan2(sine, cosine)) / 2.0)
    return float(mean + half), float(mean - half), turned
