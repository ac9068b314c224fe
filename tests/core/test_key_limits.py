"""Limits of a colour key. Common practice, no source: what the key must show is said from the reader's side."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.reading.key_limits import key_limits

values = st.floats(-1e9, 1e9)
ranges = st.lists(st.tuples(values, values).map(lambda pair: (min(pair), max(pair))), min_size=1, max_size=4)


def test_one_tone_starts_at_zero_where_the_lowest_is_near_it() -> None:
    assert key_limits([(200, 480)]).plain == (200, 480)
    assert key_limits([(9, 480)]).plain == (0, 480)
    assert key_limits([(-5, 480)]).plain == (-5, 480)


def test_two_tones_part_at_zero_on_whichever_side_the_values_are() -> None:
    assert key_limits([(-80, 130)]).two_tones == (-130, 130)
    assert key_limits([(-300, 130)]).two_tones == (-300, 300)
    assert key_limits([(20, 130)]).two_tones == (-130, 130)
    assert key_limits([(-130, -20)]).two_tones == (-130, 130)
    assert key_limits([(0.1, 0.4)], limit=1).two_tones == (-1, 1)


def test_one_key_holds_two_pictures() -> None:
    assert key_limits([(20, 130), (-80, 100)]).two_tones == (-130, 130)


def test_a_logarithm_is_possible_above_zero_alone() -> None:
    assert key_limits([(9, 480)]).logarithmic == (9, 480)
    assert key_limits([(0, 480)]).logarithmic is None
    assert key_limits([(9, 480), (-1, 3)], limit=1).logarithmic is None


def test_what_fails_at_a_limit_shows_it_however_far_it_is_from_it() -> None:
    assert key_limits([(0.1, 0.4)], limit=1).plain == (0, 1)
    assert key_limits([(0.9, 3.5)], limit=1).plain == (0, 3.5)
    # A reserve below zero is not cut off.
    assert key_limits([(-0.5, 3.5)], limit=1).plain == (-0.5, 3.5)


@given(ranges, st.none() | st.floats(0.1, 10))
def test_every_value_lies_within_each_scale(given: list[tuple[float, float]], limit: float | None) -> None:
    found = key_limits(given, limit)
    for low, high in given:
        for scale in (found.plain, found.two_tones, found.logarithmic or (low, high)):
            assert scale[0] <= low <= high <= scale[1]


def test_there_is_no_key_of_nothing() -> None:
    with pytest.raises(ValueError, match="not enough values"):
        key_limits([])
