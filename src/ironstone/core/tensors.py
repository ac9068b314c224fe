"""Measures of symmetric tensors. Components last, in the order xx, yy, zz, xy, yz, xz, true tensor shear, any leading shape.

Formulas: Timoshenko and Goodier, Theory of Elasticity (1970); the closed form of the eigenvalues: Smith (1961),
Communications of the ACM 4(4), 168. From memory where nothing else is said.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Float = NDArray[np.float64]


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
    """Eigenvalues (..., 3), largest first, in closed form; within 1e-7 of the tensor's norm also at repeated roots."""
    centre = mean(tensor)
    s = deviator(tensor)
    scale = np.abs(s).max(-1)
    safe = np.where(scale > 0.0, scale, 1.0)
    xx, yy, zz, xy, yz, xz = np.moveaxis(s / safe[..., None], -1, 0)
    j2 = 0.5 * (xx**2 + yy**2 + zz**2) + xy**2 + yz**2 + xz**2
    j3 = xx * (yy * zz - yz**2) - xy * (xy * zz - yz * xz) + xz * (xy * yz - yy * xz)
    radius = np.sqrt(np.maximum(j2 / 3.0, 0.0))
    with np.errstate(invalid="ignore", divide="ignore"):
        cosine = np.where(radius > 0.0, j3 / (2.0 * radius**3), 1.0)
    angle = np.arccos(np.clip(cosine, -1.0, 1.0)) / 3.0
    turns = np.array([0.0, -2.0 * np.pi / 3.0, 2.0 * np.pi / 3.0])
    roots = 2.0 * radius[..., None] * np.cos(angle[..., None] + turns)
    result: Float = centre[..., None] + roots * scale[..., None]
    missing = np.asarray(np.isnan(tensor).any(-1))
    return np.where(missing[..., None], np.nan, result)


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


def triaxiality(stress: Float) -> Float:
    """Mean over von Mises; no value where nothing distorts."""
    distortion = von_mises(stress)
    with np.errstate(invalid="ignore", divide="ignore"):
        value: Float = np.where(distortion > 0.0, mean(stress) / distortion, np.nan)
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
    return np.where(j2 > 0.0, value, np.nan)


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
