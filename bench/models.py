"""Large result files to measure with: boxes of hexahedra with a smooth field, as a solver would write them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridWriter

from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Mesh
from ironstone.formats.out import grid_of, unshared
from ironstone.formats.registry import RawArray, RawStep

NAMES = ("xx", "yy", "zz", "xy", "yz", "xz")


def side_for(elements: int) -> int:
    """Elements along the side of a cube of about so many."""
    return max(1, round(elements ** (1 / 3)))


def box(side: int, quadratic: bool = False) -> tuple[np.ndarray, np.ndarray, int]:
    """Points, connectivity (elements, nodes of one) and VTK type of a cube of side^3 hexahedra."""
    step = 2 if quadratic else 1
    n = side * step + 1
    grid = np.arange(n**3).reshape(n, n, n)
    cell = CELLS[25 if quadratic else 12]
    offsets = np.rint(cell.nodes * step).astype(int)
    corner = grid[:-1:step, :-1:step, :-1:step] if quadratic else grid[:-1, :-1, :-1]
    jump = offsets @ np.array([n * n, n, 1])
    connectivity = corner.reshape(-1, 1) + jump
    axis = np.linspace(0.0, side, n)
    points = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1).reshape(-1, 3)
    used, local = np.unique(connectivity, return_inverse=True)
    return points[used], local.reshape(connectivity.shape), cell.vtk


def tensor_at(points: np.ndarray) -> np.ndarray:
    x, y, z = (points / max(points.max(), 1.0)).T
    return 100.0 * np.stack([np.sin(3 * x), np.cos(2 * y), x * z, y * z, np.sin(x + y), z], axis=1)


def write_raw(path: Path, step: RawStep) -> None:
    """One VTU file, raw appended, not compressed."""
    writer = vtkXMLUnstructuredGridWriter()
    writer.SetFileName(str(path))
    writer.SetInputData(grid_of(step))
    writer.SetDataModeToAppended()
    writer.EncodeAppendedDataOff()
    writer.SetCompressorTypeToNone()
    assert writer.Write() == 1


def make(path: Path, elements: int, quadratic: bool = False, split: bool = False) -> Path:
    """A result of about so many hexahedra; ``split``: unshared nodes with stress at the corners, else stress an element."""
    if path.is_file():
        return path
    points, connectivity, vtk = box(side_for(elements), quadratic)
    count, size = connectivity.shape
    moved = 1e-3 * tensor_at(points)[:, :3]
    step = RawStep(
        points,
        np.full(count, vtk, dtype=np.uint8),
        size * np.arange(count + 1),
        connectivity.ravel().astype(np.int64),
        {"displacement": RawArray(moved)},
        node_ids=np.arange(len(points)),
    )
    if split:
        step.corner_data = {"stress": RawArray(tensor_at(points[connectivity.ravel()]))}
        step = unshared(step)
        step.point_data["GlobalIds"] = RawArray(step.node_ids[:, None])
    else:
        step.cell_data = {"stress": RawArray(tensor_at(points[connectivity].mean(1)))}
    write_raw(path, step)
    return path


def plain_mesh(side: int) -> Mesh:
    points, connectivity, vtk = box(side)
    count, size = connectivity.shape
    return Mesh(
        points, np.full(count, vtk, np.uint8), size * np.arange(count + 1), connectivity.ravel().astype(np.int64),
        np.arange(len(points)), np.arange(count), np.zeros(count, np.int32), ("box",),
    )  # fmt: skip
