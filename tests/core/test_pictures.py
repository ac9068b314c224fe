"""What a camera sees, and the colours of a key: each held against its definition, one pixel, one value at a time."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.picture.camera import Camera
from ironstone.core.picture.colours import CALM, IRON, Key, coloured, pieces, table
from ironstone.core.picture.raster import ASIDE, line_pixels, seen
from ironstone.core.picture.scene import Body, Lines, Scene, pictured

coordinate = st.floats(-5, 25, allow_nan=False)
SIZE = (19, 13)


def steep(screen: np.ndarray, triangle: np.ndarray) -> bool:
    """Whether a triangle is seen so nearly edge on that round-off decides."""
    a = np.vstack([screen[triangle, :2].T, np.ones(3)])
    return abs(np.linalg.det(a)) < 1e-3


def under(screen: np.ndarray, triangle: np.ndarray, x: float, y: float) -> tuple[float, np.ndarray] | None:
    """The depth of a triangle at a place of the screen, by solving for its weights; None beside it."""
    a = np.vstack([screen[triangle, :2].T, np.ones(3)])
    if abs(np.linalg.det(a)) < 1e-9:
        return None
    weights = np.linalg.solve(a, [x, y, 1.0])
    return (float(weights @ screen[triangle, 2]), weights) if (weights >= 0).all() else None


@given(st.lists(st.tuples(*[coordinate] * 9), min_size=1, max_size=6))
def test_the_nearest_triangle_lies_under_each_pixel(corners) -> None:
    screen = np.array(corners).reshape(-1, 3)
    triangles = np.arange(len(screen)).reshape(-1, 3)
    triangles = np.array([t for t in triangles if not steep(screen, t)], dtype=int).reshape(-1, 3)
    found = seen(screen, triangles, *SIZE)
    for row in range(SIZE[1]):
        for column in range(SIZE[0]):
            depths = [under(screen, t, column + 0.5 + ASIDE[0], row + 0.5 + ASIDE[1]) for t in triangles]
            there = [(d[0], i) for i, d in enumerate(depths) if d is not None]
            inner = [i for i, d in enumerate(depths) if d is not None and d[1].min() > 1e-6]
            if not there:
                continue
            nearest = min(d for d, _ in there)
            if any(abs(d - nearest) < 1e-6 for d, i in there if i in inner):
                assert abs(found.depth[row, column] - nearest) < 1e-6 * max(1.0, abs(nearest))
            if found.triangle[row, column] >= 0:
                own = triangles[found.triangle[row, column]]
                at = found.weights[row, column] @ screen[own, :2]
                assert np.allclose(at, [column + 0.5, row + 0.5], atol=1e-3)


def test_what_has_no_place_is_not_drawn_and_hides_nothing() -> None:
    behind, nowhere, edge_on = [[0, 0, 1], [40, 0, 1], [0, 40, 1]], [[0, 0, np.nan], [40, 0, 0], [0, 40, 0]], [[3, 3, 0], [6, 6, 0]]
    screen = np.array([*behind, *nowhere, *edge_on, [9, 9, 0.0]])
    found = seen(screen, np.arange(9).reshape(3, 3), *SIZE)
    assert (found.triangle == 0).all(), "one without a place and one seen edge on are under no pixel"


@pytest.mark.parametrize("at_a_time", [1, 7, 10_000])
def test_a_picture_is_the_same_however_much_is_looked_at_at_a_time(at_a_time: int, monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(3)
    screen = rng.uniform(-4, 24, (60, 3))
    whole = seen(screen, np.arange(60).reshape(-1, 3), *SIZE)
    monkeypatch.setattr("ironstone.core.picture.raster.AT_A_TIME", at_a_time)
    again = seen(screen, np.arange(60).reshape(-1, 3), *SIZE)
    assert (whole.triangle == again.triangle).all() and np.array_equal(whole.depth, again.depth)


def test_a_line_is_hidden_by_what_lies_before_it_and_drawn_on_the_face_it_lies_in() -> None:
    face = np.array([[0, 0, 5], [19, 0, 5], [0, 13, 5], [19, 13, 5.0]])
    found = seen(face, np.array([[0, 1, 2], [1, 3, 2]]), *SIZE)
    ends = np.array([[2.5, 2.5, 6], [16.5, 2.5, 6], [2.5, 8.5, 5], [16.5, 8.5, 5], [2.5, 5.5, 4], [16.5, 5.5, 4.0]])
    drawn = line_pixels(ends, np.array([[0, 1], [2, 3], [4, 5]]), found, 1e-6)
    assert not drawn[2].any() and drawn[8, 2:17].all() and drawn[5, 2:17].all()
    assert drawn.sum() == 30, "and nowhere else"


@pytest.mark.parametrize("perspective", [False, True])
def test_the_camera_fits_a_model_into_the_window_and_nearer_is_nearer(perspective: bool) -> None:
    box = np.array([[x, y, z] for x in (0, 10) for y in (0, 4) for z in (-1, 1)], dtype=float)
    camera = Camera.fitted(box, (400, 300), False, float(np.linalg.norm([10, 4, 2]) / 2), perspective)
    screen = camera.on_screen(box, (400, 300))
    assert (screen[:, 0] > 0).all() and (screen[:, 0] < 400).all() and (screen[:, 1] > 0).all() and (screen[:, 1] < 300).all()
    low, high = screen[:, :2].min(0), screen[:, :2].max(0)
    if not perspective:
        assert max((high - low) / [400, 300]) == pytest.approx(0.84) and (low + high) / 2 == pytest.approx([200, 150])
    away = np.linalg.norm(box - np.array(camera.eye), axis=1)
    front, back = int(away.argmin()), int(away.argmax())
    assert screen[front, 2] < screen[back, 2]
    assert screen[box[:, 2] == 1, 1].mean() < screen[box[:, 2] == -1, 1].mean(), "z is upwards"


def test_a_picture_with_perspective_is_that_of_a_pinhole() -> None:
    """By similar triangles, from the definition: what is twice as far from the eye is drawn at half the scale."""
    camera = Camera((0, -8, 0), (0, 0, 0), 10.0, (0, 0, 1), 2.0, True)
    screen = camera.on_screen(np.array([[1, 0, 0], [1, 8, 0], [1, -4, 0.0]]), (100, 100))
    assert screen[:, 0] - 50 == pytest.approx([10, 5, 20])
    behind = camera.on_screen(np.array([[0, -9, 0.0]]), (100, 100))
    assert np.isnan(behind).any(), "what lies behind the eye is nowhere"


def test_values_inside_a_triangle_with_perspective_are_those_of_the_model() -> None:
    """The value of a plane face is linear on the model, not on the screen: at the middle of the screen it is that of the place
    that is seen there."""
    camera = Camera((0, -8, 0), (0, 0, 0), 10.0, (0, 0, 1), 2.0, True)
    # A floor that runs away from the eye, its value the distance along it.
    points = np.array([[-9, -3, -1], [9, -3, -1], [-9, 9, -1], [9, 9, -1.0]])
    body = Body(points, np.array([[0, 1, 2], [1, 3, 2]]), points[:, 1])
    key = Key(-3.0, 9.0, 0, "batlow")
    image = pictured(Scene([body]), camera, key, (100, 100), np.zeros((100, 100, 3))).astype(int)
    for y in (0.0, 3.0, 6.0):
        row = 50 + 10 * 1 * 8 / (8 + y)
        seen_there = image[int(row), 50]
        along = (int(row) + 0.5 - 50) / 80
        real = 1 / along - 8
        expected = coloured(np.array([real]), key)[0].astype(float)
        ratio = seen_there / np.maximum(expected, 1)
        assert np.ptp(ratio) < 0.06, f"the colour of {real:.3g}, but for its shade"


def test_each_value_has_the_colour_of_its_band() -> None:
    key = Key(0.0, 90.0, 9, "batlow")
    found = coloured(np.array([-5.0, 0.0, 9.99, 10.01, 45.0, 89.9, 90.0, 200.0]), key)
    bands = [0, 0, 0, 1, 4, 8, 8, 8]
    assert found.tolist() == [table("batlow")[round(255 * b / 8)].tolist() for b in bands]
    smooth = coloured(np.array([0.0, 45.0, 90.0]), Key(0.0, 90.0, 0, "vik"))
    assert smooth.tolist() == [table("vik")[i].tolist() for i in (0, 128, 255)]


@given(st.floats(0.01, 5.0), st.integers(0, 20))
def test_what_fails_is_iron_and_what_does_not_is_calm_wherever_the_bands_lie(value: float, bands: int) -> None:
    red, _, blue = (int(c) for c in coloured(np.array([value]), Key(0.0, 3.0, bands, limit=1.0))[0])
    if value >= 1.0:
        assert red > blue and IRON[1][0] <= red <= IRON[0][0]
    else:
        assert CALM[1][0] <= red <= CALM[0][0]


@pytest.mark.parametrize("bands", [0, 1, 2, 9, 20])
@pytest.mark.parametrize("limit", [None, 1.0, 2.4, -1.0, 9.0])
@pytest.mark.parametrize("logarithm", [False, True])
def test_the_key_beside_a_picture_has_the_colours_of_the_picture(bands: int, limit: float | None, logarithm: bool) -> None:
    key = Key(0.5, 5.0, bands, logarithm=logarithm, limit=limit)
    stretches = pieces(key)
    assert stretches[0][0] == 0.0 and stretches[-1][1] == pytest.approx(1.0)
    assert all(a[1] == pytest.approx(b[0]) for a, b in zip(stretches, stretches[1:], strict=False))
    for first, last, colour in stretches:
        inner = [first + share * (last - first) for share in ((0.05, 0.5, 0.95) if bands else (0.5,))]
        found = coloured(np.array([key.value_at(s) for s in inner]), key)
        assert np.abs(found.astype(int) - np.array(colour)).max() <= (0 if bands else 3)


def test_a_logarithmic_key_goes_in_powers() -> None:
    key = Key(1.0, 1000.0, 3, logarithm=True)
    assert [key.value_at(s) for s in (0, 1 / 3, 2 / 3, 1)] == pytest.approx([1, 10, 100, 1000])
    assert key.along(np.array([10.0, 0.0])) == pytest.approx([1 / 3, -1.0])


def flat(values: list[float], **more) -> Body:
    """A square that fills the picture, seen from above."""
    points = np.array([[-1, -1, 0], [1, -1, 0], [-1, 1, 0], [1, 1, 0.0]])
    return Body(points, np.array([[0, 1, 2], [1, 3, 2]]), np.array(values, dtype=float), own=points, **more)


ABOVE = Camera((0, 0, 8), (0, 0, 0), 20.0, (0, 1, 0), 2.0)


def shot(scene: Scene, key: Key) -> np.ndarray:
    return pictured(scene, ABOVE, key, (60, 60), np.full((60, 60, 3), 255.0)).astype(int)


def test_no_value_is_stone_and_dotted_and_beyond_the_limits_is_hatched() -> None:
    key = Key(0.0, 1.0, 0, "batlow")
    plain, missing, beyond = (shot(Scene([flat([v] * 4)]), key)[12:48, 12:48].reshape(-1, 3) for v in (0.5, math.nan, 2.0))
    assert np.ptp(plain, axis=0).max() <= 2
    assert np.ptp(missing.mean(1)) > 20 and np.abs(missing - missing.mean(1, keepdims=True)).max() < 20, "grey, with a screen"
    assert 2 <= len(np.unique(beyond, axis=0)) <= 12 and np.ptp(beyond.mean(1)) > 60


def test_a_plane_takes_away_what_lies_before_it_through_the_middle_of_a_triangle() -> None:
    cut = flat([0.5] * 4, planes=((np.array([1.0, 0, 0]), 0.25),))
    image = shot(Scene([cut]), Key(0.0, 1.0))
    row = (image[30] != 255).any(1)
    assert row[10:35].all() and not row[35:].any(), "what is left ends at x = 0.25"
    whole = shot(Scene([flat([0.5] * 4)]), Key(0.0, 1.0))
    assert np.array_equal(image[:, :34], whole[:, :34])


def test_what_is_seen_through_lets_the_rest_shine() -> None:
    key = Key(0.0, 1.0, 0)
    behind = flat([1.0] * 4)
    before = Body(behind.points + [0, 0, 0.5], behind.triangles, np.zeros(4), 0.32)
    both, alone = shot(Scene([behind, before]), key)[30, 30], shot(Scene([behind]), key)[30, 30]
    over = shot(Scene([Body(before.points, before.triangles, before.values)]), key)[30, 30]
    assert both == pytest.approx(0.68 * alone + 0.32 * over, abs=1.5)
    lines = Scene([behind, before], [Lines(behind.points, np.array([[0, 3]]), opacity=1.0)])
    assert shot(lines, key)[30, 30].sum() < both.sum(), "a line under what is seen through is drawn"
