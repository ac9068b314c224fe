"""The reading in view kept as a curve is that reading, whole: axes, plane, region, steps, weights; by HTTP and by command."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.service.app import create_app
from ironstone.store import Review
from tests.writing import write_vtu

HOOP = np.array([149.0, 90.0, 30.0])


@pytest.fixture
def ring(tmp_path: Path) -> Path:
    """A quarter turn away from x the hoop direction is x: two bricks about (0, 10), hoop 149, 90 and 30 MPa over three steps."""
    points = np.array([[x, y, z] for x in (-1.0, 0.0, 1.0) for y in (9.0, 11.0) for z in (0.0, 1.0)])
    at = np.arange(12).reshape(3, 2, 2)
    around = ((0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0), (0, 0, 1), (1, 0, 1), (1, 1, 1), (0, 1, 1))
    cells = [(12, [int(at[i + a, b, c]) for a, b, c in around]) for i in range(2)]
    files = []
    for step, hoop in enumerate(HOOP):
        angle = np.arctan2(points[:, 1], points[:, 0])
        turned = np.stack([-np.sin(angle), np.cos(angle), 0 * angle], 1)
        full = hoop * np.einsum("ni,nj->nij", turned, turned) + 52.0 * np.diag([0.0, 0.0, 1.0])
        stress = np.stack([full[:, i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))], 1)
        files.append(
            write_vtu(
                tmp_path / f"ring_{step}.vtu",
                points,
                cells,
                {"stress": stress},
                {"part": np.array([1, 2], np.int32)},
                time=float(step),
            )
        )
    review = tmp_path / "ring.ironstone"
    runner = CliRunner()
    assert runner.invoke(app, ["intake", str(review), *map(str, files), "--units", "mm-N-s-t-MPa"]).exit_code == 0
    assert runner.invoke(app, ["state", str(review), "--axes", "eye"]).exit_code == 0
    return review


WORDS = [
    ({"axes": "eye", "measure": "hoop"}, HOOP, "hoop component"),
    ({"measure": "plane-normal", "plane": "0,0,1"}, np.full(3, 52.0), "square to (0, 0, 1)"),
    ({"axes": "eye", "measure": "hoop", "over": "largest", "span": "so-far"}, np.full(3, 149.0), "largest over"),
    ({"axes": "eye", "measure": "hoop", "against": "step=0"}, HOOP - 149.0, "minus the same"),
    ({"axes": "eye", "measure": "hoop", "region": "part:part 1", "averaging": "part"}, HOOP, "on part 1"),
]


@pytest.mark.parametrize(("words", "expected", "said"), WORDS, ids=[w[2] for w in WORDS])
def test_a_kept_curve_has_all_words_of_its_reading(ring: Path, words: dict[str, str], expected: np.ndarray, said: str) -> None:
    """At a node on the y axis, where hoop is along x and global yy would be 0."""
    with Review.open(ring) as review, TestClient(create_app(review), base_url="http://127.0.0.1") as client:
        result = review.result().id
        trace = {"field": "stress", "at": "node:6", "curve": "", "reduce": None, "sign": 1, **words}
        kept = client.post("/api/named", json={"result": result, "name": "s", "trace": trace, "expression": ""})
        assert kept.status_code == 200, kept.text
        reply = kept.json()
        assert reply["values"] == pytest.approx(expected.tolist(), abs=1e-9) and said in reply["sentence"]
        seen = client.get(f"/api/results/{result}/nodes/6", params={"field": "stress", "step": 0, **words}).json()
        assert seen["entries"][0]["value"] == pytest.approx(expected[0], abs=1e-9), "what a flag there says of the same reading"
        pairing = {"result": result, "name": "p", "x": {"curve": "step"}, "y": trace, "first": 0}
        made = client.post("/api/pairings", json=pairing).json()
        assert made["y"]["values"] == pytest.approx(expected.tolist(), abs=1e-9) and said in made["y"]["sentence"]
        assert client.get("/api/named", params={"result": result}).json()[0]["trace"]["axes"] == words.get("axes", "global")
    options = [piece for name, value in words.items() for piece in (f"--{name}", value)]
    answer = CliRunner().invoke(app, ["trace", str(ring), "--field", "stress", "--at", "node:6", *options, "--json"])
    assert answer.exit_code == 0, answer.stderr
    assert json.loads(answer.stdout)["y"] == pytest.approx(expected.tolist(), abs=1e-9)


def test_a_step_that_is_no_number_is_refused(ring: Path) -> None:
    for text in ("t=nan", "t=inf", "t="):
        answer = CliRunner().invoke(app, ["read", str(ring), "--field", "stress", "--extremes", "--step", text])
        assert answer.exit_code == 2 and "not a step" in answer.stderr


def test_names_of_results_keep_their_numbers(tmp_path: Path) -> None:
    """A single file is called by its whole name; a series by what its files share."""
    points = np.eye(4, 3)
    runner = CliRunner()
    for names, called in (
        (["le10"], "le10"),
        (["lug_v2"], "lug_v2"),
        (["a_v2_1", "a_v2_2", "a_v2_10"], "a_v2"),
        (["s001", "s002"], "s"),
    ):
        files = [
            write_vtu(tmp_path / f"{n}.vtu", points, [(10, [0, 1, 2, 3])], {"u": points * 0.1}, time=float(i))
            for i, n in enumerate(names)
        ]
        answer = runner.invoke(app, ["intake", str(tmp_path / f"{called}.ironstone"), *map(str, files), "--json"])
        assert json.loads(answer.stdout)["results"][0]["name"] == called, answer.stderr
