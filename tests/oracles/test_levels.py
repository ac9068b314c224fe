"""Iso-surfaces and value bands against their definition: planes, spheres, sampled volumes, and VTK's own filters."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from vtkmodules.vtkFiltersCore import vtkContourFilter, vtkMassProperties, vtkTriangleFilter

from bench.cuts import grid_with
from ironstone.core.geometry.levels import Simplices, at_value, clipped, in_band
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples
from tests.models import SOLIDS, crooked, mesh_of


def boxes(n: int, size: float = 1.0) -> Mesh:
    """A cube of n x n x n hexahedra about the origin."""
    axis = np.linspace(-size, size, n + 1)
    points = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    number = np.arange((n + 1) ** 3).reshape(n + 1, n + 1, n + 1)
    a = number[:-1, :-1, :-1].ravel()
    i, j, k = (n + 1) ** 2, n + 1, 1
    cells = np.stack([a, a + i, a + i + j, a + j, a + k, a + i + k, a + i + j + k, a + j + k], axis=1)
    return mesh_of(points, [(12, list(c)) for c in cells])


def of_place(mesh: Mesh, function):  # type: ignore[no-untyped-def]
    """A value that is a function of the place, as asked for inside elements, and at their corners."""

    def answer(element: Int, xi: Float) -> Float:
        return function(positions(mesh, AtSamples(element, xi)))

    return answer, function(mesh.points[mesh.connectivity])


def area(mesh: Mesh, pieces) -> float:  # type: ignore[no-untyped-def]
    total = 0.0
    for p in pieces:
        corner = positions(mesh, AtSamples(np.repeat(p.block.elements[p.owner], 3), p.xi.reshape(-1, 3))).reshape(-1, 3, 3)
        total += float(np.linalg.norm(np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), axis=1).sum() / 2)
    return total


def volume(mesh: Mesh, band) -> float:  # type: ignore[no-untyped-def]
    return float(mesh.volumes[band.whole].sum() + sum(p.sizes(mesh).sum() for p in band.pieces))


@pytest.mark.parametrize("level", [0.13, 0.25, -0.5])
def test_where_a_linear_value_is_reached_is_a_plane(level: float) -> None:
    mesh = boxes(4)
    answer, corner = of_place(mesh, lambda p: p[:, 0])
    pieces = list(at_value(mesh, corner, answer, level))
    assert area(mesh, pieces) == pytest.approx(4.0)
    for p in pieces:
        at = positions(mesh, AtSamples(np.repeat(p.block.elements[p.owner], 3), p.xi.reshape(-1, 3)))
        np.testing.assert_allclose(at[:, 0], level, atol=1e-12)


def test_a_sphere_and_what_is_inside_it_come_nearer_with_every_finer_mesh() -> None:
    off_area, off_volume = [], []
    for n in (8, 16):
        mesh = boxes(n)
        answer, corner = of_place(mesh, lambda p: np.linalg.norm(p, axis=1))
        off_area.append(abs(area(mesh, at_value(mesh, corner, answer, 0.8)) / (4 * np.pi * 0.64) - 1))
        off_volume.append(abs(volume(mesh, in_band(mesh, corner, answer, 0.4, 0.8)) / (4 / 3 * np.pi * (0.512 - 0.064)) - 1))
    assert off_area[1] < 0.35 * off_area[0] and off_area[1] < 0.01
    assert off_volume[1] < 0.4 * off_volume[0] and off_volume[1] < 0.02


def test_area_and_enclosed_volume_are_those_vtk_finds() -> None:
    mesh = boxes(10)
    value = np.linalg.norm(mesh.points * [1.0, 1.3, 0.8], axis=1)
    grid = grid_with(mesh, value)
    contour = vtkContourFilter()
    contour.SetInputData(grid)
    contour.SetValue(0, 0.7)
    triangles = vtkTriangleFilter()
    triangles.SetInputConnection(contour.GetOutputPort())
    peer = vtkMassProperties()
    peer.SetInputConnection(triangles.GetOutputPort())
    peer.Update()

    def answer(element: Int, xi: Float) -> Float:
        return positions(mesh, AtSamples(element, xi), np.repeat(value[:, None], 3, axis=1))[:, 0]

    corner = value[mesh.connectivity]
    assert area(mesh, at_value(mesh, corner, answer, 0.7)) == pytest.approx(peer.GetSurfaceArea(), rel=5e-3)
    inside = volume(mesh, in_band(mesh, corner, answer, -1.0, 0.7))
    assert inside == pytest.approx(peer.GetVolume(), rel=1e-2)


@pytest.mark.parametrize("cell", SOLIDS, ids=lambda c: c.name)
@pytest.mark.parametrize("level", [0.2, 0.5, 0.9])
def test_below_and_above_a_value_are_together_the_whole_element(cell, level: float) -> None:  # type: ignore[no-untyped-def]
    mesh = crooked(cell)
    answer, corner = of_place(mesh, lambda p: p @ [0.7, -0.4, 0.9])
    low, high = float(corner.min()), float(corner.max())
    at = low + level * (high - low)
    below, above = (volume(mesh, in_band(mesh, corner, answer, *b)) for b in ((low - 1, at), (at, high + 1)))
    assert below > 0.0 and above > 0.0
    assert below + above == pytest.approx(mesh.volumes.sum(), rel=5e-3)


def test_the_volume_of_a_band_is_that_of_points_thrown_at_random() -> None:
    mesh = boxes(6)
    answer, corner = of_place(mesh, lambda p: p @ [1.0, 0.5, -0.2])
    thrown = np.random.default_rng(5).uniform(-1, 1, (200_000, 3)) @ [1.0, 0.5, -0.2]
    share = ((thrown >= -0.3) & (thrown <= 0.45)).mean()
    assert volume(mesh, in_band(mesh, corner, answer, -0.3, 0.45)) / 8.0 == pytest.approx(share, abs=0.004)


def test_an_element_keeps_its_own_value_and_one_without_is_left_out() -> None:
    mesh = boxes(2)
    own = np.arange(8.0)
    own[3] = np.nan
    corner = own[mesh.corner_element]
    assert not list(at_value(mesh, corner, lambda e, xi: own[e], 2.5)), "nothing between two elements is blended"
    band = in_band(mesh, corner, lambda e, xi: own[e], 1.0, 4.0)
    assert (band.whole.tolist(), band.missing.tolist(), band.pieces) == ([1, 2, 4], [3], ())


@given(st.lists(st.floats(-1, 1), min_size=4, max_size=4), st.floats(-1.2, 1.2))
def test_a_clipped_simplex_and_the_rest_of_it_fill_it(values: list[float], level: float) -> None:
    corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], dtype=float)
    mesh = mesh_of(corners, [(10, [0, 1, 2, 3])])
    whole = Simplices(mesh.blocks[0], np.zeros(1, dtype=np.int64), corners[None], np.array([values]))
    parts = [clipped(whole, level, above=side).sizes(mesh).sum() for side in (True, False)]
    if min(abs(v - level) for v in values) > 1e-9:
        assert sum(parts) == pytest.approx(1 / 6, abs=1e-9)
        thrown = np.random.default_rng(1).dirichlet(np.ones(4), 4000) @ values
        assert 6 * parts[0] == pytest.approx((thrown > level).mean(), abs=0.05)
