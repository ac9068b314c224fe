"""A set of elements means those elements; a set of nodes means its nodes; wherever a place is asked for."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import Impossible, NotFound
from ironstone.core.field.fields import Memory
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace
from ironstone.core.reading.where import Element, Gauss, NamedSet, Node, Point, Where, parse, place_of
from tests.models import field, grid_of_quads, memory
from tests.writing import bar_of_hexahedra, write_vtu


def strip() -> Memory:
    """Four quadrilaterals in a row; the first two are a set of 5 and 10 MPa, the neighbour beside them has 1000."""
    mesh = grid_of_quads(4, 1)
    mesh.element_sets["left"] = np.array([0, 1])
    mesh.node_sets["edge"] = np.flatnonzero(mesh.points[:, 0] == 0.5)
    stress = np.zeros((16, 6))
    stress[:, 0] = np.repeat([5.0, 10.0, 1000.0, 1000.0], 4)
    moved = np.zeros((10, 3))
    moved[:, 0] = mesh.points[:, 0]
    each = np.array([[5.0], [10.0], [1000.0], [1000.0]])
    return memory(
        mesh,
        (field("s", "stress", "corner"), stress),
        (field("u", "displacement", "node"), moved),
        (field("e", "", "element"), each),
    )


def values(source: Memory, reading: Reading, at: str) -> np.ndarray:
    return evaluate(reading, source, place_of(parse(at), reading, source)).values


def test_a_set_of_elements_leaves_its_neighbours_out() -> None:
    source = strip()
    assert values(source, Reading("s", "xx"), "set:left") == pytest.approx([5.0] * 4 + [10.0] * 4)
    assert values(source, Reading("e"), "set:left") == pytest.approx([5.0, 10.0]), "element values once an element"
    assert values(source, Reading("s", "xx", "element"), "set:left") == pytest.approx([5.0, 10.0])
    assert sorted(values(source, Reading("u", "x"), "set:left")) == pytest.approx([0, 0, 0.25, 0.25, 0.5, 0.5]), "nodes once"
    assert sorted(values(source, Reading("s", "xx"), "set:edge")) == pytest.approx([10, 10, 1000, 1000]), "nodes mean nodes"


@pytest.mark.parametrize(("reduce", "expected"), [("max", 10.0), ("min", 5.0), ("mean", 7.5)])
def test_largest_smallest_and_mean_of_a_set_of_elements(reduce: str, expected: float) -> None:
    source = strip()
    for name, measure in (("s", "xx"), ("e", "")):
        reading = Reading(name, measure)
        reply = trace(reading, source, place_of(parse("set:left"), reading, source), reduce)
        assert reply.values == pytest.approx([expected])


def test_the_difference_of_two_readings_stays_inside_the_set() -> None:
    source = strip()
    reading = Reading("s", "xx").minus("averaging=all")
    reply = values(source, reading, "set:left")
    assert np.abs(reply).max() == pytest.approx(495.0), "10 less the mean of 10 and 1000, at the set's border"
    assert len(reply) == 8


def test_a_region_of_nodes_is_refused_with_the_place_to_ask_for() -> None:
    source = strip()
    with pytest.raises(Impossible, match="a region is made of elements"):
        evaluate(Reading("s", "xx", region="set:edge"), source, place_of(parse("element:1"), Reading("s"), source))
    inside = values(source, Reading("u", "x", region="set:left"), "node:1")
    outside = values(source, Reading("u", "x", region="set:left"), "node:10")
    assert inside == pytest.approx([0.0]) and np.isnan(outside).all(), "a node outside the region has no value in it"
    reading = Reading("u", "x", region="set:left")
    followed = [trace(reading, source, place_of(parse(at), reading, source)).values[0] for at in ("node:1", "node:10")]
    assert followed[0] == 0.0 and np.isnan(followed[1]), "nor when it is followed"


def test_the_command_line_reads_and_traces_sets_of_elements(tmp_path: Path) -> None:
    points, cells, _ = bar_of_hexahedra(3)
    stress = np.zeros((24, 6))
    stress[:, 0] = np.repeat([5.0, 10.0, 1000.0], 8)
    path = write_vtu(tmp_path / "bar.vtu", points, cells, {"stress": stress}, {"first": np.array([1, 1, 0], np.uint8)})
    review = tmp_path / "bar.ironstone"
    runner = CliRunner()

    def reply(*words: str) -> dict:
        answer = runner.invoke(app, [*words, "--json"])
        assert answer.exit_code == 0, answer.stderr
        found: dict = json.loads(answer.stdout)
        return found

    reply("intake", str(review), str(path))
    read = reply("read", str(review), "--field", "stress", "--measure", "xx", "--at", "set:first")
    assert {v["value"] for v in read["values"]} == {5.0, 10.0} and {v["element"] for v in read["values"]} == {0, 1}
    followed = reply("trace", str(review), "--field", "stress", "--measure", "xx", "--at", "set:first", "--reduce", "max")
    assert followed["y"] == [10.0] and "largest over set first" in followed["sentence"]


names = st.text(st.characters(codec="utf-8", exclude_categories=["Cs"]), min_size=1, max_size=12)
whole = st.integers(-(2**60), 2**60)
places = st.one_of(
    st.builds(Node, whole),
    st.builds(Element, whole),
    st.builds(Gauss, whole, st.integers(0, 99)),
    st.builds(Point, st.tuples(*[st.floats(allow_nan=False, allow_infinity=False)] * 3)),
    st.builds(NamedSet, names),
)


@given(places)
def test_a_place_written_and_read_is_the_same_place(where: Where) -> None:
    assert parse(str(where)) == where


@pytest.mark.parametrize(
    "text", ["", "node", "node:", "node:x", "gauss:1:0", "point:1,2", "point:1,2,nan", "set:", "path:3", "all", "node:1,2"]
)
def test_what_is_no_place_is_refused_with_the_grammar(text: str) -> None:
    with pytest.raises(Impossible) as caught:
        parse(text)
    assert "Write node:ID" in caught.value.hint


def test_a_set_that_is_not_there_is_named_with_those_that_are() -> None:
    source = strip()
    with pytest.raises(NotFound, match="no set named 'right'") as caught:
        place_of(parse("set:right"), Reading("s"), source)
    assert "edge, left" in caught.value.hint
