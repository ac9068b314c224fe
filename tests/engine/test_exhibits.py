"""An exhibit is its questions with their answers as they were: it can be asked again, and tells what is another now."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import Question, ask, question_of, readable
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.kept.changes import changes_between
from ironstone.engine.kept.exhibits import Asked, ExhibitIn, ExhibitKept, answers_of, asked_again, keep_exhibit
from ironstone.engine.kept.in_view import InView
from ironstone.engine.kept.outline import exhibits_of
from ironstone.engine.statics.balance import Balance
from ironstone.engine.words import ReadingWords
from ironstone.service.app import create_app
from ironstone.store import Review

LUG = "lug, fine"
STRESS = {"result": LUG, "field": "stress", "measure": "von-mises", "extremes": True}


@pytest.fixture
def demo(demo_copy: Path) -> Iterator[Review]:
    with Review.open(demo_copy) as review:
        yield review


def kept(review: Review, *questions: tuple[str, dict[str, Any]], **more: Any) -> int:
    asked = [Asked(kind=kind, words=words) for kind, words in questions]
    return keep_exhibit(ExhibitIn(title="t", questions=asked, **more), review).id


def test_what_is_kept_is_what_the_engine_answers(demo: Review) -> None:
    answer = ask(demo, question_of("balance", {"result": LUG}))
    number = kept(demo, ("balance", {"result": LUG}), of="table")
    (found,) = (e for e in exhibits_of(demo) if e.id == number)
    assert (found.sentence, found.verdict, found.state) == (answer.sentence, answer.verdict, answer.state)
    assert found.shown == f"Result {LUG}" and found.can_ask and not found.changed and found.has_table
    (stored,) = (e for i, e in readable(demo, ExhibitKept) if i.id == number)
    (then,) = answers_of(demo, stored)
    assert changes_between(then, answer) == [] and then.provenance == answer.provenance


def test_asked_again_on_the_same_state_it_says_the_same(demo: Review) -> None:
    number = kept(demo, ("read", STRESS), ("strength", {"result": "weather mast", "criterion": "hashin"}))
    again = asked_again(demo, number)
    assert (again.said, again.changes) == ("It says the same now.", [])
    assert again.sentence_now == again.sentence_then


def test_what_was_stated_since_is_told_and_asked_again_gives_the_new_figures(demo: Review) -> None:
    """Twice the strength halves the utilisation: told as changed before it is asked, in figures after."""
    number = kept(demo, ("utilisation", {"result": LUG}), of="table")
    lug = demo.result(LUG)
    steel = dict(lug.setup.constants["material 1"])
    demo.set_constants(lug.id, "material 1", {**steel, "yield": 2 * steel["yield"]})
    with TestClient(create_app(demo)) as client:
        (listed,) = (e for e in client.get("/api/exhibits").json() if e["id"] == number)
        assert listed["changed"]
        again = client.post(f"/api/exhibits/{number}/again").json()
    assert again["changes"] and "another now" in again["said"]
    moved = {c["what"]: c for c in again["changes"]}
    row = next(c for name, c in moved.items() if name.startswith("utilisation, row"))
    assert row["now"] == pytest.approx(row["then"] / 2)


def test_one_kept_before_says_that_it_cannot_be_asked(demo: Review) -> None:
    """Exhibits were pictures with an address once: that address is the view it is reopened in."""
    old = {"of": "view", "title": "Peak", "sentence": "s", "state": "", "version": 2, "result": 1,
           "address": "/?review=old.ironstone&bay=field&result=1&field=stress&step=3&low=2&camera=1,2,3,0,0,0,1"}  # fmt: skip
    number = demo.add("exhibit", old, "kept by an older program").id
    (found,) = (e for e in exhibits_of(demo) if e.id == number)
    assert not found.can_ask and not found.gone and not found.changed
    assert found.address == "/?bay=field&result=1&field=stress&step=3&low=2&camera=1%2C2%2C3%2C0%2C0%2C0%2C1"
    with pytest.raises(IronstoneError, match="cannot be asked again"):
        asked_again(demo, number)


def test_a_question_that_cannot_be_asked_is_not_kept(demo: Review) -> None:
    before = len(exhibits_of(demo))
    for words in ({"result": "no such"}, {"result": LUG, "step": "noon"}, {"colour": "red"}):
        with pytest.raises(IronstoneError):
            kept(demo, ("balance", words))
    assert len(exhibits_of(demo)) == before


def test_the_table_leaves_with_its_reading_and_a_formula_in_it_is_text(demo: Review) -> None:
    number = kept(demo, ("curve", {"pairing": "Loop"}), ("agreement", {"pairing": "Loop", "test": "specimen_F3.csv"}), of="curve")
    (stored,) = (e for i, e in readable(demo, ExhibitKept) if i.id == number)
    assert stored.table is not None
    lines = demo.attachment(stored.table)[2].decode().splitlines()
    assert lines[1] == "s,mm,kN" and lines[-1] == "# Result flexure B2; curve Loop; test record specimen_F3.csv"
    assert (stored.verdict[:14], stored.state) == ("Agrees but for", "doubt")
    assert stored.sentence.startswith("reaction") or "reaction" in stored.sentence


def answer(figures: dict[str, float | None], column: list[float | int | str | None]) -> Answer:
    told = [Figure(label=n, value=v, unit="MPa") for n, v in figures.items()]
    return Answer(kind="x", sentence="", figures=told, columns=[Column(name="force", unit="N", values=column)])


def test_what_is_another_is_told_and_rounding_is_not() -> None:
    then = answer({"a": 1.0, "b": 2.0, "gone": 3.0, "lost": 4.0}, [1.0, 2.0, None, "x"])
    now = answer({"a": 1.0 + 1e-12, "b": 2.5, "lost": None, "new": 5.0}, [1.0, 2.5, None, "x"])
    found = {c.what: (c.then, c.now) for c in changes_between(then, now)}
    assert found == {"b": (2.0, 2.5), "gone": (3.0, None), "lost": (4.0, None), "new": (None, 5.0), "force, row 2": (2.0, 2.5)}
    assert changes_between(then, then) == []
    # A value that came or went is more than any other; a column of other rows tells how many.
    (change,) = changes_between(answer({}, [1.0, 2.0]), answer({}, [900.0, None]))
    assert (change.what, change.then, change.now) == ("force, row 2", 2.0, None)
    (change,) = changes_between(answer({}, [1.0, 2.0]), answer({}, [1.0]))
    assert (change.what, change.then, change.now) == ("rows of force", 2.0, 1.0)


WORDS = st.text(st.characters(codec="ascii", exclude_categories=["C"]), min_size=1, max_size=8).filter(lambda t: "," not in t)
FLOATS = st.floats(-1e6, 1e6).map(lambda v: float(f"{v:.6g}"))


@given(
    st.builds(
        InView,
        bay=st.sampled_from(["field", "trace"]),
        result=st.none() | st.integers(1, 99),
        reading=st.none() | st.builds(ReadingWords, field=WORDS, measure=WORDS, over=st.sampled_from(["step", "largest"])),
        step=st.integers(0, 500),
        low=st.none() | FLOATS,
        log=st.booleans(),
        hidden=st.lists(st.integers(0, 50), max_size=4),
        paths=st.none() | st.lists(st.integers(0, 50), max_size=4),
        camera=st.just([]) | st.lists(FLOATS, min_size=7, max_size=7),
        arrows=st.just([]) | st.lists(WORDS, min_size=5, max_size=7),
        mirrored=st.booleans(),
        formula=st.just("") | WORDS,
    )
)
def test_what_is_in_view_survives_its_address(view: InView) -> None:
    assert InView.from_address(f"/?review=any&{view.address()}") == view


@given(st.text(max_size=200))
def test_any_text_is_a_view_of_what_makes_sense_in_it(text: str) -> None:
    InView.from_address(text)
    found = InView.from_address("step=3&bands=99999&camera=1,x&shown=-1&low=nan&hidden=a&kitchen=1")
    assert (found.step, found.bands, found.camera, found.exaggeration, found.low, found.hidden) == (3, 9, [], 1.0, None, [])


def test_an_exhibit_of_two_results_is_told_as_changed_with_either(demo: Review) -> None:
    words = {"result": LUG, "less": "lug, coarse", "field": "stress", "measure": "von-mises"}
    number = kept(demo, ("difference", words), of="table")

    def changed() -> bool:
        return next(e.changed for e in exhibits_of(demo) if e.id == number)

    assert not changed()
    demo.set_constants(demo.result("lug, coarse").id, "material 1", {"young": 1.0e5, "poisson": 0.3})
    assert changed()
    demo.undo()
    assert not changed()
    demo.set_constants(demo.result("roof truss").id, "part 1", {"young": 1.0e5, "poisson": 0.3})
    assert not changed(), "a result it is not of"


def test_what_an_answer_has_beside_is_held_against_what_its_question_says(demo: Review) -> None:
    """A number that the page is not told of, or one that is missing, is found wherever the question is asked."""

    class Loose(Balance):
        def answer(self, review: Review) -> Answer:
            found = super().answer(review)
            return found.model_copy(update={"more": {k: v for k, v in found.more.items() if k != "applied"}})

    class Chatty(Question):
        def answer(self, review: Review) -> Answer:
            return Answer(kind="chatty", sentence="", more={"unheard": 1})

    for question, said in ((Loose(result=LUG), "applied"), (Chatty(result=LUG), "unheard")):
        with pytest.raises(ValidationError, match=said):
            ask(demo, question)
