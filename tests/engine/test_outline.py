"""The order of exhibits and their chapters: nothing is lost whatever is moved, and each change is undone as one."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.engine.base import ask, question_of, remove
from ironstone.engine.kept.exhibits import keep_answer
from ironstone.engine.kept.outline import Arranged, Rearrange, arranged, exhibits_of, outline_of, rearrange
from ironstone.store import Review, intake


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path):
    with Review.create(tmp_path / "r.ironstone", "Bar") as opened:
        intake(opened, bar_files, "bar")
        for title in "ABCD":
            keep_answer(opened, title, ask(opened, question_of("balance", {})))
        yield opened


def shown(found: Arranged) -> dict[str, str]:
    return {c.title: "".join(e.title for e in c.exhibits) for c in found.chapters}


def number(review: Review, title: str) -> int:
    return next(e.id for e in exhibits_of(review) if e.title == title)


def test_exhibits_are_put_in_chapters_and_back(review: Review) -> None:
    assert shown(arranged(review)) == {"": "ABCD"}
    rearrange(review, Rearrange(what="add", title="Statics"))
    assert shown(rearrange(review, Rearrange(what="move", exhibit=number(review, "C"), chapter="Statics"))) == {
        "": "ABD",
        "Statics": "C",
    }
    before = Rearrange(what="move", exhibit=number(review, "A"), chapter="Statics", before=number(review, "C"))
    assert shown(rearrange(review, before)) == {"": "BD", "Statics": "AC"}
    rearrange(review, Rearrange(what="rename", chapter="Statics", title="Loads"))
    rearrange(review, Rearrange(what="add", title="Strength"))
    lifted = rearrange(review, Rearrange(what="lift", chapter="Strength", before_chapter="Loads"))
    assert list(shown(lifted)) == ["", "Strength", "Loads"]
    assert shown(rearrange(review, Rearrange(what="drop", chapter="Loads"))) == {"": "BD", "Strength": "AC"}
    review.undo()
    assert shown(arranged(review)) == {"": "BD", "Strength": "", "Loads": "AC"}
    for wrong, error in (
        (Rearrange(what="move", exhibit=99_999, chapter=""), NotFound),
        (Rearrange(what="move", exhibit=number(review, "A"), chapter="nowhere"), NotFound),
        (Rearrange(what="add", title="Loads"), IronstoneError),
        (Rearrange(what="rename", chapter="Strength", title="Loads"), IronstoneError),
    ):
        with pytest.raises(error):
            rearrange(review, wrong)
    assert shown(arranged(review)) == {"": "BD", "Strength": "", "Loads": "AC"}


def test_what_is_removed_is_left_out_and_comes_back_to_its_place(review: Review) -> None:
    rearrange(review, Rearrange(what="add", title="Loads"))
    rearrange(review, Rearrange(what="move", exhibit=number(review, "A"), chapter="Loads"))
    there = shown(arranged(review))
    remove(review, number(review, "A"), "exhibit")
    assert "A" not in "".join(shown(arranged(review)).values())
    review.undo()
    assert shown(arranged(review)) == there
    keep_answer(review, "E", ask(review, question_of("balance", {})))
    assert shown(arranged(review))["Loads"].endswith("E"), "what is new stands at the end"
    review.undo()


TITLES = st.sampled_from(["", "one", "two", "three"])


WHAT = st.sampled_from(["move", "add", "rename", "lift", "drop"])


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(WHAT, st.integers(0, 3), TITLES, TITLES, st.booleans())))
def test_nothing_is_lost_and_nothing_doubled_whatever_is_done(review: Review, changes) -> None:
    numbers = sorted(e.id for e in exhibits_of(review))
    for what, which, chapter, other, before in changes:
        words = {"what": what, "exhibit": numbers[which], "chapter": chapter, "title": other}
        if before:
            words |= {"before": numbers[(which + 1) % 4], "before_chapter": other}
        with suppress(IronstoneError, ValueError):
            rearrange(review, Rearrange(**words))
        found = outline_of(review)
        assert sorted(n for c in found.chapters for n in c.exhibits) == numbers
        titles = [c.title for c in found.chapters]
        assert len(titles) == len(set(titles)) and titles
