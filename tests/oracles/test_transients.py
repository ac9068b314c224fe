"""Spectra, shocks and decay of motions known in closed form, on even and uneven steps."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.errors import Impossible
from ironstone.core.motion.events import duration
from ironstone.core.motion.transients import decay, even, settled, shock_response, spectrogram, spectrum


@pytest.mark.parametrize("window", ["none", "hann", "flattop"])
def test_a_sine_has_its_amplitude_at_its_line_whatever_the_window(window: str) -> None:
    t = np.arange(2000) * 1e-3
    motion = even(t, 4.0 + 3.0 * np.sin(2 * np.pi * 50 * t) + 0.5 * np.cos(2 * np.pi * 120 * t))
    found = spectrum(motion, window)
    assert found.frequency[1] == pytest.approx(0.5), "one over the length"
    at = {f: found.amplitude[int(np.argmin(abs(found.frequency - f)))] for f in (50.0, 120.0, 0.0)}
    assert at[50.0] == pytest.approx(3.0, rel=1e-3)
    assert at[120.0] == pytest.approx(0.5, rel=1e-3)
    assert at[0.0] == pytest.approx(0.0, abs=1e-3), "the mean is taken off"
    # The power under the density is the mean square.
    assert np.trapezoid(found.power, found.power_frequency) == pytest.approx(3.0**2 / 2 + 0.5**2 / 2, rel=0.02)
    assert not found.folded


def test_white_noise_has_a_level_density_and_is_told_as_reaching_to_the_end() -> None:
    t = np.arange(1 << 15) * 1e-3
    found = spectrum(even(t, np.random.default_rng(2).normal(size=len(t))), pieces=60)
    assert found.power[3:-3].mean() == pytest.approx(2 * 1e-3, rel=0.03), "variance over the half of the sampling frequency"
    assert found.folded
    assert found.averages == 60


def test_uneven_steps_are_resampled_and_the_coarsest_of_them_tells_what_can_be_seen() -> None:
    t = np.cumsum(np.random.default_rng(4).uniform(0.5e-3, 1.5e-3, 3000))
    motion = even(t, np.sin(2 * np.pi * 20 * t))
    assert motion.resampled
    assert motion.highest == pytest.approx(0.5 / np.diff(t).max())
    found = spectrum(motion)
    assert found.frequency[int(np.argmax(found.amplitude))] == pytest.approx(20.0, abs=0.4)
    assert found.amplitude.max() == pytest.approx(1.0, rel=0.12)
    assert not even(t[:5] * 0 + np.arange(5), np.arange(5.0)).resampled


def test_what_is_no_motion_over_time_is_refused_in_words() -> None:
    with pytest.raises(Impossible, match="3 steps are too few"):
        even(np.arange(3.0), np.arange(3.0))
    with pytest.raises(Impossible, match="1 steps have no value"):
        even(np.arange(5.0), np.array([0, 1, np.nan, 1, 0.0]))
    with pytest.raises(Impossible, match="forward"):
        even(np.array([0, 1, 1, 2.0]), np.arange(4.0))
    with pytest.raises(Impossible, match="no window"):
        spectrum(even(np.arange(16.0), np.arange(16.0)), "kaiser")
    with pytest.raises(Impossible, match="cut into"):
        spectrum(even(np.arange(16.0), np.arange(16.0)), pieces=9)
    with pytest.raises(Impossible, match="damping"):
        shock_response(even(np.arange(16.0), np.arange(16.0)), np.ones(1), 1.0)


def test_a_half_sine_shakes_most_what_has_its_own_period() -> None:
    """Undamped about 1.77 times its height near 0.8 / duration (from memory), and the pulse itself far above it."""
    lasts, step = 0.011, 1e-5
    t = np.arange(0.0, 0.05, step)
    pulse = even(t, np.where(t < lasts, 100.0 * np.sin(np.pi * t / lasts), 0.0))
    f = np.geomspace(2.0, 4000.0, 160)
    bare, damped = shock_response(pulse, f, 0.0), shock_response(pulse, f, 0.05)
    assert bare.max() == pytest.approx(177.0, rel=0.01)
    assert f[int(np.argmax(bare))] * lasts == pytest.approx(0.8, abs=0.1)
    assert bare[-1] == pytest.approx(100.0, rel=0.02), "what is stiff goes along"
    assert (damped <= bare + 1e-9).sum() > 100 and damped.max() < bare.max()
    # What is soft feels the change of speed alone: w times it.
    assert bare[0] == pytest.approx(2 * np.pi * f[0] * 100.0 * 2 * lasts / np.pi, rel=0.01)


@pytest.mark.parametrize("damping", [0.01, 0.05, 0.2])
@pytest.mark.parametrize("sign", [1, -1])
def test_a_free_swing_tells_its_damping_and_frequency(damping: float, sign: int) -> None:
    w = 2 * np.pi * 8.0
    wd = w * np.sqrt(1 - damping**2)
    t = np.linspace(0.0, 8.0 / (damping * w) + 0.5, 6000)
    y = 2.5 + sign * np.exp(-damping * w * t) * np.cos(wd * t)
    found = decay(even(t, y))
    assert found.damping == pytest.approx(damping, rel=0.02)
    assert found.frequency == pytest.approx(wd / (2 * np.pi), rel=0.01)
    assert found.rest == pytest.approx(2.5, abs=2e-3)
    assert found.straight > 0.999
    # exp(-zeta w t) is at 5 % of where it began after 3 / (zeta w).
    assert settled(t, y) == pytest.approx(3.0 / (damping * w), abs=0.75 / 8.0)
    assert settled(t, np.cos(wd * t)) is None
    with pytest.raises(Impossible, match="too few for a decay"):
        decay(even(t, np.exp(-t)))


@pytest.mark.parametrize("cut", [0.31, 0.37, 0.4, 0.45])
def test_a_swing_that_is_cut_off_before_it_rests_is_told_as_well(cut: float) -> None:
    """Wherever the record ends in the period, and with an offset."""
    t = np.linspace(0.0, cut, 900)
    found = decay(even(t, -3.0 + np.exp(-0.01 * 2 * np.pi * 50 * t) * np.sin(2 * np.pi * 50 * t)))
    assert found.damping == pytest.approx(0.01, rel=0.02)
    assert found.frequency == pytest.approx(50.0, rel=0.005)
    assert found.rest == pytest.approx(-3.0, abs=0.003)


@pytest.mark.parametrize("window", ["hann", "flattop"])
def test_a_spectrogram_follows_a_tone_that_climbs_and_has_its_amplitude(window: str) -> None:
    """A sine of amplitude 3 whose frequency climbs from 20 to 100 Hz in 8 s: 20 + 10 t."""
    t = np.arange(0.0, 8.0, 1e-3)
    found = spectrogram(even(t, 5.0 + 3.0 * np.sin(2 * np.pi * (20.0 * t + 5.0 * t**2))), window, 0.4)
    at = found.frequency[1:][np.argmax(found.amplitude[1:], axis=0)]
    width = 1.0 / found.lasts
    assert at == pytest.approx(20.0 + 10.0 * found.time, abs=1.5 * width)
    assert found.amplitude.max(0) == pytest.approx(np.full(len(found.time), 3.0), rel=0.2 if window == "hann" else 0.25)
    assert found.lasts == pytest.approx(0.4)


def test_a_spectrogram_of_a_steady_tone_on_a_line_is_its_amplitude_at_every_time_and_begins_at_the_middle_of_a_piece() -> None:
    t = np.arange(0.0, 4.0, 0.01)
    found = spectrogram(even(2.0 + t, 1.5 * np.sin(2 * np.pi * 12.5 * t)), "none", 0.64)
    line = int(np.argmin(np.abs(found.frequency - 12.5)))
    assert found.frequency[line] == pytest.approx(12.5)
    assert found.amplitude[line] == pytest.approx(np.full(len(found.time), 1.5), rel=1e-9)
    assert found.time[0] == pytest.approx(2.32) and np.diff(found.time) == pytest.approx(0.16)
    assert np.delete(found.amplitude, line, axis=0).max() < 1e-9


def test_a_spectrogram_says_which_pieces_can_be() -> None:
    t = np.arange(0.0, 1.0, 0.01)
    with pytest.raises(Impossible, match="A piece of 3 samples"):
        spectrogram(even(t, np.sin(t)), "hann", 0.03)
    with pytest.raises(Impossible, match=r"A piece of 900 samples"):
        spectrogram(even(t, np.sin(t)), "hann", 9.0)
    assert spectrogram(even(t, np.sin(t))).lasts == pytest.approx(0.64)


def test_a_push_that_lets_go_for_a_moment_is_one_event_and_the_next_bounce_is_another() -> None:
    t = np.arange(0.0, 1.0, 0.01)
    push = np.where((t > 0.20) & (t < 0.50), np.sin(np.pi * (t - 0.2) / 0.3), 0.0)
    push[(t > 0.215) & (t < 0.225)] = 0.0
    push[(t > 0.70) & (t < 0.80)] = 0.3
    assert duration(t, push) == pytest.approx((0.20, 0.50))
    assert duration(t, -push) == pytest.approx((0.20, 0.50)), "whichever way it pushes"
    with pytest.raises(Impossible, match="from the first step on"):
        duration(t, np.r_[push[21:], np.zeros(21)])
    with pytest.raises(Impossible, match="Nothing pushes"):
        duration(t, np.full(len(t), np.nan))
