"""One curve of several results: each asked by the same names, held against the first by the rules of a test record."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, keep, question_of, thing_of
from ironstone.engine.carrier import Answer
from ironstone.store import Review, intake
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu

STROKES = np.linspace(0.0, 5.0, 11)


def taken_in(review: Review, folder: Path, name: str, stiffness: float, sets: bool = True, length: int = 2) -> int:
    mesh = box(BY_NAME["hex8"], counts=(length, 1, 1), size=(1.0, 1.0, 1.0))
    cells = [(12, mesh.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(length)]
    x = mesh.points[:, 0]
    files = []
    for number, stroke in enumerate(STROKES):
        moved, held = np.zeros((len(x), 3)), np.zeros((len(x), 3))
        moved[:, 0] = stroke * x
        held[x == 0.0, 0] = -stiffness * stroke / 4
        data = {"displacement": moved, "reaction": held}
        if sets:
            data |= {"driven": (x == 1.0).astype(np.uint8), "held": (x == 0.0).astype(np.uint8)}
        files.append(write_vtu(folder / f"{name}_{number:02d}.vtu", mesh.points, cells, data, time=float(number)))
    return intake(review, files, name, "mm-N-s-t-MPa")


def side(field: str, at: str, reduce: str, sign: int) -> dict[str, Any]:
    return {"field": field, "measure": "x", "at": at, "reduce": reduce, "sign": sign}


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "r.ironstone") as made:
        first = taken_in(made, tmp_path, "first", 200.0)
        taken_in(made, tmp_path, "stiffer", 204.0, length=3)
        taken_in(made, tmp_path, "soft", 100.0)
        taken_in(made, tmp_path, "bare", 200.0, sets=False)
        curve = {"x": side("displacement", "set:driven", "mean", 1), "y": side("reaction", "set:held", "sum", -1)}
        keep(made, thing_of("pairing", {"result": first, "name": "pull", **curve}))
        yield made


def asked(review: Review, *results: str) -> Answer:
    return ask(review, question_of("curves-of", {"pairing": "pull", "results": list(results)}))


def test_each_result_has_its_curve_and_how_the_first_compares(review: Review) -> None:
    found = asked(review, "stiffer", "soft")
    stiffer, soft = found.more["curves"]
    assert stiffer["x"] == pytest.approx(STROKES) and stiffer["y"] == pytest.approx(204.0 * STROKES)
    for name in ("peak", "stiffness", "energy"):
        assert stiffer["ratios"][name] == pytest.approx(200 / 204) and soft["ratios"][name] == pytest.approx(2.0)
    assert stiffer["state"] == "good" and stiffer["verdict"].startswith("Agrees")
    assert soft["state"] == "bad" and found.state == "doubt"


def test_the_unit_system_of_another_result_is_brought_to_that_of_the_first(review: Review) -> None:
    review.set_units(3, "m-N-s-kg-Pa")
    soft = asked(review, "soft").more["curves"][0]
    # What was 5 mm is 5 m: the same numbers mean a thousand times as much.
    assert soft["x"] == pytest.approx(1000.0 * STROKES) and soft["y"] == pytest.approx(100.0 * STROKES)


def test_a_result_without_the_set_says_so_and_the_others_are_drawn(review: Review) -> None:
    found = asked(review, "bare", "stiffer")
    assert "no set named 'driven'" in found.more["curves"][0]["error"] and found.more["curves"][1]["y"]
    assert found.caveats == [f"bare: {found.more['curves'][0]['error']}"]


def test_a_result_that_is_not_there_is_refused(review: Review) -> None:
    with pytest.raises(IronstoneError, match="no result 'nothing'"):
        asked(review, "nothing")
