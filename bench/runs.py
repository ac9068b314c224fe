"""Fifty files of 100,000 elements by a recipe, with one worker and with two; what a start costs; reading one array of twenty:
``python -m bench.runs [COUNT]``."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import tempfile
import time
from multiprocessing import get_context
from pathlib import Path

import numpy as np

from bench.motion import block
from tests.writing import write_vtu

SIDE, COUNT, FIELDS = 46, 50, 20
IRONSTONE = str(Path(sys.executable).with_name("ironstone"))
MOVED = {"field": "displacement"}
# Ten values and two curves of each file.
STRESS = {"kind": "read", "field": "stress", "extremes": True, "take": "highest"}
RECIPE = {
    "version": 1,
    "title": "block",
    "units": "mm-N-s-t-MPa",
    "ask": [
        *({"name": m, **STRESS, "measure": m} for m in ("von-mises", "xx", "yy", "zz", "xy", "principal-1", "max-shear", "mean")),
        {
            "name": "top",
            "kind": "trace",
            "field": "displacement",
            "measure": "z",
            "at": "set:top",
            "reduce": "mean",
            "take": "last",
        },
        {"name": "furthest", "kind": "read", "field": "displacement", "measure": "magnitude", "extremes": True, "take": "highest"},
    ],
    "tables": [
        {"name": "through", "kind": "profile", "field": "stress", "measure": "zz", "path": "line:0.5,0.5,0:0.5,0.5,1"},
        {"name": "along", "kind": "profile", "field": "displacement", "measure": "z", "path": "line:0,0.5,0.5:1,0.5,0.5"},
    ],
}


def written(folder: Path, name: str, side: int, chance: np.random.Generator, fields: int = 0) -> Path:
    points, cells = block(side)
    points = points / points.max()
    moved = (points * chance.uniform(0.9, 1.1, 3) * 1e-3).astype(np.float32)
    stress = chance.normal(100.0, 10.0, (len(points), 6)).astype(np.float32)
    top = (points[:, 2] == points[:, 2].max()).astype(np.uint8)
    data = {"displacement": moved, "stress": stress, "top": top}
    data |= {f"more_{k}": chance.normal(size=(len(points), 6)).astype(np.float32) for k in range(fields)}
    return write_vtu(folder / name, points, cells, data)


def arrays(_: int) -> float:
    """As much plain work on arrays as the values of one file."""
    tensors = np.random.default_rng(1).normal(size=(8 * SIDE**3, 6))
    for _ in range(12):
        a, b, c = (tensors[:, i] - tensors[:, (i + 1) % 3] for i in range(3))
        found = np.sqrt(0.5 * (a * a + b * b + c * c) + 3.0 * (tensors[:, 3:] ** 2).sum(1))
    return float(found.max())


def beside(jobs: int) -> float:
    """Seconds of eight such pieces of work in so many processes."""
    with get_context("spawn").Pool(jobs) as pool:
        pool.map(arrays, range(jobs), chunksize=1)
        began = time.perf_counter()
        pool.map(arrays, range(8), chunksize=1)
        return time.perf_counter() - began


def run(folder: Path, files: list[Path], out: str, *words: str) -> tuple[float, list[dict]]:
    began = time.perf_counter()
    done = subprocess.run(
        [IRONSTONE, "run", str(folder / "recipe.json"), *map(str, files), "-o", str(folder / out), "--json", *words],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    seconds = time.perf_counter() - began
    assert done.returncode == 0, done.stderr[-500:]
    return seconds, json.loads(done.stdout)["runs"]


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else COUNT
    chance = np.random.default_rng(1)
    with tempfile.TemporaryDirectory(prefix="ironstone-bench-") as name:
        folder = Path(name)
        (folder / "recipe.json").write_text(json.dumps(RECIPE))
        files = [written(folder, f"block_{k:02d}.vtu", SIDE, chance) for k in range(count)]
        size = sum(f.stat().st_size for f in files) / 1e6
        print(f"{count} files of {SIDE**3} elements, {size:.0f} MB; ten values and two curves each")
        one, runs = run(folder, files, "one")
        memory = [r["memory_mb"] for r in runs]
        print(f"one worker {one:.1f} s ({one / count:.2f} s a file); its largest memory after the 5th file {memory[4]:.0f} MB, "
              f"after the last {memory[-1]:.0f} MB")  # fmt: skip
        shutil.rmtree(folder / "one")
        two, again = run(folder, files, "two", "--jobs", "2")
        print(f"two workers {two:.1f} s: {one / two:.2f} times as fast; largest memory {max(r['memory_mb'] for r in again):.0f} MB")
        shutil.rmtree(folder / "two")
        dask, _ = run(folder, files, "dask", "--scheduler", "local", "--jobs", "2")
        print(f"two workers on a local scheduler {dask:.1f} s: {one / dask:.2f} times as fast as one")
        print(f"the same machine, plain NumPy in two processes: {beside(1) / beside(2):.2f} times as fast as in one")
        small = written(folder, "small.vtu", 4, chance)
        starts = []
        for _ in range(5):
            began = time.perf_counter()
            words = [IRONSTONE, "run", str(folder / "recipe.json"), str(small), "--value", "von-mises"]
            subprocess.run(words, capture_output=True, check=True)
            starts.append(time.perf_counter() - began)
        print(f"start to the first value of a small file {min(starts):.2f} s (median {sorted(starts)[2]:.2f} s)")
        one_of_twenty(folder, chance)


def one_of_twenty(folder: Path, chance: np.random.Generator) -> None:
    """Reading a file of twenty fields for a recipe that asks one, beside VTK reading that array alone."""
    from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

    from ironstone.formats.registry import steps_of
    from ironstone.formats.wanted import only

    many = written(folder, "many.vtu", SIDE, chance, FIELDS)

    def by_vtk(all_of_it: bool) -> float:
        began = time.perf_counter()
        reader = vtkXMLUnstructuredGridReader()
        reader.SetFileName(str(many))
        reader.UpdateInformation()
        if not all_of_it:
            chosen = reader.GetPointDataArraySelection()
            chosen.DisableAllArrays()
            chosen.EnableArray("stress")
        reader.Update()
        return time.perf_counter() - began

    def by_us(wanted: frozenset[str] | None) -> float:
        began = time.perf_counter()
        with only(wanted):
            list(steps_of(many))
        return time.perf_counter() - began

    vtk, whole = min(by_vtk(False) for _ in range(5)), min(by_vtk(True) for _ in range(5))
    ours, all_ours = min(by_us(frozenset({"stress"})) for _ in range(5)), min(by_us(None) for _ in range(5))
    print(f"{many.stat().st_size / 1e6:.0f} MB of {FIELDS} fields: VTK one array {vtk:.3f} s, all {whole:.3f} s; "
          f"here one {ours:.3f} s ({ours / vtk:.2f} times), all {all_ours:.3f} s")  # fmt: skip


if __name__ == "__main__":
    main()
