"""Several results in one table: what is taken of an answer, spread, the odd one out, what cannot be answered, what a run cost."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ironstone.core.curves.outliers import odd_one_out
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.engine.base import ask, keep, question_of, readable, thing_of
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.compare.side_by_side import Table
from ironstone.engine.take import taken
from ironstone.store import Review, intake
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    """Temperatures up to 10, 10.05, 9.9, 30 on four meshes; the last has another field besides."""
    with Review.create(tmp_path / "r.ironstone") as made:
        for k, top in enumerate((10.0, 10.05, 9.9, 30.0)):
            mesh = box(BY_NAME["hex8"], counts=(k + 1, 1, 1), size=(1.0, 1.0, 1.0))
            cells = [(12, mesh.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(k + 1)]
            data = {"temperature": top * mesh.points[:, 0]} | ({"damage": mesh.points[:, 1]} if k == 3 else {})
            intake(made, [write_vtu(tmp_path / f"{k}.vtu", mesh.points, cells, data)], name=f"run {k}")
        yield made


HIGHEST = {"name": "hottest", "kind": "read", "words": {"field": "temperature", "extremes": True}, "take": "highest"}


def asked(review: Review, *lines: dict[str, Any], **words: Any) -> Answer:
    return ask(review, question_of("side-by-side", {"lines": list(lines), **words}))


def test_each_result_has_its_own_value_and_the_one_that_stands_apart_is_named(review: Review) -> None:
    found = asked(review, HIGHEST)
    row = found.more["rows"][0]
    assert row["values"] == pytest.approx([10.0, 10.05, 9.9, 30.0]) and row["unit"] == "K"
    assert row["spread"] == pytest.approx((30.0 - 9.9) / np.mean([10.0, 10.05, 9.9, 30.0]))
    assert found.verdict == "run 3 stands apart in hottest." and found.state == "doubt"
    assert [c.name for c in found.columns] == ["quantity", "unit", "run 0", "run 1", "run 2", "run 3", "spread", "stands apart"]
    assert {r["name"]: r["values"] for r in found.more["costs"]}["elements"] == [1, 2, 3, 4]


def test_a_value_at_a_place_and_a_unit_of_the_line(review: Review) -> None:
    words = {"field": "temperature", "at": "point:0.5,0.5,0.5", "unit": "degC"}
    found = asked(review, {"name": "middle", "kind": "read", "words": words, "take": "value"}, results=["run 0", "run 2"])
    assert found.more["rows"][0]["values"] == pytest.approx([5.0 - 273.15, 4.95 - 273.15])


def test_what_cannot_be_answered_of_a_result_is_no_value_and_says_why(review: Review) -> None:
    found = asked(review, {"name": "damage", "kind": "read", "words": {"field": "damage", "extremes": True}})
    assert found.more["rows"][0]["values"] == [None, None, None, pytest.approx(1.0)]
    assert len(found.caveats) == 3 and "run 0: There is no field named 'damage'" in found.caveats[0]
    assert found.verdict == ""


def test_one_result_is_no_table(review: Review) -> None:
    with pytest.raises(IronstoneError, match="two or more"):
        asked(review, HIGHEST, results=["run 1", "2"])


def test_a_table_is_kept_by_its_name(review: Review) -> None:
    words = {"name": "heat", "results": [1, 2], "lines": [HIGHEST]}
    keep(review, thing_of("table", words))
    keep(review, thing_of("table", {**words, "results": [1, 2, 3]}))
    assert [t.results for _, t in readable(review, Table)] == [[1, 2, 3]]
    with pytest.raises(IronstoneError, match="no question called"):
        keep(review, thing_of("table", {**words, "lines": [{**HIGHEST, "kind": "wish"}]}))


ANSWER = Answer(
    kind="x",
    sentence="",
    unit="mm",
    figures=[Figure(label="highest", value=3.0, unit="mm", how="node 4")],
    columns=[Column(name="t", unit="s", values=[0, 1, 2]), Column(name="u", unit="mm", values=[5.0, None, 2.0])],
    more={"values": [{"value": 7.0}, {"value": 7.0}]},
)


@pytest.mark.parametrize(
    ("take", "value"),
    [("highest", 3.0), ("figure:highest", 3.0), ("value", 7.0), ("last", 2.0), ("first", 5.0), ("column:u:max", 5.0),
     ("column:t:mean", 1.0), ("column:u:min", 2.0), ("max", 5.0)],
)  # fmt: skip
def test_one_number_of_an_answer(take: str, value: float) -> None:
    assert taken(ANSWER, take).value == value


@pytest.mark.parametrize("take", ["lowest", "figure:what", "figure:", "column:v:max", "column:u:median", "column:u", "luck", ""])
def test_what_an_answer_has_not_is_refused(take: str) -> None:
    with pytest.raises(Impossible):
        taken(ANSWER, take)


def test_several_values_at_a_place_are_not_one() -> None:
    with pytest.raises(Impossible, match="2 values"):
        taken(ANSWER.model_copy(update={"more": {"values": [{"value": 1.0}, {"value": 2.0}]}}), "value")


@pytest.mark.parametrize(
    ("values", "odd"),
    [([1.0, 2.0], None), ([10.0, 10.1, 9.9, 30.0], 3), ([10.0, 10.1, np.nan, 10.2], None), ([5.0, 5.0, 5.0, 5.001], None),
     ([5.0, 5.0, 5.0, 6.0], 3), ([0.0, 0.0, 0.0], None), ([-1.0, -1.1, 40.0, -0.9], 2)],
)  # fmt: skip
def test_the_odd_one_out(values: list[float], odd: int | None) -> None:
    assert odd_one_out(np.array(values)) == odd


def test_what_a_run_took_is_stated_and_stands_below(review: Review) -> None:
    review.set_cost(1, "time [s]", 40.0)
    review.set_cost(2, "time [s]", 65.0)
    costs = {c["name"]: c for c in asked(review, HIGHEST, results=["run 0", "run 1", "run 2"]).more["costs"]}
    assert costs["time"]["values"] == [40.0, 65.0, None] and costs["time"]["unit"] == "s"
    review.set_cost(2, "time [s]", None)
    assert {c["name"]: c for c in asked(review, HIGHEST).more["costs"]}["time"]["values"] == [40.0, None, None, None]
    with pytest.raises(IronstoneError, match="zero or more"):
        review.set_cost(1, "time [s]", -1.0)
