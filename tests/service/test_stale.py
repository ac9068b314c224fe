"""Two windows on one review: a change made from an old view is told, not done, and none overwrites another."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from ironstone.service.app import create_app
from ironstone.store import Review, intake


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "a.ironstone") as made:
        intake(made, bar_files)
        yield made


@pytest.fixture
def client(review: Review) -> Iterator[TestClient]:
    with TestClient(create_app(review), raise_server_exceptions=False) as found:
        yield found


def axes(name: str) -> dict[str, object]:
    return {"name": name, "kind": "cartesian", "origin": [0, 0, 0], "third": [0, 0, 1], "first": [1, 0, 0]}


def test_a_statement_from_an_old_view_is_told_and_not_made(client: TestClient) -> None:
    seen = client.get("/api/results/1").json()["stated"]
    first = client.put("/api/results/1/units", json={"system": "m-N-s-kg-Pa"}, headers={"If-Match": f'"{seen}"'})
    assert first.status_code == 200
    second = client.put("/api/results/1/units", json={"system": "mm-kN-ms-kg-GPa"}, headers={"If-Match": f'"{seen}"'})
    assert second.status_code == 409
    assert "changed elsewhere in the meantime" in second.json()["title"]
    now = client.get("/api/results/1").json()
    assert now["system"] == "m-N-s-kg-Pa"
    again = client.put("/api/results/1/units", json={"system": "mm-kN-ms-kg-GPa"}, headers={"If-Match": f'"{now["stated"]}"'})
    assert again.json()["system"] == "mm-kN-ms-kg-GPa"


def test_after_an_undo_the_state_is_the_one_before(client: TestClient) -> None:
    seen = client.get("/api/results/1").json()["stated"]
    client.put("/api/results/1/units", json={"system": "m-N-s-kg-Pa"})
    client.post("/api/undo")
    assert client.put("/api/results/1/axes", json=axes("a"), headers={"If-Match": f'"{seen}"'}).status_code == 200


def test_a_flag_named_elsewhere_is_not_named_over(client: TestClient) -> None:
    flag = client.post("/api/flags", json={"result": 1, "node": 1}).json()
    seen = {"If-Match": f'"{flag["revision"]}"'}
    assert client.put(f"/api/flags/{flag['id']}", json={"name": "root"}, headers=seen).status_code == 200
    answer = client.put(f"/api/flags/{flag['id']}", json={"name": "tip"}, headers=seen)
    assert answer.status_code == 409 and "This flag was changed elsewhere" in answer.json()["title"]
    assert client.delete(f"/api/kept/flag/{flag['id']}", headers=seen).status_code == 409
    assert client.get("/api/flags", params={"result": 1}).json()[0]["name"] == "root"


def test_forty_corrections_at_one_time_are_all_there_or_told(client: TestClient) -> None:
    """Half of them say what they have seen; each that is answered with 200 is there afterwards, and none fails otherwise."""
    seen = client.get("/api/results/1").json()["stated"]

    def state(number: int) -> tuple[str, int]:
        headers = {"If-Match": f'"{seen}"'} if number % 2 else {}
        name = f"axes {number}"
        return name, client.put("/api/results/1/axes", json=axes(name), headers=headers).status_code

    with ThreadPoolExecutor(8) as pool:
        answers = dict(pool.map(state, range(40)))
    kept = {a["name"] for a in client.get("/api/results/1").json()["axes"]}
    assert {name for name, status in answers.items() if status == 200} == {n for n in kept if n.startswith("axes ")}
    assert set(answers.values()) <= {200, 409}
    assert all(answers[f"axes {number}"] == 200 for number in range(0, 40, 2)), "what says nothing of what it saw is merged"
