"""Agreement of curves, from what the word means: a curve agrees with itself however it is sampled, cut short, begun or repeated.

Laws are written out here (a bilinear spring, an elastic-plastic one, an ellipse); the product's helpers make none of them.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.curves.agreement import Limits, Match
from ironstone.core.curves.curves import Curve, loops
from ironstone.core.curves.match import cycles_of_test, match
from ironstone.core.curves.transient import correlation, dominant_period
from ironstone.core.errors import Impossible, IronstoneError


def plastic(driver: np.ndarray, strength: float = 1.0) -> np.ndarray:
    """An elastic-perfectly-plastic spring of stiffness 1, stepped exactly: force follows the driver and is capped."""
    force, answer = 0.0, []
    for before, now in zip(np.concatenate([[driver[0]], driver[:-1]]), driver, strict=True):
        force = min(max(force + now - before, -strength), strength)
        answer.append(force)
    return np.array(answer)


def path(*turns: float, points: int = 100) -> np.ndarray:
    """A driver straight from turn to turn."""
    legs = [np.linspace(a, b, points, endpoint=False) for a, b in zip(turns[:-1], turns[1:], strict=True)]
    return np.concatenate([*legs, [turns[-1]]])


def law(*turns: float, points: int = 100) -> Curve:
    u = path(*turns, points=points)
    return Curve(u, 10.0 * plastic(u), "mm", "kN")


def metric(found: Match, name: str) -> float:
    return next(m.ratio for m in found.metrics if m.name == name)


@pytest.mark.parametrize(
    "turns",
    [(0, 5), (0, 4, 1), (0, 4, 1, 6), (0, 3, -3, 3, -3, 3), (0, -3, 3, -3, 3), (2, 4, 2, 4, 2), (0, 2, -2, 4, -4, 6, -6, 0)],
    ids=str,
)
@pytest.mark.parametrize("points", [37, 250])
def test_a_curve_sampled_otherwise_agrees_with_itself(turns: tuple[float, ...], points: int) -> None:
    found = match(law(*turns, points=100), law(*turns, points=points))
    assert found.agrees, found.verdict
    assert found.deviation.share < 0.02, "corners of the law fall between samples"
    assert all(m.ratio == pytest.approx(1.0, abs=0.02) for m in found.metrics)
    assert not any("left out" in n for n in found.notes)


@given(st.lists(st.floats(0.2, 1.0), min_size=1, max_size=6), st.sampled_from([1, -1]), st.integers(60, 160), st.integers(60, 160))
def test_any_history_agrees_with_itself(shares: list[float], side: int, first: int, second: int) -> None:
    """Smooth force (no corners), turns at any place on alternate sides: only the sampling differs."""
    turns = [0.0] + [side * 5 * s * (1 if i % 2 == 0 else -1) for i, s in enumerate(shares)]

    def smooth(points: int) -> Curve:
        u = path(*turns, points=points)
        run = np.concatenate([[0.0], np.cumsum(np.abs(np.diff(u)))])
        return Curve(u, 3 * u + np.sin(run / 3), "mm", "kN")

    found = match(smooth(first), smooth(second))
    assert found.deviation.share < 5e-3 and found.agrees, found.verdict


def test_the_same_law_stopped_earlier_has_the_same_initial_stiffness() -> None:
    """A law that softens all the way: read at each curve's own peak its stiffness would be 12 % apart."""

    def soft(end: float, points: int) -> Curve:
        u = np.linspace(0, end, points)
        return Curve(u, 10 * (1 - np.exp(-u)), "mm", "kN")

    for model, test in ((soft(3.0, 200), soft(1.0, 90)), (soft(1.0, 90), soft(3.0, 200))):
        found = match(model, test)
        assert metric(found, "initial_stiffness") == pytest.approx(1.0, abs=2e-3)
        assert metric(found, "energy_total") == pytest.approx(1.0, abs=2e-3)
        assert metric(found, "peak_positive") == pytest.approx(1.0, abs=2e-3)
        assert found.deviation.share < 1e-3


def test_a_stiffer_model_is_stiffer_by_as_much_wherever_it_stops() -> None:
    u = np.linspace(0, 4, 300)
    found = match(Curve(u, 1.2 * (1 - np.exp(-u)), "mm", "kN"), Curve(u[:150], 1 - np.exp(-u[:150]), "mm", "kN"))
    assert metric(found, "initial_stiffness") == pytest.approx(1.2, rel=1e-3)
    assert metric(found, "peak_positive") == pytest.approx(1.2, rel=1e-3)


def test_a_law_as_strong_again_is_as_stiff_again() -> None:
    """A softening law times 1.2, and its record stopped early: 1.2 in stiffness, peak and energy."""
    u = np.linspace(0, 4, 300)
    found = match(Curve(u, 1.2 * (1 - np.exp(-u)), "mm", "kN"), Curve(u[:120], 1 - np.exp(-u[:120]), "mm", "kN"))
    for name in ("initial_stiffness", "peak_positive", "energy_total"):
        assert metric(found, name) == pytest.approx(1.2, rel=1e-3), name


def test_the_initial_stiffness_is_read_before_the_curve_bends() -> None:
    """Bilinear, 10 and 12 kN/mm up to 5 kN, then 1: between 10 % and 40 % of 12 kN each is straight."""
    u = np.linspace(0, 7.5, 400)
    test = Curve(u, np.minimum(10 * u, 5 + (u - 0.5)), "mm", "kN")
    found = match(Curve(u, np.minimum(12 * u, 5 + (u - 5 / 12)), "mm", "kN"), test)
    stiffness = next(m for m in found.metrics if m.name == "initial_stiffness")
    assert (stiffness.model, stiffness.test) == pytest.approx((12.0, 10.0), rel=1e-6)


def test_a_record_that_starts_the_other_way_is_compared_where_branches_run_alike() -> None:
    found = match(law(0, 3, -3, 3, -3, 3), law(0, -3, 3, -3, 3, -3))
    assert found.agrees, found.verdict
    assert found.deviation.share < 1e-6
    assert any("starts the other way" in n for n in found.notes)
    assert any("left out" in n for n in found.notes)
    assert metric(found, "energy_total") == pytest.approx(1.0, rel=1e-6)


def test_peaks_are_those_of_the_cycles_that_are_compared() -> None:
    """The model goes on to larger cycles than were tested: its later peaks are no news of the test."""
    u = path(0, 2, -2, 2, -2, 6, -6, 6)
    spring = Curve(u, 10 * u, "mm", "kN")
    short = path(0, 2, -2, 2, -2, points=80)
    found = match(spring, Curve(short, 10 * short, "mm", "kN"))
    assert metric(found, "peak_positive") == pytest.approx(1.0) and metric(found, "peak_negative") == pytest.approx(1.0)
    assert found.agrees, found.verdict
    assert any("of the model's 7 branches are compared" in n for n in found.notes)


def test_more_repetitions_of_one_cycle_are_compared_from_the_first_on() -> None:
    """Force falls by a tenth with every cycle: cycle n belongs to cycle n, not to whichever repetition is nearest."""

    def softening(cycles: int) -> Curve:
        u = path(0, *[3, -3] * cycles, 3, points=60)
        weaker = 0.9 ** np.clip((np.arange(len(u)) - 60) // 120, 0, None)
        return Curve(u, 4 * u * weaker, "mm", "kN")

    found = match(softening(3), softening(6))
    assert found.deviation.share < 0.01 and metric(found, "secant_stiffness") == pytest.approx(1.0, abs=0.01)


def test_a_cyclic_test_of_a_model_that_goes_one_way_is_compared_on_the_first_loading() -> None:
    found = match(law(0, 3), law(0, 3, -3, 3))
    assert found.kind == "monotonic" and found.agrees, found.verdict
    assert any("of the test's 3 branches are compared; left out: branches 2, 3" in n for n in found.notes)


def test_curves_without_a_branch_in_common_are_refused_with_what_to_check() -> None:
    with pytest.raises(IronstoneError, match="no common range") as caught:
        match(law(0, 3), law(0, -3))
    assert "sign" in caught.value.hint


def test_a_driver_that_rests_while_the_force_relaxes_agrees_with_itself() -> None:
    """Held at 2 mm the force falls from 5 to 4 kN: a vertical piece, whose samples need not coincide."""

    def held(points: int) -> Curve:
        rise, rest, back = np.linspace(0, 2, points), np.full(points, 2.0), np.linspace(2, 0.5, points)
        return Curve(
            np.concatenate([rise, rest, back]),
            np.concatenate([2.5 * rise, np.linspace(5, 4, points), 4 - 2 * (2 - back)]),
            "mm",
            "kN",
        )

    assert match(held(50), held(73)).deviation.share < 2e-3


def wave(period: float, lag: float = 0.0, sign: float = 1.0, points: int = 900) -> Curve:
    t = np.linspace(0, 10, points)
    return Curve(t, sign * np.exp(-t / 20) * np.sin(2 * np.pi * (t - lag) / period), "s", "kN")


@pytest.mark.parametrize("period", [0.7, 1.0, 1.7])
def test_half_a_periods_shift_does_not_mend_a_sign(period: float) -> None:
    found = match(wave(period), wave(period, sign=-1.0))
    assert not found.agrees
    assert found.verdict.startswith("Does not agree") and "sign" in found.verdict
    assert found.shift is not None and abs(found.shift) <= period / 4 * 1.05


def test_a_drift_does_not_hide_that_an_oscillation_has_the_wrong_sign() -> None:
    """On a common drift the two go along in the whole; shifted by half a period the wrong sign would be gone."""
    t = np.linspace(0, 10, 800)
    model, test = (Curve(t, 0.8 * t + s * np.sin(2 * np.pi * t), "s", "kN") for s in (1, -1))
    found = match(model, test)
    assert found.shift is not None and abs(found.shift) < 0.26 and not found.agrees, found.verdict


@pytest.mark.parametrize("lag", [0.1, -0.15])
def test_a_short_lag_is_found_and_its_correlation_said(lag: float) -> None:
    """The model is 0.1 s later than the test: taken out, the two agree."""
    found = match(wave(1.3, lag), wave(1.3, points=700))
    assert found.shift == pytest.approx(lag, abs=2e-3) and found.agrees, found.verdict
    assert found.correlation == pytest.approx(1.0, abs=1e-3)
    assert any("correlation is 1.000" in n for n in found.notes)


def test_period_and_correlation_are_those_of_their_definitions() -> None:
    assert dominant_period(wave(0.8)) == pytest.approx(0.8, rel=0.05)
    a, b = np.random.default_rng(2).normal(size=(2, 50))
    assert correlation(a, b) == pytest.approx(np.corrcoef(a, b)[0, 1])


@pytest.mark.parametrize(
    ("share", "limit", "words"), [(0.1004, 0.1, "10.04 % (limit 10 %)"), (0.05002, 0.05, "5.002 %"), (0.12, 0.1, "12 %")]
)
def test_a_deviation_is_told_with_the_digits_that_decide(share: float, limit: float, words: str) -> None:
    """A spring off by a constant share of the largest force over the whole range has that as its RMS."""
    u = np.linspace(0, 10, 400)
    found = match(Curve(u, u + 10 * share, "mm", "kN"), Curve(u, u, "mm", "kN"), Limits(9, 9, 9, limit))
    assert words in found.verdict


def test_a_gross_deviation_is_no_exception_to_an_agreement() -> None:
    """Everything within wide limits but an RMS deviation of 162 %: that does not agree but for one."""
    u = path(0, 3, -3, 3, -3, 3)
    found = match(Curve(u, 4 * plastic(u), "mm", "kN"), Curve(u, 1.5 * plastic(u), "mm", "kN"), Limits(9, 9, 9, 0.1))
    assert found.deviation.share > 1.0 and found.verdict.startswith("Does not agree")


def test_a_cycle_alone_agrees_as_that_stretch_of_both_curves_does() -> None:
    """By hand: the samples of the model's third cycle held against those of the test's; what the others do plays no part."""
    turns = (0, 2, -2, 3, -3, 4, -4, 4)
    model = law(*turns, points=100)
    # The test is stronger from cycle to cycle, and begins with a cycle the model has not.
    u = path(0, 1, -1, *turns[1:], points=73)
    test = Curve(u, 10.0 * plastic(u) * np.linspace(1.0, 1.4, len(u)), "mm", "kN")
    spans = cycles_of_test(model, test)
    mine = {i: c for i, c in enumerate(loops(model).cycles, start=1)}
    assert set(spans) <= set(mine) and len(spans) >= 2
    for number, (first, last) in spans.items():
        found = match(model, test, only=(number,))
        c = mine[number]
        m, t = slice(c.start, c.stop + 1), slice(first, last + 1)
        closed = [np.append(v, v[0]) for v in (test.x[t], test.y[t])]
        energy = abs(float(np.trapezoid(closed[1], closed[0])))
        ratios = {x.name: x for x in found.metrics}
        assert "energy_total" not in ratios and [n for n in ratios if n.startswith("energy")] == [f"energy_cycle_{number}"]
        assert abs(ratios[f"energy_cycle_{number}"].test) == pytest.approx(energy, rel=1e-9)
        assert ratios["peak_positive"].model == pytest.approx(model.y[m].max(), rel=1e-3)
        assert ratios["peak_positive"].test == pytest.approx(test.y[t].max(), rel=0.02)
        assert len(found.deviation.x) <= last - first + 3
        assert any(f"cycle {number} of {len(mine)}" in n for n in found.notes)
    both = match(model, test, only=tuple(spans))
    assert {f"energy_cycle_{n}" for n in spans} < {x.name for x in both.metrics}


def test_a_cycle_the_curve_or_the_test_has_not_is_told() -> None:
    model = law(0, 2, -2, 3, -3, 3, points=60)
    with pytest.raises(Impossible, match="no cycle 9"):
        match(model, model, only=(9,))
    short = law(0, 2, -2, 2.9, points=60)
    last = len(loops(model).cycles)
    with pytest.raises(Impossible, match=f"cycle {last} has no counterpart"):
        match(model, short, only=(last,))
    time = Curve(np.linspace(0, 1, 50), np.sin(np.linspace(0, 20, 50)), "s", "kN")
    with pytest.raises(Impossible, match="by time"):
        match(time, time, only=(1,))
