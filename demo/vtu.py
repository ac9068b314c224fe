"""Writes a result as a solver would: elements that share no nodes, so that every corner keeps its own value."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import vtkPoints, vtkStringArray
from vtkmodules.vtkCommonDataModel import (
    VTK_BIQUADRATIC_QUAD,
    VTK_LINE,
    VTK_QUAD,
    VTK_QUADRATIC_HEXAHEDRON,
    VTK_QUADRATIC_QUAD,
    VTK_TRIANGLE,
    vtkCellArray,
    vtkUnstructuredGrid,
)
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridWriter

# The shape of an element by how many nodes it has.
SHAPES = {
    2: VTK_LINE,
    3: VTK_TRIANGLE,
    4: VTK_QUAD,
    8: VTK_QUADRATIC_QUAD,
    9: VTK_BIQUADRATIC_QUAD,
    20: VTK_QUADRATIC_HEXAHEDRON,
}
TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")


def write_unshared(
    path: Path,
    time: float | None,
    nodes: np.ndarray,
    connectivity: np.ndarray,
    node_data: dict[str, np.ndarray],
    corner_data: dict[str, np.ndarray],
    cell_data: dict[str, np.ndarray],
    moment: str = "TimeValue",
    totals: dict[str, float] | None = None,
    loading: str = "",
) -> None:
    """One VTU file in single precision, of 20-node bricks, bars, faces of 3, 4 or 8 nodes, or 9-node shells.

    moment: what ``time`` is, None of a case that has none. totals: numbers of the whole model. loading: the load case it is. Node
    data are copied to every corner, ``GlobalIds`` keep the node numbers from 1.
    """
    corners = connectivity.ravel()
    grid = vtkUnstructuredGrid()
    points = vtkPoints()
    points.SetData(numpy_to_vtk(nodes[corners].astype(np.float32), deep=True))
    grid.SetPoints(points)
    cells = vtkCellArray()
    per_cell = connectivity.shape[1]
    cells.SetData(
        numpy_to_vtk(np.arange(0, corners.size + 1, per_cell, dtype=np.int32), deep=True),
        numpy_to_vtk(np.arange(corners.size, dtype=np.int32), deep=True),
    )
    grid.SetCells(SHAPES[per_cell], cells)

    def add(target, name: str, values: np.ndarray, components: tuple[str, ...] = ()) -> None:
        if values.dtype.kind == "f":
            values = values.astype(np.float32) if len(values) > 1 else values
        array = numpy_to_vtk(np.ascontiguousarray(values), deep=True)
        array.SetName(name)
        for index, component in enumerate(components):
            array.SetComponentName(index, component)
        target.AddArray(array)

    for name, values in node_data.items():
        add(grid.GetPointData(), name, values[corners])
    for name, values in corner_data.items():
        flat = values.reshape(corners.size, -1)
        add(grid.GetPointData(), name, flat[:, 0] if flat.shape[1] == 1 else flat, TENSOR if flat.shape[1] == 6 else ())
    for name, values in cell_data.items():
        add(grid.GetCellData(), name, values)
    for target, name, ids in (
        (grid.GetPointData(), "GlobalIds", corners + 1),
        (grid.GetCellData(), "GlobalIds", np.arange(len(connectivity)) + 1),
    ):
        array = numpy_to_vtk(ids.astype(np.int64), deep=True)
        array.SetName(name)
        target.SetGlobalIds(array)
    for name, value in {**({} if time is None else {moment: time}), **(totals or {})}.items():
        add(grid.GetFieldData(), name, np.array([value]))
    if loading:
        text = vtkStringArray()
        text.SetName("Loading")
        text.InsertNextValue(loading)
        grid.GetFieldData().AddArray(text)
    writer = vtkXMLUnstructuredGridWriter()
    writer.SetFileName(str(path))
    writer.SetInputData(grid)
    writer.SetDataModeToAppended()
    writer.EncodeAppendedDataOff()
    writer.SetCompressorTypeToLZMA()
    writer.SetCompressionLevel(9)
    writer.SetBlockSize(1 << 20)
    if writer.Write() != 1:
        raise OSError(f"could not write {path}")
