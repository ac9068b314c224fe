"""Axes from picked faces against cylinders and planes that are made from their definition, not from a mesh of the demo."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.errors import Impossible
from ironstone.core.geometry.fitted import circle, fit


def turned(seed: int) -> np.ndarray:
    rows, _ = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))
    return rows if np.linalg.det(rows) > 0 else -rows


def cylinder(radius: float, length: float, sweep: float, around: int, rows: np.ndarray, at: np.ndarray) -> tuple[np.ndarray, ...]:
    """Nodes and flat facets' normals of a mesh of a cylinder about the third row of ``rows``."""
    angles = np.linspace(0.0, sweep, around + 1)
    heights = np.linspace(0.0, length, 4)
    points = np.array([[radius * np.cos(a), radius * np.sin(a), h] for a in angles for h in heights])
    middles = (angles[1:] + angles[:-1]) / 2
    normals = np.array([[-np.cos(a), -np.sin(a), 0.0] for a in middles for _ in heights[1:]])
    return points @ rows + at, normals @ rows


@given(
    seed=st.integers(0, 999),
    radius=st.floats(0.01, 500.0),
    slender=st.floats(0.1, 10.0),
    sweep=st.floats(0.6, 2 * np.pi),
    around=st.integers(3, 40),
)
def test_a_cylinder_is_found_however_it_lies_and_however_little_of_it_there_is(
    seed: int, radius: float, slender: float, sweep: float, around: int
) -> None:
    rows, at = turned(seed), 100 * radius * np.random.default_rng(seed).normal(size=3)
    points, normals = cylinder(radius, slender * radius, sweep, around, rows, at)
    found = fit(points, normals)
    assert found.shape == "cylinder"
    assert found.radius == pytest.approx(radius, rel=1e-6)
    assert abs(found.direction @ rows[2]) == pytest.approx(1.0, abs=1e-9)
    away = np.linalg.norm(np.cross(found.origin - at, rows[2]))
    assert away < 1e-6 * radius
    assert found.off < 1e-6 * radius


def test_nodes_that_scatter_leave_the_axis_where_it_is_and_say_how_far_they_are_off() -> None:
    points, normals = cylinder(20.0, 30.0, 2 * np.pi, 48, np.eye(3), np.zeros(3))
    noisy = points + np.random.default_rng(3).normal(scale=0.02, size=points.shape)
    found = fit(noisy, normals)
    assert found.radius == pytest.approx(20.0, abs=0.01)
    assert 0.02 < found.off < 0.1


def test_a_cone_and_a_ball_are_no_cylinder() -> None:
    angles, heights = np.meshgrid(np.linspace(0, 2 * np.pi, 40), np.linspace(0.0, 10.0, 5))
    cone = np.stack([(20 + heights) * np.cos(angles), (20 + heights) * np.sin(angles), heights], -1).reshape(-1, 3)
    normals = np.stack([np.cos(angles), np.sin(angles), -np.ones_like(angles)], -1).reshape(-1, 3) / np.sqrt(2)
    with pytest.raises(Impossible, match="neither flat nor a cylinder"):
        fit(cone, normals)
    ball = np.random.default_rng(1).normal(size=(200, 3))
    ball /= np.linalg.norm(ball, axis=1, keepdims=True)
    with pytest.raises(Impossible, match="neither flat nor a cylinder"):
        fit(5 * ball, ball)


@given(seed=st.integers(0, 999), size=st.floats(0.001, 1e4))
def test_a_plane_has_the_normal_its_faces_have(seed: int, size: float) -> None:
    rows = turned(seed)
    flat = np.column_stack([size * np.random.default_rng(seed).uniform(size=(30, 2)), np.zeros(30)])
    found = fit(flat @ rows + 7 * size, np.tile(-rows[2], (5, 1)))
    assert found.shape == "plane"
    assert found.direction @ -rows[2] == pytest.approx(1.0, abs=1e-9)


def test_a_circle_goes_through_its_three_points() -> None:
    points = np.array([[3.0, 0.0, 2.0], [0.0, 3.0, 2.0], [-3.0, 0.0, 2.0]]) + [10.0, -4.0, 0.0]
    found = circle(points)
    assert found.origin == pytest.approx([10.0, -4.0, 2.0])
    assert (found.radius, abs(found.direction[2])) == (pytest.approx(3.0), pytest.approx(1.0))
    with pytest.raises(Impossible, match="one line"):
        circle(np.array([[0.0, 0, 0], [1, 1, 1], [2, 2, 2]]))


def test_two_terraces_that_face_one_way_are_no_plane() -> None:
    """The normals alone would say that they are flat."""
    x, y = np.meshgrid(np.linspace(0.0, 10.0, 5), np.linspace(0.0, 8.0, 5))
    lower = np.stack([x, y, 0 * x], -1).reshape(-1, 3)
    upper = lower + [20.0, 0.0, 3.0]
    with pytest.raises(Impossible, match="neither flat nor a cylinder"):
        fit(np.vstack([lower, upper]), np.tile([0.0, 0.0, 1.0], (32, 1)))
