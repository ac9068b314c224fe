"""No address and no request, however odd, is answered with a failure or with a library's own words."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from ironstone.service.app import create_app
from ironstone.store import Review, intake

LIBRARIES = ("sqlalche", "pydantic", "numpy", "traceback", "sqlite3.", "background on this error", "input should", "h5py")


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    from bench.models import make

    folder = tmp_path_factory.mktemp("words")
    review = Review.create(folder / "a.ironstone")
    intake(review, [make(folder / "box.vtu", 8)])
    with TestClient(create_app(review), raise_server_exceptions=False) as found:
        yield found


HUGE = 2**63
ADDRESSES = [
    f"/api/results/{HUGE}",
    f"/api/results/-{HUGE + 1}",
    f"/api/results/{10**400}",
    "/api/results/1/values?field=stress&measure=xx&step=99999999999999999999",
    "/api/results/1/values?field=stress&measure=xx&step=nan",
    "/api/results/1/values?field=%00&measure=%00",
    f"/api/results/1/values?field={'x' * 5000}",
    f"/api/results/1/values?field=stress&measure=xx&result={HUGE}",
    f"/api/flags/{HUGE}/answer?field=stress",
    f"/api/flags?result={HUGE}",
    f"/api/exhibits/{HUGE}/picture.png",
    f"/api/matches?pairing={HUGE}&test={HUGE}",
    "/api/jobs/%00",
    "/api/results/1/export/vtu%00",
    "/api/results/1/export/..%2f..%2fa?step=0",
    "/%00",
    "/assets/%00",
    "/assets/" + "x" * 5000,
    "/" + "y/" * 3000,
    "/api/" + "z" * 8000,
    "/api/results/1/surface?detail=99999999999",
    "/api/results/1/surface?detail=two",
    "/api/results/1/trace?field=stress&measure=xx&at=node:99999999999999999999999",
    "/api/results/1/trace?field=stress&measure=xx&at=point:nan,0,0",
]


@pytest.mark.parametrize("address", ADDRESSES, ids=lambda a: a[:60])
def test_odd_addresses_are_answered_in_words(client: TestClient, address: str) -> None:
    answer = client.get(address)
    assert 200 <= answer.status_code < 500, answer.text[:300]
    if answer.status_code >= 400:
        assert not [w for w in LIBRARIES if w in answer.text.lower()], answer.text[:300]
        if address.startswith("/api/results"):
            assert answer.json()["title"].strip()


@pytest.mark.parametrize(
    ("address", "body"),
    [
        ("/api/flags", {"result": HUGE, "node": 1}),
        ("/api/flags", {"result": 1, "node": 10**30}),
        ("/api/flags", {"result": 1, "element": 1, "xi": [1e400, 0, 0]}),
        ("/api/flags", {"result": "one"}),
        ("/api/flags", []),
        ("/api/flags", {"result": 1, "node": 1, "colour": "red"}),
        ("/api/results/1/sets", {"name": "\x00", "box": [[0, 0, 0], [1, 1, 1]]}),
        ("/api/intake", {"upload": "../../x"}),
        ("/api/tests/mean", {"tests": [HUGE, HUGE], "name": "m", "pairing": None}),
        ("/api/exhibits", {"kind": "view"}),
    ],
)
def test_odd_bodies_are_answered_in_words(client: TestClient, address: str, body: object) -> None:
    import json

    answer = client.post(address, content=json.dumps(body), headers={"Content-Type": "application/json"})
    assert 400 <= answer.status_code < 500, answer.text[:300]
    assert not [w for w in LIBRARIES if w in answer.text.lower()], answer.text[:300]


def test_what_is_no_json_is_told_so(client: TestClient) -> None:
    answer = client.post("/api/flags", content=b"{\xff", headers={"Content-Type": "application/json"})
    assert answer.status_code in (400, 422) and answer.json()["title"]


def test_a_length_that_is_no_number_is_no_failure(client: TestClient, tmp_path: Path) -> None:
    answer = client.post("/api/undo", headers={"Content-Length": "many"})
    assert answer.status_code < 500
