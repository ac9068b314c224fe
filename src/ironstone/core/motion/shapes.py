"""Shapes held against each other: the modal assurance criterion, pairs by shape, repeated frequencies as a subspace.

MAC = |a^H b|^2 / ((a^H a)(b^H b)) (R. J. Allemang and D. L. Brown 1982), over translations at common places. Of near-equal
frequencies any mixture of the shapes is as good a set: a shape is held against all of them together by its largest principal
correlation with their span, |Q^H a|^2 / |a|^2 with Q an orthonormal basis of it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float, Int

Shapes = NDArray[np.floating] | NDArray[np.complexfloating]
# What is below is no counterpart (common practice, no source).
LEAST = 0.2
# From here on two shapes agree (common practice in model correlation, no source).
ALIKE = 0.90


@dataclass(frozen=True)
class Pair:
    """Two modes by position whose shapes belong together. mac: of the two, or of the first with the span of all that are
    near-equal to the second, then ``together`` is true. reversed: the one runs against the other."""

    of: int
    other: int
    mac: float
    together: bool
    reversed: bool


def mac(first: Shapes, second: Shapes) -> Float:
    """MAC of shapes (m, k) with others (n, k), (m, n); real or complex. NaN of a shape without a motion."""
    (a, mine), (b, theirs) = _with_squares(first), _with_squares(second)
    product = np.asarray((a.conj() if np.iscomplexobj(a) else a) @ b.T)
    across = np.abs(product) ** 2
    own = np.outer(mine, theirs)
    with np.errstate(invalid="ignore", divide="ignore"):
        found: Float = np.where(own > 0.0, across / np.where(own > 0.0, own, 1.0), np.nan)
    return np.minimum(found, 1.0)


# Sums of squares between these lose no digits, nor does what is made of two of them.
PLAIN = (1e-100, 1e100)


def _with_squares(shapes: Shapes) -> tuple[Shapes, Float]:
    """Shapes (m, k), brought to a largest value of one where squares would lose digits, and the sums of their squares (m,)."""
    found = shapes
    with np.errstate(over="ignore", under="ignore"):
        squares = _squares(found)
    if not ((squares > PLAIN[0]) & (squares < PLAIN[1])).all():
        found = _sized(found)
        squares = _squares(found)
    return found, squares


def _squares(shapes: Shapes) -> Float:
    """Sums of squares (m,) of shapes (m, k)."""
    parts = (shapes.real, shapes.imag) if np.iscomplexobj(shapes) else (shapes,)
    return np.asarray(sum(np.einsum("mk,mk->m", part, part) for part in parts), dtype=np.float64)


def _sized(shapes: Shapes) -> Shapes:
    """Shapes (m, k) with a largest value of one, so that neither very small nor very large ones lose digits in squares."""
    size = np.abs(shapes).max(axis=1, initial=0.0, keepdims=True)
    # What is too small to be divided by is no motion.
    still = size < np.finfo(np.float64).tiny / np.finfo(np.float64).eps
    found: Shapes = np.where(still, 0.0, shapes) / np.where(still, 1.0, size)
    return found


def with_span(shape: Shapes, others: Shapes) -> float:
    """Largest principal correlation of a shape (k,) with the span of others (g, k), squared, 0 to 1."""
    shape = _sized(shape[None])[0]
    whole = float((np.abs(shape) ** 2).sum())
    basis, size, _ = np.linalg.svd(_sized(others).T, full_matrices=False)
    basis = basis[:, size > 1e-10 * size.max(initial=0.0)]
    return min(float((np.abs(basis.conj().T @ shape) ** 2).sum()) / whole, 1.0) if whole > 0.0 and basis.size else float("nan")


def mac_of_groups(first: Shapes, second: Shapes, groups: Int, other_groups: Int) -> Float:
    """As ``mac``, but each shape held against all that are near-equal to the other, whichever of the two has the repeated
    frequency. groups: of the first (m,); other_groups: of the second (n,)."""
    found = mac(first, second)
    for table, a, b, of in ((found, first, second, other_groups), (found.T, second, first, groups)):
        for group in np.flatnonzero(np.bincount(of) > 1):
            members = np.flatnonzero(of == group)
            for i in range(len(a)):
                table[i, members] = np.fmax(table[i, members], with_span(a[i], b[members]))
    return found


def pairs(first: Shapes, second: Shapes, groups: Int, other_groups: Int) -> list[Pair]:
    """Which shapes belong together: the largest MAC first, then the largest of those left, down to ``LEAST``. In the order of the
    first."""
    alone, together = mac(first, second), mac_of_groups(first, second, groups, other_groups)
    # Of a group that is held against as a whole the member that is most alike comes first.
    left = np.nan_to_num(together, nan=-1.0) + 1e-6 * np.nan_to_num(alone)
    found = []
    while left.size and left.max() >= LEAST:
        i, j = np.unravel_index(int(np.argmax(left)), left.shape)
        of, other = int(i), int(j)
        left[of, :] = -1.0
        left[:, other] = -1.0
        mixed = bool(together[of, other] > alone[of, other] + 1e-3)
        value = float(together[of, other] if mixed else alone[of, other])
        turned = complex(np.vdot(first[of], second[other])).real < 0.0
        found.append(Pair(of, other, value, mixed, turned and not mixed))
    return sorted(found, key=lambda p: p.of)
