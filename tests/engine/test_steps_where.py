"""Steps at which a condition holds, on one mesh and on changing ones."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from ironstone.core.errors import Impossible
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake
from tests.store.test_runs import STEPS, series


def steps(review: Review, **words: Any) -> list[int]:
    found: list[int] = ask(review, question_of("steps-where", {"field": "temperature", **words})).more["steps"]
    return found


def test_a_reading_reaches_a_value_at_these_steps(tmp_path: Path) -> None:
    """The highest is 21 times the factor of a step, the lowest 0; in a region its own."""
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, series(tmp_path), "peel", "mm-N-s-t-MPa")
        for least in (0.0, 21.0, 42.0, 50.0, 99.0):
            assert steps(review, at_least=least) == [i for i, (_, f) in enumerate(STEPS) if 21.0 * f >= least]
        assert steps(review, at_most=-1.0) == [] and steps(review, at_most=0.0) == [0, 1, 2, 3]
        assert steps(review, at_least=50.0, at_most=0.0) == [1, 3]
        told = ask(review, question_of("steps-where", {"field": "temperature", "at_least": 50.0}))
        assert told.verdict == "It holds at 2 of 4 steps." and "its highest is at least 50" in told.sentence
        with pytest.raises(Impossible, match="needs a value"):
            steps(review)
