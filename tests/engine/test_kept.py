"""What is kept is read back whatever became of it: older words brought up, what cannot be read costs only itself."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.engine.base import KEPT, keep, kept_of, readable, thing_of, unreadable
from ironstone.engine.kept.exhibits import ExhibitKept
from ironstone.engine.reading.flags import FlagIn
from ironstone.service.app import create_app
from ironstone.store import Review, intake

TRACE = {"field": "displacement", "measure": "x", "at": "node:8"}
EVERYTHING = {
    "flag": {"result": 1, "node": 8, "name": "root"},
    "view": {"result": 1, "name": "front", "address": "bay=field"},
    "named": {"result": 1, "name": "stroke", "trace": TRACE},
    "pairing": {"result": 1, "name": "Loop", "x": TRACE, "y": {**TRACE, "measure": "magnitude"}},
    "check": {"result": 1, "name": "pull", "reading": {"field": "stress", "measure": "xx"}, "at": "max", "expected": 30.0},
    "mass": {"result": 1, "total": 2.0, "unit": "kg"},
    "exhibit": {"of": "view", "title": "Picture", "sentence": "stress"},
    "outline": {"question": "Does it hold?", "chapters": [{"title": "Strength", "exhibits": [3, 1]}]},
    "path": {"result": 1, "name": "axis", "path": "nodes:1,8", "side": "part 1"},
    "cut": {"result": 1, "name": "middle", "through": "0,0,0:1,0,0", "removes": "front"},
    "gauges": {"result": 1, "name": "root", "points": [{"name": "A", "x": 0.1, "y": 0.1, "z": 0.1, "measured": 3.0}]},
    "coupons": {"name": "glass", "unit": "MPa", "coupons": [{"specimen": "Y1", "property": "Yt", "value": 41.0}]},
    "part-tests": {"result": 1, "name": "masts", "unit": "N", "per_factor": 800.0, "parts": [{"specimen": "M1", "load": 900.0}]},
    "table": {
        "name": "Two runs",
        "results": [1],
        "lines": [{"name": "stroke", "kind": "read", "words": {"field": "displacement"}}],
    },
}


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "a.ironstone") as made:
        intake(made, bar_files)
        yield made


@pytest.fixture
def client(review: Review) -> Iterator[TestClient]:
    with TestClient(create_app(review), raise_server_exceptions=False) as found:
        yield found


LISTS = {
    "outline": "/api/kept/outline",
    "flag": "/api/flags?result=1",
    "view": "/api/kept/view?result=1",
    "named": "/api/named?result=1",
    "pairing": "/api/pairings?result=1",
    "check": "/api/checks?result=1",
    "exhibit": "/api/exhibits",
    "test": "/api/tests",
    "mass": "/api/kept/mass?result=1",
    "path": "/api/kept/path?result=1",
    "cut": "/api/kept/cut?result=1",
    "gauges": "/api/kept/gauges?result=1",
    "coupons": "/api/kept/coupons",
    "part-tests": "/api/kept/part-tests?result=1",
    "table": "/api/kept/table",
}


@pytest.mark.parametrize("kind", EVERYTHING)
@pytest.mark.parametrize(
    "spoilt",
    [{"colour": "red"}, {"result": "one", "title": 7, "name": 7}, {"version": 99}],
    ids=["unknown key", "wrong type", "newer"],
)
def test_one_that_cannot_be_read_leaves_the_others_standing(
    review: Review, client: TestClient, kind: str, spoilt: dict[str, object]
) -> None:
    keep(review, thing_of(kind, EVERYTHING[kind]))
    review.add(kind, {**EVERYTHING[kind], **spoilt}, "by another program")
    listed = client.get(LISTS[kind])
    assert listed.status_code == 200 and len(listed.json()) == 1
    (said,) = client.get("/api/kept/unreadable").json()
    assert f"This {kind}" in said
    number = review.items(kind)[-1].id
    assert client.get("/api/review").json()["unreadable"] == [said]
    CliRunner().invoke(app, ["remove", str(review.path), str(number)])
    assert unreadable(review) == []


@pytest.mark.parametrize("kind", LISTS)
def test_nonsense_in_a_list_is_no_failure(review: Review, client: TestClient, kind: str) -> None:
    review.add(kind, {"what": ["ever"]}, "by another program")
    assert client.get(LISTS[kind]).json() == []
    assert len(unreadable(review)) == 1


def test_an_exhibit_stored_before_is_brought_up(review: Review) -> None:
    words = {"title": "Loop", "sentence": "s", "caveats": [], "note": "", "verdict": "", "address": ""}
    old = {"kind": "curve", **words, "picture": None, "table": None}
    review.add("exhibit", old, "kept by an older program")
    ((_, kept),) = readable(review, ExhibitKept)
    assert (kept.of, kept.title) == ("curve", "Loop")


def test_what_is_written_is_what_is_understood() -> None:
    for kind, words in EVERYTHING.items():
        thing = thing_of(kind, words)
        assert kept_of(kind, json.loads(json.dumps(thing.written()))) == thing
    assert set(EVERYTHING) | {"test", "alongside"} == set(KEPT), "one takes a file, the other two results: tests of their own"


def test_a_flag_where_nothing_is_is_refused_wherever_it_is_planted(review: Review, client: TestClient) -> None:
    with pytest.raises(IronstoneError, match="node"):
        keep(review, FlagIn(result=1, node=999))
    assert client.post("/api/flags", json={"result": 1, "node": 999}).status_code == 404
    answer = CliRunner().invoke(app, ["keep", str(review.path), "flag", "node=999"])
    assert answer.exit_code == 2 and "999" in answer.stderr
    assert review.items("flag") == []


def test_a_record_and_a_set_are_made_from_the_command_line(review: Review, tmp_path: Path) -> None:
    runner = CliRunner()
    record = tmp_path / "pull.csv"
    record.write_text("Stroke,Load\nmm,kN\n0,0\n1,2\n2,4\n3,5\n")
    answer = runner.invoke(app, ["bring", str(review.path), str(record)])
    assert answer.exit_code == 0 and "x is Stroke [mm], y is Load [kN]" in answer.output
    assert review.items("test")[0].payload["name"] == "pull.csv"
    made = runner.invoke(app, ["set", str(review.path), "root", "how=box", "low=[-1,-9,-9]", "high=[0,9,9]", "--json"])
    assert json.loads(made.output) == {"name": "root", "nodes": 4}
    wrong = runner.invoke(app, ["set", str(review.path), "root", "how=magic"])
    assert wrong.exit_code == 2 and "set: how must be one of" in wrong.stderr
    balance = runner.invoke(
        app, ["ask", str(review.path), "trace", "field=displacement", "measure=x", "at=set:root", "reduce=mean"]
    )
    assert balance.exit_code == 0 and "mean over set root" in balance.output


def test_an_answer_is_kept_as_an_exhibit_with_its_table(review: Review, client: TestClient) -> None:
    answer = CliRunner().invoke(app, ["ask", str(review.path), "balance", "--exhibit", "Balance at the end"])
    assert answer.exit_code == 0, answer.output
    (exhibit,) = client.get("/api/exhibits").json()
    assert (exhibit["title"], exhibit["kind"], exhibit["has_table"]) == ("Balance at the end", "table", True)
    assert exhibit["sentence"].startswith("load balance of bar")
    table = client.get(f"/api/exhibits/{exhibit['id']}/table.csv").text
    assert table.splitlines()[0].startswith("of,held,force x")
    assert review.undo() == "Exhibit 'Balance at the end' kept"
