"""The error of a stress in the energy norm, estimated from how far it is from its own average at the nodes."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ironstone.core.field.constants import ELASTIC
from ironstone.core.field.fields import Source, constants_of
from ironstone.core.field.recover import energies
from ironstone.core.field.volumes import is_turned
from ironstone.core.kept import kept_with
from ironstone.core.mesh.mesh import Float, Int
from ironstone.core.reading.corners import averaging_operator, raw_corners
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import Resolved


@dataclass(frozen=True)
class ErrorEstimate:
    """Energy norm of the error of a stress: of each element as a share of the mean energy density, and in total.

    elements: sqrt(e_i / v_i) / sqrt((u + e) / v), a pure number; total: sqrt(e / (u + e)), its root mean square by volume.
    error_norm: sqrt(e). energy_norm: sqrt(u), u the energy norm squared of the finite element stress as computed.
    """

    elements: Float
    total: float
    error_norm: float
    energy_norm: float


def error_estimate(reading: Reading, source: Source) -> ErrorEstimate:
    """Zienkiewicz and Zhu (1987): the energy norm of (recovered - raw) stress, recovered by averaging within a material."""
    resolved = resolve(replace(reading, of="error"), source)
    return _estimate(source, resolved.field.name, resolved.reading.step, resolved.reading.weight, resolved.reading.fold)


@kept_with(4)
def _estimate(source: Source, field: str, step: int, weight: str, fold: float) -> ErrorEstimate:
    mesh = source.mesh
    resolved = resolve(Reading(field, step=step, weight=weight, fold=fold, of="error"), source)
    plain = replace(resolved, reading=replace(resolved.reading, of="value"))
    operator = averaging_operator(resolved, mesh)

    def raw_at(corners: Int) -> Float:
        return np.asarray(raw_corners(plain, source, corners), dtype=np.float64)

    shared = operator.means_of(raw_at).means

    def raw_and_smooth(corners: Int) -> tuple[Float, Float]:
        raw = raw_at(corners)
        return raw, np.where(np.isnan(raw), np.nan, shared[operator.slot[corners]])

    young, poisson = constants_of(mesh, source.setup, *ELASTIC)
    error, energy, volume = energies(mesh, raw_and_smooth, young, poisson, is_turned(source)).T
    there = np.isfinite(error) & np.isfinite(energy)
    e, u, v = error[there].sum(), energy[there].sum(), volume[there].sum()
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.sqrt(error / volume) / np.sqrt((u + e) / v) if there.any() else np.full(len(error), np.nan)
    total = float(np.sqrt(e / (u + e))) if u + e > 0.0 else float("nan")
    return ErrorEstimate(share, total, float(np.sqrt(e)), float(np.sqrt(u)))


def errors_of(resolved: Resolved, source: Source) -> Float:
    r = resolved.reading
    return _estimate(source, resolved.field.name, r.step, r.weight, r.fold).elements
