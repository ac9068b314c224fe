"""What the Trace bay asks of the service: members, traces at every place, records trimmed, printed, held by time."""

from __future__ import annotations

import base64
import csv
import io
import struct

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.service.test_service import FLEXURE, client, review

__all__ = ["client", "review"]
LUG, TRUSS = 2, 3


def picture(data: bytes) -> str:
    return f"data:image/{'png' if data[1:4] == b'PNG' else 'jpeg'};base64,{base64.b64encode(data).decode()}"


PICTURE = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" + struct.pack(">2I", 800, 600) + b"0" * 20
PNG = picture(PICTURE)


def test_members_of_the_truss_beside_their_hand_calculation(client: TestClient) -> None:
    """Elastic: modulus, area and joints' displacements alone give the file's forces. At the end diagonals are past it."""
    early = client.post("/api/ask/members", json={"result": TRUSS, "step": 2}).json()["more"]
    assert len(early["members"]) == 31 and early["missing"] == "" and early["source"] == "'axial_force' of the file"
    for m in early["members"]:
        assert m["elastic"] and m["sense"] in ("agrees", "") and m["hand_force"] == pytest.approx(m["force"], rel=2e-3, abs=2.0)
    late = client.post("/api/ask/members", json={"result": TRUSS, "step": 38}).json()["more"]
    yielded = [m for m in late["members"] if not m["elastic"]]
    assert yielded and any(abs(m["off"]) > 1 for m in yielded)
    table = client.post("/api/ask/members.csv", json={"result": TRUSS, "step": 38}).text
    rows = list(csv.reader(io.StringIO(table)))
    assert len(rows) == 2 + 31 and rows[1][4] == "mm" and {r[-1] for r in rows[2:]} == {"the stress", "nominal"}
    assert client.post("/api/ask/members", json={"result": LUG, "step": 0}).status_code == 422


def test_a_reading_along_a_member_and_who_takes_over(client: TestClient) -> None:
    reply = client.get(f"/api/results/{TRUSS}/members/21/along", params={"field": "top_fibre_stress", "step": 20}).json()
    assert len(reply["distance"]) == 8 and reply["distance_unit"] == "mm" and reply["sentence"].endswith("along member 21")
    assert all(abs(m) >= abs(v) - 1e-6 for v, m in zip(reply["values"], reply["so_far"], strict=True))
    assert client.get(f"/api/results/{TRUSS}/members/99/along", params={"field": "axial_force"}).status_code == 404
    elastic = client.get(f"/api/results/{TRUSS}/members/taken-over", params={"last": 4}).json()
    assert elastic["first"] == 1 and max(abs(s["gained"]) for s in elastic["shifts"]) < 2e-3 * 60_000
    late = client.get(f"/api/results/{TRUSS}/members/taken-over", params={"first": 2, "last": 38}).json()
    gained = [s["gained"] for s in late["shifts"]]
    assert gained == sorted(gained, reverse=True) and gained[0] > 1_000 and gained[-1] < -1_000
    assert client.get(f"/api/results/{TRUSS}/members/taken-over", params={"first": 0, "last": 38}).status_code == 422


def test_forces_on_faces_and_a_pressure_on_them(client: TestClient) -> None:
    query = {"step": 4, "face": 0, "fold": 5, "pressure": 3}
    reply = client.get(f"/api/results/{LUG}/face-force", params=query).json()
    assert reply["count"] > 0 and reply["stress_unit"] == "MPa"
    assert reply["pushed"]["force"] == pytest.approx([-3 * a for a in reply["projected"]], abs=1e-6)
    assert reply["residual_share"] < 0.05
    assert client.get(f"/api/results/{LUG}/face-force", params={**query, "face": 99_999}).status_code == 422
    assert client.get(f"/api/results/{LUG}/face-force", params={**query, "pressure": "nan"}).status_code == 422
    assert client.get(f"/api/results/{TRUSS}/face-force", params={"step": 4, "face": 0}).status_code == 422


def test_the_lugs_peak_is_held_against_its_other_mesh(client: TestClient) -> None:
    reply = {d["name"]: d for d in client.post("/api/ask/sense", json={"result": LUG, "step": 4}).json()["more"]["doubts"]}
    assert "lug, coarse" in reply["peak over meshes"]["said"] and "lug, fine" in reply["peak over meshes"]["said"]
    alone = {d["name"]: d for d in client.post("/api/ask/sense", json={"result": FLEXURE, "step": 40}).json()["more"]["doubts"]}
    assert alone["peak over meshes"]["verdict"] == "not checked"


def axis(at: str, **more: object) -> dict[str, object]:
    return {"field": "stress", "measure": "xx", "at": at, **more}


@pytest.mark.parametrize("at", ["element:1", "point:55,35,-28", "point:54,34,-27.5"])
def test_a_curve_is_traced_in_an_element_and_at_a_point(client: TestClient, at: str) -> None:
    x = {"field": "", "curve": "step"}
    made = client.post("/api/pairings", json={"result": FLEXURE, "name": at, "x": x, "y": axis(at, reduce=None)})
    reply = made.json()
    assert made.status_code == 200, reply
    assert reply["x"]["unit"] == "s" and len(reply["y"]["values"]) == 241 and np.ptp(reply["y"]["values"]) > 10
    client.delete(f"/api/kept/pairing/{reply['id']}")


@pytest.mark.parametrize(
    ("at", "said"), [("gauss:5:1", "no Gauss points"), ("edge:5", "not a place"), ("element:x", "not a place")]
)
def test_places_that_are_none_are_refused(client: TestClient, at: str, said: str) -> None:
    answer = client.post("/api/pairings", json={"result": FLEXURE, "name": "no", "x": {"curve": "step"}, "y": axis(at)})
    assert answer.status_code == 422 and said in answer.json()["title"]


def test_the_largest_over_a_set_tells_where_and_velocity_is_marked(client: TestClient) -> None:
    over = {"field": "displacement", "measure": "magnitude", "at": "set:driven", "reduce": "max"}
    made = client.post("/api/pairings", json={"result": FLEXURE, "name": "far", "x": {"curve": "step"}, "y": over}).json()
    assert any(c.startswith("Largest 16 mm at node") for c in made["caveats"])
    speed = {**over, "field": "velocity from displacement", "measure": "x", "reduce": "mean"}
    fast = client.post("/api/pairings", json={"result": FLEXURE, "name": "fast", "x": {"curve": "step"}, "y": speed}).json()
    assert fast["y"]["unit"] == "mm/s" and any("Recovered here" in c for c in fast["caveats"])
    for made_id in (made["id"], fast["id"]):
        client.delete(f"/api/kept/pairing/{made_id}")


def test_the_stroke_reached_is_held_against_the_history_prescribed(client: TestClient) -> None:
    """A history prescribed a little earlier than it is reached: the shift is found, and what is left is small."""
    stroke = {"field": "displacement", "measure": "x", "at": "set:driven", "reduce": "mean", "unit": "mm"}
    made = client.post("/api/pairings", json={"result": FLEXURE, "name": "stroke", "x": {"curve": "step"}, "y": stroke}).json()
    t, u = np.array(made["x"]["values"]), np.array(made["y"]["values"])
    rows = "\n".join(f"{1000 * (a - 0.02):.6g},{b:.6g}" for a, b in zip(t, u, strict=True))
    body = f"Time,Stroke\nms,mm\n{rows}\n"
    record = client.post("/api/tests", params={"name": "prescribed.csv", "pairing": made["id"]}, content=body.encode()).json()
    use = {**record["use"], "x": {"column": "Time", "unit": "ms"}, "y": {"column": "Stroke", "unit": "mm"}}
    record = client.put(f"/api/tests/{record['id']}", json=use).json()
    reply = client.get("/api/matches", params={"pairing": made["id"], "test": record["id"]}).json()
    assert reply["kind"] == "transient" and reply["shift"] == pytest.approx(0.02, rel=1e-3)
    assert reply["verdict"].startswith("Agrees") and len(reply["deviation"]["x"]) == len(reply["deviation"]["away"]) > 200
    drawn = client.get("/api/overlays", params={"pairing": made["id"], "test": record["id"]}).json()
    assert drawn["x"][1] == pytest.approx(t[1], abs=1e-4), "drawn with the shift taken out"
    client.delete(f"/api/tests/{record['id']}")
    client.delete(f"/api/kept/pairing/{made['id']}")


def test_rows_are_trimmed_and_stress_made_true_recorded_and_taken_back(client: TestClient) -> None:
    body = "strain,stress\n%,MPa\n" + "\n".join(f"{i},{100 * i}" for i in range(11))
    record = client.post("/api/tests", params={"name": "pull.csv"}, content=body.encode()).json()
    use = {**record["use"], "x": {"column": "strain", "unit": "%"}, "y": {"column": "stress", "unit": "MPa"}}
    reply = client.put(f"/api/tests/{record['id']}", json={**use, "first": 2, "last": 6, "true": True}).json()
    assert reply["corrections"] == ["rows 2 to 6 of 11 taken", "converted from engineering to true: ln(1 + e), s (1 + e)"]
    assert reply["x"] == pytest.approx(np.log1p(np.arange(1, 6) / 100)) and reply["y"][-1] == pytest.approx(500 * 1.05)
    back = client.put(f"/api/tests/{record['id']}", json=use).json()
    assert back["corrections"] == [] and len(back["x"]) == 11 and back["rows"] == 11
    refused = client.put(f"/api/tests/{record['id']}", json={**use, "first": 9, "last": 3})
    assert refused.status_code == 422 and "leave no curve" in refused.json()["title"]
    assert len(client.get("/api/tests").json()[-1]["x"]) == 11
    client.delete(f"/api/tests/{record['id']}")


def test_a_printed_curve_becomes_a_record_with_its_picture(client: TestClient) -> None:
    marks = {"label": "stroke", "unit": "mm", "first": [100, 500], "first_value": 0, "second": [600, 500], "second_value": 10}
    up = {"label": "force", "unit": "kN", "first": [100, 500], "first_value": 0, "second": [100, 100], "second_value": 8}
    body = {"name": "print", "picture": PNG, "x": marks, "y": up, "points": [[100, 500], [350, 300], [600, 100]]}
    reply = client.post("/api/tests/printed", json=body).json()
    assert reply["x"] == pytest.approx([0, 5, 10]) and reply["y"] == pytest.approx([0, 4, 8])
    assert (reply["x_unit"], reply["y_unit"], reply["picture"]) == ("mm", "kN", True)
    assert reply["corrections"] == ["read off a picture at 3 points, axes marked at 0 and 10 on x, 0 and 8 on y"]
    assert client.get(f"/api/tests/{reply['id']}/picture").content.startswith(b"\x89PNG")
    for wrong, said in (
        ({"picture": "data:image/png;base64,AAAA"}, "no PNG or JPEG"),
        ({"picture": picture(b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" + struct.pack(">2I", 50_000, 50_000))}, "50000 by 50000 pixels"),
        ({"picture": picture(b"\xff\xd8\xff\xe0\0\4ab\xff\xc2\0\x11\x08" + struct.pack(">2H", 40_000, 30_000))}, "30000 by 40000"),
        ({"picture": picture(b"\xff\xd8\xff\xe0\0\4ab")}, "does not say how large"),
        ({"y": {**up, "second_value": 0}}, "different values"),
    ):
        answer = client.post("/api/tests/printed", json={**body, **wrong})
        assert answer.status_code == 422 and said in answer.json()["title"]
    client.delete(f"/api/tests/{reply['id']}")


def test_a_curve_over_some_steps_keeps_its_places_and_a_longer_record_its_range(client: TestClient) -> None:
    """The demo's steel: von Mises at a Gauss point against plastic strain, first loading, lies on the input curve."""
    pairings = {p["name"]: p for p in client.get("/api/pairings", params={"result": FLEXURE}).json()}
    steel = pairings["Steel, first loading"]
    assert steel["first"] == 0 and steel["last"] == 10
    assert len(steel["y"]["values"]) == 241 and steel["y"]["values"][11:] == [None] * 230
    record = next(t for t in client.get("/api/tests").json() if t["name"] == "material_input.csv")
    reply = client.get("/api/matches", params={"pairing": steel["id"], "test": record["id"]}).json()
    assert reply["verdict"].startswith("Agrees") and reply["kind"] == "monotonic"
    x, y = (np.array([v for v in steel[a]["values"] if v is not None]) for a in "xy")
    yielded = x > 0
    assert yielded.sum() == 6
    assert y[yielded] == pytest.approx(np.interp(x[yielded], record["x"], record["y"]), rel=5e-4)
    table = client.post("/api/ask/curve.csv", json={"pairing": steel["id"]}).text
    assert len(table.strip().splitlines()) == 2 + 11
    refused = client.post("/api/pairings", json={"result": FLEXURE, "name": "no", "first": 9, "last": 9,
                                                 "x": {"curve": "step"}, "y": axis("element:1")})  # fmt: skip
    assert refused.status_code == 422 and "leave no curve" in refused.json()["title"]


def test_the_demos_stroke_reaches_the_history_prescribed(client: TestClient) -> None:
    pairings = {p["name"]: p for p in client.get("/api/pairings", params={"result": FLEXURE}).json()}
    record = next(t for t in client.get("/api/tests").json() if t["name"] == "prescribed_history.csv")
    reply = client.get("/api/matches", params={"pairing": pairings["Stroke over time"]["id"], "test": record["id"]}).json()
    assert reply["kind"] == "transient" and reply["shift"] == 0 and reply["agrees"]


def test_a_curve_of_the_whole_model_comes_with_its_unit_and_goes_into_expressions(client: TestClient) -> None:
    """The work the solver reports, beside the snow over the ridge's sinking alone, which is the most any joint sinks."""
    assert client.get(f"/api/results/{TRUSS}").json()["totals"] == ["external_work [N*mm]"]
    x, y = {"curve": "step"}, {"curve": "total:external_work [N*mm]"}
    made = client.post("/api/pairings", json={"result": TRUSS, "name": "work", "x": x, "y": y}).json()
    assert made["y"]["unit"] == "N*mm" and made["y"]["sentence"] == "external work of the whole model"
    body = {"result": TRUSS, "name": "lost", "expression": "external_work - work"}
    reply = client.post("/api/named", json=body).json()
    assert reply["error"] is None and reply["values"][0] == 0
    named = {c["name"]: c for c in client.get("/api/named", params={"result": TRUSS}).json()}
    assert 0.3e6 < made["y"]["values"][-1] < 1.02 * 1e3 * named["work"]["values"][-1], "the ridge sinks most"
    no = client.post("/api/pairings", json={"result": TRUSS, "name": "no", "x": x, "y": {"curve": "total:heat"}})
    assert no.status_code == 404 and "no 'heat' of the whole model" in no.json()["title"]
    client.delete(f"/api/kept/pairing/{made['id']}")
    client.delete(f"/api/kept/named/{reply['id']}")


def test_a_curve_whose_set_or_named_curve_has_gone_says_so_and_leaves_the_others_alone(client: TestClient) -> None:
    listed = client.get("/api/pairings", params={"result": FLEXURE}).json()
    made = client.post(
        f"/api/results/{FLEXURE}/sets", json={"name": "all of it", "how": "box", "low": [-1e4] * 3, "high": [1e4] * 3}
    )
    assert made.status_code == 200
    loop = listed[0]
    spec = {"result": FLEXURE, "name": "of a set", "x": loop["x_spec"], "y": {**loop["y_spec"], "at": "set:all of it"}}
    of_set = client.post("/api/pairings", json=spec).json()["id"]
    named = client.post("/api/named", json={"result": FLEXURE, "name": "pull", "expression": "2 * step"}).json()["id"]
    by_name = {**spec, "name": "of a curve", "y": {**loop["y_spec"], "field": "", "at": "", "curve": "pull"}}
    of_curve = client.post("/api/pairings", json=by_name).json()["id"]
    client.delete(f"/api/results/{FLEXURE}/sets/all of it")
    client.delete(f"/api/kept/named/{named}")
    now = {p["id"]: p for p in client.get("/api/pairings", params={"result": FLEXURE}).json()}
    assert "no set named 'all of it'" in now[of_set]["error"] and "Sets here: " in now[of_set]["error"]
    assert "no curve named 'pull'" in now[of_curve]["error"]
    assert now[of_set]["y_spec"]["at"] == "set:all of it", "what it was made of is still told"
    assert [now[p["id"]] for p in listed] == listed
    assert client.post("/api/ask/curve.csv", json={"pairing": of_set}).status_code == 404
    mended = client.put(f"/api/pairings/{of_set}", json={**spec, "y": loop["y_spec"]}).json()
    assert mended["error"] is None and mended["y"]["values"] == loop["y"]["values"]
    client.post("/api/undo")
    client.post("/api/undo")
    assert {p["id"]: p["error"] for p in client.get("/api/pairings", params={"result": FLEXURE}).json()}[of_curve] is None


def test_a_mean_whose_records_no_longer_go_together_says_so_and_they_stay(client: TestClient) -> None:
    alike = [t["id"] for t in client.get("/api/tests").json() if t["name"].startswith("specimen")]
    stated = {"name": "mean", "tests": alike}
    mean = client.post("/api/tests/mean", json=stated).json()
    known = client.get("/api/tests").json()
    first = next(t for t in known if t["id"] == mean["of"][0])
    wrong = {**first["use"], "y": {**first["use"]["y"], "unit": "mm"}}
    assert client.put(f"/api/tests/{first['id']}", json=wrong).status_code == 200
    now = {t["id"]: t for t in client.get("/api/tests").json()}
    assert now[mean["id"]]["error"] and now[mean["id"]]["x"] == []
    assert now[first["id"]]["error"] is None and now[first["id"]]["y_unit"] == "mm"
    assert client.get("/api/matches", params={"pairing": first["use"]["pairing"], "test": mean["id"]}).status_code == 422
    client.post("/api/undo")
    again = client.get("/api/tests").json()
    assert [{**t, "revision": 0} for t in again] == [{**t, "revision": 0} for t in known]


def test_a_record_offers_as_its_zero_what_it_reads_before_its_driver_moves(client: TestClient) -> None:
    rest = [f"{0.3 + 0.001 * (i % 2)},{5.0 + 0.1 * (i % 2)}" for i in range(30)]
    test = [f"{0.3 + i},{5.0 + 2 * i}" for i in range(1, 60)]
    held = client.post("/api/tests?name=a.csv", content="\n".join(["Stroke,Load", "mm,kN", *rest, *test])).json()["zero_first"]
    assert held == {"samples": 20, "x": pytest.approx(0.3005), "y": pytest.approx(5.05)}
    at_once = client.post("/api/tests?name=b.csv", content="\n".join(["Stroke,Load", "mm,kN", *test])).json()["zero_first"]
    assert at_once == {"samples": 1, "x": 1.3, "y": 7.0}
