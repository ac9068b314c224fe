"""Welding and classification as written in the plan, and an intake that fails leaves nothing behind."""

from __future__ import annotations

from importlib import import_module
from pathlib import Path

import numpy as np
import pytest
from sqlalchemy import func, select

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import meeting
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from ironstone.store.arrival import Cancelled
from ironstone.store.describe import contents, rail
from ironstone.store.models import ArrayRow, BlockRow, ResultRow
from ironstone.store.source import ReviewSource
from tests.writing import HEX, bar_of_hexahedra, write_vtu


@pytest.fixture
def review(tmp_path: Path) -> Review:
    return Review.create(tmp_path / "r.ironstone")


def taken(review: Review, path: Path, points: np.ndarray, cells: list, data: dict, cell_data: dict | None = None) -> ReviewSource:
    return review.result(intake(review, [write_vtu(path, points, cells, data, cell_data)]))


def test_elements_that_share_no_nodes_are_joined_by_their_numbers(bar: ReviewSource) -> None:
    assert len(bar.mesh.points) == 16
    assert {n: f.location for n, f in bar.fields.items() if f.stored} == {
        "stress": "corner", "displacement": "node", "reaction": "node", "axial": "element",
    }  # fmt: skip
    assert bar.mesh.part_names == ("part 1", "part 2")
    assert contents(bar)["welding"] == "joined by GlobalIds"


def test_a_reaction_at_copies_of_a_node_is_taken_once(bar: ReviewSource) -> None:
    nodes = bar.mesh.node_sets["fixed"]
    assert len(nodes) == 4
    assert bar.values("reaction", 0)[nodes, 0].sum() == pytest.approx(-10.0)


def test_sets_are_held_or_free(bar: ReviewSource) -> None:
    held = {s["name"]: s["held"] for s in contents(bar)["sets"]}
    assert held == {"fixed": "held", "tip": "free"}


def test_without_numbers_copies_are_joined_by_place_but_never_across_parts(tmp_path: Path, review: Review) -> None:
    points, cells, _ = bar_of_hexahedra()
    part = np.array([1, 1, 2], dtype=np.int32)
    source = taken(review, tmp_path / "a.vtu", points, cells, {"displacement": np.zeros((24, 3))}, {"part": part})
    assert len(source.mesh.points) == 20, "16 places, four of them twice where the parts touch"


def test_copies_that_move_apart_at_any_step_are_a_crack(tmp_path: Path, review: Review) -> None:
    points, cells, _ = bar_of_hexahedra(2)
    files = []
    for step in range(3):
        moved = np.zeros((16, 3))
        moved[8:, 0] = 0.1 * step
        files.append(write_vtu(tmp_path / f"crack_{step}.vtu", points, cells, {"displacement": moved}))
    source = review.result(intake(review, files))
    assert len(source.mesh.points) == 16, "closed at the first step, open later: never joined"


def test_a_displacement_that_differs_at_one_node_is_told(tmp_path: Path, review: Review) -> None:
    points, cells, ids = bar_of_hexahedra(2)
    moved = np.zeros((16, 3))
    moved[8:, 0] = 0.1
    source = taken(review, tmp_path / "a.vtu", points, cells, {"displacement": moved, "GlobalIds": ids})
    assert source.fields["displacement"].location == "corner"
    assert any("differs between copies" in w for w in source.warnings)


def test_tensors_on_shared_nodes_were_averaged_before_they_came(tmp_path: Path, review: Review) -> None:
    points, cells, _ = bar_of_hexahedra(3, shared=True)
    source = taken(review, tmp_path / "a.vtu", points, cells, {"stress": np.ones((16, 6))})
    assert source.fields["stress"].averaged_before
    assert any("cannot be un-averaged" in w for w in source.warnings)


def test_averaging_within_a_material_joins_parts_of_one_material(tmp_path: Path, review: Review) -> None:
    points, cells, ids = bar_of_hexahedra()
    density = np.array([1.0, 3.0, 8.0])
    partitions = {"part": np.array([1, 2, 3], dtype=np.int32), "material": np.array([7, 7, 9], dtype=np.int32), "density": density}
    source = taken(review, tmp_path / "a.vtu", points, cells, {"GlobalIds": ids}, partitions)
    found = evaluate(Reading("density", averaging="material"), source, AtCorners())
    at = source.mesh.points[found.node, 0]
    assert set(found.values[at == 1.0]) == {2.0}, "two parts, one material: shared"
    assert set(found.values[at == 2.0]) == {3.0, 8.0}, "two materials: apart"
    assert not any("names no materials" in c for c in found.caveats)
    node = int(np.argmin(np.abs(source.mesh.points - [1, 0, 0]).sum(1)))
    assert meeting(Reading("density"), source, node).jump_within_material == pytest.approx(2.0)


def test_component_names_in_the_file_win(tmp_path: Path, review: Review) -> None:
    stress = np.tile(np.arange(6.0), (8, 1))
    path = write_vtu(
        tmp_path / "a.vtu",
        HEX,
        [(12, list(range(8)))],
        {"stress": stress},
        components={"stress": ("XX", "YY", "ZZ", "YZ", "XZ", "XY")},
    )
    source = review.result(intake(review, [path]))
    assert source.values("stress", 0)[0].tolist() == [0, 1, 2, 5, 3, 4]


def test_two_components_of_a_planar_model_are_a_vector_without_z(tmp_path: Path, review: Review) -> None:
    corners = HEX[:4, :].copy()
    moved = np.array([[0.0, 0], [1, 2], [3, 4], [0, 0]])
    source = taken(review, tmp_path / "a.vtu", corners, [(9, [0, 1, 2, 3])], {"displacement": moved})
    assert (source.fields["displacement"].kind, source.fields["displacement"].rank) == ("displacement", "vector")
    assert source.values("displacement", 0)[2].tolist() == [3.0, 4.0, 0.0]


def test_what_is_missing_stays_missing(tmp_path: Path, review: Review) -> None:
    stress = np.ones((8, 6))
    stress[2, 1] = np.nan
    source = taken(review, tmp_path / "a.vtu", HEX, [(12, list(range(8)))], {"stress": stress})
    assert np.isnan(source.values("stress", 0)[2, 1])
    assert any("no value at 1 places" in w for w in contents(source)["warnings"])


def test_the_unit_system_is_a_guess_until_it_is_stated(bar: ReviewSource) -> None:
    assert bar.system_guessed
    before = bar.revision
    bar.review.set_units(bar.id, "m-N-s-kg-Pa")
    stated = bar.review.result(bar.id)
    assert not stated.system_guessed
    assert stated.fields["stress"].unit == "Pa"
    assert stated.revision != before, "a corrected guess never brings back an old picture"
    assert bar.review.undo() == "Unit system stated"
    assert bar.review.result(bar.id).system_guessed


def test_what_a_field_was_taken_for_can_be_corrected(bar: ReviewSource) -> None:
    review = bar.review
    assert bar.fields["axial"].kind == ""
    review.set_kind(bar.id, "axial", "pressure")
    review.set_units(bar.id, "m-N-s-kg-Pa")
    corrected = review.result(bar.id)
    assert (corrected.fields["axial"].kind, corrected.fields["axial"].unit) == ("pressure", "Pa")
    assert not corrected.fields["axial"].guessed
    assert corrected.revision != bar.revision
    with pytest.raises(IronstoneError, match="cannot be a displacement"):
        review.set_kind(bar.id, "axial", "displacement")
    review.undo()
    review.undo()
    assert review.result(bar.id).fields["axial"].kind == ""


def test_the_demo_is_taken_in_as_it_was_written(flexure: ReviewSource) -> None:
    answer = contents(flexure)
    assert (answer["nodes"], answer["elements"], len(answer["steps"])) == (1285, 192, 241)
    assert answer["raw_points"] == 3840
    assert {f["name"]: f["location"] for f in answer["fields"] if not f["recovered"]} == {
        "displacement": "node", "reaction": "node", "stress": "corner", "strain": "corner", "equivalent_plastic_strain": "corner",
    }  # fmt: skip
    assert {s["name"]: (s["held"], s["moves"]) for s in answer["sets"] if s["of"] == "nodes"} == {
        "held": ("held", False), "driven": ("held", True),
    }  # fmt: skip
    seen = rail(flexure)
    assert seen["driver"]["set"] == "driven"
    assert seen["supports"] == ["held"]
    assert sum(m["kind"] == "reversal" for m in seen["marks"]) == 12


def leftovers(review: Review) -> tuple[int, int, int]:
    with review.session() as session:
        counts = [session.scalar(select(func.count()).select_from(t)) or 0 for t in (ResultRow, ArrayRow, BlockRow)]
    return counts[0], counts[1], counts[2]


def test_a_file_of_another_mesh_leaves_the_review_as_it_was(bar_files: list[Path], review: Review, tmp_path: Path) -> None:
    points, cells, ids = bar_of_hexahedra(2)
    other = write_vtu(tmp_path / "rod_11.vtu", points, cells, {"GlobalIds": ids})
    with pytest.raises(IronstoneError, match=r"rod_11\.vtu holds another mesh than bar_9\.vtu: 2 elements against 3"):
        intake(review, [*bar_files, other])
    assert leftovers(review) == (0, 0, 0)
    assert not list(tmp_path.glob(".arriving-*"))


def test_a_truncated_file_leaves_the_review_as_it_was(bar_files: list[Path], review: Review) -> None:
    whole = bar_files[1].read_bytes()
    bar_files[1].write_bytes(whole[: len(whole) // 2])
    with pytest.raises(IronstoneError, match=r"bar_10\.vtu"):
        intake(review, bar_files)
    assert leftovers(review) == (0, 0, 0)


def test_an_intake_that_is_stopped_leaves_nothing(bar_files: list[Path], review: Review) -> None:
    def stop(share: float, text: str) -> None:
        if share > 0.7:
            raise Cancelled("Stopped by you.")

    with pytest.raises(Cancelled):
        intake(review, bar_files, tell=stop)
    assert leftovers(review) == (0, 0, 0)


def test_what_was_still_arriving_is_swept_when_the_review_is_opened(bar_files: list[Path], tmp_path: Path) -> None:
    path = tmp_path / "killed.ironstone"
    with Review.create(path) as review:
        intake(review, bar_files)
        with review.session() as session:
            session.scalars(select(ResultRow)).one().state = "arriving"
    with Review.open(path) as again:
        assert leftovers(again) == (0, 0, 0)


def test_what_is_stored_can_be_read_and_the_log_it_came_through_stays_short(
    tmp_path: Path, review: Review, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Read back while steps are still being moved into the file, and after; the log never holds a second copy of them all."""
    monkeypatch.setattr(import_module("ironstone.store.arrival"), "LOG_BYTES", 2_000_000)
    points, cells, ids = bar_of_hexahedra(4000)
    files = []
    for step in range(16):
        stress = np.full((len(points), 6), float(step))
        files.append(
            write_vtu(tmp_path / f"long_{step}.vtu", points, cells, {"stress": stress, "GlobalIds": ids}, time=float(step))
        )
    source = review.result(intake(review, files))
    log = review.path.with_name(review.path.name + "-wal")
    for step in (0, 7, 15):
        assert (source.values("stress", step) == step).all()
    assert review.path.stat().st_size + log.stat().st_size > 16 * stress.nbytes, "all of it is there"
    assert log.stat().st_size < 0.7 * 16 * stress.nbytes
    review.settle().result()
    review.close()
    assert not log.exists()
    with Review.open(review.path) as again:
        assert (again.result().values("stress", 11) == 11).all()


def test_a_file_that_is_no_review_is_told_so(tmp_path: Path) -> None:
    path = tmp_path / "x.ironstone"
    path.write_text("something else entirely")
    with pytest.raises(IronstoneError, match="is not a review"):
        Review.open(path)


def test_every_change_can_be_undone_and_done_again(review: Review) -> None:
    item = review.add("flag", {"result": 1, "node": 4}, "Flag planted")
    review.change(item.id, {"result": 1, "node": 5}, "Flag moved")
    review.remove(item.id, "Flag removed")
    assert review.items("flag") == []
    assert [review.undo(), review.undo()] == ["Flag removed", "Flag moved"]
    assert review.item(item.id).payload["node"] == 4
    assert review.redo() == "Flag moved"
    assert review.item(item.id).payload["node"] == 5
    assert [review.undo(), review.undo(), review.undo()] == ["Flag moved", "Flag planted", None]
    assert review.items() == []


def test_an_intake_can_be_undone_and_done_again(bar: ReviewSource) -> None:
    review = bar.review
    assert review.undo() == "Result 'bar' taken in"
    assert review.results() == []
    assert review.redo() == "Result 'bar' taken in"
    assert [r.name for r in review.results()] == ["bar"]
    review.put_away(bar.id)
    assert review.results() == []
    review.undo()
    assert [r.name for r in review.results()] == ["bar"]


def test_a_few_rows_are_read_without_the_rest(flexure: ReviewSource) -> None:
    rows = np.array([3, 1000, 3000, 3001])
    fresh = ReviewSource(flexure.review, _row(flexure), {})
    few = fresh.rows("stress", 40, rows)
    assert np.array_equal(few, flexure.values("stress", 40)[rows])


def _row(source: ReviewSource) -> ResultRow:
    with source.review.session() as session:
        return session.get_one(ResultRow, source.id)
