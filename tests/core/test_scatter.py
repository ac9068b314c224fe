"""Mean and scatter of several records."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.curves.curves import Curve, loops
from ironstone.core.curves.scatter import scatter
from ironstone.core.errors import IronstoneError


def record(scale: float, samples: int, noise: float = 0.0, seed: int = 0, unit: str = "kN") -> Curve:
    """Two full turns of a viscous ellipse, force scaled."""
    t = np.linspace(0, 4 * np.pi, samples)
    y = scale * (2 * np.sin(t) + 0.5 * np.cos(t)) + np.random.default_rng(seed).normal(0, noise, samples)
    return Curve(10 * np.sin(t), y * (1000 if unit == "N" else 1), "mm", unit)


def test_the_mean_of_scaled_records_is_the_middle_one() -> None:
    found = scatter([record(0.9, 400), record(1.0, 731), record(1.1, 555)])
    middle = scatter([record(1.0, 400), record(1.0, 900)]).mean
    assert found.mean.y == pytest.approx(middle.y, abs=0.01)
    assert found.high - found.low == pytest.approx(0.2 * np.abs(middle.y), abs=0.02)
    assert found.share == pytest.approx(0.1, rel=0.03), "standard deviation of 0.9, 1, 1.1"
    assert found.count == 3


@given(st.floats(0.5, 2.0))
def test_loops_of_the_mean_hold_the_mean_energy(scale: float) -> None:
    """pi x 10 x 0.5 each cycle times the scale."""
    found = scatter([record(scale, 500), record(scale, 800)])
    cycle = loops(found.mean).cycles[0]
    assert abs(cycle.energy) == pytest.approx(scale * np.pi * 10 * 0.5, rel=0.02)


def test_units_are_brought_together_and_noise_is_averaged() -> None:
    found = scatter([record(1.0, 800), record(1.0, 800, unit="N")])
    assert found.mean.y_unit == "kN" and found.deviation.max() < 1e-9
    quiet = scatter([record(1.0, 800, 0.05, s) for s in range(8)])
    clean = scatter([record(1.0, 800), record(1.0, 800)]).mean
    assert np.sqrt(np.mean((quiet.mean.y - clean.y) ** 2)) < 0.03


def test_what_cannot_be_averaged_is_told() -> None:
    with pytest.raises(IronstoneError, match="two records"):
        scatter([record(1.0, 100)])
    gap = record(1.0, 100)
    gap.y[3] = np.nan
    with pytest.raises(IronstoneError, match="Record 2 has points without"):
        scatter([record(1.0, 100), gap])
    with pytest.raises(IronstoneError, match="cannot be converted"):
        scatter([record(1.0, 100), Curve(np.arange(9.0), np.arange(9.0), "s", "kN")])
    short = Curve(record(1.0, 400).x[:150], record(1.0, 400).y[:150], "mm", "kN")
    assert "the first" in scatter([record(1.0, 400), short]).notes[0]
