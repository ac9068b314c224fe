"""The one averaging operator: corners that meet at a node, within a group, share their mean."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.reading.reading import FOLD
from ironstone.core.wanted import still_wanted

# Corners that are worked on at once.
RUN = 1 << 17


@dataclass(frozen=True, eq=False)
class SlotMeans:
    """means: (slots, components); whole: whether every corner has a value, so that each has its slot's."""

    means: Float
    whole: bool


@dataclass(frozen=True, eq=False)
class CornerAveraging:
    """slot: (corners,) which (node, group) each corner belongs to; count: of slots. weight: (corners,) what each counts in its
    slot's mean; None: all the same."""

    slot: NDArray[np.integer]
    count: int
    weight: Float | None = None

    @cached_property
    def _rows(self) -> tuple[NDArray[np.integer], Int]:
        """All corners in the order of their slots, and where those of each slot begin, (slots + 1,)."""
        begins = np.concatenate([[0], np.cumsum(np.bincount(self.slot, minlength=self.count))])
        return np.argsort(self.slot, kind="stable").astype(self.slot.dtype, copy=False), begins

    def corners_in(self, slots: Int) -> tuple[Int, Int]:
        """The corners that share some slots, slot after slot, and where those of each begin, (len(slots),)."""
        order, begins = self._rows
        sizes = begins[slots + 1] - begins[slots]
        ends = np.cumsum(sizes)
        at = np.arange(int(sizes.sum())) + np.repeat(begins[slots] - (ends - sizes), sizes)
        return order[at].astype(np.int64), ends - sizes

    def means_of(self, read: Callable[[Int], NDArray[np.floating]]) -> SlotMeans:
        """Each slot's mean of corner values that are read a run of corners at a time, ``read(corners)`` (n, components); NaN where
        no corner has a value."""
        total = np.zeros((self.count, 0))
        # How much counts in each mean: of all components alike until a value is missing.
        counts, lacking = np.zeros((self.count, 1)), False
        for start in range(0, len(self.slot), RUN):
            run = np.arange(start, min(start + RUN, len(self.slot)))
            still_wanted(f"averaged, {start:,} of {len(self.slot):,} corners" if start else "")
            raw = np.asarray(read(run), dtype=np.float64)
            if not total.shape[1]:
                total = np.zeros((self.count, raw.shape[1]))
            at, here = self._places(run)
            size = len(at) if isinstance(at, np.ndarray) else at.stop - at.start
            weight = None if self.weight is None else self.weight[run]
            there = ~np.isnan(raw)
            lacking |= not there.all()
            if counts.shape[1] == 1 and there.all():
                counts[at] += np.bincount(here, weight, minlength=size)[:, None]
            else:
                if counts.shape[1] != raw.shape[1]:
                    counts = np.repeat(counts, raw.shape[1], axis=1)
                for k in range(raw.shape[1]):
                    counts[at, k] += np.bincount(here, there[:, k] if weight is None else weight * there[:, k], minlength=size)
                raw = np.where(there, raw, 0.0)
            for k in range(raw.shape[1]):
                total[at, k] += np.bincount(here, raw[:, k] if weight is None else weight * raw[:, k], minlength=size)
        with np.errstate(invalid="ignore", divide="ignore"):
            total /= counts
        return SlotMeans(total, not lacking)

    def _places(self, run: Int) -> tuple[Any, NDArray[np.integer]]:
        """The slots a run of corners belongs to, as a slice where they lie close together, and which of them each corner's is."""
        slot = self.slot[run[0] : run[-1] + 1]
        low, high = int(slot.min()), int(slot.max()) + 1
        if high - low <= 4 * len(run):
            return slice(low, high), slot - low
        return np.unique(slot, return_inverse=True)

    @cached_property
    def first(self) -> Int:
        """One corner of each slot, (slots,)."""
        found = np.zeros(self.count, dtype=np.int64)
        # The last runs first, so that the first corner of a slot is the one that stays.
        for start in range((len(self.slot) - 1) // RUN * RUN, -1, -RUN):
            slot = self.slot[start : start + RUN]
            found[slot[::-1]] = np.arange(start + len(slot) - 1, start - 1, -1)
        return found

    def __call__(self, values: Float) -> Float:
        """Corner values (corners, components) with each slot's mean put back on its corners.

        A corner without a value keeps none, and does not count in its neighbours' mean.
        """
        found = self.means_of(lambda corners: values[corners])
        shared: Float = found.means[self.slot]
        return shared if found.whole else np.where(np.isnan(values), np.nan, shared)

    def some(self, corners: Int) -> tuple[CornerAveraging, Int]:
        """The operator for some corners alone: an operator over the corners that matter, and which those are."""
        slots = np.unique(self.slot[corners]).astype(np.int64)
        needed = np.sort(self.corners_in(slots)[0])
        weight = None if self.weight is None else self.weight[needed]
        return CornerAveraging(np.searchsorted(slots, self.slot[needed]), len(slots), weight), needed


def grouping(mesh: Mesh, averaging: str, all_that_meets: bool = False) -> Int:
    """Group of each element, (elements,). Lines never average across members: each is a group of its own.

    all_that_meets: groups are the materials (parts) and nothing finer, for what is compared and not averaged.
    """
    groups = {"part": mesh.part, "material": mesh.material_or_part}
    group = groups[averaging].astype(np.int64) if averaging in groups else np.zeros(len(mesh.types), dtype=np.int64)
    if all_that_meets:
        return group
    if averaging in groups and mesh.breaks is not None:
        group = group * (int(mesh.breaks.max(initial=0)) + 1) + mesh.breaks
    line = mesh.dimensions == 1
    group[line] = group.max(initial=0) + 1 + np.flatnonzero(line)
    return group


def folded_sheets(mesh: Mesh, group: Int, fold: float) -> Int | None:
    """Which sheet each corner belongs to where shells fold by more than ``fold`` degrees, (corners,); None where none do.

    Corners of shells at a node lie on one sheet when a chain of edges joins their elements without a fold above the limit.
    """
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    flat = mesh.dimensions == 2
    if not flat.any() or mesh.planar or fold >= 180.0:
        return None
    element, here, there, between = [], [], [], []
    normals = np.zeros((len(mesh.types), 3))
    for block in mesh.blocks:
        if block.cell.dimension != 2:
            continue
        corners = mesh.points[block.nodes[:, : block.cell.corners]]
        quad = block.cell.corners == 4
        along = corners[:, 2] - corners[:, 0] if quad else corners[:, 1] - corners[:, 0]
        across = corners[:, 3] - corners[:, 1] if quad else corners[:, 2] - corners[:, 0]
        normals[block.elements] = np.cross(along, across)
        for edge in block.cell.edges:
            element.append(block.elements)
            here.append(block.corners[:, edge[0]])
            there.append(block.corners[:, edge[1]])
            between.append(block.corners[:, edge[2]] if len(edge) > 2 else np.full(len(block.elements), -1))
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    owner, a, b, middle = (np.concatenate(pieces) for pieces in (element, here, there, between))
    swap = mesh.connectivity[a] > mesh.connectivity[b]
    low, high = np.where(swap, b, a), np.where(swap, a, b)
    order = np.lexsort((mesh.connectivity[high], mesh.connectivity[low]))
    links = []
    cosine = np.cos(np.radians(fold))
    for shift in (1, 2, 3):
        first, second = order[:-shift], order[shift:]
        same = (mesh.connectivity[low[first]] == mesh.connectivity[low[second]]) & (
            mesh.connectivity[high[first]] == mesh.connectivity[high[second]]
        )
        first, second = first[same], second[same]
        smooth = np.abs((normals[owner[first]] * normals[owner[second]]).sum(1)) >= cosine
        smooth &= group[owner[first]] == group[owner[second]]
        first, second = first[smooth], second[smooth]
        links += [np.stack([ends[first], ends[second]]) for ends in (low, high, middle)]
    pairs = np.concatenate(links, axis=1)
    pairs = pairs[:, (pairs >= 0).all(0)]
    count = len(mesh.connectivity)
    graph = coo_matrix((np.ones(pairs.shape[1], dtype=np.int8), (pairs[0], pairs[1])), shape=(count, count))
    _, sheet = connected_components(graph, directed=False)
    result: Int = sheet.astype(np.int64)
    solid = ~flat[mesh.corner_element]
    result[solid] = count
    return result


def corner_averaging(
    mesh: Mesh, averaging: str, weight: str = "plain", fold: float = FOLD, all_that_meets: bool = False
) -> CornerAveraging:
    """Build the operator for 'part', 'material' (by part where the file names no materials) or 'all'.

    weight: 'plain', or 'volume' of each corner's element. Within parts and materials shells are also kept apart where they fold
    by more than ``fold`` degrees or change thickness or property. all_that_meets: nothing is kept apart but materials (parts), as
    jumps are taken.
    """
    group = grouping(mesh, averaging, all_that_meets)
    sheet = folded_sheets(mesh, group, fold) if averaging != "all" and not all_that_meets else None
    if len(mesh.types) and sheet is None and not group.any():
        # Nothing is kept apart: a slot is a node.
        key: NDArray[np.integer] = mesh.connectivity
        most = len(mesh.points)
    else:
        _, group = np.unique(group, return_inverse=True)
        key = group[mesh.corner_element] * len(mesh.points) + mesh.connectivity
        most = (int(group.max(initial=0)) + 1) * len(mesh.points)
        if sheet is not None:
            _, key = np.unique(key, return_inverse=True)
            key = key.astype(np.int64) * (int(sheet.max(initial=0)) + 1) + sheet
            most = int(key.max(initial=-1)) + 1
    slot, count = _numbered(key, most)
    return CornerAveraging(slot, count, None if weight == "plain" else mesh.volumes[mesh.corner_element])


def _numbered(key: NDArray[np.integer], most: int) -> tuple[NDArray[np.integer], int]:
    """Numbers below ``most`` as places among the distinct ones of them, in order, and how many there are."""
    if most <= 4 * len(key) + 1000:
        used = np.zeros(most, dtype=bool)
        used[key] = True
        place = np.cumsum(used, dtype=np.int64) - 1
        return (place.astype(np.int32) if most < 2**31 else place)[key], int(used.sum())
    distinct, slot = np.unique(key, return_inverse=True)
    return slot.astype(np.int64), len(distinct)


def spread(values: NDArray[np.float64]) -> float:
    """Largest less smallest of the values that are there; 0 for a single one, NaN for none."""
    there = values[~np.isnan(values)]
    return float(there.max() - there.min()) if len(there) else float("nan")
