"""What an exhibit of an older version said at first reading decides its colour; a newer one keeps the state it was judged by."""

from __future__ import annotations

import pytest

from ironstone.engine.kept.exhibits import ExhibitKept


@pytest.mark.parametrize(
    ("verdict", "state"),
    [
        ("Agrees: everything is within the limits.", "good"),
        ("Agrees but for one: in the model, RMS deviation 5.2 % (limit 5 %).", "doubt"),
        ("Does not agree: in the model, forces 40 % high (limit 5 %).", "bad"),
        ("The gauges do not agree with the model: RMS deviation 12 %.", "bad"),
        ("The profile agrees with the record: RMS deviation 1 %.", "good"),
        ("Agrees: ply 3 fails first, as in the test.", "good"),
        ("Fails at 3.2 kN.", "bad"),
        ("They disagree from 2 kN on.", "bad"),
        ("Stiffness and force do not all agree.", "bad"),
        ("doubtful", "doubt"),
        ("Seen by three: no agreement yet.", ""),
        ("To be measured again.", ""),
        ("", ""),
    ],
)
def test_a_verdict_is_what_it_says_first(verdict: str, state: str) -> None:
    stored = {"title": "t", "sentence": "s", "verdict": verdict}
    assert ExhibitKept.understood(stored).state == state
    assert ExhibitKept.understood({**stored, "state": "doubt", "version": 2}).state == "doubt"
