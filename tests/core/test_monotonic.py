"""Curves that go one way, against closed forms."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.curves.curves import Curve
from ironstone.core.curves.monotonic import monotonic, tensile
from ironstone.core.errors import IronstoneError


@given(st.floats(0.5, 50), st.floats(1, 500), st.floats(1.5, 12), st.sampled_from([1, -1]))
def test_an_elastic_plastic_curve_gives_back_its_yield(stiffness: float, force: float, ductility: float, way: int) -> None:
    at = force / stiffness
    x = np.linspace(0, ductility * at, 1201)
    found = monotonic(Curve(way * x, -way * np.minimum(stiffness * x, force), "mm", "kN"))
    assert found.stiffness == pytest.approx(stiffness, rel=1e-3)
    assert found.yield_force == pytest.approx(-way * force, rel=2e-3), "with its own sign"
    assert found.peak == pytest.approx(-way * force) and np.sign(found.yield_at) == way
    assert found.ductility == pytest.approx(ductility, rel=5e-3)
    assert found.energy == pytest.approx(force * (ductility - 0.5) * at, rel=2e-3)
    assert (found.energy_unit, found.stiffness_unit) == ("kN·mm", "kN/mm")


def test_equal_energy_yield_of_a_bilinear_curve() -> None:
    """K = 10, second slope 1 from F = 10 at u = 1 to u = 5: A = 5 + 48 = 53; Fy = K(u - sqrt(u^2 - 2A/K))."""
    x = np.linspace(0, 5, 5001)
    y = np.where(x < 1, 10 * x, 10 + (x - 1))
    found = monotonic(Curve(x, y, "mm", "kN"))
    assert found.yield_force == pytest.approx(10 * (5 - np.sqrt(25 - 2 * 53 / 10)), rel=1e-4)
    assert found.peak == pytest.approx(14) and found.peak_at == pytest.approx(5)


def test_proof_stress_of_a_ramberg_osgood_curve() -> None:
    """e = s/E + 0.002 (s/s02)^n: the 0.2 % proof stress is s02 by construction; E within what 40 % of the ultimate bends."""
    modulus, proof, n = 200_000.0, 300.0, 12
    stress = np.linspace(0, 380, 4000)
    strain = stress / modulus + 0.002 * (stress / proof) ** n
    found = tensile(Curve(strain, stress, "", "MPa"))
    assert found.modulus == pytest.approx(modulus, rel=1e-3)
    assert found.proof == pytest.approx(proof, rel=1e-3)
    assert found.ultimate == pytest.approx(380) and found.uniform_strain == pytest.approx(strain[-1])
    assert found.true_ultimate == pytest.approx(380 * (1 + strain[-1]))
    in_percent = tensile(Curve(100 * strain, stress, "%", "MPa"))
    assert in_percent.proof == pytest.approx(found.proof) and in_percent.modulus == pytest.approx(found.modulus)


def test_an_elastic_curve_has_no_proof_stress() -> None:
    strain = np.linspace(0, 0.001, 50)
    assert np.isnan(tensile(Curve(strain, 70_000 * strain, "", "MPa")).proof)


@pytest.mark.parametrize(
    ("x", "y", "words"),
    [([0, 1], [0, 1], "fewer than three"), ([0, 0, 0], [0, 1, 2], "does not move"), ([0, 1, 2], [0, 0, 0], "does not rise")],
)
def test_what_has_no_figures_is_told(x: list[float], y: list[float], words: str) -> None:
    with pytest.raises(IronstoneError, match=words):
        monotonic(Curve(np.array(x, float), np.array(y, float), "mm", "kN"))
