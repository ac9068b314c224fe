"""Sections, iso-surfaces and bands as they are asked for, against closed forms and by hand."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

import ironstone
from ironstone.cli.every import app
from ironstone.core.errors import Impossible
from ironstone.core.reading.cuts import band, iso_surface, section
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from tests.models import field, grid_of_quads, memory, mesh_of
from tests.oracles.test_levels import boxes
from tests.oracles.test_profiles import XX, graded
from tests.writing import write_vtu


def test_a_section_has_its_area_middle_and_the_values_on_it() -> None:
    source = graded(boxes(4), lambda p: p[:, 1] + 10)
    found = section(XX, source, np.array([0.1, 0, 0]), np.array([2.0, 0, 0]))
    assert found.size == pytest.approx(4.0)
    np.testing.assert_allclose(found.centroid, [0.1, 0, 0], atol=1e-12)
    assert (found.low, found.high) == (pytest.approx(9.0), pytest.approx(11.0))
    np.testing.assert_allclose(found.box, [[0.1, -1, -1], [0.1, 1, 1]], atol=1e-12)


def test_a_section_on_the_outside_of_the_body_and_one_beside_it() -> None:
    source = graded(boxes(4), lambda p: p[:, 1])
    assert section(XX, source, np.array([1.0, 0, 0]), np.array([1.0, 0, 0])).size == pytest.approx(4.0)
    with pytest.raises(Impossible, match="does not cut"):
        section(XX, source, np.array([3.0, 0, 0]), np.array([1.0, 0, 0]))
    with pytest.raises(Impossible, match="points nowhere"):
        section(XX, source, np.zeros(3), np.zeros(3))


def test_where_bending_stress_changes_sign_is_the_neutral_plane() -> None:
    found = iso_surface(XX, graded(boxes(4), lambda p: -7.0 * (p[:, 2] - 0.2)), 0.0)
    assert found.size == pytest.approx(4.0)
    np.testing.assert_allclose(found.centroid, [0, 0, 0.2], atol=1e-9)
    np.testing.assert_allclose(found.box[:, 2], 0.2, atol=1e-9)


def test_a_measure_that_is_not_linear_is_taken_inside_the_elements() -> None:
    """Von Mises of a stress xx that runs from -1 to 1 in one element is 0 in its middle, though 1 at both ends."""
    mesh = boxes(1)
    stress = np.zeros((len(mesh.connectivity), 6))
    stress[:, 0] = mesh.points[mesh.connectivity, 0]
    source = memory(mesh, (field("stress", "stress", "corner"), stress))
    found = band(Reading("stress", "von-mises"), source, 0.0, 0.5)
    assert found.size == pytest.approx(4.0) and found.share == pytest.approx(0.5)
    assert iso_surface(Reading("stress", "von-mises"), source, 0.25).size == pytest.approx(8.0), "on both sides of the middle"


def test_a_band_of_a_known_field_has_its_volume_share_and_middle() -> None:
    found = band(XX, graded(boxes(5), lambda p: p[:, 0] + 2 * p[:, 1]), -0.6, 0.9)
    thrown = np.random.default_rng(4).uniform(-1, 1, (400_000, 3))
    value = thrown[:, 0] + 2 * thrown[:, 1]
    inside = (value >= -0.6) & (value <= 0.9)
    assert found.share == pytest.approx(inside.mean(), abs=3e-3)
    np.testing.assert_allclose(found.centroid, thrown[inside].mean(0), atol=5e-3)
    assert (found.low, found.high) == (pytest.approx(-0.6), pytest.approx(0.9))


def test_what_is_nowhere_is_told_with_where_the_reading_runs() -> None:
    source = graded(boxes(2), lambda p: p[:, 0])
    with pytest.raises(Impossible) as caught:
        iso_surface(XX, source, 4.0)
    assert "-1 to 1" in caught.value.hint
    with pytest.raises(Impossible, match="nowhere"):
        band(XX, source, 3.0, 4.0)
    with pytest.raises(Impossible, match="lower to a higher"):
        band(XX, source, 1.0, 0.0)


def test_cuts_from_the_command_line(bar_files: list[Path], tmp_path: Path) -> None:
    """Three cubes of 1 mm with 10, 20, 30 MPa along x."""
    review = tmp_path / "a.ironstone"
    runner = CliRunner()
    assert runner.invoke(app, ["intake", str(review), *map(str, bar_files)]).exit_code == 0
    words = ["cut", str(review), "--field", "stress", "--measure", "xx", "--step", "0", "--json"]
    reply = json.loads(runner.invoke(app, [*words, "--plane", "0.5,0,0:1,0,0"]).output)
    assert reply["area"] == pytest.approx(1.0) and reply["force"] == pytest.approx([10.0, 0.0, 0.0])
    assert (reply["min"], reply["max"]) == (pytest.approx(10.0), pytest.approx(10.0))
    reply = json.loads(runner.invoke(app, [*words, "--band", "15:35"]).output)
    assert (reply["volume"], reply["share"]) == (pytest.approx(2.0), pytest.approx(2 / 3))
    assert reply["centroid"] == pytest.approx([2.0, 0.5, 0.5])
    asked = runner.invoke(app, ["ask", str(review), "cut", "field=stress", "measure=xx", "band=15:35", "step=0", "--json"])
    assert json.loads(asked.output)["figures"][0] == {"label": "volume", "value": pytest.approx(2.0), "unit": "mm³", "how": ""}
    for wrong, said in ((["--iso", "25"], "25 nowhere"), ([], "one of them"), (["--band", "1"], "not a number")):
        refused = runner.invoke(app, [*words, *wrong])
        assert refused.exit_code == 2 and said in refused.stderr


def test_of_shells_a_section_is_a_length_and_a_band_an_area_and_bars_beside_solids_do_not_count() -> None:
    sheet = graded(grid_of_quads(4, 2, width=2.0, height=1.0), lambda p: p[:, 0])
    found = section(XX, sheet, np.array([0.7, 0, 0]), np.array([1.0, 0, 0]))
    assert (found.dimension, found.size) == (2, pytest.approx(1.0))
    assert iso_surface(XX, sheet, 0.3).size == pytest.approx(1.0)
    assert band(XX, sheet, 0.25, 0.75).size == pytest.approx(0.5) and band(XX, sheet, 0.25, 0.75).share == pytest.approx(0.25)
    cube = boxes(2)
    points = np.vstack([cube.points, [[-5, 0.1, 0.1], [5, 0.1, 0.1]]])
    rows = [(12, list(c)) for c in cube.blocks[0].nodes] + [(3, [len(points) - 2, len(points) - 1])]
    mixed = graded(mesh_of(points, rows), lambda p: p[:, 0])
    assert section(XX, mixed, np.array([0.3, 0, 0]), np.array([1.0, 0, 0])).size == pytest.approx(4.0)
    assert band(XX, mixed, -0.5, 0.5).size == pytest.approx(4.0)


def test_what_is_cut_out_of_a_sheet_is_told_with_its_thickness_and_in_units_that_fit(tmp_path: Path) -> None:
    """A sheet of 2 x 1 mm, 3 mm thick, under 10 MPa: 3 mm2 and 30 N across, an area of a band."""
    points = np.array([[x, y, 0.0] for x in (0, 1, 2) for y in (0, 1)])
    cells = [(9, [0, 2, 3, 1]), (9, [2, 4, 5, 3])]
    stress = np.zeros((2, 6))
    stress[:, 0] = 10.0
    file = write_vtu(tmp_path / "sheet.vtu", points, cells, None, {"stress": stress, "thickness": np.array([3.0, 3.0])})
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [file])
        across = ironstone.ask(review, "cut", field="stress", measure="xx", through="0.5,0,0:1,0,0")
        assert (across.figures[0].label, across.figures[0].value, across.figures[0].unit) == ("area", pytest.approx(3.0), "mm²")
        assert across.more["force"] == pytest.approx([30.0, 0, 0])
        inside = ironstone.ask(review, "cut", field="stress", measure="xx", band="5:15")
        assert (inside.figures[0].label, inside.figures[0].value, inside.figures[0].unit) == ("area", pytest.approx(2.0), "mm²")
