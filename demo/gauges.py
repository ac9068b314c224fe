"""The strain gauges of the clevis lug: where they sit, and what they read, which is made up.

The readings are those of the fine mesh at the demo's opening step, each off by a few per cent as gauges are, in whole microstrain.
One coordinate has a slip of the decimal point. ``python -m demo.gauges`` writes the list again.
"""

from __future__ import annotations

import csv
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from ironstone.core.reading.reading import Reading
from ironstone.engine.reading.gauges import GaugeList, GaugePoint, read_at
from ironstone.store import Review, intake
from ironstone.store.describe import rail

DATA = Path(__file__).parent / "data" / "lug"
FIELD = "strain from displacement"
# Name, place, direction, gauge length (mm), rosette.
GAUGES = (
    ("L1", (0.0, 27.0, 12.0), (1, 0, 0), 1.5, ""),
    ("L2", (0.0, 31.0, 12.0), (1, 0, 0), 1.5, ""),
    ("L3", (0.0, 35.0, 12.0), (1, 0, 0), 1.5, ""),
    ("L4", (0.0, 39.0, 12.0), (1, 0, 0), 1.5, ""),
    ("E1", (0.0, 42.0, 0.0), (1, 0, 0), 3.0, ""),
    ("E2", (0.0, -42.0, 0.0), (1, 0, 0), 3.0, ""),
    ("F1", (42.0, 0.0, 0.0), (0, 1, 0), 3.0, ""),
    ("S1", (-70.0, 0.0, 12.0), (1, 0, 0), 6.0, ""),
    ("S2", (-90.0, 30.0, 12.0), (1, 0, 0), 6.0, ""),
    ("Ra", (-25.0, 25.0, 12.0), (1, 0, 0), 3.0, "R"),
    ("Rb", (-25.0, 25.0, 12.0), (1, 1, 0), 3.0, "R"),
    ("Rc", (-25.0, 25.0, 12.0), (0, 1, 0), 3.0, "R"),
)
SLIP = "S2"


def main() -> None:
    points = [
        GaugePoint(name=n, x=p[0], y=p[1], z=p[2], dx=d[0], dy=d[1], dz=d[2], length=length, rosette=r)
        for n, p, d, length, r in GAUGES
    ]
    with TemporaryDirectory() as folder, Review.create(Path(folder) / "lug.ironstone", "lug") as review:
        source = review.result(intake(review, sorted(DATA.glob("lug_fine_*.vtu")), "lug", "mm-N-s-t-MPa"))
        step = int(rail(source)["opening_step"])
        found = read_at(source, Reading(FIELD, "xx", step=step), GaugeList(result=source.id, name="lug", points=points), True)
    noise = np.random.default_rng(7).normal(0.0, 0.02, len(points))
    measured = np.round(1e6 * found.value * (1.0 + noise) + np.random.default_rng(8).normal(0.0, 3.0, len(points)))
    with (DATA / "lug_gauges.csv").open("w", newline="") as out:
        table = csv.writer(out)
        table.writerow(("name", "x", "y", "z", "dx", "dy", "dz", "length", "measured", "rosette"))
        table.writerow(("", "mm", "mm", "mm", "", "", "", "mm", "ustrain", ""))
        for (name, (x, y, z), direction, length, rosette), value in zip(GAUGES, measured, strict=True):
            # The slip: 90 mm down the shank were written as 900.
            table.writerow((name, 10 * x if name == SLIP else x, y, z, *direction, length, int(value), rosette))


if __name__ == "__main__":
    main()
