"""What a file proves of its own conventions: the order of a tensor's components, and which shear a strain has.

A stored strain is held against the strain of the displacement at the same places, a stress against its axes: of an isotropic
body the deviators of stress and strain point one way. What fits well while nothing else fits nearly as well is found; else it
stays a guess.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import permutations

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.fields import Field, Memory
from ironstone.core.field.recover import displacement_gradients, small_strain
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.weld import OURS

# Elements looked at, and how much of a motion is small enough for the strain to be that of the gradient.
SAMPLE, SMALL = 1000, 0.05
# A fit is good below this share; any other way must be worse by this factor, and by this share at least.
FITS, TIMES, APART = 0.08, 3.0, 0.005
ENGINEERING, TENSOR = "engineering", "tensor"
ORDERS = (
    *(("xx", "yy", "zz", *rest) for rest in permutations(("xy", "yz", "xz"))),
    ("xx", "xy", "yy", "xz", "yz", "zz"),
    ("xx", "xy", "xz", "yy", "yz", "zz"),
)
# Components count twice that stand for two of the tensor.
WEIGHT = np.array([1.0, 1.0, 1.0, 2.0, 2.0, 2.0])


@dataclass(frozen=True)
class Proof:
    """What was found of a field: order of its columns and shear, '' or () where that stays open; how well it fits, in words."""

    order: tuple[str, ...] = ()
    shear: str = ""
    said: str = ""


@dataclass(frozen=True, eq=False)
class Stored:
    """A tensor as a file has it at one step: kind, where it lives, (entities, 6 or points x 6) columns in the order of the file."""

    kind: str
    location: str
    values: NDArray[np.floating]


def proved(mesh: Mesh, displacement: NDArray[np.floating], stored: Mapping[str, Stored]) -> dict[str, Proof]:
    """What each of some tensors proves, beside the displacement (nodes, 3) of the same step; what proves nothing is left out."""
    elements = sample(mesh)
    return proved_by(mesh, elements, displacement, {n: (one.kind, of_elements(mesh, one, elements)) for n, one in stored.items()})


def sample(mesh: Mesh, faces: bool = False) -> Int:
    """The elements that are looked at: solids (``faces``: or the faces of a planar model), and no more of them than tell."""
    elements = np.flatnonzero(mesh.dimensions == (2 if faces and mesh.planar else 3))
    if len(elements) > SAMPLE:
        elements = elements[np.linspace(0, len(elements) - 1, SAMPLE).astype(np.int64)]
    return elements


def proved_by(
    mesh: Mesh, elements: Int, displacement: NDArray[np.floating], tables: Mapping[str, tuple[str, Float]]
) -> dict[str, Proof]:
    """The same of tensors told as the mean of each of some elements: kind and (elements, 6), columns in the order of the file."""
    if not len(elements):
        return {}
    field = Field("u", "displacement", "vector", "node", ("x", "y", "z"), "")
    gradient = displacement_gradients(Memory(mesh, [field], {"u": displacement[None]}), 0, elements)
    sizes = np.diff(mesh.offsets)[elements]
    strain = _means(small_strain(gradient), sizes)
    good = np.isfinite(strain).all(axis=1)
    reach = float(np.abs(gradient[np.repeat(good, sizes)]).max(initial=0.0))
    if not 0.0 < reach < SMALL:
        return {}
    found = {}
    for name, (kind, table) in tables.items():
        there = good & np.isfinite(table).all(axis=1)
        if not there.any() or not np.abs(table[there]).max(initial=0.0) > 0.0:
            continue
        proof = (_of_strain if kind == "strain" else _of_stress)(table[there], strain[there])
        if proof.order or proof.shear:
            found[name] = proof
    return found


def _means(corners: Float, sizes: Int) -> Float:
    """The plain mean of what corners (all, c) have, element after element."""
    starts = np.cumsum(sizes) - sizes
    found: Float = np.add.reduceat(corners, starts, axis=0) / sizes[:, None]
    return found


def of_elements(mesh: Mesh, one: Stored, elements: Int) -> Float:
    """The mean of a tensor in each of some elements, (elements, 6), as the file has its columns."""
    values = one.values
    if one.location in ("element", "gauss"):
        rows = np.asarray(values[elements], dtype=np.float64).reshape(len(elements), -1, 6)
        return np.asarray(rows.mean(axis=1))
    corners = mesh.corners_of(elements)
    places = mesh.connectivity[corners] if one.location == "node" else corners
    return _means(np.asarray(values[places], dtype=np.float64), np.diff(mesh.offsets)[elements])


def _ordered(table: Float, order: Sequence[str]) -> Float:
    return table[:, [order.index(n) for n in OURS]]


def _of_strain(table: Float, strain: Float) -> Proof:
    size = float(np.sqrt((strain**2 * WEIGHT).sum()))

    def off(order: Sequence[str], shear: str) -> float:
        told = _ordered(table, order)
        half = np.where(np.arange(6) < 3, 1.0, 0.5 if shear == ENGINEERING else 1.0)
        return float(np.sqrt((((told * half) - strain) ** 2 * WEIGHT).sum())) / size

    shears = {s: min(off(o, s) for o in ORDERS) for s in (TENSOR, ENGINEERING)}
    shear, other = sorted(shears, key=lambda s: shears[s])
    orders = {o: off(o, shear) for o in ORDERS}
    order, second = _best(orders)
    ordered, settled = _clear(orders[order], second), _clear(shears[shear], shears[other])
    # The next way is the one that was told apart: another order, or the other shear where the order stays open.
    apart = second if ordered else shears[other]
    said = f"fits the strain of the displacement within {_share(orders[order])}, the next way within {_share(apart)}"
    return Proof(order if ordered else (), shear if settled else "", said)


def _of_stress(table: Float, strain: Float) -> Proof:
    """How far the deviators of stress and strain point apart, weighed by their size: as the sine of the angle between them."""

    def deviator(tensor: Float) -> Float:
        off = tensor.copy()
        off[:, :3] -= off[:, :3].mean(axis=1, keepdims=True)
        return off

    second = deviator(strain)

    def apart(order: Sequence[str]) -> float:
        first = deviator(_ordered(table, order))
        sizes = np.sqrt((first**2 * WEIGHT).sum(1) * (second**2 * WEIGHT).sum(1))
        along = float((first * second * WEIGHT).sum()) / max(float(sizes.sum()), 1e-300)
        return float(np.sqrt(max(1.0 - along * abs(along), 0.0))) if along > 0 else 1.0

    orders = {o: apart(o) for o in ORDERS}
    order, next_best = _best(orders)
    said = f"its axes are those of the strain within {_share(orders[order])}, of the next way within {_share(next_best)}"
    return Proof(order if _clear(orders[order], next_best) else (), "", said)


def _share(value: float) -> str:
    return f"{100 * value:.2g} %" if value > 1e-4 else "0.01 %"


def _best(found: Mapping[tuple[str, ...], float]) -> tuple[tuple[str, ...], float]:
    """The way that fits best, and how well the next does."""
    (first, _), (_, second) = sorted(found.items(), key=lambda one: one[1])[:2]
    return first, second


def _clear(best: float, second: float) -> bool:
    return best <= FITS and second >= TIMES * best and second - best >= APART
