"""What the view asks of the service: looks, arrows, measures, flags at points, halves, views."""

from __future__ import annotations

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.engine.reading import answers
from ironstone.store import Review
from tests.service.test_service import FLEXURE, STRESS, client, review, unpacked

__all__ = ["client", "review"]
LUG = 1
MISES = {"field": "stress", "measure": "von-mises", "step": 4}


def surface(client: TestClient, **look: object) -> tuple[dict, dict]:
    return unpacked(client.get(f"/api/results/{LUG}/surface", params=look).content)


def test_values_and_shape_follow_what_is_shown(client: TestClient) -> None:
    whole, _ = surface(client)
    alone, arrays = surface(client, hidden="0")
    assert alone["faces"] < whole["faces"]
    head, values = unpacked(client.get(f"/api/results/{LUG}/values", params={**MISES, "hidden": "0"}).content)
    _, shape = unpacked(client.get(f"/api/results/{LUG}/deformation", params={"step": 4, "hidden": "0"}).content)
    assert len(values["values"]) == len(arrays["positions"]) == len(shape["displacement"])
    assert head["max"]["part"] in ("part 1", "part 2"), "the highest is that of the whole model, shown or not"
    assert client.get(f"/api/results/{LUG}/surface", params={"hidden": "a"}).status_code == 422


def test_a_translucent_part_comes_after_the_others(client: TestClient) -> None:
    head, arrays = surface(client, translucent="1")
    assert 0 < head["opaque"] < len(arrays["triangles"])


def test_another_look_is_another_answer_and_the_same_one_is_not_sent_twice(client: TestClient) -> None:
    first = client.get(f"/api/results/{LUG}/surface", params={"detail": 2})
    again = client.get(f"/api/results/{LUG}/surface", params={"detail": 2}, headers={"If-None-Match": first.headers["etag"]})
    other = client.get(f"/api/results/{LUG}/surface", params={"detail": 4}, headers={"If-None-Match": first.headers["etag"]})
    assert again.status_code == 304 and other.status_code == 200
    assert len(other.content) > len(first.content)


def test_names_have_a_key_of_names(client: TestClient) -> None:
    head, arrays = unpacked(client.get(f"/api/results/{LUG}/values", params={"field": "part"}).content)
    assert [c["name"] for c in head["categories"]] == ["part 1", "part 2"]
    assert sum(c["share"] for c in head["categories"]) == pytest.approx(1.0)
    assert set(np.unique(arrays["values"])) == {0.0, 1.0}
    reply = client.get(f"/api/results/{LUG}/probe", params={"field": "part", "face": 0, "s": 0.5, "t": 0.5}).json()
    assert reply["name"] == reply["part"]


def test_volume_and_area_weigh_differently(client: TestClient) -> None:
    by_area = client.get(f"/api/results/{LUG}/values/head", params=MISES).json()["shares"]
    by_volume = client.get(f"/api/results/{LUG}/values/head", params={**MISES, "weigh": "volume"}).json()["shares"]
    assert sum(by_area) == pytest.approx(1.0) and sum(by_volume) == pytest.approx(1.0)
    assert by_area != by_volume


def test_arrows_of_reactions_stand_at_the_support(client: TestClient) -> None:
    head, arrays = unpacked(client.get(f"/api/results/{LUG}/arrows", params={"field": "reaction", "step": 4, "spacing": 0}).content)
    assert head["kind"] == "vector" and head["at"] == "nodes" and head["unit"] == "N"
    assert np.ptp(arrays["points"][:, 0]) == pytest.approx(0.0), "all in the held plane"
    head, arrays = unpacked(client.get(f"/api/results/{LUG}/arrows", params={"field": "stress", "step": 4}).content)
    assert head["kind"] == "cross" and arrays["directions"].shape[1] == 9
    answer = client.get(f"/api/results/{LUG}/arrows", params={"field": "part", "step": 4})
    assert answer.status_code == 422 and "no direction" in answer.json()["title"]


def test_measuring_tells_both_shapes(client: TestClient, review: Review) -> None:
    mesh = review.result(LUG).mesh
    a, b = (int(mesh.node_ids[i]) for i in (0, 5))
    reply = client.get(f"/api/results/{LUG}/measure", params={"what": "length", "nodes": f"{a},{b}", "step": 4}).json()
    assert reply["undeformed"] == pytest.approx(float(np.linalg.norm(mesh.points[0] - mesh.points[5])))
    assert reply["unit"] == "mm" and reply["deformed"] != reply["undeformed"]
    whole = client.get(f"/api/results/{LUG}/measure", params={"what": "volume", "step": 0}).json()
    bushing = client.get(f"/api/results/{LUG}/measure", params={"what": "volume", "step": 0, "hidden": "0"}).json()
    assert whole["undeformed"] == pytest.approx(float(mesh.volumes.sum())) and whole["unit"] == "mm³"
    assert bushing["undeformed"] < whole["undeformed"]
    area = client.get(f"/api/results/{LUG}/measure", params={"what": "area", "face": 3, "fold": 20, "step": 0}).json()
    assert area["count"] > 1 and area["unit"] == "mm²"
    for wrong in ({"what": "angle", "nodes": f"{a}"}, {"what": "area", "face": 999999}, {"what": "length", "nodes": "1,99999999"}):
        assert client.get(f"/api/results/{LUG}/measure", params={**wrong, "step": 0}).status_code in (404, 422)


def test_a_flag_follows_a_point_of_the_material(client: TestClient, review: Review) -> None:
    source = review.result(LUG)
    element = int(source.mesh.element_ids[17])
    body = {"result": LUG, "element": element, "xi": [0.3, 0.6, 0.2], "name": "inside"}
    flag = client.post("/api/flags", json=body).json()["id"]
    reply = client.get(f"/api/flags/{flag}/answer", params=MISES).json()
    place = AtSamples(np.array([17]), np.array([[0.3, 0.6, 0.2]]))
    expected = evaluate(Reading("stress", "von-mises", step=4), source, place).values
    assert reply["place"] == f"inside element {element}"
    assert [e["value"] for e in reply["entries"]] == pytest.approx(expected)
    averaged = evaluate(Reading("stress", "von-mises", "part", step=4), source, place).values
    assert [e["other"] for e in reply["entries"]] == pytest.approx(averaged)
    assert np.linalg.norm(reply["moved"]) > 0
    client.put(f"/api/flags/{flag}", json={"name": "mid wall"})
    assert client.get("/api/flags", params={"result": LUG}).json()[-1]["name"] == "mid wall"
    assert ",mid wall,inside element" in client.post("/api/ask/flags.csv", json={"result": LUG, **MISES}).text
    assert client.post("/api/flags", json={"result": LUG}).status_code == 422
    client.delete(f"/api/kept/flag/{flag}")


def test_a_flag_at_a_node_sets_two_averagings_side_by_side(client: TestClient, review: Review) -> None:
    source = review.result(FLEXURE)
    node = client.get("/api/flags", params={"result": FLEXURE}).json()[0]
    reply = client.get(f"/api/flags/{node['id']}/answer", params=STRESS).json()
    raw = answers.read(Reading("stress", "von-mises", step=STRESS["step"]), source, f"node:{node['node']}")
    assert [e["value"] for e in reply["entries"]] == pytest.approx([v["value"] for v in raw["values"]])
    mean = answers.read(Reading("stress", "von-mises", "part", step=STRESS["step"]), source, f"node:{node['node']}")
    assert {round(e["other"], 6) for e in reply["entries"]} == {round(v["value"], 6) for v in mean["values"]}
    assert reply["jump"] == pytest.approx(raw["jump"])
    averaged = client.get(f"/api/flags/{node['id']}/answer", params={**STRESS, "averaging": "part"}).json()
    assert averaged["entries"] == reply["entries"], "whichever is in view, the same two stand side by side"


def test_sums_over_a_half_are_those_of_the_whole(client: TestClient, review: Review) -> None:
    source = review.result(FLEXURE)
    reading = Reading("reaction", "x", unit="kN")
    half, _, _ = answers.trace_curve(reading, source, "set:held", "sum")
    side = float(source.mesh.points[:, 1].max())
    assert client.put(f"/api/results/{FLEXURE}/mirror", json={"axis": "y", "at": side}).json()["mirror"]["at"] == side
    stated = review.result(FLEXURE)
    whole, sentence, caveats = answers.trace_curve(reading, stated, "set:held", "sum")
    assert whole.y == pytest.approx(2 * half.y) and "mirror image" in sentence
    assert any("Doubled" in c for c in caveats)
    across, _, caveats = answers.trace_curve(Reading("reaction", "y", unit="kN"), stated, "set:held", "sum")
    assert np.allclose(across.y, 0.0) and any("hold each other" in c for c in caveats)
    answer = client.put(f"/api/results/{FLEXURE}/mirror", json={"axis": "y", "at": float(source.mesh.points[:, 1].mean())})
    assert answer.status_code == 422 and "cuts through" in answer.json()["title"]
    client.post("/api/undo")


def test_named_views_are_kept_with_the_review(client: TestClient) -> None:
    body = {"result": LUG, "name": "eye", "address": "hidden=0&camera=1,2,3,4,5,6,7"}
    first = client.post("/api/keep/view", json=body).json()
    again = client.post("/api/keep/view", json={**body, "address": "camera=7,6,5,4,3,2,1"}).json()
    assert first["id"] == again["id"], "one of the same name is kept anew"
    assert [v["words"]["address"] for v in client.get("/api/kept/view", params={"result": LUG}).json()] == ["camera=7,6,5,4,3,2,1"]
    assert client.get("/api/kept/view", params={"result": FLEXURE}).json() == []
    client.delete(f"/api/kept/view/{first['id']}")
    assert client.get("/api/kept/view", params={"result": LUG}).json() == []
    client.post("/api/undo")
    assert len(client.get("/api/kept/view", params={"result": LUG}).json()) == 1


def test_a_part_turned_over_moves_as_it_is_turned(client: TestClient) -> None:
    """Half a turn about the z axis through the origin: x and y change their signs, of the part's places and of what they move."""
    asked = {"step": 4}
    head, plain = unpacked(client.get(f"/api/results/{LUG}/surface", params=asked).content)
    _, moved = unpacked(client.get(f"/api/results/{LUG}/deformation", params=asked).content)
    over = {**asked, "turned": "0:0,0,0:0,0,1"}
    turned_head, turned = unpacked(client.get(f"/api/results/{LUG}/surface", params=over).content)
    _, turned_moved = unpacked(client.get(f"/api/results/{LUG}/deformation", params=over).content)
    at, now = (np.asarray(a["positions"]).reshape(-1, 3) + h["origin"] for a, h in ((plain, head), (turned, turned_head)))
    own = np.abs(now - at).max(axis=1) > 1e-3
    assert own.any() and not own.all(), "one part of two"
    assert now[own] == pytest.approx(at[own] * [-1, -1, 1], abs=1e-3)
    u, v = (np.asarray(a["displacement"]).reshape(-1, 3) for a in (moved, turned_moved))
    assert v[own] == pytest.approx(u[own] * [-1, -1, 1], abs=1e-6) and v[~own] == pytest.approx(u[~own])
    assert client.get(f"/api/results/{LUG}/surface", params={**asked, "turned": "0:1,2"}).status_code == 422
