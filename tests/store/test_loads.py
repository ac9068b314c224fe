"""Loads that no file tells are found once the result is in: behind, or at once where somebody needs them; with the same answer."""

from __future__ import annotations

import threading
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.wanted import still_wanted
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake, loads
from ironstone.store.describe import contents, whole_contents
from tests.oracles.boxes import SHAPES, box
from tests.writing import write_vtu

SIZE = (2.0, 3.0, 1.5)
NAME = "loaded at x = 2"


def pulled(folder: Path, steps: int = 1) -> list[Path]:
    """A block held at x = 0 and under an even tension of 7 along x; its end does not move alike, so that nothing drives it."""
    mesh = box(next(s for s in SHAPES if s.name == "hex8"), counts=(4, 4, 4), size=SIZE)
    x, y, _ = mesh.points.T
    moved = np.stack([0.1 * x * (1.0 + 0.2 * np.sin(y)), 0.01 * x * y, 0.0 * x], 1)
    stress = np.tile([7.0, 0.0, 0.0, 0.0, 0.0, 0.0], (len(mesh.points), 1))
    cells = [(12, nodes.tolist()) for nodes in mesh.blocks[0].nodes]
    data = {"displacement": moved, "stress": stress}
    return [
        write_vtu(folder / f"pulled_{k}.vtu", mesh.points, cells, {n: (k + 1) * v for n, v in data.items()}, time=float(k))
        for k in range(steps)
    ]


def sets_in(found: dict) -> dict[str, str]:
    return {s["name"]: s["found"] for s in found["sets"]}


@pytest.fixture
def held_back(monkeypatch: pytest.MonkeyPatch) -> threading.Event:
    """The search waits behind until it is let go; where somebody needs the loads it gives up."""
    go = threading.Event()
    plain = loads.loads_left

    def slow(source, step):
        while threading.current_thread().name.startswith("loads") and not go.is_set():
            still_wanted()
            go.wait(0.005)
        return plain(source, step)

    monkeypatch.setattr(loads, "loads_left", slow)
    return go


def test_a_result_is_in_before_its_loads_are_and_says_so(tmp_path: Path, held_back: threading.Event) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        number = intake(review, pulled(tmp_path), "pulled", "mm-N-s-t-MPa")
        before = contents(review.result(number))
        assert before["loads_sought"] and NAME not in sets_in(before)
        assert float(review.result(number).read("stress", "xx").values.max()) == pytest.approx(7.0)
        held_back.set()
        for _ in range(1000):
            if not contents(review.result(number))["loads_sought"]:
                break
            threading.Event().wait(0.01)
        after = contents(review.result(number))
        assert "stress leaves forces" in sets_in(after)[NAME] and not after["loads_sought"]
    with Review.open(tmp_path / "r.ironstone") as again:
        mesh = again.result().mesh
        np.testing.assert_array_equal(np.sort(mesh.points[mesh.node_sets[NAME], 0]), 2.0)


@pytest.mark.parametrize(("kind", "words"), [
    ("balance", {}),
    ("sense", {}),
    ("trace", {"field": "displacement", "measure": "x", "at": f"set:{NAME}", "reduce": "mean"}),
])  # fmt: skip
def test_who_needs_them_has_them_at_once_and_the_search_behind_gives_up(
    tmp_path: Path, held_back: threading.Event, kind: str, words: dict
) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        number = intake(review, pulled(tmp_path, 3), "pulled", "mm-N-s-t-MPa")
        ask(review, question_of(kind, words))
        assert NAME in review.result(number).mesh.node_sets
        assert not contents(review.result(number))["loads_sought"]
        held_back.set()


def test_behind_and_at_once_the_answer_is_one(tmp_path: Path, held_back: threading.Event) -> None:
    found = []
    for name, needed in (("a", True), ("b", False)):
        with Review.create(tmp_path / f"{name}.ironstone") as review:
            number = intake(review, pulled(tmp_path), "pulled", "mm-N-s-t-MPa")
            if needed:
                whole_contents(review, number)
            held_back.set()
            while review.loads.sought(review.result(number)):
                threading.Event().wait(0.01)
            found.append((contents(review.result(number))["sets"], review.result(number).mesh.node_sets[NAME].tolist()))
        held_back.clear()
    assert found[0] == found[1]


def test_closing_does_not_wait_and_they_are_found_when_they_are_needed(tmp_path: Path, held_back: threading.Event) -> None:
    path = tmp_path / "r.ironstone"
    with Review.create(path) as review:
        intake(review, pulled(tmp_path), "pulled", "mm-N-s-t-MPa")
    with Review.open(path) as review:
        assert contents(review.result())["loads_sought"]
        assert NAME in sets_in(whole_contents(review))


def test_asked_within_a_change_nobody_waits_for_the_other(tmp_path: Path) -> None:
    """Whoever writes holds the file alone: what is found behind must not be stored while it is waited for."""
    with Review.create(tmp_path / "r.ironstone") as review:
        number = intake(review, pulled(tmp_path), "pulled", "mm-N-s-t-MPa")
        with review.writing():
            review.loads.needed(review.result(number))
        assert NAME in review.result(number).mesh.node_sets


def test_a_set_of_ones_own_keeps_its_name(tmp_path: Path, held_back: threading.Event) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        number = intake(review, pulled(tmp_path), "pulled", "mm-N-s-t-MPa")
        review.make_set(number, NAME, np.array([1, 2]), "picked")
        found = sets_in(whole_contents(review, number))
        assert found[NAME] is None
        assert review.result(number).mesh.node_sets[NAME].tolist() == [1, 2]


def test_a_series_that_is_read_again_is_looked_at_again(tmp_path: Path) -> None:
    from ironstone.store.again import take_again

    with Review.create(tmp_path / "r.ironstone") as review:
        files = pulled(tmp_path, 2)
        number = intake(review, files[:1], "pulled", "mm-N-s-t-MPa")
        whole_contents(review, number)
        take_again(review, number, files)
        assert NAME in sets_in(whole_contents(review, number))


def test_a_review_that_is_only_read_is_answered_without_them(tmp_path: Path, held_back: threading.Event) -> None:
    path = tmp_path / "r.ironstone"
    with Review.create(path) as review:
        intake(review, pulled(tmp_path), "pulled", "mm-N-s-t-MPa")
    with Review._for_reading(path) as review:
        assert ask(review, question_of("balance", {})).verdict
        assert not review.loads.sought(review.result())
