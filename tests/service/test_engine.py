"""What the bench asks the service of the engine: corrections, axes, long readings as jobs, files out."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ironstone.core.geometry.surface import skin
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.formats.registry import steps_of
from ironstone.service.app import create_app
from ironstone.store import Review, intake
from tests.service.test_service import FLEXURE, client, review, unpacked, wait
from tests.writing import bar_of_hexahedra, write_vtu

__all__ = ["client", "review"]
LUG = 1
NOT_WAITING = {"Prefer": "respond-async"}
HOOP = {"field": "stress", "measure": "yy", "axes": "eye"}


def test_a_reading_over_steps_is_worked_out_as_a_job_and_then_there(client: TestClient, review: Review) -> None:
    asked = {**HOOP, "over": "largest"}
    begun = client.get(f"/api/results/{LUG}/values", params=asked, headers=NOT_WAITING)
    assert begun.status_code == 202 and wait(client, begun.json())["state"] == "done"
    there = client.get(f"/api/results/{LUG}/values", params=asked, headers=NOT_WAITING)
    assert there.status_code == 200 and there.content == client.get(f"/api/results/{LUG}/values", params=asked).content
    head, arrays = unpacked(there.content)
    source = review.result(LUG)
    expected = evaluate(Reading("stress", "yy", axes="eye", over="largest"), source, skin(source.mesh).vertices).values
    assert arrays["values"] == pytest.approx(expected, rel=1e-5)
    assert head["words"]["over"] == "largest over all steps" and head["signed"]


def test_a_long_reading_can_be_stopped(client: TestClient) -> None:
    asked = {"field": "stress", "measure": "von-mises", "over": "largest", "averaging": "all"}
    job = client.get(f"/api/results/{FLEXURE}/values", params=asked, headers=NOT_WAITING).json()
    client.delete(f"/api/jobs/{job['id']}")
    ended = wait(client, job)
    assert ended["state"] == "stopped" and ended["error"]


def test_the_range_over_steps_is_a_job_too(client: TestClient) -> None:
    job = wait(client, client.post(f"/api/results/{LUG}/range", params=HOOP).json())
    assert job["state"] == "done"
    reply = client.get(f"/api/results/{LUG}/range", params=HOOP).json()
    assert reply["low"] < 0 < reply["high"] and reply["high_step"] in range(9)


def test_axes_constants_and_fields_are_stated_and_undone(client: TestClient) -> None:
    body = {"name": "pin", "kind": "spherical", "origin": [0, 0, 0], "third": [0, 0, 1], "first": [1, 0, 0]}
    assert client.put(f"/api/results/{LUG}/axes", json=body).json() == {"name": "pin", "direction": None}
    reply = client.get(f"/api/results/{LUG}").json()
    assert [a["name"] for a in reply["axes"]] == ["global", "element", "eye", "pin"]
    assert reply["axes"][-1]["directions"] == ["radial", "polar", "azimuthal"]
    assert client.delete(f"/api/results/{LUG}/axes/pin").json()["axes"][-1]["name"] == "eye"
    client.post("/api/undo")
    assert client.get(f"/api/results/{LUG}").json()["axes"][-1]["name"] == "pin"
    reply = client.put(f"/api/results/{LUG}/materials", json={"material": "material 1", "constants": {}}).json()
    assert [m["constants"].get("young") for m in reply["materials"]] == [None, 105_000.0]
    reply = client.put(f"/api/results/{LUG}/fields", json={"fields": ["applied_force"], "entries": {"kind": "reaction"}}).json()
    assert next(f for f in reply["fields"] if f["name"] == "applied_force")["kind"] == "reaction"


@pytest.mark.parametrize(
    ("path", "body", "words"),
    [
        ("axes", {"name": "eye", "kind": "conical", "origin": [0, 0, 0], "third": [0, 0, 1], "first": [1, 0, 0]}, ""),
        ("axes", {"name": "x", "kind": "cylindrical", "origin": [0, 0, 0], "third": [0, 0, 1], "first": [0, 0, 3]}, "one line"),
        ("materials", {"material": "material 1", "constants": {"young": -5, "poisson": 0.3}}, "above zero"),
        ("model", {"model": "plane strain"}, "not planar"),
        ("fields", {"fields": ["stress"], "entries": {"colour": "red"}}, "cannot be stated"),
        ("fields", {"fields": ["stress"], "entries": {"kind": "displacement"}}, "cannot be a displacement"),
    ],
)
def test_what_cannot_be_stated_is_refused_with_a_word(client: TestClient, path: str, body: dict[str, object], words: str) -> None:
    before = client.get(f"/api/results/{LUG}").json()
    answer = client.put(f"/api/results/{LUG}/{path}", json=body)
    assert answer.status_code in (400, 404, 409, 422)
    assert words in answer.text and answer.json()["title"]
    assert client.get(f"/api/results/{LUG}").json() == before


def test_a_stated_constant_changes_the_tag_of_an_old_picture(client: TestClient) -> None:
    asked = {"field": "stress", "measure": "elastic-energy"}
    first = client.get(f"/api/results/{LUG}/values", params=asked)
    client.put(f"/api/results/{LUG}/materials", json={"material": "material 2", "constants": {"young": 52_500.0, "poisson": 0.34}})
    again = client.get(f"/api/results/{LUG}/values", params=asked, headers={"If-None-Match": first.headers["etag"]})
    assert again.status_code == 200
    before, after = (unpacked(a.content)[0]["max"]["value"] for a in (first, again))
    assert after == pytest.approx(2 * before, rel=0.3), "half the modulus, about twice the energy in the bushing"


def test_the_error_and_the_difference_reach_the_view(client: TestClient) -> None:
    head, arrays = unpacked(client.get(f"/api/results/{LUG}/values", params={"field": "stress", "of": "error"}).content)
    assert 0 < head["error_total"] < 0.1 and not head["signed"]
    assert np.nanmin(arrays["values"]) >= 0
    head, arrays = unpacked(client.get(f"/api/results/{LUG}/values", params={**HOOP, "against": "averaging=all"}).content)
    assert head["signed"] and head["words"]["against"] == "averaged over all elements at a node"
    assert np.nanmin(arrays["values"]) < 0 < np.nanmax(arrays["values"])


@pytest.mark.parametrize("suffix", ["vtu", "vtkhdf", "uff"])
def test_a_result_leaves_as_a_file(client: TestClient, tmp_path: Path, suffix: str) -> None:
    answer = client.get(f"/api/results/{LUG}/export/{suffix}", params={"step": 2})
    assert answer.status_code == 200
    assert "lug" in answer.headers["content-disposition"]
    path = tmp_path / f"lug.{suffix}"
    path.write_bytes(answer.content)
    (step,) = steps_of(path)
    assert len(step.types) == 180 and step.time == pytest.approx(1.0)
    if suffix == "uff":
        assert "six digits" in answer.headers["x-not-carried"]
    assert client.get(f"/api/results/{LUG}/export/doc").status_code == 422


def test_a_set_leaves_as_a_workbook(client: TestClient, tmp_path: Path) -> None:
    import openpyxl

    answer = client.get(f"/api/results/{LUG}/set.xlsx", params={**HOOP, "name": "bore"})
    path = tmp_path / "bore.xlsx"
    path.write_bytes(answer.content)
    book = openpyxl.load_workbook(path)
    rows = list(book["values"].iter_rows(values_only=True))
    assert rows[0][:3] == ("node", "element", "x") and rows[1][-1] == "MPa"
    assert isinstance(rows[2][-1], float)
    assert "axes eye (cylindrical)" in str(book["reading"]["A1"].value)


def test_a_correction_made_after_an_undo_is_not_answered_with_the_picture_of_the_one_undone(client: TestClient) -> None:
    """Both are the first correction that counts; what the browser kept of one must not be shown for the other."""
    asked = {"field": "stress", "measure": "xx", "step": 40, "axes": "mine"}
    address = f"/api/results/{FLEXURE}/axes"
    first_way, second_way = (
        {"name": "mine", "kind": "cartesian", "origin": [0, 0, 0], "third": [0, 1, 0], "first": way}
        for way in ([1, 0, 0], [0, 0, 1])
    )

    def answer(kept: str = "") -> tuple[int, str, np.ndarray]:
        got = client.get(f"/api/results/{FLEXURE}/values", params=asked, headers={"If-None-Match": kept})
        return got.status_code, got.headers["etag"], unpacked(got.content)[1]["values"] if got.content else np.zeros(0)

    assert client.put(address, json=first_way).status_code == 200
    _, first, along_x = answer()
    client.post("/api/undo")
    client.post("/api/redo")
    assert answer(first)[0] == 304, "as it was: what was kept is right again"
    client.post("/api/undo")
    assert client.put(address, json=second_way).status_code == 200
    status, _, along_z = answer(first)
    assert status == 200 and not np.allclose(along_x, along_z)


def test_two_reviews_served_in_turn_at_one_address_are_not_taken_for_each_other(tmp_path: Path) -> None:
    answers = []
    for name, height in (("low", 1.0), ("high", 2.0)):
        points, cells, _ = bar_of_hexahedra(2)
        stress = np.zeros((len(points), 6))
        stress[:, 0] = 100 * height
        file = write_vtu(tmp_path / f"{name}.vtu", points * [1, 1, height], cells, {"stress": stress})
        with Review.create(tmp_path / f"{name}.ironstone") as review:
            assert intake(review, [file]) == 1, "both are result 1 of their review"
            with TestClient(create_app(review)) as served:
                kept = {"If-None-Match": answers[0][0]} if answers else {}
                values = served.get("/api/results/1/values", params={"field": "stress", "measure": "xx"}, headers=kept)
                shape = {"If-None-Match": answers[0][1]} if answers else {}
                drawn = served.get("/api/results/1/surface", headers=shape)
                assert values.status_code == drawn.status_code == 200
                head, arrays = unpacked(values.content)
                assert arrays["values"] + head["base"] == pytest.approx(100 * height)
                head, arrays = unpacked(drawn.content)
                assert arrays["positions"][:, 2].max() + head["origin"][2] == pytest.approx(height)
                answers.append((values.headers["etag"], drawn.headers["etag"]))


def test_limits_over_what_has_been_so_far_grow_with_the_step(client: TestClient) -> None:
    asked = {"field": "equivalent_plastic_strain", "over": "largest", "span": "so-far"}
    early, late = (client.get(f"/api/results/{FLEXURE}/range", params={**asked, "step": s}).json() for s in (20, 240))
    assert late["high"] > 1.5 * early["high"] > 0
