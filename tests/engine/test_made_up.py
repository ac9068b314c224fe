"""What it takes to add a kind of question, of kept thing, of measure: one definition, and it is asked from everywhere."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

import numpy as np
import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

import ironstone
from ironstone.cli.every import app
from ironstone.core.field.fields import Source
from ironstone.core.mesh.places import AtElements, Place
from ironstone.core.reading.measures import MEASURES, Measure
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.where import WHERES, Where, where
from ironstone.engine.base import KEPT, QUESTIONS, Kept, Question
from ironstone.engine.carrier import Answer, Column
from ironstone.service.app import create_app
from ironstone.store import Review, intake


@pytest.fixture
def path(bar_files: list[Path], tmp_path: Path) -> Path:
    with Review.create(tmp_path / "a.ironstone") as review:
        intake(review, bar_files)
    return tmp_path / "a.ironstone"


@pytest.fixture
def made_up() -> Iterator[None]:
    class Count(Question):
        """How many elements a part has, times a factor."""

        kind: ClassVar[str] = "made-up"
        part: str
        times: int = 1

        def answer(self, review: Review) -> Answer:
            mesh = self.source(review).mesh
            count = int((mesh.part == mesh.part_names.index(self.part)).sum())
            return Answer(
                kind=self.kind,
                sentence=f"elements of {self.part}",
                columns=[Column(name="part", values=[self.part]), Column(name="elements", values=[self.times * count])],
            )

    class Remark(Kept):
        """A remark about a result."""

        kind: ClassVar[str] = "remark"
        result: int
        text: str

    measure = Measure("made-up", "made up", "tensor", "Ten times xx.", True, lambda values: 10.0 * values[..., 0])
    MEASURES["tensor", "made-up"] = measure
    yield
    del QUESTIONS["made-up"], KEPT["remark"], MEASURES["tensor", "made-up"]


@pytest.mark.usefixtures("made_up")
def test_a_made_up_question_is_asked_from_python_command_line_and_service(path: Path, tmp_path: Path) -> None:
    runner = CliRunner()
    reply = runner.invoke(
        app, ["ask", str(path), "made-up", "part=part 1", "times=2", "--json", "--table", str(tmp_path / "t.csv")]
    )
    assert reply.exit_code == 0, reply.output
    by_command = json.loads(reply.output)
    assert by_command["columns"][1] == {"name": "elements", "unit": None, "values": [4]}
    assert by_command["provenance"]["question"] == {"kind": "made-up", "result": None, "part": "part 1", "times": 2}
    assert (tmp_path / "t.csv").read_text().splitlines()[-1] == "part 1,4"
    with Review.open(path) as review:
        assert ironstone.ask(review, "made-up", part="part 1", times=2).model_dump() == by_command
        with TestClient(create_app(review)) as client:
            assert client.post("/api/ask/made-up", json={"part": "part 1", "times": 2}).json() == by_command
            assert client.post("/api/ask/made-up.csv", json={"part": "part 1"}).text.splitlines()[-1] == "part 1,2"
            assert client.post("/api/ask/made-up.xlsx", json={"part": "part 1"}).content.startswith(b"PK")
            wrong = client.post("/api/ask/made-up", json={"part": "part 1", "times": "many"})
            assert (wrong.status_code, wrong.json()["title"]) == (422, "Times must be a whole number.")
            assert "/api/ask/made-up" in client.get("/openapi.json").json()["paths"]
    wrong = runner.invoke(app, ["ask", str(path), "made-up", "times=2"])
    assert wrong.exit_code == 2 and "made-up: part is missing." in wrong.stderr


@pytest.mark.usefixtures("made_up")
def test_a_made_up_thing_is_kept_from_everywhere_and_undone(path: Path) -> None:
    runner = CliRunner()
    assert runner.invoke(app, ["keep", str(path), "remark", "text=looks odd"]).exit_code == 0
    with Review.open(path) as review:
        number = ironstone.keep(review, "remark", result=1, text="from Python")
        with TestClient(create_app(review)) as client:
            answer = client.post("/api/keep/remark", json={"result": 1, "text": "from the service"}).json()
            assert answer["words"] == {"result": 1, "text": "from the service"}
        assert [i.payload["text"] for i in review.items("remark")] == ["looks odd", "from Python", "from the service"]
        assert review.undo() == "Remark kept"
    assert runner.invoke(app, ["remove", str(path), str(number)]).exit_code == 0
    listed = json.loads(runner.invoke(app, ["kept", str(path), "remark", "--json"]).output)
    assert [k["words"]["text"] for k in listed["kept"]] == ["looks odd"]


@pytest.mark.usefixtures("made_up")
def test_a_made_up_measure_is_read_from_everywhere(path: Path) -> None:
    runner = CliRunner()
    reply = runner.invoke(app, ["read", str(path), "--field", "stress", "--measure", "made-up", "--extremes", "--json"])
    assert json.loads(reply.output)["max"]["value"] == pytest.approx(600.0)
    with Review.open(path) as review:
        assert ironstone.ask(review, "read", field="stress", measure="made-up").more["max"]["value"] == pytest.approx(600.0)
        with TestClient(create_app(review)) as client:
            asked = {"field": "stress", "measure": "made-up", "step": 1}
            assert client.get("/api/results/1/values/head", params=asked).json()["max"]["value"] == pytest.approx(600.0)
            stress = next(f for f in client.get("/api/results/1").json()["fields"] if f["name"] == "stress")
            assert "made-up" in [m["name"] for m in stress["measures"]]


def test_a_made_up_kind_of_place_works_wherever_a_place_is_asked_for(path: Path) -> None:
    @where("first", "first:PART")
    @dataclass(frozen=True)
    class First(Where):
        part: str

        @classmethod
        def read(cls, rest: str) -> Where:
            return cls(rest)

        def __str__(self) -> str:
            return f"first:{self.part}"

        @property
        def words(self) -> str:
            return f"the first element of {self.part}"

        def place(self, reading: Reading, source: Source) -> Place:
            mesh = source.mesh
            return AtElements(np.flatnonzero(mesh.part == mesh.part_names.index(self.part))[:1])

    try:
        runner = CliRunner()
        words = ["--field", "stress", "--measure", "xx", "--at", "first:part 2"]
        reply = json.loads(runner.invoke(app, ["read", str(path), *words, "--step", "0", "--json"]).output)
        assert [(v["place"], v["value"]) for v in reply["values"]] == [("first:part 2", pytest.approx(30.0))]
        reply = json.loads(runner.invoke(app, ["trace", str(path), *words, "--json"]).output)
        assert reply["y"] == pytest.approx([30.0, 60.0]) and "at the first element of part 2" in reply["sentence"]
        with Review.open(path) as review, TestClient(create_app(review)) as client:
            asked = {"field": "stress", "measure": "xx", "at": "first:part 1", "step": 1}
            assert client.post("/api/ask/read", json=asked).json()["more"]["values"][0]["value"] == pytest.approx(20.0)
        refused = runner.invoke(app, ["read", str(path), "--field", "stress", "--at", "last:part 1"])
        assert refused.exit_code == 2 and "first:PART" in refused.stderr
    finally:
        del WHERES["first"]


def test_every_question_says_what_it_asks() -> None:
    assert set(QUESTIONS) >= {"read", "trace", "balance", "through-plane", "sense", "cycles", "agreement", "flags"}
    for question in [*QUESTIONS.values(), *KEPT.values()]:
        assert question.__doc__ and question.__doc__.strip().endswith(".")
        json.dumps(question.model_json_schema())


def test_the_same_is_read_by_the_question_and_by_the_command(path: Path) -> None:
    runner = CliRunner()
    command = json.loads(
        runner.invoke(app, ["read", str(path), "--field", "stress", "--measure", "xx", "--at", "node:4", "--json"]).output
    )
    with Review.open(path) as review:
        answer = ironstone.ask(review, "read", field="stress", measure="xx", at="node:4")
    assert {**answer.more, "sentence": answer.sentence, "unit": answer.unit, "caveats": answer.caveats} == command
    assert answer.columns[-1].values == [v["value"] for v in command["values"]]
    assert np.isfinite([v for v in answer.columns[-1].values if isinstance(v, float)]).all()


def test_a_second_class_of_one_kind_is_refused() -> None:
    with pytest.raises(TypeError, match="another Question of the kind 'balance'"):

        class Other(Question):
            kind = "balance"

    assert QUESTIONS["balance"].__module__ == "ironstone.engine.statics.balance"
