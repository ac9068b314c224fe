"""Recovered fields against fields known exactly, and the patch test of every cell."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.field.fields import Setup
from ironstone.core.field.recover import (
    GREEN_LAGRANGE,
    LOGARITHMIC,
    SMALL,
    elastic_stress,
    green_lagrange,
    internal_force,
    logarithmic,
    offered,
    small_strain,
    strain,
)
from ironstone.core.field.tensors import components, matrices
from ironstone.core.mesh.cells import Cell
from tests.models import FACES, SHAPES, SOLIDS, crooked, field, grid_of_quads, memory, mesh_of

SLOPE = np.array([[2e-3, -1e-3, 5e-4], [7e-4, -3e-3, 2e-4], [1e-4, 4e-4, 1e-3]])


@pytest.mark.parametrize("cell", SOLIDS, ids=lambda c: c.name)
def test_patch_a_linear_displacement_has_one_strain_everywhere(cell: Cell) -> None:
    """The patch test (Irons): every shape must hold a constant strain, also when it is skewed."""
    mesh = crooked(cell)
    source = memory(mesh, (field("u", "displacement", "node"), mesh.points @ SLOPE.T))
    assert strain(SMALL, source, 0) == pytest.approx(np.tile(components((SLOPE + SLOPE.T) / 2), (cell.size, 1)), abs=2e-8)


@pytest.mark.parametrize("cell", FACES, ids=lambda c: c.name)
def test_patch_in_the_plane(cell: Cell) -> None:
    mesh = crooked(cell)
    flat = SLOPE.copy()
    flat[2] = 0.0
    source = memory(mesh, (field("u", "displacement", "node"), mesh.points @ flat.T), setup=Setup(model="plane strain"))
    expected = components((flat + flat.T) / 2)
    assert strain(SMALL, source, 0)[:, [0, 1, 3]] == pytest.approx(np.tile(expected[[0, 1, 3]], (cell.size, 1)), abs=2e-9)
    assert strain(SMALL, source, 0)[:, 2] == pytest.approx(np.zeros(cell.size))


@pytest.mark.parametrize("cell", SOLIDS, ids=lambda c: c.name)
def test_patch_a_constant_stress_is_in_equilibrium(cell: Cell) -> None:
    """Nodal forces of a constant stress add up to nothing and turn nothing; their virial is stress times volume."""
    mesh = crooked(cell)
    stress = np.array([50.0, -20, 10, 8, -6, 4])
    source = memory(mesh, (field("s", "stress", "corner"), np.tile(stress, (cell.size, 1))))
    force = internal_force(source, 0, np.tile(stress, (cell.size, 1)))
    assert force.sum(0) == pytest.approx(np.zeros(3), abs=1e-4)
    assert np.cross(mesh.points, force).sum(0) == pytest.approx(np.zeros(3), abs=1e-4)
    assert np.einsum("ni,nj->ij", force, mesh.points) == pytest.approx(matrices(stress) * mesh.volumes[0], abs=2e-3)


def test_forces_inside_a_patch_cancel() -> None:
    mesh = grid_of_quads(2, 2)
    stress = np.tile([30.0, 10, 0, 5, 0, 0], (16, 1))
    force = internal_force(memory(mesh, (field("s", "stress", "corner"), stress)), 0, stress)
    assert force[4] == pytest.approx(np.zeros(3), abs=1e-12), "the node in the middle"
    right = mesh.points[:, 0] == 1.0
    assert force[right].sum(0) == pytest.approx([30.0, 5.0, 0.0]), "stress times the side's length"


def test_a_rigid_turn_strains_nothing_but_the_small_strain() -> None:
    angle = np.radians(30.0)
    turn = np.array([[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1.0]])
    gradient = turn - np.eye(3)
    assert green_lagrange(gradient) == pytest.approx(np.zeros(6), abs=1e-12)
    assert logarithmic(gradient) == pytest.approx(np.zeros(6), abs=1e-12)
    assert small_strain(gradient)[0] == pytest.approx(np.cos(angle) - 1.0)


def test_a_stretch_of_two_is_ln_two_and_three_halves() -> None:
    gradient = np.diag([1.0, -0.5, 0.0])
    assert logarithmic(gradient) == pytest.approx([np.log(2), np.log(0.5), 0, 0, 0, 0])
    assert green_lagrange(gradient) == pytest.approx([1.5, -0.375, 0, 0, 0, 0]), "(l^2 - 1)/2"
    assert small_strain(gradient) == pytest.approx([1.0, -0.5, 0, 0, 0, 0])


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 2**31))
def test_all_strains_agree_while_small(seed: int) -> None:
    gradient = 1e-6 * np.random.default_rng(seed).normal(size=(4, 3, 3))
    for large in (green_lagrange, logarithmic):
        assert large(gradient) == pytest.approx(small_strain(gradient), abs=2e-10)


def test_a_quadratic_displacement_has_a_linear_strain_in_a_quadratic_element() -> None:
    cell = next(c for c in SHAPES if c.name == "hex20")
    mesh = crooked(cell)
    x = mesh.points[:, 0]
    u = np.stack([1e-3 * x**2, 0 * x, 0 * x], 1)
    answer = strain(SMALL, memory(mesh, (field("u", "displacement", "node"), u)), 0)
    assert answer[:, 0] == pytest.approx(2e-3 * x, abs=1e-9)


def test_an_axisymmetric_model_has_a_hoop_strain_of_u_over_r() -> None:
    mesh = grid_of_quads(3, 1)
    u = np.stack([2e-3 * mesh.points[:, 0], 0 * mesh.points[:, 0], 0 * mesh.points[:, 0]], 1)
    source = memory(mesh, (field("u", "displacement", "node"), u), setup=Setup(model="axisymmetric"))
    assert strain(SMALL, source, 0)[:, 2] == pytest.approx(np.full(12, 2e-3)), "also on the axis, as its limit"


def test_the_third_strain_of_plane_stress_needs_the_material() -> None:
    mesh = grid_of_quads(1, 1)
    u = np.stack([1e-3 * mesh.points[:, 0], -3e-4 * mesh.points[:, 1], 0 * mesh.points[:, 0]], 1)
    pair = (field("u", "displacement", "node"), u)
    assert np.isnan(strain(SMALL, memory(mesh, pair), 0)[:, 2]).all(), "not known is no zero"
    stated = Setup(constants={"part 1": {"young": 210e3, "poisson": 0.3}}, model="plane stress")
    answer = strain(SMALL, memory(mesh, pair, setup=stated), 0)
    assert answer[:, 2] == pytest.approx(np.full(4, -0.3 / 0.7 * 7e-4))


def test_elastic_stress_of_uniaxial_tension() -> None:
    young, poisson, load = 210e3, 0.3, 100.0
    axial = load / young
    strains = np.array([[axial, -poisson * axial, -poisson * axial, 0, 0, 0]])
    assert elastic_stress(strains, np.array([young]), np.array([poisson]))[0] == pytest.approx([load, 0, 0, 0, 0, 0], abs=1e-9)


def test_internal_force_of_a_bar_is_stress_times_area() -> None:
    points = np.array([[0, 0, 0], [2.0, 0, 0]])
    mesh = mesh_of(points, [(3, [0, 1])])
    stress = np.tile([50.0, 0, 0, 0, 0, 0], (2, 1))
    force = internal_force(memory(mesh, (field("s", "stress", "corner"), stress)), 0, stress)
    assert force[:, 0] == pytest.approx([-50.0, 50.0]), "per unit of cross-section"


def test_what_is_offered_follows_from_what_is_there() -> None:
    u = field("u", "displacement", "node")
    assert [f.name for f in offered({"u": u}, False, "MPa", "N")] == [SMALL, GREEN_LAGRANGE, LOGARITHMIC]
    both = {"u": u, "s": field("s", "stress", "corner")}
    assert "internal force" in [f.name for f in offered(both, False, "MPa", "N")]
    assert "elastic stress from strain" in [f.name for f in offered(both, True, "MPa", "N")]
    assert all(f.recovered for f in offered(both, True, "MPa", "N"))
    assert offered({}, True, "MPa", "N") == []
