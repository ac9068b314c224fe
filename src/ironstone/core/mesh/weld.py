"""Welding: elements written without shared nodes are joined again, and what each array is is settled.

The rules, in order. By node numbers where the file gives them. Else by coincidence within a part, never across parts, and
never where the copies move apart at any step. Afterwards a field that is single-valued by nature is kept at the nodes if its
copies agree at all steps; everything else on such a mesh stays at the corners.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float, Int

TOLERANCE = {"single": 1e-5, "double": 1e-6}


@dataclass
class Weld:
    """label: (raw points,) node each point belongs to. shared: the mesh already shared its nodes. how: in words. by_place: found
    by where they are, so that copies that move apart are parted again. pieces: nodes are shared within pieces of the mesh that were
    put together here."""

    label: Int
    count: int
    shared: bool
    how: str
    notes: list[str] = field(default_factory=list)
    by_place: bool = False
    pieces: bool = False

    @property
    def straight(self) -> bool:
        """Whether every raw point is a node of its own, in order."""
        return self.count == len(self.label) and bool((self.label == np.arange(self.count)).all())

    @property
    def first(self) -> Int:
        """One raw point of each node, (nodes,)."""
        first = np.full(self.count, -1, dtype=np.int64)
        first[self.label[::-1]] = np.arange(len(self.label))[::-1]
        return first

    def split(self, vectors: NDArray[np.floating], tolerance: float) -> int:
        """Part copies whose vectors differ by more than ``tolerance``; returns how many nodes were split."""
        split = 0
        while True:
            apart = np.abs(vectors - vectors[self.first[self.label]]).max(1, initial=0.0) > tolerance
            if not apart.any():
                return split
            old = np.unique(self.label[apart])
            fresh = np.full(self.count, -1, dtype=np.int64)
            fresh[old] = self.count + np.arange(len(old))
            self.label = np.where(apart, fresh[self.label], self.label)
            self.count += len(old)
            split += len(old)


def weld(points: Float, connectivity: Int, point_part: Int, ids: Int | None, pieces: Int | None = None) -> Weld:
    """Find the nodes behind raw points (n, 3). ``point_part``: part of the elements that use each point, -1 for none. pieces: which
    of several pieces of the mesh each point came with."""
    uses = np.bincount(connectivity, minlength=len(points))
    unshared = len(points) > 0 and uses.max(initial=0) <= 1
    if ids is not None:
        unique, label = np.unique(ids, return_inverse=True)
        label = label.astype(np.int64)
        apart = np.zeros(len(unique))
        first = Weld(label, len(unique), False, "").first
        np.maximum.at(apart, label, np.abs(points - points[first[label]]).max(1, initial=0.0))
        size = float(np.ptp(points, axis=0).max(initial=0.0))
        if (apart > 1e-5 * max(size, 1e-30)).any():
            worst = int(unique[np.argmax(apart)])
            raise IronstoneError(
                f"Node number {worst} stands at two different places, {apart.max():.3g} apart.",
                "Correct GlobalIds in the file, or write it without them so that nodes are found by their place.",
            )
        shared = len(unique) == len(points)
        in_pieces = pieces is not None and not unshared and not shared
        how = "nodes shared, numbered by GlobalIds" if shared else "joined by GlobalIds"
        return Weld(label, len(unique), shared or in_pieces, how, pieces=in_pieces)
    if not unshared and pieces is not None:
        return _of_pieces(points, pieces)
    if not unshared:
        return Weld(np.arange(len(points)), len(points), True, "nodes shared in the file")
    size = float(np.ptp(points, axis=0).max(initial=0.0))
    found = _coincident(points, point_part, 1e-6 * max(size, 1e-30))
    # Nodes are numbered in the order in which the file first names them.
    _, first, label = np.unique(found, return_index=True, return_inverse=True)
    rank = np.empty(len(first), dtype=np.int64)
    rank[np.argsort(first)] = np.arange(len(first))
    return Weld(rank[label], len(first), False, "joined by coincidence within each part", by_place=True)


def _of_pieces(points: Float, pieces: Int) -> Weld:
    """Points of different pieces that lie at one place, one of each, are one node; two of one piece are two."""
    size = float(np.ptp(points, axis=0).max(initial=0.0))
    label = _coincident(points, np.zeros(len(points), dtype=np.int64), 1e-6 * max(size, 1e-30))
    _, first, often = np.unique(np.stack([label, pieces], axis=1), axis=0, return_index=True, return_counts=True)
    # Where a piece has two nodes at a place (a crack, a contact) nobody knows which of them another piece's belongs to.
    twice = np.unique(label[first[often > 1]])
    alone = np.isin(label, twice)
    label = np.where(alone, label.max(initial=0) + 1 + np.arange(len(points)), label)
    _, first, inverse = np.unique(label, return_index=True, return_inverse=True)
    rank = np.empty(len(first), dtype=np.int64)
    rank[np.argsort(first)] = np.arange(len(first))
    joined = len(points) - len(first)
    count = int(pieces.max(initial=0)) + 1
    how = f"{count} pieces, joined at {joined} nodes that lie at one place" if joined else f"{count} pieces that nowhere meet"
    return Weld(rank[inverse.ravel()], len(first), True, how, by_place=True, pieces=True)


def _coincident(points: Float, part: Int, tolerance: float) -> Int:
    """Labels of points that lie within ``tolerance`` of each other and belong to one part."""
    from scipy.spatial import cKDTree

    cells = np.rint(points / (16.0 * tolerance)).astype(np.int64)
    key = np.concatenate([part[:, None], cells], axis=1)
    _, first, label = np.unique(key, axis=0, return_index=True, return_inverse=True)
    label = label.ravel().astype(np.int64)
    # Cells of the grid that lie against each other may still hold copies of one node: join their centres.
    centres = points[first]
    parent = np.arange(len(first))
    for a, b in cKDTree(centres).query_pairs(tolerance):
        if part[first[a]] == part[first[b]]:
            parent[max(a, b)] = min(parent[a], parent[b], a, b)
    while (parent != parent[parent]).any():
        parent = parent[parent]
    _, joined = np.unique(parent, return_inverse=True)
    result: Int = joined.astype(np.int64)[label]
    return result


@dataclass
class CopyCheck:
    """Watches one array through the steps: do the copies of a node agree, and how large are the values."""

    precision: str
    disagreement: float = 0.0
    largest: float = 0.0
    smallest: float = float("inf")
    worst_step: int = -1

    def look(self, step: int, values: NDArray[np.floating], weld: Weld) -> None:
        finite = np.nan_to_num(np.asarray(values, dtype=np.float64))
        self.largest = max(self.largest, float(finite.max(initial=-np.inf)))
        self.smallest = min(self.smallest, float(finite.min(initial=np.inf)))
        apart = float(np.abs(finite - finite[weld.first[weld.label]]).max(initial=0.0))
        if apart > self.disagreement:
            self.disagreement, self.worst_step = apart, step

    @property
    def agree(self) -> bool:
        reach = max(self.largest - self.smallest, abs(self.largest), abs(self.smallest))
        return self.disagreement <= TOLERANCE[self.precision] * max(reach, 1e-300)


OURS = ("xx", "yy", "zz", "xy", "yz", "xz")
_ALIAS = {"yx": "xy", "zy": "yz", "zx": "xz", "11": "xx", "22": "yy", "33": "zz", "12": "xy", "23": "yz", "13": "xz"}


def tensor_order(components: tuple[str, ...]) -> list[str] | None:
    """Which component each column is, from the names a file gives; None where they do not say."""
    names = [c.strip().lower()[-2:] for c in components]
    names = [_ALIAS.get(n, n) for n in names]
    return names if len(set(names)) == len(names) > 2 and set(names) <= set(OURS) else None


def as_tensor(values: NDArray[np.floating], components: tuple[str, ...]) -> tuple[NDArray[np.floating], str]:
    """Tensor components brought to xx, yy, zz, xy, yz, xz; the second value says what was done, '' for nothing.

    Six components are taken in the order their names give, or in ours when they have none; nine are symmetrised; four are
    xx, yy, zz, xy of a planar model, three xx, yy, xy, whose third direction is then missing.
    """
    count = values.shape[1]
    if count == 9:
        full = values.reshape(-1, 3, 3)
        both = (full + full.transpose(0, 2, 1)) / 2
        return np.stack([both[:, i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))], 1), "nine components"
    order = tensor_order(components)
    if count in (3, 4):
        taken = order if order is not None else ["xx", "yy", "zz", "xy"] if count == 4 else ["xx", "yy", "xy"]
        padded = np.zeros((len(values), 6), dtype=values.dtype)
        if "zz" not in taken:
            padded[:, 2] = np.nan
        for column, name in enumerate(taken):
            padded[:, OURS.index(name)] = values[:, column]
        return padded, f"{'four' if count == 4 else 'three'} components taken as {', '.join(taken)}"
    if order is not None:
        columns = [order.index(n) for n in OURS]
        return values[:, columns], "" if columns == list(range(6)) else f"order {', '.join(order)} in the file"
    return values, "order xx, yy, zz, xy, yz, xz assumed: the file names no components"


def as_meant(
    stored: NDArray[np.floating], order: Sequence[str] | None, engineering: bool, layout: str = ""
) -> NDArray[np.floating]:
    """Tensors as kept at intake (n, several x 6) as they are meant, (n, several, 6) in our order.

    order: of six columns of the file. engineering: the shear is the change of the angle, and halved. layout: what three or four
    columns of the file are; they are kept as xx, yy, zz, xy and xx, yy, xy.
    """
    table = np.array(stored).reshape(len(stored), -1, 6)
    if layout:
        names = layout.split(", ")
        columns = [table[..., i] for i in ((0, 1, 2, 3) if len(names) == 4 else (0, 1, 3))]
        missing = np.full_like(columns[0], np.nan)
        shears = [c for c, name in zip(columns, names, strict=True) if name in ("xy", "yx")]
        found = dict(zip(names, columns, strict=True)) | {"xy": sum(shears) / len(shears)}
        table = np.stack([found["xx"], found["yy"], found.get("zz", missing), found["xy"], table[..., 4], table[..., 5]], axis=-1)
    if order is not None:
        table = table[:, :, [order.index(name) for name in OURS]]
    if engineering:
        table[:, :, 3:] /= 2.0
    return table


def third_direction(tensor: NDArray[np.floating], kind: str, model: str, poisson: Float) -> Float:
    """A planar model's tensor (n, 6) whose zz the file leaves out, completed while elastic; NaN where it cannot be.

    Plane stress: s_zz = 0, e_zz = -nu/(1 - nu) (e_xx + e_yy). Plane strain: e_zz = 0, s_zz = nu (s_xx + s_yy).
    """
    result: Float = np.array(tensor, dtype=np.float64)
    across = result[:, 0] + result[:, 1]
    if kind == "stress":
        result[:, 2] = 0.0 if model == "plane stress" else poisson * across if model == "plane strain" else np.nan
    elif kind == "strain":
        result[:, 2] = (
            0.0 if model == "plane strain" else -poisson / (1.0 - poisson) * across if model == "plane stress" else np.nan
        )
    return result
