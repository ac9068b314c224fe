"""What is sent in single precision keeps what differs, however large the values are beside that."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.engine.reading.drawing import base_of


@given(st.floats(-1e9, 1e9), st.lists(st.floats(0, 1), min_size=2, max_size=20), st.floats(-5, 3))
def test_differences_survive_single_precision(size: float, shares: list[float], power: float) -> None:
    values = size + np.array([*shares, np.nan]) * 10**power
    base = base_of(values)
    sent = (values - base).astype(np.float32)
    spread = np.nanmax(values) - np.nanmin(values)
    back = sent.astype(np.float64) + base
    # A hundredth of a band of the spread, and never worse than double precision has them.
    assert np.nanmax(np.abs(back - values)) <= max(1e-5 * spread, 4 * np.spacing(abs(size) + 1e3))
    assert np.isnan(sent[-1])


def test_values_that_single_precision_holds_are_sent_as_they_are() -> None:
    assert base_of(np.array([0.0, 100.0, np.nan])) == 0.0
    assert base_of(np.array([-3.0, 5.0])) == 0.0
    assert base_of(np.full(3, np.nan)) == 0.0
    assert base_of(np.array([293.15, 293.1501])) == pytest.approx(293.15005)
