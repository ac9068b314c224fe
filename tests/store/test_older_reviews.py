"""A review that was kept by an earlier state of the program opens, with all that was kept in it.

``november_2026`` was made by the state of 28 November 2026: a bar of three cubes and one thing of each kind that can be kept.
"""

from __future__ import annotations

import gzip
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

import ironstone
from ironstone.engine.base import KEPT, readable, unreadable
from ironstone.service.app import create_app
from ironstone.store import Review

KEPT_THEN = {"result", "correction", "flag", "view", "named", "pairing", "check", "exhibit", "path", "cut", "gauges", "coupons"}
KEPT_THEN |= {"part-tests"}


@pytest.fixture
def older(tmp_path: Path) -> Path:
    path = tmp_path / "older.ironstone"
    stored = Path(__file__).parents[1] / "data" / "reviews" / "november_2026.ironstone.gz"
    path.write_bytes(gzip.decompress(stored.read_bytes()))
    return path


def test_all_that_was_kept_is_there(older: Path) -> None:
    with Review.open(older) as review:
        assert unreadable(review) == []
        assert {i.kind for i in review.items()} == KEPT_THEN
        for kind in KEPT_THEN & set(KEPT):
            assert len(readable(review, KEPT[kind])) == 1, kind


def test_its_result_is_read_as_it_was(older: Path) -> None:
    """Axial stress 10, 20, 30 MPa, doubled in the second step."""
    with Review.open(older) as review:
        answer = ironstone.ask(review, "read", field="stress", measure="xx", step=1, extremes=True)
        assert [f.value for f in answer.figures] == [20.0, 60.0]
        assert review.result().setup.constants["part 1"]["young"] == 210_000.0


def test_its_exhibit_reopens_the_view_it_was_kept_in(older: Path) -> None:
    with Review.open(older) as review, TestClient(create_app(review)) as client:
        (exhibit,) = client.get("/api/exhibits").json()
        assert exhibit["address"].startswith("/?bay=field&result=1&field=stress&measure=von-mises&step=1&low=2&hidden=1&camera=")
        assert (exhibit["verdict"], exhibit["state"], exhibit["can_ask"]) == ("agrees with the hand check", "good", False)
        assert exhibit["shown"] == "Result bar; hidden: part 2"
        assert client.get(f"/api/exhibits/{exhibit['id']}/picture.png").content.startswith(b"\x89PNG")
        assert client.get(f"/api/exhibits/{exhibit['id']}/table.csv").text.startswith("a,b")
        assert client.post(f"/api/exhibits/{exhibit['id']}/again").status_code == 422


def test_a_change_to_it_is_kept_and_undone(older: Path) -> None:
    with Review.open(older) as review:
        number = ironstone.keep(review, "flag", result=1, node=2, name="tip")
        assert number and review.undo() == "Flag planted at node 2"
