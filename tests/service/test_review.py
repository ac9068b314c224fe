"""The review as a whole: named, made, opened, undone, what was removed, and what every window is told."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import quote

import httpx
import pytest
from fastapi.testclient import TestClient

from ironstone.service.app import create_app
from ironstone.store import Review, intake
from tests.bench.conftest import bench_on


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "a.ironstone", "Bar") as made:
        intake(made, bar_files, "bar")
        yield made


@pytest.fixture
def client(review: Review) -> Iterator[TestClient]:
    with TestClient(create_app(review), raise_server_exceptions=False) as found:
        yield found


def names(client: TestClient) -> list[str]:
    return [r["name"] for r in client.get("/api/review").json()["results"]]


def test_a_result_is_renamed_found_by_its_new_name_and_undone(client: TestClient, review: Review, bar_files: list[Path]) -> None:
    intake(review, bar_files, "bar fine")
    assert client.put("/api/results/1/name", json={"name": "  bar coarse "}).json()["name"] == "bar coarse"
    assert names(client) == ["bar coarse", "bar fine"]
    assert review.result("bar coarse").id == 1
    answer = client.put("/api/results/2/name", json={"name": "bar coarse"})
    assert answer.status_code == 422 and "another result called 'bar coarse'" in answer.json()["title"]
    assert client.put("/api/results/2/name", json={"name": " "}).status_code == 422
    assert client.post("/api/undo").json()["label"] == "Result 'bar' renamed 'bar coarse'"
    assert names(client) == ["bar", "bar fine"]
    assert review.result("bar").id == 1


def test_a_name_that_a_result_has_been_given_is_not_given_to_the_next(
    client: TestClient, review: Review, bar_files: list[Path]
) -> None:
    client.put("/api/results/1/name", json={"name": "second"})
    intake(review, bar_files, "second")
    assert names(client) == ["second", "second 2"]


def test_what_was_removed_comes_back_though_other_things_were_done_since(client: TestClient) -> None:
    flag = client.post("/api/flags", json={"result": 1, "node": 8, "name": "root"}).json()["id"]
    client.delete(f"/api/kept/flag/{flag}")
    client.delete("/api/results/1")
    client.put("/api/review/name", json={"name": "Bars"})
    assert names(client) == []
    found = client.get("/api/removed").json()
    assert [(r["kind"], r["what"]) for r in found] == [("result", "Result 'bar'"), ("flag", "Flag at node 8")]
    for thing in found:
        assert client.post(f"/api/removed/{thing['id']}").status_code == 204
    assert names(client) == ["bar"]
    assert [f["name"] for f in client.get("/api/flags?result=1").json()] == ["root"]
    assert client.get("/api/removed").json() == []
    assert client.post(f"/api/removed/{flag}").status_code == 404
    assert client.post("/api/undo").json()["label"] == "Flag at node 8 brought back"
    assert client.get("/api/flags?result=1").json() == []


def test_what_comes_back_does_not_push_out_what_has_its_name_now(client: TestClient, review: Review, bar_files: list[Path]) -> None:
    client.delete("/api/results/1")
    intake(review, bar_files, "other")
    client.put("/api/results/2/name", json={"name": "bar"})
    (thing,) = client.get("/api/removed").json()
    answer = client.post(f"/api/removed/{thing['id']}")
    assert answer.status_code == 422 and "another result called 'bar'" in answer.json()["title"]
    assert names(client) == ["bar"]


def test_a_set_is_renamed_and_brought_back(client: TestClient) -> None:
    made = {"name": "end", "how": "box", "low": [-1, -9, -9], "high": [0, 9, 9]}
    client.post("/api/results/1/sets", json=made)
    renamed = client.put("/api/results/1/sets/end/name", json={"name": "foot"}).json()
    assert [s["name"] for s in renamed["sets"] if s["made"]] == ["foot"]
    removed = client.delete("/api/results/1/sets/foot").json()
    assert removed["removed_sets"] == ["foot"] and not any(s["made"] for s in removed["sets"])
    back = client.post("/api/results/1/sets/foot/back").json()
    assert back["removed_sets"] == [] and [s["count"] for s in back["sets"] if s["made"]] == [4]


def test_what_reads_a_set_goes_along_with_its_new_name_and_back_with_one_undo(
    client: TestClient, review: Review, bar_files: list[Path]
) -> None:
    intake(review, bar_files, "other")
    name = 'the "root" & foot'
    reading = {"field": "displacement", "measure": "x", "step": 1}
    for result in (1, 2):
        made = {"name": name, "how": "box", "low": [-1, -9, -9], "high": [0, 9, 9]}
        assert client.post(f"/api/results/{result}/sets", json=made).is_success
        check = {"result": result, "name": "stays", "reading": reading, "at": f"set:{name}", "expected": 0, "tolerance": 1}
        assert client.post("/api/checks", json=check).is_success
        trace = {"field": "displacement", "measure": "x", "at": f"set:{name}", "reduce": "mean"}
        assert client.post("/api/named", json={"result": result, "name": "stroke", "trace": trace}).is_success

    def read(result: int) -> set[str]:
        check = client.get(f"/api/checks?result={result}").json()[0]
        curve = client.get(f"/api/named?result={result}").json()[0]
        assert curve["error"] is None and check["value"] is not None
        return {check["at"], curve["trace"]["at"]}

    assert client.put(f"/api/results/1/sets/{quote(name)}/name", json={"name": "foot"}).is_success
    assert read(1) == {"set:foot"} and read(2) == {f"set:{name}"}
    label = f"Set '{name}' renamed 'foot'"
    assert client.get("/api/review").json()["can_undo"]["label"] == label
    assert client.post("/api/undo").json()["label"] == label
    assert read(1) == {f"set:{name}"} and client.get("/api/review").json()["can_undo"]["label"] != label
    assert client.post("/api/redo").json()["label"] == label
    assert read(1) == {"set:foot"} and client.get("/api/review").json()["can_redo"] is None
    client.post("/api/undo")
    client.post("/api/flags", json={"result": 1, "node": 8})
    assert client.get("/api/review").json()["can_redo"] is None and read(1) == {f"set:{name}"}


def test_an_undo_takes_what_the_window_has_seen_or_nothing(client: TestClient) -> None:
    client.post("/api/flags", json={"result": 1, "node": 8})
    seen = client.get("/api/review").json()["can_undo"]
    assert seen["label"] == "Flag planted at node 8"
    client.put("/api/results/1/units", json={"system": "m-N-s-kg-Pa"})
    answer = client.post("/api/undo", headers={"If-Match": f'"{seen["id"]}"'})
    assert answer.status_code == 409 and "What would be undone next is now 'Unit system stated'" in answer.json()["title"]
    assert client.get("/api/results/1").json()["system"] == "m-N-s-kg-Pa"
    now = client.get("/api/review").json()["can_undo"]
    assert client.post("/api/undo", headers={"If-Match": f'"{now["id"]}"'}).json()["label"] == "Unit system stated"


def test_no_state_of_a_review_and_no_number_of_a_change_comes_twice(client: TestClient, review: Review) -> None:
    """Else a window that was away for a moment would take another state for its own, and undo what it has not seen."""
    states, numbers = [review.state()], set()
    for act in ("/api/flags", "/api/undo", "/api/redo", "/api/undo", "/api/flags", "/api/undo", "/api/flags"):
        client.post(act, json={"result": 1, "node": 8} if act == "/api/flags" else None)
        states.append(review.state())
        if act == "/api/flags":
            last = client.get("/api/review").json()["can_undo"]["id"]
            assert last not in numbers
            numbers.add(last)
    assert len(set(states)) == len(states)


def test_reviews_are_made_opened_and_named_below_the_folders_given_and_nowhere_else(review: Review, tmp_path: Path) -> None:
    other = tmp_path / "other"
    other.mkdir()
    Review.create(other / "old.ironstone", "Old bars").close()
    (other / "notes.ironstone").write_text("no review")
    with TestClient(create_app(review, [other])) as client:
        shelf = client.get("/api/reviews").json()
        assert {(r["name"], r["folder"], r["open"]) for r in shelf["reviews"]} == {("Bar", 0, True), ("Old bars", 1, False)}
        made = client.post("/api/reviews", json={"name": "Lug: bond / v2", "folder": 1})
        assert made.json()["name"] == "Lug: bond / v2" and made.json()["results"] == []
        assert (other / "Lug__bond___v2.ironstone").is_file()
        assert client.post("/api/reviews", json={"name": "Lug: bond / v2", "folder": 1}).status_code == 422
        assert client.put("/api/review/name", json={"name": "Bond"}).json()["name"] == "Bond"
        opened = client.post("/api/reviews/open", json={"file": "a.ironstone"}).json()
        assert (opened["name"], [r["name"] for r in opened["results"]]) == ("Bar", ["bar"])
        assert {r["name"] for r in client.get("/api/reviews").json()["reviews"]} == {"Bar", "Old bars", "Bond"}
        for file in ("../a.ironstone", f"{tmp_path}/a.ironstone", "notes.ironstone", "none.ironstone", ""):
            assert client.post("/api/reviews/open", json={"file": file, "folder": 1}).status_code in (404, 422)
        assert client.post("/api/reviews/open", json={"file": "a.ironstone", "folder": 9}).status_code == 404
        assert client.get("/api/review").json()["name"] == "Bar"


def test_each_window_has_the_review_its_addresses_name(review: Review, tmp_path: Path) -> None:
    """Two at once, also of one file name in two folders; what one changes is in its own review alone."""
    other = tmp_path / "other"
    other.mkdir()
    Review.create(other / "a.ironstone", "Other bars").close()
    Review.create(other / "spare.ironstone", "Spare").close()
    with TestClient(create_app(review, [other])) as client:
        named = {
            r["name"]: client.post("/api/reviews/open", json={"file": r["file"], "folder": r["folder"]}).json()["address"]
            for r in client.get("/api/reviews").json()["reviews"]
        }
        assert named == {"Bar": "a.ironstone", "Other bars": "1~a.ironstone", "Spare": "spare.ironstone"}
        for name, at in named.items():
            shelf = client.get(f"/r/{at}/api/reviews").json()["reviews"]
            assert [r["name"] for r in shelf if r["open"]] == [name]
        assert client.put(f"/r/{named['Spare']}/api/review/name", json={"name": "Spare two"}).status_code == 200
        assert client.get("/r/a.ironstone/api/review").json()["name"] == "Bar"
        assert client.get("/r/a.ironstone/api/results/1").json()["name"] == "bar"
        assert client.get(f"/r/{named['Spare']}/api/results/1").status_code == 404
        assert (
            client.post("/r/a.ironstone/api/ask/read", json={"field": "stress", "measure": "xx", "extremes": True}).status_code
            == 200
        )
        for gone in ("gone.ironstone", "7~a.ironstone", "a"):
            answer = client.get(f"/r/{gone}/api/review")
            assert answer.status_code == 404, gone
        # Nobody asks for the others any more: they are closed, and open again when they are asked for.
        shelf = client.app.state.shelf  # type: ignore[attr-defined]
        for number in range(5):
            client.post("/api/reviews", json={"name": f"More {number}"})
        assert len(shelf._held) == 8
        for held in shelf._held.values():
            held.asked -= 1000
        client.post("/api/reviews", json={"name": "The last"})
        assert len(shelf._held) == 4 and review in [h.review for h in shelf._held.values()]
        assert client.get(f"/r/{named['Spare']}/api/review").json()["name"] == "Spare two"


def test_only_an_answer_to_a_change_names_the_state_it_led_to(client: TestClient, review: Review) -> None:
    """Else a page that asks something would take what another window has just changed for its own doing, and not look again."""
    assert "x-review-state" not in client.post("/api/ask/read", json={"field": "stress", "measure": "xx", "extremes": True}).headers
    assert "x-review-state" not in client.post("/api/exhibits/shown", json={"result": 1}).headers
    answer = client.post("/api/flags", json={"result": 1, "node": 8})
    planted = review.state()
    assert answer.headers["x-review-state"].endswith(f">{planted}")
    assert client.post("/api/undo").headers["x-review-state"] == f"{planted}>{review.state()}"
    assert "x-review-state" not in client.post("/api/undo", headers={"If-Match": '"999"'}).headers


def test_a_change_by_anybody_is_told_to_every_window(demo_copy: Path) -> None:
    with bench_on(demo_copy) as address, httpx.stream("GET", f"{address}/api/events", timeout=20) as events:
        lines = (json.loads(line.removeprefix("data: ")) for line in events.iter_lines() if line.startswith("data: "))
        first = next(lines)
        assert first["file"] == demo_copy.name
        answer = httpx.put(f"{address}/api/review/name", json={"name": "Ropes"})
        assert f"{first['state']}>{next(lines)['state']}" == answer.headers["x-review-state"]
        with Review.open(demo_copy) as beside:
            beside.rename("By another program")
            assert next(lines)["state"] == beside.state()
        # Another review that is opened is another window's: who listens to this one goes on hearing of it.
        httpx.post(f"{address}/api/reviews", json={"name": "Next"})
        httpx.put(f"{address}/r/{demo_copy.name}/api/review/name", json={"name": "Ropes again"})
        assert next(lines)["file"] == demo_copy.name
