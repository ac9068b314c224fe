"""The one averaging operator: corners that meet at a node, within a group, share their mean."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from ironstone.core.cells import CELLS
from ironstone.core.mesh import Float, Int, Mesh

AVERAGINGS = ("off", "element", "part", "material", "all")


@dataclass(frozen=True, eq=False)
class CornerAveraging:
    """slot: (corners,) which (node, group) each corner belongs to; gather: (slots, corners) sums the corners of a slot."""

    slot: Int
    gather: csr_matrix

    def __call__(self, values: Float) -> Float:
        """Corner values (corners, components) with each slot's mean put back on its corners.

        A corner without a value keeps none, and does not count in its neighbours' mean.
        """
        values = np.asarray(values, dtype=np.float64)
        there = ~np.isnan(values)
        if there.all():
            means = self.gather @ values
            means /= np.diff(self.gather.indptr)[:, None]
            everywhere: Float = means[self.slot]
            return everywhere
        sums = self.gather @ np.where(there, values, 0.0)
        counts = self.gather @ there.astype(np.float64)
        with np.errstate(invalid="ignore", divide="ignore"):
            means = sums / counts
        return np.where(there, means[self.slot], np.nan)


def grouping(mesh: Mesh, averaging: str) -> Int:
    """Group of each element, (elements,). Lines never average across members: each is a group of its own."""
    groups = {"part": mesh.part, "material": mesh.material_or_part}
    group = groups[averaging].astype(np.int64) if averaging in groups else np.zeros(len(mesh.types), dtype=np.int64)
    dimension = np.array([CELLS[int(t)].dimension for t in range(256) if t in CELLS])
    lookup = np.zeros(256, dtype=np.int64)
    lookup[[t for t in range(256) if t in CELLS]] = dimension
    line = lookup[mesh.types] == 1
    group[line] = group.max(initial=0) + 1 + np.flatnonzero(line)
    return group


def corner_averaging(mesh: Mesh, averaging: str) -> CornerAveraging:
    """Build the operator for 'part', 'material' (by part where the file names no materials) or 'all'."""
    group = grouping(mesh, averaging)[mesh.corner_element]
    key = group * len(mesh.points) + mesh.connectivity
    _, slot = np.unique(key, return_inverse=True)
    count = len(slot)
    gather = csr_matrix((np.ones(count), (slot, np.arange(count))), shape=(int(slot.max(initial=-1)) + 1, count))
    return CornerAveraging(slot.astype(np.int64), gather)


def spread(values: NDArray[np.float64]) -> float:
    """Largest less smallest of the values that are there; 0 for a single one, NaN for none."""
    there = values[~np.isnan(values)]
    return float(there.max() - there.min()) if len(there) else float("nan")
