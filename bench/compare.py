"""Results against each other: ``python -m bench.compare``.

The difference over unlike meshes beside VTK's own probe of the same places, penetration of 50,000 nodes against 50,000 faces, and a
combination of ten steps of a million elements beside reading these steps. Best of three, in one run.
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkPolyData
from vtkmodules.vtkFiltersCore import vtkProbeFilter

from bench.__main__ import best, line, vtk_read
from ironstone.core.field.combined import combination_of
from ironstone.core.geometry.penetration import inside
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from tests.models import mesh_of
from tests.writing import write_vtu


def block(
    counts: tuple[int, int, int], size: tuple[float, float, float] = (2.0, 1.0, 1.0), at: float = 0.0
) -> tuple[np.ndarray, np.ndarray]:
    """Points (n, 3) and hexahedra (e, 8) of a block, its lowest corner at (0, 0, at)."""
    axes = [np.linspace(0, s, c + 1) for s, c in zip(size, counts, strict=True)]
    x, y, z = np.meshgrid(*axes, indexing="ij")
    points = np.stack([x.ravel(), y.ravel(), z.ravel() + at], 1)
    number = np.arange(len(points)).reshape(x.shape)
    ring = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0), (0, 0, 1), (1, 0, 1), (1, 1, 1), (0, 1, 1)]
    shifted = [number[tuple(slice(d, d + n) for d, n in zip(c, counts, strict=True))] for c in ring]
    return points, np.stack([s.ravel() for s in shifted], 1)


def written(folder: Path, name: str, counts: tuple[int, int, int], law) -> Path:
    points, cells = block(counts)
    return write_vtu(folder / f"{name}.vtu", points, [(12, c.tolist()) for c in cells], {"temperature": law(points)})


def difference(folder: Path) -> None:
    one = written(folder, "one", (86, 48, 48), lambda p: 3.0 * p[:, 0])
    two = written(folder, "two", (84, 50, 47), lambda p: p[:, 0] + p[:, 1] ** 2)
    with Review.create(folder / "d.ironstone") as review:
        for path in (one, two):
            intake(review, [path], path.stem, "mm-N-s-t-MPa")
        source = review.result("one")
        place = AtNodes(np.arange(len(source.mesh.points)))
        reading = Reading("temperature").minus("result=two")

        # The first time it is found where the places lie in the other mesh; a second step or measure has that already.
        begun = time.perf_counter()
        evaluate(reading, source, place)
        first = time.perf_counter() - begun
        again, _ = best(lambda: evaluate(reading, source, place).values)
        grid, data = vtk_read(two), vtkPolyData()
        points = vtkPoints()
        points.SetData(numpy_to_vtk(source.mesh.points))
        data.SetPoints(points)

        def probed() -> np.ndarray:
            probe = vtkProbeFilter()
            probe.SetInputData(data)
            probe.SetSourceData(grid)
            probe.Update()
            return vtk_to_numpy(probe.GetOutput().GetPointData().GetArray("temperature"))

        theirs, _ = best(probed)
        line(f"difference at {len(source.mesh.points):,} nodes, unlike meshes", first, theirs, 4.0, "VTK probe")
        line("  the same again, of another measure or step", again, theirs, 4.0, "VTK probe")


def penetration() -> None:
    lower, upper = block((158, 158, 2), (2.0, 2.0, 0.1)), block((157, 157, 2), (1.9, 1.9, 0.1), at=0.099)
    points = np.concatenate([lower[0], upper[0]])
    cells = np.concatenate([lower[1], upper[1] + len(lower[0])])
    mesh: Mesh = mesh_of(points, [(12, c.tolist()) for c in cells], [0] * len(lower[1]) + [1] * len(upper[1]))
    faces = 2 * 158 * 158
    taken, found = best(lambda: inside(mesh, 1, 0), repeats=1)
    count = int((found.depth > 0).sum())
    print(f"  penetration: {len(upper[0]):,} nodes, {count:,} of them inside, against {faces:,} faces: {taken:.2f} s (target 2 s)")


def combination(folder: Path) -> None:
    points, cells = block((125, 100, 80))
    chance = np.random.default_rng(1)
    files = []
    for step in range(10):
        stress = chance.normal(size=(len(cells), 6)).astype(np.float32)
        files.append(write_vtu(folder / f"case_{step}.vtu", points, [(12, c) for c in cells], {}, {"stress": stress}))
    with Review.create(folder / "c.ironstone") as review:
        intake(review, files, "cases", "mm-N-s-t-MPa")
        review.set_combinations(1, [combination_of("all=" + ",".join(f"{k}:{1 + k / 10}" for k in range(10)))])

        def fresh():
            source = review.result("cases")
            source._cache.clear()
            return source

        reading, _ = best(lambda: [(lambda s: (s._cache.clear(), s.values("stress", k)))(fresh()) for k in range(10)])
        summed, _ = best(lambda: fresh().values("stress", 10))
        line(f"ten steps of {len(cells):,} elements combined", summed, reading, 1.5, "reading them")


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        difference(Path(folder))
    penetration()
    with tempfile.TemporaryDirectory() as folder:
        combination(Path(folder))


if __name__ == "__main__":
    main()
