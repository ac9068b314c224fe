"""Heavy questions wait their turn: in order, within memory, with their place told, and not for those who have gone."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from starlette.types import Message

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.wanted import NotWanted, still_wanted, wanted_while
from ironstone.engine.base import QUESTIONS
from ironstone.engine.weight import A_CORNER, weight
from ironstone.service import routes_balance, routes_drawn
from ironstone.service import turns as module
from ironstone.service.app import create_app
from ironstone.service.jobs import Jobs
from ironstone.service.routes_asked import asked
from ironstone.service.turns import InTurn, Turns
from ironstone.store import Review, intake
from tests.writing import bar_of_hexahedra, write_vtu

VALUES = "/api/results/1/values?field=stress&measure=von-mises&step=0"


@pytest.fixture
def bench(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    """A service on three cubes, to which even they are heavy; one question at a time."""
    monkeypatch.setattr(module, "LIGHT", 1)
    points, cells, ids = bar_of_hexahedra()
    data = {"displacement": 0.01 * points, "GlobalIds": ids}
    file = write_vtu(tmp_path / "bar.vtu", points, cells, data, {"stress": np.eye(6)[:3]})
    with Review.create(tmp_path / "bar.ironstone") as review:
        intake(review, [file])
        app = create_app(review)
        app.state.turns.at_once = 1
        with TestClient(app) as client:
            yield client


def test_turns_come_in_order_and_within_the_memory_there_is() -> None:
    turns = Turns(budget=100, at_once=3)
    first, second, large, small = (turns.join(size) for size in (60, 40, 90, 5))
    assert [t.ready.done() for t in (first, second, large, small)] == [True, True, False, False]
    assert [turns.before(t) for t in (first, large, small)] == [0, 2, 3]
    turns.leave(first)
    assert not large.ready.done(), "40 and 90 are more than 100"
    assert not small.ready.done(), "nothing overtakes what waits for much"
    turns.leave(second)
    assert large.ready.done() and small.ready.done()


def test_what_takes_more_than_all_the_memory_is_worked_out_alone() -> None:
    turns = Turns(budget=100, at_once=3)
    huge, other = turns.join(1000), turns.join(1)
    assert huge.ready.done() and not other.ready.done()
    turns.leave(huge)
    assert other.ready.done()


def test_who_leaves_the_queue_holds_nobody_up() -> None:
    turns = Turns(budget=100, at_once=1)
    working, gone, last = (turns.join(10, page) for page in ("a", "b", "c"))
    assert (turns.before_page("a"), turns.before_page("b"), turns.before_page("c"), turns.before_page("d")) == (0, 1, 2, 0)
    turns.leave(gone)
    assert turns.before_page("c") == 1
    turns.leave(working)
    assert last.ready.done()


def test_the_memory_it_may_take_is_said_at_the_start() -> None:
    assert Turns(budget=3 * 1024**3, at_once=1).said() == (
        "Questions of large models may take 3 GB of memory together, one at a time; the others wait."
    )


def test_a_view_waits_its_turn_and_is_told_its_place_while_simple_questions_pass(bench: TestClient) -> None:
    turns: Turns = bench.app.state.turns  # type: ignore[attr-defined]
    before = turns.join(1), turns.join(1)
    with ThreadPoolExecutor(1) as pool:
        waiting = pool.submit(bench.get, VALUES, headers={"X-Page": "mine"})
        try:
            while turns.before_page("mine") == 0:
                time.sleep(0.01)
            assert bench.get("/api/turns", headers={"X-Page": "mine"}).json()["before"] == 2
            assert bench.get("/api/review").status_code == 200
            read = bench.post("/api/ask/read", json={"field": "stress", "measure": "von-mises", "at": "node:4"})
            assert read.status_code == 200 and read.json()["more"]["values"]
            assert bench.post("/api/flags", json={"result": 1, "node": 2}).status_code == 200
            assert not waiting.done()
        finally:
            for ticket in before:
                turns.leave(ticket)
        assert waiting.result(30).status_code == 200
    assert bench.get("/api/turns", headers={"X-Page": "mine"}).json()["before"] == 0


def test_long_work_says_that_it_waits_and_can_be_stopped_there() -> None:
    turns = Turns(budget=100, at_once=1)
    ahead = turns.join(1)
    jobs = Jobs(turns)
    started = jobs.start(lambda tell: 7, weight=module.LIGHT)
    job = jobs.get(started.id)
    while "before" not in job.out.text:
        time.sleep(0.01)
    assert job.out.text == "waits its turn: 1 before it"
    jobs.cancel(started.id)
    assert job.thread is not None
    job.thread.join(10)
    assert job.out.state == "stopped"
    turns.leave(ahead)
    assert turns.join(1).ready.done(), "what was stopped has left the queue"


def test_long_work_lets_others_come_in_between_its_pieces() -> None:
    """A reading over a thousand steps must not hold one picture up until its end."""
    turns = Turns(budget=100, at_once=1)
    jobs = Jobs(turns)
    begun, came = threading.Event(), threading.Event()

    def work(tell: Any) -> int:
        begun.set()
        for step in range(2000):
            tell(step / 2000, f"step {step}")
            if came.is_set():
                return step
            time.sleep(0.005)
        return -1

    started = jobs.start(work, weight=module.LIGHT)
    assert begun.wait(10)
    picture = turns.join(1)
    picture.ready.result(10)
    came.set()
    turns.leave(picture)
    thread = jobs.get(started.id).thread
    assert thread is not None
    thread.join(10)
    assert jobs.get(started.id).out.state == "done" and jobs.get(started.id).out.result != -1
    assert turns.join(1).ready.done()


def asked_of(app: Any, address: str, gone: threading.Event) -> list[Message]:
    """What the service sends to somebody who asks, and goes away when ``gone`` is set."""
    sent: list[Message] = []

    async def once() -> None:
        begun = False

        async def receive() -> Message:
            nonlocal begun
            if not begun:
                begun = True
                return {"type": "http.request", "body": b"", "more_body": False}
            while not gone.is_set():
                await asyncio.sleep(0.01)
            return {"type": "http.disconnect"}

        async def send(message: Message) -> None:
            sent.append(message)

        path, _, query = address.partition("?")
        scope = {
            "type": "http", "method": "GET", "path": path, "raw_path": path.encode(), "query_string": query.encode(),
            "root_path": "", "headers": [(b"host", b"127.0.0.1")], "http_version": "1.1", "scheme": "http",
            "server": ("127.0.0.1", 80), "app": app,
        }  # fmt: skip
        await app(scope, receive, send)

    asyncio.run(once())
    return sent


def test_a_question_is_dropped_when_whoever_asked_it_has_gone(bench: TestClient) -> None:
    turns: Turns = bench.app.state.turns  # type: ignore[attr-defined]
    ahead, gone = turns.join(1), threading.Event()
    with ThreadPoolExecutor(1) as pool:
        waiting = pool.submit(asked_of, bench.app, VALUES, gone)
        while not turns._waiting:
            time.sleep(0.01)
        gone.set()
        assert waiting.result(10)[0]["status"] == 499
    assert not turns._waiting
    turns.leave(ahead)


def test_work_that_has_begun_ends_when_nobody_waits_for_it(bench: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    gone, reached = threading.Event(), threading.Event()

    def slow(*_: object) -> None:
        reached.set()
        for _ in range(1000):
            still_wanted()
            time.sleep(0.01)
        raise AssertionError("it was worked out for nobody")

    monkeypatch.setattr("ironstone.service.routes_drawn.on_surface", slow)
    with ThreadPoolExecutor(1) as pool:
        waiting = pool.submit(asked_of, bench.app, VALUES, gone)
        assert reached.wait(10)
        gone.set()
        assert waiting.result(10)[0]["status"] == 499
    assert not bench.app.state.turns._working  # type: ignore[attr-defined]


def test_a_reading_nobody_waits_for_is_not_worked_out(bench: TestClient) -> None:
    source = bench.app.state.shelf.review.result(1)  # type: ignore[attr-defined]
    reading = Reading("stress", "von-mises")
    with wanted_while(lambda: False), pytest.raises(NotWanted):
        evaluate(reading, source, AtCorners())
    assert np.isfinite(evaluate(reading, source, AtCorners()).values).all()


def test_what_is_heavy_is_told_by_the_size_of_the_model_and_by_what_is_looked_at(bench: TestClient) -> None:
    review = bench.app.state.shelf.review  # type: ignore[attr-defined]
    assert weight(review, "whole", 1) == 24 * A_CORNER
    assert weight(review, "place", 1) == 0 and weight(review, "place", 1, "all") == 24 * A_CORNER
    assert weight(review, "kept", None) == 0
    with pytest.raises(IronstoneError):
        weight(review, "whole", 99)


def test_every_question_and_every_picture_says_what_it_looks_at() -> None:
    routers = (asked(), routes_drawn.router, routes_balance.router)
    routes = {r.path: vars(r.endpoint).get("reach") for router in routers for r in router.routes if isinstance(r, InTurn)}
    assert all(routes[f"/ask/{kind}"] is not None for kind in QUESTIONS)
    drawn = ("surface", "deformation", "values", "arrows", "cut-faces", "averagings", "range", "measure", "face-force")
    assert [routes[f"/results/{{result}}/{name}"] for name in drawn] == ["whole"] * len(drawn)
    assert QUESTIONS["balance"].reach_of({}) == QUESTIONS["sense"].reach_of({}) == "whole"
    read = QUESTIONS["read"].reach_of
    assert read({"at": "node:4"}) == "place" == read({"at": "point:1,2,3"})
    assert read({}) == "whole" == read({"at": "set:held"}) == read({"at": "node:4", "extremes": True})


def test_one_look_that_fails_does_not_silence_those_who_listen(bench: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """A review that is just being closed raises what it likes; the next look goes on."""
    changes, review = bench.app.state.changes, bench.app.state.shelf.review  # type: ignore[attr-defined]
    honest, failed = review.state, []

    def now_and_then() -> str:
        if len(failed) in (1, 2):
            failed.append(1)
            raise RuntimeError
        failed.append(1)
        return str(honest())

    monkeypatch.setattr(review, "state", now_and_then)
    monkeypatch.setattr("ironstone.service.changes.LOOK", 0.01)

    async def listen() -> list[str]:
        heard = []
        async for line in changes.told(review.path, lambda: review):
            heard.append(line)
            if len(heard) == 1:
                review.add("note", {"result": 1}, "Stated")
            if len(heard) == 2:
                return heard
        return heard

    with ThreadPoolExecutor(1) as pool:
        first, second = pool.submit(lambda: asyncio.run(asyncio.wait_for(listen(), 10))).result()
    assert first != second and first.startswith("data: ") and len(failed) >= 4
