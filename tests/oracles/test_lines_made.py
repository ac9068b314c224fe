"""Lines reversed, lengthened, shortened, radial, through three points, over the surface and where a plane meets it, by geometry."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.errors import Impossible
from ironstone.core.geometry.geodesic import shortest_way
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.reading.profile import Ends, deformed, line_of, line_words, profile
from ironstone.core.reading.reading import Reading
from tests.models import mesh_of
from tests.oracles.test_levels import boxes
from tests.oracles.test_profiles import XX, graded
from tests.oracles.test_routes import tube


def near(mesh: Mesh, *place: float) -> int:
    return int(np.argmin(np.linalg.norm(mesh.points - np.array(place), axis=1)))


def round_tube(around: int, parts: bool = False) -> Mesh:
    """A quadratic ring, radii 1 to 2 to 3, its sides on the circles at their nodes; two parts where asked for."""
    angle = 2 * np.pi * np.arange(2 * around) / (2 * around)
    radii, heights = np.linspace(1, 3, 5), np.linspace(0, 1, 3)
    points = np.array([[r * np.cos(a), r * np.sin(a), z] for z in heights for r in radii for a in angle])

    def node(layer: int, ring: int, step: int) -> int:
        return (layer * 5 + ring) * 2 * around + step % (2 * around)

    cells, part = [], []
    for ring in (0, 2):
        for i in range(0, 2 * around, 2):
            low = [(0, 0), (2, 0), (2, 2), (0, 2)]
            nodes = [node(0, ring + r, i + a) for r, a in low] + [node(2, ring + r, i + a) for r, a in low]
            middle = [(1, 0), (2, 1), (1, 2), (0, 1)]
            nodes += [node(0, ring + r, i + a) for r, a in middle] + [node(2, ring + r, i + a) for r, a in middle]
            nodes += [node(1, ring + r, i + a) for r, a in low]
            cells.append((25, nodes))
            part.append(ring // 2)
    used = np.unique(np.concatenate([c[1] for c in cells]))
    number = np.full(len(points), -1)
    number[used] = np.arange(len(used))
    return mesh_of(points[used], [(t, number[n].tolist()) for t, n in cells], part=part if parts else None)


def test_a_reversed_line_has_the_same_values_the_other_way_round() -> None:
    source = graded(boxes(4), lambda p: p[:, 0] ** 2)
    there = profile(XX, source, line_of("line:-0.9,0.1,0.2:0.8,0.3,0.1", source.mesh, 21))
    back = profile(XX, source, line_of("line:-0.9,0.1,0.2:0.8,0.3,0.1", source.mesh, 21, ends=Ends(reverse=True)))
    np.testing.assert_allclose(back.values, there.values[::-1])
    np.testing.assert_allclose(back.line.distance, there.line.distance[-1] - there.line.distance[::-1], atol=1e-12)


def test_a_line_is_lengthened_straight_on_and_shortened_along_itself() -> None:
    mesh = boxes(4)
    line = line_of("line:-0.5,0,0.1:0.5,0,0.1", mesh, 11, ends=Ends(before=0.3, after=0.7))
    np.testing.assert_allclose([line.points[0], line.points[-1]], [[-0.8, 0, 0.1], [1.2, 0, 0.1]], atol=1e-9)
    assert line.distance[-1] == pytest.approx(2.0)
    assert (~line.inside).any() and line.points[~line.inside, 0].min() >= 1 - 1e-9, "outside it goes on, without a value"
    short = line_of("line:-0.5,0,0.1:0.5,0,0.1", mesh, 11, ends=Ends(before=-0.25, after=-0.1))
    np.testing.assert_allclose([short.points[0, 0], short.points[-1, 0]], [-0.25, 0.4], atol=1e-9)
    np.testing.assert_allclose(positions(mesh, short.place), short.points, atol=1e-9)
    with pytest.raises(Impossible, match="Nothing is left"):
        line_of("line:-0.5,0,0.1:0.5,0,0.1", mesh, 11, ends=Ends(before=-0.6, after=-0.5))


def test_reversed_then_lengthened_the_start_is_the_old_end() -> None:
    line = line_of("line:-0.5,0,0.1:0.5,0,0.1", boxes(4), 11, ends=Ends(reverse=True, before=0.3))
    np.testing.assert_allclose([line.points[0, 0], line.points[-1, 0]], [0.8, -0.5], atol=1e-9)


def test_an_arc_is_lengthened_along_its_circle_either_way_round() -> None:
    mesh = tube(48)
    for reverse in (False, True):
        line = line_of("arc:0,0,1:0,0,1:1.5,0,0:90", mesh, 31, ends=Ends(reverse, before=0.3, after=-0.2))
        np.testing.assert_allclose(np.hypot(line.points[:, 0], line.points[:, 1]), 1.5, atol=1e-9)
        assert line.distance[-1] == pytest.approx(1.5 * np.pi / 2 + 0.1)
        angle = np.arctan2(line.points[[0, -1], 1], line.points[[0, -1], 0])
        one, other = -0.3 / 1.5, np.pi / 2 - 0.2 / 1.5
        expected = (np.pi / 2 + 0.3 / 1.5, 0.2 / 1.5) if reverse else (one, other)
        np.testing.assert_allclose(angle, expected, atol=1e-9)


@given(st.lists(st.floats(0, 2 * np.pi), min_size=3, max_size=3, unique=True))
def test_an_arc_through_three_points_passes_them_in_order(angles: list[float]) -> None:
    a, b, c = angles
    gaps = [abs((x - y + np.pi) % (2 * np.pi) - np.pi) for x, y in ((a, b), (b, c), (a, c))]
    if min(gaps) < 0.05:
        return
    mesh = tube(24)
    at = [np.array([1.4 * np.cos(x), 1.4 * np.sin(x), 0.5]) for x in angles]
    line = line_of("arc:" + ":".join(",".join(f"{v:.17g}" for v in p) for p in at), mesh, 61)
    np.testing.assert_allclose(np.hypot(line.points[:, 0], line.points[:, 1]), 1.4, atol=1e-8)
    np.testing.assert_allclose([line.points[0], line.points[-1]], [at[0], at[2]], atol=1e-8)
    # The way from the first to the third that meets the second on it.
    way = (c - a) % (2 * np.pi) if (b - a) % (2 * np.pi) < (c - a) % (2 * np.pi) else (a - c) % (2 * np.pi)
    assert line.distance[-1] == pytest.approx(1.4 * way, rel=1e-6)


def test_a_radial_line_runs_between_two_radii() -> None:
    source = graded(tube(48), lambda p: np.hypot(p[:, 0], p[:, 1]))
    found = profile(XX, source, line_of("radial:0,0,1.5:2,0,0:1:2", source.mesh, 11))
    np.testing.assert_allclose(found.values, 1 + found.line.distance, atol=1e-9)


def test_where_a_plane_meets_the_surface_each_of_several_lines_is_chosen_by_a_point_near_it() -> None:
    mesh = round_tube(12)
    for radius in (1.0, 3.0):
        line = line_of(f"section:0,0,0.3:0,0,1:{radius},0.1,0.3", mesh, 51)
        np.testing.assert_allclose(np.hypot(line.points[:, 0], line.points[:, 1]), radius, rtol=2e-3)
        np.testing.assert_allclose(line.points[:, 2], 0.3, atol=1e-9)
        assert line.distance[-1] == pytest.approx(2 * np.pi * radius, rel=2e-3), "it closes"
        np.testing.assert_allclose(line.points[0], line.points[-1], atol=1e-6)
        np.testing.assert_allclose(positions(mesh, line.place), line.points, atol=1e-9)


def test_a_plane_through_a_layer_of_nodes_gives_its_line_once_and_one_beside_the_body_none() -> None:
    mesh = boxes(4)
    line = line_of("section:0,0,0:0,0,1", mesh, 51)
    assert line.distance[-1] == pytest.approx(8.0) and np.abs(line.points).max() == pytest.approx(1.0)
    with pytest.raises(Impossible, match="does not meet"):
        line_of("section:0,0,3:0,0,1", mesh, 51)


def test_of_a_part_alone_the_line_over_its_own_outside_is_taken() -> None:
    mesh = round_tube(12, parts=True)
    line = line_of("section:0,0,0.5:0,0,1:2,0,0.5", mesh, 51, "part 2")
    np.testing.assert_allclose(np.hypot(line.points[:, 0], line.points[:, 1]), 2.0, rtol=2e-3)
    assert set(mesh.part[line.element].tolist()) == {1}


def sphere(n: int) -> Mesh:
    """A sphere of flat-sided shells: a cube's six faces, blown up."""
    known: dict[tuple[float, ...], int] = {}
    points: list[np.ndarray] = []
    cells = []
    lines = np.tan(np.linspace(-np.pi / 4, np.pi / 4, n + 1))
    for axis in range(3):
        for side in (-1.0, 1.0):
            for i in range(n):
                for j in range(n):
                    corners = []
                    for a, b in ((i, j), (i + 1, j), (i + 1, j + 1), (i, j + 1)):
                        p = np.zeros(3)
                        p[axis], p[(axis + 1) % 3], p[(axis + 2) % 3] = side, lines[a], lines[b]
                        key = tuple(np.round(p, 9).tolist())
                        if key not in known:
                            known[key] = len(points)
                            points.append(p / np.linalg.norm(p))
                        corners.append(known[key])
                    cells.append((9, corners if side > 0 else corners[::-1]))
    return mesh_of(np.array(points), cells)


def test_a_way_over_a_sphere_tends_to_the_great_circle() -> None:
    off = []
    for n in (8, 16, 32):
        mesh = sphere(n)
        a, b = near(mesh, 0.577, 0.577, 0.577), near(mesh, -0.6, 0.8, 0.0)
        line = shortest_way(mesh, a, b, 101)
        off.append(float(line.distance[-1] / np.arccos(mesh.points[a] @ mesh.points[b])) - 1)
        axis = np.cross(mesh.points[a], mesh.points[b])
        axis /= np.linalg.norm(axis)
        assert np.abs(line.points @ axis).max() < 0.03, "it stays in the plane of the circle"
    assert abs(off[0]) < 5e-3 and abs(off[1]) < abs(off[0]) / 3 and abs(off[2]) < abs(off[1]) / 3


def test_a_way_over_a_cylinder_tends_to_the_helix() -> None:
    for around, limit in ((24, 4e-3), (96, 4e-4)):
        mesh = tube(around, 12)
        a, b = near(mesh, 2, 0, 0), near(mesh, 0, 2, 12)
        length = float(shortest_way(mesh, a, b, 101).distance[-1])
        assert length == pytest.approx(np.hypot(np.pi, 12), rel=limit)


def test_a_way_over_the_corner_of_a_box_is_straight_when_its_sides_are_laid_flat() -> None:
    mesh = boxes(8)
    line = shortest_way(mesh, near(mesh, -1, -1, 1), near(mesh, 1, 1, -1), 101)
    assert line.distance[-1] == pytest.approx(np.hypot(4, 2), rel=2e-3)
    assert line.distance[-1] >= np.hypot(4, 2) * (1 - 1e-6), "it goes over the edge, not through the body"
    np.testing.assert_allclose(np.abs(line.points).max(1), 1.0, atol=1e-6)
    flat = shortest_way(mesh, near(mesh, -1, -1, 1), near(mesh, 1, 0.5, 1), 101)
    assert flat.distance[-1] == pytest.approx(2.5, rel=1e-5), "where the way along edges has 3.5"


def test_a_way_has_a_value_from_both_sides_at_every_border() -> None:
    mesh = boxes(4)
    own = np.arange(len(mesh.types), dtype=float)
    source = graded(mesh, lambda p: own[mesh.corner_element])
    found = profile(XX, source, shortest_way(mesh, near(mesh, -1, -1, 1), near(mesh, 1, 0.5, 1), 41))
    np.testing.assert_allclose(found.values, found.line.element)
    steps = np.flatnonzero(np.diff(found.line.element))
    np.testing.assert_allclose(np.diff(found.line.distance)[steps], 0.0, atol=1e-6)


@pytest.mark.parametrize("part", ["part 1", "part 2"])
def test_a_circle_on_a_curved_border_is_read_from_either_side_without_gaps(part: str) -> None:
    """Parabolas through points of a circle lie a little beside it: inside it for one side, outside for the other."""
    mesh = round_tube(8, parts=True)
    values = np.where(mesh.part[mesh.corner_element] == 0, 10.0, 30.0)
    found = profile(XX, graded(mesh, lambda p: values), line_of("arc:0,0,0.5:0,0,1:2,0,0:360", mesh, 101, part))
    np.testing.assert_allclose(found.values, 10.0 if part == "part 1" else 30.0)


def test_a_line_that_crosses_the_outside_at_a_steep_angle_still_ends_there() -> None:
    mesh = boxes(4)
    line = line_of("line:0.2,0.1,0:0.9,0.1,1.3", mesh, 40)
    assert line.points[line.inside, 2].max() <= 1 + 1e-9
    assert line.points[~line.inside, 2].min() >= 1 - 1e-9


def test_the_deformed_length_is_that_of_the_moved_points() -> None:
    mesh = boxes(4)
    line = line_of("line:-1.5,0,0:1,0,0", mesh, 21)
    moved = mesh.points * [0.1, 0, 0] + [0.5, 0, 0]
    found = deformed(line, mesh, moved)
    inside = line.inside
    np.testing.assert_allclose(found[inside, 0], 0.5 + 0.1 * line.points[inside, 0], atol=1e-9)
    np.testing.assert_allclose(found[~inside, 0], 0.4, atol=1e-9), "outside as the end of the body"


def test_two_different_lines_never_have_the_same_words() -> None:
    texts = ["radial:0,0,1:1,0,0:1:2", "radial:0,0,1:1,0,0:1:3", "section:0,0,1:1,0,0", "section:0,0,1:1,0,0:1,1,1",
             "arc:1,0,0:0,1,0:-1,0,0", "arc:1,0,0:0,1,0:0,-1,0", "arc:0,0,1:1,0,0:1,0,0:40", "route:1:2", "edge:1:2"]  # fmt: skip
    said = [line_words(t) + e.words("mm") for t in texts for e in (Ends(), Ends(True), Ends(before=1), Ends(after=-1))]
    assert len(set(said)) == len(said)


def test_a_reading_that_needs_a_field_there_is_not_is_refused() -> None:
    source = graded(boxes(2), lambda p: p[:, 0])
    with pytest.raises(Impossible):
        profile(Reading("strain", "xx"), source, line_of("line:-1,0,0:1,0,0", source.mesh, 5))
