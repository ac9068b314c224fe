"""Points are found in every element that holds them, whatever its shape, and in none where there is none."""

from __future__ import annotations

import gc
import weakref

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bench.models import plain_mesh
from ironstone.core.geometry.locate import find, locate
from ironstone.core.kept import kept_with
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtSamples
from tests.models import crooked, grid_of_quads

ALL = [cell for cell in CELLS.values() if cell.dimension >= 1]


def inside(cell: Cell, rng: np.random.Generator, count: int) -> np.ndarray:
    """Natural coordinates well inside an element: mixtures of its corners."""
    weights = rng.dirichlet(np.ones(cell.corners), count)
    xi = weights @ cell.nodes[: cell.corners]
    return 0.98 * xi + 0.02 * cell.centre


@pytest.mark.parametrize("cell", ALL, ids=lambda c: c.name)
@given(seed=st.integers(0, 10_000))
def test_a_point_made_of_natural_coordinates_is_found_at_them(cell: Cell, seed: int) -> None:
    mesh = crooked(cell)
    xi = inside(cell, np.random.default_rng(seed), 5)
    points = positions(mesh, AtSamples(np.zeros(5, dtype=np.int64), xi))
    found = locate(mesh, points)
    assert found.point.tolist() == [0, 1, 2, 3, 4]
    assert positions(mesh, AtSamples(found.element, found.xi)) == pytest.approx(points, abs=1e-6 * mesh.size)


def test_a_point_on_a_border_is_in_every_element_that_meets_there() -> None:
    mesh = plain_mesh(3)
    found = locate(mesh, np.array([[1.0, 1.0, 1.0], [1.0, 1.5, 1.5], [0.5, 0.5, 0.5], [3.0, 3.0, 3.0]]))
    assert np.bincount(found.point).tolist() == [8, 2, 1, 1]


def test_points_outside_are_in_none_and_told_with_the_nearest_node() -> None:
    mesh = plain_mesh(2)
    nowhere = np.array([[2.001, 1.0, 1.0], [-5.0, 0.0, 0.0], [np.nan, 0.0, 0.0], [1e9, 0.0, 0.0]])
    assert len(locate(mesh, nowhere).point) == 0
    with pytest.raises(Exception, match="outside the body"):
        find(mesh, nowhere[0])


def test_a_point_beside_a_surface_is_not_on_it() -> None:
    mesh = grid_of_quads(4, 3)
    assert len(locate(mesh, np.array([[0.4, 0.4, 0.0]])).point) == 1
    assert len(locate(mesh, np.array([[0.4, 0.4, 0.01]])).point) == 0


def test_elements_of_very_different_sizes_are_all_found() -> None:
    """One brick of 1000 beside a thousand of 1: the grid fits the small ones, the large one is looked at for every point."""
    small, large = plain_mesh(10), plain_mesh(1)
    points = np.concatenate([small.points, 1000.0 * large.points + [10.0, 0.0, 0.0]])
    connectivity = np.concatenate([small.connectivity, large.connectivity + len(small.points)])
    count = len(small.types) + 1
    mesh = Mesh(
        points, np.full(count, 12, np.uint8), 8 * np.arange(count + 1), connectivity, np.arange(len(points)), np.arange(count),
        np.zeros(count, np.int32), ("both",),
    )  # fmt: skip
    found = locate(mesh, np.array([[500.0, 500.0, 500.0], [3.5, 3.5, 3.5], [1009.9, 999.9, 0.1]]))
    assert found.element.tolist() == [1000, 333, 1000]


def test_the_same_as_looking_at_every_element_one_by_one() -> None:
    mesh = plain_mesh(4)
    moved = mesh.points + 0.05 * np.sin(3 * mesh.points[:, [1, 2, 0]])
    mesh = Mesh(
        moved, mesh.types, mesh.offsets, mesh.connectivity, mesh.node_ids, mesh.element_ids, mesh.part, mesh.part_names
    )  # fmt: skip
    points = np.random.default_rng(3).uniform(0.2, 3.8, (200, 3))
    found = locate(mesh, points)
    for number in range(0, 200, 20):
        at = find(mesh, points[number])
        assert at.element.tolist() == found.element[found.point == number].tolist()
    assert (np.bincount(found.point, minlength=200) >= 1).all()


def test_what_is_kept_with_something_goes_with_it() -> None:
    class Owner:
        pass

    made = []

    @kept_with(2)
    def doubled(owner: Owner, number: int) -> int:
        made.append(number)
        return 2 * number

    owner = Owner()
    assert [doubled(owner, n) for n in (1, 1, 2, 3, 1)] == [2, 2, 4, 6, 2]
    assert made == [1, 2, 3, 1], "the last two are kept"
    gone = weakref.ref(owner)
    del owner
    gc.collect()
    assert gone() is None
