"""Gauge points: where they are read, strain along them, rosettes, lists as files, and agreement, by geometry and by hand."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import pyuff
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

import ironstone
from ironstone.cli.every import app
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import Memory
from ironstone.core.field.shell_axes import laid
from ironstone.core.geometry.nearest import nearest
from ironstone.core.mesh.interpolation import positions
from ironstone.core.reading.gauges import rosette, strain_along
from ironstone.core.reading.reading import Reading
from ironstone.formats.gauge_lists import parse_gauges
from ironstone.store import Review, intake
from tests.models import field, memory
from tests.oracles.test_levels import boxes
from tests.oracles.test_lines_made import round_tube

STRAIN = Reading("strain", "xx")


def strained(mesh, tensor) -> Memory:  # type: ignore[no-untyped-def]
    """A strain at the corners that is a function of the place: (n, 3) -> (n, 6)."""
    return memory(mesh, (field("strain", "strain", "corner"), tensor(mesh.points[mesh.connectivity])))


def test_inside_a_point_is_read_where_it_is_and_outside_at_the_nearest_place() -> None:
    mesh = boxes(4)
    points = np.array([[0.3, -0.2, 0.7], [2.0, 0.3, 0.1], [1.5, 1.5, 0.2], [-3, -4, 1.0]])
    found = nearest(mesh, points)
    np.testing.assert_allclose(found.points, np.clip(points, -1, 1), atol=1e-9)
    np.testing.assert_allclose(found.distance, np.linalg.norm(points - np.clip(points, -1, 1), axis=1), atol=1e-9)
    np.testing.assert_allclose(found.normal[1], [1, 0, 0], atol=1e-12)
    np.testing.assert_allclose(positions(mesh, found.place), found.points, atol=1e-9)


def test_beside_a_curved_side_the_nearest_place_is_on_the_curve_not_on_its_chord() -> None:
    mesh = round_tube(12)
    angle = np.array([0.05, 0.4, 1.1])
    found = nearest(mesh, np.column_stack([3.5 * np.cos(angle), 3.5 * np.sin(angle), [0.4, 0.5, 0.6]]))
    np.testing.assert_allclose(np.hypot(found.points[:, 0], found.points[:, 1]), 3.0, rtol=2e-3)
    np.testing.assert_allclose(found.distance, 0.5, atol=5e-3)


def test_of_a_part_alone_the_nearest_place_is_in_that_part() -> None:
    mesh = round_tube(12, parts=True)
    found = nearest(mesh, np.array([[2.6, 0.1, 0.5]]), frozenset({0}))
    assert mesh.part[found.place.element[0]] == 0 and found.distance[0] == pytest.approx(0.602, abs=0.01)


@given(st.lists(st.floats(-1e-3, 1e-3), min_size=6, max_size=6), st.floats(0, 2 * np.pi))
def test_a_gauge_in_an_even_strain_reads_d_e_d_whatever_its_length(e: list[float], angle: float) -> None:
    source = strained(boxes(2), lambda p: np.tile(e, (len(p), 1)))
    d = np.array([np.cos(angle), np.sin(angle), 0.0])
    at = nearest(source.mesh, np.array([[0.1, 0.2, 1.0], [0.1, 0.2, 1.0]]))
    found = strain_along(STRAIN, source, at, np.stack([3 * d, 3 * d]), np.array([0.0, 0.4]))
    tensor = np.array([[e[0], e[3], e[5]], [e[3], e[1], e[4]], [e[5], e[4], e[2]]])
    np.testing.assert_allclose(found, d @ tensor @ d, atol=1e-12)


def test_the_strain_of_a_gauge_is_the_mean_over_its_length() -> None:
    """xx = x^2 inside one element of side 2 cannot be held; linear in each of many elements it is |x| about 0: mean L/4."""
    source = strained(boxes(2), lambda p: np.column_stack([np.abs(p[:, 0]), *np.zeros((5, len(p)))]))
    at = nearest(source.mesh, np.array([[0.0, 0.2, 1.0]]))
    for length in (0.4, 1.0):
        found = strain_along(STRAIN, source, at, np.array([[1.0, 0, 0]]), np.array([length]))
        assert found[0] == pytest.approx(length / 4, rel=1e-9)


def test_a_direction_is_laid_into_the_surface_and_one_square_to_it_has_no_strain() -> None:
    found = laid(np.array([[1.0, 1.0, 5.0], [0, 0, 2.0]]), np.array([[0, 0, 1.0], [0, 0, 1.0]]))
    np.testing.assert_allclose(found[0], [np.sqrt(0.5), np.sqrt(0.5), 0])
    assert np.isnan(found[1]).all()


@given(
    st.floats(-1e-3, 1e-3),
    st.floats(-1e-3, 1e-3),
    st.floats(-80, 80),
    st.sampled_from([(0, 45, 90), (0, 60, 120), (10, 70, 95, 140)]),
)
def test_a_rosette_gives_back_the_principals_it_was_made_from(e1: float, e2: float, turned: float, arms: tuple[float, ...]) -> None:
    e1, e2 = max(e1, e2), min(e1, e2)
    if e1 - e2 < 1e-6:
        return
    normal = np.array([0.6, 0.0, 0.8])
    one = np.array([0.8, 0.0, -0.6])
    two = np.cross(normal, one)
    angle = np.radians(arms)
    directions = np.cos(angle)[:, None] * one + np.sin(angle)[:, None] * two
    away = angle - angle[0] - np.radians(turned)
    first, second, found = rosette(directions, normal, e1 * np.cos(away) ** 2 + e2 * np.sin(away) ** 2)
    assert (first, second) == (pytest.approx(e1, abs=1e-12), pytest.approx(e2, abs=1e-12))
    assert (found - turned + 90) % 180 - 90 == pytest.approx(0.0, abs=1e-4)


def test_two_directions_are_no_rosette() -> None:
    with pytest.raises(Impossible, match="no rosette"):
        rosette(np.array([[1.0, 0, 0], [0, 1.0, 0], [-1.0, 0, 0]]), np.array([0, 0, 1.0]), np.zeros(3))


def test_a_list_in_other_units_with_decimal_commas_is_understood() -> None:
    text = "Gauge;x [cm];y [cm];z [cm];dx;dy;dz;length [mm];measured [µm/m]\nA;1,5;0;-2;1;0;0;3;120\nB;2;1;0;;;;;\n"
    points, unit = parse_gauges(text.encode(), "g.csv", "mm")
    assert [p["x"] for p in points] == [15.0, 20.0] and points[0]["z"] == -20.0 and points[0]["length"] == 3.0
    assert points[1]["dx"] is None and points[1]["measured"] is None and [p["name"] for p in points] == ["A", "B"]
    assert unit is not None


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "is empty"),
        ("x,y\n1,2\n", "no column z"),
        ("x,y,z\n", "no point"),
        ("x,y,z\n1,2,here\n", "line 2, column 'z': 'here'"),
        ("x,y,z\n1,2,\n", "line 2, column 'z'"),
        ("x,y,z\n1,2,inf\n", "line 2"),
        ("x,y,z,measured\n1,2,3,4\n1,2\n", "line 3"),
    ],
)
def test_what_is_wrong_in_a_list_is_told_with_its_line(text: str, said: str) -> None:
    with pytest.raises(IronstoneError, match=said):
        parse_gauges(text.encode(), "g.csv", "mm")


@given(st.binary(max_size=300))
def test_whatever_a_file_holds_the_answer_is_a_list_or_a_reason(data: bytes) -> None:
    try:
        points, _ = parse_gauges(data, "g.csv", "mm")
    except IronstoneError:
        return
    assert points and all(np.isfinite([p["x"], p["y"], p["z"]]).all() for p in points)


def test_gauges_from_the_command_line_and_their_displacements_as_a_universal_file(bar_files: list[Path], tmp_path: Path) -> None:
    review, points, uff = tmp_path / "r.ironstone", tmp_path / "g.csv", tmp_path / "moved.uff"
    with Review.create(review) as made:
        intake(made, bar_files, "bar", "mm-N-s-t-MPa")
        mesh = made.result().mesh
    low, high = mesh.points.min(0), mesh.points.max(0)
    middle = (low + high) / 2
    far = [high[0] + 5.0, *middle[1:]]
    rows = [("A", *middle, 40.0), ("B", *far, 60.0)]
    points.write_text("name,x,y,z,measured\n,mm,mm,mm,MPa\n" + "\n".join(",".join(map(str, r)) for r in rows))
    words = ["gauges", str(review), str(points), "--field", "stress", "--measure", "xx"]
    ran = CliRunner().invoke(app, [*words, "--json", "--uff", str(uff), "--keep", "mine"])
    assert ran.exit_code == 0, ran.stderr
    answer = json.loads(ran.stdout)
    a, b = answer["points"]
    assert {"name", "xyz", "inside", "distance", "at", "part", "value", "measured", "deviation"} <= set(a)
    assert (a["inside"], b["inside"]) == (True, False) and b["distance"] == pytest.approx(5.0)
    assert (a["value"], b["value"]) == (pytest.approx(40.0), pytest.approx(60.0)) and b["deviation"] == pytest.approx(0.0)
    assert any("outside the body" in c for c in answer["caveats"]) and "left out" in answer["verdict"]
    left = json.loads(CliRunner().invoke(app, [*words, "--json", "--leave"]).stdout)
    assert left["points"][1]["value"] is None
    sets = pyuff.UFF(str(uff)).read_sets()
    assert [s["type"] for s in sets] == [15, 55, 55]
    np.testing.assert_allclose(sets[0]["x"], [middle[0], high[0]], rtol=1e-5)
    with ironstone.open(review) as opened:
        source = opened.result()
        moved = np.asarray(source.values("displacement", 1), dtype=float)
        expected = positions(mesh, nearest(mesh, np.array([middle])).place, moved)[0]
        np.testing.assert_allclose([sets[2][f"r{i}"][0] for i in (1, 2, 3)], expected, rtol=1e-4, atol=1e-9)
        every = ironstone.ask(opened, "gauges", named="mine", field="stress", measure="xx", every=True)
        assert [c.name for c in every.columns] == ["time", "A", "B"] and every.columns[1].values == pytest.approx([20.0, 40.0])


def test_what_was_measured_in_another_kind_of_unit_is_not_held_against_the_reading(bar_files: list[Path], tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, bar_files, "bar", "mm-N-s-t-MPa")
        words = {"result": result, "field": "stress", "measure": "xx"}
        points = [{"name": "A", "x": 0.5, "y": 0.5, "z": 0.5, "measured": 3.0}]
        answer = ironstone.ask(review, "gauges", points=points, measured_unit="ustrain", **words)
        assert answer.verdict == "" and any("not held against" in c for c in answer.caveats)
        with pytest.raises(IronstoneError, match="no strain"):
            ironstone.ask(review, "gauges", points=points, along=True, **words)
        with pytest.raises(IronstoneError, match="no point"):
            ironstone.ask(review, "gauges", points=[], **words)
