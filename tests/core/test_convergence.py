"""Order, extrapolated value and verdict of a refinement study."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.curves.convergence import converge


@given(
    st.floats(0.4, 6.0),
    st.floats(1.15, 3.0),
    st.floats(1.15, 3.0),
    st.floats(0.5, 50.0),
    st.sampled_from([-1.0, 1.0]),
    st.permutations([0, 1, 2]),
)
def test_a_value_made_to_settle_gives_its_order_and_its_limit(
    order: float, fine: float, coarse: float, limit: float, side: float, turned: list[int]
) -> None:
    """f = f0 + C h^p, whatever the ratios of the meshes and the order they are named in."""
    h = 0.1 * np.array([1.0, fine, fine * coarse])
    f = limit + side * 0.02 * limit * (h / h[2]) ** order
    found = converge(h[turned].tolist(), f[turned].tolist())
    assert found.order == pytest.approx(order, rel=1e-4)
    assert found.extrapolated == pytest.approx(limit, rel=1e-6)
    assert found.band is not None and abs(f[0] - limit) * 1.25 == pytest.approx(found.band, rel=1e-3)
    assert found.verdict == ("settles" if found.band <= 0.05 * limit else "not yet")


def test_the_published_example_of_three_grids() -> None:
    """Pressure recovery of an inlet on three grids: a worked example of a verification tutorial on the grid convergence index
    (from memory): order 1.786, extrapolated 0.97130, index of the finest 0.1031 %."""
    found = converge([4.0, 2.0, 1.0], [0.96178, 0.96854, 0.97050])
    assert found.order == pytest.approx(1.786170, abs=1e-5)
    assert found.extrapolated == pytest.approx(0.97130, abs=5e-6)
    assert found.band is not None and found.band / 0.97050 == pytest.approx(0.00103083, rel=1e-4)
    assert found.verdict == "settles"


def test_a_singular_corner_grows_with_its_exponent() -> None:
    """At the re-entrant right angle stress goes as r^(0.5445 - 1) (Williams 1952): on finer meshes it grows without end."""
    h = np.array([8.0, 4.0, 2.0, 1.0])
    found = converge(h.tolist(), (30.0 * h ** (0.5445 - 1.0)).tolist())
    assert (found.verdict, found.extrapolated, found.order) == ("grows", None, None)
    assert found.exponent == pytest.approx(0.4555, abs=1e-6)


def test_values_that_go_to_and_fro_are_not_extrapolated() -> None:
    found = converge([4.0, 2.0, 1.0], [10.0, 12.0, 11.0])
    assert (found.verdict, found.order, found.extrapolated, found.band) == ("not monotonic", None, None, None)
    assert converge([4.0, 2.0, 1.0], [10.0, 10.0, 11.0]).verdict == "not monotonic"


def test_two_meshes_are_too_few_and_a_missing_value_is_none() -> None:
    assert converge([2.0, 1.0], [3.0, 3.0]).verdict == "too few"
    assert converge([4.0, 2.0, 1.0], [3.0, float("nan"), 3.0]).verdict == "too few"


def test_what_does_not_change_has_settled() -> None:
    found = converge([4.0, 2.0, 1.0], [7.0, 7.0, 7.0])
    assert (found.verdict, found.extrapolated, found.band) == ("settles", 7.0, 0.0)


def test_a_value_that_still_moves_much_is_not_yet_there() -> None:
    found = converge([4.0, 2.0, 1.0], [100.0, 160.0, 200.0])
    assert found.verdict == "not yet" and found.extrapolated == pytest.approx(280.0)


def test_sizes_that_are_one_are_refused() -> None:
    with pytest.raises(ValueError, match="different"):
        converge([1.0, 1.0, 2.0], [1.0, 2.0, 3.0])
