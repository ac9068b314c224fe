"""Many points found in solid elements at once: VTK finds one element for each, and where in it the point lies is verified here."""

from __future__ import annotations

import warnings

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import (
    vtkCellArray,
    vtkCellLocatorStrategy,
    vtkPolyData,
    vtkStaticCellLocator,
    vtkUnstructuredGrid,
)
from vtkmodules.vtkFiltersCore import vtkProbeFilter

from ironstone.core.geometry.faces import LINEAR
from ironstone.core.geometry.locate import INSIDE, depths_of, natural
from ironstone.core.kept import kept_with
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Float, Int, Mesh

# So deep, in natural coordinates, that no other element meets there.
DEEP = 10 * INSIDE


def strictly_inside(mesh: Mesh, points: Float) -> tuple[Int, Float]:
    """The solid element each of some points (n, 3) lies inside of, -1 where none was found, and its natural coordinates (n, 3).

    A point on a border is not found, nor always one in an element with curved sides: ``locate`` finds these. Where parts overlap
    it is one of the elements that hold the point.
    """
    element, xi = np.full(len(points), -1, dtype=np.int64), np.zeros((len(points), 3))
    found = _searched(mesh) if len(points) else None
    if found is None:
        return element, xi
    there, guess = _probed(*found, points)
    at = np.flatnonzero(there >= 0)
    types = mesh.types[there[at]]
    for vtk in np.unique(types):
        here, cell = at[types == vtk], CELLS[int(vtk)]
        nodes = mesh.points[mesh.connectivity[mesh.offsets[there[here]][:, None] + np.arange(cell.size)]]
        own, inside = natural(cell, nodes, points[here], guess[here])
        kept = inside & (np.nan_to_num(depths_of(cell, own), nan=-1.0).min(1) > DEEP)
        element[here[kept]], xi[here[kept]] = there[here[kept]], own[kept]
    return element, xi


@kept_with(1)
def _searched(mesh: Mesh) -> tuple[vtkUnstructuredGrid, vtkCellLocatorStrategy] | None:
    """The solid elements as VTK searches them, with what it searches by, made once; None of a mesh without any."""
    grid = _straight(mesh)
    if grid is None:
        return None
    locator = vtkStaticCellLocator()
    locator.SetDataSet(grid)
    locator.BuildLocator()
    with warnings.catch_warnings():
        # VTK 9.7 calls it deprecated, and its filter takes nothing else yet.
        warnings.simplefilter("ignore", DeprecationWarning)
        searched = vtkCellLocatorStrategy()
    searched.SetCellLocator(locator)
    return grid, searched


def _straight(mesh: Mesh) -> vtkUnstructuredGrid | None:
    """The solid elements by their corners, each with points of its own, which know their natural coordinates; None of none."""
    connectivity, types, elements, xi = [], [], [], []
    for block in mesh.blocks:
        if block.cell.dimension == 3:
            corners = block.nodes[:, : block.cell.corners]
            connectivity.append(corners.ravel())
            types.append(np.full(len(corners), LINEAR[block.cell.family], dtype=np.uint8))
            elements.append(block.elements)
            # As a first guess single precision is enough, and half the memory.
            xi.append(np.tile(block.cell.nodes[: block.cell.corners].astype(np.float32), (len(corners), 1)))
    if not types:
        return None
    grid, place, cells = vtkUnstructuredGrid(), vtkPoints(), vtkCellArray()
    place.SetData(numpy_to_vtk(mesh.points[np.concatenate(connectivity)], deep=True))
    grid.SetPoints(place)
    kinds = np.concatenate(types)
    counts = np.zeros(256, dtype=np.int64)
    for cell in CELLS.values():
        counts[LINEAR[cell.family]] = cell.corners
    offsets = np.concatenate([[0], np.cumsum(counts[kinds])])
    cells.SetData(numpy_to_vtk(offsets, deep=True), numpy_to_vtk(np.arange(offsets[-1]), deep=True))
    grid.SetCells(numpy_to_vtk(kinds, deep=True), cells)
    for data, name, values in (
        (grid.GetPointData(), "xi", np.concatenate(xi)),
        (grid.GetCellData(), "element", np.concatenate(elements)),
    ):
        array = numpy_to_vtk(np.ascontiguousarray(values), deep=True)
        array.SetName(name)
        data.AddArray(array)
    return grid


def _probed(grid: vtkUnstructuredGrid, searched: vtkCellLocatorStrategy, points: Float) -> tuple[Int, Float]:
    """The element VTK finds for each point, -1 for none, and about where in it that is. Shape functions have natural coordinates
    back as they are at the corners: what VTK makes of them is its own answer in ours."""
    asked, place = vtkPolyData(), vtkPoints()
    given = numpy_to_vtk(np.ascontiguousarray(points), deep=True)
    place.SetData(given)
    asked.SetPoints(place)
    probe = vtkProbeFilter()
    probe.SetInputData(asked)
    probe.SetSourceData(grid)
    probe.SetFindCellStrategy(searched)
    # With a tolerance it also takes an element that is just beside the point.
    probe.ComputeToleranceOff()
    probe.SetTolerance(0.0)
    probe.Update()
    found = probe.GetOutput().GetPointData()
    element = vtk_to_numpy(found.GetArray("element")).astype(np.int64)
    xi = vtk_to_numpy(found.GetArray("xi")).astype(np.float64)
    valid = vtk_to_numpy(found.GetArray(probe.GetValidPointMaskArrayName())) > 0
    return np.where(valid, element, -1), xi
