"""The same of another result taken off: offered in the reading line, asked by question and address, never answered from before."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ironstone.core.errors import IronstoneError
from ironstone.core.reading.reading import Reading
from ironstone.engine.base import ask, question_of
from ironstone.engine.reading.line import reading_line
from ironstone.service.app import create_app
from ironstone.store import Review, intake
from tests.writing import bar_of_hexahedra, write_vtu

OTHER = "plate; second = finer"


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    """Two results of one bar: stress of 1 and of 3 everywhere; the second has signs in its name that a change of words has too."""
    points, cells, ids = bar_of_hexahedra()
    with Review.create(tmp_path / "two.ironstone") as review:
        for name, size in (("first", 1.0), (OTHER, 3.0)):
            data = {"displacement": size * points, "GlobalIds": ids}
            stress = size * np.tile([1.0, 0, 0, 0, 0, 0], (3, 1))
            intake(review, [write_vtu(tmp_path / "bar.vtu", points, cells, data, {"stress": stress})], name=name)
        yield review


def test_each_other_result_is_offered_and_can_be_asked_for_as_it_is_offered(review: Review) -> None:
    source = review.result("first")
    word = next(w for w in reading_line(source, Reading("stress", "xx")).words if w.name == "against")
    offered = next(c for c in word.choices if c.label == f"minus the same of {OTHER}")
    asked = {"result": "first", "field": "stress", "measure": "xx", "extremes": True, "against": offered.change["against"]}
    answer = ask(review, question_of("read", asked))
    assert answer.more["min"]["value"] == answer.more["max"]["value"] == pytest.approx(-2.0)
    assert f"minus the same of {OTHER}" in answer.sentence
    assert not any(c.label == "minus the same of first" for c in word.choices)


def test_python_writes_the_words_as_everybody_does(review: Review) -> None:
    source = review.result("first")
    values = source.read("stress", "xx", against="result=2").values
    np.testing.assert_allclose(values, -2.0)
    normal = source.read("stress", "plane-normal", plane="1,0,0").values
    np.testing.assert_allclose(normal, source.read("stress", "plane-normal", plane=(1.0, 0.0, 0.0)).values)
    with pytest.raises(IronstoneError, match="'mesure' is no word of a reading"):
        source.read("stress", mesure="xx")


def test_the_command_takes_the_same_off(review: Review) -> None:
    from typer.testing import CliRunner

    from ironstone.cli.every import app

    words = ["read", str(review.path), "--result", "first", "--field", "stress", "--measure", "xx", "--extremes", "--json"]
    told = json.loads(CliRunner().invoke(app, [*words, "--against", "result=2"]).stdout)
    assert told["max"]["value"] == pytest.approx(-2.0) and f"minus the same of {OTHER}" in told["sentence"]


def test_what_an_answer_depends_on_has_both_results(review: Review) -> None:
    words = {"result": "first", "field": "stress", "measure": "xx", "extremes": True, "against": "result=2"}
    before = ask(review, question_of("read", words)).provenance
    review.set_units(2, "m-N-s-kg-Pa")
    with pytest.raises(IronstoneError) as told:
        ask(review, question_of("read", words | {"field": "nothing"}))
    assert "no field" in told.value.message
    after = ask(review, question_of("read", words)).provenance
    assert before is not None and after is not None and before.revision != after.revision


def test_a_picture_of_a_difference_is_another_once_the_other_result_is_another(review: Review) -> None:
    address = "/api/results/1/values?field=stress&measure=xx&step=0&against=result%3D2"
    with TestClient(create_app(review)) as client:
        first = client.get(address)
        assert first.status_code == 200
        assert client.get(address, headers={"If-None-Match": first.headers["etag"]}).status_code == 304
        review.set_units(2, "m-N-s-kg-Pa")
        again = client.get(address, headers={"If-None-Match": first.headers["etag"]})
        assert again.status_code == 200 and again.headers["etag"] != first.headers["etag"]
        assert client.get("/api/results/1/values/head?field=stress&measure=xx&step=0&against=result%3Dnone").status_code == 404


def test_it_is_kept_where_it_is_worked_out_over_steps(review: Review) -> None:
    address = "/api/results/1/values/head?field=stress&measure=xx&step=0&over=largest&against=result%3D2"
    with TestClient(create_app(review)) as client:
        assert client.get(address).json()["max"]["value"] == pytest.approx(-2.0)
        review.set_units(2, "m-N-s-kg-Pa")
        assert client.get(address).json()["max"]["value"] == pytest.approx(1.0 - 3e-6)
