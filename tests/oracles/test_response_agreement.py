"""Two responses held against each other, in closed form: masses on springs, other frequencies, noise, gaps, missing phases."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.errors import Impossible
from ironstone.core.motion.agreement import Limits, frac, held_against
from ironstone.core.motion.response import derived


def masses(f: np.ndarray, *own: tuple[float, float, float]) -> np.ndarray:
    """Masses on springs side by side: own frequency, damping ratio, static amplitude of each."""
    return sum(a / (1.0 - (f / f0) ** 2 + 2j * z * f / f0) for f0, z, a in own)


F = np.linspace(5.0, 60.0, 1101)
MODEL = masses(F, (12.0, 0.01, 1.0), (33.0, 0.02, 0.6))


def test_a_response_agrees_with_itself_whatever_frequencies_it_was_measured_at() -> None:
    g = np.linspace(8.0, 50.0, 1500) + np.random.default_rng(3).uniform(-0.01, 0.01, 1500)
    found = held_against(F, MODEL, g, masses(g, (12.0, 0.01, 1.0), (33.0, 0.02, 0.6)))
    assert found.frac == pytest.approx(1.0, abs=1e-4)
    assert [p.off for p in found.pairs] == pytest.approx([0, 0], abs=1e-5)
    assert [p.ratio for p in found.pairs] == pytest.approx([1, 1], abs=1e-2)
    assert found.alone == ((), ()) and found.verdict == "agrees" and found.with_phase
    assert (found.low, found.high) == pytest.approx((g[0], g[-1]))


def test_frac_is_what_its_definition_makes_of_the_common_frequencies() -> None:
    g = F[::2]
    test = masses(g, (12.3, 0.012, 0.9), (33.5, 0.02, 0.6)) * np.exp(0.3j)
    a = MODEL[::2]
    expected = abs(np.sum(a.conj() * test)) ** 2 / (np.sum(np.abs(a) ** 2) * np.sum(np.abs(test) ** 2))
    assert held_against(F, MODEL, g, test).frac == pytest.approx(expected, rel=1e-9)
    amplitudes = held_against(F, MODEL, g, np.abs(test))
    assert not amplitudes.with_phase
    whole = np.sum(np.abs(a) * np.abs(test)) ** 2 / (np.sum(np.abs(a) ** 2) * np.sum(np.abs(test) ** 2))
    assert amplitudes.frac == pytest.approx(whole, rel=1e-9)
    assert np.isnan(frac(a, 0 * a))


def test_peaks_are_paired_by_frequency_and_judged_by_frequency_and_amplitude() -> None:
    """The first peak 8 % low in frequency (doubtful: beyond 5, within 10 %), the second half as high (fails: beyond 50 %)."""
    test = masses(F, (12.0 / 0.92, 0.01, 1.0), (33.0, 0.02, 1.4))
    found = held_against(F, MODEL, F, test)
    first, second = found.pairs
    assert first.off == pytest.approx(-0.08, abs=2e-3) and first.frequency == "doubtful"
    assert second.ratio == pytest.approx(0.6 / 1.4, abs=0.02) and second.amplitude == "fails" and second.verdict == "fails"
    assert found.verdict == "fails"
    looser = held_against(F, MODEL, F, test, Limits(frequency=0.10, amplitude=1.0, frac=0.0))
    assert looser.verdict == "agrees"


def test_a_small_shift_of_a_sharp_peak_spoils_frac_and_that_is_doubtful_while_the_peaks_agree() -> None:
    found = held_against(F, masses(F, (20.0, 0.005, 1.0)), F, masses(F, (20.4, 0.005, 1.0)))
    assert found.frac < 0.3
    assert [p.verdict for p in found.pairs] == ["agrees"]
    assert found.frac_verdict == "doubtful" and found.verdict == "doubtful"
    far = held_against(F, masses(F, (20.0, 0.005, 1.0)), F, masses(F, (40.0, 0.005, 1.0)))
    assert far.pairs == () and far.verdict == "fails" and far.frac_verdict == "fails"


def test_a_peak_the_model_has_not_is_told_and_noise_is_none() -> None:
    chance = np.random.default_rng(5)
    test = masses(F, (12.0, 0.01, 1.0), (24.0, 0.01, 0.3), (33.0, 0.02, 0.6))
    noise = 0.005 * np.abs(test).mean() * (chance.normal(size=len(F)) + 1j * chance.normal(size=len(F)))
    found = held_against(F, MODEL, F, test + noise)
    assert [round(p.test.frequency) for p in found.pairs] == [12, 33]
    assert found.alone[0] == ()
    assert [round(p.frequency) for p in found.alone[1]] == [24]
    assert found.verdict in ("doubtful", "fails")


def test_pairs_are_those_that_are_off_by_least_in_all() -> None:
    """The nearest of all (104 and 105) are not a pair where that leaves 100 and 109 to each other."""
    f = np.linspace(80.0, 130.0, 5001)
    model, test = masses(f, (100.0, 0.002, 1.0), (105.0, 0.002, 1.0)), masses(f, (104.0, 0.002, 1.0), (109.0, 0.002, 1.0))
    found = held_against(f, model, f, test)
    assert [(round(p.model.frequency), round(p.test.frequency)) for p in found.pairs] == [(100, 104), (105, 109)]


def test_gaps_are_left_out_and_without_common_frequencies_nothing_is_said() -> None:
    gaps = MODEL.copy()
    gaps[::7] = np.nan
    assert held_against(F, gaps, F, MODEL).frac == pytest.approx(1.0, abs=1e-6)
    with pytest.raises(Impossible, match="0 frequencies in common"):
        held_against(F, MODEL, F + 100.0, MODEL)
    with pytest.raises(Impossible):
        held_against(F, np.full(len(F), np.nan), F, MODEL)


@given(st.floats(1e-3, 1e3), st.floats(-np.pi, np.pi), st.floats(0.5, 2.0))
def test_a_scaled_and_turned_response_has_the_same_frac_and_one_ratio(scale: float, turn: float, other: float) -> None:
    test = masses(F, (12.0 * other**0.02, 0.01, 1.0), (33.0, 0.02, 0.6))
    plain, turned = held_against(F, MODEL, F, test), held_against(F, MODEL, F, scale * np.exp(1j * turn) * test)
    assert turned.frac == pytest.approx(plain.frac, rel=1e-6)
    assert [p.ratio * scale for p in turned.pairs] == pytest.approx([p.ratio for p in plain.pairs], rel=1e-6)


def test_an_acceleration_is_a_displacement_turned_twice_by_the_circular_frequency() -> None:
    f = np.array([0.0, 1.0, 10.0])
    moved = np.array([1.0 + 1j, 2.0, 3j])
    fast = derived(f, moved, 2)
    assert fast == pytest.approx(-((2 * np.pi * f) ** 2) * moved)
    back = derived(f, fast, -2)
    assert np.isnan(back[0]) and back[1:] == pytest.approx(moved[1:])
    assert derived(f, np.abs(moved), 1) == pytest.approx(2 * np.pi * f * np.abs(moved))
