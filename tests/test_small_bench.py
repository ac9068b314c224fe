"""The small run of the bench: ratios to a peer in the same process, laws of growth, peaks of memory, beside what is recorded."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from bench import small


def test_nothing_takes_three_times_what_is_recorded_nor_more_memory_than_its_bound(tmp_path: Path) -> None:
    assert small.faults(json.loads(small.RECORDED.read_text()), small.rows(tmp_path)) == []


@pytest.mark.parametrize(("kind", "value"), [("ratios", 3.1), ("growths", 1.7), ("peaks", 301e6)])
def test_what_is_beyond_its_bound_fails_after_it_was_measured_again(kind: str, value: float) -> None:
    recorded = {"ratios": {}, "growths": {}, "peaks": {}} | {kind: {"row": 1.0}}
    calls = []

    def measured() -> float:
        calls.append(value)
        return value

    assert small.faults(recorded, {kind: {"row": measured}})[0].startswith("row: ")
    assert len(calls) == 3
    once = iter([value, 0.5, 0.5])
    assert small.faults(recorded, {kind: {"row": lambda: next(once)}}) == [], "a busy moment is no fault"


def test_a_row_that_is_gone_or_new_fails() -> None:
    recorded = {"ratios": {"gone": 1.0}, "growths": {}, "peaks": {}}
    said = small.faults(recorded, {"ratios": {"new": lambda: 1.0}})
    assert said == ["gone: the row is gone", "new: not recorded; run python -m bench.small --record"]
