"""Modes, shapes held against each other and shares of modes on a large model, beside VTK reading the same files in the same run:
``python -m bench.motion [SIDE]``. Bricks with SIDE elements a side, six modes, and another mesh of the same body."""

from __future__ import annotations

import resource
import sys
import tempfile
from pathlib import Path

import numpy as np
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

from bench.__main__ import best
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake
from tests.writing import write_vtu

MODES = 6


def block(side: int) -> tuple[np.ndarray, list[tuple[int, list[int]]]]:
    """A cube of bricks, nodes shared."""
    line = np.linspace(0.0, 1000.0, side + 1)
    points = np.stack(np.meshgrid(line, line, line, indexing="ij"), -1).reshape(-1, 3)
    at = np.arange((side + 1) ** 3).reshape((side + 1,) * 3)
    corners = [at[i : side + i, j : side + j, k : side + k].ravel() for i, j, k in
               ((0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0), (0, 0, 1), (1, 0, 1), (1, 1, 1), (0, 1, 1))]  # fmt: skip
    return points, [(12, nodes.tolist()) for nodes in np.stack(corners, 1)]


def written(folder: Path, name: str, side: int) -> list[Path]:
    points, cells = block(side)
    files = []
    for k in range(MODES):
        shape = np.sin((k + 1) * np.pi / 1000.0 * points[:, [2, 0, 1]]) * (np.arange(3) == k % 3) + 0.05 * np.cos(points / 300.0)
        path = folder / f"{name}_{k}.vtu"
        files.append(write_vtu(path, points, cells, {"displacement": shape}, totals={"Frequency": 10.0 + 7 * k, "Mode": k + 1.0}))
    return files


def read_by_vtk(files: list[Path]) -> None:
    for file in files:
        reader = vtkXMLUnstructuredGridReader()
        reader.SetFileName(str(file))
        reader.Update()


def main() -> None:
    side = int(sys.argv[1]) if len(sys.argv) > 1 else 58
    with tempfile.TemporaryDirectory(prefix="ironstone-bench-") as name:
        folder = Path(name)
        fine, coarse = written(folder, "fine", side), written(folder, "coarse", max(3 * side // 4, 1))
        peer, _ = best(lambda: read_by_vtk(fine))
        with Review.create(folder / "motion.ironstone") as review:
            for files, called in ((fine, "fine"), (coarse, "coarse")):
                result = intake(review, files, called, "mm-N-s-t-MPa")
                review.set_constants(result, review.result(result).mesh.material_or_part_names[0], {"density": 7.85e-9})
            print(f"{side**3} bricks, {MODES} modes; VTK reads their files in {peer:.2f} s")
            for called, kind, words in (
                ("modes", "modes", {"result": "fine"}),
                ("shapes against another mesh", "mac", {"result": "fine", "other": "coarse"}),
            ):
                first, _ = best(lambda kind=kind, words=words: ask(review, question_of(kind, words)), 1)
                again, _ = best(lambda kind=kind, words=words: ask(review, question_of(kind, words)))
                print(f"{called}: first {first:.2f} s ({first / peer:.2f}), again {again:.2f} s ({again / peer:.2f})")
    print(f"largest memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:.2f} GB")


if __name__ == "__main__":
    main()
