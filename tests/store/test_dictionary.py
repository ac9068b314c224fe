"""The field dictionary: every guess with its reason, corrected later without a new intake, never answered from before."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.field.axes import three_points
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from ironstone.store.source import ReviewSource
from tests.conftest import ROOT
from tests.writing import bar_of_hexahedra, write_vtu

UNTIDY = sorted((ROOT / "demo" / "data" / "untidy").glob("*.vtu"))


@pytest.fixture
def untidy(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "untidy.ironstone") as review:
        intake(review, UNTIDY)
        review.naming.wait()
        yield review


def entry(source: ReviewSource, name: str) -> dict:  # type: ignore[type-arg]
    return next(f for f in contents(source)["fields"] if f["name"] == name)


def stands(source: ReviewSource, name: str, what: str) -> str:
    """How an entry of a field stands."""
    return next(e["value"] for e in entry(source, name)["entries"] if e["name"] == what)


def test_an_untidy_set_is_taken_in_and_says_what_is_wrong(untidy: Review) -> None:
    answer = contents(untidy.result())
    assert set(answer["cells"]) == {"line2", "quad4", "tet4", "hex8", "wedge6", "pyramid5"}
    said = " ".join([*answer["warnings"], *(d["said"] for d in answer["doubts"])])
    for words in ("state no time", "leave out 3", "No displacement was found", "no value at", "state no unit"):
        assert words in said
    assert entry(untidy.result(), "arr_3")["kind"] == ""
    assert entry(untidy.result(), "ply number")["names"]
    assert entry(untidy.result(), "quantity 7")["precision"] == "single"


def test_engineering_shear_is_halved_once_the_field_is_known_to_be_a_strain(untidy: Review) -> None:
    result = untidy.result().id
    before = evaluate(Reading("eps_eng", "xy"), untidy.result(result), AtElements(np.array([30]))).values
    untidy.correct_fields(result, ["eps_eng"], {"kind": "strain"})
    source = untidy.result(result)
    assert stands(source, "eps_eng", "shear") == "engineering"
    halved = evaluate(Reading("eps_eng", "xy"), source, AtElements(np.array([30]))).values
    assert halved == pytest.approx(before / 2)
    assert evaluate(Reading("eps_eng", "gamma-xy"), source, AtElements(np.array([30]))).values == pytest.approx(before)
    untidy.correct_fields(result, ["eps_eng"], {"shear": "tensor"})
    assert evaluate(Reading("eps_eng", "xy"), untidy.result(result), AtElements(np.array([30]))).values == pytest.approx(before)
    untidy.undo()
    assert evaluate(Reading("eps_eng", "xy"), untidy.result(result), AtElements(np.array([30]))).values == pytest.approx(halved)


def test_strain_worked_out_from_the_file_is_the_one_recovered_here(untidy: Review) -> None:
    result = untidy.result().id
    untidy.correct_fields(result, ["eps_eng"], {"kind": "strain"})
    untidy.correct_fields(result, ["arr_3"], {"kind": "displacement"})
    source = untidy.result(result)
    assert not any("No displacement" in w for w in contents(source)["warnings"])
    solid = np.flatnonzero(source.mesh.types == 12)
    for measure in ("xx", "zz", "xy", "yz"):
        theirs = evaluate(Reading("eps_eng", measure, step=1), source, AtElements(solid)).values
        mine = evaluate(Reading("strain from displacement", measure, step=1), source, AtElements(solid)).values
        assert mine == pytest.approx(theirs, abs=1e-9)


def test_another_order_of_components_is_understood_without_a_new_intake(untidy: Review) -> None:
    result = untidy.result().id
    wrong = evaluate(Reading("quantity 7", "yz"), untidy.result(result), AtNodes(np.array([5]))).values
    revision = untidy.result(result).revision
    untidy.correct_fields(result, ["quantity 7"], {"order": "xx,yy,zz,xy,xz,yz", "kind": "stress"})
    source = untidy.result(result)
    assert source.revision != revision, "an answer kept from before is not the answer any more"
    assert evaluate(Reading("quantity 7", "xz"), source, AtNodes(np.array([5]))).values == pytest.approx(wrong)
    assert evaluate(Reading("quantity 7", "xz"), source, AtCorners()).values.shape == (len(source.mesh.connectivity),)


def test_whether_node_values_were_averaged_before_is_the_analysts_to_say(untidy: Review) -> None:
    result = untidy.result().id
    untidy.correct_fields(result, ["quantity 7"], {"kind": "stress", "averaged_before": "yes"})
    answer = evaluate(Reading("quantity 7", "xx"), untidy.result(result), AtNodes(np.array([5])))
    assert any("averaged before import" in c for c in answer.caveats)


@pytest.mark.parametrize(
    ("field", "given", "words"),
    [
        ("arr_3", {"kind": "stress"}, "cannot be a stress"),
        ("arr_3", {"order": "xx,xx"}, "is a vector field"),
        ("quantity 7", {"order": "xx,xx,zz,xy,yz,xz"}, "State all six"),
        ("quantity 7", {"shear": "half"}, "not a shear convention"),
        ("quantity 7", {"unit": "no such unit"}, "not known"),
        ("eps_eng", {"averaged_before": "yes"}, "not at nodes"),
        ("quantity 7", {"colour": "red"}, "cannot be stated"),
    ],
)
def test_what_cannot_be_stated_is_refused_and_changes_nothing(
    untidy: Review, field: str, given: dict[str, str], words: str
) -> None:
    before = contents(untidy.result())
    with pytest.raises(IronstoneError, match=words):
        untidy.correct_fields(untidy.result().id, [field], given)
    assert contents(untidy.result()) == before


def test_a_recovered_field_is_not_of_the_file_and_cannot_be_corrected(untidy: Review) -> None:
    untidy.correct_fields(untidy.result().id, ["arr_3"], {"kind": "displacement"})
    with pytest.raises(NotFound, match="in this result's files"):
        untidy.correct_fields(untidy.result().id, ["strain from displacement"], {"kind": "stress"})


def test_a_field_at_corners_that_is_a_displacement_moves_to_the_nodes_where_its_copies_agree(tmp_path: Path) -> None:
    points, cells, ids = bar_of_hexahedra(2)
    moved = np.column_stack([0.01 * points[:, 0], 0 * points[:, 0], 0 * points[:, 0]])
    torn = moved + (np.arange(16) >= 8)[:, None] * 0.5
    path = write_vtu(tmp_path / "bar.vtu", points, cells, {"GlobalIds": ids, "first": moved, "second": torn})
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, [path])
        assert review.result(result).fields["first"].location == "corner"
        review.correct_fields(result, ["first"], {"kind": "displacement"})
        review.correct_fields(result, ["second"], {"kind": "displacement"})
        source = review.result(result)
        assert source.fields["first"].location == "node" and source.fields["second"].location == "corner"
        answer = evaluate(Reading("first", "x"), source, AtNodes(np.arange(12)))
        assert answer.values == pytest.approx(0.01 * source.mesh.points[:, 0])
        few = evaluate(Reading("first", "x"), source, AtNodes(np.array([3])))
        assert few.values == pytest.approx(answer.values[3:4])


def test_sets_are_found_held_anew_when_a_field_is_said_to_be_the_reaction(tmp_path: Path) -> None:
    points, cells, ids = bar_of_hexahedra(2, shared=True)
    force = np.zeros((12, 3))
    force[points[:, 0] == 0.0, 0] = -5.0
    data = {"GlobalIds": ids, "ring": force, "root": (points[:, 0] == 0.0).astype(np.uint8)}
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, [write_vtu(tmp_path / "bar.vtu", points, cells, data)])
        assert contents(review.result(result))["sets"][0]["held"] == "unknown"
        review.correct_fields(result, ["ring"], {"kind": "reaction"})
        assert contents(review.result(result))["sets"][0]["held"] == "held"
        review.undo()
        assert contents(review.result(result))["sets"][0]["held"] == "unknown"


def test_gauss_columns_are_found_and_read(tmp_path: Path) -> None:
    """48 columns on a hexahedron are six components at eight points; eight are a scalar there."""
    points, cells, _ = bar_of_hexahedra(2, shared=True)
    columns = np.tile(np.arange(6.0), 8) + np.repeat(np.arange(8.0), 6) * 10
    cell_data = {"stress": np.tile(columns, (2, 1)), "damage": np.tile(np.arange(8.0), (2, 1))}
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [write_vtu(tmp_path / "bar.vtu", points, cells, None, cell_data)])
        source = review.result()
        answer = entry(source, "stress")
        assert (answer["location"], answer["points"], answer["rank"]) == ("gauss", 8, "tensor")
        assert any("48 columns" in n for n in answer["notes"]) and answer["guessed"]
        assert evaluate(Reading("stress", "yy"), source, AtElements(np.array([1]))).values == pytest.approx([36.0])
        assert entry(source, "damage")["points"] == 8


def test_thickness_and_property_of_shells_are_kept_as_breaks(tmp_path: Path) -> None:
    points = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [2, 0, 0.5], [2, 1, 0.5]])
    cells = [(9, [0, 1, 2, 3]), (9, [1, 4, 5, 2])]
    path = write_vtu(tmp_path / "shell.vtu", points, cells, None, {"thickness": np.array([2.0, 3.0])})
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [path])
        assert review.result().mesh.breaks is not None
        assert entry(review.result(), "thickness")["unit"] == "mm"


def test_constants_axes_and_model_are_kept_with_the_review_and_undone(bar: ReviewSource) -> None:
    review, result = bar.review, bar.id
    review.set_constants(result, "part 1", {"young": 210e3, "poisson": 0.3})
    review.set_axes(result, three_points("hub", "cylindrical", np.zeros(3), np.array([1.0, 0, 0]), np.array([0, 1.0, 0])))
    with Review.open(review.path) as again:
        source = again.result(result)
        assert source.setup.constants["part 1"]["young"] == 210e3
        assert source.setup.axes["hub"].kind == "cylindrical"
        assert [m["constants"].get("young") for m in contents(source)["materials"]] == [210e3, None]
    review.undo()
    assert "hub" not in review.result(result).setup.axes
    for wrong, words in (((-1.0, 0.3), "above zero"), ((1.0, 0.7), "between -1 and 0.5")):
        with pytest.raises(IronstoneError, match=words):
            review.set_constants(result, "part 1", dict(zip(("young", "poisson"), wrong, strict=True)))
    with pytest.raises(NotFound, match="no material 'steel'"):
        review.set_constants(result, "steel", {"young": 1.0, "poisson": 0.3})
    with pytest.raises(IronstoneError, match="not planar"):
        review.set_model(result, "plane strain")
    with pytest.raises(NotFound, match="no axes named"):
        review.remove_axes(result, "rim")
