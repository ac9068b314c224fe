"""Several results: a difference in figures against closed forms, and a refinement study over results of a review."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Mesh
from ironstone.engine.base import ask, question_of
from ironstone.engine.carrier import Answer
from ironstone.store import Review, intake
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu

SIZE = (2.0, 1.0, 1.0)
Law = Callable[[np.ndarray], np.ndarray]


def taken_in(review: Review, folder: Path, name: str, mesh: Mesh, law: Law) -> None:
    cells = [
        (int(t), mesh.connectivity[a:b].tolist()) for t, a, b in zip(mesh.types, mesh.offsets[:-1], mesh.offsets[1:], strict=True)
    ]
    file = write_vtu(folder / f"{name}.vtu", mesh.points, cells, {"temperature": law(mesh.points)})
    intake(review, [file], name=name)


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    """Temperatures 3 x and x + 0.5 on hexahedra and tetrahedra of one bar, and half of it again; 7 + 4 h^2 on meshes of size h."""
    with Review.create(tmp_path / "r.ironstone") as made:
        taken_in(made, tmp_path, "bricks, 2", box(BY_NAME["hex8"], counts=(4, 2, 2), size=SIZE), lambda p: 3.0 * p[:, 0])
        taken_in(made, tmp_path, "tets", box(BY_NAME["tet4"], counts=(3, 2, 2), size=SIZE), lambda p: p[:, 0] + 0.5)
        taken_in(made, tmp_path, "half", box(BY_NAME["hex8"], counts=(2, 2, 2), size=(1.0, 1.0, 1.0)), lambda p: p[:, 0] + 0.5)
        for count in (2, 4, 8):
            mesh = box(BY_NAME["hex8"], counts=(count, count, count), size=(1.0, 1.0, 1.0))
            taken_in(made, tmp_path, f"cube {count}", mesh, lambda p, h=1.0 / count: np.full(len(p), 7.0 + 4.0 * h * h))  # type: ignore[misc]
        yield made


def answered(review: Review, kind: str, **words: Any) -> Answer:
    return ask(review, question_of(kind, words))


def by_label(answer: Answer) -> dict[str, float | None]:
    return {f.label: f.value for f in answer.figures}


def test_a_difference_over_unlike_meshes_is_that_of_the_two_laws(review: Review) -> None:
    """2 x - 0.5 over 0 <= x <= 2: from -0.5 to 3.5, root mean square sqrt(43/12)."""
    found = answered(review, "difference", result="bricks, 2", less="tets", field="temperature", at="point:0.75,0.5,0.5")
    figures = by_label(found)
    assert (figures["lowest"], figures["highest"]) == (pytest.approx(-0.5), pytest.approx(3.5))
    assert figures["RMS"] == pytest.approx(np.sqrt(43.0 / 12.0)) and figures["share without"] == 0.0
    assert found.more["matched"] == "interpolated" and found.more["values"][0]["value"] == pytest.approx(1.0)
    assert "minus the same of tets" in found.sentence
    assert found.provenance is not None and "+" in found.provenance.revision


def test_where_the_other_body_is_not_there_is_no_difference_and_its_share_is_told(review: Review) -> None:
    found = answered(review, "difference", result="bricks, 2", less="half", field="temperature")
    figures = by_label(found)
    # Over 0 <= x <= 1 alone: 2 x - 0.5, root mean square sqrt(7/12).
    assert figures["share without"] == pytest.approx(0.5)
    assert figures["RMS"] == pytest.approx(np.sqrt(7.0 / 12.0))
    assert figures["highest"] == pytest.approx(1.5)


def test_a_result_less_itself_is_nothing_on_the_same_mesh(review: Review) -> None:
    found = answered(review, "difference", result="tets", less="tets", field="temperature")
    assert by_label(found) == {"lowest": 0.0, "highest": 0.0, "RMS": 0.0, "share without": 0.0}
    assert found.more["matched"] == "same mesh"


def test_a_study_of_three_meshes_gives_order_and_limit_in_any_order_named(review: Review) -> None:
    for names in (["cube 2", "cube 4", "cube 8"], ["cube 8", "cube 2", "cube 4"]):
        found = answered(review, "converge", results=names, field="temperature", extremes=True)
        assert found.more["sizes"] == pytest.approx([0.5, 0.25, 0.125])
        assert found.more["values"] == pytest.approx([8.0, 7.25, 7.0625])
        assert (found.more["order"], found.more["extrapolated"]) == (pytest.approx(2.0), pytest.approx(7.0))
        assert (found.more["verdict"], found.state) == ("settles", "good") and found.verdict.startswith("It settles: 7")
        assert found.more["results"] == ["cube 2", "cube 4", "cube 8"]


def test_a_study_at_a_point_and_by_unknowns(review: Review) -> None:
    words = {"results": ["cube 2", "cube 4", "cube 8"], "field": "temperature", "at": "point:0.1,0.1,0.1"}
    found = answered(review, "converge", **words, size="unknowns")
    assert found.more["sizes"] == pytest.approx([1 / 3, 1 / 5, 1 / 9])
    assert found.more["verdict"] in ("settles", "not yet") and found.more["order"] is not None


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ({"results": ["cube 2", "cube 2", "cube 4"], "extremes": True}, "named twice"),
        ({"results": ["cube 2", "cube 4"]}, "A value is to be named"),
        ({"results": ["cube 2", "no such"], "extremes": True}, "no result 'no such'"),
        ({"results": ["cube 2", "half"], "extremes": True}, "meshes of one size"),
    ],
)
def test_a_study_that_makes_no_sense_says_why(review: Review, words: dict[str, Any], said: str) -> None:
    with pytest.raises(IronstoneError, match=said):
        answered(review, "converge", field="temperature", **words)


def test_a_study_without_names_is_of_all_that_hold_the_same_body(review: Review) -> None:
    found = answered(review, "converge", result="cube 4", field="temperature", extremes=True)
    # Of two on meshes of one size the newer one.
    assert found.more["results"] == ["cube 2", "cube 4", "cube 8"]
    assert answered(review, "converge", result="half", field="temperature", extremes=True).more["results"][0] == "half"


def test_two_meshes_say_that_two_are_not_enough(review: Review) -> None:
    found = answered(review, "converge", results=["cube 2", "cube 4"], field="temperature", extremes=True)
    assert (found.more["verdict"], found.state, found.figures) == ("too few", "", [])
    assert "three are needed" in found.verdict


def test_the_commands_print_what_the_questions_answer(review: Review) -> None:
    """A result whose name has a comma in it can be named among others."""
    runner = CliRunner()
    words = ["--field", "temperature", "--json"]
    told = runner.invoke(app, ["difference", str(review.path), "--of", "bricks, 2", "--less", "tets", *words])
    assert told.exit_code == 0, told.stderr
    reply = json.loads(told.stdout)
    assert reply["rms"] == pytest.approx(np.sqrt(43.0 / 12.0)) and reply["max"]["xyz"][0] == pytest.approx(2.0)
    study = runner.invoke(app, ["converge", str(review.path), "--results", "bricks, 2,cube 8,cube 4", "--extremes", *words])
    assert study.exit_code == 0, study.stderr
    assert set(json.loads(study.stdout)["results"]) == {"bricks, 2", "cube 8", "cube 4"}
    refused = runner.invoke(app, ["difference", str(review.path), "--of", "tets", "--less", "nowhere", *words])
    assert refused.exit_code == 2 and "nowhere" in refused.stderr
