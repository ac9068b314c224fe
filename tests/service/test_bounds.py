"""What a request may hold and ask for: odd values of every word of every question, units, bodies; nothing holds the service up."""

from __future__ import annotations

import asyncio
import errno
import io
import json
import time
from collections.abc import AsyncIterator, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.errors import IronstoneError
from ironstone.core.units import conversion, known, tidied
from ironstone.engine.base import QUESTIONS
from ironstone.engine.words import ReadingQuery
from ironstone.service import bodies
from ironstone.service.app import create_app
from ironstone.service.uploads import Uploads
from ironstone.store import Review, intake
from tests.writing import bar_of_hexahedra, write_vtu

ODD: list[Any] = [
    None, True, -1, 0, 2**63, 10**40, 1e308, -1e308, 1e7, "", " ", "\x00", "x" * 30_000, "9" * 400, "m**9**9", "-", "a:b:c", "é",
    "point:1e308,0,0", "set:", "node:-1", "line:0,0,0:1e300,0,0", "0:0", [], [[]], [1e308] * 3, {}, {"a": {"b": []}}, ["x"] * 2000,
    "\ud800",
]  # fmt: skip


@pytest.fixture(scope="module")
def asked(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """A service on a bar of three cubes with stress and displacement."""
    folder = tmp_path_factory.mktemp("bounds")
    points, cells, ids = bar_of_hexahedra()
    data = {"displacement": 0.01 * points, "GlobalIds": ids}
    file = write_vtu(folder / "bar.vtu", points, cells, data, {"stress": np.eye(6)[:3]})
    with Review.create(folder / "bar.ironstone") as review:
        intake(review, [file])
        with TestClient(create_app(review), raise_server_exceptions=False) as client:
            yield client


def sound(kind: str) -> dict[str, Any]:
    """Words of a question that can be answered, as far as its words are known by their names."""
    usual = {
        "field": "stress",
        "measure": "von-mises",
        "at": "node:4",
        "path": "line:0,0.5,0.5:3,0.5,0.5",
        "line": "line:0,0.5,0.5:3,0.5,0.5",
    }
    return {name: value for name, value in usual.items() if name in QUESTIONS[kind].model_fields}


@pytest.mark.parametrize("kind", sorted(QUESTIONS))
def test_odd_values_of_any_word_are_answered_or_refused_soon(kind: str, asked: TestClient) -> None:
    # The words that all readings share are asked of one kind.
    shared = set() if kind == "read" else set(ReadingQuery.model_fields)
    for word in sorted(set(QUESTIONS[kind].model_fields) - shared):
        for value in ODD:
            body = json.dumps({**sound(kind), word: value})
            begun = time.monotonic()
            reply = asked.post(f"/api/ask/{kind}", content=body, headers={"Content-Type": "application/json"})
            assert reply.status_code in (200, 404, 409, 422), (word, value, reply.text[:200])
            assert len(reply.content) < 1_000_000 and (reply.status_code == 200 or len(reply.content) < 2_500), (word, value)
            # Far from what it takes, near enough to tell minutes.
            assert time.monotonic() - begun < 5, (word, value)


@pytest.mark.parametrize(
    "unit",
    ["m**9**9**9", "m^9^9^9", "kg^(1/0)", "m**99999999999", "m**1e9", "(m**9)**(9**9)", "m" * 500, "9**9**9**9", "m**(9**9)",
     "10**10**10 m", "m**(-(-9))**9", "1" * 200, "m\x00", "m; import os", "2**999999999"],
)  # fmt: skip
def test_a_unit_that_is_none_is_told_at_once(unit: str) -> None:
    begun = time.monotonic()
    assert not known(unit) and tidied(unit) is None
    with pytest.raises(IronstoneError, match="is not known"):
        conversion(unit, "mm")
    assert time.monotonic() - begun < 1


@pytest.mark.parametrize(
    "unit",
    ["N/mm^2", "N/mm**2", "kN*m", "kg*m**-3", "m^-1", "lbf*s**2/in", "W/(m*K)", "m**0.5", "MPa*m**(-2)", "µstrain", "degC", "1/s",
     "N·mm", "lbf/ft²", "m/s²"],
)  # fmt: skip
def test_units_of_practice_are_known(unit: str) -> None:
    assert known(unit), unit


@settings(max_examples=60)
@given(st.text(alphabet="mkgsN*^/().-+0123456789 e", max_size=40))
def test_no_text_of_signs_and_numbers_takes_long_to_be_no_unit(text: str) -> None:
    begun = time.monotonic()
    known(text)
    assert time.monotonic() - begun < 2


def test_a_body_without_a_length_is_bounded_too(asked: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bodies, "LARGEST_BODY", 100_000)
    taken = 0

    def pieces() -> Iterator[bytes]:
        nonlocal taken
        for _ in range(10_000):
            taken += 10_000
            yield b" " * 10_000

    reply = asked.post("/api/ask/read", content=pieces(), headers={"Content-Type": "application/json"})
    assert reply.status_code == 413 and "too much" in reply.json()["title"]
    reply = asked.post("/api/ask/read", content=b" " * 200_000, headers={"Content-Type": "application/json"})
    assert reply.status_code == 413


@pytest.mark.parametrize("origin", ["evil://testserver", "http://testserver.evil", "null", "https://other", "ftp://testserver"])
def test_only_pages_of_its_own_change_anything(asked: TestClient, origin: str) -> None:
    reply = asked.post("/api/uploads", headers={"Origin": origin})
    assert reply.status_code == 403
    assert asked.post("/api/uploads", headers={"Origin": "http://testserver"}).status_code == 200


def test_what_is_too_long_or_too_deep_is_refused_in_a_few_words(asked: TestClient) -> None:
    deep: Any = "x"
    for _ in range(200):
        deep = [deep]
    for value in ("y" * 5_000_000, deep, ["z"] * 400_000):
        reply = asked.post("/api/ask/read", json={"field": value})
        assert reply.status_code == 422 and len(reply.content) < 400
        assert any(word in reply.json()["title"] for word in ("too long", "too deep", "too much"))


def test_a_record_that_becomes_a_member_of_itself_locks_nothing(asked: TestClient) -> None:
    files = [("u,F\nmm,kN\n" + "\n".join(f"{x},{k * x}" for x in range(6))).encode() for k in (1, 2)]
    numbers = [asked.post(f"/api/tests?name=r{k}.csv", content=data).json()["id"] for k, data in enumerate(files)]
    mean = asked.post("/api/tests/mean", json={"name": "M", "tests": numbers})
    number = mean.json()["id"]
    asked.put(f"/api/kept/test/{number}", json={"of": [number, numbers[0]]})
    listed = asked.get("/api/tests")
    assert listed.status_code == 200 and {t["id"] for t in listed.json()} >= set(numbers)
    assert asked.delete(f"/api/tests/{number}").status_code < 300
    assert {t["id"] for t in asked.get("/api/tests").json()} == set(numbers)


@pytest.mark.parametrize("value", ["NaN", "Infinity", "-Infinity"])
def test_what_is_no_number_is_not_kept_as_one(asked: TestClient, value: str) -> None:
    check = '{"result": 1, "name": "n", "reading": {"field": "stress"}, "at": "node:1", "expected": VALUE}'
    exhibit = '{"title": "t", "questions": [{"kind": "balance", "words": {"step": VALUE}}]}'
    for path, body in (("/api/keep/check", check), ("/api/exhibits", exhibit)):
        reply = asked.post(path, content=body.replace("VALUE", value), headers={"Content-Type": "application/json"})
        assert reply.status_code == 422, reply.text


def test_a_name_of_letters_of_four_bytes_makes_a_file_and_control_characters_none(asked: TestClient) -> None:
    name = "\U00020000" * 80
    reply = asked.post("/api/reviews", json={"name": name})
    assert reply.status_code < 300, reply.text
    assert reply.json()["name"] == name
    assert asked.post("/api/reviews", json={"name": "bell\x07"}).status_code == 422
    # The bar is open again for whichever test comes next.
    assert asked.post("/api/reviews/open", json={"file": "bar.ironstone"}).status_code == 200


def test_a_full_disk_is_told_as_one_wherever_it_is_met(asked: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """While files are sent, while they are taken in, and while one is written: never as a fault of the file."""
    full = OSError(errno.ENOSPC, "No space left on device")

    class Full(io.BytesIO):
        def write(self, _data: object) -> int:  # type: ignore[override]
            raise full

    upload = asked.post("/api/uploads").json()["id"]
    with monkeypatch.context() as here:
        here.setattr(Path, "open", lambda *_a, **_k: Full())
        reply = asked.put(f"/api/uploads/{upload}/a.vtu", content=b"x" * 1000)
    assert reply.status_code == 507 and "The disk is full" in reply.json()["title"]

    def fails(*_a: object, **_k: object) -> int:
        raise full

    with monkeypatch.context() as here:
        here.setattr("ironstone.service.routes_results.take_in", fails)
        asked.put(f"/api/uploads/{upload}/a.vtu", content=b"x" * 1000)
        job = asked.post("/api/intake", json={"upload": upload, "name": None, "system": None, "look": False}).json()
        for _ in range(100):
            job = asked.get(f"/api/jobs/{job['id']}").json()
            if job["state"] != "running":
                break
            time.sleep(0.02)
    assert job["state"] == "failed" and "The disk is full" in job["error"]
    with monkeypatch.context() as here:
        here.setattr("ironstone.service.routes_results.export", fails)
        reply = asked.get("/api/results/1/export/uff")
    assert reply.status_code == 507 and "Nothing is wrong with the file" in reply.json()["title"]


def test_half_a_file_whose_sender_went_away_does_not_stay(tmp_path: Path) -> None:
    async def broken() -> AsyncIterator[bytes]:
        yield b"first half"
        raise ConnectionError

    uploads = Uploads(tmp_path)
    try:
        upload = uploads.begin()
        # In a thread of its own: the one the tests run in may have a loop already.
        with ThreadPoolExecutor(1) as aside, pytest.raises(ConnectionError):
            aside.submit(asyncio.run, uploads.receive(upload, "a.vtu", broken())).result()
        assert uploads.files(upload) == []
    finally:
        uploads.close()
