"""Measures the engine beside VTK (and LAPACK) doing the same in the same run, and prints ratios: ``python -m bench``.

Every time is the best of three (wall clock), since the machine is shared; a target that is missed is marked. Files are made in a
temporary folder, or kept in the one given. ``--small`` measures a tenth of the size, to see that the bench itself works.
"""

from __future__ import annotations

import argparse
import gc
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkSMPTools
from vtkmodules.vtkFiltersCore import vtkCellDataToPointData
from vtkmodules.vtkFiltersGeometry import vtkGeometryFilter
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

from bench import start
from bench.models import make, side_for, tensor_at
from ironstone.core.field.tensors import matrices, principals
from ironstone.core.geometry.surface import skin
from ironstone.core.mesh.places import AtNodes
from ironstone.core.reading.averaging import corner_averaging
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace as follow
from ironstone.formats import start_ahead
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource

STRESS = Reading("stress", "von-mises")


def best(work: Callable[[], Any], repeats: int = 3) -> tuple[float, Any]:
    """Shortest time of some runs, and what the last gave."""
    shortest, result = float("inf"), None
    for _ in range(repeats):
        del result
        gc.collect()
        begun = time.perf_counter()
        result = work()
        shortest = min(shortest, time.perf_counter() - begun)
    return shortest, result


def high_water() -> int:
    """The most memory this process has held so far, in kB."""
    status = Path("/proc/self/status").read_text()
    return int(next(row.split()[1] for row in status.splitlines() if row.startswith("VmHWM")))


def line(what: str, ours: float, peer: float, target: float | None, peer_name: str = "VTK") -> None:
    ratio = ours / peer
    verdict = "" if target is None else f"target {target:g}: {'met' if ratio <= target else 'MISSED'}"
    print(f"  {what:<58s} {ours:9.3f} s  {peer_name} {peer:9.3f} s  ratio {ratio:7.2f}  {verdict}", flush=True)


def vtk_read(path: Path) -> Any:
    reader = vtkXMLUnstructuredGridReader()
    reader.SetFileName(str(path))
    reader.Update()
    return reader.GetOutput()


def vtk_surface(grid: Any) -> Any:
    """VTK as it comes: on one core. (Ours asks it for all there are.)"""
    ours = vtkSMPTools.GetBackend()
    vtkSMPTools.SetBackend("Sequential")
    surface = vtkGeometryFilter()
    surface.SetInputData(grid)
    surface.Update()
    vtkSMPTools.SetBackend(ours)
    return surface.GetOutput()


def taken_in(path: Path, folder: Path) -> tuple[float, float, Path]:
    """Shortest times of taking a file into a review of its own, with a reader waiting as in the bench: until it can be looked at,
    and until the review is closed with nothing left in SQLite's log."""
    shortest, closed, kept = float("inf"), float("inf"), folder
    for attempt in range(3):
        target = folder / f"{path.stem}_{attempt}.ironstone"
        start_ahead()
        time.sleep(2.0)
        begun = time.perf_counter()
        with Review.create(target) as review:
            intake(review, [path], system="mm-N-s-t-MPa")
            shortest = min(shortest, time.perf_counter() - begun)
        closed = min(closed, time.perf_counter() - begun)
        for old in folder.glob(f"{path.stem}_{attempt - 1}.ironstone*"):
            old.unlink()
        kept = target
    return shortest, closed, kept


def early_contour(path: Path, folder: Path) -> float:
    """From a file dropped on an open review to values at every display vertex, drawn from what the reader has left."""
    shortest = float("inf")
    for attempt in range(3):
        target = folder / f"{path.stem}_early_{attempt}.ironstone"
        start_ahead()
        time.sleep(2.0)
        with Review.create(target) as review:
            begun = time.perf_counter()

            def look(result: int, review: Review = review, begun: float = begun) -> None:
                nonlocal shortest
                source = review.result(result)
                evaluate(STRESS, source, skin(source.mesh).vertices)
                shortest = min(shortest, time.perf_counter() - begun)

            intake(review, [path], system="mm-N-s-t-MPa", shown=look)
        for old in folder.glob(f"{target.name}*"):
            old.unlink()
    return shortest


def first_contour(review: Path) -> tuple[float, ReviewSource, Any]:
    """From a review that is not open yet to values at every display vertex."""
    begun = time.perf_counter()
    source = Review.open(review).result()
    drawn = skin(source.mesh)
    evaluate(STRESS, source, drawn.vertices)
    return time.perf_counter() - begun, source, drawn


def model(title: str, path: Path, folder: Path, targets: bool) -> ReviewSource:
    print(f"\n{title}: {path.stat().st_size / 1e6:.0f} MB")
    read, _ = best(lambda: vtk_read(path))
    both, _ = best(lambda: vtk_surface(vtk_read(path)))
    early = early_contour(path, folder)
    line("from the file to the first contour, before it is stored", early, both, 2.5 if targets else None, "VTK read + surface")
    stored, closed, review = taken_in(path, folder)
    line("taken into a review (read, checked, stored, hashed)", stored, read, 6 if targets else None, "VTK read")
    line("the same, and the review closed again", closed, read, None, "VTK read")
    times = []
    for _ in range(3):
        gc.collect()
        times.append(first_contour(review)[0])
    opened = min(times)
    _, source, drawn = first_contour(review)
    line("from the review to the first contour", opened, both, 2 if targets else None, "VTK read + surface")
    values, _ = best(lambda: (source._cache.clear(), evaluate(STRESS, source, drawn.vertices)))
    line("another step of the same model, values for the view", values, read, 0.5 if targets else None, "VTK read")
    measure, _ = best(lambda: evaluate(Reading("stress", "principal-1"), source, drawn.vertices))
    line("another measure of the same step", measure, read, 0.5 if targets else None, "VTK read")
    high, _ = best(lambda: extremes(STRESS, source))
    line("highest and lowest over every corner", high, read, None, "VTK read")
    return source


def averaging(source: ReviewSource, grid: Any, targets: bool) -> None:
    every = np.arange(len(source.mesh.connectivity))
    corners = tensor_at(source.mesh.points[source.mesh.connectivity])
    built, operator = best(lambda: corner_averaging(source.mesh, "part"), 1)
    used, _ = best(lambda: operator(corners))
    count = len(source.mesh.types)
    verdict = "met" if used <= count / 1e6 else "MISSED"
    print(f"  averaging {len(every):,} corner tensors within parts: {used:.3f} s (operator built once in {built:.2f} s), "
          f"target {count / 1e6:.2f} s: {verdict if targets else 'not judged'}")  # fmt: skip
    smooth = vtkCellDataToPointData()
    smooth.SetInputData(grid)

    def run() -> Any:
        smooth.Modified()
        smooth.Update()
        return smooth.GetOutput()

    peer, _ = best(run)
    line("  beside VTK's mean of element values at nodes", used, peer, None)


def eigenvalues() -> None:
    print("\nprincipal values of a million tensors")
    tensors = np.random.default_rng(1).normal(size=(1_000_000, 6))
    ours, _ = best(lambda: principals(tensors))
    full = matrices(tensors)
    peer, _ = best(lambda: np.linalg.eigvalsh(full))
    line("principals", ours, peer, 0.25, "LAPACK")


def long_trace(folder: Path, raw: Path) -> None:
    """One node over 1,000 steps, from the review and by reading files.

    Seeking costs the same however large a step is, reading does not: the large model's steps are read once and counted a thousand
    times, since a thousand of them would need 170 GB.
    """
    print("\ntrace of one node over 1,000 steps")
    step = make(folder / "series_0.vtu", 4096)
    read, _ = best(lambda: vtk_to_numpy(vtk_read(step).GetPointData().GetArray("displacement"))[17])
    paths = [step]
    for i in range(1, 1000):
        path = folder / f"series_{i}.vtu"
        if not path.exists():
            path.symlink_to(step)
        paths.append(path)
    with Review.create(folder / "series.ironstone") as review:
        start_ahead()
        time.sleep(2.0)
        begun = time.perf_counter()
        intake(review, paths, system="mm-N-s-t-MPa")
        taken = time.perf_counter() - begun
        every, _ = best(lambda: [vtk_read(p) for p in paths], 2)
        line("1,000 steps of 4,096 elements taken in", taken, every, 4, "VTK reads")
        source = review.result()
        nodes = np.array([17])

        def run() -> Any:
            source._cache.clear()
            return follow(Reading("displacement", "x"), source, AtNodes(nodes))

        ours, _ = best(run)
    line("the trace, beside reading these steps of 4,096 elements", ours, 1000 * read, None, "VTK, all steps")
    large, _ = best(lambda: vtk_read(raw))
    line("beside reading steps of the large model (one, x 1,000)", ours, 1000 * large, 0.01, "VTK, all steps")


def growth(folder: Path) -> None:
    print("\ngrowth with size (shared nodes, element stress); time a million elements should stay the same")
    for count in (10_000, 100_000, 1_000_000):
        path = make(folder / f"grow_{count}.vtu", count)
        elements = side_for(count) ** 3
        stored, _, review = taken_in(path, folder)
        opened, _, _ = first_contour(review)
        print(f"  {elements:>9,} elements: taken in {stored:.3f} s ({1e6 * stored / elements:.2f} s a million), "
              f"first contour {opened:.3f} s ({1e6 * opened / elements:.2f} s a million)")  # fmt: skip


def memory(review: Path, folder: Path) -> None:
    """Peak memory of a process that opens the largest review, looks at it, and looks at two more readings."""
    code = (
        "import sys; from pathlib import Path; from bench.__main__ import STRESS, first_contour, high_water\n"
        "from ironstone.core.reading.evaluate import evaluate; from ironstone.core.reading.extremes import extremes\n"
        "from ironstone.core.reading.reading import Reading\n"
        "base = high_water()\n"
        "_, source, drawn = first_contour(Path(sys.argv[1])); extremes(STRESS, source)\n"
        "for reading in (Reading('displacement'), Reading('stress', 'xx', 'part')):\n"
        "    evaluate(reading, source, drawn.vertices)\n"
        "source.mesh.blocks; at = source.values('stress', 0); m = source.mesh\n"
        "mesh = sum(a.nbytes for a in (m.points, m.connectivity, m.offsets, m.types, m.node_ids, m.element_ids, m.part))\n"
        "print(base, high_water(), mesh / 1e3, 2 * max(at.nbytes, 8 * 6 * len(m.types)) / 1e3)\n"
    )
    answer = subprocess.run([sys.executable, "-c", code, str(review)], capture_output=True, text=True, check=True)
    base, peak, mesh, steps = (float(v) / 1e6 for v in answer.stdout.split())
    print(f"\nmemory of a process that reviews it: {peak:.2f} GB at its peak, {base:.2f} GB of it before anything is open;\n"
          f"  the mesh {mesh:.2f} GB, two steps of the field in view {steps:.2f} GB: at its peak it holds "
          f"{(peak - base) / (mesh + steps):.1f} times these together (what is drawn, operators, work in hand)")  # fmt: skip


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--folder", type=Path, help="Where the large files are kept; a temporary folder when not given.")
    options.add_argument("--small", action="store_true", help="A tenth of the size.")
    chosen = options.parse_args()
    share = 0.1 if chosen.small else 1.0
    with tempfile.TemporaryDirectory() as scratch:
        folder = chosen.folder or Path(scratch)
        folder.mkdir(parents=True, exist_ok=True)
        start.rows()
        eigenvalues()
        raw = make(folder / "shared.vtu", int(1_000_000 * share))
        source = model(f"{side_for(int(1e6 * share)) ** 3:,} linear hexahedra, shared nodes, element stress", raw, folder, True)
        averaging(source, vtk_read(raw), True)
        review = source.review.path
        del source
        memory(review, folder)
        split = make(folder / "split.vtu", int(100_000 * share), split=True)
        model(f"{side_for(int(1e5 * share)) ** 3:,} linear hexahedra, unshared nodes, corner stress", split, folder, False)
        curved = make(folder / "quadratic.vtu", int(200_000 * share), quadratic=True)
        model(f"{side_for(int(2e5 * share)) ** 3:,} quadratic hexahedra, shared nodes, element stress", curved, folder, False)
        long_trace(folder, raw)
        if not chosen.small:
            growth(folder)
    print(f"\npeak memory of this whole run: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:.2f} GB")


if __name__ == "__main__":
    main()
