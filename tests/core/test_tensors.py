"""Measures of textbook states (Timoshenko and Goodier, Theory of Elasticity, 1970) and against LAPACK."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from ironstone.core.field import tensors

UNIAXIAL = np.array([250.0, 0, 0, 0, 0, 0])
SHEAR = np.array([0, 0, 0, 80.0, 0, 0])
HYDROSTATIC = np.array([-40.0, -40, -40, 0, 0, 0])


def full(t: np.ndarray) -> np.ndarray:
    xx, yy, zz, xy, yz, xz = np.moveaxis(t, -1, 0)
    return np.stack([np.stack([xx, xy, xz], -1), np.stack([xy, yy, yz], -1), np.stack([xz, yz, zz], -1)], -2)


def test_uniaxial_tension() -> None:
    assert tensors.von_mises(UNIAXIAL) == pytest.approx(250.0)
    assert tensors.principals(UNIAXIAL) == pytest.approx([250.0, 0.0, 0.0], abs=1e-5)
    assert tensors.max_shear(UNIAXIAL) == pytest.approx(125.0)
    assert tensors.tresca(UNIAXIAL) == pytest.approx(250.0)


def test_pure_shear() -> None:
    assert tensors.von_mises(SHEAR) == pytest.approx(80.0 * np.sqrt(3.0))
    assert tensors.principals(SHEAR) == pytest.approx([80.0, 0.0, -80.0], abs=1e-6)
    assert tensors.max_shear(SHEAR) == pytest.approx(80.0)
    assert tensors.mean(SHEAR) == pytest.approx(0.0)


def test_hydrostatic_pressure_distorts_nothing() -> None:
    assert tensors.von_mises(HYDROSTATIC) == pytest.approx(0.0)
    assert tensors.pressure(HYDROSTATIC) == pytest.approx(40.0)
    assert tensors.principals(HYDROSTATIC) == pytest.approx([-40.0] * 3)


def test_plane_stress_of_mohrs_circle() -> None:
    """sx 80, sy -40, txy 25: principals 20 +- 65, largest shear 65 (by Mohr's circle)."""
    state = np.array([80.0, -40.0, 0.0, 25.0, 0.0, 0.0])
    assert tensors.principals(state) == pytest.approx([85.0, 0.0, -45.0])
    assert tensors.max_shear(state) == pytest.approx(65.0)


def test_signed_von_mises_takes_the_sign_of_the_larger_principal() -> None:
    assert tensors.signed_von_mises(-UNIAXIAL) == pytest.approx(-250.0)
    assert tensors.signed_von_mises(UNIAXIAL) == pytest.approx(250.0)
    assert tensors.signed_von_mises(SHEAR) > 0, "positive on a tie"


def test_triaxiality_and_lode_angle_of_the_three_corner_states() -> None:
    """Tension 1/3 and 0, shear 0 and 30, compression -1/3 and 60 degrees (from memory; standard in ductile fracture)."""
    for state, triaxiality, angle in ((UNIAXIAL, 1 / 3, 0.0), (SHEAR, 0.0, 30.0), (-UNIAXIAL, -1 / 3, 60.0)):
        assert tensors.triaxiality(state) == pytest.approx(triaxiality, abs=1e-9)
        assert tensors.lode_angle(state) == pytest.approx(angle, abs=1e-4)
    assert np.isnan(tensors.triaxiality(HYDROSTATIC)), "nothing distorts: no value, not zero"


def test_principal_of_largest_magnitude_keeps_its_sign() -> None:
    assert tensors.principal_of_largest_magnitude(np.array([30.0, 0, -70.0, 0, 0, 0])) == pytest.approx(-70.0)
    assert tensors.principal_of_largest_magnitude(SHEAR) == pytest.approx(80.0)


def test_equivalent_strain_of_incompressible_tension_is_the_axial_strain() -> None:
    assert tensors.equivalent_strain(np.array([0.02, -0.01, -0.01, 0, 0, 0])) == pytest.approx(0.02)


def test_principals_against_lapack_random_repeated_and_nearly_repeated() -> None:
    rng = np.random.default_rng(7)
    states = rng.normal(size=(60_000, 6)) * 10.0 ** rng.uniform(-6, 6, (60_000, 1))
    states[:10_000, 3:] = 0.0
    states[:5_000, 1] = states[:5_000, 0]
    states[5_000:10_000, 1] = states[5_000:10_000, 0] * (1 + 1e-9)
    expected = np.linalg.eigvalsh(full(states))[:, ::-1]
    norm = np.linalg.norm(full(states), axis=(1, 2))
    assert (np.abs(tensors.principals(states) - expected).max(1) / norm).max() < 1e-7


def test_a_missing_component_leaves_no_value() -> None:
    state = np.array([1.0, np.nan, 0, 0, 0, 0])
    assert np.isnan(tensors.von_mises(state))
    assert np.isnan(tensors.principals(state)).all()


finite = st.floats(-1e6, 1e6, allow_nan=False, width=32)


@settings(max_examples=60, deadline=None)
@given(arrays(np.float64, 6, elements=finite), st.floats(0, 6.3))
def test_measures_do_not_depend_on_the_axes(state: np.ndarray, angle: float) -> None:
    c, s = np.cos(angle), np.sin(angle)
    turn = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])
    m = turn @ full(state) @ turn.T
    turned = np.array([m[0, 0], m[1, 1], m[2, 2], m[0, 1], m[1, 2], m[0, 2]])
    size = max(1.0, float(np.abs(state).max()))
    for measure in (tensors.von_mises, tensors.max_shear, tensors.mean, tensors.principal_1):
        assert abs(float(measure(state)) - float(measure(turned))) < 1e-6 * size


def test_a_million_principals_against_lapack() -> None:
    """Random, repeated, nearly repeated and badly scaled tensors: within 1e-7 of the tensor's norm of LAPACK's eigenvalues."""
    random = np.random.default_rng(7)
    count = 250_000
    general = random.normal(size=(count, 6))
    turned = np.linalg.qr(random.normal(size=(1000, 3, 3)))[0]
    rows = turned[random.integers(0, 1000, 2 * count)]
    values = np.sort(random.normal(size=(2 * count, 3)), axis=1)
    values[:count, 1] = values[:count, 0]
    values[count:, 1] = values[count:, 0] * (1 + 10.0 ** random.uniform(-14, -4, count))
    rebuilt = tensors.components(np.einsum("nia,na,nja->nij", rows, values, rows))
    scaled = random.normal(size=(count, 6)) * 10.0 ** random.uniform(-200, 150, (count, 1))
    for batch in (general, rebuilt, scaled):
        exact = np.linalg.eigvalsh(tensors.matrices(batch))[:, ::-1]
        norm = np.abs(batch).max(1, keepdims=True)
        assert np.max(np.abs(tensors.principals(batch) - exact) / norm) < 1e-7


def test_principal_directions_are_eigenvectors() -> None:
    random = np.random.default_rng(8)
    batch = random.normal(size=(500, 6))
    rows, values = tensors.principal_directions(batch), tensors.principals(batch)
    assert rows @ rows.transpose(0, 2, 1) == pytest.approx(np.broadcast_to(np.eye(3), (500, 3, 3)), abs=1e-12)
    stretched = np.einsum("nij,nkj->nki", tensors.matrices(batch), rows)
    assert stretched == pytest.approx(values[:, :, None] * rows, abs=1e-6)
    missing = batch[:2].copy()
    missing[1, 3] = np.nan
    assert np.isnan(tensors.principal_directions(missing)[1]).all() and not np.isnan(tensors.principal_directions(missing)[0]).any()


def test_traction_on_a_plane_of_uniaxial_tension() -> None:
    """Tension 250 along x on a plane at 45 degrees: normal and shear both 125 (Mohr's circle)."""
    normal = np.array([1.0, 1.0, 0.0]) / np.sqrt(2)
    assert tensors.normal_on_plane(UNIAXIAL, normal) == pytest.approx(125.0)
    assert tensors.shear_on_plane(UNIAXIAL, normal) == pytest.approx(125.0)
    assert tensors.traction(UNIAXIAL, normal) == pytest.approx([250.0 / np.sqrt(2), 0, 0])


@settings(max_examples=50, deadline=None)
@given(arrays(np.float64, (3, 6), elements=st.floats(-1e3, 1e3)), arrays(np.float64, 3, elements=st.floats(-1, 1)))
def test_no_plane_carries_more_than_the_principals(state: np.ndarray, direction: np.ndarray) -> None:
    length = np.linalg.norm(direction)
    if length < 1e-3:
        return
    p = tensors.principals(state)
    across = tensors.normal_on_plane(state, direction / length)
    along = tensors.shear_on_plane(state, direction / length)
    slack = 1e-6 * (1 + np.abs(state).max())
    assert (across <= p[:, 0] + slack).all() and (across >= p[:, 2] - slack).all()
    assert (along <= (p[:, 0] - p[:, 2]) / 2 + slack).all()


def test_energy_of_tension_and_of_shear() -> None:
    """s^2 / 2E in tension, t^2 / 2G in shear."""
    young, poisson = np.array([210e3]), np.array([0.3])
    assert tensors.elastic_energy(UNIAXIAL[None], young, poisson) == pytest.approx([250.0**2 / (2 * 210e3)])
    assert tensors.elastic_energy(SHEAR[None], young, poisson) == pytest.approx([80.0**2 * 2 * 1.3 / (2 * 210e3)])


def test_the_elastic_equivalent_strain_is_von_mises_over_e() -> None:
    young, poisson = 210e3, np.array([0.3])
    strain = np.array([[250.0, -75.0, -75.0, 0, 0, 0]]) / young
    assert tensors.equivalent_elastic_strain(strain, poisson) == pytest.approx([250.0 / young])
