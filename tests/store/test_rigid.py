"""Rigid bodies: they have no stress and no strain, which is not zero; they move and are held like any other."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu

MESH = box(BY_NAME["hex8"], counts=(4, 1, 1), size=(4.0, 1.0, 1.0))
CELLS = [(12, MESH.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(4)]


def taken_in(folder: Path, review: Review, own: bool = False) -> None:
    points = {"displacement": np.outer(MESH.points[:, 0], [0.1, 0, 0]), "node_stress": np.full((len(MESH.points), 6), 7.0)}
    cells = {"part": np.array([1, 1, 2, 2], np.int32), "stress": np.full((4, 6), 3.0)}
    if own:
        cells["rigid"] = np.array([0, 0, 1, 1], np.uint8)
    intake(review, [write_vtu(folder / "bar.vtu", MESH.points, CELLS, points, cells)], "bar", "mm-N-s-t-MPa")


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "r.ironstone") as made:
        taken_in(tmp_path, made)
        yield made


def test_a_rigid_part_has_no_stress_and_no_strain_and_moves_all_the_same(review: Review) -> None:
    review.set_rigid(1, "part 2", True)
    source = review.result("bar")
    stress = source.read("stress", "xx", at="elements")
    assert stress.values[:2] == pytest.approx([3.0, 3.0]) and np.isnan(stress.values[2:]).all()
    assert any("a rigid body has no stress and no strain" in c for c in stress.caveats)
    strain = source.read("strain from displacement", "xx", at="elements").values
    assert strain[:2] == pytest.approx([0.1, 0.1]) and np.isnan(strain[2:]).all()
    assert np.isfinite(source.read("displacement", "x", at="nodes").values).all()
    assert (
        np.isnan(source.rows("stress", 0, np.array([3]))).all()
        and np.isnan(source.history("stress", np.array([0]), np.array([3]))).all()
    )
    assert [p["rigid"] for p in contents(source)["parts"]] == [False, True]


def test_a_node_has_a_value_as_long_as_something_there_gives(review: Review) -> None:
    review.set_rigid(1, "part 2", True)
    source = review.result("bar")
    found = source.values("node_stress", 0)[:, 0]
    assert np.isnan(found).tolist() == (source.mesh.points[:, 0] > 2.0 + 1e-9).tolist()


def test_the_highest_is_of_what_gives_and_undo_brings_the_rest_back(review: Review) -> None:
    review.set_rigid(1, "part 1", True)
    found = ask(review, question_of("read", {"field": "stress", "measure": "xx", "extremes": True}))
    assert found.more["max"]["part"] == "part 2"
    review.undo()
    assert np.isfinite(review.result("bar").read("stress", "xx", at="elements").values).all()


def test_a_file_says_itself_what_is_rigid(tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        taken_in(tmp_path, review, own=True)
        source = review.result("bar")
        assert "rigid" in source.mesh.element_sets
        assert np.isnan(source.read("stress", "xx", at="elements").values).tolist() == [False, False, True, True]


def test_a_part_that_is_not_there_is_refused(review: Review) -> None:
    with pytest.raises(IronstoneError, match="no part 'lid'"):
        review.set_rigid(1, "lid", True)
