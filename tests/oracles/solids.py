"""Blocks of solid elements for the oracles, built from VTK's own numbering of nodes, not from the product's tables."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from vtkmodules.vtkCommonDataModel import (
    vtkHexahedron,
    vtkQuadraticHexahedron,
    vtkQuadraticTetra,
    vtkTetra,
    vtkTriQuadraticHexahedron,
)

from ironstone.core.mesh.mesh import Mesh
from tests.models import mesh_of

SHAPES = {
    "hex8": (12, vtkHexahedron),
    "hex20": (25, vtkQuadraticHexahedron),
    "hex27": (29, vtkTriQuadraticHexahedron),
    "tet4": (10, vtkTetra),
    "tet10": (24, vtkQuadraticTetra),
}
CUBE = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]], dtype=float)
TETS_OF_CUBE = ((0, 1, 3, 4), (1, 2, 3, 6), (1, 3, 4, 6), (1, 4, 5, 6), (3, 4, 6, 7))


def natural_nodes(name: str) -> np.ndarray:
    cell = SHAPES[name][1]()
    return np.array(cell.GetParametricCoords()).reshape(-1, 3)


def shape_functions(name: str, xi: np.ndarray) -> np.ndarray:
    """VTK's own shape functions at natural coordinates, (points, nodes)."""
    cell = SHAPES[name][1]()
    rows = []
    for x in xi:
        weights = [0.0] * len(natural_nodes(name))
        cell.InterpolateFunctions([float(v) for v in x], weights)
        rows.append(weights)
    return np.array(rows)


def block(
    name: str,
    counts: tuple[int, int, int],
    size: tuple[float, float, float],
    bend: Callable[[np.ndarray], np.ndarray] = lambda p: p,
) -> Mesh:
    """A box (0 to size) of so many cells a side, its nodes moved by ``bend``; tetrahedra are five to a cell."""
    vtk, nodes = SHAPES[name][0], natural_nodes(name)
    raw: list[np.ndarray] = []
    for index in np.ndindex(*counts):
        if name.startswith("tet"):
            # Every other cell is mirrored, so that the diagonals of neighbours meet.
            cube = CUBE if sum(index) % 2 == 0 else CUBE * [-1, 1, 1] + [1, 0, 0]
            for tet in TETS_OF_CUBE:
                corner = cube[list(tet if sum(index) % 2 == 0 else (tet[0], tet[2], tet[1], tet[3]))]
                weights = np.column_stack([1 - nodes.sum(1), nodes])
                raw.append(weights @ corner + index)
        else:
            raw.append(nodes + index)
    scale = np.array(size) / np.array(counts)
    everywhere = np.concatenate(raw) * scale
    _, first, label = np.unique(np.round(everywhere, 9), axis=0, return_index=True, return_inverse=True)
    label = label.ravel()
    per = len(nodes)
    cells = [(vtk, label[i * per : (i + 1) * per].tolist()) for i in range(len(raw))]
    return mesh_of(bend(everywhere[first]), cells)
