from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.errors import NotFound
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.mesh import Mesh

SHAPES = [c for c in CELLS.values() if c.dimension]
REFERENCE = {"line": 1.0, "tri": 0.5, "quad": 1.0, "tet": 1 / 6, "pyramid": 1 / 3, "wedge": 0.5, "hex": 1.0}


def one(cell: Cell, points: np.ndarray | None = None) -> Mesh:
    """A mesh of one element that stands as its natural coordinates do."""
    points = cell.nodes if points is None else points
    ids = np.arange(cell.size)
    return Mesh(
        points, np.array([cell.vtk], np.uint8), np.array([0, cell.size]), ids, ids + 1, np.array([5]), np.zeros(1, np.int32), ("p",)
    )


def family(cell: Cell) -> str:
    return cell.name.rstrip("0123456789")


@pytest.mark.parametrize("cell", SHAPES, ids=lambda c: c.name)
def test_volume_of_the_reference_element(cell: Cell) -> None:
    assert one(cell).volumes == pytest.approx([REFERENCE[family(cell)]])


@pytest.mark.parametrize("cell", SHAPES, ids=lambda c: c.name)
def test_volume_follows_an_affine_map(cell: Cell) -> None:
    stretch = np.diag([2.0, 3.0, 0.5])[:, :]
    turned = np.array([[0.6, -0.8, 0], [0.8, 0.6, 0], [0, 0, 1.0]])
    expected = REFERENCE[family(cell)] * np.prod(np.diag(stretch)[: cell.dimension])
    assert one(cell, cell.nodes @ stretch @ turned + [7.0, -3.0, 2.0]).volumes == pytest.approx([expected])


def test_area_of_a_curved_edge_is_integrated_not_chorded() -> None:
    """A quad8 whose upper side bulges by h in the middle is larger by the parabola's 2/3 h."""
    cell = CELLS[23]
    points = cell.nodes.copy()
    points[6, 1] += 0.3
    assert one(cell, points).volumes == pytest.approx([1.0 + 2 / 3 * 0.3], rel=1e-3)


def mixed() -> Mesh:
    """A triangle and a quadrilateral side by side."""
    points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0], [2, 0, 0], [2, 1, 0]], dtype=float)
    return Mesh(
        points,
        np.array([5, 9], np.uint8),
        np.array([0, 3, 7]),
        np.array([0, 1, 2, 1, 4, 5, 3]),
        np.arange(10, 16),
        np.array([100, 200]),
        np.array([0, 1], np.int32),
        ("web", "flange"),
        {"root": np.array([0, 2])},
        {"plate": np.array([1])},
    )


def test_corners_know_their_element_and_their_node() -> None:
    mesh = mixed()
    assert mesh.corner_element.tolist() == [0, 0, 0, 1, 1, 1, 1]
    assert mesh.corners_at(1).tolist() == [1, 3], "node 1 is a corner of both"
    assert mesh.corners_of(np.array([1])).tolist() == [3, 4, 5, 6]
    assert mesh.corners_of(np.array([1, 0])).tolist() == [3, 4, 5, 6, 0, 1, 2]
    assert mesh.corners_of(np.array([], dtype=int)).tolist() == []


def test_blocks_hold_every_element_once() -> None:
    mesh = mixed()
    assert sorted(e for b in mesh.blocks for e in b.elements) == [0, 1]
    assert {b.cell.name for b in mesh.blocks} == {"tri3", "quad4"}
    for block in mesh.blocks:
        assert np.array_equal(mesh.connectivity[block.corners], block.nodes)


def test_numbers_are_the_files_own() -> None:
    mesh = mixed()
    assert mesh.node_position(12) == 2
    assert mesh.element_position(200) == 1
    with pytest.raises(NotFound, match=r"no node 1 in this result\. Node numbers here run from 10 to 15"):
        mesh.node_position(1)
    with pytest.raises(NotFound, match="no element 7"):
        mesh.element_position(7)


def test_material_is_the_part_where_none_is_named() -> None:
    assert mixed().material_or_part.tolist() == [0, 1]
    assert mixed().size == pytest.approx(np.sqrt(5.0))
