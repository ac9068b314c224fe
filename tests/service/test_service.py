from __future__ import annotations

import json
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ironstone.core.geometry.surface import Look, skin
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.service.app import create_app
from ironstone.store import Review
from tests.conftest import DATA

FLEXURE = 6
STRESS = {"field": "stress", "measure": "von-mises", "step": 80}


@pytest.fixture
def review(demo_copy: Path) -> Iterator[Review]:
    with Review.open(demo_copy) as opened:
        yield opened


@pytest.fixture
def client(review: Review) -> Iterator[TestClient]:
    with TestClient(create_app(review), raise_server_exceptions=False) as found:
        yield found


def unpacked(data: bytes) -> tuple[dict[str, Any], dict[str, np.ndarray]]:
    length = int.from_bytes(data[:4], "little")
    head = json.loads(data[4 : 4 + length])
    arrays = {}
    for a in head["arrays"]:
        start = 4 + length + a["offset"]
        count = int(np.prod(a["shape"]))
        arrays[a["name"]] = np.frombuffer(data, f"<{a['type']}", count, start).reshape(a["shape"])
    return head, arrays


def test_drawn_values_are_the_evaluators(client: TestClient, review: Review) -> None:
    answer = client.get(f"/api/results/{FLEXURE}/values", params={**STRESS, "detail": 2})
    head, arrays = unpacked(answer.content)
    source = review.result(FLEXURE)
    expected = evaluate(Reading("stress", "von-mises", step=80), source, skin(source.mesh, Look(detail=2)).vertices).values
    assert arrays["values"] == pytest.approx(expected, rel=1e-6)
    _, _, high = extremes(Reading("stress", "von-mises", step=80), source)
    assert high is not None and head["max"]["value"] == pytest.approx(high.value)
    assert sum(head["shares"]) == pytest.approx(1.0)
    assert head["sentence"].startswith("von Mises of stress, each corner as computed")


def test_surface_and_deformation_fit_each_other(client: TestClient) -> None:
    head, surface = unpacked(client.get(f"/api/results/{FLEXURE}/surface").content)
    _, moved = unpacked(client.get(f"/api/results/{FLEXURE}/deformation", params={"step": 80}).content)
    assert moved["displacement"].shape == surface["positions"].shape
    assert surface["triangles"].max() < len(surface["positions"])
    assert head["faces"] == surface["face"].max() + 1


def test_what_has_not_changed_is_not_sent_again(client: TestClient) -> None:
    first = client.get(f"/api/results/{FLEXURE}/values", params=STRESS)
    again = client.get(f"/api/results/{FLEXURE}/values", params=STRESS, headers={"If-None-Match": first.headers["etag"]})
    assert (again.status_code, again.content) == (304, b"")
    other = client.get(f"/api/results/{FLEXURE}/values", params={**STRESS, "averaging": "part"})
    assert other.headers["etag"] != first.headers["etag"]


def test_correcting_a_guess_never_brings_back_an_old_picture(client: TestClient) -> None:
    first = client.get(f"/api/results/{FLEXURE}/values", params=STRESS)
    assert client.put(f"/api/results/{FLEXURE}/units", json={"system": "m-N-s-kg-Pa"}).status_code == 200
    again = client.get(f"/api/results/{FLEXURE}/values", params=STRESS, headers={"If-None-Match": first.headers["etag"]})
    assert again.status_code == 200
    assert unpacked(again.content)[0]["unit"] == "Pa"


def test_the_probe_tells_the_drawn_value(client: TestClient) -> None:
    head, surface = unpacked(client.get(f"/api/results/{FLEXURE}/surface").content)
    _, arrays = unpacked(client.get(f"/api/results/{FLEXURE}/values", params=STRESS).content)
    for vertex in (0, 1234, 7000):
        s, t = surface["st"][vertex]
        reply = client.get(
            f"/api/results/{FLEXURE}/probe", params={**STRESS, "face": surface["face"][vertex], "s": s, "t": t}
        ).json()
        assert reply["value"] == pytest.approx(float(arrays["values"][vertex]), rel=1e-4)
        assert reply["xyz"] == pytest.approx((surface["positions"][vertex] + head["origin"]).tolist(), abs=1e-3)


def test_averaging_side_by_side(client: TestClient) -> None:
    reply = {a["averaging"]: a["max"]["value"] for a in client.get(f"/api/results/{FLEXURE}/averagings", params=STRESS).json()}
    assert reply["off"] > reply["part"] > reply["element"]
    assert reply["part"] == pytest.approx(reply["all"]), "one part: nothing more to average across"


def test_range_over_all_steps_holds_each_step(client: TestClient) -> None:
    whole = client.get(f"/api/results/{FLEXURE}/range", params=STRESS).json()
    one, _ = unpacked(client.get(f"/api/results/{FLEXURE}/values", params=STRESS).content)
    assert whole["low"] <= one["min"]["value"] and whole["high"] >= one["max"]["value"]
    assert whole["low"] == pytest.approx(0.0), "nothing is stressed at the start"


def test_the_service_says_between_which_limits_a_key_shows_a_reading(client: TestClient) -> None:
    signed = {**STRESS, "measure": "xx"}
    head, _ = unpacked(client.get(f"/api/results/{FLEXURE}/values", params=signed).content)
    low, high = head["min"]["value"], head["max"]["value"]
    assert low < 0 < high and head["limits"]["two_tones"] == pytest.approx([-max(-low, high), max(-low, high)])
    whole = client.get(f"/api/results/{FLEXURE}/range", params=signed).json()
    assert whole["limits"]["plain"] == [whole["low"], whole["high"]]
    plain, _ = unpacked(client.get(f"/api/results/{FLEXURE}/values", params=STRESS).content)
    assert plain["key_of"] and plain["key_of"] != head["key_of"], "von Mises and a component share no key"
    both = client.get("/api/key-limits", params={"low": [20, -80], "high": [130, 100]}).json()
    assert both == {"plain": [-80, 130], "two_tones": [-130, 130], "logarithmic": None}


@pytest.mark.parametrize("asked", [{"low": [1, 2], "high": [3]}, {"low": [4], "high": [3]}, {"low": ["nan"], "high": [3]}])
def test_a_key_of_no_range_is_refused(client: TestClient, asked: dict[str, list[float]]) -> None:
    assert client.get("/api/key-limits", params=asked).status_code == 422


def wait(client: TestClient, job: dict[str, Any]) -> dict[str, Any]:
    for _ in range(600):
        job = client.get(f"/api/jobs/{job['id']}").json()
        if job["state"] != "running":
            return job
        time.sleep(0.05)
    raise AssertionError("the job did not end")


def upload(client: TestClient, *files: Path) -> str:
    name = client.post("/api/uploads").json()["id"]
    for file in files:
        assert client.put(f"/api/uploads/{name}/{file.name}", content=file.read_bytes()).status_code == 204
    return name


def test_intake_through_the_service(client: TestClient, bar_files: list[Path]) -> None:
    job = client.post("/api/intake", json={"upload": upload(client, *bar_files), "system": "mm-N-s-t-MPa"}).json()
    done = wait(client, job)
    assert done["state"] == "done"
    reply = client.get(f"/api/results/{done['result']}").json()
    assert reply["name"] == "bar" and not reply["system_guessed"]


def test_a_failed_intake_says_why_and_leaves_the_review(client: TestClient, bar_files: list[Path]) -> None:
    bar_files[0].write_bytes(bar_files[0].read_bytes()[:900])
    job = wait(client, client.post("/api/intake", json={"upload": upload(client, *bar_files)}).json())
    assert job["state"] == "failed"
    assert "bar_9.vtu" in job["error"] and job["hint"]
    assert [r["name"] for r in client.get("/api/review").json()["results"]] == [
        "lug, coarse",
        "lug, fine",
        "roof truss",
        "weather mast",
        "roof truss, load cases",
        "flexure B2",
    ]


@pytest.mark.parametrize("name", ["..%2F..%2Fetc%2Fx.vtu", ".hidden", "a%5Cb.vtu", "x" * 300])
def test_file_names_never_reach_the_file_system_unchecked(client: TestClient, name: str) -> None:
    folder = client.post("/api/uploads").json()["id"]
    assert client.put(f"/api/uploads/{folder}/{name}", content=b"x").status_code in (404, 405, 422)


def test_requests_from_elsewhere_are_refused(client: TestClient) -> None:
    assert client.get("/api/review", headers={"host": "evil.example"}).status_code == 400
    assert client.post("/api/undo", headers={"origin": "http://evil.example"}).status_code == 403


def test_errors_are_problems_with_words(client: TestClient) -> None:
    answer = client.get(f"/api/results/{FLEXURE}/values", params={"field": "nothing"})
    assert answer.status_code == 422
    assert answer.headers["content-type"].startswith("application/problem+json")
    assert "no field named 'nothing'" in answer.json()["title"]
    assert client.get("/api/results/99").status_code == 404
    assert client.get(f"/api/results/{FLEXURE}/values", params={"field": "stress", "step": "x"}).status_code == 422
    assert client.get(f"/api/results/{FLEXURE}/values", params={"field": "stress", "averaging": "some"}).status_code == 422


def test_the_demo_opens_with_its_loop_against_its_test(client: TestClient) -> None:
    pairing = client.get("/api/pairings", params={"result": FLEXURE}).json()[0]
    test = client.get("/api/tests").json()[-1]
    assert len(pairing["loops"]["cycles"]) == 5
    found = client.get("/api/matches", params={"pairing": pairing["id"], "test": test["id"]}).json()
    assert found["corrections"] == ["Load cell: zero shifted by -0.34 kN", "Load cell: sign reversed"]
    assert found["deviation"]["determination"] > 0.98
    assert found["verdict"]


def test_a_record_is_brought_in_and_understood(client: TestClient) -> None:
    text = (DATA / "specimen_F3.csv").read_bytes()
    made = client.post("/api/tests", params={"name": "F3.csv"}, content=text).json()
    assert [c["name"] for c in made["columns"]] == ["Time", "Stroke", "Load cell"]
    assert (made["use"]["x"]["column"], made["use"]["y"]["column"]) == ("Stroke", "Load cell")
    use = made["use"]
    use["y"].update(sign=-1, zero=0.34)
    changed = client.put(f"/api/tests/{made['id']}", json=use).json()
    assert changed["y"][0] == pytest.approx(-(made["y"][0] - 0.34))
    assert changed["corrections"] == ["Load cell: zero shifted by -0.34 kN", "Load cell: sign reversed"]
    assert client.post("/api/undo").json()["label"].endswith("corrected")
    assert client.get("/api/tests").json()[-1]["corrections"] == []


def test_a_bad_record_leaves_the_review(client: TestClient) -> None:
    before = client.get("/api/tests").json()
    answer = client.post("/api/tests", params={"name": "bad.csv"}, content=b"a,b\n1,2\n3,x\n")
    assert answer.status_code == 422
    assert "line 3, column 'b'" in answer.json()["title"]
    assert client.get("/api/tests").json() == before


def test_downloads_carry_a_header_and_a_unit_row(client: TestClient) -> None:
    pairing = client.get("/api/pairings", params={"result": FLEXURE}).json()[0]["id"]
    test = client.get("/api/tests").json()[-1]["id"]
    curve = client.post("/api/ask/curve.csv", json={"pairing": pairing})
    lines = curve.text.splitlines()
    assert lines[1] == "s,mm,kN" and len(lines) == 243
    assert "attachment" in curve.headers["content-disposition"]
    cycles = client.post("/api/ask/cycles.csv", json={"pairing": pairing}).text.splitlines()
    assert cycles[0].startswith("cycle,amplitude,energy") and cycles[1].split(",")[2] == "kN·mm"
    assert "Energy, all cycles" in client.post("/api/ask/agreement.csv", json={"pairing": pairing, "test": test}).text
    flags = client.post("/api/ask/flags.csv", json={"result": FLEXURE, **STRESS}).text.splitlines()
    assert flags[0].startswith("flag,name,place,element,part") and "MPa" in flags[1]


def test_an_exhibit_keeps_its_picture_and_can_be_undone(client: TestClient) -> None:
    dot = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
    asked = {"kind": "read", "words": {"result": FLEXURE, **STRESS, "extremes": True}}
    body = {"of": "view", "title": "Outer bend", "questions": [asked], "picture": f"data:image/png;base64,{dot}"}
    made = client.post("/api/exhibits", json=body).json()
    assert made["sentence"].startswith("von Mises of stress") and made["shown"] == "Result flexure B2"
    picture = client.get(f"/api/exhibits/{made['id']}/picture.png")
    assert picture.headers["content-type"] == "image/png" and picture.content.startswith(b"\x89PNG")
    assert client.post("/api/exhibits", json={**body, "picture": "data:image/png;base64,AAAA"}).status_code == 422
    client.delete(f"/api/kept/exhibit/{made['id']}")
    assert client.get("/api/exhibits").json() == []
    client.post("/api/undo")
    assert client.get("/api/exhibits").json()[0]["title"] == "Outer bend"


def test_a_record_sent_in_pieces_is_bounded_as_well(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """A body without a stated length is given up once it is too long, not after all of it has come."""
    monkeypatch.setattr("ironstone.service.uploads.LARGEST_RECORD", 100_000)
    sent = 0

    def pieces() -> Iterator[bytes]:
        nonlocal sent
        yield b"u,F\n"
        for _ in range(1000):
            sent += 1
            yield b"1,2\n" * 1000

    answer = client.post("/api/tests", params={"name": "long.csv"}, content=pieces())
    assert answer.status_code == 422 and "long.csv is larger than" in answer.json()["title"]
    assert "long.csv" not in [t["name"] for t in client.get("/api/tests").json()]
