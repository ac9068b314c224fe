"""Measures of textbook states (Timoshenko and Goodier, Theory of Elasticity, 1970) and against LAPACK."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from ironstone.core import tensors

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
