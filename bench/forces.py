"""Internal force and balance of a million and more linear tetrahedra, beside VTK's gradient of the displacement of the same mesh.

``python -m bench.forces [SIDE]``: a cube of SIDE^3 cells of six tetrahedra each; its stress is linear, held on one side.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from vtkmodules.vtkFiltersGeneral import vtkGradientFilter

from bench.models import box
from ironstone.core.field.fields import Field, Memory
from ironstone.core.field.recover import internal_force
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.statics.balance import balance
from ironstone.formats.out import grid_of
from ironstone.formats.registry import RawArray, RawStep

# A brick in six tetrahedra about the way from its first to its seventh node.
SIX = np.array([[0, 1, 2, 6], [0, 2, 3, 6], [0, 3, 7, 6], [0, 7, 4, 6], [0, 4, 5, 6], [0, 5, 1, 6]])
TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")


def tetrahedra(side: int) -> Mesh:
    points, bricks, _ = box(side)
    cells = bricks[:, SIX].reshape(-1, 4)
    count = len(cells)
    return Mesh(
        points=points,
        types=np.full(count, 10, dtype=np.uint8),
        offsets=4 * np.arange(count + 1),
        connectivity=cells.ravel(),
        node_ids=np.arange(len(points)),
        element_ids=np.arange(count),
        part=np.zeros(count, dtype=np.int32),
        part_names=("part 1",),
    )


def seconds(run: Callable[[], Any]) -> float:
    start = time.perf_counter()
    run()
    return time.perf_counter() - start


def gradient(mesh: Mesh, moved: np.ndarray) -> Callable[[], None]:
    found = vtkGradientFilter()
    found.SetInputData(grid_of(RawStep(mesh.points, mesh.types, mesh.offsets, mesh.connectivity, {"u": RawArray(moved)})))
    found.SetInputScalars(0, "u")
    return found.Update


def main() -> None:
    side = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    mesh = tetrahedra(side)
    stress = np.zeros((len(mesh.points), 6))
    stress[:, 0] = 10.0 + mesh.points[:, 1]
    moved = np.zeros_like(mesh.points)
    moved[:, 0] = 1e-4 * mesh.points[:, 0]
    fields = [
        Field("stress", "stress", "tensor", "node", TENSOR, "MPa"),
        Field("displacement", "displacement", "vector", "node", ("x", "y", "z"), "mm"),
    ]
    source = Memory(mesh, fields, {"stress": stress[None], "displacement": moved[None]})
    print(f"{len(mesh.types)} tetrahedra, {len(mesh.points)} nodes")
    vtk = seconds(gradient(mesh, moved))
    own = seconds(lambda: internal_force(source, 0, stress[mesh.connectivity]))
    whole = seconds(lambda: balance(source, 0, {}))
    print(f"VTK's gradient of a vector {vtk:.2f} s")
    for what, took in (("internal force", own), ("balance", whole)):
        print(f"{what} {took:.2f} s, ratio {took / vtk:.2f}")


if __name__ == "__main__":
    main()
