"""What is drawn of a cut: its area, where it lies, the borders of elements on it, and a closed body of a value band."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.field.fields import Setup
from ironstone.core.geometry.cut_faces import CutFaces, faces_of, faces_of_band
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.reading.cuts import band, band_pieces, iso_pieces, iso_surface, section, section_pieces
from ironstone.core.reading.reading import Reading
from tests.models import field, memory
from tests.oracles.test_levels import boxes
from tests.oracles.test_lines_made import round_tube
from tests.oracles.test_profiles import XX, graded

Z = np.array([0.0, 0, 1])


def none(mesh: Mesh) -> np.ndarray:
    return np.zeros(len(mesh.types), dtype=bool)


def triangles(mesh: Mesh, faces: CutFaces) -> np.ndarray:
    return positions(mesh, faces.triangles).reshape(-1, 3, 3)


def area(corners: np.ndarray) -> float:
    return float(np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2)


def length(mesh: Mesh, faces: CutFaces) -> float:
    ends = positions(mesh, faces.borders).reshape(-1, 2, 3)
    return float(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum())


def test_a_section_is_drawn_on_its_plane_with_its_whole_area_and_the_elements_borders() -> None:
    mesh = boxes(4)
    faces = faces_of(section_pieces(mesh, np.array([0, 0, 0.1]), Z), none(mesh))
    drawn = triangles(mesh, faces)
    np.testing.assert_allclose(drawn[..., 2], 0.1, atol=1e-12)
    assert area(drawn) == pytest.approx(4.0)
    # Sixteen squares of side 1/2; each draws its own border.
    assert length(mesh, faces) == pytest.approx(16 * 4 * 0.5)


def test_of_hidden_parts_nothing_is_drawn() -> None:
    mesh = round_tube(12, parts=True)
    whole = area(triangles(mesh, faces_of(section_pieces(mesh, np.array([0, 0, 0.4]), Z), none(mesh))))
    inner = area(triangles(mesh, faces_of(section_pieces(mesh, np.array([0, 0, 0.4]), Z), mesh.part == 1)))
    assert (whole, inner) == (pytest.approx(8 * np.pi, rel=3e-3), pytest.approx(3 * np.pi, rel=3e-3))


def test_an_iso_surface_is_drawn_where_the_value_is_and_knows_the_plane_it_lies_in() -> None:
    mesh = boxes(4)
    slope = np.array([0.3, -0.2, 1.0])
    source = graded(mesh, lambda p: p @ slope)
    drawn = triangles(mesh, faces_of(iso_pieces(XX, source, 0.25), none(mesh)))
    np.testing.assert_allclose(drawn @ slope, 0.25, atol=1e-12)
    found = iso_surface(XX, source, 0.25)
    assert area(drawn) == pytest.approx(found.size)
    np.testing.assert_allclose(found.normal, slope / np.linalg.norm(slope), atol=1e-9)
    assert found.away < 1e-9
    np.testing.assert_allclose(section(XX, source, np.zeros(3), -2 * Z).normal, -Z)


def test_a_surface_that_is_no_plane_says_how_far_it_is_from_one() -> None:
    """A circle's arc of radius r and half angle a about x: sagitta tells the order of the RMS distance."""
    source = graded(boxes(24), lambda p: p[:, 0] ** 2 + (p[:, 2] + 3.0) ** 2)
    found = iso_surface(XX, source, 9.0)
    np.testing.assert_allclose(np.abs(found.normal), [0, 0, 1], atol=1e-4)
    x = np.linspace(-1, 1, 2001)
    z = np.sqrt(9 - x**2)
    weight = 3 / z
    mean = (z * weight).sum() / weight.sum()
    assert found.away == pytest.approx(np.sqrt(((z - mean) ** 2 * weight).sum() / weight.sum()), rel=0.02)


def test_a_value_band_is_drawn_as_a_closed_body() -> None:
    """Of a closed surface the areas as vectors add up to nothing, and x . n / 3 over it is the volume."""
    mesh = boxes(6)
    source = graded(mesh, lambda p: p @ np.array([1.0, 0.4, 0.2]))
    found, _ = band_pieces(XX, source, -0.5, 0.55)
    drawn = triangles(mesh, faces_of_band(mesh, found, none(mesh)))
    # Outside and inside are told by the field: on the cut faces it is one of both values, elsewhere a side of the cube.
    normal = np.cross(drawn[:, 1] - drawn[:, 0], drawn[:, 2] - drawn[:, 0]) / 2
    value = drawn.mean(1) @ np.array([1.0, 0.4, 0.2])
    middle = drawn.mean(1)
    onto = np.abs(middle).max(1) > 1 - 1e-9
    cut = (np.abs(value + 0.5) < 1e-9) | (np.abs(value - 0.55) < 1e-9)
    outward = np.where(
        onto[:, None],
        np.sign(middle) * (np.abs(middle) > 1 - 1e-9),
        np.where(value[:, None] > 0, 1.0, -1.0) * np.array([1.0, 0.4, 0.2]),
    )
    normal *= np.sign((normal * outward).sum(1))[:, None]
    shown = onto | cut
    np.testing.assert_allclose(normal[shown].sum(0), 0.0, atol=1e-9)
    assert (middle[shown] * normal[shown]).sum() / 3 == pytest.approx(band(XX, source, -0.5, 0.55).size, rel=1e-9)


def test_the_share_by_mass_needs_a_density_everywhere() -> None:
    mesh = round_tube(12, parts=True)
    stress = np.zeros((len(mesh.connectivity), 6))
    stress[:, 0] = mesh.points[mesh.connectivity][:, 2]
    for constants, expected in (
        ({"part 1": {"density": 2.0}, "part 2": {"density": 8.0}}, 0.25),
        ({"part 1": {"density": 2.0}}, None),
    ):
        source = memory(mesh, (field("stress", "stress", "corner"), stress), setup=Setup(constants=constants))
        found = band(Reading("stress", "xx"), source, 0.25, 0.5)
        assert found.share == pytest.approx(0.25, rel=1e-4)
        assert found.mass_share is None if expected is None else found.mass_share == pytest.approx(expected, rel=1e-4)


def test_the_share_by_mass_weighs_the_parts() -> None:
    mesh = round_tube(12, parts=True)
    stress = np.zeros((len(mesh.connectivity), 6))
    stress[:, 0] = np.where(mesh.part[mesh.corner_element] == 0, 1.0, 5.0)
    constants = {"part 1": {"density": 2.0}, "part 2": {"density": 8.0}}
    source = memory(mesh, (field("stress", "stress", "corner"), stress), setup=Setup(constants=constants))
    found = band(Reading("stress", "xx"), source, 0.0, 2.0)
    assert found.share == pytest.approx(3 / 8, rel=1e-3) and found.mass_share == pytest.approx(6 / 46, rel=1e-3)
