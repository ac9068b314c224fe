"""Which faces of elements are used by one of those that are shown: the outside of a body, or of some of its parts."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkPoints, vtkSMPTools
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkUnstructuredGrid
from vtkmodules.vtkFiltersGeometry import vtkGeometryFilter

from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Mesh

# VTK works on one core unless it is told otherwise.
vtkSMPTools.SetBackend("STDThread")


# The plain shape of a family, by VTK's number.
LINEAR = {"vertex": 1, "line": 3, "tri": 5, "quad": 9, "tet": 10, "pyramid": 14, "wedge": 13, "hex": 12}


def corner_count(nodes: tuple[int, ...], order: int) -> int:
    return len(nodes) // order


def boundary(mesh: Mesh, visible: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Faces used by one visible element, and all faces of flat elements: element, local face, corners (faces, 3), in order.

    VTK's geometry filter finds which; here they are told apart among the faces of their element. Quadratic elements are given
    to it by their corners alone.
    """
    lookup = np.zeros(256, dtype=np.int64)
    simple = np.zeros(256, dtype=np.uint8)
    for vtk, cell in CELLS.items():
        lookup[vtk], simple[vtk] = cell.corners, LINEAR[cell.family]
    shown = np.flatnonzero(visible)
    if not len(shown):
        return np.zeros((0, 3), dtype=np.int64)
    counts = lookup[mesh.types[shown]]
    offsets = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
    if len(shown) == len(mesh.types) and offsets[-1] == len(mesh.connectivity):
        connectivity = np.ascontiguousarray(mesh.connectivity)
    else:
        within = np.arange(offsets[-1]) - np.repeat(offsets[:-1], counts)
        connectivity = mesh.connectivity[np.repeat(mesh.offsets[shown], counts) + within]
    grid = vtkUnstructuredGrid()
    points = vtkPoints()
    points.SetData(numpy_to_vtk(np.ascontiguousarray(mesh.points)))
    grid.SetPoints(points)
    cells = vtkCellArray()
    # Half the width takes VTK two thirds of the time.
    width = np.int32 if max(len(connectivity), len(mesh.points)) < 2**31 else np.int64
    given = offsets.astype(width), connectivity.astype(width)
    cells.SetData(*(numpy_to_vtk(array) for array in given))
    grid.SetCells(numpy_to_vtk(simple[mesh.types[shown]]), cells)
    for data, count in ((grid.GetPointData(), len(mesh.points)), (grid.GetCellData(), len(shown))):
        number = numpy_to_vtk(np.arange(count))
        number.SetName("number")
        data.AddArray(number)
    boundary = vtkGeometryFilter()
    boundary.SetInputData(grid)
    boundary.MergingOff()
    boundary.Update()
    found = boundary.GetOutput()
    faces = found.GetPolys()
    if not faces.GetNumberOfCells():
        return np.zeros((0, 3), dtype=np.int64)
    before = found.GetVerts().GetNumberOfCells() + found.GetLines().GetNumberOfCells()
    owner = shown[vtk_to_numpy(found.GetCellData().GetArray("number"))[before:]]
    original = vtk_to_numpy(found.GetPointData().GetArray("number"))
    starts = vtk_to_numpy(faces.GetOffsetsArray()).astype(np.int64)
    nodes = original[vtk_to_numpy(faces.GetConnectivityArray())]
    sizes = np.diff(starts)
    local = np.full(len(sizes), -1, dtype=np.int64)
    for vtk in np.unique(mesh.types[owner]):
        cell = CELLS[int(vtk)]
        of_corners = np.full(1 << cell.corners, -1, dtype=np.int64)
        for index, face in enumerate(cell.faces):
            of_corners[sum(1 << corner for corner in face[: corner_count(face, cell.order)])] = index
        for size in (3, 4):
            here = np.flatnonzero((mesh.types[owner] == vtk) & (sizes == size))
            own = mesh.connectivity[mesh.offsets[owner[here]][:, None] + np.arange(cell.corners)]
            mine = nodes[starts[here][:, None] + np.arange(size)]
            # Which corners of its element a face has, as bits.
            met = (own[:, :, None] == mine[:, None, :]).any(2)
            local[here] = of_corners[met @ (1 << np.arange(cell.corners))]
    kept = local >= 0
    chosen = np.stack([owner, local, sizes], axis=1)[kept]
    return chosen[np.lexsort((chosen[:, 1], chosen[:, 0]))]


def all_faces(mesh: Mesh, visible: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Every face of the visible elements, as ``boundary`` gives those of the skin."""
    found = [np.zeros((0, 3), dtype=np.int64)]
    for block in mesh.blocks:
        shown = block.elements[visible[block.elements]]
        for local, nodes in enumerate(block.cell.faces):
            rest = np.tile([local, corner_count(nodes, block.cell.order)], (len(shown), 1))
            found.append(np.column_stack([shown, rest]))
    return np.concatenate(found)
