"""What is worked out over a cycle, along a sweep, or of very many shapes, beside the plain computation in the same run:
``python -m bench.cycle``."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from bench.__main__ import best
from bench.motion import block, read_by_vtk
from ironstone.core.field.tensors import von_mises
from ironstone.core.motion.shapes import mac
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.where import AtCorners
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake
from tests.writing import write_vtu

# A body of so many bricks a side has some 200,000 corners; one of a sweep has fewer nodes and many frequencies.
SIDE, SWEPT, FREQUENCIES = 29, 46, 500
SHAPES, UNKNOWNS = 200, 300_000


def sweep(folder: Path, side: int, count: int, stress: bool) -> list[Path]:
    """A harmonic at so many frequencies, displacement and stress at the nodes."""
    points, cells = block(side)
    chance = np.random.default_rng(1)
    shapes = chance.normal(size=(4, len(points), 3))
    files = []
    for k in range(count):
        own = np.array([60.0, 140.0, 300.0, 420.0])
        answers = 1.0 / (1.0 - ((10.0 + k) / own) ** 2 + 0.04j)
        whole = np.einsum("m,mnc->nc", answers, shapes)
        moved = np.stack([whole.real, whole.imag]).astype(np.float32)
        data = {"displacement_real": moved[0], "displacement_imag": moved[1]}
        if stress:
            both = chance.normal(size=(2, len(points), 6)).astype(np.float32)
            data |= {"stress_real": both[0], "stress_imag": both[1]}
        files.append(write_vtu(folder / f"s{side}_{k:03d}.vtu", points, cells, data, totals={"Frequency": 10.0 + k}))
    return files


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="ironstone-bench-") as name:
        folder = Path(name)
        with Review.create(folder / "cycle.ironstone") as review:
            intake(review, sweep(folder, SIDE, 2, True), "body", "mm-N-s-t-MPa")
            source = review.result()
            corners = len(source.mesh.connectivity)
            tensors = np.random.default_rng(2).normal(size=(corners, 6))
            one, _ = best(lambda: von_mises(tensors))
            reading = Reading("stress", "von-mises", phase="0")
            evaluate(reading, source, AtCorners())
            plain, _ = best(lambda: evaluate(reading, source, AtCorners()))
            peak, _ = best(lambda: evaluate(Reading("stress", "von-mises", phase="peak"), source, AtCorners()))
            print(f"{corners} corners: von Mises of an array {one * 1e3:.1f} ms; reading at a phase {plain * 1e3:.1f} ms")
            print(f"true peak over the cycle {peak * 1e3:.1f} ms: {peak / one:.1f} and {peak / plain:.1f} times these")
        with Review.create(folder / "sweep.ironstone") as review:
            files = sweep(folder, SWEPT, FREQUENCIES, False)
            peer, _ = best(lambda: read_by_vtk(files), 1)
            intake(review, files, "sweep", "mm-N-s-t-MPa")
            source = review.result()

            def whole() -> None:
                for step in range(FREQUENCIES):
                    source._cache.clear()
                    source.values("displacement", step)

            steps, _ = best(whole, 1)
            words = {"field": "displacement", "measure": "z", "at": f"node:{int(source.mesh.node_ids[4000])}"}
            at, _ = best(lambda: ask(review, question_of("response", words)))
            print(
                f"{FREQUENCIES} frequencies of {len(source.mesh.points)} nodes: response at a node {at:.3f} s; reading whole steps"
            )
            print(
                f"from the review {steps:.2f} s (1 to {steps / at:.0f}), by VTK from the files {peer:.2f} s (1 to {peer / at:.0f})"
            )
    first, second = np.random.default_rng(3).normal(size=(2, SHAPES, UNKNOWNS))
    product, _ = best(lambda: first @ second.T)
    found, _ = best(lambda: mac(first, second))
    print(f"MAC of {SHAPES} by {SHAPES} shapes of {UNKNOWNS} unknowns {found:.2f} s, NumPy's product {product:.2f} s:", end=" ")
    print(f"{found / product:.2f}")


if __name__ == "__main__":
    main()
