"""What the Balance and Trace bays ask of the service: forces, cuts, joints, sets, checks, named curves."""

from __future__ import annotations

import csv
import io

import numpy as np
import openpyxl
import pytest
from fastapi.testclient import TestClient
from httpx import Response

from ironstone.store import Review
from tests.service.test_service import FLEXURE, client, review

__all__ = ["client", "review"]
LUG, TRUSS = 2, 3


def test_the_lug_balances_and_its_bore_is_told_to_be_free(client: TestClient) -> None:
    reply = client.post("/api/ask/balance", json={"result": LUG, "step": 4}).json()["more"]
    assert reply["verdict"] == "agrees" and reply["force_unit"] == "N" and reply["moment_unit"] == "N·mm"
    assert reply["applied"]["force"] == pytest.approx([60_000, 0, 0], abs=1)
    assert {s["name"]: s["held"] for s in reply["sets"]} == {"held": "held", "bore": "free"}
    other = client.post("/api/ask/balance", json={"result": LUG, "step": 4, "about": "0,100,0", "deformed": True}).json()["more"]
    assert other["applied"]["moment"][2] == pytest.approx(100 * 60_000, rel=1e-3), "(p - q) x F, q 100 up along y"
    assert client.post("/api/ask/balance", json={"result": LUG, "step": 4, "about": "a,b,c"}).status_code == 422


def test_a_cut_through_the_lugs_shank_carries_the_pull(client: TestClient) -> None:
    reply = client.post("/api/ask/through-plane", json={"result": LUG, "step": 4, "origin": "-60,0,0", "normal": "1,0,0"}).json()[
        "more"
    ]
    assert reply["through"]["force"] == pytest.approx([60_000, 0, 0], abs=5)
    assert reply["area"] == pytest.approx(84 * 24) and reply["residual_share"] < 1e-4
    assert (
        client.post("/api/ask/through-plane", json={"result": LUG, "step": 4, "origin": "900,0,0", "normal": "1,0,0"}).status_code
        == 422
    )


def test_a_joint_of_the_truss(client: TestClient, review: Review) -> None:
    mesh = review.result(TRUSS).mesh
    ridge = int(mesh.node_ids[mesh.node_sets["ridge"][0]])
    reply = client.get(f"/api/results/{TRUSS}/joints/{ridge}", params={"step": 6}).json()
    assert len(reply["bars"]) == 5 and reply["source"] == "'axial_force' of the file"
    assert reply["applied"][2] < 0
    assert client.get(f"/api/results/{LUG}/joints/1", params={"step": 0}).status_code == 422


def test_sets_are_made_used_and_removed(client: TestClient) -> None:
    body = {"name": "end face", "how": "box", "low": [-120, -100, -100], "high": [-120, 100, 100]}
    reply = client.post(f"/api/results/{LUG}/sets", json=body).json()
    made = next(s for s in reply["sets"] if s["name"] == "end face")
    assert made["held"] == "held" and made["made"].startswith("in the box")
    reaction = client.post("/api/ask/balance", json={"result": LUG, "step": 4}).json()["more"]
    assert next(s for s in reaction["sets"] if s["name"] == "end face")["reaction"]["force"][0] == pytest.approx(-60_000, abs=1)
    taken = client.post(f"/api/results/{LUG}/sets", json={**body, "name": "held"})
    assert taken.status_code == 422 and "already has a set" in taken.json()["title"]
    nothing = client.post(f"/api/results/{LUG}/sets", json={**body, "low": [9e3] * 3, "high": [9e3] * 3})
    assert nothing.status_code == 422
    face = client.post(f"/api/results/{LUG}/sets", json={"name": "skin", "how": "face", "face": 0, "fold": 20}).json()
    assert any(s["name"] == "skin" for s in face["sets"])
    client.delete(f"/api/results/{LUG}/sets/skin")
    left = client.delete(f"/api/results/{LUG}/sets/end face").json()
    assert {s["name"] for s in left["sets"]} == {"held", "bore"}
    assert client.delete(f"/api/results/{LUG}/sets/held").status_code == 404
    client.post("/api/undo")
    assert any(s["name"] == "end face" for s in client.get(f"/api/results/{LUG}").json()["sets"])
    client.post("/api/redo")


def test_hand_checks_are_read_anew(client: TestClient) -> None:
    """Pull over net section of the shank: 60 kN / (84 x 24) = 29.76 MPa."""
    reading = {"field": "stress", "measure": "xx", "step": 4}
    body = {"result": LUG, "name": "shank", "reading": reading, "at": "node:1", "expected": 60e3 / (84 * 24), "source": "P/A"}
    far = client.post("/api/checks", json={**body, "at": "max", "tolerance": 0.05}).json()
    assert far["verdict"] == "fails" and far["off"] > 1, "the peak is no mean stress"
    reply = client.get("/api/checks", params={"result": LUG}).json()
    assert reply[0]["source"] == "P/A" and reply[0]["unit"] == "MPa"
    assert client.post("/api/checks", json={**body, "at": "node:999999"}).status_code == 404
    client.delete(f"/api/kept/check/{far['id']}")
    assert client.get("/api/checks", params={"result": LUG}).json() == []


def test_sense_checks_say_what_to_do(client: TestClient) -> None:
    reply = {d["name"]: d for d in client.post("/api/ask/sense", json={"result": FLEXURE, "step": 230}).json()["more"]["doubts"]}
    assert reply["balance"]["verdict"] == "agrees" and reply["symmetry"]["said"].startswith("y = 20: symmetric")
    assert reply["peak"]["verdict"] == "fails" and "Refine" in reply["peak"]["do"] and reply["peak"]["node"]
    assert reply["size of the motion"]["verdict"] == "doubtful"


def test_named_curves_carry_units_and_follow_their_sources(client: TestClient) -> None:
    known = {c["name"]: c for c in client.get("/api/named", params={"result": TRUSS}).json()}
    assert {n: c["unit"] for n, c in known.items()} == {"sinking": "mm", "snow": "kN", "stiffness": "kN/mm", "work": "kN·mm"}
    stiffness = np.array(known["stiffness"]["values"], dtype=float)
    assert stiffness[-1] < 0.02 * stiffness[1], "a mechanism"
    body = {"result": TRUSS, "name": "half", "expression": "snow/2 + sinking"}
    refused = client.post("/api/named", json=body)
    assert refused.status_code == 422 and "kN and mm do not go together" in refused.json()["title"]
    made = client.post("/api/named", json={**body, "expression": "change(snow)/2"}).json()
    assert made["values"][-1] == pytest.approx(known["snow"]["values"][-1] / 2)
    round_about = client.post("/api/named", json={**body, "expression": "half*2"})
    assert round_about.status_code == 422 and "made of itself" in round_about.json()["title"]
    assert client.post("/api/named", json={**body, "name": "d", "expression": "snow"}).status_code == 422
    pairing = client.get("/api/pairings", params={"result": TRUSS}).json()[0]
    spec = {"result": TRUSS, "name": "by name", "x": {**pairing["x_spec"], "curve": "sinking"},
            "y": {**pairing["y_spec"], "curve": "half"}}  # fmt: skip
    paired = client.post("/api/pairings", json=spec).json()
    assert paired["y"]["unit"] == "kN" and paired["x"]["label"] == "sinking"
    lines = client.get(f"/api/results/{TRUSS}/curves.csv").text.splitlines()
    assert lines[0] == "load factor,sinking,snow,stiffness,work,half" and lines[1].split(",")[1:4] == ["mm", "kN", "kN/mm"]
    client.delete(f"/api/kept/named/{known['snow']['id']}")
    broken = {c["name"]: c for c in client.get("/api/named", params={"result": TRUSS}).json()}
    assert "no curve named 'snow'" in broken["work"]["error"], "what it was made of is gone, and it says so"
    client.post("/api/undo")


def test_a_curve_that_goes_one_way_has_figures_and_a_loop_has_cycles(client: TestClient) -> None:
    reply = {f["label"]: f for f in client.get("/api/pairings", params={"result": TRUSS}).json()[0]["figures"]}
    assert reply["Stiffness"]["unit"] == "kN/mm" and reply["Stiffness"]["value"] == pytest.approx(9.99, rel=0.01)
    assert reply["Peak"]["value"] == pytest.approx(191.2, rel=0.01), "3.98 kN/m2 on 12 m by 4 m"
    assert 170 < reply["Yield"]["value"] < 191 and reply["Ductility"]["value"] > 5
    assert client.get("/api/pairings", params={"result": FLEXURE}).json()[0]["figures"] == []


def test_three_specimens_make_one_record_with_their_scatter(client: TestClient) -> None:
    """Does the flexure agree with three specimens within 10 %?"""
    tests = [t for t in client.get("/api/tests").json() if t["name"].startswith("specimen")]
    pairing = client.get("/api/pairings", params={"result": FLEXURE}).json()[0]["id"]
    assert [t["name"] for t in tests] == [f"specimen_F{i}.csv" for i in (1, 2, 3)]
    mean = client.post("/api/tests/mean", json={"tests": [t["id"] for t in tests], "pairing": pairing}).json()
    assert 0.005 < mean["scatter"] < 0.06 and mean["corrections"][0].startswith("mean of specimen_F1.csv")
    wide = {**mean["use"], "limits": dict.fromkeys(("force", "stiffness", "energy", "deviation"), 0.1)}
    client.put(f"/api/tests/{mean['id']}", json=wide)
    found = client.get("/api/matches", params={"pairing": pairing, "test": mean["id"]}).json()
    assert found["verdict"].startswith("Agrees: everything")
    band = client.get("/api/overlays", params={"pairing": pairing, "test": mean["id"]}).json()
    low, high = (np.array(band[k], dtype=float) for k in ("low", "high"))
    assert (high >= low).all() and (high - low).max() > 0.1
    assert client.delete(f"/api/tests/{tests[0]['id']}").status_code == 422, "it is part of the mean"
    client.delete(f"/api/tests/{mean['id']}")
    assert len(client.get("/api/tests").json()) == 5


def test_a_set_of_nodes_and_checks_taken_over_by_another_mesh(client: TestClient) -> None:
    body = {"name": "three", "how": "nodes", "nodes": [1, 5, 9, 5]}
    made = next(s for s in client.post(f"/api/results/{LUG}/sets", json=body).json()["sets"] if s["name"] == "three")
    assert made["count"] == 3 and made["made"] == "3 nodes picked"
    for nodes, said in (([], "No node is named"), ([10**7], "node 10000000")):
        refused = client.post(f"/api/results/{LUG}/sets", json={**body, "name": "no", "nodes": nodes})
        assert refused.status_code in (404, 422) and said in refused.json()["title"]
    client.delete(f"/api/results/{LUG}/sets/three")
    reading = {"field": "displacement", "measure": "magnitude", "step": 4}
    check = {"result": LUG, "name": "stretch", "reading": reading, "at": "max", "expected": 0.0565, "tolerance": 0.02}
    kept = client.post("/api/checks", json=check).json()
    assert client.get("/api/checks/elsewhere", params={"result": 1}).json()[str(LUG)] >= 1
    taken = client.post("/api/checks/taken", json={"of": LUG, "to": 1}).json()
    other = next(c for c in taken if c["name"] == "stretch")
    assert other["result"] == 1 and other["value"] != kept["value"] and other["verdict"] == kept["verdict"]
    again = client.post("/api/checks/taken", json={"of": LUG, "to": 1}).json()
    assert len(again) == len(taken), "what is here already stays"
    for c in (kept, *taken):
        client.delete(f"/api/kept/check/{c['id']}")


def test_tables_leave_as_workbooks_too(client: TestClient) -> None:
    pairing = client.get("/api/pairings", params={"result": FLEXURE}).json()[0]["id"]

    def table(form: str, kind: str) -> Response:
        if kind == "curves":
            return client.get(f"/api/results/{TRUSS}/curves.{form}")
        return client.post(f"/api/ask/{kind}.{form}", json={"pairing": pairing})

    for kind in ("curve", "cycles", "curves"):
        answer = table("xlsx", kind)
        assert answer.status_code == 200 and answer.content.startswith(b"PK")
        book = openpyxl.load_workbook(io.BytesIO(answer.content))
        rows = list(csv.reader(io.StringIO(table("csv", kind).text)))
        assert [str(c.value or "") for c in book["values"][1]] == rows[0]
        assert book["values"].max_row == len(rows)
        assert ("reading" in book.sheetnames) == (kind != "curves")
    assert table("pdf", "curve").status_code == 422
