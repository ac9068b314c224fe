"""What a record reads before its test begins: never more than what stands still, whatever the offset and the noise."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.curves.rest import SAMPLES, samples_at_rest


@given(
    rest=st.integers(1, 60),
    offset=st.floats(-1e6, 1e6),
    reach=st.floats(1e-3, 1e3),
    noise=st.floats(0.0, 0.001),
    seed=st.integers(0, 99),
)
def test_the_rest_is_counted_whatever_the_offset_and_a_little_noise(
    rest: int, offset: float, reach: float, noise: float, seed: int
) -> None:
    still = np.random.default_rng(seed).uniform(-noise, noise, rest) * reach
    moves = reach * np.linspace(0.01, 1.0, 200)
    assert samples_at_rest(offset + np.concatenate([still, moves])) == min(rest, SAMPLES)


def test_a_record_that_begins_at_once_has_one_sample_and_one_that_never_moves_has_twenty() -> None:
    assert samples_at_rest(np.sin(np.linspace(0, 20, 900))) == 1
    assert samples_at_rest(np.full(300, 4.0)) == SAMPLES
    assert samples_at_rest(np.full(7, 4.0)) == 7


def test_what_has_no_value_is_no_rest() -> None:
    assert samples_at_rest(np.array([])) == 0
    assert samples_at_rest(np.array([np.nan, 0.0, 1.0])) == 0
    assert samples_at_rest(np.array([0.0, 0.0, np.nan, 0.0, 5.0])) == 2
