"""A million linear tetrahedra from the file to the first contour, their averaging and a section, beside VTK and beside bricks:
``python -m bench.tetrahedra``. And five hundred small steps beside a thousand, of one size each."""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np
from vtkmodules.vtkCommonDataModel import vtkPlane
from vtkmodules.vtkFiltersCore import vtkCellDataToPointData, vtkCutter
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

from bench.__main__ import best, vtk_read, vtk_surface
from bench.models import box, side_for, tensor_at, write_raw
from ironstone.core.geometry.cut import cut
from ironstone.core.geometry.surface import skin
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.formats import start_ahead
from ironstone.formats.registry import RawArray, RawStep
from ironstone.store import Review, intake

# A cube cut into six tetrahedra about its diagonal.
SIX = np.array([(0, 1, 2, 6), (0, 2, 3, 6), (0, 3, 7, 6), (0, 7, 4, 6), (0, 4, 5, 6), (0, 5, 1, 6)])
READING = Reading("stress", "von-mises")


def write_solids(path: Path, elements: int, tetrahedra: bool) -> Path:
    """So many tetrahedra (bricks) that share nodes, with a displacement and a stress of the elements."""
    points, bricks, _ = box(side_for(elements / 6 if tetrahedra else elements))
    cells = bricks[:, SIX].reshape(-1, 4) if tetrahedra else bricks
    count, size = cells.shape
    middles = points[cells].mean(1)
    step = RawStep(
        points, np.full(count, 10 if tetrahedra else 12, dtype=np.uint8), np.arange(count + 1) * size, cells.ravel(),
        {"displacement": RawArray(1e-4 * points * points[:, :1])}, {"stress": RawArray(tensor_at(middles), ())}, 0.0,
    )  # fmt: skip
    write_raw(path, step)
    return path


def first_contour(folder: Path, file: Path) -> float:
    """Seconds from the file to the values of the skin, as the page asks for them while the rest is stored, with a reader that
    waits, as in the bench."""
    at = 0.0
    start_ahead()
    time.sleep(1.0)
    with Review.create(folder / f"{time.monotonic_ns()}.ironstone") as review:
        begun = time.perf_counter()

        def shown(result: int) -> None:
            nonlocal at
            source = review.result(result)
            surface = skin(source.mesh)
            evaluate(READING, source, surface.vertices)
            at = time.perf_counter() - begun

        intake(review, [file], shown=shown)
    return at


def looked_at(file: Path) -> Any:
    """VTK's read and surface; the grid."""
    grid = vtk_read(file)
    vtk_surface(grid)
    return grid


def compare(folder: Path, elements: int) -> None:
    seconds: dict[str, dict[str, float]] = {}
    for name, tetrahedra in (("tetrahedra", True), ("bricks", False)):
        file = write_solids(folder / f"{name}.vtu", elements, tetrahedra)
        first_contour(folder, file)
        begun = time.perf_counter()
        contour = first_contour(folder, file)
        stored = time.perf_counter() - begun - 1.0
        contour = min(contour, *(first_contour(folder, file) for _ in range(2)))
        theirs, grid = best(lambda f=file: looked_at(f), 3)  # type: ignore[misc]
        print(f"{name}: first contour {contour:.2f} s (all stored {stored:.2f} s), VTK read and surface {theirs:.2f} s, "
              f"ratio {contour / theirs:.2f}")  # fmt: skip
        with Review.create(folder / f"{name}.ironstone") as review:
            source = review.result(intake(review, [file]))
            mesh = source.mesh
            averaged, _ = best(lambda s=source: evaluate(Reading("stress", "von-mises", averaging="part"), s, AtCorners()))  # type: ignore[misc]
            middle = (mesh.points.min(0) + mesh.points.max(0)) / 2 + 0.123
            section, _ = best(lambda m=mesh, p=middle: list(cut(m, p, np.array([1.0, 0.3, 0.2]))))  # type: ignore[misc]

            def vtk_average(grid: object = grid) -> None:
                own = vtkCellDataToPointData()
                own.SetInputData(grid)
                own.Update()

            def vtk_section(grid: object = grid, middle: np.ndarray = middle) -> None:
                plane = vtkPlane()
                plane.SetOrigin(*middle)
                plane.SetNormal(1.0, 0.3, 0.2)
                own = vtkCutter()
                own.SetCutFunction(plane)
                own.SetInputData(grid)
                own.Update()

            peer_average, peer_section = best(vtk_average)[0], best(vtk_section)[0]
        seconds[name] = {"averaging": averaged, "section": section}
        print(f"  averaging {averaged:.2f} s, VTK {peer_average:.2f} s, ratio {averaged / peer_average:.2f}; "
              f"section {section:.2f} s, VTK {peer_section:.2f} s, ratio {section / peer_section:.2f}")  # fmt: skip
    for what in ("averaging", "section"):
        print(f"{what}, tetrahedra to bricks: {seconds['tetrahedra'][what] / seconds['bricks'][what]:.2f}")


def many_steps(folder: Path) -> None:
    took = {}
    for count in (500, 1000):
        files = []
        for step in range(count):
            file = folder / f"small_{count}_{step}.vtu"
            points, bricks, _ = box(6)
            count_of, moved = len(bricks), {"displacement": RawArray(1e-3 * step * points)}
            stress = {"stress": RawArray(tensor_at(points[bricks].mean(1)))}
            types = np.full(count_of, 12, dtype=np.uint8)
            write_raw(file, RawStep(points, types, np.arange(count_of + 1) * 8, bricks.ravel(), moved, stress, float(step)))
            files.append(file)
        with Review.create(folder / f"steps_{count}.ironstone") as review:
            begun = time.perf_counter()
            intake(review, files)
            took[count] = time.perf_counter() - begun
        reader = vtkXMLUnstructuredGridReader()
        begun = time.perf_counter()
        for file in files:
            reader.SetFileName(str(file))
            reader.Update()
        peer = time.perf_counter() - begun
        print(f"{count} small steps: {took[count]:.2f} s, VTK's read {peer:.2f} s, ratio {took[count] / peer:.2f}, "
              f"{1000 * took[count] / count:.1f} ms a step")  # fmt: skip


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        compare(Path(folder), int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000)
        many_steps(Path(folder))


if __name__ == "__main__":
    main()
