"""The one table of words of a reading: request, command, written change and sentence are all made of it."""

from __future__ import annotations

import inspect
from collections.abc import Iterator
from pathlib import Path
from typing import Any, get_args

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.cli.words import Words, with_words
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import WORDS, Reading, Word, reading_of
from ironstone.core.reading.resolve import resolve
from ironstone.engine.words import ReadingQuery, ReadingWords
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource
from tests.writing import bar_of_hexahedra, write_vtu

TEXTS = {
    "region": ["part:a", "set:b c"],
    "plane": ["0,0,1", "1,2,-0.5"],
    "span": ["so-far", "0:2"],
    "against": ["step=1", "of=jump"],
}


def values(word: Word) -> st.SearchStrategy[Any]:
    """What a word may be."""
    if word.choices:
        return st.sampled_from(word.choices)
    if word.kind == "flag":
        return st.booleans()
    if word.kind == "number":
        return st.floats(word.low or 0.0, word.high or 1e6)
    return st.sampled_from(TEXTS.get(word.name, ["x", "MPa", "2:top", "30"]))


drawn = st.fixed_dictionaries({"field": st.just("stress")}, optional={w.name: values(w) for w in WORDS if w.name != "field"})


def test_requests_and_commands_have_the_words_of_the_table() -> None:
    assert list(ReadingWords.model_fields) and set(ReadingWords.model_fields) == {w.name for w in WORDS}
    for word in WORDS:
        asked = ReadingWords.model_fields[word.name]
        assert (asked.default, asked.description) == (word.default, word.says)
        if word.choices:
            assert get_args(asked.annotation) == word.choices, word.name

    @with_words()
    def command(words: Words) -> None: ...

    options = inspect.signature(command).parameters
    assert list(options) == [w.name for w in WORDS]
    assert all(options[w.name].default == w.default for w in WORDS if w.name != "field")


@given(drawn, st.integers(0, 4))
def test_a_reading_is_the_same_however_it_is_written(words: dict[str, Any], step: int) -> None:
    asked = ReadingQuery(**words, step=step).reading()
    assert asked == reading_of(words, step)
    assert asked == Words({w.name: words.get(w.name, w.default) for w in WORDS}).reading(step)


@given(drawn)
def test_a_reading_is_the_usual_one_with_its_words_written_behind_it(words: dict[str, Any]) -> None:
    words.pop("against", None)
    text = ";".join(f"{name}={value:.17g}" if isinstance(value, float) else f"{name}={value}".lower() if value in (True, False)
                    else f"{name}={value}" for name, value in words.items())  # fmt: skip
    expected = reading_of(words)
    if expected.over == "step":
        expected = reading_of({n: v for n, v in words.items() if n != "when"} | {"when": words.get("when", False)})
    assert Reading("stress").changed(text) == expected


@pytest.fixture(scope="module")
def bar(tmp_path_factory: pytest.TempPathFactory) -> Iterator[ReviewSource]:
    """Three cubes, two steps, stress that differs from element to element and from step to step, an element set."""
    folder = tmp_path_factory.mktemp("words")
    points, cells, ids = bar_of_hexahedra()
    files = []
    for step in range(3):
        stress = np.array([[1.0, 2, -3, 0.5, -1, 2], [4, -1, 0, 2, 1, 3], [2, 2, 7, -1, 0.3, 1]]) * (1 + step) ** 2 - 3 * step
        data = {"displacement": 0.01 * (step + 1) * points, "GlobalIds": ids}
        files.append(write_vtu(folder / f"bar_{step}.vtu", points, cells, data, {"stress": stress}, time=float(step)))
    with Review.create(folder / "bar.ironstone") as review:
        intake(review, files)
        yield review.result()


OF_THE_BAR = {
    "measure": ["von-mises", "xx", "principal-1", "plane-normal"], "unit": ["kPa", None], "axes": ["global", "element"],
    "plane": ["0,0,1", "1,1,0"], "span": ["all", "so-far", "0:1"], "against": [None, "step=0", "averaging=all", "of=jump"],
    "region": ["all", "part:part 1"], "layer": [""], "phase": [""], "criterion": [""],
}  # fmt: skip


@settings(max_examples=300, deadline=None)
@given(
    st.fixed_dictionaries({w.name: st.sampled_from(OF_THE_BAR[w.name]) if w.name in OF_THE_BAR else values(w) for w in WORDS[1:]}),
    st.sampled_from(WORDS[1:]),
    st.data(),
)
def test_two_readings_that_differ_in_a_word_share_a_sentence_only_where_they_share_their_answers(
    bar: ReviewSource, words: dict[str, Any], word: Word, data: st.DataObject
) -> None:
    other = {**words, word.name: data.draw(st.sampled_from(OF_THE_BAR[word.name]) if word.name in OF_THE_BAR else values(word))}
    said = []
    for one in (words, other):
        try:
            reading = reading_of({"field": "stress", **one}, step=2)
            said.append((resolve(reading, bar).sentence(), evaluate(reading, bar, AtCorners()).values))
        except IronstoneError:
            return
    (first, mine), (second, its) = said
    if first == second:
        np.testing.assert_allclose(mine, its, rtol=1e-12, atol=1e-12, err_msg=first)


def test_a_new_word_is_told_of_in_one_place(tmp_path: Path) -> None:
    """What the page is given of the words is made of the table, and the check of the client compares them."""
    from tools.reading_words import module

    made = Path("web/src/bench/words.ts").read_text()
    assert module() == made and all(f"  {w.name}: {{" in made for w in WORDS)
