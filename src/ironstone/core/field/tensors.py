"""Measures of symmetric tensors. Components last, in the order xx, yy, zz, xy, yz, xz, true tensor shear, any leading shape.

Formulas: Timoshenko and Goodier, Theory of Elasticity (1970); the closed form of the eigenvalues: Smith (1961),
Communications of the ACM 4(4), 168. From memory where nothing else is said.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Float = NDArray[np.float64]


_RUN = 8192


def mean(tensor: Float) -> Float:
    """A third of the trace."""
    value: Float = tensor[..., :3].sum(-1) / 3.0
    return value


def deviator(tensor: Float) -> Float:
    result = np.array(tensor, dtype=np.float64)
    result[..., :3] -= mean(result)[..., None]
    return result


def _contraction(tensor: Float) -> Float:
    value: Float = (tensor[..., :3] ** 2).sum(-1) + 2.0 * (tensor[..., 3:] ** 2).sum(-1)
    return value


def von_mises(stress: Float) -> Float:
    """sqrt(3/2 s:s) of the deviator s; von Mises (1913)."""
    value: Float = np.sqrt(1.5 * _contraction(deviator(stress)))
    return value


def equivalent_strain(strain: Float) -> Float:
    """sqrt(2/3 e':e') of the deviator e' of a strain with true tensor shear."""
    value: Float = np.sqrt(2.0 / 3.0 * _contraction(deviator(strain)))
    return value


def principals(tensor: Float) -> Float:
    """Eigenvalues (..., 3), largest first, in closed form; within 1e-7 of the tensor's norm also at repeated roots.

    Worked out in runs that fit the processor's cache.
    """
    flat = np.asarray(tensor, dtype=np.float64).reshape(-1, 6)
    result = np.empty((len(flat), 3))
    for start in range(0, len(flat), _RUN):
        result[start : start + _RUN] = _principals(flat[start : start + _RUN])
    return result.reshape(*np.shape(tensor)[:-1], 3)


def _principals(tensor: Float) -> Float:
    xx, yy, zz, xy, yz, xz = np.ascontiguousarray(tensor.T)
    centre = (xx + yy + zz) / 3.0
    xx, yy, zz = xx - centre, yy - centre, zz - centre
    scale = np.maximum.reduce([np.abs(c) for c in (xx, yy, zz, xy, yz, xz)])
    inverse = 1.0 / np.where(scale > 1e-300, scale, 1.0)
    xx, yy, zz, xy, yz, xz = (c * inverse for c in (xx, yy, zz, xy, yz, xz))
    xy2, yz2, xz2 = xy * xy, yz * yz, xz * xz
    j2 = 0.5 * (xx * xx + yy * yy + zz * zz) + xy2 + yz2 + xz2
    j3 = xx * (yy * zz - yz2) + zz * (-xy2) + 2.0 * (xy * yz * xz) - yy * xz2
    radius = np.sqrt(j2 / 3.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        cosine = np.where(radius > 0.0, j3 / (2.0 * radius * radius * radius), 1.0)
    angle = np.arccos(np.clip(cosine, -1.0, 1.0)) / 3.0
    # cos(a -+ 120 degrees) by the sum rule: two functions in place of three.
    reach = radius * scale
    along, across = reach * np.cos(angle), (np.sqrt(3.0) * reach) * np.sin(angle)
    result: Float = np.stack([centre + 2.0 * along, centre - along + across, centre - along - across], axis=1)
    return result


def principal_1(tensor: Float) -> Float:
    return principals(tensor)[..., 0]


def principal_2(tensor: Float) -> Float:
    return principals(tensor)[..., 1]


def principal_3(tensor: Float) -> Float:
    return principals(tensor)[..., 2]


def tresca(tensor: Float) -> Float:
    """Largest less smallest principal; Tresca (1864)."""
    p = principals(tensor)
    return p[..., 0] - p[..., 2]


def max_shear(tensor: Float) -> Float:
    return tresca(tensor) / 2.0


def pressure(stress: Float) -> Float:
    return -mean(stress)


def distorts(tensor: Float) -> NDArray[np.bool_]:
    """Where von Mises is more than rounding: above 1e-6 of the tensor's largest component, what single precision can tell."""
    return np.asarray(von_mises(tensor) > 1e-6 * np.abs(tensor).max(-1))


def triaxiality(stress: Float) -> Float:
    """Mean over von Mises; no value where nothing distorts."""
    distortion = von_mises(stress)
    with np.errstate(invalid="ignore", divide="ignore"):
        value: Float = np.where(distorts(stress), mean(stress) / distortion, np.nan)
    return value


def lode_angle(stress: Float) -> Float:
    """Lode angle in degrees from cos 3t = (3 sqrt 3 / 2) J3 / J2^1.5: 0 in tension, 30 in shear, 60 in compression.

    No value where nothing distorts.
    """
    p = principals(stress)
    s = p - p.mean(-1, keepdims=True)
    j2 = 0.5 * (s**2).sum(-1)
    with np.errstate(invalid="ignore", divide="ignore"):
        cosine = 1.5 * np.sqrt(3.0) * np.prod(s, axis=-1) / j2**1.5
    value: Float = np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0))) / 3.0
    return np.where(distorts(stress), value, np.nan)


def principal_of_largest_magnitude(tensor: Float) -> Float:
    """The principal that is farthest from zero, with its sign; the tensile one on a tie."""
    p = principals(tensor)
    value: Float = np.where(-p[..., 2] > p[..., 0] * (1.0 + 1e-12), p[..., 2], p[..., 0])
    return value


def signed_von_mises(stress: Float) -> Float:
    """von Mises with the sign of the principal of largest magnitude, positive on a tie."""
    p = principals(stress)
    negative = -p[..., 2] > p[..., 0] * (1.0 + 1e-12)
    return np.where(negative, -1.0, 1.0) * von_mises(stress)


def matrices(tensor: Float) -> Float:
    """Components (..., 6) as full matrices (..., 3, 3)."""
    xx, yy, zz, xy, yz, xz = np.moveaxis(tensor, -1, 0)
    full: Float = np.stack([xx, xy, xz, xy, yy, yz, xz, yz, zz], axis=-1).reshape(*tensor.shape[:-1], 3, 3)
    return full


def components(matrix: Float) -> Float:
    """Symmetric matrices (..., 3, 3) as components (..., 6)."""
    pairs = ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))
    return np.stack([matrix[..., i, j] for i, j in pairs], axis=-1)


def principal_directions(tensor: Float) -> Float:
    """Unit vectors of the principals as rows, largest first, (..., 3, 3); their sign is free. No value where one is missing."""
    missing = np.asarray(~np.isfinite(tensor).all(-1))
    _, vectors = np.linalg.eigh(matrices(np.asarray(np.where(missing[..., None], 0.0, tensor), dtype=np.float64)))
    rows: Float = np.swapaxes(vectors[..., ::-1], -1, -2)
    return np.where(missing[..., None, None], np.nan, rows)


def traction(stress: Float, normal: Float) -> Float:
    """Cauchy's t = S n on a plane of unit normal n (3,), (..., 3)."""
    vector: Float = matrices(stress) @ normal
    return vector


def normal_on_plane(stress: Float, normal: Float) -> Float:
    """n . t: tension across the plane is positive."""
    value: Float = traction(stress, normal) @ normal
    return value


def shear_on_plane(stress: Float, normal: Float) -> Float:
    """|t - (n . t) n|."""
    t = traction(stress, normal)
    value: Float = np.linalg.norm(t - (t @ normal)[..., None] * normal, axis=-1)
    return value


def equivalent_elastic_strain(strain: Float, poisson: Float) -> Float:
    """von Mises of the strain over 1 + nu: a stress's von Mises over Young's modulus, while elastic."""
    return von_mises(strain) / (1.0 + poisson)


def elastic_energy(stress: Float, young: Float, poisson: Float) -> Float:
    """Energy density of an isotropic elastic material, (1 + nu)/(2 E) s:s - nu/(2 E) tr(s)^2."""
    value: Float = ((1.0 + poisson) * _contraction(stress) - poisson * stress[..., :3].sum(-1) ** 2) / (2.0 * young)
    return value
