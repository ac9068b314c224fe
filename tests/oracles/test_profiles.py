"""Readings along lines against closed forms and hand calculations: borders, sides, holes, arcs, ways, linearised stress."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Memory
from ironstone.core.field.tensors import von_mises
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.reading.linearised import linearise
from ironstone.core.reading.profile import line_of, line_words, profile
from ironstone.core.reading.reading import Reading
from tests.models import field, memory
from tests.oracles.test_levels import boxes
from tests.oracles.test_routes import tube


def graded(mesh: Mesh, function) -> Memory:  # type: ignore[no-untyped-def]
    """A stress at the corners whose xx is a function of the place, in each element by itself."""
    stress = np.zeros((len(mesh.connectivity), 6))
    stress[:, 0] = function(mesh.points[mesh.connectivity])
    return memory(mesh, (field("stress", "stress", "corner"), stress))


XX = Reading("stress", "xx")


def test_a_linear_field_is_followed_exactly_and_borders_are_there_twice() -> None:
    mesh = boxes(4)
    source = graded(mesh, lambda p: 3 * p[:, 0] - p[:, 1] + 0.5)
    line = line_of("line:-1,0.1,0.2:1,0.3,-0.4", mesh, 7)
    found = profile(XX, source, line)
    np.testing.assert_allclose(found.values, 3 * line.points[:, 0] - line.points[:, 1] + 0.5, atol=1e-9)
    assert line.distance[0] == 0.0 and line.distance[-1] == pytest.approx(np.sqrt(4 + 0.04 + 0.36))
    assert (np.diff(line.distance) >= 0).all()
    twice = np.flatnonzero((np.diff(line.distance) == 0) & (np.diff(line.element) != 0))
    np.testing.assert_allclose(line.points[twice, 0][np.abs(line.points[twice, 2]) > 1e-6], [-0.5, 0.0, 0.5], atol=1e-9)
    inside = line.inside
    np.testing.assert_allclose(positions(mesh, line.place), line.points[inside], atol=1e-9)


def test_where_nothing_is_averaged_a_step_between_elements_is_a_step() -> None:
    mesh = boxes(2)
    stress = np.zeros((len(mesh.connectivity), 6))
    own = np.where(mesh.middles(np.arange(8))[:, 0] < 0, 10.0, 30.0)
    stress[:, 0] = own[mesh.corner_element]
    source = memory(mesh, (field("stress", "stress", "corner"), stress))
    line = line_of("line:-1,0.3,0.3:1,0.3,0.3", mesh, 5)
    values = profile(XX, source, line).values
    at = np.flatnonzero(np.abs(line.points[:, 0]) < 1e-9)
    assert sorted({round(v, 9) for v in values[at].tolist()}) == [10.0, 30.0]
    np.testing.assert_allclose(values[line.points[:, 0] < -1e-6], 10.0)
    np.testing.assert_allclose(values[line.points[:, 0] > 1e-6], 30.0)


def test_outside_the_body_there_is_no_value_and_the_border_is_where_it_is() -> None:
    mesh = tube()
    source = graded(mesh, lambda p: np.hypot(p[:, 0], p[:, 1]))
    line = line_of("line:-3,0,1.5:3,0,1.5", mesh, 31)
    found = profile(XX, source, line)
    out = ~line.inside
    radius = np.abs(line.points[:, 0])
    assert np.isnan(found.values[out]).all() and not np.isnan(found.values[line.inside]).any()
    assert ((radius[line.inside] > 1 - 1e-6) & (radius[line.inside] < 2 + 1e-6)).all()
    edges = line.points[:-1, 0][(np.diff(line.inside.astype(int)) != 0)]
    np.testing.assert_allclose(edges, [-2, -1, 1, 2], atol=1e-9)
    assert found.figures()["peaks"]["max"]["value"] == pytest.approx(2.0)


def test_a_hole_between_two_samples_is_not_stepped_over() -> None:
    mesh = tube()
    line = line_of("line:-1.9,0,1.5:1.9,0,1.5", mesh, 2)
    assert (~line.inside).any() and line.inside.any()


def test_an_interface_gives_two_profiles_one_a_side() -> None:
    mesh = boxes(4)
    part = (mesh.middles(np.arange(64))[:, 0] > 0).astype(np.int32)
    two = Mesh(mesh.points, mesh.types, mesh.offsets, mesh.connectivity, mesh.node_ids, mesh.element_ids, part, ("steel", "bronze"))
    stress = np.zeros((len(two.connectivity), 6))
    stress[:, 0] = np.where(part[two.corner_element] == 0, 210.0, 105.0) * (1 + two.points[two.connectivity, 1])
    source = memory(two, (field("stress", "stress", "corner"), stress))
    text = "line:0,-1,0.3:0,1,0.3"
    steel, bronze = (profile(XX, source, line_of(text, two, 9, side)).values for side in ("steel", "bronze"))
    y = line_of(text, two, 9, "steel").points[:, 1]
    np.testing.assert_allclose(steel, 210.0 * (1 + y), atol=1e-9)
    np.testing.assert_allclose(bronze, 105.0 * (1 + y), atol=1e-9)
    with pytest.raises(Impossible, match="no part 'gold'"):
        line_of(text, two, 9, "gold")


def test_an_arc_has_its_length_and_keeps_its_radius() -> None:
    mesh = tube(around=48)
    source = graded(mesh, lambda p: p[:, 2])
    line = line_of("arc:0,0,1.5:0,0,1:1.5,0,0:90", mesh, 46)
    assert line.distance[-1] == pytest.approx(1.5 * np.pi / 2)
    np.testing.assert_allclose(np.hypot(line.points[:, 0], line.points[:, 1]), 1.5)
    np.testing.assert_allclose(line.points[-1], [0, 1.5, 1.5], atol=1e-9)
    np.testing.assert_allclose(profile(XX, source, line).values, 1.5, atol=1e-9)
    back = line_of("arc:0,0,1.5:0,0,1:1.5,0,0:-90", mesh, 5)
    np.testing.assert_allclose(back.points[-1], [0, -1.5, 1.5], atol=1e-9)


def test_a_sharp_edge_and_a_way_are_lines_along_their_nodes() -> None:
    mesh = tube()
    source = graded(mesh, lambda p: np.arctan2(p[:, 1], p[:, 0]))
    edge = line_of("edge:1", mesh, 48)
    assert edge.distance[-1] == pytest.approx(24 * 2 * np.sin(np.pi / 24))
    assert not np.isnan(profile(XX, source, edge).values).any()
    way = line_of("route:1:7", mesh, 13)
    np.testing.assert_allclose(way.points[[0, -1]], mesh.points[[0, 6]], atol=1e-12)
    nodes = line_of("nodes:1,2,3", mesh, 9)
    assert nodes.distance[-1] == pytest.approx(2 * 2 * np.sin(np.pi / 24))


def test_membrane_bending_and_peak_of_a_linear_plus_parabolic_stress_by_hand() -> None:
    """s = 40 + 15 (1 - 2x) + 12 (6x^2 - 6x + 1): the parabola has neither mean nor first moment, it is all peak, 12 at the ends."""
    mesh = boxes(16)
    profile_of = lambda p: 40 + 15 * (1 - 2 * (p[:, 0] + 1) / 2) + 12 * (6 * ((p[:, 0] + 1) / 2) ** 2 - 6 * (p[:, 0] + 1) / 2 + 1)  # noqa: E731
    source = graded(mesh, profile_of)
    parts = linearise(Reading("stress"), source, line_of("line:-1,0.03,0.03:1,0.03,0.03", mesh, 65))
    assert parts.thickness == pytest.approx(2.0)
    # The elements hold the parabola as 16 chords: the mean of a chord is above it by h^2 f'' / 12.
    off = 12 * 12 / 2 * (1 / 16) ** 2 / 6
    assert parts.membrane[0] == pytest.approx(40 + off, abs=1e-3)
    assert parts.bending[0] == pytest.approx(15.0, abs=1e-3)
    assert parts.peak[0][0] == pytest.approx(12 - off, abs=2e-3) and parts.peak[1][0] == pytest.approx(12 - off, abs=2e-3)
    np.testing.assert_allclose(parts.membrane[1:], 0.0, atol=1e-9)
    start, end = parts.membrane_and_bending
    assert (start[0], end[0]) == (pytest.approx(55 + off, abs=2e-3), pytest.approx(25 + off, abs=2e-3))
    assert parts.von_mises()["membrane"] == pytest.approx(float(von_mises(parts.membrane)))


def test_what_is_no_line_is_refused_with_the_grammar() -> None:
    mesh = boxes(2)
    for text in (
        "",
        "line:0,0,0",
        "line:0,0,0:0,0",
        "arc:0,0,0:0,0,1",
        "arc:0,0,0:1,1,1:2,2,2",
        "radial:0,0,0:0,0,0:1:2",
        "edge:x",
        "nodes:1",
        "path:3",
        "line:0,0,nan:1,1,1",
    ):
        with pytest.raises(Impossible):
            line_of(text, mesh)
    with pytest.raises(Impossible, match="no length"):
        line_of("line:0,0,0:0,0,0", mesh)
    with pytest.raises(Impossible, match="No part of this line"):
        line_of("line:5,5,5:6,6,6", mesh)
    ring = tube()
    with pytest.raises(Impossible, match="leaves the body and comes back"):
        linearise(Reading("stress"), graded(ring, lambda p: p[:, 0]), line_of("line:-3,0,1.5:3,0,1.5", ring))


def test_a_line_that_begins_before_the_surface_and_ends_behind_the_other_has_the_thickness_between() -> None:
    mesh = boxes(4)
    source = graded(mesh, lambda p: 5.0 + 3.0 * p[:, 0])
    parts = linearise(Reading("stress"), source, line_of("line:-1.7,0.1,0.1:1.2,0.1,0.1", mesh, 30))
    assert parts.thickness == pytest.approx(2.0)
    assert (parts.membrane[0], parts.bending[0]) == (pytest.approx(5.0), pytest.approx(-3.0))


def test_a_profile_from_the_command_line(bar_files: list[Path], tmp_path: Path) -> None:
    """Three cubes with 10, 20, 30 MPa along x: two borders, each with a value from both sides."""
    review = tmp_path / "a.ironstone"
    runner = CliRunner()
    assert runner.invoke(app, ["intake", str(review), *map(str, bar_files)]).exit_code == 0
    words = [
        "--field",
        "stress",
        "--measure",
        "xx",
        "--path",
        "line:0,0.5,0.5:3,0.5,0.5",
        "--samples",
        "4",
        "--step",
        "0",
        "--json",
    ]
    reply = json.loads(runner.invoke(app, ["profile", str(review), *words]).output)
    assert {"sentence", "unit", "x_unit", "x", "y", "xyz", "part"} <= set(reply)
    assert reply["unit"] == "MPa" and reply["x_unit"] == "mm"
    for border, pair in ((1.0, {10.0, 20.0}), (2.0, {20.0, 30.0})):
        here = {round(y, 9) for x, y in zip(reply["x"], reply["y"], strict=True) if abs(x - border) < 1e-6}
        assert here == pair
    assert reply["part"][0] == "part 1" and reply["part"][-1] == "part 2"
    asked = runner.invoke(
        app, ["ask", str(review), "profile", "field=stress", "measure=xx", "path=line:0,0.5,0.5:3,0.5,0.5", "--json"]
    )
    assert json.loads(asked.output)["more"]["peaks"]["max"]["value"] == pytest.approx(60.0)
    wrong = runner.invoke(app, ["profile", str(review), "--field", "stress", "--path", "line:1"])
    assert wrong.exit_code == 2 and "Write line:" in wrong.stderr


def test_a_line_is_told_in_words_and_no_two_alike() -> None:
    texts = {
        "line:0,0,0:1,2.5,0": "along the line from (0, 0, 0) to (1, 2.5, 0)",
        "nodes:1,2,3": "along nodes 1, 2, 3",
        "arc:1,0,0:0,0,1:2,0,0:90": "along the arc about (1, 0, 0) square to (0, 0, 1), from (3, 0, 0), 90° on",
        "edge:4": "along the sharp edge through node 4",
        "edge:4:9": "along the sharp edge through node 4 to node 9",
        "route:4:9": "along the shortest way over the surface from node 4 to node 9",
    }
    assert {t: line_words(t) for t in texts} == texts
