"""The bench at a small size, counted and not timed: ``python -m bench.small [--record]``. Part of the tests.

Each row is processor time of ours over that of a peer (VTK, NumPy) doing the same in the same process, best of three; growths are
ours at ten times the size over ours, and peaks are the memory of a process of its own. What is recorded stands in
``recorded.json``; a row that is gone, a ratio more than three times the recorded one, a growth beyond its law or a peak above its
bound fails, after it was measured again alone.
"""

from __future__ import annotations

import argparse
import gc
import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkPlane, vtkPolyData
from vtkmodules.vtkFiltersCore import vtkCellDataToPointData, vtkPlaneCutter, vtkProbeFilter
from vtkmodules.vtkFiltersGeneral import vtkGradientFilter

from bench.__main__ import vtk_read, vtk_surface
from bench.compare import written
from bench.models import box, make, side_for, tensor_at, write_raw
from ironstone.core.field.combined import combination_of
from ironstone.core.field.fields import Field, Memory
from ironstone.core.field.recover import internal_force
from ironstone.core.field.tensors import matrices, principals
from ironstone.core.geometry.cut import cut
from ironstone.core.geometry.surface import skin
from ironstone.core.mesh.places import AtNodes
from ironstone.core.reading.averaging import corner_averaging
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.formats.registry import RawArray, RawStep
from ironstone.store import Review, intake

RECORDED = Path(__file__).with_name("recorded.json")
# A ratio may be so many times what is recorded; a growth so many times the size; a peak so many bytes beside the field.
SLACK, LAW = 3.0, 1.6
BESIDE = 300e6
TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")

Work = Callable[[], Any]


def processor(work: Work, runs: int = 3) -> float:
    """Least seconds of processor time of some runs."""
    least = float("inf")
    for _ in range(runs):
        gc.collect()
        begun = time.process_time()
        work()
        least = min(least, time.process_time() - begun)
    return least


def ratios(folder: Path) -> dict[str, Callable[[], float]]:
    """Each row's ratio, measured when it is called."""
    shared, quadratic = make(folder / "shared.vtu", 64_000), make(folder / "quadratic.vtu", 8_000, quadratic=True)
    split = make(folder / "split.vtu", 8_000, split=True)
    counter = iter(range(10_000))

    def taken(file: Path) -> Path:
        path = folder / f"r{next(counter)}.ironstone"
        with Review.create(path) as review:
            intake(review, [file], "r", "mm-N-s-t-MPa")
        return path

    review = Review.open(taken(shared))
    source = review.result()
    mesh, grid = source.mesh, vtk_read(shared)
    drawn, stress = skin(mesh), Reading("stress", "von-mises")

    def against(ours: Work, peer: Work) -> Callable[[], float]:
        return lambda: processor(ours) / max(processor(peer), 1e-6)

    def filtered(filter_: Any, data: Any) -> Work:
        filter_.SetInputData(data)
        return lambda: (filter_.Modified(), filter_.Update())

    tensors = np.random.default_rng(1).normal(size=(200_000, 6))
    full = matrices(tensors)
    corners = tensor_at(mesh.points[mesh.connectivity])
    operator = corner_averaging(mesh, "part")
    solid = _solid(8_000)
    inside = tensor_at(solid.points[solid.connectivity])
    bricks = Memory(solid, [Field("s", "stress", "tensor", "corner", TENSOR, "")], {"s": inside[None]})
    slope = vtkGradientFilter()
    slope.SetInputArrayToProcess(0, 0, 0, 0, "u")
    plane = vtkPlane()
    plane.SetOrigin(*(mesh.points.mean(0) + 0.21))
    plane.SetNormal(1.0, 0.3, 0.2)
    cutter = vtkPlaneCutter()
    cutter.SetPlane(plane)
    normal = np.array([1.0, 0.3, 0.2]) / np.linalg.norm([1.0, 0.3, 0.2])

    def reads(file: Path) -> Work:
        return lambda: [vtk_read(file) for _ in range(10)]

    force = against(lambda: internal_force(bricks, 0, bricks.values("s", 0)), filtered(slope, _as_vtk(solid)))
    section = against(lambda: list(cut(mesh, mesh.points.mean(0) + 0.21, normal)), filtered(cutter, grid))
    return {
        "64,000 bricks taken in / ten of VTK's reads": against(lambda: taken(shared), reads(shared)),
        "8,000 quadratic bricks taken in / ten of VTK's reads": against(lambda: taken(quadratic), reads(quadratic)),
        "8,000 bricks, corner stress, taken in / ten of VTK's reads": against(lambda: taken(split), reads(split)),
        "first contour from the review / VTK's read and surface": against(
            lambda: _contour(review.path), lambda: vtk_surface(vtk_read(shared))
        ),
        "another step, values for the view / VTK's read": against(
            lambda: (source._cache.clear(), evaluate(stress, source, drawn.vertices)), lambda: vtk_read(shared)
        ),
        "highest and lowest / VTK's read": against(lambda: extremes(stress, source), lambda: vtk_read(shared)),
        "principal values / LAPACK": against(lambda: principals(tensors), lambda: np.linalg.eigvalsh(full)),
        "averaging corner tensors / VTK's mean of element values": against(
            lambda: operator(corners), filtered(vtkCellDataToPointData(), grid)
        ),
        "internal force of quadratic bricks / VTK's gradient": force,
        "a section / VTK's plane cutter": section,
        "a difference over unlike meshes, first / VTK's probe": _difference(folder),
    }  # fmt: skip


def growths(folder: Path) -> dict[str, Callable[[], float]]:
    """How much more each takes at ten times the size, over ten."""

    def combined(count: int) -> Work:
        path = make(folder / "few.vtu", 27)

        def work() -> None:
            with Review.create(folder / f"c{time.monotonic_ns()}.ironstone") as review:
                number = intake(review, [path], "few", "mm-N-s-t-MPa")
                begun = time.process_time()
                review.set_combinations(number, [combination_of(f"c{k}=0:{1 + k}") for k in range(count)])
                review.set_combinations(number, [combination_of(f"d{k}=0:{1 + k}") for k in range(count)])
                spent.append(time.process_time() - begun)

        spent: list[float] = []
        work.spent = spent  # type: ignore[attr-defined]
        return work

    def grows() -> float:
        found = []
        for count in (200, 2_000):
            work = combined(count)
            for _ in range(3):
                work()
            found.append(min(work.spent))  # type: ignore[attr-defined]
        return found[1] / max(10 * found[0], 1e-6)

    def forces() -> float:
        found = []
        for count in (800, 8_000):
            mesh = _solid(count)
            stress = tensor_at(mesh.points[mesh.connectivity])
            source = Memory(mesh, [Field("s", "stress", "tensor", "corner", TENSOR, "")], {"s": stress[None]})
            found.append(processor(lambda source=source, stress=stress: internal_force(source, 0, stress)) / len(mesh.types))  # type: ignore[misc]
        return found[1] / found[0]

    return {"combinations stated": grows, "internal force": forces}


def peaks(folder: Path) -> dict[str, Callable[[], float]]:
    """Bytes a process holds at its peak beside the field it reads, for a question of all corners: of 125,000 bricks with eight
    Gauss points."""
    points, cells, _ = box(50)
    count = len(cells)
    field = np.concatenate([tensor_at(points[cells].mean(1) + 0.1 * k) for k in range(8)], 1)
    step = RawStep(
        points, np.full(count, 12, np.uint8), 8 * np.arange(count + 1), cells.ravel().astype(np.int64),
        {"displacement": RawArray(1e-3 * points)}, {"stress_gp": RawArray(field)},
    )  # fmt: skip
    write_raw(folder / "gauss.vtu", step)
    review = folder / "gauss.ironstone"
    with Review.create(review) as made:
        intake(made, [folder / "gauss.vtu"], "gauss", "mm-N-s-t-MPa")

    def peak(kind: str, words: dict[str, Any]) -> Callable[[], float]:
        code = (
            "import json, sys\nfrom pathlib import Path\nfrom bench.__main__ import high_water\n"
            "from ironstone.engine.base import ask, question_of\nfrom ironstone.store import Review\n"
            "review = Review.open(Path(sys.argv[1])); base = high_water()\n"
            "ask(review, question_of(sys.argv[2], json.loads(sys.argv[3]))); print(high_water() - base)\n"
        )
        given = {"field": "stress_gp", "measure": "von-mises", **words}

        def measured() -> float:
            command = [sys.executable, "-c", code, str(review), kind, json.dumps(given)]
            done = subprocess.run(command, capture_output=True, text=True, check=True)
            return 1e3 * float(done.stdout) - field.nbytes

        return measured

    return {
        "highest and lowest at Gauss points": peak("read", {"extremes": True}),
        "averaged within parts": peak("read", {"extremes": True, "averaging": "part"}),
        "means of elements": peak("read", {"extremes": True, "averaging": "element"}),
        "jumps": peak("read", {"extremes": True, "of": "jump"}),
        "by part": peak("by-part", {}),
    }


def _contour(path: Path) -> None:
    with Review.open(path) as review:
        source = review.result()
        evaluate(Reading("stress", "von-mises"), source, skin(source.mesh).vertices)


def _solid(count: int) -> Any:
    from ironstone.core.mesh.mesh import Mesh

    points, cells, vtk = box(side_for(count), True)
    own = len(cells)
    return Mesh(
        points, np.full(own, vtk, np.uint8), 20 * np.arange(own + 1), cells.ravel().astype(np.int64), np.arange(len(points)),
        np.arange(own), np.zeros(own, np.int32), ("box",),
    )  # fmt: skip


def _as_vtk(mesh: Any) -> Any:
    from ironstone.formats.out import grid_of

    return grid_of(RawStep(mesh.points, mesh.types, mesh.offsets, mesh.connectivity, {"u": RawArray(mesh.points**2)}))


def _difference(folder: Path) -> Callable[[], float]:
    """Each time of meshes that nothing is kept of."""
    one = written(folder, "one", (36, 20, 20), lambda p: 3.0 * p[:, 0])
    two = written(folder, "two", (34, 21, 19), lambda p: p[:, 0] + p[:, 1] ** 2)
    path = folder / "difference.ironstone"
    with Review.create(path) as review:
        for file in (one, two):
            intake(review, [file], file.stem, "mm-N-s-t-MPa")
    points, data, grid = vtkPoints(), vtkPolyData(), vtk_read(two)
    points.SetData(numpy_to_vtk(vtk_points(one), deep=True))
    data.SetPoints(points)

    def ours() -> float:
        with Review.open(path) as review:
            source, other = review.result("one"), review.result("two")
            place = AtNodes(np.arange(len(source.mesh.points)))
            source.values("temperature", 0), other.values("temperature", 0), other.mesh
            begun = time.process_time()
            evaluate(Reading("temperature").minus("result=two"), source, place)
            return time.process_time() - begun

    def probed() -> None:
        probe = vtkProbeFilter()
        probe.SetInputData(data)
        probe.SetSourceData(grid)
        probe.Update()

    return lambda: min(ours() for _ in range(3)) / max(processor(probed), 1e-6)


def vtk_points(file: Path) -> np.ndarray:
    from vtkmodules.util.numpy_support import vtk_to_numpy

    return vtk_to_numpy(vtk_read(file).GetPoints().GetData())


def faults(recorded: dict[str, dict[str, float]], found: dict[str, dict[str, Callable[[], float]]]) -> list[str]:
    """What of the bench fails, in words; a row that misses is measured again before it does."""
    said = []
    limits = {
        "ratios": lambda name: SLACK * recorded["ratios"][name],
        "growths": lambda name: LAW,
        "peaks": lambda name: BESIDE,
    }
    for kind, rows in found.items():
        for gone in sorted(recorded[kind].keys() - rows.keys()):
            said.append(f"{gone}: the row is gone")
        for name, measure in rows.items():
            if name not in recorded[kind]:
                said.append(f"{name}: not recorded; run python -m bench.small --record")
                continue
            most = limits[kind](name)
            value = measure()
            print(f"  {name:<60s} {value:12.3g}  recorded {recorded[kind][name]:.3g}, at most {most:.3g}", flush=True)
            if value > most and (again := min(measure(), measure())) > most:
                said.append(f"{name}: {again:.3g}, at most {most:.3g}")
    return said


def rows(folder: Path) -> dict[str, dict[str, Callable[[], float]]]:
    return {"ratios": ratios(folder), "growths": growths(folder), "peaks": peaks(folder)}


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--record", action="store_true", help="Write down what is measured now.")
    record = options.parse_args().record
    with tempfile.TemporaryDirectory() as scratch:
        found = rows(Path(scratch))
        if record:
            kept = {kind: {name: float(f"{measure():.3g}") for name, measure in own.items()} for kind, own in found.items()}
            RECORDED.write_text(json.dumps(kept, indent=1) + "\n")
            print(RECORDED.read_text())
            return
        said = faults(json.loads(RECORDED.read_text()), found)
    for line in said:
        print(line)
    sys.exit(1 if said else 0)


if __name__ == "__main__":
    main()
