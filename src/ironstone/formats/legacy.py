"""Legacy VTK files, ascii and binary; grids of other kinds than unstructured are turned into one."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from vtkmodules.vtkFiltersCore import vtkAppendFilter
from vtkmodules.vtkIOLegacy import vtkGenericDataObjectReader

from ironstone.core.errors import IronstoneError
from ironstone.formats.legacy_check import promised
from ironstone.formats.registry import EXPORT_AGAIN, RawStep
from ironstone.formats.vtu import from_grid, updated


def read(path: Path) -> Iterator[RawStep]:
    """Read one legacy VTK file: one step. Its time is that of a field array named TimeValue or TIME, where there is one."""
    with path.open("rb") as stream:
        head = stream.read(64)
    if not head.lstrip().startswith(b"# vtk DataFile"):
        raise IronstoneError(
            f"{path.name} is no legacy VTK file: its first line does not say so.", "Check that the right file was chosen."
        )
    promised(path)
    reader = vtkGenericDataObjectReader()
    reader.ReadAllScalarsOn()
    reader.ReadAllVectorsOn()
    reader.ReadAllTensorsOn()
    reader.ReadAllFieldsOn()
    found = updated(reader, path)
    if found is None or not hasattr(found, "GetNumberOfCells") or not found.GetNumberOfCells():
        raise IronstoneError(f"{path.name} holds no mesh: it is empty or was cut off while it was written.", EXPORT_AGAIN)
    if found.GetClassName() != "vtkUnstructuredGrid":
        append = vtkAppendFilter()
        append.AddInputData(found)
        append.Update()
        field_data = found.GetFieldData()
        found = append.GetOutput()
        found.SetFieldData(field_data)
    step = from_grid(found)
    moment = found.GetFieldData().GetArray("TIME")
    if step.time is None and moment is not None and moment.GetNumberOfTuples():
        step.time = float(moment.GetTuple1(0))
    yield step
