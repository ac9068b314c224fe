from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.curves.agreement import Correction, Limits
from ironstone.core.curves.curves import Curve
from ironstone.core.curves.match import match
from ironstone.core.errors import IronstoneError
from tests.core.test_curves import elastic_plastic, ramps

DRIVER = ramps(0, 3, -3, 3, -3, 0)
MODEL = Curve(DRIVER, 10.0 * elastic_plastic(DRIVER), "mm", "kN")


def test_a_curve_agrees_with_itself() -> None:
    found = match(MODEL, MODEL)
    assert found.kind == "loops"
    assert found.agrees
    assert all(m.ratio == pytest.approx(1.0) for m in found.metrics)
    assert found.deviation.rms == pytest.approx(0.0, abs=1e-12)
    assert found.deviation.determination == pytest.approx(1.0)


def test_corrections_undo_what_the_laboratory_did() -> None:
    """A record with its sign reversed, a zero offset, in N and m, becomes the model's curve again."""
    record = Curve(MODEL.x / 1000.0, -(MODEL.y * 1000.0) + 340.0, "m", "N")
    fix = Correction("load", sign=-1, zero=340.0)
    found = match(MODEL, Curve(record.x, fix(record.y), "m", "N"), corrections=tuple(fix.words("N")))
    assert found.agrees
    assert found.deviation.rms == pytest.approx(0.0, abs=1e-9)
    assert found.corrections == ("load: zero shifted by -340 N", "load: sign reversed")


def test_ten_percent_stiffer_model_is_ten_percent_off_everywhere() -> None:
    found = match(Curve(MODEL.x, 1.1 * MODEL.y, "mm", "kN"), MODEL, Limits(force=0.05, stiffness=0.05, energy=0.2))
    ratios = {m.name: m.ratio for m in found.metrics}
    for name in ("peak_positive", "peak_negative", "secant_stiffness", "energy_total", "energy_cycle_1"):
        assert ratios[name] == pytest.approx(1.1)
    assert ratios["damping_ratio"] == pytest.approx(1.0)
    assert found.verdict.startswith("Agrees but for 3 of")
    assert "positive peak 10 % high (limit 5 %)" in found.verdict


def test_a_forgotten_sign_does_not_pass() -> None:
    found = match(MODEL, Curve(MODEL.x, -MODEL.y, "mm", "kN"))
    assert not found.agrees
    assert found.deviation.determination < 0


def test_monotonic_curves_are_compared_on_the_common_range() -> None:
    u = np.linspace(0, 10, 101)
    record = Curve(np.linspace(0, 12, 77), 4.0 * np.linspace(0, 12, 77), "mm", "kN")
    found = match(Curve(u, 4.4 * u, "mm", "kN"), record)
    assert found.kind == "monotonic"
    stiffness = next(m for m in found.metrics if m.name == "initial_stiffness")
    assert stiffness.ratio == pytest.approx(1.1)
    assert any("outside the model's range" in note for note in found.notes)


def test_units_of_different_kinds_are_refused_with_the_reason() -> None:
    with pytest.raises(IronstoneError, match="cannot be converted to"):
        match(MODEL, Curve(MODEL.x, MODEL.y, "kN", "kN"))


def test_a_unit_not_stated_is_taken_as_the_models_and_said() -> None:
    found = match(MODEL, Curve(MODEL.x, MODEL.y))
    assert any("unit not stated" in note for note in found.notes)


def test_a_record_that_goes_one_way_is_held_against_the_first_loading() -> None:
    u = np.linspace(0, 2.5, 40)
    found = match(MODEL, Curve(u, 10.0 * elastic_plastic(u), "mm", "kN"))
    assert found.kind == "monotonic" and found.agrees and any("first loading" in n for n in found.notes)


def test_peaks_are_compared_where_both_curves_are() -> None:
    """A material curve goes on far past what the element saw: only the common range counts, and no stiffness where it has none."""
    p = np.linspace(0, 0.1, 50)
    test = Curve(p, 300 + 2000 * p, "", "MPa")
    model = Curve(np.concatenate([[0, 0, 0], p[:20]]), np.concatenate([[0, 100, 200], 300 + 2000 * p[:20]]), "", "MPa")
    found = match(model, test)
    assert found.agrees and [m.name for m in found.metrics] == ["peak_positive", "energy_total"]
    assert any("30 of 50" in n for n in found.notes)


def test_smoothing_keeps_the_length_and_a_straight_line() -> None:
    line = np.linspace(0, 1, 21)
    smooth = Correction("load", smooth=5)(line)
    assert len(smooth) == 21
    assert smooth[2:-2] == pytest.approx(line[2:-2])
