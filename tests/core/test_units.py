from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.errors import IronstoneError
from ironstone.core.kinds import KINDS
from ironstone.core.units import SYSTEMS, conversion, convert, difference_unit, known, product, ratio


@pytest.mark.parametrize(
    ("source", "target", "expected"),
    [
        ("MPa", "Pa", 1e6),
        ("GPa", "MPa", 1e3),
        ("kN", "N", 1e3),
        ("in", "mm", 25.4),
        ("kip", "kN", 4.4482216152605),
        ("ksi", "MPa", 6.894757293168),
        ("", "%", 100.0),
        ("", "µstrain", 1e6),
        ("ms", "s", 1e-3),
        ("deg", "rad", 0.017453292519943),
    ],
)
def test_factors_are_those_of_the_international_inch_and_pound(source: str, target: str, expected: float) -> None:
    assert conversion(source, target) == pytest.approx((expected, 0.0))
    assert conversion(target, source) == pytest.approx((1.0 / expected, 0.0))


@pytest.mark.parametrize("name", SYSTEMS)
def test_every_system_is_consistent(name: str) -> None:
    """Stress is force over area, and force is mass times acceleration, both with the factor one."""
    s = SYSTEMS[name]
    assert conversion(f"{s.force}/({s.length})**2", s.stress)[0] == pytest.approx(1.0, rel=1e-6)
    assert conversion(f"{s.mass}*{s.length}/({s.time})**2", s.force)[0] == pytest.approx(1.0, rel=1e-6)


@pytest.mark.parametrize("kind", KINDS)
def test_every_unit_offered_for_a_kind_is_of_that_kind(kind: str) -> None:
    for system in SYSTEMS.values():
        own = system.unit_of(kind)
        assert all(conversion(own, other)[0] > 0.0 for other in KINDS[kind].choices)


def test_units_of_different_kinds_are_refused() -> None:
    with pytest.raises(IronstoneError, match="kN cannot be converted to mm"):
        conversion("kN", "mm")
    with pytest.raises(IronstoneError, match="a pure number cannot be converted to MPa"):
        conversion("", "MPa")
    with pytest.raises(IronstoneError, match="'furlongs per brake' is not known"):
        conversion("MPa", "furlongs per brake")


def test_compound_units_keep_the_analysts_own() -> None:
    assert product("kN", "mm") == "kN·mm"
    assert product("kN", "") == "kN"
    assert ratio("kN", "mm") == "kN/mm"
    assert ratio("kN", "") == "kN"
    assert ratio("", "mm") == "1/mm"
    assert ratio("kN", "mm/s") == "kN·s/mm", "a damper's constant"
    assert ratio("kN·mm", "rad") == "kN·mm/rad"


@pytest.mark.parametrize(
    ("source", "target", "value", "expected"),
    [
        ("degC", "K", 20.0, 293.15),
        ("K", "degC", 0.0, -273.15),
        ("degF", "degC", 212.0, 100.0),
        ("degC", "degF", -40.0, -40.0),
        ("°C", "K", 0.0, 273.15),
    ],
)
def test_scales_with_a_zero_of_their_own_are_shifted_and_their_differences_are_not(
    source: str, target: str, value: float, expected: float
) -> None:
    """Fixed points of the Celsius and Fahrenheit scales (International System of Units)."""
    assert convert(np.array([value]), source, target) == pytest.approx([expected])
    step = np.ptp(convert(np.array([value, value + 9.0]), source, target))
    assert step == pytest.approx({("degF", "degC"): 5.0, ("degC", "degF"): 16.2}.get((source, target), 9.0))
    assert difference_unit("degC") == "K" and difference_unit("MPa") == "MPa"


@given(st.text(max_size=20))
def test_any_text_is_a_unit_or_not_but_never_a_crash(text: str) -> None:
    assert known(text) in (True, False)
