"""What modes are made of: modal mass, participation and effective mass in each direction, rigid and near-equal ones, energy.

With r_d the unit motion in direction d: participation phi' M r_d / phi' M phi, effective mass (phi' M r_d)^2 / phi' M phi. Over all
modes of a model the effective masses of a direction add up to its moving mass (R. W. Clough and J. Penzien, Dynamics of
Structures, from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.fields import Source, constants_of, stress_of
from ironstone.core.field.volumes import is_turned, volume_per_size
from ironstone.core.mesh.mesh import Float, Int, quadrature_weights
from ironstone.core.motion.inertia import Inertia
from ironstone.core.reading.corners import corner_components

# A shape is that of a rigid body where so little of it (of its square) is anything else.
RIGID = 1e-4
# Frequencies are near-equal within this share of the larger (common practice, no source).
NEAR = 0.01


@dataclass(frozen=True, eq=False)
class Shares:
    """Of modes: modal mass phi' M phi (m,), participation (m, 3), effective mass (m, 3)."""

    modal: Float
    participation: Float
    effective: Float


def shares_of(shapes: Float, mass: Inertia) -> Shares:
    """What of the mass each shape, (m, nodes, 3), moves. A shape without a motion, or with
    nodes that have no value, has no shares (NaN)."""
    known = np.asarray(shapes, dtype=np.float64)
    moved = np.empty_like(known)
    for k in range(len(known)):
        moved[k] = mass.matrix @ known[k]
    modal = np.einsum("mnd,mnd->m", known, moved)
    along = moved.sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        participation = along / modal[:, None]
        effective = along * participation
    return Shares(modal, participation, effective)


def rigid(points: Float, shapes: Float) -> NDArray[np.bool_]:
    """Whether each shape, (m, nodes, 3), moves the points (nodes, 3) as one rigid body: what the six small rigid motions leave of
    its square is below ``RIGID``."""
    motions = rigid_motions(points)
    return np.array([is_rigid(motions, shape) for shape in shapes], dtype=bool)


def rigid_motions(points: Float) -> Float:
    """The small rigid motions of points (nodes, 3), normal to each other, (nodes, 3, up to 6); fewer of a line or a point."""
    centred = points - points.mean(axis=0)
    size = float(np.abs(centred).max(initial=0.0)) or 1.0
    motions = np.zeros((len(centred), 3, 6))
    motions[:, :, :3] = np.eye(3)
    for axis in range(3):
        motions[:, :, 3 + axis] = np.cross(np.eye(3)[axis], centred / size)
    flat = motions.reshape(-1, 6)
    square, directions = np.linalg.eigh(flat.T @ flat)
    kept = square > 1e-12 * square[-1]
    found: Float = (flat @ (directions[:, kept] / np.sqrt(square[kept]))).reshape(len(points), 3, -1)
    return found


def is_rigid(motions: Float, shape: Float) -> bool:
    """Whether a shape (nodes, 3) is of ``rigid_motions`` but for ``RIGID`` of its square; nodes without a value are left out."""
    known = np.isfinite(shape).all(axis=1)
    basis, own = motions.reshape(-1, motions.shape[2]), np.nan_to_num(shape).ravel()
    if not known.all():
        # Without some nodes the motions are not normal to each other any more.
        basis = np.linalg.qr(motions[known].reshape(-1, motions.shape[2]))[0]
        own = shape[known].ravel()
    whole = float(own @ own)
    left = own - basis @ (basis.T @ own)
    return whole > 0.0 and float(left @ left) <= RIGID * whole


def near_equal(frequencies: Float) -> Int:
    """The group of near-equal frequencies each of (m,) is in, (m,): modes of one number lie within ``NEAR`` of their neighbour.
    What is below a thousandth of the highest counts as zero, and all of that as one group."""
    order = np.argsort(frequencies, kind="stable")
    ordered = np.asarray(frequencies, dtype=np.float64)[order]
    zero = 1e-3 * float(np.abs(ordered).max(initial=0.0))
    apart = (np.diff(ordered) > NEAR * np.abs(ordered[1:])) & (np.abs(ordered[1:]) > zero)
    group = np.empty(len(ordered), dtype=np.int64)
    group[order] = np.concatenate([[0], np.cumsum(apart)]) if len(ordered) else order
    return group


def strain_energy(source: Source, step: int) -> Float | None:
    """Strain energy of each element (elements,): half the integral of stress times strain where the result has both, of stress
    and the constants of the material else. None where it has neither, and of shells and bars: their energy is not of one stress."""
    mesh = source.mesh
    stress = stress_of(source.fields)
    if stress is None or not (mesh.planar or (mesh.dimensions == 3).all()) or (mesh.dimensions < 2).any():
        return None
    strain = next((f for f in source.fields.values() if f.kind == "strain" and f.rank == "tensor" and f.stored and f.plain), None)
    corners = np.arange(len(mesh.connectivity))
    s = np.asarray(corner_components(source, stress.name, step, corners), dtype=np.float64)
    if strain is not None:
        e = np.asarray(corner_components(source, strain.name, step, corners), dtype=np.float64)
    else:
        young, poisson = constants_of(mesh, source.setup, "young", "poisson")
        if not np.isfinite(young[mesh.dimensions > 1]).all():
            return None
        at, nu = young[mesh.corner_element][:, None], poisson[mesh.corner_element][:, None]
        e = s * (1 + nu) / at
        e[:, :3] -= nu / at * s[:, :3].sum(axis=1, keepdims=True)
    per_size, turned = volume_per_size(source, step), is_turned(source)
    energy = np.zeros(len(mesh.types))
    twice = np.array([1.0, 1.0, 1.0, 2.0, 2.0, 2.0])
    for block in (piece for whole in mesh.blocks if whole.cell.dimension > 1 for piece in whole.pieces()):
        xi, _ = block.cell.quadrature
        shape = block.cell.shape(xi)
        inside = [np.einsum("qn,enc->eqc", shape, table[block.corners], optimize=True) for table in (s, e)]
        density = 0.5 * (inside[0] * inside[1] * twice).sum(axis=2)
        energy[block.elements] = (density * quadrature_weights(mesh, block, turned)).sum(axis=1)
    found: Float = energy * np.where(energy != 0.0, per_size, 1.0)
    return found


def by_part(source: Source, values: Float) -> Float:
    """Sum of values of elements (elements,) over each part, (parts,)."""
    return np.bincount(source.mesh.part, weights=values, minlength=len(source.mesh.part_names)).astype(np.float64)
