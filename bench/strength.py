"""Plies of a large shell against every criterion, beside a plain Tsai-Wu in NumPy: ``python -m bench.strength``.

100,000 elements of 16 plies at 3 places each, 4.8 million stresses. Then the same in a review: the worst ply of every element as
the view asks for it, with its key, and the whole question of what fails. Best of three, in one run; memory is the most of it all.
"""

from __future__ import annotations

import argparse
import json
import resource
import tempfile
import time
from pathlib import Path

import numpy as np

from bench.__main__ import best, line
from ironstone.core.reading.failing import scan
from ironstone.core.reading.plies import check_ply, runs
from ironstone.core.strength.criteria import CRITERIA, check_of, criterion_of
from ironstone.core.strength.laminate import PlyMaterial
from ironstone.engine.reading.pictures import SurfaceQuery, on_surface
from ironstone.engine.strength.stacks import bring_laminates
from ironstone.store import Review, intake
from tests.writing import write_vtu

GLASS = {
    "E1": 40_500.0, "E2": 10_200.0, "G12": 4_100.0, "nu12": 0.27, "S13": 58.0, "S23": 42.0,
    "Xt": 1_020.0, "Xc": 640.0, "Yt": 41.0, "Yc": 138.0, "S12": 66.0,
}  # fmt: skip
ANGLES = (0, 45, -45, 90, 0, 45, -45, 90, 90, -45, 45, 0, 90, -45, 45, 0)


def plain_tsai_wu(stress: np.ndarray) -> float:
    """The largest index of stresses (n, 3), as one would write it."""
    xt, xc, yt, yc, s = (GLASS[n] for n in ("Xt", "Xc", "Yt", "Yc", "S12"))
    f11, f22 = 1 / (xt * xc), 1 / (yt * yc)
    one, two, both = stress[:, 0], stress[:, 1], stress[:, 2]
    index = (1 / xt - 1 / xc) * one + (1 / yt - 1 / yc) * two + f11 * one**2 + f22 * two**2 + both**2 / s**2
    return float((index - np.sqrt(f11 * f22) * one * two).max())


def sheet(folder: Path, count: int) -> Review:
    """A flat shell of so many squares with a strain and a curvature that vary over it, in a review, laminates stated."""
    side = max(int(np.sqrt(count)), 1)
    grid = np.arange(side + 1)
    points = np.stack([np.tile(grid, side + 1), np.repeat(grid, side + 1), np.zeros((side + 1) ** 2)], 1).astype(float)
    corner = (np.arange(side)[:, None] * (side + 1) + np.arange(side)).ravel()
    cells = np.stack([corner, corner + 1, corner + side + 2, corner + side + 1], 1)
    chance = np.random.default_rng(5)
    data = {
        "midplane_strain": chance.normal(0, 1e-3, (len(cells), 3)),
        "curvature": chance.normal(0, 2e-4, (len(cells), 3)),
    }
    path = write_vtu(folder / "sheet.vtu", points, [(9, c.tolist()) for c in cells], {}, data)
    review = Review.create(folder / "sheet.ironstone")
    result = intake(review, [path], "sheet", "mm-N-s-t-MPa")
    plies = [{"sheet": f"S{k}", "material": "glass", "thickness": 0.25, "angle": a} for k, a in enumerate(ANGLES)]
    stated = {
        "version": 1,
        "units": "mm-N-s-t-MPa",
        "materials": {"glass": GLASS},
        "zones": [{"name": "all", "where": "all", "plies": plies}],
    }
    bring_laminates(review, result, json.dumps(stated).encode(), "sheet.json")
    return review


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--elements", type=int, default=100_000)
    count = options.parse_args().elements
    stresses = count * len(ANGLES) * 3
    table = np.random.default_rng(3).normal(0, 1, (stresses, 3)) * [300.0, 30.0, 30.0]
    material = PlyMaterial("glass", GLASS)
    plain, _ = best(lambda: plain_tsai_wu(table))
    print(f"{stresses:,} stresses; plain NumPy Tsai-Wu, index alone: {plain:.3f} s, {stresses / plain / 1e6:.1f} million a second")
    runs_of = [slice(s, s + 16_384) for s in range(0, stresses, 16_384)]
    for name in CRITERIA:
        criterion = criterion_of(name)
        mine, _ = best(lambda c=criterion: [c.exposures(material, table[r]) for r in runs_of])
        line(f"{name}, exposure and mode", mine, plain, None, "plain Tsai-Wu")
    with tempfile.TemporaryDirectory() as folder:
        review = sheet(Path(folder), count)
        source = review.result()
        source.values("midplane_strain", 0), source.values("curvature", 0)
        for name in CRITERIA:
            query = SurfaceQuery(field="stress in plies", measure="exposure", layer="worst", criterion=name, step=0)
            start = time.perf_counter()
            on_surface(source, query)
            first = time.perf_counter() - start
            print(f"  worst of {len(ANGLES)} plies of {count:,} elements to the view, {name}: {first:.2f} s")
        taken, _ = best(lambda: scan(source, check_of("hashin"), 0))
        print(f"  what fails, every ply listed, hashin: {taken:.2f} s")
        one = next(iter(runs(source, 0)))
        alone, _ = best(lambda: check_ply(one, 0, 0, check_of("hashin"), index=False))
        print(f"  one ply at one place of {len(one.elements):,} elements: {1e3 * alone:.2f} ms")
        review.close()
    print(f"most memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")


if __name__ == "__main__":
    main()
