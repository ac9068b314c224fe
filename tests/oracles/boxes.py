"""Boxes, rectangles and bars of every element shape, cut from VTK's own cells and numbered as VTK numbers them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import numpy as np
import vtkmodules.vtkCommonDataModel as model

from ironstone.core.mesh.mesh import Mesh
from tests.models import mesh_of

CUBE = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]], dtype=float)
CENTRE = np.array([[0.5, 0.5, 0.5]])
# How a unit cell falls into pieces of a family, by the cube's corners (8 is its centre); in every other cell mirrored where the
# diagonals of neighbours would not meet else.
PIECES: dict[str, tuple[tuple[int, ...], ...]] = {
    "line": ((0, 1),),
    "tri": ((0, 1, 2), (0, 2, 3)),
    "quad": ((0, 1, 2, 3),),
    "tet": ((0, 1, 3, 4), (1, 2, 3, 6), (1, 6, 3, 4), (1, 5, 6, 4), (3, 6, 7, 4)),
    "wedge": ((0, 1, 2, 4, 5, 6), (0, 2, 3, 4, 6, 7)),
    "pyramid": ((0, 1, 2, 3, 8), (4, 7, 6, 5, 8), (0, 4, 5, 1, 8), (1, 5, 6, 2, 8), (2, 6, 7, 3, 8), (3, 7, 4, 0, 8)),
    "hex": ((0, 1, 2, 3, 4, 5, 6, 7),),
}
MIRRORED = {"tet": (1, 0, 3, 2, 5, 4, 7, 6)}


@dataclass(frozen=True)
class Shape:
    """A shape: its name here, number and class in VTK, and the class of the straight one of its family."""

    name: str
    vtk: int
    cell: type
    straight: type

    @property
    def family(self) -> str:
        return self.name.rstrip("0123456789")

    @property
    def dimension(self) -> int:
        return {"line": 1, "tri": 2, "quad": 2}.get(self.family, 3)

    @property
    def quadratic(self) -> bool:
        return self.cell is not self.straight

    @property
    def nodes(self) -> np.ndarray:
        """Where VTK has the nodes in the natural domain, (nodes, 3)."""
        return np.array(self.cell().GetParametricCoords()).reshape(-1, 3)

    def placed(self, corners: np.ndarray) -> np.ndarray:
        """Nodes of a piece with these corners (corners, 3), by VTK's functions of the straight cell."""
        cell = self.straight()
        found = []
        for xi in self.nodes:
            weights = [0.0] * cell.GetNumberOfPoints()
            cell.InterpolateFunctions([float(v) for v in xi], weights)
            found.append(np.array(weights) @ corners)
        return np.array(found)


def _shape(name: str, vtk: int, cell: str, straight: str = "") -> Shape:
    own = getattr(model, cell)
    return Shape(name, vtk, own, getattr(model, straight) if straight else own)


SHAPES = [
    _shape("line2", 3, "vtkLine"),
    _shape("line3", 21, "vtkQuadraticEdge", "vtkLine"),
    _shape("tri3", 5, "vtkTriangle"),
    _shape("tri6", 22, "vtkQuadraticTriangle", "vtkTriangle"),
    _shape("quad4", 9, "vtkQuad"),
    _shape("quad8", 23, "vtkQuadraticQuad", "vtkQuad"),
    _shape("quad9", 28, "vtkBiQuadraticQuad", "vtkQuad"),
    _shape("tet4", 10, "vtkTetra"),
    _shape("tet10", 24, "vtkQuadraticTetra", "vtkTetra"),
    _shape("pyramid5", 14, "vtkPyramid"),
    _shape("pyramid13", 27, "vtkQuadraticPyramid", "vtkPyramid"),
    _shape("wedge6", 13, "vtkWedge"),
    _shape("wedge15", 26, "vtkQuadraticWedge", "vtkWedge"),
    _shape("wedge18", 32, "vtkBiQuadraticQuadraticWedge", "vtkWedge"),
    _shape("hex8", 12, "vtkHexahedron"),
    _shape("hex20", 25, "vtkQuadraticHexahedron", "vtkHexahedron"),
    _shape("hex27", 29, "vtkTriQuadraticHexahedron", "vtkHexahedron"),
]
BY_NAME = {s.name: s for s in SHAPES}


@cache
def pieces_of(shape: Shape, counts: tuple[int, int, int]) -> list[np.ndarray]:
    """The nodes (nodes, 3) of every piece of a lattice of unit cells; of faces one layer, of lines one row."""
    counts = tuple(c if k < shape.dimension else 1 for k, c in enumerate(counts))  # type: ignore[assignment]
    found = []
    for index in np.ndindex(*counts):
        cube = np.concatenate([CUBE, CENTRE])
        if shape.family in MIRRORED and sum(index) % 2:
            cube[:, 0] = 1.0 - cube[:, 0]
        for piece in PIECES[shape.family]:
            corners = cube[list(piece)]
            if shape.family in MIRRORED and sum(index) % 2:
                corners = corners[[0, 2, 1, 3]]
            found.append(shape.placed(corners + index))
    return found


def box(
    *shapes: Shape,
    counts: tuple[int, int, int] = (2, 2, 2),
    size: tuple[float, float, float] = (2.0, 3.0, 1.5),
    bend: Callable[[np.ndarray], np.ndarray] = lambda p: p,
) -> Mesh:
    """A box from the origin to ``size`` of one shape, or of several: layer upon layer along x, each of so many cells.

    Nodes at one place are one node. bend: moves the nodes.
    """
    raw: list[tuple[int, np.ndarray]] = []
    for k, shape in enumerate(shapes):
        raw += [(shape.vtk, nodes + [k * counts[0], 0, 0]) for nodes in pieces_of(shape, counts)]
    lattice = np.array([counts[0] * len(shapes), *counts[1:]], dtype=float)
    everywhere = np.concatenate([nodes for _, nodes in raw]) * (np.array(size) / lattice)
    _, first, label = np.unique(np.round(everywhere, 9), axis=0, return_index=True, return_inverse=True)
    ends = np.cumsum([len(nodes) for _, nodes in raw])
    split = np.split(label.ravel(), ends[:-1])
    return mesh_of(bend(everywhere[first]), [(vtk, nodes.tolist()) for (vtk, _), nodes in zip(raw, split, strict=True)])
