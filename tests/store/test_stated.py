"""What files cannot say and the analyst states: what whole numbers are, what steps stand for, how columns lie."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.errors import IronstoneError
from ironstone.core.field.fields import Field
from ironstone.core.field.titles import field_title
from ironstone.core.mesh.places import AtNodes
from ironstone.core.moments import values_of
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from tests.writing import bar_of_hexahedra, write_vtu


@pytest.fixture
def bar_of_three(tmp_path: Path) -> Iterator[Review]:
    """Three cubes in a row that share nodes: axial stress 100, 300, 500, and whole numbers of four sorts; three files."""
    points, cells, _ = bar_of_hexahedra(shared=True)
    files = []
    for step in range(3):
        data = {
            "stress": np.array([[100.0, 0, 0, 0, 0, 0], [300.0, 0, 0, 0, 0, 0], [500.0, 0, 0, 0, 0, 0]]) * (1 + step),
            "which": np.array([0, 1, 1], dtype=np.int32),
            "material": np.array([7, 7, 9], dtype=np.int32),
            "colour": np.array([3, 5, 5], dtype=np.int32),
        }
        files.append(write_vtu(tmp_path / f"bar_{10 * step}.vtu", points, cells, None, data))
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, files)
        yield review


def at_border(review: Review, averaging: str) -> list[float]:
    """The stress along the bar at a node between the first and the second cube."""
    source = review.result()
    node = np.flatnonzero(np.isclose(source.mesh.points[:, 0], 1.0))[:1]
    found: list[float] = evaluate(Reading("stress", "xx", averaging=averaging), source, AtNodes(node)).values.tolist()
    return sorted(found)


def test_whole_numbers_are_taken_for_what_they_seem_and_each_says_so(bar_of_three: Review) -> None:
    answer = contents(bar_of_three.result())
    taken = {n["name"]: (n["entry"]["value"], n["entry"]["state"]) for n in answer["whole_numbers"]}
    assert taken == {"which": ("set", "guessed"), "material": ("materials", "guessed"), "colour": ("names", "guessed")}
    assert [s["name"] for s in answer["sets"] if s["of"] == "elements"] == ["which"]


def test_a_set_stated_to_divide_the_body_parts_its_averages_and_back_with_undo(bar_of_three: Review) -> None:
    result = bar_of_three.result().id
    assert at_border(bar_of_three, "part") == [200.0], "one material on both sides: the parts are those of the material"
    bar_of_three.correct_fields(result, ["which"], {"role": "parts"})
    source = bar_of_three.result()
    assert source.mesh.part_names == ("which 0", "which 1") and "which" not in source.mesh.element_sets
    assert at_border(bar_of_three, "part") == [100.0, 300.0]
    assert at_border(bar_of_three, "material") == [200.0], "the materials stay"
    bar_of_three.undo()
    assert bar_of_three.result().mesh.element_sets["which"].tolist() == [1, 2]
    assert at_border(bar_of_three, "part") == [200.0]


def test_a_partition_stated_to_be_numbers_divides_nothing_and_is_a_field(bar_of_three: Review) -> None:
    result = bar_of_three.result().id
    bar_of_three.correct_fields(result, ["material"], {"role": "numbers"})
    source = bar_of_three.result()
    assert source.mesh.material is None and source.mesh.part_names == ("part 1",)
    assert not source.fields["material"].names
    node = np.flatnonzero(np.isclose(source.mesh.points[:, 0], 2.0))[:1]
    for step in range(3):
        assert evaluate(Reading("material", averaging="all", step=step), source, AtNodes(node)).values == pytest.approx([8.0])
    bar_of_three.correct_fields(result, ["colour"], {"role": "materials"})
    source = bar_of_three.result()
    assert source.mesh.material_names == ("colour 3", "colour 5") and source.mesh.material is not None
    assert source.mesh.material.tolist() == [0, 1, 1]


def test_parts_that_are_none_leave_one_part(tmp_path: Path) -> None:
    points, cells, _ = bar_of_hexahedra(shared=True)
    data = {"stress": np.eye(6)[:3] * 100.0, "part": np.array([1, 1, 2], dtype=np.int32)}
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, [write_vtu(tmp_path / "a.vtu", points, cells, None, data)])
        assert review.result().mesh.part_names == ("part 1", "part 2")
        review.correct_fields(result, ["part"], {"role": "names"})
        source = review.result()
        assert source.mesh.part_names == ("part 1",) and not source.mesh.part.any()
        assert source.fields["part"].names
        review.correct_fields(result, ["part"], {"role": "parts"})
        assert review.result().mesh.part.tolist() == [0, 0, 1]


def test_what_whole_numbers_cannot_be_is_refused(bar_of_three: Review) -> None:
    result = bar_of_three.result().id
    for name, role, words in (
        ("colour", "set", "marks no set"),
        ("colour", "friend", "cannot be stated"),
        ("stress", "set", "no whole"),
    ):
        with pytest.raises(IronstoneError) as refused:
            bar_of_three.correct_fields(result, [name], {"role": role})
        assert words in f"{refused.value.message} {refused.value.hint}"


@pytest.mark.parametrize(
    ("written", "values"),
    [
        ("0, 0.25, 1", [0, 0.25, 1]),
        ("0;0.25;1e0", [0, 0.25, 1]),
        ("1:0.5", [1, 1.5, 2]),
        ("-1 : 1e-1", [-1, -0.9, -0.8]),
        ("names", [0, 10, 20]),
    ],
)
def test_steps_are_stated_by_a_list_a_run_or_the_files_names(bar_of_three: Review, written: str, values: list[float]) -> None:
    result = bar_of_three.result().id
    assert [s.kind for s in bar_of_three.result().steps] == ["number"] * 3
    assert any("no time, load factor or frequency" in d["said"] for d in contents(bar_of_three.result())["doubts"])
    bar_of_three.set_steps(result, "load factor", written)
    source = bar_of_three.result()
    assert [(s.kind, s.value) for s in source.steps] == [("load factor", pytest.approx(v)) for v in values]
    assert not any("no time, load factor or frequency" in d["said"] for d in contents(source)["doubts"])
    bar_of_three.undo()
    assert [s.kind for s in bar_of_three.result().steps] == ["number"] * 3


@pytest.mark.parametrize(
    ("kind", "written", "words"),
    [
        ("time", "0, 1", "2 values were given for 3 steps"),
        ("time", "0, one, 2", "'one' is no number"),
        ("time", "1e400:1", "no finite value"),
        ("time", "", "is no number"),
        ("mode", "-1:1", "does not exist"),
        ("hour", "0:1", "no 'hour'"),
    ],
)
def test_steps_that_cannot_be_are_refused_and_stay(bar_of_three: Review, kind: str, written: str, words: str) -> None:
    with pytest.raises(IronstoneError, match=words):
        bar_of_three.set_steps(bar_of_three.result().id, kind, written)
    assert [s.kind for s in bar_of_three.result().steps] == ["number"] * 3


def test_names_tell_steps_apart_only_where_each_step_has_a_file_with_a_number() -> None:
    assert values_of("names", 2, ["run2_t0.5.vtu", "run2_t-12.vtu"])[0] == [0.5, 12.0]
    for files, words in ((["all.e"], "came in 1 file"), (["a.vtu", "b1.vtu"], "no number in the name")):
        with pytest.raises(IronstoneError, match=words):
            values_of("names", 2, files)


@given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=9))
def test_a_list_that_is_written_is_read_back(values: list[float]) -> None:
    assert values_of(", ".join(map(repr, values)) + ("" if len(values) > 1 else " "), len(values))[0] == values


@pytest.mark.parametrize(
    ("columns", "stated", "expected"),
    [
        ([1.0, 2.0, 9.0, 4.0], "xx, yy, zz, xy", [1, 2, 9, 4]),
        ([1.0, 2.0, 4.0, 9.0], "xx, yy, xy, zz", [1, 2, 9, 4]),
        ([1.0, 4.0, 4.0, 2.0], "xx, xy, yx, yy", [1, 2, None, 4]),
        ([1.0, 2.0, 4.0], "xx, yy, xy", [1, 2, None, 4]),
        ([1.0, 4.0, 2.0], "xx, xy, yy", [1, 2, None, 4]),
    ],
)
def test_every_layout_of_a_planar_tensor_can_be_stated(
    tmp_path: Path, columns: list[float], stated: str, expected: list[float | None]
) -> None:
    points = np.array([[0.0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])
    file = write_vtu(tmp_path / "one.vtu", points, [(9, [0, 1, 2, 3])], None, {"stress": np.array([columns])})
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, [file])
        review.correct_fields(result, ["stress"], {"layout": stated})
        found = review.result().values("stress", 0)[0, :4]
        assert [None if np.isnan(v) else v for v in found] == expected
        doubts = " ".join(d["said"] for d in contents(review.result())["doubts"])
        assert ("What the planar model stands for" in doubts) == (expected[2] is None)
        other = "xx, yy" if len(columns) == 3 else "xx, yy, xy"
        with pytest.raises(IronstoneError, match="cannot be"):
            review.correct_fields(result, ["stress"], {"layout": other})


def of(name: str, kind: str) -> Field:
    return Field(name, kind, "tensor", "element", ("xx",), "")


@pytest.mark.parametrize(
    ("name", "beside", "title"),
    [
        ("CAUCHY_STRESS_VECTOR", [], "stress"),
        ("S", [], "stress"),
        ("CAUCHY_STRESS_VECTOR", ["other stress"], "cauchy stress vector"),
        ("StressTensor", ["other stress"], "stress tensor"),
        ("hoop_stress", [], "hoop stress"),
        ("Cauchy Stress", [], "Cauchy Stress"),
        ("S", ["s"], "S"),
    ],
)
def test_a_name_made_for_machines_is_said_in_words(name: str, beside: list[str], title: str) -> None:
    fields = {n: of(n, "stress") for n in (name, *beside)}
    assert field_title(name, fields) == title


def test_no_two_fields_are_called_the_same() -> None:
    names = ["S_XX", "s xx", "stress", "STRESS_", "E::x", "e_x"]
    fields = {n: of(n, "") for n in names}
    assert len({field_title(n, fields) for n in names}) == len(names)
