"""What must not change: with units, with the direction a curve is run through, with the point moments are taken about."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.curves.curves import Curve, loops
from ironstone.core.curves.match import match
from ironstone.core.curves.scatter import scatter
from ironstone.core.curves.transient import best_shift
from ironstone.core.statics.balance import resultant

sizes = st.floats(0.1, 100.0)
amplitudes = st.lists(st.floats(1.0, 6.0), min_size=2, max_size=5)


def driven(reaches: list[float], each: int = 40) -> np.ndarray:
    """A driver from zero to each reach and to its opposite in turn, and back to the last reach."""
    turns = [0.0, *(sign * r for r in reaches for sign in (1, -1)), reaches[-1]]
    return np.concatenate([[0.0], *(np.linspace(a, b, each + 1)[1:] for a, b in zip(turns[:-1], turns[1:], strict=True))])


def elastic_plastic(driver: np.ndarray, stiffness: float = 10.0, limit: float = 8.0, hardening: float = 0.4) -> np.ndarray:
    """An elastic-perfectly plastic element beside an elastic one (Masing 1926: the loops of kinematic hardening)."""
    force, own = [], 0.0
    for step in np.diff(driver, prepend=0.0):
        own = float(np.clip(own + stiffness * step, -limit, limit))
        force.append(own)
    return np.array(force) + hardening * driver


def loop_of(reaches: list[float]) -> Curve:
    driver = driven(reaches)
    return Curve(driver, elastic_plastic(driver), "mm", "kN")


@given(amplitudes, sizes, sizes)
def test_cycles_scale_with_the_units_they_are_told_in(reaches: list[float], along: float, up: float) -> None:
    plain = loop_of(reaches)
    answer = loops(replace(plain, x=along * plain.x, y=up * plain.y)).cycles
    known = loops(plain).cycles
    assert len(answer) == len(known)
    for a, b in zip(answer, known, strict=True):
        assert (a.start, a.stop, a.closed) == (b.start, b.stop, b.closed)
        assert a.energy == pytest.approx(along * up * b.energy, rel=1e-9, abs=1e-9 * along * up)
        assert a.secant_stiffness == pytest.approx(up / along * b.secant_stiffness, rel=1e-9)
        assert a.damping_ratio == pytest.approx(b.damping_ratio, rel=1e-9)


@given(st.floats(1.0, 6.0), st.integers(2, 4))
def test_a_loop_run_through_backwards_gives_back_what_it_took(reach: float, count: int) -> None:
    forwards = loop_of([reach] * count)
    backwards = replace(forwards, x=forwards.x[::-1], y=forwards.y[::-1])
    took, gave = (sum(c.energy for c in loops(c).cycles) for c in (forwards, backwards))
    assert gave == pytest.approx(-took, rel=1e-9, abs=1e-9)
    turned = replace(forwards, x=-forwards.x, y=-forwards.y)
    assert loops(turned).cycles[0].energy == pytest.approx(loops(forwards).cycles[0].energy, rel=1e-9, abs=1e-9)


@given(amplitudes)
def test_an_elastic_limit_never_reached_leaves_no_energy_in_any_cycle(reaches: list[float]) -> None:
    driver = driven(reaches)
    curve = Curve(driver, elastic_plastic(driver, limit=1e6), "mm", "kN")
    for cycle in loops(curve).cycles:
        # Ends within 2 % of the amplitude count as closed and are not joined: so much may be left, and no more.
        unjoined = 0.02 * cycle.amplitude * np.abs(curve.y).max() if cycle.closed else 0.0
        assert abs(cycle.energy) <= unjoined + 1e-9
        assert cycle.secant_stiffness == pytest.approx(10.4)


@settings(max_examples=40, deadline=None)
@given(amplitudes, st.floats(0.5, 2.0))
def test_a_model_some_times_as_strong_as_the_test_is_told_so_in_every_figure(reaches: list[float], factor: float) -> None:
    record = loop_of(reaches)
    model = replace(record, y=factor * record.y)
    # The record in metres and newtons: it is brought to the model's units.
    elsewhere = replace(record, x=record.x / 1e3, y=record.y * 1e3, x_unit="m", y_unit="N")
    for test in (record, elsewhere):
        found = match(model, test)
        assert found.kind == "loops"
        for metric in found.metrics:
            # Damping has no unit of force: it is the same. Open cycles of no energy have no ratio.
            expected = 1.0 if metric.name == "damping_ratio" else factor
            assert metric.ratio == pytest.approx(expected, rel=1e-6) or abs(metric.test) < 1e-9
        assert found.deviation.share == pytest.approx(
            abs(factor - 1) * np.sqrt(np.mean(record.y**2)) / np.abs(record.y).max(), rel=0.1, abs=1e-9
        )
        assert found.agrees == (abs(factor - 1) <= 0.1) or 0.09 < abs(factor - 1) < 0.13


@settings(max_examples=30, deadline=None)
@given(amplitudes)
def test_the_mean_of_a_record_with_itself_is_that_record(reaches: list[float]) -> None:
    record = loop_of(reaches)
    found = scatter([record, record, record])
    assert found.share == pytest.approx(0.0, abs=1e-12)
    assert np.abs(found.mean.x).max() == pytest.approx(np.abs(record.x).max())
    assert np.interp(found.mean.x[:40], record.x[:41], record.y[:41]) == pytest.approx(found.mean.y[:40], abs=0.05 * 10)


@settings(max_examples=25, deadline=None)
@given(st.floats(-0.08, 0.08), st.floats(1.0, 3.0))
def test_a_record_that_is_late_is_found_to_be_so(late: float, frequency: float) -> None:
    time = np.linspace(0.0, 2.0, 801)

    def wave(t: np.ndarray) -> np.ndarray:
        result: np.ndarray = np.exp(-t) * np.sin(2 * np.pi * frequency * t)
        return result

    test = Curve(time, wave(time), "s", "kN")
    model = Curve(time, wave(time - late), "s", "kN")
    assert best_shift(model, test, 0.1) == pytest.approx(late, abs=2e-3)


@given(st.integers(0, 2**32 - 1))
def test_a_moment_about_another_point_differs_by_the_force_times_the_way_there(seed: int) -> None:
    """M_q = M_p + (p - q) x F (statics of rigid bodies); a couple has the same moment everywhere."""
    random = np.random.default_rng(seed)
    points, forces = random.normal(size=(2, 12, 3)) * 10
    p, q = random.normal(size=(2, 3)) * 5
    at_p, at_q = resultant(points, forces, p), resultant(points, forces, q)
    assert at_q.force == pytest.approx(at_p.force)
    assert at_q.moment == pytest.approx(at_p.moment + np.cross(p - q, at_p.force), abs=1e-9)
    couple = np.concatenate([forces, -forces]), np.concatenate([points, points + random.normal(size=3)])
    assert resultant(couple[1], couple[0], p).moment == pytest.approx(resultant(couple[1], couple[0], q).moment, abs=1e-8)
