"""The elements' own shape functions at places inside them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ironstone.core.kept import kept_with
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

FEW_SAMPLES = 64


@dataclass(frozen=True, eq=False)
class Interpolation:
    """The elements' own shape functions at samples: matrix (samples, corners touched), and which corners those are."""

    corners: Int
    matrix: csr_matrix


def interpolation(mesh: Mesh, place: AtSamples) -> Interpolation:
    """Shape functions at samples; kept, those of a few places (followed through the steps) apart from the large sets of views.

    Weights that are zero but for rounding are left out, so that a sample on a node does not lose its value to a neighbour
    that has none.
    """
    return _of_many(mesh, place) if len(place.element) > FEW_SAMPLES else _of_few(mesh, place)


@kept_with(8)
def _of_many(mesh: Mesh, place: AtSamples) -> Interpolation:
    return _interpolation(mesh, place)


@kept_with(8)
def _of_few(mesh: Mesh, place: AtSamples) -> Interpolation:
    return _interpolation(mesh, place)


def _interpolation(mesh: Mesh, place: AtSamples) -> Interpolation:
    from scipy.sparse import csr_matrix

    touched = np.zeros(len(mesh.types), dtype=bool)
    touched[place.element] = True
    corners = mesh.corners_of(np.flatnonzero(touched))
    column = np.zeros(len(mesh.types), dtype=np.int64)
    column[touched] = np.concatenate([[0], np.cumsum(np.diff(mesh.offsets)[touched])])[:-1]
    rows, columns, weights = [], [], []
    types = mesh.types[place.element]
    for vtk in np.unique(types):
        cell = CELLS[int(vtk)]
        here = np.flatnonzero(types == vtk)
        shape = _shapes(cell, place.xi[here])
        at = column[place.element[here]][:, None] + np.arange(cell.size)
        keep = np.abs(shape) > 1e-12
        rows.append(np.broadcast_to(here[:, None], shape.shape)[keep])
        columns.append(at[keep])
        weights.append(shape[keep])
    size = (len(place.element), len(corners))
    if not rows:
        return Interpolation(corners, csr_matrix(size))
    parts = (np.concatenate(weights), (np.concatenate(rows), np.concatenate(columns)))
    return Interpolation(corners, csr_matrix(parts, shape=size))


def _shapes(cell: Cell, xi: Float) -> Float:
    """Shape functions at samples; those of a view repeat a few places in every face, which are then worked out once."""
    key = xi @ np.array([1.0, np.sqrt(2.0), np.sqrt(3.0)])
    distinct, first, back = np.unique(key, return_index=True, return_inverse=True)
    if 4 * len(distinct) < len(xi) and bool((xi[first][back] == xi).all()):
        few: Float = cell.shape(xi[first])[back]
        return few
    return cell.shape(xi)


def positions(mesh: Mesh, place: AtSamples, nodal: NDArray[np.floating] | None = None) -> Float:
    """Coordinates of samples, (n, 3), or of any nodal vector given instead, by the elements' own interpolation."""
    nodal = mesh.points if nodal is None else nodal
    found = interpolation(mesh, place)
    result: Float = found.matrix @ np.asarray(nodal[mesh.connectivity[found.corners]], dtype=np.float64)
    return result


def element_centres(mesh: Mesh, elements: Int) -> Float:
    """The middle of each element by its own shape functions, (len(elements), 3)."""
    centres = np.empty((len(elements), 3))
    types = mesh.types[elements]
    for vtk in np.unique(types):
        cell, here = CELLS[int(vtk)], np.flatnonzero(types == vtk)
        corners = mesh.offsets[elements[here]][:, None] + np.arange(cell.size)
        weights = cell.shape(cell.centre)[0]
        centres[here] = np.einsum("s,nsd->nd", weights, mesh.points[mesh.connectivity[corners]])
    return centres


def element_centre(mesh: Mesh, element: int) -> Float:
    centre: Float = element_centres(mesh, np.array([element]))[0]
    return centre
