"""Arithmetic of curves: ordinary mathematics with units, and nothing else."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.curves.arithmetic import FUNCTIONS, evaluate_curve, names_in
from ironstone.core.errors import IronstoneError

T = np.linspace(0.0, 2.0, 201)
KNOWN = {"F": (3.0 * T, "kN"), "u": (T**2, "mm"), "t": (T, "s"), "N": (500.0 * np.ones(201), "N"), "share": (T / 4, ""),
         "raw": (T, None)}  # fmt: skip


def test_units_are_carried() -> None:
    values, unit = evaluate_curve("2*F*u", KNOWN)
    assert values == pytest.approx(6 * T**3) and unit == "kN·mm"
    values, unit = evaluate_curve("F + N", KNOWN)
    assert values == pytest.approx(3 * T + 0.5) and unit == "kN"
    assert evaluate_curve("u/t**2", KNOWN)[1] == "mm/s²"
    assert evaluate_curve("share**2", KNOWN)[1] == ""


def test_what_does_not_go_together_is_refused_with_the_reason() -> None:
    with pytest.raises(IronstoneError, match="kN and mm do not go together"):
        evaluate_curve("F + u", KNOWN)
    with pytest.raises(IronstoneError, match="do not go together"):
        evaluate_curve("F + 1", KNOWN)
    with pytest.raises(IronstoneError, match="not stated"):
        evaluate_curve("raw*2", KNOWN)
    with pytest.raises(IronstoneError, match="no curve named 'G'"):
        evaluate_curve("G", KNOWN)


def test_derivative_and_integral_undo_each_other() -> None:
    speed, unit = evaluate_curve("d(u, t)", KNOWN)
    assert unit == "mm/s" and speed[1:-1] == pytest.approx(2 * T[1:-1])
    work, unit = evaluate_curve("integral(F, u)", KNOWN)
    by_hand = np.concatenate([[0.0], np.cumsum(np.diff(T**2) * (3 * T[1:] + 3 * T[:-1]) / 2)])
    assert unit == "kN·mm" and work == pytest.approx(by_hand)
    assert work[-1] == pytest.approx(2 * 2.0**3, rel=1e-4), "of 3t d(t^2) = 2 t^3"


def test_change_largest_and_smooth() -> None:
    waves = {"y": (np.sin(6 * T), "mm"), "x": (5 + T, "mm")}
    assert evaluate_curve("change(x)", waves)[0][0] == 0.0
    assert evaluate_curve("largest(y)", waves)[0] == pytest.approx(np.maximum.accumulate(np.sin(6 * T)))
    assert evaluate_curve("smooth(x, 5)", waves)[0][50] == pytest.approx(5 + T[50])
    with pytest.raises(IronstoneError, match="cannot be taken"):
        evaluate_curve("smooth(x, 0)", waves)


@pytest.mark.parametrize(
    "text",
    ["__import__('os')", "F.real", "F[0]", "lambda: 1", "F if u else t", "[F]", "F; u", "open('x')", "'a'", "F and u", "F(1)", "",
     "2**9999",
     "F < u", "d(F)", "(F", "True"],
)  # fmt: skip
def test_nothing_else_is_understood(text: str) -> None:
    with pytest.raises(IronstoneError):
        evaluate_curve(text, KNOWN)


@given(st.text(max_size=40))
def test_no_text_does_more_than_fail_clearly(text: str) -> None:
    try:
        values, _ = evaluate_curve(text, KNOWN)
    except IronstoneError:
        return
    assert values.shape == (201,)


@st.composite
def expressions(draw: st.DrawFn, depth: int = 3) -> str:
    """Whatever the little language has, put together at random."""
    if depth == 0 or draw(st.integers(0, 3)) == 0:
        return draw(st.sampled_from([*KNOWN, "pi", "0", "1", "-2", "0.5", "3", "1e300", "12"]))
    inner = expressions(depth - 1)
    if draw(st.booleans()):
        name = draw(st.sampled_from(sorted(FUNCTIONS)))
        return f"{name}({', '.join(draw(inner) for _ in range(FUNCTIONS[name][0]))})"
    return f"({draw(inner)} {draw(st.sampled_from(['+', '-', '*', '/', '**']))} {draw(inner)})"


@settings(max_examples=400, deadline=None)
@given(expressions())
def test_whatever_is_put_together_has_a_value_at_every_step_or_a_reason_why_not(text: str) -> None:
    try:
        values, unit = evaluate_curve(text, KNOWN)
    except IronstoneError as error:
        assert error.message and "object" not in error.message, "a reason for an analyst"
        return
    assert values.shape == (201,) and values.dtype == np.float64 and isinstance(unit, str)


def test_numbers_that_grow_without_end_and_roots_that_are_not_real_end_at_once() -> None:
    tower = "9"
    for _ in range(30):
        tower = f"({tower})**20"
    with pytest.raises(IronstoneError, match="cannot be worked out"):
        evaluate_curve(tower, KNOWN)
    for text in ("(-1)**0.5", "abs(F ** sqrt(-2))"):
        with pytest.raises(IronstoneError, match="no real value"):
            evaluate_curve(text, KNOWN)
    with pytest.raises(IronstoneError, match="'d' is taken of a curve, not of one number"):
        evaluate_curve("d(2, t)", KNOWN)


@given(st.floats(-50, 50), st.floats(0.1, 50))
def test_numbers_are_what_python_makes_of_them(a: float, b: float) -> None:
    values, unit = evaluate_curve(f"({a!r}*F - {b!r}*F)/{b!r}", KNOWN)
    assert unit == "kN" and values == pytest.approx((a - b) * 3 * T / b, rel=1e-9, abs=1e-9)


def test_names_are_those_of_curves_not_of_functions() -> None:
    assert names_in("d(F, u) + largest(F)*pi") == {"F", "u", "pi"}
    assert names_in("(") == set()
    assert set(FUNCTIONS) >= {"d", "integral", "smooth"}


def test_a_curve_is_not_resampled_without_end() -> None:
    known = {"F": (np.arange(5.0), "kN"), "step": (np.arange(5.0), "s")}
    with pytest.raises(IronstoneError, match="not resampled to 1000000000 places"):
        evaluate_curve("resample(F, step, 1e9)", known)
