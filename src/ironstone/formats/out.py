"""Writing results: VTU a step, VTKHDF and universal files with all steps. Every writer says what its format cannot carry."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import chain
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkUnstructuredGrid
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridWriter

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.formats import universal_out
from ironstone.formats.registry import RawArray, RawStep, same_mesh
from ironstone.formats.vtkhdf import Writer

SINGLE_STEP = (".vtu",)


def write(path: Path, steps: Iterator[RawStep], units: str = "") -> list[str]:
    """Write steps in the format the suffix names; returns what could not be carried, in words."""
    writer = WRITERS.get(path.suffix.lower())
    if writer is None:
        raise IronstoneError(f"'{path.suffix}' is not a format that is written here.", f"Formats written: {', '.join(WRITERS)}.")
    first = next(steps, None)
    if first is None:
        raise IronstoneError("There is no step to write.")
    return writer(path, chain([first], steps), units)


def unshared(step: RawStep) -> RawStep:
    """The same step with a point for each corner, so that corner values can be written; nodes are told by GlobalIds."""
    ids = step.node_ids if step.node_ids is not None else np.arange(len(step.points))
    at = step.connectivity
    return replace(
        step,
        points=step.points[at],
        connectivity=np.arange(len(at)),
        node_ids=ids[at],
        point_data={n: RawArray(a.values[at], a.components) for n, a in step.point_data.items()} | step.corner_data,
        corner_data={},
        node_sets={n: np.flatnonzero(np.isin(at, m)) for n, m in step.node_sets.items()},
    )


def with_model_arrays(step: RawStep) -> RawStep:
    """Ids, part, material and sets as arrays, the way open formats carry them."""
    points, cells = dict(step.point_data), dict(step.cell_data)
    if step.node_ids is not None:
        points["GlobalIds"] = RawArray(step.node_ids[:, None])
    if step.element_ids is not None:
        cells["GlobalIds"] = RawArray(step.element_ids[:, None])
    for name, numbers, names in (("part", step.part, step.part_names), ("material", step.material, step.material_names)):
        if numbers is not None and not any(n.lower() == name for n in cells):
            cells[name] = RawArray(_numbers(names)[numbers][:, None])
    for target, sets, count in ((points, step.node_sets, len(step.points)), (cells, step.element_sets, len(step.types))):
        for name, members in sets.items():
            flag = np.zeros((count, 1), dtype=np.uint8)
            flag[members] = 1
            target[name] = RawArray(flag)
    return replace(step, point_data=points, cell_data=cells)


def _numbers(names: tuple[str, ...]) -> NDArray[np.int32]:
    """The numbers at the end of the names, where all have one of their own; else counted from 1."""
    ends = [n.rsplit(" ", 1)[-1] for n in names]
    if all(e.isdigit() for e in ends) and len(set(ends)) == len(ends):
        return np.array([int(e) for e in ends], dtype=np.int32)
    return np.arange(1, len(names) + 1, dtype=np.int32)


def _lost(step: RawStep) -> list[str]:
    """What VTK's formats have no place for."""
    found = []
    for names, what in ((step.part_names, "part"), (step.material_names, "material")):
        if any(n.rsplit(" ", 1)[0] != what for n in names):
            found.append(f"names of {what}s ({', '.join(names)}): they are numbered")
    if step.loading or step.kind not in ("time", "number", "load factor"):
        found.append(
            f"the kind of the step ({step.kind}{', ' + step.loading if step.loading else ''}): its value is kept as a time"
        )
    return found


def _lost_totals(step: RawStep) -> list[str]:
    return [f"numbers of the whole model ({', '.join(step.totals)})"] if step.totals else []


def grid_of(step: RawStep) -> vtkUnstructuredGrid:
    """A step as a VTK unstructured grid: its mesh, and what it holds at points and elements."""
    grid = vtkUnstructuredGrid()
    points = vtkPoints()
    points.SetData(numpy_to_vtk(np.ascontiguousarray(step.points), deep=True))
    grid.SetPoints(points)
    cells = vtkCellArray()
    offsets, connectivity = (numpy_to_vtk(np.ascontiguousarray(a), deep=True) for a in (step.offsets, step.connectivity))
    cells.SetData(offsets, connectivity)
    grid.SetCells(numpy_to_vtk(np.ascontiguousarray(step.types), deep=True), cells)
    for target, data in ((grid.GetPointData(), step.point_data), (grid.GetCellData(), step.cell_data)):
        for name, array in data.items():
            stored: Any = numpy_to_vtk(np.ascontiguousarray(array.values), deep=True)
            stored.SetName(name)
            for i, component in enumerate(array.components):
                stored.SetComponentName(i, component)
            target.AddArray(stored)
    return grid


def write_vtu(path: Path, steps: Iterator[RawStep], units: str = "") -> list[str]:
    """One step as VTU, raw appended; corner data on elements that share no nodes."""
    step = next(steps)
    if next(steps, None) is not None:
        raise IronstoneError("A VTU file holds one step.", "Choose a step, or write VTKHDF.")
    lost = _lost(step)
    step = with_model_arrays(unshared(step) if step.corner_data else step)
    grid = grid_of(step)
    moment = {} if step.time is None else {"LoadFactor" if step.kind == "load factor" else "TimeValue": step.time}
    for name, value in {**moment, **step.totals}.items():
        number = numpy_to_vtk(np.array([value]), deep=True)
        number.SetName(name)
        grid.GetFieldData().AddArray(number)
    writer = vtkXMLUnstructuredGridWriter()
    writer.SetFileName(str(path))
    writer.SetInputData(grid)
    writer.SetDataModeToAppended()
    writer.EncodeAppendedDataOff()
    writer.SetCompressorTypeToZLib()
    if not writer.Write():
        raise IronstoneError(f"{path.name} could not be written.", "Check that there is room for it.")
    return lost


def write_vtkhdf(path: Path, steps: Iterator[RawStep], units: str = "") -> list[str]:
    """All steps as VTKHDF; component names in an attribute of our own."""
    step = next(steps)
    split = bool(step.corner_data)
    lost = [*_lost(step), *_lost_totals(step)]

    def shaped(one: RawStep) -> RawStep:
        return with_model_arrays(unshared(one) if split else one)

    first = shaped(step)
    with Writer(path, first.points, first.types, first.offsets, first.connectivity) as writer:
        before = first
        for one in chain([first], (shaped(s) for s in steps)):
            if not same_mesh(one, before):
                writer.mesh(one.points, one.types, one.offsets, one.connectivity)
            before = one
            writer.step(one.time or 0.0, one.point_data, one.cell_data)
    return lost


def write_universal(path: Path, steps: Iterator[RawStep], units: str = "") -> list[str]:
    """All steps as a universal file; its numbers have six digits."""
    first = next(steps)
    lost = [*universal_out.write(path, chain([first], _of_one_mesh(first, steps)), units), *_lost_totals(first)]
    return [*lost, "more than six digits of a value", "names of parts and materials: they are numbered"]


def _of_one_mesh(first: RawStep, steps: Iterator[RawStep]) -> Iterator[RawStep]:
    """Steps as they come. Raises Impossible at one that has another mesh: this format has one."""
    for step in steps:
        if not same_mesh(step, first):
            raise Impossible("The mesh changes from step to step, and a universal file has one.", "Write VTKHDF, or one step.")
        yield step


WRITERS: dict[str, Callable[[Path, Iterator[RawStep], str], list[str]]] = {
    ".vtu": write_vtu,
    ".vtkhdf": write_vtkhdf,
    ".uff": write_universal,
}
