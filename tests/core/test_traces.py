"""Traces at every kind of place, rates of motion, steps that are too few, records held by time, printed curves."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import correlate, correlation_lags

from ironstone.core.curves.arithmetic import evaluate_curve
from ironstone.core.curves.curves import Curve, coarse
from ironstone.core.curves.match import match
from ironstone.core.curves.monotonic import true_curve
from ironstone.core.curves.printed import AxisMarks, read_off
from ironstone.core.curves.transient import in_time
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.fields import Memory, Step
from ironstone.core.field.recover import ACCELERATION, VELOCITY, offered, rate
from ironstone.core.mesh.places import AtElements, AtNodes
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace, trace_at_gauss
from tests.models import field, grid_of_quads, mesh_of

TIMES = np.array([0.0, 0.1, 0.3, 0.35, 0.6, 1.0])
STEPS = tuple(Step(i, "time", float(t), "s") for i, t in enumerate(TIMES))


def moving(curve: np.ndarray) -> Memory:
    """Two joined bars whose second node moves along x as the curve says, the third three times as far."""
    mesh = mesh_of(np.array([[0.0, 0, 0], [1, 0, 0], [2, 0, 0]]), [(3, [0, 1]), (3, [1, 2])])
    shift = np.zeros((len(curve), 3, 3))
    shift[:, 1, 0], shift[:, 2, 0] = curve, 3 * curve
    gauss = np.stack([np.stack([10 * curve, 20 * curve], 1), np.stack([-curve, curve], 1)], 1)
    fields = [field("u", "displacement", "node"), field("s", "axial stress", "gauss", points=2), field("e", "", "element")]
    fields += offered({f.name: f for f in fields}, False, "MPa", "N", STEPS)
    arrays = {"u": shift, "s": gauss, "e": np.stack([curve, curve**2], 1)[:, :, None]}
    return Memory(mesh, fields, arrays, STEPS)


def test_a_trace_follows_an_element_and_a_gauss_point() -> None:
    source = moving(1 + TIMES)
    assert trace(Reading("e"), source, AtElements(np.array([1]))).values == pytest.approx((1 + TIMES) ** 2)
    assert trace_at_gauss(Reading("s"), source, 0, 2).values == pytest.approx(20 * (1 + TIMES))
    assert trace_at_gauss(Reading("s"), source, 1, 1).values == pytest.approx(-(1 + TIMES))
    with pytest.raises(Impossible, match="no Gauss point 3"):
        trace_at_gauss(Reading("s"), source, 0, 3)


def test_the_largest_over_a_set_says_at_which_node_it_is() -> None:
    curve = np.array([1.0, 2.0, -1.0, -2.0, 0.5, 1.0])
    found = trace(Reading("u", "x"), moving(curve), AtNodes(np.array([1, 2])), "max")
    assert found.values == pytest.approx(np.maximum(curve, 3 * curve))
    assert found.node is not None and found.node.tolist() == [2, 2, 1, 1, 2, 2]
    assert trace(Reading("u", "x"), moving(curve), AtNodes(np.array([1, 2])), "mean").node is None


@given(st.floats(-5, 5), st.floats(-5, 5), st.floats(-5, 5))
def test_rates_of_a_parabola_are_exact_on_uneven_steps(a: float, b: float, c: float) -> None:
    source = moving(a + b * TIMES + c * TIMES**2)
    for step, t in enumerate(TIMES):
        assert rate(VELOCITY, source, step)[2, 0] == pytest.approx(3 * (b + 2 * c * t), abs=1e-9)
        assert rate(ACCELERATION, source, step, np.array([1]))[0, 0] == pytest.approx(2 * c, abs=1e-9)


def test_rates_are_offered_marked_and_only_where_time_runs_and_the_file_has_none() -> None:
    source = moving(TIMES)
    assert source.fields[VELOCITY].unit == "mm/s" and source.fields[ACCELERATION].unit == "mm/s²"
    assert "differences" in source.fields[VELOCITY].recovered
    own = {"u": field("u", "displacement", "node"), "v": field("v", "velocity", "node")}
    assert VELOCITY not in {f.name for f in offered(own, False, "MPa", "N", STEPS)}
    still = tuple(Step(i, "load factor", 0.1 * i) for i in range(5))
    assert not {VELOCITY, ACCELERATION} & {f.name for f in offered({"u": own["u"]}, False, "MPa", "N", still)}


@given(st.integers(4, 9))
def test_too_few_steps_are_told_and_the_estimate_is_what_a_sine_loses(steps: int) -> None:
    """Against a fine sine: the estimate of the loss between steps is within a factor of two of the loss itself."""
    x = np.linspace(0, np.pi, steps)
    answer = coarse(x, np.sin(x))
    fine = np.linspace(0, np.pi, 2000)
    loss = np.abs(np.sin(fine) - np.interp(fine, x, np.sin(x))).max()
    if loss > 0.08:
        assert answer is not None
    if answer is not None:
        assert 0.5 * loss < answer[1] < 2 * loss and 0 < answer[0] < steps - 1
    assert coarse(np.linspace(0, np.pi, 60), np.sin(np.linspace(0, np.pi, 60))) is None
    assert coarse(x, np.ones(steps)) is None


def wave(t: np.ndarray, late: float = 0.0) -> np.ndarray:
    at = t - late
    return np.where(at > 0, np.exp(-2 * at) * np.sin(20 * at), 0.0)


@pytest.mark.parametrize("late", [0.031, -0.017, 0.0])
def test_two_transients_are_held_together_with_their_best_shift(late: float) -> None:
    """The shift is the delay put in, and within a sample what SciPy's cross-correlation finds."""
    t = np.linspace(-0.2, 2, 2201)
    model, test = Curve(t, wave(t, late), "s", "mm"), Curve(1000 * t[100:-100], 1.05 * wave(t[100:-100]), "ms", "mm")
    found = match(model, test)
    assert found.kind == "transient" and found.shift == pytest.approx(late, abs=2e-4)
    assert found.metrics[0].ratio == pytest.approx(1 / 1.05, rel=1e-3) and found.deviation.share < 0.02
    lag = correlation_lags(len(t), len(t))[np.argmax(correlate(wave(t, late), wave(t)))] * (t[1] - t[0])
    assert found.shift == pytest.approx(lag, abs=1.5 * (t[1] - t[0]))
    assert bool(late) == any("compared with that taken out" in n for n in found.notes)
    assert len(found.deviation.x) == len(found.deviation.away)


def test_transients_that_never_meet_are_refused_and_loops_are_not_taken_for_them() -> None:
    t = np.linspace(0, 1, 50)
    with pytest.raises(IronstoneError, match="no common time"):
        match(Curve(t, wave(t), "s", "mm"), Curve(t + 5, wave(t), "s", "mm"))
    assert not in_time(Curve(np.sin(9 * t), t, "s", "kN")) and not in_time(Curve(t, t, "mm", "kN"))


@given(st.floats(-0.5, 0.5), st.floats(0.3, 3), st.booleans(), st.lists(st.tuples(st.floats(1, 99), st.floats(1, 99)), min_size=1))
def test_a_printed_curve_is_read_off_turned_scaled_and_skewed(
    turn: float, scale: float, log: bool, rows: list[tuple[float, float]]
) -> None:
    """A picture is made of known values by a rotation and a scale; marks on its axes give the values back."""
    known = np.array(rows)
    c, s = np.cos(turn), np.sin(turn)

    def place(x: np.ndarray, y: np.ndarray) -> np.ndarray:
        u = np.log10(x) * 50 if log else x
        return scale * np.stack([c * u - s * y, -s * u - c * y], 1) + [40.0, 300.0]

    def at(x: float, y: float) -> tuple[float, float]:
        a, b = place(np.array([x]), np.array([y]))[0]
        return float(a), float(b)

    x = AxisMarks(at(1, 0), 1, at(100, 0), 100, log)
    y = AxisMarks(at(1, 0), 0, at(1, 80), 80)
    answer = read_off(place(known[:, 0], known[:, 1]), x, y)
    assert answer[0] == pytest.approx(known[:, 0], rel=1e-6) and answer[1] == pytest.approx(known[:, 1], rel=1e-6)


@pytest.mark.parametrize(
    ("x", "y", "said"),
    [
        (AxisMarks((0, 0), 1, (9, 0), 1), AxisMarks((0, 0), 0, (0, 9), 1), "two different values"),
        (AxisMarks((0, 0), 0, (9, 0), 1, True), AxisMarks((0, 0), 0, (0, 9), 1), "at or below zero"),
        (AxisMarks((0, 0), 0, (9, 0), 1), AxisMarks((0, 0), 0, (9, 0.1), 1), "do not tell the two axes apart"),
        (AxisMarks((0, 0), 0, (0, 0), 1), AxisMarks((0, 0), 0, (0, 9), 1), "do not tell the two axes apart"),
    ],
)
def test_marks_that_say_nothing_are_refused(x: AxisMarks, y: AxisMarks, said: str) -> None:
    with pytest.raises(IronstoneError, match=said):
        read_off(np.zeros((1, 2)), x, y)


def test_true_stress_and_strain() -> None:
    answer = true_curve(Curve(np.array([0.0, 10.0]), np.array([0.0, 300.0]), "%", "MPa"))
    assert answer.x == pytest.approx([0, np.log(1.1)]) and answer.y == pytest.approx([0, 330]) and answer.x_unit == ""
    with pytest.raises(IronstoneError, match="no logarithm"):
        true_curve(Curve(np.array([0.0, -1.0]), np.zeros(2), "", "MPa"))


def test_curves_are_trimmed_shifted_and_resampled() -> None:
    t = np.linspace(0, 2, 201)
    known = {"u": (t**2, "mm"), "step": (t, "s"), "a": (np.cos(9 * t), "mm")}
    values, unit = evaluate_curve("trim(u, step, 0.5, 1)", known)
    assert unit == "mm" and np.isfinite(values).sum() == 51 and values[np.isfinite(values)] == pytest.approx(t[50:101] ** 2)
    moved, _ = evaluate_curve("shift(u, step, 0.25)", known)
    assert np.isnan(moved[:25]).all() and moved[25:] == pytest.approx((t[25:] - 0.25) ** 2)
    few, _ = evaluate_curve("resample(u, step, 3)", known)
    assert few == pytest.approx(np.interp(t, [0, 1, 2], [0, 1, 4]))
    for text, said in (
        ("shift(u, a, 1)", "always grows"),
        ("trim(u, step, 7, 9)", "Nothing is left"),
        ("resample(u, step, 1)", "two places"),
    ):
        with pytest.raises(IronstoneError, match=said):
            evaluate_curve(text, known)


def test_a_trace_of_a_gauss_field_where_there_is_none_is_refused() -> None:
    mesh = grid_of_quads(1, 1)
    source = Memory(mesh, [field("e", "", "element")], {"e": np.ones((1, 1, 1))})
    with pytest.raises(Impossible, match="no Gauss points"):
        trace_at_gauss(Reading("e"), source, 0, 1)
