"""Frequency responses of one and two masses on springs, in closed form; levels and bands of the standards."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.motion.agreement import frac
from ironstone.core.motion.response import a_weighting, decibels, peaks, phase_degrees, third_octaves


def one_mass(f: np.ndarray, own: float, damping: float) -> np.ndarray:
    r = f / own
    return 1.0 / (1.0 - r**2 + 2j * damping * r)


@pytest.mark.parametrize("damping", [0.005, 0.02, 0.1])
@pytest.mark.parametrize("count", [12, 40, 400])
def test_the_peak_of_one_mass_is_where_theory_has_it_on_sweeps_of_any_fineness(damping: float, count: int) -> None:
    """f0 sqrt(1 - 2 zeta^2), height 1 / (2 zeta sqrt(1 - zeta^2)); half-power points solve a quadratic in f^2."""
    f = np.linspace(5.0, 16.0, count)
    found = peaks(f, np.abs(one_mass(f, 10.0, damping)))
    assert len(found) == 1
    (peak,) = found
    assert peak.frequency == pytest.approx(10 * np.sqrt(1 - 2 * damping**2), rel=1e-6)
    assert peak.amplitude == pytest.approx(1 / (2 * damping * np.sqrt(1 - damping**2)), rel=1e-6)
    half = np.sqrt(1 - 2 * damping**2 + np.array([-1, 1]) * 2 * damping * np.sqrt(1 - damping**2)) * 10
    assert peak.half == pytest.approx(tuple(half), rel=1e-6)
    assert peak.damping == pytest.approx((half[1] - half[0]) / (2 * peak.frequency), rel=1e-6)
    assert peak.damping == pytest.approx(damping, rel=0.02 if damping < 0.05 else 0.1), "half power is an approximation"
    assert peak.quality == pytest.approx(1 / (2 * peak.damping))


def test_two_masses_have_two_peaks_and_a_deep_valley_between() -> None:
    f = np.geomspace(2.0, 60.0, 300)
    both = one_mass(f, 10.0, 0.01) + 0.2 * one_mass(f, 25.0, 0.02)
    found = peaks(f, np.abs(both))
    assert [round(p.frequency, 1) for p in found] == [10.0, 25.0]
    assert [p.damping for p in found] == pytest.approx([0.01, 0.02], rel=0.05)


def test_a_low_peak_is_told_beside_one_three_hundred_times_as_high() -> None:
    f = np.geomspace(20.0, 600.0, 400)
    found = peaks(f, np.abs(one_mass(f, 53.5, 0.01) + 0.02 * one_mass(f, 433.0, 0.01)))
    assert [round(p.frequency) for p in found] == [53, 433] or [round(p.frequency) for p in found] == [54, 433]
    assert found[0].amplitude > 40 * found[1].amplitude
    assert [p.damping for p in found] == pytest.approx([0.01, 0.01], rel=0.05)


def test_a_peak_whose_sides_are_not_there_has_no_damping() -> None:
    f = np.linspace(9.9, 10.2, 60)
    (cut,) = peaks(f, np.abs(one_mass(f, 10.0, 0.02)))
    assert cut.damping is None and cut.quality is None
    near = np.abs(one_mass(g := np.linspace(5, 15, 500), 10.0, 0.03) + one_mass(g, 10.55, 0.03))
    assert all(p.damping is None for p in peaks(g, near)), "two peaks that lie into each other"
    assert peaks(g, np.linspace(1, 2, 500)) == []
    assert peaks(g[:3], np.array([1.0, 2.0, 1.0])) == [], "three steps are no sweep"


def test_phase_goes_through_a_quarter_turn_at_the_own_frequency_and_unwraps() -> None:
    f = np.linspace(1.0, 30.0, 2901)
    both = one_mass(f, 10.0, 0.02) * one_mass(f, 20.0, 0.02)
    wrapped, smooth = phase_degrees(both), phase_degrees(both, unwrapped=True)
    assert wrapped.min() >= -180.0 and wrapped.max() <= 180.0
    assert smooth[0] == pytest.approx(0.0, abs=2.0)
    assert smooth[-1] == pytest.approx(-360.0, abs=5.0)
    assert phase_degrees(one_mass(np.array([10.0]), 10.0, 0.02))[0] == pytest.approx(-90.0)
    assert np.isnan(phase_degrees(np.zeros(2, dtype=complex))).all()


def test_levels_are_those_of_the_standards() -> None:
    """94 dB of a pascal root mean square; A-weighting of IEC 61672 at octave centres (from memory); third octaves of IEC 61260."""
    assert decibels(np.array([1.0, 0.0]), 20e-6)[0] == pytest.approx(93.98, abs=0.01)
    assert np.isnan(decibels(np.array([0.0]), 20e-6)[0])
    centres = 1000.0 * 10.0 ** (np.arange(-15, 14, 3) / 10.0)
    table = [-39.4, -26.2, -16.1, -8.6, -3.2, 0.0, 1.2, 1.0, -1.1, -6.6]
    assert a_weighting(centres) == pytest.approx(table, abs=0.11)
    assert a_weighting(np.array([100.0, 10_000.0])) == pytest.approx([-19.1, -2.5], abs=0.06)
    at, level = third_octaves(np.array([980.0, 1000.0, 1100.0, 2000.0]), np.array([60.0, 60.0, 60.0, np.nan]))
    assert at == pytest.approx([1000.0])
    assert level == pytest.approx([60 + 10 * np.log10(3)])
    at, _ = third_octaves(np.array([1121.0, 1123.0]), np.array([0.0, 0.0]))
    assert at == pytest.approx([1000.0, 1000 * 10**0.1]), "the edge lies at 1000 x 10^(1/20) = 1122.02 Hz"


def test_frac_is_one_of_a_response_scaled_and_turned_and_less_of_another() -> None:
    f = np.linspace(1, 30, 200)
    a, b = one_mass(f, 10.0, 0.02), one_mass(f, 11.0, 0.02)
    assert frac(a, 3j * a) == pytest.approx(1.0)
    assert frac(a, b) < 0.4
    assert np.isnan(frac(a, 0 * a))
