"""VTU, the XML form of VTK's unstructured grids, in every encoding VTK reads."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkOutputWindow
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

from ironstone.core.cells import CELLS
from ironstone.core.errors import IronstoneError
from ironstone.formats.registry import RawArray, RawStep

_HINT = "Export the file again, or leave it out."


def read(path: Path) -> RawStep:
    """Read one VTU file. Raises IronstoneError that names the file and what is wrong with it."""
    _check_head(path)
    complaints: list[str] = []
    vtkOutputWindow.GetInstance().SetDisplayModeToNever()
    reader = vtkXMLUnstructuredGridReader()

    def listen(_source: Any, _event: str, text: str = "") -> None:
        complaints.append(" ".join(str(text).split()))

    listen.CallDataType = "string0"  # type: ignore[attr-defined]
    reader.AddObserver("ErrorEvent", listen)  # type: ignore[arg-type]
    reader.SetFileName(str(path))
    reader.Update()
    grid = reader.GetOutput()
    if reader.GetErrorCode() or complaints:
        detail = complaints[0].split("): ")[-1][:160] if complaints else "it ends early or its XML is broken"
        raise IronstoneError(f"{path.name} is damaged or incomplete: {detail}", _HINT)
    if grid.GetNumberOfPoints() == 0 or grid.GetNumberOfCells() == 0:
        raise IronstoneError(f"{path.name} holds no mesh: it is empty or was cut off while it was written.", _HINT)
    cells = grid.GetCells()
    types = np.array(vtk_to_numpy(grid.GetCellTypes()), dtype=np.uint8)
    raw = RawStep(
        points=np.array(vtk_to_numpy(grid.GetPoints().GetData())),
        types=types,
        offsets=np.array(vtk_to_numpy(cells.GetOffsetsArray()), dtype=np.int64),
        connectivity=np.array(vtk_to_numpy(cells.GetConnectivityArray()), dtype=np.int64),
        point_data=_arrays(grid.GetPointData(), path),
        cell_data=_arrays(grid.GetCellData(), path),
        time=_time(grid.GetFieldData()),
    )
    _check(raw, path)
    return raw


def _check_head(path: Path) -> None:
    with path.open("rb") as stream:
        head = stream.read(4096)
    if not head:
        raise IronstoneError(f"{path.name} is empty.", _HINT)
    if b"<VTKFile" not in head or b'"UnstructuredGrid"' not in head.replace(b"'", b'"'):
        raise IronstoneError(
            f"{path.name} is no VTU file: it does not begin as an XML file of an unstructured grid.",
            "Check that the right file was chosen.",
        )


def _arrays(data: Any, path: Path) -> dict[str, RawArray]:
    result = {}
    for index in range(data.GetNumberOfArrays()):
        array = data.GetArray(index)
        if array is None:
            continue
        name = array.GetName() or f"array {index}"
        values = np.array(vtk_to_numpy(array))
        if values.ndim == 1:
            values = values[:, None]
        names = tuple(array.GetComponentName(i) or "" for i in range(array.GetNumberOfComponents()))
        result[name] = RawArray(values, names if any(names) else ())
    return result


def _time(data: Any) -> float | None:
    array = data.GetArray("TimeValue")
    if array is None or array.GetNumberOfTuples() == 0:
        return None
    return float(array.GetTuple1(0))


def _check(raw: RawStep, path: Path) -> None:
    count = len(raw.points)
    if not np.isfinite(raw.points).all():
        bad = int(np.flatnonzero(~np.isfinite(raw.points).all(1))[0])
        raise IronstoneError(f"{path.name}: point {bad} has no finite coordinates.", _HINT)
    if raw.connectivity.size and (raw.connectivity.min() < 0 or raw.connectivity.max() >= count):
        raise IronstoneError(
            f"{path.name}: an element names point {int(raw.connectivity.max())}, but there are only {count} points.", _HINT
        )
    unknown = [int(t) for t in np.unique(raw.types) if int(t) not in CELLS]
    if unknown:
        raise IronstoneError(
            f"{path.name} has elements of VTK cell type {', '.join(map(str, unknown))}, which are not read yet.",
            f"Types read: {', '.join(f'{v} ({c.name})' for v, c in sorted(CELLS.items()))}.",
        )
    sizes = np.diff(raw.offsets)
    expected = np.zeros(256, dtype=np.int64)
    for vtk, cell in CELLS.items():
        expected[vtk] = cell.size
    wrong = np.flatnonzero(sizes != expected[raw.types])
    if len(wrong):
        e = int(wrong[0])
        raise IronstoneError(f"{path.name}: element {e} is a {CELLS[int(raw.types[e])].name} but has {int(sizes[e])} nodes.", _HINT)
