"""The one averaging operator: corners that meet at a node, within a group, share their mean."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.reading.reading import FOLD

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix


@dataclass(frozen=True, eq=False)
class CornerAveraging:
    """slot: (corners,) which (node, group) each corner belongs to; gather: (slots, corners) adds up the weights of a slot."""

    slot: Int
    gather: csr_matrix

    def means(self, values: Float) -> Float:
        """Each slot's mean of corner values (corners, components); NaN where no corner has a value."""
        values = np.asarray(values, dtype=np.float64)
        plain = self._plain
        total: NDArray[Any] = np.diff(self.gather.indptr) if plain else np.asarray(self.gather.sum(axis=1)).ravel()
        means: Float = self.gather @ values
        with np.errstate(invalid="ignore", divide="ignore"):
            means /= total[:, None]
            if np.isnan(means).any():
                there = ~np.isnan(values)
                means = (self.gather @ np.where(there, values, 0.0)) / (self.gather @ there.astype(np.float64))
        return means

    @property
    def _plain(self) -> bool:
        return bool(len(self.gather.data) == 0 or (self.gather.data == 1.0).all())

    @cached_property
    def first(self) -> Int:
        """One corner of each slot, (slots,)."""
        found = np.zeros(self.gather.shape[0], dtype=np.int64)
        found[self.slot[::-1]] = np.arange(len(self.slot))[::-1]
        return found

    def __call__(self, values: Float) -> Float:
        """Corner values (corners, components) with each slot's mean put back on its corners.

        A corner without a value keeps none, and does not count in its neighbours' mean.
        """
        means = self.means(values)[self.slot]
        missing = np.isnan(values)
        return np.where(missing, np.nan, means) if missing.any() else means

    def some(self, corners: Int) -> tuple[CornerAveraging, Int]:
        """The operator for some corners alone: an operator over the corners that matter, and which those are."""
        slots = np.unique(self.slot[corners])
        rows = self.gather[slots]
        needed = np.unique(rows.indices).astype(np.int64)
        local = np.searchsorted(slots, self.slot[needed])
        return CornerAveraging(local, rows[:, needed].tocsr()), needed


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
    from scipy.sparse import csr_matrix

    group = grouping(mesh, averaging, all_that_meets)
    key = group[mesh.corner_element] * len(mesh.points) + mesh.connectivity
    sheet = folded_sheets(mesh, group, fold) if averaging != "all" and not all_that_meets else None
    if sheet is not None:
        _, key = np.unique(key, return_inverse=True)
        key = key.astype(np.int64) * (int(sheet.max(initial=0)) + 1) + sheet
    _, slot = np.unique(key, return_inverse=True)
    count = len(slot)
    weights = np.ones(count) if weight == "plain" else mesh.volumes[mesh.corner_element]
    gather = csr_matrix((weights, (slot, np.arange(count))), shape=(int(slot.max(initial=-1)) + 1, count))
    return CornerAveraging(slot.astype(np.int64), gather)


def spread(values: NDArray[np.float64]) -> float:
    """Largest less smallest of the values that are there; 0 for a single one, NaN for none."""
    there = values[~np.isnan(values)]
    return float(there.max() - there.min()) if len(there) else float("nan")
