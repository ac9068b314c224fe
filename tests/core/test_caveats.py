from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource
from tests.writing import bar_of_hexahedra, write_vtu


def test_a_plastic_strain_extrapolated_below_zero_is_shown_and_said(flexure: ReviewSource) -> None:
    found = evaluate(Reading("equivalent_plastic_strain", step=230), flexure, AtCorners())
    assert found.values.min() < 0.0, "shown as it came, not clipped"
    assert any("below zero is not real" in c for c in found.caveats)


def test_a_stated_unit_and_nothing_averaged_leave_nothing_to_be_warned_of(flexure: ReviewSource) -> None:
    assert flexure.fields["stress"].precision == "single", "told in the field dictionary, where it is looked up"
    assert evaluate(Reading("stress", "von-mises", step=230), flexure, AtCorners()).caveats == []


@pytest.fixture
def unyielded(tmp_path: Path) -> Iterator[tuple[Review, Callable[[], list[str]]]]:
    """A review of a bar of two parts whose plastic strain is zero, and what is said beside it."""
    points, cells, ids = bar_of_hexahedra()
    data = {"equivalent_plastic_strain": np.zeros(24), "GlobalIds": ids}
    file = write_vtu(tmp_path / "bar.vtu", points, cells, data, {"part": np.array([1, 1, 2], dtype=np.int32)})
    with Review.create(tmp_path / "bar.ironstone") as review:
        intake(review, [file])
        reading = Reading("equivalent_plastic_strain")
        yield review, lambda: [c for c in evaluate(reading, review.result(), AtCorners()).caveats if c.startswith("Zero")]


def test_a_plastic_strain_of_zero_says_whether_nothing_yielded_or_nothing_could(
    unyielded: tuple[Review, Callable[[], list[str]]],
) -> None:
    review, said = unyielded
    nothing = ["Zero at all these places: nothing has yielded there."]
    assert said() == nothing
    review.set_constants(1, "part 1", {"young": 70_000.0, "poisson": 0.33})
    review.set_constants(1, "part 2", {"young": 210_000.0, "yield": 355.0})
    (one,) = said()
    assert "no plasticity was defined of part 1," in one and one.endswith("Elsewhere nothing has yielded.")
    review.set_constants(1, "part 1", {"young": 70_000.0, "yield": 250.0})
    assert said() == nothing


def test_where_something_has_yielded_a_plastic_strain_says_nothing_of_zero(flexure: ReviewSource) -> None:
    found = evaluate(Reading("equivalent_plastic_strain", step=230), flexure, AtCorners())
    assert not any(c.startswith("Zero") for c in found.caveats)


def test_a_difference_of_zero_says_nothing_of_yielding(flexure: ReviewSource) -> None:
    found = evaluate(Reading("equivalent_plastic_strain", step=230).minus("step=230"), flexure, AtCorners())
    assert not found.values.any() and not any(c.startswith("Zero") for c in found.caveats)


def test_a_jump_of_nothing_is_no_plastic_strain_of_zero(tmp_path: Path) -> None:
    points, cells, ids = bar_of_hexahedra()
    data = {"equivalent_plastic_strain": np.full(24, 0.01), "GlobalIds": ids}
    with Review.create(tmp_path / "bar.ironstone") as review:
        intake(review, [write_vtu(tmp_path / "bar.vtu", points, cells, data)])
        found = evaluate(Reading("equivalent_plastic_strain", of="jump"), review.result(), AtCorners())
        assert np.nanmax(found.values) == 0.0 and not any(c.startswith("Zero") for c in found.caveats)
