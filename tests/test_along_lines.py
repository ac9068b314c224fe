"""Profiles against closed forms: models solved here with scikit-fem, taken in, and read along lines as an analyst would.

Stress about a hole in a plate: Kirsch (1898), as in Timoshenko and Goodier, Theory of Elasticity (1970), art. 35. Thick cylinder:
Lame (1852). At a bond: equilibrium and compatibility in plane strain.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData, vtkUnstructuredGrid
from vtkmodules.vtkFiltersCore import vtkProbeFilter

from ironstone.core.reading.profile import line_of, profile
from ironstone.core.reading.reading import Reading
from ironstone.engine.reading.profiles import LineWords, against_formula, profile_answer
from tests.models import field, memory
from tests.oracles.test_levels import boxes
from tests.test_closed_forms import POISSON, YOUNG, cylinder, ring

HOOP, RADIAL = (Reading("stress", name, axes="bore") for name in ("yy", "xx"))


def kirsch(x: np.ndarray, y: np.ndarray, a: float, far: float) -> np.ndarray:
    """xx, yy, xy (3, ...) about a hole of radius a in a plate pulled along x."""
    r2, t = x**2 + y**2, np.arctan2(y, x)
    q, c2, s2 = a**2 / r2, np.cos(2 * t), np.sin(2 * t)
    radial = far / 2 * (1 - q + (1 - 4 * q + 3 * q**2) * c2)
    hoop = far / 2 * (1 + q - (1 + 3 * q**2) * c2)
    shear = -far / 2 * (1 + 2 * q - 3 * q**2) * s2
    c, s = np.cos(t), np.sin(t)
    return np.stack([
        radial * c**2 + hoop * s**2 - 2 * shear * s * c,
        radial * s**2 + hoop * c**2 + 2 * shear * s * c,
        (radial - hoop) * s * c + shear * (c**2 - s**2),
    ])  # fmt: skip


@pytest.fixture(scope="module")
def plate(tmp_path_factory: pytest.TempPathFactory):  # type: ignore[no-untyped-def]
    def pull(x: np.ndarray, n: np.ndarray) -> np.ndarray:
        xx, yy, xy = kirsch(x[0], x[1], 1.0, 10.0)
        return np.stack([xx * n[0] + xy * n[1], xy * n[0] + yy * n[1]])

    return ring(tmp_path_factory.mktemp("plate"), 1.0, 6.0, None, pull)


def test_stress_about_a_hole_along_both_lines_of_symmetry(plate) -> None:  # type: ignore[no-untyped-def]
    for path, measure, part in (("line:0,1,0:0,5,0", "xx", 0), ("line:1,0,0:5,0,0", "yy", 1), ("line:0,1,0:0,5,0", "yy", 1)):
        found = profile(Reading("stress", measure), plate, line_of(path, plate.mesh, 81))
        expected = kirsch(found.line.points[:, 0], found.line.points[:, 1], 1.0, 10.0)[part]
        np.testing.assert_allclose(found.values, expected, atol=0.25), measure
    reply = profile_answer(Reading("stress", "xx"), plate, LineWords(path="line:0,1,0:0,5,0"))
    assert reply["peaks"]["max"]["value"] == pytest.approx(30.0, rel=0.02) and reply["peaks"]["max"]["x"] == 0.0


def test_a_formula_beside_the_profile_is_of_its_own_distance(plate) -> None:  # type: ignore[no-untyped-def]
    """The same closed form as an analyst types it: x counts from the rim of the hole, whose radius is 1."""
    reply = profile_answer(Reading("stress", "xx"), plate, LineWords(path="line:0,1,0:0,5,0"))
    values, figures, _ = against_formula(reply, "10/2*(2 + 1/(1+x)**2 + 3/(1+x)**4)")
    np.testing.assert_allclose(values, kirsch(np.zeros(len(values)), 1 + np.array(reply["x"]), 1.0, 10.0)[0], rtol=1e-9)
    assert figures[0].label == "RMS deviation" and figures[0].value < 0.1


def test_half_way_round_the_hole_hoop_stress_follows_the_cosine(plate) -> None:  # type: ignore[no-untyped-def]
    found = profile(HOOP, plate, line_of("arc:0,0,0:0,0,1:1,0,0:90", plate.mesh, 61))
    angle = np.arctan2(found.line.points[:, 1], found.line.points[:, 0])
    assert found.line.inside.all()
    np.testing.assert_allclose(found.values, 10 * (1 - 2 * np.cos(2 * angle)), atol=0.5)


def test_a_thick_cylinder_along_a_radius(tmp_path: Path) -> None:
    source = cylinder(tmp_path, 10.0, 20.0, 50.0)
    b = 50.0 * 100 / 300 * 400
    for reading, sign in ((HOOP, 1), (RADIAL, -1)):
        found = profile(reading, source, line_of("radial:0,0,0:1,1,0:10:20", source.mesh, 41))
        radius = np.hypot(*found.line.points[:, :2].T)
        inside = found.line.inside
        np.testing.assert_allclose(found.values[inside], (50 / 3 + sign * b / radius**2)[inside], atol=0.8)


def test_at_a_bond_traction_goes_on_and_hoop_stress_jumps_by_what_theory_says(tmp_path: Path) -> None:
    """Radial stress is one, hoop strain is one: (1-nu^2)(h1/E1 - h2/E2) = nu (1+nu) s_r (1/E1 - 1/E2)."""
    source = ring(tmp_path, 10.0, 20.0, lambda x, n: -50.0 * n, None, bond=15.0)
    mesh = source.mesh
    assert len(mesh.part_names) == 2 or len(mesh.material_names) == 2
    line = line_of("line:10,0,0:20,0,0", mesh, 33)
    hoop, radial = (profile(r, source, line).values for r in (HOOP, RADIAL))
    at = np.flatnonzero(np.abs(line.points[:, 0] - 15.0) < 1e-6)
    first, last = at[0], at[-1]
    assert line.element[first] != line.element[last]
    assert radial[first] == pytest.approx(radial[last], abs=0.15)
    e1, e2, r = YOUNG, YOUNG / 2, (radial[first] + radial[last]) / 2
    jump = (1 - POISSON**2) * (hoop[first] / e1 - hoop[last] / e2)
    assert jump == pytest.approx(POISSON * (1 + POISSON) * r * (1 / e1 - 1 / e2), rel=0.05)
    assert hoop[first] / hoop[last] > 1.5


def test_a_continuous_field_is_what_vtk_finds_at_the_same_points() -> None:
    """Linear hexahedra, so that both interpolate alike; the lines go through faces, edges and a node."""
    mesh = boxes(5)
    values = np.random.default_rng(3).normal(size=len(mesh.points))
    source = memory(mesh, (field("heat", "temperature", "node"), values[:, None]))
    grid, points, cells = vtkUnstructuredGrid(), vtkPoints(), vtkCellArray()
    points.SetData(numpy_to_vtk(mesh.points, deep=True))
    cells.SetData(numpy_to_vtk(mesh.offsets, deep=True), numpy_to_vtk(mesh.connectivity, deep=True))
    grid.SetPoints(points)
    grid.SetCells(12, cells)
    array = numpy_to_vtk(values, deep=True)
    array.SetName("heat")
    grid.GetPointData().AddArray(array)
    for path in ("line:-1,-0.7,0.31:1,0.9,0.44", "line:-1,-1,-1:1,1,1", "line:-0.2,-0.9,0.1:-0.2,0.9,0.1"):
        found = profile(Reading("heat", "value"), source, line_of(path, mesh, 40))
        where, at = vtkPolyData(), vtkPoints()
        at.SetData(numpy_to_vtk(found.line.points, deep=True))
        where.SetPoints(at)
        probe = vtkProbeFilter()
        probe.SetInputData(where)
        probe.SetSourceData(grid)
        probe.Update()
        theirs = vtk_to_numpy(probe.GetOutput().GetPointData().GetArray("heat"))
        np.testing.assert_allclose(found.values, theirs, atol=1e-8)
