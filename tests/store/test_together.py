"""Files of one run that are not one series: what they are to each other, found from what they hold and stated otherwise."""

from __future__ import annotations

from pathlib import Path

import meshio
import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.places import AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.engine.together import take_in
from ironstone.store import Review
from ironstone.store.describe import contents
from ironstone.store.together import in_roles
from tests.store.test_points_alone import write_points
from tests.writing import bar_of_hexahedra, write_vtu

POINTS, CELLS, _ = bar_of_hexahedra(3, shared=True)
QUAD = 9


def roles(found: list) -> dict[str, str]:
    return {group.name: group.role for group in found}


def body(folder: Path, steps: int = 1) -> list[Path]:
    return [
        write_vtu(folder / f"body_{k}.vtu", POINTS, CELLS, {"displacement": np.full((len(POINTS), 3), 0.1 * k)}, {}, float(k))
        for k in range(steps)
    ]


def surface(folder: Path, steps: int = 1) -> list[Path]:
    """A square in the middle of the bar, larger at each step."""
    square = np.array([[1.5, 0, 0], [1.5, 1, 0], [1.5, 1, 1], [1.5, 0, 1]])
    return [
        write_vtu(
            folder / f"crack_{k}.vtu",
            square * [1, 0.2 + 0.2 * k, 1],
            [(QUAD, [0, 1, 2, 3])],
            {"opening": np.full(4, k)},
            {},
            float(k),
        )
        for k in range(steps)
    ]


def test_what_files_are_is_found_from_what_they_hold(tmp_path: Path) -> None:
    files = [
        *body(tmp_path, 3),
        *surface(tmp_path, 3),
        write_vtu(tmp_path / "solution.vtu", POINTS, CELLS, {}, {"density": np.arange(3.0)}),
        write_points(tmp_path / "loads.vtu", POINTS[:2], {"force": np.ones((2, 3))}),
    ]
    found = in_roles(files, tmp_path)
    assert roles(found) == {"body": "body", "crack": "along", "solution": "added", "loads": "places"}
    assert found[0].name == "body", "the body comes first"
    assert [f.name for f in found[0].files] == ["body_0.vtu", "body_1.vtu", "body_2.vtu"]


def test_another_body_is_a_result_of_its_own_and_a_small_one_within_goes_along(tmp_path: Path) -> None:
    """A refined body is as large as the one it refines: it is not drawn over it."""
    points, cells, _ = bar_of_hexahedra(2, shared=True)
    fine = write_vtu(tmp_path / "fine.vtu", points * [1.5, 1, 1], cells)
    inside = write_vtu(tmp_path / "pin.vtu", points * 0.3 + 0.2, cells)
    found = in_roles([*body(tmp_path), fine, inside], tmp_path)
    assert roles(found) == {"body_0": "body", "fine": "own", "pin": "along"}


def test_one_series_is_one_group_and_load_cases_stay_steps(tmp_path: Path) -> None:
    assert roles(in_roles(body(tmp_path, 3), tmp_path)) == {"body": "body"}
    cases = [write_vtu(tmp_path / f"{n}.vtu", POINTS, CELLS, {"displacement": np.ones((len(POINTS), 3))}) for n in ("dead", "snow")]
    assert sorted(roles(in_roles(cases, tmp_path)).values()) == ["body", "steps"]
    with Review.create(tmp_path / "r.ironstone") as review:
        (made,) = take_in(review, cases)
        assert len(review.result(made).steps) == 2


@pytest.mark.parametrize("steps", [1, 3])
def test_arrays_of_another_file_on_the_mesh_are_the_bodys(tmp_path: Path, steps: int) -> None:
    more = [
        write_vtu(
            tmp_path / f"stress_{k}.vtu", POINTS, CELLS, {}, {"density": np.arange(3.0) + 10 * k, "held": np.array([1, 0, 0])}
        )
        for k in range(steps)
    ]
    with Review.create(tmp_path / "r.ironstone") as review:
        (made,) = take_in(review, [*body(tmp_path, 3), *more], roles={"body": "body"})
        source = review.result(made)
        assert len(source.steps) == 3
        for step in range(3):
            read = evaluate(Reading("density", "value", step=step), source, AtElements(np.arange(3))).values
            assert read == pytest.approx(np.arange(3.0) + 10 * (step if steps == 3 else 0))
            moved = source.values("displacement", step)
            assert moved == pytest.approx(np.full((len(POINTS), 3), 0.1 * step))
        assert "held" in source.mesh.element_sets
        said = contents(source)["warnings"]
        assert any("on the same mesh" in w and "density" in w for w in said)
        assert any(f["name"] == more[0].name for f in contents(source)["files"]), "what was read is named"


def test_a_surface_stands_along_with_the_body_as_a_result_of_its_own(tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        first, second = take_in(review, [*surface(tmp_path, 3), *body(tmp_path, 3)], "bar")
        assert review.result(first).name == "bar" and review.result(second).name == "bar, crack"
        assert review.undo() == "Result 'bar' taken in with what goes with it"
        assert review.results() == [] and not review.items("alongside"), "one act, undone as one"
        review.redo()
        (kept,) = review.items("alongside")
        assert (kept.payload["result"], kept.payload["other"]) == (first, second)


def test_a_role_can_be_stated(tmp_path: Path) -> None:
    files = [*body(tmp_path), *surface(tmp_path, 2)]
    with Review.create(tmp_path / "r.ironstone") as review:
        assert len(take_in(review, files, roles={"crack": "own"})) == 2
        assert not review.items("alongside")
    assert roles(in_roles(files, tmp_path, {"crack": "body"})) == {"crack": "body", "body_0": "own"}
    with pytest.raises(IronstoneError, match="cannot both be the body"):
        in_roles(files, tmp_path, {"crack": "body", "body_0": "body"})
    with pytest.raises(IronstoneError, match="'crack=wall' states no role"):
        in_roles(files, tmp_path, {"crack": "wall"})


def test_what_does_not_fit_leaves_the_review_as_it_was(tmp_path: Path) -> None:
    two = [write_vtu(tmp_path / f"more_{k}.vtu", POINTS, CELLS, {}, {"density": np.arange(3.0)}) for k in range(2)]
    with Review.create(tmp_path / "r.ironstone") as review:
        with pytest.raises(IronstoneError, match="more has 2 steps"):
            take_in(review, [*body(tmp_path, 3), *surface(tmp_path, 3), *two])
        assert review.results() == []
        broken = tmp_path / "body_0.vtu"
        broken.write_bytes(broken.read_bytes()[:300])
        with pytest.raises(IronstoneError, match="body_0"):
            take_in(review, [broken, *surface(tmp_path, 2)])
        assert review.results() == []


def test_a_mesh_and_its_solution_that_a_library_wrote(tmp_path: Path) -> None:
    """As meshio writes them: one file has the parts, the other the displacement; neither names nodes."""
    cells = [("hexahedron", np.array([nodes for _, nodes in CELLS]))]
    meshio.Mesh(POINTS, cells, cell_data={"part": [np.array([1, 1, 2])]}).write(tmp_path / "model.vtu")
    meshio.Mesh(POINTS, cells, point_data={"displacement": POINTS * 0.1}).write(tmp_path / "outcome.vtu")
    with Review.create(tmp_path / "r.ironstone") as review:
        (made,) = take_in(review, [tmp_path / "model.vtu", tmp_path / "outcome.vtu"])
        source = review.result(made)
        assert len(source.steps) == 1 and len(source.mesh.part_names) == 2
        assert source.values("displacement", 0) == pytest.approx(POINTS * 0.1)
