"""In which order a file lists the Gauss points: stated, found by the strain of the displacement, or open; and what is read then."""

from __future__ import annotations

from itertools import permutations, product
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.core.field.proved import sample
from ironstone.core.field.proved_points import found_order
from ironstone.core.mesh.gauss import gauss_points, known_counts
from ironstone.core.mesh.gauss_order import FIRST, LAST, NODES, columns_of, numbers_of, told
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtCorners, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from tests.oracles.boxes import SHAPES, Shape, box
from tests.writing import write_vtu

LAME, SHEAR = 120e3, 80e3
CASES = [(s, n) for s in SHAPES if s.dimension == 3 for n in known_counts(box(s).blocks[0].cell) if n > 1]
NAMES = [f"{s.name} with {n}" for s, n in CASES]


def bent(points: np.ndarray) -> np.ndarray:
    """A motion whose strain differs from point to point of every element, each component another way."""
    x, y, z = points.T
    return 1e-3 * np.stack(
        [x * y + 0.5 * z * z + x * z, 0.7 * y * z + x * x - 0.3 * x * y, y * y - 0.6 * x * z + 0.4 * z * y], axis=1
    )


def strain_there(points: np.ndarray, step: float = 1e-5) -> np.ndarray:
    gradient = np.stack([(bent(points + step * e) - bent(points - step * e)) / (2 * step) for e in np.eye(3)], axis=2)
    whole = (gradient + gradient.transpose(0, 2, 1)) / 2
    return np.stack([whole[:, i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))], axis=1)


def at_points(mesh: Mesh, count: int) -> np.ndarray:
    """The strain of the motion that the element itself has, at its Gauss points in our order, (elements, points, 6).

    By central differences of the element's own interpolation of the nodes' motion: no gradient of ours is asked.
    """
    cell = mesh.blocks[0].cell
    xi, step = gauss_points(cell, count), 1e-5
    element = np.repeat(np.arange(len(mesh.types)), count)
    every = np.tile(xi, (len(mesh.types), 1))
    moved = bent(mesh.points)

    def carried(values: np.ndarray, at: np.ndarray) -> np.ndarray:
        return np.einsum("sn,snc->sc", cell.shape(at), values[mesh.blocks[0].nodes][element])

    axes = np.eye(3)
    along = np.stack([(carried(moved, every + step * e) - carried(moved, every - step * e)) / (2 * step) for e in axes], axis=2)
    jacobian = np.stack(
        [(carried(mesh.points, every + step * e) - carried(mesh.points, every - step * e)) / (2 * step) for e in axes], axis=2
    )
    gradient = along @ np.linalg.inv(jacobian)
    whole = (gradient + gradient.transpose(0, 2, 1)) / 2
    table = np.stack([whole[:, i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))], axis=1)
    return table.reshape(len(mesh.types), count, 6)


def stress_of(strain: np.ndarray) -> np.ndarray:
    stress = 2 * SHEAR * strain
    stress[..., :3] += LAME * strain[..., :3].sum(-1, keepdims=True)
    return stress


@pytest.mark.parametrize("kind", ["strain", "stress"])
@pytest.mark.parametrize(("shape", "count"), CASES, ids=NAMES)
def test_the_order_of_the_points_is_found_whatever_it_is(shape: Shape, count: int, kind: str) -> None:
    mesh = box(shape)
    strain = at_points(mesh, count)
    listed = np.random.default_rng(count).permutation(count)
    file = (strain if kind == "strain" else stress_of(strain))[:, listed]
    found = found_order(mesh, sample(mesh, faces=True), bent(mesh.points), kind, file)
    if shape.name == "tet4":
        assert not found, "a linear tetrahedron has one strain: its points prove nothing"
        return
    columns, off = found[shape.name]
    assert np.array_equal(file[:, columns], strain if kind == "strain" else stress_of(strain)), "each point has what is its own"
    assert off < 0.08


def test_a_field_that_is_the_same_at_all_points_proves_nothing() -> None:
    shape = next(s for s in SHAPES if s.name == "hex8")
    mesh = box(shape)
    even = np.tile(np.array([1e-3, -3e-4, -3e-4, 0, 0, 0]), (len(mesh.types), 8, 1))
    moved = mesh.points * np.array([1e-3, -3e-4, -3e-4])
    assert not found_order(mesh, sample(mesh, faces=True), moved, "strain", even)


@pytest.mark.parametrize("count", [8, 27])
def test_named_orders_of_a_cube_are_what_they_say(count: int) -> None:
    cell = box(next(s for s in SHAPES if s.name == ("hex8" if count == 8 else "hex27"))).blocks[0].cell
    side = (np.polynomial.legendre.leggauss(round(count ** (1 / 3)))[0] + 1) / 2
    ours = gauss_points(cell, count)
    last = np.array(list(product(side, side, side)))
    first = last[:, ::-1]
    for way, file in ((FIRST, first), (LAST, last)):
        columns = columns_of(cell, count, way)
        assert columns is not None
        assert file[columns] == pytest.approx(ours), way
    by_nodes = columns_of(cell, count, NODES)
    assert by_nodes is not None
    assert np.argmin(np.linalg.norm(ours[:, None] - cell.nodes[None, :count], axis=2), axis=1).tolist() == by_nodes.tolist()


@pytest.mark.parametrize("count", [6, 9, 18])
def test_with_the_last_coordinate_fastest_a_wedge_has_its_heights_one_after_the_other(count: int) -> None:
    """Point after point of its triangle, each with all heights from the bottom up."""
    cell = box(next(s for s in SHAPES if s.name == "wedge6")).blocks[0].cell
    ours = gauss_points(cell, count)
    heights = sorted(set(ours[:, 2].round(9)))
    flat = ours[: count // len(heights), :2]
    file = np.array([(*p, h) for p in flat for h in heights])
    columns = columns_of(cell, count, LAST)
    assert columns is not None and file[columns] == pytest.approx(ours, abs=1e-8)


def test_numbers_say_which_point_each_column_is() -> None:
    assert numbers_of("1, 2,4,3") == (1, 2, 4, 3) and numbers_of("1,2,2,3") == () == numbers_of("last")
    for numbers in permutations((1, 2, 3, 4)):
        way = ",".join(map(str, numbers))
        cell = box(next(s for s in SHAPES if s.name == "tet4")).blocks[0].cell
        columns = columns_of(cell, 4, way)
        assert columns is not None and told(columns) == way
        assert np.array([n - 1 for n in numbers])[columns].tolist() == [0, 1, 2, 3]


@pytest.fixture
def listed(tmp_path: Path) -> tuple[Path, Mesh, np.ndarray, np.ndarray]:
    """A file of bricks whose points are listed with the last coordinate fastest, and its strain and stress in our order."""
    mesh = box(next(s for s in SHAPES if s.name == "hex20"))
    strain = at_points(mesh, 8)
    cell = mesh.blocks[0].cell
    columns = columns_of(cell, 8, LAST)
    assert columns is not None
    file = np.empty_like(strain)
    file[:, columns] = strain
    cells = [(25, mesh.connectivity[20 * e : 20 * e + 20].tolist()) for e in range(len(mesh.types))]
    data = {"strain": file.reshape(len(file), -1), "stress": stress_of(file).reshape(len(file), -1)}
    path = write_vtu(tmp_path / "bricks.vtu", mesh.points, cells, {"u": bent(mesh.points)}, data)
    return path, mesh, strain, stress_of(strain)


def test_a_file_is_read_in_the_order_it_proves_and_another_one_can_be_stated(
    listed: tuple[Path, Mesh, np.ndarray, np.ndarray], tmp_path: Path
) -> None:
    path, mesh, strain, stress = listed
    xi = gauss_points(mesh.blocks[0].cell, 8)
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, [path])
        source = review.result()
        assert source.values("stress", 0).reshape(stress.shape) == pytest.approx(stress)
        assert source.rows("strain", 0, np.array([2, 0])).reshape(2, 8, 6) == pytest.approx(strain[[2, 0]])
        entry = next(f for f in contents(source)["fields"] if f["name"] == "stress")
        stands = {e["name"]: e for e in entry["entries"]}["points_order"]
        assert (stands["value"], stands["state"]) == (LAST, "found")
        assert any("no other nearly as well" in n for n in entry["notes"])
        # The corner that lies nearest a point takes after it: not after the one the other order would put there.
        value = evaluate(Reading("stress", "xx"), source, AtCorners()).values.reshape(len(mesh.types), -1)
        near = np.argmin(np.linalg.norm(mesh.blocks[0].cell.nodes[:8, None] - xi[None], axis=2), axis=1)
        apart = np.abs(value[:, :8] - stress[:, near, 0]).mean()
        review.correct_fields(result, ["stress"], {"points_order": FIRST})
        wrong = evaluate(Reading("stress", "xx"), review.result(), AtCorners()).values.reshape(len(mesh.types), -1)
        assert apart < 0.6 * np.abs(wrong[:, :8] - stress[:, near, 0]).mean()
        assert review.result().values("strain", 0).reshape(strain.shape) == pytest.approx(strain), "the other field stays"
        for way in ("1,2", "backwards", "1,2,3,4,5,6,7,7"):
            with pytest.raises(IronstoneError, match="cannot be listed"):
                review.correct_fields(result, ["stress"], {"points_order": way})
        review.correct_fields(result, ["stress"], {"points_order": "1,5,3,7,2,6,4,8"})
        assert review.result().values("stress", 0).reshape(stress.shape) == pytest.approx(stress), "told by numbers it is the same"


def test_without_a_motion_the_order_stays_a_guess_and_is_a_doubt_with_its_acts(
    listed: tuple[Path, Mesh, np.ndarray, np.ndarray], tmp_path: Path
) -> None:
    _, mesh, strain, _ = listed
    cells = [(25, mesh.connectivity[20 * e : 20 * e + 20].tolist()) for e in range(len(mesh.types))]
    path = write_vtu(tmp_path / "still.vtu", mesh.points, cells, None, {"strain": strain.reshape(len(strain), -1)})
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, [path])
        doubts = contents(review.result())["doubts"]
        doubt = next(d for d in doubts if "points listed" in d["said"])
        assert [a["words"]["entries"]["points_order"] for a in doubt["acts"]] == [FIRST, LAST, NODES]
        words = doubt["acts"][1]["words"]
        review.correct_fields(result, words["fields"], words["entries"])
        assert not any("points listed" in d["said"] for d in contents(review.result())["doubts"])


def test_a_hole_in_the_values_is_no_other_number_of_points() -> None:
    mesh = box(next(s for s in SHAPES if s.name == "hex20"))
    strain = at_points(mesh, 8)
    strain[1, 3] = np.nan
    assert not found_order(mesh, sample(mesh, faces=True), bent(mesh.points), "strain", strain)


@pytest.mark.parametrize("component", range(6))
def test_a_component_that_is_missing_is_no_zero(component: int) -> None:
    mesh = box(next(s for s in SHAPES if s.name == "hex20"))
    strain = at_points(mesh, 8)
    strain[..., component] = np.nan
    assert not found_order(mesh, sample(mesh, faces=True), bent(mesh.points), "strain", strain)


def test_positions_and_strain_used_here_are_those_of_the_definition() -> None:
    """The helper above, held against the motion itself where the element carries it whole."""
    mesh = box(next(s for s in SHAPES if s.name == "hex27"))
    places = positions(
        mesh,
        AtSamples(np.repeat(np.arange(len(mesh.types)), 8), np.tile(gauss_points(mesh.blocks[0].cell, 8), (len(mesh.types), 1))),
    )
    assert at_points(mesh, 8).reshape(-1, 6) == pytest.approx(strain_there(places), abs=1e-8)
