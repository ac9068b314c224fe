"""Shapes held against each other: the criterion's definition, crossed, reversed and repeated modes, by construction."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from ironstone.core.motion.shapes import mac, pairs, with_span

# What is smaller than 1e-292 counts as no motion.
numbers = arrays(np.float64, (3, 12), elements=st.floats(-1, 1).map(lambda v: v if abs(v) > 1e-280 else 0.0))


@given(numbers, st.floats(0.1, 1e6), st.floats(0, 2 * np.pi))
def test_mac_does_not_see_how_large_or_how_turned_a_shape_is(shapes: np.ndarray, size: float, phase: float) -> None:
    other = shapes * size * np.exp(1j * phase)
    plain, turned = mac(shapes, shapes), mac(shapes, other)
    assert np.allclose(plain, turned, equal_nan=True, atol=1e-9)
    known = np.isfinite(np.diag(plain))
    assert np.diag(turned)[known] == pytest.approx(1.0)


def test_mac_by_hand() -> None:
    assert mac(np.array([[1.0, 0.0]]), np.array([[1.0, 1.0], [0.0, 3.0]])) == pytest.approx(np.array([[0.5, 0.0]]))
    assert mac(np.array([[1.0, 1j]]), np.array([[1.0, 1j], [1.0, -1j]])) == pytest.approx(np.array([[1.0, 0.0]]))
    assert np.isnan(mac(np.zeros((1, 2)), np.ones((1, 2)))[0, 0]), "a shape without a motion is like nothing"


def normal(count: int, size: int = 30) -> np.ndarray:
    return np.linalg.qr(np.random.default_rng(3).normal(size=(size, count)))[0].T


def test_crossed_and_reversed_modes_are_paired_by_shape() -> None:
    shapes = normal(4)
    other = np.stack([shapes[1], -shapes[0], shapes[3], shapes[2]]) + 0.01 * normal(8)[4:]
    apart = np.arange(4)
    found = pairs(shapes, other, apart, apart)
    assert [(p.of, p.other, p.reversed, p.together) for p in found] == [
        (0, 1, True, False),
        (1, 0, False, False),
        (2, 3, False, False),
        (3, 2, False, False),
    ]
    assert all(p.mac > 0.99 for p in found)


@pytest.mark.parametrize("angle", [0.0, 30.0, 45.0, 80.0])
def test_a_repeated_frequency_is_one_plane_however_its_shapes_lie_in_it(angle: float) -> None:
    shapes = normal(3)
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    other = np.stack([c * shapes[0] + s * shapes[1], -s * shapes[0] + c * shapes[1], shapes[2]])
    groups = np.array([0, 0, 1])
    found = pairs(shapes, other, groups, groups)
    assert [p.mac for p in found] == pytest.approx([1.0] * 3)
    assert sorted(p.other for p in found) == [0, 1, 2]
    assert [p.together for p in found] == [0 < angle < 90] * 2 + [False]
    assert with_span(shapes[0], other[:2]) == pytest.approx(1.0)
    assert with_span(shapes[2], other[:2]) == pytest.approx(0.0)


def test_what_has_no_counterpart_is_left_alone() -> None:
    shapes = normal(5)
    found = pairs(shapes[:3], shapes[2:], np.arange(3), np.arange(3))
    assert [(p.of, p.other) for p in found] == [(2, 0)]
    assert pairs(shapes[:0], shapes, np.arange(0), np.arange(5)) == []
