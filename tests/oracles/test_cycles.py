"""Loops and means of records on data unlike a clean triangle about zero: a mean load, a noisy driver, few points, other lengths."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.curves.curves import Curve, envelope, loops
from ironstone.core.curves.match import match
from ironstone.core.curves.monotonic import monotonic, tensile
from ironstone.core.curves.reversals import noise_of, prominence_of
from ironstone.core.curves.scatter import scatter
from ironstone.core.errors import IronstoneError
from ironstone.engine.curves import curve_answers


def ellipse(
    points: int, turns: float = 3, stiffness: float = 4.0, damping: float = 0.5, about: tuple[float, float] = (0, 0)
) -> Curve:
    """u = 10 sin t about a mean, F = k u + c 10 cos t: a cycle takes pi c 10^2, its damping is c / 2k."""
    t = np.linspace(0, 2 * np.pi * turns, points)
    return Curve(about[0] + 10 * np.sin(t), about[1] + stiffness * 10 * np.sin(t) + damping * 10 * np.cos(t), "mm", "kN")


@given(st.floats(-500, 500), st.floats(-500, 500))
def test_damping_is_that_of_the_loop_wherever_it_turns(u: float, f: float) -> None:
    """Shifted by any mean displacement and force, energy, secant stiffness and damping stay: c / (2 k) = 1/16."""
    for start, close in (("peak", 2e-3), ("zero", 3e-2)):
        found = loops(ellipse(3001, about=(u, f)), start)
        assert len(found.cycles) >= 2
        for cycle in found.cycles:
            assert abs(cycle.energy) == pytest.approx(np.pi * 0.5 * 100, rel=close), "one from zero begins between two samples"
            assert cycle.secant_stiffness == pytest.approx(4.0, rel=1e-3)
            assert abs(cycle.damping_ratio) == pytest.approx(0.5 / 8, rel=close)
    assert any("own centre" in n for n in found.notes) == (abs(u) > 0.5)


@pytest.mark.parametrize("mean", [3.0, 9.0, 9.8, -9.0])
def test_a_record_that_ends_beyond_its_last_crossing_ends_the_cycle_there(mean: float) -> None:
    """A driver 10 sin t about a mean of 9 crosses zero on its way up near its trough and stops at 9: the last cycle ends below."""
    found = loops(ellipse(3001, about=(mean, 0.0)), "zero")
    for cycle in found.cycles:
        assert cycle.stop - cycle.start == 1000
        assert abs(cycle.energy) == pytest.approx(np.pi * 0.5 * 100, rel=2e-3)


def test_cycles_that_grow_about_zero_have_no_mean() -> None:
    """On the way from one level to the next a cycle is lopsided; the record turns about zero."""
    t = np.linspace(0, 8 * np.pi, 2001)
    assert not loops(Curve(t * np.sin(t), t * np.sin(t) + np.cos(t), "mm", "kN")).notes


def test_the_envelope_of_loops_about_a_mean_goes_through_their_middle() -> None:
    x, y = envelope(loops(ellipse(2001, about=(50.0, 300.0))))
    assert x == pytest.approx([40, 50, 60], abs=0.01) and y == pytest.approx([260, 300, 340], abs=0.1)


@pytest.mark.parametrize("share", [0.003, 0.01, 0.03, 0.05])
@pytest.mark.parametrize("points", [120, 600, 3000])
@pytest.mark.parametrize("seed", range(4))
def test_noise_on_the_driver_makes_no_cycles(share: float, points: int, seed: int) -> None:
    """Noise of so much of the amplitude (standard deviation) on both: three turns have two whole cycles from peak to peak."""
    clean, random = ellipse(points), np.random.default_rng(seed)
    noisy = Curve(clean.x + random.normal(0, 10 * share, points), clean.y + random.normal(0, 40 * share, points), "mm", "kN")
    assert len(loops(noisy).cycles) == 2
    if points > 100:
        assert abs(loops(noisy).energy_total) == pytest.approx(2 * np.pi * 50, rel=0.25)


def test_what_is_taken_for_noise_is_said_and_can_be_stated() -> None:
    clean = ellipse(3000)
    noisy = Curve(clean.x + np.random.default_rng(1).normal(0, 0.3, 3000), clean.y, "mm", "kN")
    found = loops(noisy)
    assert found.prominence > 0.02 and any("The driver is noisy" in n for n in found.notes)
    assert len(loops(noisy, prominence=0.02).cycles) > 20, "as it was: every swing of the noise a cycle"
    assert len(loops(noisy, prominence=0.3).cycles) == 2 and not any("noisy" in n for n in loops(noisy, prominence=0.3).notes)
    answer = curve_answers.loops_answer(noisy, prominence=0.3)
    assert answer["prominence"] == 0.3
    with pytest.raises(IronstoneError, match="prominence"):
        loops(noisy, prominence=0.0)


@pytest.mark.parametrize("points", [20, 40, 100, 1000])
def test_a_smooth_driver_has_no_noise(points: int) -> None:
    """Sines and ramps of many or few samples, single precision too: what is found is far below their turns, and nothing is said."""
    t = np.linspace(0, 6 * np.pi, points)
    for driver in (np.sin(t), np.sin(t).astype(np.float32).astype(float), np.abs((t / np.pi) % 2 - 1), t, t**2, np.zeros(points)):
        assert noise_of(driver) < 5e-3 * max(np.ptp(driver), 1e-30) or points == 20
        assert prominence_of(driver) == 0.02


def test_the_noise_found_is_the_noise_put_in() -> None:
    t = np.linspace(0, 6 * np.pi, 4000)
    for size in (0.001, 0.03, 0.2):
        assert noise_of(np.sin(t) + np.random.default_rng(5).normal(0, size, 4000)) == pytest.approx(size, rel=0.15)


def test_few_samples_a_cycle_are_not_taken_for_noise() -> None:
    """Twenty cycles that grow from a twentieth, seven samples each: rough, and no noise."""
    t = np.linspace(0, 20, 141)
    u = np.linspace(0.05, 1, 141) * np.sin(2 * np.pi * t)
    assert prominence_of(u) == 0.02 and len(loops(Curve(u, u)).cycles) >= 17


def test_small_cycles_before_large_ones_stay_cycles() -> None:
    """A clean test of growing cycles, 3 % of the largest at first: each is a cycle."""
    turns = [0.0]
    for amplitude in (3, 10, 30, 100):
        turns += [amplitude, -amplitude] * 2
    legs = [np.linspace(a, b, 40, endpoint=False) for a, b in zip(turns[:-1], turns[1:], strict=True)]
    u = np.concatenate([*legs, [turns[-1], 0.0]])
    assert len(loops(Curve(u, u)).cycles) == 7


@pytest.mark.parametrize(("points", "lost"), [(4, 0.36), (8, 0.10)])
def test_few_points_a_cycle_are_said_with_what_they_may_cost(points: int, lost: float) -> None:
    """An inscribed polygon of n corners has n/2 sin(2 pi/n) / pi of a circle's area: 64 % with four."""
    found = loops(ellipse(3 * points + 1))
    assert abs(found.cycles[0].energy) == pytest.approx((1 - lost) * np.pi * 50, rel=0.02)
    assert any(f"has {points} points: its energy may be off by about" in n for n in found.notes)
    assert not loops(ellipse(601)).notes


# Going one way


def test_figures_are_counted_from_the_first_point_and_keep_the_sign_of_compression() -> None:
    """Pressed from (5 mm, -2 kN) to 9 mm further: stiffness 3, yield at 12 kN, all of it below zero."""
    x = np.linspace(0, 9, 901)
    pressed = Curve(5 - x, -2 - np.minimum(3 * x, 12), "mm", "kN")
    found = monotonic(pressed)
    assert found.yield_force == pytest.approx(-12, rel=2e-3) and found.yield_at == pytest.approx(-4, rel=2e-3)
    assert found.peak == pytest.approx(-12) and found.stiffness == pytest.approx(3) and found.energy == pytest.approx(12 * 7)
    assert found.end == pytest.approx(-9) and found.ductility == pytest.approx(9 / 4, rel=5e-3)
    how = {f["label"]: f["how"] for f in curve_answers.figures(pressed)}
    assert "counted from the first point (5 mm, -2 kN)" in how["Yield"]
    assert (
        "counted" not in {f["label"]: f["how"] for f in curve_answers.figures(Curve(x, np.minimum(3 * x, 12), "mm", "kN"))}["Yield"]
    )


def test_true_stress_in_compression_is_smaller_than_engineering_stress() -> None:
    """s (1 + e) with e = -0.2: 0.8 of it; ln(1 + e) = -0.223."""
    strain = np.linspace(0, -0.2, 200)
    found = tensile(Curve(strain, np.maximum(2000 * strain, -300), "", "MPa"))
    assert found.ultimate == pytest.approx(-300) and found.proof == pytest.approx(-300)
    top = strain[np.argmax(2000 * strain <= -300)]
    assert found.true_ultimate == pytest.approx(-300 * (1 + top)) and found.true_uniform_strain == pytest.approx(np.log(1 + top))


# Means of records


def bent(end: float, points: int, factor: float = 1.0) -> Curve:
    u = np.linspace(0, end, points)
    return Curve(u, factor * 100 * (1 - np.exp(-u)), "mm", "kN")


def test_a_shorter_record_ends_the_mean_and_does_not_bend_it() -> None:
    """Three records of one law, one of which stops early: the mean is the law as far as all of them go."""
    found = scatter([bent(4.0, 300), bent(1.5, 80), bent(4.0, 211)])
    assert found.mean.x.max() == pytest.approx(1.5)
    assert found.mean.y == pytest.approx(100 * (1 - np.exp(-found.mean.x)), abs=0.05)
    assert found.share < 1e-3 and any("Record 2 goes to 1.5 alone" in n for n in found.notes)
    assert match(found.mean, bent(4.0, 300)).agrees


def test_a_record_that_stops_within_a_branch_ends_the_mean_there() -> None:
    """Cyclic records of one law, the second cut off half way along its third branch."""

    def cyclic(points: int) -> Curve:
        t = np.linspace(0, 4 * np.pi, points)
        return Curve(10 * np.sin(t), 20 * np.sin(t) + 5 * np.cos(t), "mm", "kN")

    whole, cut = cyclic(801), cyclic(801)
    stop = int(np.argmax((np.arange(801) > 320) & (whole.x > 0)))
    cut = Curve(cut.x[: stop + 1], cut.y[: stop + 1], "mm", "kN")
    found = scatter([whole, cut, cyclic(640)])
    assert any("the mean ends there" in n for n in found.notes)
    assert match(found.mean, whole).deviation.share < 5e-3


def test_records_that_start_opposite_ways_are_refused_with_what_to_do() -> None:
    pull, push = bent(3.0, 100), bent(3.0, 100)
    with pytest.raises(IronstoneError, match="Record 2 starts the other way than record 1: its driver") as caught:
        scatter([pull, Curve(-push.x, -push.y, "mm", "kN")])
    assert "Reverse the sign" in caught.value.hint
    with pytest.raises(IronstoneError, match="its force has the opposite sign"):
        scatter([pull, Curve(push.x, -push.y, "mm", "kN")])


def test_records_of_other_histories_are_refused() -> None:
    def turned(top: float) -> Curve:
        u = np.concatenate([np.linspace(0, top, 50), np.linspace(top, 0, 50)])
        return Curve(u, u, "mm", "kN")

    with pytest.raises(IronstoneError, match="turn at different places: branch 1 ends at 10, 6"):
        scatter([turned(10.0), turned(6.0)])
