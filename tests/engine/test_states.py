"""What an answer comes to is judged where its verdict is made, by the same limits for page, command, table and exhibit."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from ironstone.core.verdicts import by_share, state_of, worst_of
from ironstone.engine.base import ask, question_of, readable
from ironstone.engine.carrier import Answer
from ironstone.engine.curves.pairings import PairingIn
from ironstone.engine.kept.exhibits import ExhibitKept, keep_answer
from ironstone.store import Review


@pytest.fixture(scope="module")
def demo(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Review]:
    copy = tmp_path_factory.mktemp("states") / "demo.ironstone"
    copy.write_bytes(demo_file.read_bytes())
    with Review.open(copy) as review:
        yield review


def test_a_share_is_judged_by_two_limits() -> None:
    assert [by_share(s, 0.01, 0.05) for s in (0.0, 0.0099, 0.01, 0.049, 0.05, 2.0)] == [
        "agrees", "agrees", "doubtful", "doubtful", "fails", "fails",
    ]  # fmt: skip
    assert by_share(None, 0.01, 0.05) == by_share(float("nan"), 0.01, 0.05) == "", "what is missing agrees with nothing"
    assert [state_of(v) for v in ("agrees", "doubtful", "fails", "not checked", "nothing to balance")] == [
        "good",
        "doubt",
        "bad",
        "",
        "",
    ]
    assert worst_of(["agrees", "not checked", "doubtful"]) == "doubtful" and worst_of(["not checked"]) == ""


def answered(review: Review, kind: str, **words: object) -> Answer:
    return ask(review, question_of(kind, words))


@pytest.mark.parametrize(
    ("kind", "words", "begins", "state"),
    [
        ("balance", {"result": "lug, fine"}, "agrees", "good"),
        ("through-plane", {"result": "roof truss", "origin": "6000,0,0", "normal": "1,0,0"}, "", None),
        ("utilisation", {"result": "lug, fine"}, "", None),
        ("members", {"result": "roof truss", "step": 5}, "All 31 lengthen", "good"),
        ("members", {"result": "roof truss"}, "All 31 lengthen", "doubt"),
    ],
)
def test_verdict_and_state_go_together(demo: Review, kind: str, words: dict[str, object], begins: str, state: str | None) -> None:
    answer = answered(demo, kind, **words)
    assert answer.verdict.startswith(begins)
    assert bool(answer.verdict) == bool(answer.state) or answer.verdict == "nothing to balance"
    assert state is None or answer.state == state


def test_members_without_a_force_agree_with_nothing(demo: Review) -> None:
    """At the first step the roof carries no snow: what is missing is no agreement."""
    answer = answered(demo, "members", result="roof truss", step="first")
    assert (answer.state, answer.verdict) == ("", "No member carries a force that could be held against its lengthening.")


def test_a_curve_and_its_record_are_judged_alike_in_words_and_state(demo: Review) -> None:
    """The words of an agreement begin as its state says, whatever the limits."""
    pairing = next(p.name for _, p in readable(demo, PairingIn) if p.name == "Loop")
    answer = answered(demo, "agreement", pairing=pairing, test="specimen_F3.csv")
    begins = {"good": "Agrees:", "doubt": "Agrees but for", "bad": "Does not agree"}
    assert answer.verdict.startswith(begins[answer.state]) and answer.state == "doubt"


def test_an_exhibit_keeps_the_state_it_was_judged_by(demo: Review) -> None:
    answer = answered(demo, "balance", result="lug, fine")
    kept = ExhibitKept.understood(keep_answer(demo, "balance", answer).payload)
    assert (kept.verdict, kept.state) == (answer.verdict, "good")
