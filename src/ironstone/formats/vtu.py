"""VTU, the XML form of VTK's unstructured grids, in every encoding VTK reads."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkOutputWindow
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

from ironstone.core.errors import IronstoneError
from ironstone.formats.merged import without_ghosts
from ironstone.formats.registry import EXPORT_AGAIN, RawArray, RawStep, vertices
from ironstone.formats.vtu_check import floating, points_alone, promised
from ironstone.formats.wanted import all_wanted, left_out


def read(path: Path) -> Iterator[RawStep]:
    """Read one VTU file: one step. Raises IronstoneError that names the file and what is wrong with it."""
    _check_head(path)
    counts = promised(path)
    grid = updated(vtkXMLUnstructuredGridReader(), path)
    alone = grid.GetNumberOfCells() == 0 and points_alone(path)
    if grid.GetNumberOfPoints() == 0 or (grid.GetNumberOfCells() == 0 and not alone):
        raise IronstoneError(f"{path.name} holds no mesh: it is empty or was cut off while it was written.", EXPORT_AGAIN)
    step = from_grid(grid, alone)
    if alone:
        step = vertices(step)
    if len(counts) > 1 and sum(counts) == len(step.points):
        step.pieces = np.repeat(np.arange(len(counts)), counts)
        step = without_ghosts(step)
    yield step


@contextmanager
def complaints_of(reader: Any) -> Iterator[list[str]]:
    """What a VTK reader, and the readers it uses inside, complain of while it works: errors and warnings alike.

    Some tell nobody but VTK's own output window, and return what they have with the rest made up.
    """
    heard: list[str] = []

    def listen(_source: Any, _event: str, text: str = "") -> None:
        heard.append(" ".join(str(text).split()))

    listen.CallDataType = "string0"  # type: ignore[attr-defined]
    window: Any = vtkOutputWindow.GetInstance()
    window.SetDisplayModeToNever()
    watched = [(who, who.AddObserver(event, listen)) for who in (window, reader) for event in ("ErrorEvent", "WarningEvent")]
    try:
        yield heard
    finally:
        for who, tag in watched:
            who.RemoveObserver(tag)


def updated(reader: Any, path: Path) -> Any:
    """What a VTK reader makes of a file; raises with the reader's own complaint."""
    with complaints_of(reader) as heard:
        reader.SetFileName(str(path))
        if not all_wanted() and path.suffix.lower() == ".vtu":
            _leave_out(reader, floating(path))
        reader.Update()
    heard = [h for h in heard if not any(word in h for word in _HARMLESS)]
    if reader.GetErrorCode() or heard:
        raise IronstoneError(f"{path.name} is damaged or incomplete: {_in_words(heard)}.", EXPORT_AGAIN)
    return reader.GetOutput()


def _leave_out(reader: Any, known: set[tuple[str, str]]) -> None:
    """Has a reader leave out the arrays of real numbers that are not asked for."""
    reader.UpdateInformation()
    for section, chosen in (("PointData", reader.GetPointDataArraySelection()), ("CellData", reader.GetCellDataArraySelection())):
        for name in [chosen.GetArrayName(i) for i in range(chosen.GetNumberOfArrays())]:
            if (section, name) in known and left_out(name):
                chosen.DisableArray(name)


# What takes nothing away: a head that calls an array the vectors, or the scalars, of its data, which has not the columns for it.
_HARMLESS = ("Can not set attribute", "Cannot set attribute", "attribute is not set")


# What VTK's readers complain of, by a word of theirs, in ours; the first that fits is said.
_MEANINGS = (
    ("compress", "what is compressed in it cannot be unpacked"),
    ("appended", "its appended data are not where its head says"),
    ("xml", "its XML is broken"),
    ("pars", "its XML is broken"),
    ("array", "an array holds less than its head says"),
    ("read", "it ends before what its head says"),
)


def _in_words(heard: list[str]) -> str:
    said = " ".join(heard).lower()
    name = re.search(r"\bName\s*=\s*\"?([\w .()-]+)|array \"([^\"]+)\"", " ".join(heard))
    meaning = next((m for word, m in _MEANINGS if word in said), "it ends early, or its content does not fit its head")
    return f"{meaning} ('{(name[1] or name[2]).strip()}')" if name else meaning


def from_grid(grid: Any, alone: bool = False) -> RawStep:
    """A VTK unstructured grid as a step. alone: its points are meant to be without cells."""
    if grid.GetPoints() is None or not (grid.GetNumberOfCells() or alone):
        none = np.zeros(0, dtype=np.int64)
        return RawStep(np.zeros((0, 3)), np.zeros(0, np.uint8), np.zeros(1, np.int64), none)
    types, offsets, connectivity = np.zeros(0, np.uint8), np.zeros(1, np.int64), np.zeros(0, np.int64)
    if grid.GetNumberOfCells():
        cells = grid.GetCells()
        types = vtk_to_numpy(grid.GetCellTypes()).astype(np.uint8, copy=False)
        offsets = vtk_to_numpy(cells.GetOffsetsArray()).astype(np.int64, copy=False)
        connectivity = vtk_to_numpy(cells.GetConnectivityArray()).astype(np.int64, copy=False)
    moment, kind = _moment(grid.GetFieldData())
    unnumbered = [MODE_ALONE] if kind != "mode" and _one(grid.GetFieldData(), "Mode") is not None else []
    return RawStep(
        points=vtk_to_numpy(grid.GetPoints().GetData()),
        types=types,
        offsets=offsets,
        connectivity=connectivity,
        point_data=arrays_of(grid.GetPointData()),
        cell_data=arrays_of(grid.GetCellData()),
        time=moment,
        kind=kind,
        loading=_loading(grid.GetFieldData()),
        totals=_totals(grid.GetFieldData()),
        notes=[*_left_out(grid), *unnumbered],
    )


MODE_ALONE = "A mode has a number here and no frequency: state in Intake that the steps are modes, with their frequencies."


def _moment(data: Any) -> tuple[float | None, str]:
    """Which moment a step is, and of which kind: a frequency is a mode's where the number of a mode stands beside it."""
    time, factor, frequency, mode = (_one(data, name) for name in ("TimeValue", "LoadFactor", "Frequency", "Mode"))
    if frequency is not None:
        return frequency, "mode" if mode is not None else "frequency"
    return (factor, "load factor") if factor is not None and time is None else (time, "time")


def _loading(data: Any) -> str:
    """The load case or stage a step belongs to, where its file names it; '' where it does not."""
    text = data.GetAbstractArray("Loading")
    if text is None or not hasattr(text, "GetValue") or text.GetNumberOfValues() != 1:
        return ""
    return str(text.GetValue(0)).strip()[:80] if text.IsA("vtkStringArray") else ""


def _left_out(grid: Any) -> list[str]:
    """Names of arrays that hold no numbers, such as texts, which are not read."""
    found = []
    for data, where in ((grid.GetPointData(), "points"), (grid.GetCellData(), "elements")):
        for index in range(data.GetNumberOfArrays()):
            if data.GetArray(index) is None:
                found.append(f"'{data.GetArrayName(index) or f'array {index}'}' at {where} holds no numbers: it is not read.")
    return found


# What field data of open formats hold beside numbers of the whole model: which moment it is.
_MOMENTS = ("TimeValue", "LoadFactor", "Frequency", "Mode", "TIME", "CYCLE")


def _totals(data: Any) -> dict[str, float]:
    """Single numbers of the field data, by name."""
    found = {}
    for index in range(data.GetNumberOfArrays()):
        array = data.GetArray(index)
        if array is not None and array.GetNumberOfValues() == 1 and array.GetName() not in (None, *_MOMENTS):
            found[str(array.GetName())] = float(array.GetTuple1(0))
    return found


def _check_head(path: Path) -> None:
    with path.open("rb") as stream:
        head = stream.read(4096)
    if not head:
        raise IronstoneError(f"{path.name} is empty.", EXPORT_AGAIN)
    if b"<VTKFile" not in head or b'"UnstructuredGrid"' not in head.replace(b"'", b'"'):
        raise IronstoneError(
            f"{path.name} is no VTU file: it does not begin as an XML file of an unstructured grid.",
            "Check that the right file was chosen.",
        )


def arrays_of(data: Any) -> dict[str, RawArray]:
    result = {}
    for index in range(data.GetNumberOfArrays()):
        array = data.GetArray(index)
        if array is None:
            continue
        name = array.GetName() or f"array {index}"
        values = vtk_to_numpy(array)
        if values.ndim == 1:
            values = values[:, None]
        names = tuple(array.GetComponentName(i) or "" for i in range(array.GetNumberOfComponents()))
        result[name] = RawArray(values, names if any(names) else ())
    return result


def _one(data: Any, name: str) -> float | None:
    array = data.GetArray(name)
    if array is None or array.GetNumberOfTuples() == 0:
        return None
    return float(array.GetTuple1(0))
