"""Changes made at one time: each is made of what the other has left, or is refused; none is lost, no name is given twice."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import changed, keep, readable, thing_of
from ironstone.engine.kept.checks import CheckIn
from ironstone.engine.kept.exhibits import Asked, ExhibitEdit, ExhibitIn, ExhibitKept, edit_exhibit, keep_exhibit
from ironstone.engine.reading.flags import FlagEdit, FlagIn, named
from ironstone.service.app import create_app
from ironstone.store import Review, intake
from tests.writing import bar_of_hexahedra, write_vtu

TRIES = 8
READING = {"field": "stress", "measure": "von-mises"}


@pytest.fixture(scope="module")
def openings(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Review, Review]]:
    """One review of two results, opened twice as by two programs."""
    folder = tmp_path_factory.mktemp("at_once")
    points, cells, ids = bar_of_hexahedra()
    data = {"displacement": 0.01 * points, "GlobalIds": ids}
    file = write_vtu(folder / "bar.vtu", points, cells, data, {"stress": np.eye(6)[:3]})
    with Review.create(folder / "bar.ironstone") as first:
        intake(first, [file], name="first")
        intake(first, [file], name="second")
        with Review.open(folder / "bar.ironstone") as second:
            yield first, second


def at_once(*works: Callable[[], Any]) -> list[Any]:
    """What came of works that begin at one moment, each in a thread of its own: answers, or the errors they raised in words."""
    begin = threading.Barrier(len(works))

    def run(work: Callable[[], Any]) -> Any:
        begin.wait()
        try:
            return work()
        except IronstoneError as error:
            return error

    with ThreadPoolExecutor(len(works)) as pool:
        return list(pool.map(run, works))


def refused(answers: list[Any]) -> int:
    return sum(isinstance(answer, IronstoneError) for answer in answers)


def test_two_sets_renamed_to_one_name_are_both_there(openings: tuple[Review, Review]) -> None:
    first, second = openings
    for turn in range(TRIES):
        one, other, new = f"a {turn}", f"b {turn}", f"new {turn}"
        first.make_set(1, one, np.array([0, 1]), "by hand")
        first.make_set(1, other, np.array([2, 3]), "by hand")
        answers = at_once(lambda a=one, n=new: first.rename_set(1, a, n), lambda b=other, n=new: second.rename_set(1, b, n))
        assert refused(answers) == 1
        assert len({one, other, new} & set(first.correction(1)["sets"])) == 2


def test_two_words_of_one_kept_thing_are_both_changed(openings: tuple[Review, Review]) -> None:
    first, second = openings
    words = {"result": 1, "name": "peak", "reading": {**READING, "step": 0}, "at": "max", "expected": 1.0, "tolerance": 0.1}
    item = keep(first, thing_of("check", words)).id
    for turn in range(TRIES):
        value, source = 2.0 + turn, f"a table, row {turn}"
        answers = at_once(
            lambda v=value: changed(first, item, "check", {"expected": v}),
            lambda s=source: changed(second, item, "check", {"source": s}),
        )
        assert not refused(answers)
        kept = CheckIn.understood(first.item(item).payload)
        assert (kept.expected, kept.source) == (value, source)


def test_a_name_kept_by_several_at_once_is_kept_once(openings: tuple[Review, Review]) -> None:
    first, _ = openings
    for turn in range(TRIES):
        curve = {"result": 1, "name": f"curve{turn}", "expression": f"{turn} * step"}
        at_once(*(lambda r=review, c=curve: keep(r, thing_of("named", c)) for review in openings * 2))
        names = Counter(thing.name for _, thing in readable(first, type(thing_of("named", curve))))
        assert names[f"curve{turn}"] == 1


def test_two_results_do_not_come_by_one_name(openings: tuple[Review, Review]) -> None:
    first, second = openings
    for turn in range(TRIES):
        answers = at_once(
            lambda n=f"lug {turn}": first.rename_result(1, n),
            lambda n=f"lug {turn}": second.rename_result(2, n),
        )
        assert refused(answers) == 1
        assert len({r.name for r in first.results()}) == 2


def test_title_and_verdict_of_an_exhibit_are_those_of_one_edit(openings: tuple[Review, Review]) -> None:
    first, _ = openings
    asked = Asked(kind="balance", words={"result": 1})
    item = keep_exhibit(ExhibitIn(of="table", title="t", questions=[asked]), first).id
    before = first.item(item).revision
    at_once(*(lambda r=r, k=k: edit_exhibit(r, item, ExhibitEdit(title=f"t{k}", note=f"n{k}")) for k, r in enumerate(openings * 3)))
    kept = ExhibitKept.understood(first.item(item).payload)
    assert kept.title[1:] == kept.note[1:] and kept.sentence.startswith("load balance")
    assert first.item(item).revision == before + 6


def test_flags_named_at_once_keep_their_places(openings: tuple[Review, Review]) -> None:
    first, _ = openings
    flags = [keep(first, FlagIn(result=1, node=node)).id for node in range(1, 5)]
    at_once(*(lambda r=openings[k % 2], f=f, k=k: named(r, f, FlagEdit(name=f"pin {k}")) for k, f in enumerate(flags)))
    found = [FlagIn.understood(first.item(f).payload) for f in flags]
    assert [(f.node, f.name) for f in found] == [(k + 1, f"pin {k}") for k in range(4)]


def test_a_change_that_fails_half_way_leaves_nothing(openings: tuple[Review, Review]) -> None:
    """All of one change is one transaction, with the files that come with it."""
    first, _ = openings
    before = first.state(), len(first.items())

    with pytest.raises(RuntimeError), first.writing():
        first.attach("a.csv", "text/csv", b"1")
        first.add("note", {"result": 1}, "kept")
        assert len(first.items()) == before[1] + 1, "what is written is read within"
        raise RuntimeError
    assert (first.state(), len(first.items())) == before


def test_what_another_thread_reads_is_as_it_was_before(openings: tuple[Review, Review]) -> None:
    first, _ = openings
    count = len(first.items())
    with first.writing():
        first.add("note", {"result": 1}, "kept")
        with ThreadPoolExecutor(1) as pool:
            assert pool.submit(lambda: len(first.items())).result() == count
    assert len(first.items()) == count + 1


def test_sixteen_sets_made_at_once_are_all_answered(openings: tuple[Review, Review]) -> None:
    first, _ = openings
    with TestClient(create_app(first), raise_server_exceptions=False) as client:
        made = at_once(
            *(
                lambda k=k: client.post("/api/results/2/sets", json={"name": f"s{k}", "how": "nodes", "nodes": [k + 1]}).status_code
                for k in range(16)
            )
        )
    assert made == [200] * 16
    assert {f"s{k}" for k in range(16)} <= set(first.correction(2)["sets"])
