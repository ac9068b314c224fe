"""Loops with closed forms: from common mechanics, computed in the tests; Chopra, Dynamics of Structures, section 3.9."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.curves.curves import Curve, envelope, loops, retained
from ironstone.core.curves.reversals import positive_peaks, reversals
from ironstone.core.errors import IronstoneError
from ironstone.engine.curves.curve_answers import loops_answer


def elastic_plastic(driver: np.ndarray, stiffness: float = 1.0, strength: float = 1.0) -> np.ndarray:
    force = [0.0]
    for change in np.diff(driver):
        force.append(float(np.clip(force[-1] + stiffness * change, -strength, strength)))
    return np.array(force)


def ramps(*corners: float, pieces: int = 200) -> np.ndarray:
    legs = [np.linspace(a, b, pieces + 1)[1:] for a, b in zip(corners[:-1], corners[1:], strict=True)]
    return np.concatenate([[corners[0]], *legs])


@pytest.mark.parametrize("ductility", [1.5, 2.0, 4.0, 8.0])
def test_energy_of_an_elastic_perfectly_plastic_loop(ductility: float) -> None:
    """A full cycle at ductility mu takes 4 F_y (mu - 1) u_y; its damping is 2/pi (1 - 1/mu)."""
    u = ramps(0, ductility, -ductility, ductility, -ductility, ductility)
    found = loops(Curve(u, elastic_plastic(u), "mm", "kN"))
    assert len(found.cycles) == 2
    for cycle in found.cycles:
        assert cycle.closed
        assert cycle.energy == pytest.approx(4.0 * (ductility - 1.0), rel=2e-3)
        assert cycle.damping_ratio == pytest.approx(2.0 / np.pi * (1.0 - 1.0 / ductility), rel=2e-3)
        assert cycle.secant_stiffness == pytest.approx(1.0 / ductility)
    assert found.energy_unit == "kN·mm"
    assert found.stiffness_unit == "kN/mm"


def bilinear(driver: np.ndarray, slope: float) -> np.ndarray:
    """Stiffness 1, yield 1, then a share of the stiffness: a spring beside an elastic-perfectly-plastic element."""
    return slope * driver + (1.0 - slope) * elastic_plastic(driver)


@pytest.mark.parametrize("ductility", [1.5, 3.0, 6.0])
@pytest.mark.parametrize("slope", [0.02, 0.1, 0.3])
def test_energy_and_damping_of_a_bilinear_loop(ductility: float, slope: float) -> None:
    """E_D = 4 F_y u_y (mu - 1)(1 - a); damping 2 (mu - 1)(1 - a) / (pi mu (1 + a mu - a)); secant stiffness (1 + a (mu - 1)) / mu
    of the first (Chopra, Dynamics of Structures, equivalent linear systems; from memory)."""
    u = ramps(0, ductility, -ductility, ductility, -ductility, ductility)
    found = loops(Curve(u, bilinear(u, slope)))
    assert len(found.cycles) == 2
    for cycle in found.cycles:
        assert cycle.energy == pytest.approx(4 * (ductility - 1) * (1 - slope), rel=3e-3)
        damping = 2 * (ductility - 1) * (1 - slope) / (np.pi * ductility * (1 + slope * ductility - slope))
        assert cycle.damping_ratio == pytest.approx(damping, rel=3e-3)
        assert cycle.secant_stiffness == pytest.approx((1 + slope * (ductility - 1)) / ductility, rel=1e-6)


def test_linear_spring_with_viscous_damper() -> None:
    """F = k u + c v takes pi c w u0^2 a cycle, and its equivalent damping is c w / (2 k)."""
    k, c, w, u0 = 3.0, 0.2, 5.0, 2.0
    t = np.linspace(0, 3 * 2 * np.pi / w, 3001)
    u, v = u0 * np.sin(w * t), u0 * w * np.cos(w * t)
    found = loops(Curve(u, k * u + c * v))
    assert len(found.cycles) == 2
    for cycle in found.cycles:
        assert cycle.energy == pytest.approx(np.pi * c * w * u0**2, rel=1e-4)
        assert cycle.damping_ratio == pytest.approx(c * w / (2 * k), rel=1e-3)
        assert cycle.secant_stiffness == pytest.approx(k, rel=1e-5)
    assert found.energy_total == pytest.approx(2 * np.pi * c * w * u0**2, rel=1e-4)
    assert found.energy_unit is None, "a curve without units has an energy without one"


def test_a_linear_spring_takes_no_energy() -> None:
    u = ramps(0, 1, -1, 1, -1, 1)
    for cycle in loops(Curve(u, 7.0 * u)).cycles:
        assert cycle.energy == pytest.approx(0.0, abs=1e-12)
        assert cycle.damping_ratio == pytest.approx(0.0, abs=1e-12)


def test_a_cycle_that_does_not_come_back_is_open_and_joined_by_a_chord() -> None:
    u = ramps(0, 1, -1.5, 2, -2, 0)
    found = loops(Curve(u, 2.0 * u))
    assert [c.closed for c in found.cycles] == [False]
    assert found.cycles[0].energy == pytest.approx(0.0, abs=1e-12), "elastic: the chord closes it exactly"


def test_force_of_a_cycle_is_taken_where_the_driver_turns_not_where_it_is_largest() -> None:
    u = ramps(0, 2, -2, 2, -1)
    f = np.where(np.abs(u) < 1.5, u * 4, np.sign(u) * 1.0)
    cycle = loops(Curve(u, f)).cycles[0]
    assert cycle.y_peak == pytest.approx(1.0)
    assert cycle.secant_stiffness == pytest.approx(0.5)


def test_wiggles_below_the_prominence_are_no_reversals() -> None:
    u = ramps(0, 10, -10, 10, 0)
    noisy = u + np.random.default_rng(3).normal(0, 0.05, u.shape)
    assert len(reversals(noisy)) == 3
    assert len(positive_peaks(noisy)) == 2


def test_cycles_by_upward_zero_crossing() -> None:
    u = ramps(0, 1, -1, 1, -1, 0)
    found = loops(Curve(u, elastic_plastic(u, 4.0)), start="zero")
    assert len(found.cycles) == 2
    assert found.cycles[1].energy == pytest.approx(4.0 * (1.0 - 0.25), rel=2e-2)


def test_a_record_cut_at_its_peaks_loses_no_cycle() -> None:
    t = np.linspace(0, 4 * np.pi, 801)
    assert len(loops(Curve(np.cos(t), np.sin(t))).cycles) == 2


def test_a_monotonic_curve_has_no_cycle() -> None:
    u = np.linspace(0, 5, 50)
    assert loops(Curve(u, u**2)).cycles == ()


def test_a_gap_in_the_curve_is_named() -> None:
    with pytest.raises(IronstoneError, match="position 2"):
        loops(Curve(np.array([0.0, 1, 2]), np.array([0.0, 1, np.nan])))


@settings(max_examples=40, deadline=None)
@given(st.floats(0.1, 50), st.floats(0.1, 50), st.sampled_from([-1.0, 1.0]))
def test_energy_scales_with_both_axes_and_damping_with_neither(fu: float, ff: float, sign: float) -> None:
    u = ramps(0, 3, -3, 3, pieces=60)
    f = elastic_plastic(u)
    a, b = loops(Curve(u, f)).cycles[0], loops(Curve(fu * u, sign * ff * f)).cycles[0]
    assert b.energy == pytest.approx(sign * fu * ff * a.energy)
    assert b.damping_ratio == pytest.approx(a.damping_ratio)


def grown(scales: list[float], softening: float = 1.0) -> Curve:
    """Elastic-perfectly-plastic turns of growing amplitude, yield at 1 mm and 10 kN; each later turn weaker by ``softening``."""
    turns = [np.linspace(0, 1, 50) * scales[0]]
    for scale in scales:
        turns += [np.linspace(1, -1, 200)[1:] * scale, np.linspace(-1, 1, 200)[1:] * scale]
    x = np.concatenate(turns)
    y, force = np.zeros_like(x), 0.0
    for i in range(1, len(x)):
        force = float(np.clip(force + 10.0 * (x[i] - x[i - 1]), -10.0, 10.0))
        y[i] = force
    weaker = softening ** np.maximum((np.arange(len(x)) - 49) // 398, 0)
    return Curve(x, y * weaker, "mm", "kN")


def test_the_envelope_is_the_first_cycle_at_each_level() -> None:
    found = loops(grown([2.0, 2.0, 4.0, 4.0]))
    x, y = envelope(found)
    assert x == pytest.approx([-4, -2, 0, 2, 4], abs=0.05)
    assert y == pytest.approx([-10, -10, 0, 10, 10], abs=0.1)


def test_what_repetition_leaves_of_the_stiffness() -> None:
    kept = retained(loops(grown([3.0, 3.0, 3.0], softening=0.9)))
    assert kept == pytest.approx([1.0, 0.9, 0.81], abs=0.01)


def test_the_first_cycle_of_each_level_is_held_against_the_later_ones_where_the_level_grows() -> None:
    """Two cycles at each of three levels; the second of each has lost a fifth. Force is stiffness times way, by definition."""
    t = np.arange(0, 6, 0.005)
    level, second = np.array([1.0, 1.0, 2.0, 2.0, 4.0, 4.0])[t.astype(int)], t.astype(int) % 2 == 1
    u = level * np.sin(2 * np.pi * t)
    kept = retained(loops(Curve(u, u * np.where(second, 8.0, 10.0), "mm", "kN")))
    assert kept == pytest.approx([1.0, 0.8, 1.0, 0.8, 1.0], abs=1e-3)


@pytest.mark.parametrize("ductility", [2.0, 5.0])
def test_ductility_is_against_the_yield_of_the_first_loading(ductility: float) -> None:
    curve = grown([ductility, ductility])
    answer = loops_answer(curve)
    assert answer["yield_at"] == pytest.approx(1.0, rel=0.03)
    assert answer["cycles"][0]["ductility"] == pytest.approx(ductility, rel=0.03)
