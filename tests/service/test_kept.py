"""What is kept by the addresses all kinds share: listed, changed, renamed, removed; profiles and cuts as they are asked for."""

from __future__ import annotations

import json
import struct
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ironstone.service.app import create_app
from ironstone.store import Review, intake

WORDS = {"result": 1, "field": "stress", "measure": "xx", "step": 1}

PLAIN = {"field": "stress", "measure": "xx", "step": 1}


@pytest.fixture
def client(bar_files: list[Path], tmp_path: Path) -> Iterator[TestClient]:
    with Review.create(tmp_path / "a.ironstone") as review:
        intake(review, bar_files, system="mm-N-s-t-MPa")
        with TestClient(create_app(review), raise_server_exceptions=False) as found:
            yield found


def along(client: TestClient) -> str:
    """The bar from end to end through its middle."""
    contents = client.get("/api/results/1").json()
    (x, y, z), size = contents["centre"], contents["size"]
    return f"line:{x - size},{y},{z}:{x + size},{y},{z}"


def kept(client: TestClient, kind: str, **words: object) -> dict:
    answer = client.post(f"/api/keep/{kind}", json={"result": 1, **words})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_a_path_is_kept_listed_changed_and_removed_and_each_can_be_undone(client: TestClient) -> None:
    path = kept(client, "path", name="axis", path=along(client))
    changed = client.put(f"/api/kept/path/{path['id']}", json={"name": "middle", "before": 1.0}).json()
    assert changed["words"]["name"] == "middle" and changed["words"]["path"] == along(client)
    assert changed["revision"] > path["revision"]
    assert client.post("/api/undo").json()["label"] == "Path 'middle' changed"
    assert client.get("/api/kept/path", params={"result": 1}).json()[0]["words"]["name"] == "axis"
    assert client.delete(f"/api/kept/path/{path['id']}").status_code == 204
    assert client.get("/api/kept/path", params={"result": 1}).json() == []
    client.post("/api/undo")
    assert [p["words"]["name"] for p in client.get("/api/kept/path").json()] == ["axis"]


def test_a_change_from_an_old_view_and_one_to_a_name_that_is_taken_are_refused(client: TestClient) -> None:
    path = kept(client, "path", name="axis", path=along(client))
    kept(client, "path", name="other", path=along(client))
    seen = {"If-Match": f'"{path["revision"]}"'}
    assert client.put(f"/api/kept/path/{path['id']}", json={"side": "part 1"}, headers=seen).status_code == 200
    assert client.put(f"/api/kept/path/{path['id']}", json={"side": ""}, headers=seen).status_code == 409
    taken = client.put(f"/api/kept/path/{path['id']}", json={"name": "other"})
    assert taken.status_code == 422 and "another path called 'other'" in taken.json()["title"]


@pytest.mark.parametrize(
    ("kind", "words", "said"),
    [
        ("path", {"name": "a", "path": "line:0,0,0"}, "is not a line"),
        ("path", {"name": "a", "path": "line:90,90,90:91,91,91"}, "No part of this line"),
        ("path", {"name": "a", "path": "edge:99999999"}, "no node"),
        ("path", {"name": "", "path": "edge:1"}, "must have 1"),
        ("cut", {"name": "a"}, "one of them"),
        ("cut", {"name": "a", "through": "0,0,0:0,0,0"}, "points nowhere"),
        ("cut", {"name": "a", "through": "0,0,0:1,1,1:3,3,3"}, "lie on one line"),
        ("cut", {"name": "a", "through": "0,0,0"}, "is no plane"),
        ("cut", {"name": "a", "band": "3:1"}, "from a lower to a higher"),
        ("cut", {"name": "a", "iso": [1.0], "band": "1:2"}, "one of them"),
        ("cut", {"name": "a", "iso": [1.0], "reading": {"field": "nothing"}}, "nothing"),
        ("gauges", {"name": "a", "points": [{"x": 1, "y": 2}]}, "z is missing"),
        ("gauges", {"name": "a", "points": [], "unit": "furlongs per pint of"}, "not known"),
    ],
)
def test_what_makes_no_sense_is_refused_and_nothing_is_kept(client: TestClient, kind: str, words: dict, said: str) -> None:
    answer = client.post(f"/api/keep/{kind}", json={"result": 1, **words})
    assert answer.status_code in (404, 422) and said in answer.json()["title"], answer.text
    assert client.get(f"/api/kept/{kind}").json() == []


def test_a_kind_there_is_not_is_told(client: TestClient) -> None:
    answer = client.get("/api/kept/wishes")
    assert answer.status_code == 404 and "gauges" in answer.json()["hint"]


def test_a_profile_says_where_each_part_begins_and_counts_as_it_is_asked_to(client: TestClient) -> None:
    asked = {**WORDS, "path": along(client), "samples": 31}
    true = client.post("/api/ask/profile", json=asked).json()
    length = true["more"]["length"]
    parts = [s["part"] for s in true["more"]["stretches"]]
    assert parts == [None, "part 1", "part 2", None]
    x = np.array(true["columns"][0]["values"])
    relative = client.post("/api/ask/profile", json={**asked, "distance": "relative"}).json()
    np.testing.assert_allclose(relative["columns"][0]["values"], x / length)
    assert relative["columns"][0]["unit"] == "" and "share of the length" in relative["sentence"]
    place = [true["columns"][4 + i]["values"][7] for i in range(3)]
    counted = client.post("/api/ask/profile", json={**asked, "distance": ",".join(map(str, place))}).json()
    np.testing.assert_allclose(counted["columns"][0]["values"], x - x[7], atol=1e-9)
    bad = client.post("/api/ask/profile", json={**asked, "distance": "far"})
    assert bad.status_code == 422 and "is no distance" in bad.json()["title"]
    assert len({true["sentence"], relative["sentence"], counted["sentence"]}) == 3


def test_a_kept_path_is_asked_by_its_name_and_a_formula_stands_beside_it(client: TestClient) -> None:
    kept(client, "path", name="axis", path=along(client), samples=31)
    answer = client.post("/api/ask/profile", json={**WORDS, "named": "axis", "formula": "y + 2"}).json()
    beside = np.array(answer["columns"][-1]["values"], dtype=float)
    own = np.array(answer["columns"][1]["values"], dtype=float)
    np.testing.assert_allclose(beside[np.isfinite(own)], own[np.isfinite(own)] + 2)
    assert answer["figures"][0]["value"] == pytest.approx(2.0)
    wrong = client.post("/api/ask/profile", json={**WORDS, "named": "axis", "formula": "y +"})
    assert wrong.status_code == 422 and "is no expression" in wrong.json()["title"]


def test_a_profile_is_held_against_what_was_measured_along_the_line(client: TestClient) -> None:
    """Stress is 20, 40, 60 in three cubes at this step; measured in their middles, one of them off, one point beside the bar."""
    true = client.post("/api/ask/profile", json={**WORDS, "path": along(client), "samples": 91}).json()
    inside = [s for s in true["more"]["stretches"] if s["part"]]
    first, last = inside[0]["from"], inside[-1]["to"]
    third = (last - first) / 3
    at = [first + third * (i + 0.5) for i in range(3)]
    rows = list(zip([*at, last + 0.2 * third], [20.0, 43.0, 60.0, 1.0], strict=True))
    text = "distance,stress\nmm,MPa\n" + "\n".join(f"{a},{b}" for a, b in rows)
    test = client.post("/api/tests", params={"name": "gauges.csv"}, content=text.encode()).json()
    answer = client.post("/api/ask/profile", json={**WORDS, "path": along(client), "test": test["id"]}).json()
    figures = {f["label"]: f for f in answer["figures"]}
    assert figures["Largest deviation"]["value"] == pytest.approx(-3.0)
    assert figures["RMS deviation"]["value"] == pytest.approx(np.sqrt(3.0))
    assert "agrees with" in answer["verdict"] and any("left out" in n for n in answer["more"]["test"]["notes"])


def test_what_is_drawn_of_a_cut_has_the_readings_own_values_on_it(client: TestClient) -> None:
    (x, y, z) = client.get("/api/results/1").json()["centre"]
    answer = client.get("/api/results/1/cut-faces", params=PLAIN | {"through": f"{x},{y},{z}:0,0,1"})
    assert answer.status_code == 200, answer.text
    size = struct.unpack("<I", answer.content[:4])[0]
    head = json.loads(answer.content[4 : 4 + size])
    arrays = {
        a["name"]: np.frombuffer(answer.content, "<f4", int(np.prod(a["shape"])), 4 + size + a["offset"]).reshape(a["shape"])
        for a in head["arrays"]
    }
    assert sorted(set(arrays["values"].tolist())) == [20.0, 40.0, 60.0]
    np.testing.assert_allclose(arrays["positions"][:, 2] + head["origin"][2], z, atol=1e-6)
    assert (head["low"], head["high"]) == (20.0, 60.0)
    tag = answer.headers["etag"]
    params = PLAIN | {"through": f"{x},{y},{z}:0,0,1"}
    assert client.get("/api/results/1/cut-faces", params=params, headers={"If-None-Match": tag}).status_code == 304
    none = client.get("/api/results/1/cut-faces", params=PLAIN | {"iso": "7,8"})
    assert none.status_code == 422 and "none of 7, 8" in none.json()["title"]


def test_a_cut_shows_a_reading_of_its_own_whatever_is_in_view(client: TestClient) -> None:
    (x, y, z) = client.get("/api/results/1").json()["centre"]
    through = f"{x},{y},{z}:0,0,1"
    own = json.dumps({"field": "stress", "measure": "von-mises", "unit": "kPa"})
    answer = client.get("/api/results/1/cut-faces", params=PLAIN | {"through": through, "shown": own})
    head = json.loads(answer.content[4 : 4 + struct.unpack("<I", answer.content[:4])[0]])
    assert (head["own"], head["low"], head["high"], head["unit"]) == (True, pytest.approx(20e3), pytest.approx(60e3), "kPa")
    assert head["shown"].startswith("von Mises of stress") and head["of"].startswith("xx component")
    broken = client.get("/api/results/1/cut-faces", params=PLAIN | {"through": through, "shown": '{"colour": 1}'})
    assert broken.status_code == 422 and "cannot be read" in broken.json()["title"]
    lacking = client.post("/api/keep/cut", json={"result": 1, "name": "a", "through": through, "shows": "own"})
    assert lacking.status_code == 422 and "reading of its own" in lacking.json()["title"]


def test_three_points_make_the_plane_that_is_kept(client: TestClient) -> None:
    made = kept(client, "cut", name="by three", through="1,0,0:0,1,0:0,0,1")
    point, _, normal = made["words"]["through"].partition(":")
    assert point == "1,0,0" and [float(v) for v in normal.split(",")] == pytest.approx([3**-0.5] * 3, abs=1e-6)


def test_a_cut_through_the_steps_is_a_table_with_the_force_on_it(client: TestClient) -> None:
    (x, y, z) = client.get("/api/results/1").json()["centre"]
    words = {k: v for k, v in WORDS.items() if k != "step"} | {"through": f"{x},{y},{z}:1,0,0", "every": True}
    answer = client.post("/api/ask/cut", json=words).json()
    columns = {c["name"]: c for c in answer["columns"]}
    assert columns["max"]["values"] == pytest.approx([20.0, 40.0])
    ratio = np.array(columns["force x"]["values"]) / np.array(columns["area"]["values"])
    assert ratio == pytest.approx([20.0, 40.0]) and columns["force x"]["unit"] == "N"
    table = client.post("/api/ask/cut.csv", json=words)
    assert table.status_code == 200 and table.text.splitlines()[0].startswith("time,area")


def test_a_gauge_list_comes_in_as_a_file_in_the_unit_that_is_chosen(client: TestClient) -> None:
    (x, y, z) = client.get("/api/results/1").json()["centre"]
    text = f"name,x,y,z\nA,{x / 1000},{y / 1000},{z / 1000}\n"
    made = client.post("/api/results/1/gauges", params={"name": "mine.csv", "unit": "m"}, content=text.encode())
    assert made.status_code == 200 and made.json()["words"]["name"] == "mine"
    assert made.json()["words"]["points"][0]["x"] == pytest.approx(x)
    broken = client.post("/api/results/1/gauges", params={"name": "mine.csv"}, content=b"x,y\n1,2\n")
    assert broken.status_code == 422 and "no column z" in broken.json()["title"]
    assert len(client.get("/api/kept/gauges").json()) == 1
    moved = client.get(f"/api/gauges/{made.json()['id']}/points.uff")
    assert moved.status_code == 200 and moved.text.splitlines()[1].strip() == "15"
