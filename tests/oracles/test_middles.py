"""The middle of an element and the corners that meet at a node, from their definitions, curved and numbered anyhow."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.interpolation import element_centres
from ironstone.core.mesh.mesh import Mesh
from tests.models import SHAPES as EVERY_SHAPE
from tests.models import crooked, mesh_of
from tests.oracles.solids import SHAPES, block, natural_nodes, shape_functions


def bent(points: np.ndarray) -> np.ndarray:
    x, y, z = points.T
    return np.column_stack([x + 0.2 * y * z, y + 0.3 * x * x, z - 0.1 * x * y])


def shuffled(mesh: Mesh, seed: int = 3) -> Mesh:
    """The same mesh with its nodes in another order."""
    order = np.random.default_rng(seed).permutation(len(mesh.points))
    place = np.argsort(order)
    return replace(mesh, points=mesh.points[order], node_ids=mesh.node_ids[order], connectivity=place[mesh.connectivity])


@pytest.mark.parametrize("name", SHAPES)
def test_the_middle_of_an_element_is_where_vtks_shape_functions_put_it(name: str) -> None:
    mesh = shuffled(block(name, (2, 2, 1), (2.0, 3.0, 1.5), bent))
    nodes = natural_nodes(name)
    corners = {"tet": 4, "hex": 8}[name[:3]]
    weights = shape_functions(name, nodes[:corners].mean(0, keepdims=True))[0]
    chosen = np.arange(len(mesh.types))[::-1][:3]
    size = len(nodes)
    expected = np.array([weights @ mesh.points[mesh.connectivity[mesh.offsets[e] : mesh.offsets[e] + size]] for e in chosen])
    assert element_centres(mesh, chosen) == pytest.approx(expected, abs=1e-12)


@pytest.mark.parametrize("cell", EVERY_SHAPE, ids=lambda c: c.name)
def test_the_middle_of_a_straight_element_of_any_shape_is_the_mean_of_its_corners(cell: Cell) -> None:
    mesh = crooked(cell)
    assert element_centres(mesh, np.array([0])) == pytest.approx(mesh.points[: cell.corners].mean(0, keepdims=True), abs=1e-12)


def test_the_middles_of_unlike_elements_come_in_the_order_asked_for() -> None:
    points = np.array([[0, 0, 0], [2, 0, 0], [2, 2, 0], [0, 2, 0], [4, 0, 0], [0, 0, 3]], dtype=float)
    mesh = mesh_of(points, [(9, [0, 1, 2, 3]), (3, [1, 4]), (5, [0, 1, 5])])
    assert element_centres(mesh, np.array([2, 0, 1, 0])) == pytest.approx(
        np.array([[2 / 3, 0, 1], [1, 1, 0], [3, 0, 0], [1, 1, 0]])
    )


@pytest.mark.parametrize("name", SHAPES)
def test_the_corners_at_a_node_are_all_those_that_name_it_in_order(name: str) -> None:
    mesh = shuffled(block(name, (2, 1, 2), (1.0, 1.0, 1.0)))
    for node in range(len(mesh.points)):
        assert mesh.corners_at(node).tolist() == np.flatnonzero(mesh.connectivity == node).tolist()


def test_a_node_no_element_uses_has_no_corners() -> None:
    mesh = mesh_of(np.eye(3).repeat(2, 0), [(3, [4, 1])])
    assert [mesh.corners_at(n).tolist() for n in range(6)] == [[], [1], [], [], [0], []]
