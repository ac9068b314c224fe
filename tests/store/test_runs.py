"""A series whose mesh changes, taken in: each step is read on its own mesh; what stays (points, sets, extremes) is followed over
it, what does not (numbers) is refused."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from ironstone.store.export import export
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu

SIZE = (2.0, 1.0, 1.0)
# Of each step the elements along the bar, and the factor on the law; the third comes back to the mesh of the first.
STEPS = [(2, 1.0), (5, 3.0), (2, 2.0), (3, 2.5)]


def law(points: np.ndarray) -> np.ndarray:
    return 10.0 * points[:, 0] + points[:, 1]


def series(folder: Path, stem: str = "peel", steps: list[tuple[int, float]] = STEPS) -> list[Path]:
    made = []
    for number, (count, factor) in enumerate(steps):
        mesh = box(BY_NAME["hex8"], counts=(count, 1, 1), size=SIZE)
        cells = [(12, mesh.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(count)]
        moved = np.zeros((len(mesh.points), 3))
        moved[:, 2] = factor * mesh.points[:, 0]
        end = np.isclose(mesh.points[:, 0], SIZE[0]).astype(np.uint8)
        stress = np.zeros((count, 6))
        stress[:, 0] = factor * (np.arange(count) + 1)
        points = {"displacement": moved, "temperature": factor * law(mesh.points), "end": end}
        data = {"stress": stress} | ({"damage": np.full(count, 0.5)} if number else {})
        made.append(write_vtu(folder / f"{stem}_{number:02d}.vtu", mesh.points, cells, points, data, time=float(number)))
    return made


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "r.ironstone") as made:
        intake(made, series(tmp_path), name="peel")
        yield made


def test_it_is_one_result_with_all_its_steps_in_order(review: Review) -> None:
    (source,) = review.results()
    assert [s.value for s in source.steps] == [0.0, 1.0, 2.0, 3.0]
    assert source.meshes == (0, 1, 0, 3)
    assert [len(source.at(i).mesh.types) for i in range(4)] == [2, 5, 2, 3]
    assert source.at(0) is source.at(2) is source and source.at(1).at(0) is source
    told = contents(source)
    assert told["meshes"] == [0, 1, 0, 3] and any("another one at 2 of 4 steps (3 meshes" in w for w in told["warnings"])


def test_every_step_is_read_on_its_own_mesh(review: Review) -> None:
    source = review.result("peel")
    for step, (count, factor) in enumerate(STEPS):
        here = source.at(step)
        found = here.read("temperature", at="nodes", step=step).values
        assert found == pytest.approx(factor * law(here.mesh.points))
        assert here.read("stress", "xx", at="elements", step=step).values == pytest.approx(factor * (np.arange(count) + 1))
        assert here.rows("temperature", step, np.array([1]))[0, 0] == pytest.approx(factor * law(here.mesh.points)[1])
    with pytest.raises(Impossible, match="The mesh is another one"):
        source.values("temperature", 1)


def test_a_field_that_begins_later_has_no_value_before(review: Review) -> None:
    source = review.result("peel")
    assert "damage" in source.fields
    assert np.isnan(source.values("damage", 0)).all()
    assert source.at(1).values("damage", 1) == pytest.approx(np.full((5, 1), 0.5))


def test_a_point_and_a_set_are_followed_over_the_meshes_and_a_node_is_not(review: Review) -> None:
    words = {"field": "temperature"}
    point = ask(review, question_of("trace", {**words, "at": "point:1.1,0.5,0.5"}))
    assert point.columns[1].values == pytest.approx([f * (11.0 + 0.5) for _, f in STEPS])
    end = ask(review, question_of("trace", {**words, "at": "set:end", "reduce": "max"}))
    assert end.columns[1].values == pytest.approx([f * 21.0 for _, f in STEPS])
    with pytest.raises(Impossible, match="The mesh is another one"):
        ask(review, question_of("trace", {**words, "at": "node:3"}))


def test_the_largest_over_the_steps_is_by_place_and_says_so(review: Review) -> None:
    found = ask(review, question_of("read", {"field": "temperature", "over": "largest", "step": 0, "extremes": True}))
    assert next(f.value for f in found.figures if f.label == "highest") == pytest.approx(3.0 * 21.0)
    assert any("another one at 2 of these steps" in c for c in found.caveats)


def test_questions_of_a_step_are_of_its_mesh(review: Review) -> None:
    words = {"field": "stress", "measure": "xx", "extremes": True}
    for step, (count, factor) in enumerate(STEPS):
        found = ask(review, question_of("read", {**words, "step": step}))
        assert next(f.value for f in found.figures if f.label == "highest") == pytest.approx(count * factor)


def test_what_is_stated_holds_at_every_mesh(review: Review) -> None:
    review.set_units(1, "m-N-s-kg-Pa")
    review.set_kind(1, "temperature", "damage")
    source = review.result("peel")
    assert [source.at(i).system.name for i in range(4)] == ["m-N-s-kg-Pa"] * 4
    assert source.at(1).fields["temperature"].kind == "damage"
    review.undo()
    assert review.result("peel").at(3).fields["temperature"].kind == "temperature"


def test_a_set_made_of_nodes_stays_with_the_mesh_it_was_made_on(review: Review) -> None:
    review.make_set(1, "mine", np.array([0, 1]), "picked")
    source = review.result("peel")
    assert "mine" in source.mesh.node_sets and "mine" not in source.at(1).mesh.node_sets


def test_a_mesh_that_comes_again_is_stored_once(review: Review) -> None:
    with review.database() as database:
        (stored,) = database.execute("select count(*) from array where role = 'points'").fetchone()
    assert stored == 3


def test_it_is_removed_renamed_and_reopened_as_one(review: Review, tmp_path: Path) -> None:
    review.rename_result(1, "peeling")
    review.put_away(1)
    assert review.results() == []
    review.undo()
    review.close()
    with Review.open(tmp_path / "r.ironstone") as again:
        assert [r.name for r in again.results()] == ["peeling"]
        assert again.result("peeling").at(3).read("temperature", at="nodes", step=3).values.max() == pytest.approx(2.5 * 21.0)
        assert again.discard("peeling") >= 0
        with again.database() as database:
            assert database.execute("select count(*) from result").fetchone() == (0,)


def test_combinations_of_steps_on_other_meshes_are_refused(review: Review) -> None:
    from ironstone.core.field.combined import combination_of

    with pytest.raises(IronstoneError, match="another one at some steps"):
        review.set_combinations(1, [combination_of("both=0:1,1:1")])


def test_files_of_other_names_with_another_mesh_are_refused_and_nothing_is_left(tmp_path: Path) -> None:
    one = series(tmp_path, "one", [(2, 1.0)])
    two = series(tmp_path, "two", [(3, 1.0)])
    with Review.create(tmp_path / "r.ironstone") as review:
        with pytest.raises(IronstoneError, match="holds another mesh"):
            intake(review, [*one, *two])
        with review.database() as database:
            assert database.execute("select count(*) from result").fetchone() == (0,)


@pytest.mark.parametrize(("size", "at"), [((40.0, 20.0, 20.0), 0.0), ((0.1, 0.05, 0.05), 0.0), (SIZE, 9.0)])
def test_a_body_of_quite_another_size_or_place_is_no_step_of_the_series(
    tmp_path: Path, size: tuple[float, float, float], at: float
) -> None:
    first = series(tmp_path, "body", [(2, 1.0)])
    mesh = box(BY_NAME["hex8"], counts=(3, 1, 1), size=size)
    cells = [(12, mesh.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(3)]
    other = write_vtu(tmp_path / "body_07.vtu", mesh.points + [at, 0, 0], cells, {"temperature": mesh.points[:, 0]})
    with Review.create(tmp_path / "r.ironstone") as review:
        with pytest.raises(IronstoneError, match=r"body_07\.vtu holds another mesh than body_00\.vtu"):
            intake(review, [*first, other])
        assert review.results() == []


def test_two_results_of_changing_meshes_are_beside_each_other(review: Review, tmp_path: Path) -> None:
    intake(review, series(tmp_path, "other", [(4, 2.0), (6, 1.0)]), name="other")
    words = {"result": "peel", "less": "other", "field": "temperature"}
    for step, factor in ((0, 1.0 - 2.0), (1, 3.0 - 1.0)):
        found = ask(review, question_of("difference", {**words, "step": step}))
        ends = {f.label: f.value for f in found.figures}
        assert ends["highest" if factor > 0 else "lowest"] == pytest.approx(factor * 21.0)


def test_sections_limits_and_files_out_are_of_each_mesh(review: Review, tmp_path: Path) -> None:
    words = {"field": "temperature", "through": "1.1,0,0:1,0,0", "every": True}
    found = {c.name: c.values for c in ask(review, question_of("cut", words)).columns}
    assert found["area"] == pytest.approx([1.0] * 4)
    assert found["max"] == pytest.approx([f * 12.0 for _, f in STEPS])
    review.set_constants(1, "part 1", {"yield": 10.0})
    used = ask(review, question_of("yielded", {}))
    assert used.columns[1].values == pytest.approx([f * c / 10.0 for c, f in STEPS])
    source = review.result("peel")
    export(source, tmp_path / "out.vtkhdf", range(4))
    intake(review, [tmp_path / "out.vtkhdf"], name="again")
    again = review.result("again")
    assert again.meshes == (0, 1, 0, 3)
    assert again.at(1).read("temperature", at="nodes", step=1).values.max() == pytest.approx(63.0)
