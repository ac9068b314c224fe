"""Small meshes and results the tests share, made in memory."""

from __future__ import annotations

import numpy as np

from ironstone.core.field.fields import Field, Memory, Setup, Step
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.mesh import Mesh

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")
SHAPES = [c for c in CELLS.values() if c.dimension]
SOLIDS = [c for c in SHAPES if c.dimension == 3]
FACES = [c for c in SHAPES if c.dimension == 2]


def mesh_of(
    points: np.ndarray,
    cells: list[tuple[int, list[int]]],
    part: list[int] | None = None,
    material: list[int] | None = None,
    names: tuple[str, ...] = (),
    breaks: list[int] | None = None,
) -> Mesh:
    count = len(cells)
    numbers = np.array(part or [0] * count, np.int32)
    return Mesh(
        np.asarray(points, dtype=float),
        np.array([t for t, _ in cells], np.uint8),
        np.concatenate([[0], np.cumsum([len(n) for _, n in cells])]).astype(np.int64),
        np.concatenate([n for _, n in cells]).astype(np.int64),
        np.arange(len(points)) + 1,
        np.arange(count) + 1,
        numbers,
        tuple(f"part {i + 1}" for i in range(int(numbers.max()) + 1)),
        material=None if material is None else np.array(material, np.int32),
        material_names=names,
        breaks=None if breaks is None else np.array(breaks, np.int32),
    )


def crooked(cell: Cell) -> Mesh:
    """One element, its nodes moved off their natural places by an affine map (sides stay straight)."""
    turn = np.array([[1.3, 0.2, 0.1], [-0.3, 1.1, 0.2], [0.1, -0.2, 0.9]])
    points = cell.nodes @ turn.T
    if cell.dimension == 2:
        points[:, 2] = 0.0
    return mesh_of(points, [(cell.vtk, list(range(cell.size)))])


def grid_of_quads(n: int, m: int, width: float = 1.0, height: float = 1.0) -> Mesh:
    x, y = np.meshgrid(np.linspace(0, width, n + 1), np.linspace(0, height, m + 1), indexing="ij")
    points = np.stack([x.ravel(), y.ravel(), np.zeros(x.size)], 1)
    at = np.arange((n + 1) * (m + 1)).reshape(n + 1, m + 1)
    cells = [(9, [at[i, j], at[i + 1, j], at[i + 1, j + 1], at[i, j + 1]]) for i in range(n) for j in range(m)]
    return mesh_of(points, cells)


def field(name: str, kind: str, location: str, **more: object) -> Field:
    rank = "tensor" if kind in ("stress", "strain") else "vector" if kind in ("displacement", "force", "reaction") else "scalar"
    components = {"tensor": TENSOR, "vector": ("x", "y", "z"), "scalar": ("value",)}[rank]
    unit = {"stress": "MPa", "displacement": "mm", "force": "N", "reaction": "N"}.get(kind, "")
    return Field(name, kind, rank, location, components, unit, **more)  # type: ignore[arg-type]


def memory(mesh: Mesh, *pairs: tuple[Field, np.ndarray], setup: Setup | None = None) -> Memory:
    """A result in memory: fields with their arrays, (entities, components) for one step or with steps first."""
    arrays = {f.name: (a if a.ndim == 3 else a[None]) for f, a in pairs}
    count = max(len(a) for a in arrays.values())
    steps = tuple(Step(i, "time", 0.5 * i, "s") for i in range(count))
    return Memory(mesh, [f for f, _ in pairs], arrays, steps, setup)
