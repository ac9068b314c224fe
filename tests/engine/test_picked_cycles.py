"""Cycles that are looked at alone: the points, the figures and the agreement of these, said in the sentence."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, question_of, readable
from ironstone.engine.curves.matches import overlay
from ironstone.engine.curves.pairings import PairingIn
from ironstone.engine.curves.records import Record
from ironstone.store import Review


@pytest.fixture(scope="module")
def demo(demo_file: Path) -> Iterator[Review]:
    with Review.open(demo_file) as review:
        yield review


@pytest.fixture(scope="module")
def loop(demo: Review) -> int:
    return next(item.id for item, thing in readable(demo, PairingIn) if thing.name == "Loop")


def test_the_points_of_a_cycle_enclose_the_energy_that_is_told_of_it(demo: Review, loop: int) -> None:
    """By the trapezoidal rule over the points themselves, the ends joined by a chord; five cycles, each by itself."""
    whole = ask(demo, question_of("cycles", {"pairing": loop}))
    energies = whole.columns[2].values
    for number, energy in enumerate(energies, start=1):
        points = ask(demo, question_of("curve", {"pairing": loop, "only": str(number)}))
        x, y = (np.append(c.values, c.values[0]).astype(float) for c in points.columns[1:3])
        assert abs(np.trapezoid(y, x)) == pytest.approx(energy, rel=1e-6)
        assert points.sentence.endswith(f", cycle {number} alone")
        assert points.columns[0].values == sorted(points.columns[0].values)
    some = ask(demo, question_of("cycles", {"pairing": loop, "only": "2, 4"}))
    assert some.columns[0].values == [2, 4] and some.columns[2].values == [energies[1], energies[3]]
    assert some.figures[0].label == "Energy of cycles 2 and 4"
    assert some.figures[0].value == pytest.approx(energies[1] + energies[3])
    assert some.sentence != whole.sentence


def test_agreement_and_drawn_record_are_of_the_picked_cycle(demo: Review, loop: int) -> None:
    test = next(item.id for item, thing in readable(demo, Record) if thing.name == "specimen_F3.csv")
    whole = ask(demo, question_of("agreement", {"pairing": loop, "test": test}))
    alone = ask(demo, question_of("agreement", {"pairing": loop, "test": test, "cycles": "3"}))
    assert alone.sentence == f"{whole.sentence}, cycle 3 alone"
    named = dict(zip(alone.columns[0].values, alone.columns[2].values, strict=True))
    assert named["Energy, cycle 3"] == dict(zip(whole.columns[0].values, whole.columns[2].values, strict=True))["Energy, cycle 3"]
    assert "Energy, cycle 2" not in named
    points = ask(demo, question_of("curve", {"pairing": loop, "only": "3"}))
    drawn, every = overlay(demo, loop, test, "3"), overlay(demo, loop, test)
    assert 10 < len(drawn.x) < len(every.x) / 2
    reach = [float(np.abs(np.array(values, dtype=float)).max()) for values in (points.columns[1].values, drawn.x)]
    assert reach[0] == pytest.approx(reach[1], rel=0.05)


@pytest.mark.parametrize("words", ["9", "2 3", ",", "0"])
def test_what_is_no_cycle_of_the_curve_is_refused_in_words(demo: Review, loop: int, words: str) -> None:
    for kind in ("cycles", "curve"):
        with pytest.raises(IronstoneError):
            ask(demo, question_of(kind, {"pairing": loop, "only": words}))
