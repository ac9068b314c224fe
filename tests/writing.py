"""Small result files for the tests, written with VTK's own writer."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkUnstructuredGrid
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridWriter

MODES = ("ascii", "binary", "appended", "raw")
COMPRESSORS = ("None", "ZLib", "LZ4", "LZMA")


def write_vtu(
    path: Path,
    points: np.ndarray,
    cells: list[tuple[int, list[int]]],
    point_data: dict[str, np.ndarray] | None = None,
    cell_data: dict[str, np.ndarray] | None = None,
    time: float | None = None,
    mode: str = "raw",
    compressor: str = "None",
    components: dict[str, tuple[str, ...]] | None = None,
    load_factor: float | None = None,
    totals: dict[str, float] | None = None,
) -> Path:
    """Write one VTU file; ``cells`` are (VTK type, nodes)."""
    grid = vtkUnstructuredGrid()
    held = vtkPoints()
    held.SetData(numpy_to_vtk(np.ascontiguousarray(points, dtype=np.float64), deep=True))
    grid.SetPoints(held)
    array = vtkCellArray()
    offsets = np.concatenate([[0], np.cumsum([len(n) for _, n in cells])]).astype(np.int64)
    array.SetData(numpy_to_vtk(offsets, deep=True), numpy_to_vtk(np.concatenate([n for _, n in cells]).astype(np.int64), deep=True))
    types = numpy_to_vtk(np.array([t for t, _ in cells], dtype=np.uint8), deep=True)
    grid.SetCells(types, array)
    for target, data in ((grid.GetPointData(), point_data), (grid.GetCellData(), cell_data)):
        for name, values in (data or {}).items():
            vtk = numpy_to_vtk(np.ascontiguousarray(values), deep=True)
            vtk.SetName(name)
            for i, component in enumerate((components or {}).get(name, ())):
                vtk.SetComponentName(i, component)
            target.AddArray(vtk)
    for name, value in (("TimeValue", time), ("LoadFactor", load_factor), *(totals or {}).items()):
        if value is not None:
            moment = numpy_to_vtk(np.array([value]), deep=True)
            moment.SetName(name)
            grid.GetFieldData().AddArray(moment)
    writer = vtkXMLUnstructuredGridWriter()
    writer.SetFileName(str(path))
    writer.SetInputData(grid)
    {"ascii": writer.SetDataModeToAscii, "binary": writer.SetDataModeToBinary}.get(mode, writer.SetDataModeToAppended)()
    if mode == "raw":
        writer.EncodeAppendedDataOff()
    getattr(writer, f"SetCompressorTypeTo{compressor}")()
    assert writer.Write() == 1
    return path


HEX = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]], dtype=float)


def bar_of_hexahedra(count: int = 3, shared: bool = False) -> tuple[np.ndarray, list[tuple[int, list[int]]], np.ndarray]:
    """A bar of unit cubes along x: points, cells, node number of each point (from 1)."""
    raw = np.concatenate([HEX + [i, 0, 0] for i in range(count)])
    _, first, label = np.unique(np.round(raw, 9), axis=0, return_index=True, return_inverse=True)
    label = label.ravel()
    if shared:
        cells = [(12, label[8 * i : 8 * i + 8].tolist()) for i in range(count)]
        return raw[first], cells, np.arange(len(first)) + 1
    cells = [(12, list(range(8 * i, 8 * i + 8))) for i in range(count)]
    return raw, cells, label + 1
