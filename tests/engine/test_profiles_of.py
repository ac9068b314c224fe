"""One profile of several results: along the same line, at the step that goes with it, each side of a border for itself."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.reading.line_elsewhere import line_elsewhere, sided
from ironstone.engine.base import ask, keep, question_of
from ironstone.engine.carrier import Answer
from ironstone.engine.reading.profiles import PathIn
from ironstone.store import Review, intake
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu

LINE = "line:0,0.5,0.5:2,0.5,0.5"


def taken_in(
    review: Review,
    folder: Path,
    name: str,
    stress: np.ndarray,
    times: tuple[float, ...] = (1.0,),
    system: str = "mm-N-s-t-MPa",
    at: float = 0.0,
) -> int:
    """A bar of 2 x 1 x 1 in as many cubes as there are stresses, each element its own stress xx, times the time."""
    count = len(stress)
    mesh = box(BY_NAME["hex8"], counts=(count, 1, 1), size=(2.0, 1.0, 1.0))
    points = mesh.points[mesh.connectivity] + [at, 0.0, 0.0]
    cells = [(12, list(range(8 * i, 8 * i + 8))) for i in range(count)]
    files = []
    for k, time in enumerate(times):
        tensor = np.zeros((8 * count, 6))
        tensor[:, 0] = np.repeat(stress, 8) * time
        data = {"stress": tensor, "GlobalIds": 10 * mesh.connectivity + len(name)}
        files.append(write_vtu(folder / f"{name}_{k}.vtu", points, cells, data, time=time))
    return intake(review, files, name, system)


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "r.ironstone") as made:
        yield made


def asked(review: Review, *results: str, **words: object) -> Answer:
    said = {"result": "first", "path": LINE, "field": "stress", "measure": "xx", "results": list(results), **words}
    return ask(review, question_of("profiles-of", said))


def test_the_same_body_otherwise_numbered_has_no_deviation_also_at_the_borders(review: Review, tmp_path: Path) -> None:
    stress = np.array([10.0, 40.0, 20.0, 70.0])
    taken_in(review, tmp_path, "first", stress)
    taken_in(review, tmp_path, "otherwise numbered", stress)
    mesh = review.result("first").mesh
    nodes = [int(mesh.node_ids[np.argmin(np.linalg.norm(mesh.points - [x, 0, 0], axis=1))]) for x in (0.0, 2.0)]
    for path in (LINE, f"nodes:{nodes[0]},{nodes[1]}", f"route:{nodes[0]}:{nodes[1]}"):
        (found,) = asked(review, "otherwise numbered", path=path).more["profiles"]
        assert found["deviation"] == 0.0 and found["state"] == "good" and found["ratio"] == 1.0, path
        assert None not in found["y"] and set(np.round(found["y"], 9)) == set(stress), "both values of each border"


def test_deviation_and_ratio_are_those_of_the_two_fields(review: Review, tmp_path: Path) -> None:
    """By hand: constant fields 100, 104, 150; a step of 2 in 10 over half of the line is an RMS of 2 / sqrt 2 in 10."""
    taken_in(review, tmp_path, "first", np.full(2, 100.0))
    taken_in(review, tmp_path, "a little more", np.full(3, 104.0))
    taken_in(review, tmp_path, "half as much again", np.full(5, 150.0))
    answer = asked(review, "a little more", "half as much again")
    little, half = answer.more["profiles"]
    assert (
        little["deviation"] == pytest.approx(4 / 104) and little["state"] == "good" and little["ratio"] == pytest.approx(100 / 104)
    )
    assert half["deviation"] == pytest.approx(50 / 150) and half["state"] == "bad" and half["largest"] == pytest.approx(-50.0)
    assert "half as much again: does not agree" in answer.verdict and answer.state == "doubt"
    taken_in(review, tmp_path, "stepped", np.array([100.0, 80.0]))
    (stepped,) = asked(review, "stepped").more["profiles"]
    assert stepped["deviation"] == pytest.approx(20 / np.sqrt(2) / 100, rel=0.02)


def test_each_is_read_at_the_step_that_goes_with_this_one(review: Review, tmp_path: Path) -> None:
    taken_in(review, tmp_path, "first", np.full(2, 100.0), (1.0, 2.0, 3.0))
    taken_in(review, tmp_path, "fewer steps", np.full(2, 100.0), (2.0,))
    (same,) = asked(review, "fewer steps", step=1).more["profiles"]
    assert same["deviation"] == 0.0 and same["notes"] == []
    (other,) = asked(review, "fewer steps", step=2).more["profiles"]
    assert other["notes"] == ["read at t = 2 s, which is not the same moment"] and other["ratio"] == pytest.approx(1.5)


def test_one_that_cannot_be_read_says_why_and_the_others_are_drawn(review: Review, tmp_path: Path) -> None:
    first = taken_in(review, tmp_path, "first", np.full(2, 100.0))
    taken_in(review, tmp_path, "elsewhere", np.full(2, 100.0), at=50.0)
    metres = taken_in(review, tmp_path, "in metres", np.full(2, 100.0), system="m-N-s-kg-Pa")
    taken_in(review, tmp_path, "alike", np.full(3, 100.0))
    node = int(review.result("first").mesh.node_ids[0])
    far, metric, alike = asked(review, "elsewhere", "in metres", "alike", path=f"route:{node}:{node + 10}").more["profiles"]
    assert "no node of that mesh near it" in far["error"] and far["x"] == [] and far["deviation"] is None
    assert "Its lengths are in m" in metric["error"]
    assert alike["error"] == "" and alike["deviation"] == 0.0
    keep(review, PathIn(result=first, name="along", path=LINE))
    keep(review, PathIn(result=metres, name="along", path="line:0,0.5,0.5:2,0.5,0.5"))
    (own,) = asked(review, "in metres", path="", named="along").more["profiles"]
    assert own["error"] == "" and max(own["x"]) == pytest.approx(2000.0), "its own path of that name, in millimetres"
    assert own["y"][0] == pytest.approx(1e-4), "100 Pa in MPa"


def test_two_profiles_of_nothing_agree(review: Review, tmp_path: Path) -> None:
    taken_in(review, tmp_path, "first", np.zeros(2))
    taken_in(review, tmp_path, "as little", np.zeros(3))
    (found,) = asked(review, "as little").more["profiles"]
    assert found["state"] == "good" and "no deviation" in found["verdict"] and found["ratio"] is None


def test_sides_of_a_border_are_kept_apart_and_in_order() -> None:
    x = sided(np.array([0.0, 1.0, 1.0, 2.0, 2.0, 3.0]))
    assert (np.diff(x) > 0).all() and np.abs(x - [0, 1, 1, 2, 2, 3]).max() < 1e-8
    near = sided(np.array([0.0, 1.0 - 1e-11, 1.0 - 1e-11, 1.0, 2.0]))
    assert (np.diff(near) >= 0).all(), "a sample of its own just beside a border"
    assert np.interp(1.0 - 3e-9, x, [5, 5, 9, 9, 1, 1]) == pytest.approx(5.0), "the side it came from"


def test_a_line_by_coordinates_is_the_same_everywhere() -> None:
    mesh = box(BY_NAME["tet10"], counts=(1, 1, 1))
    assert line_elsewhere(LINE, mesh, mesh) == (LINE, [])
