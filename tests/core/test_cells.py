from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.mesh.cells import CELLS, Cell, face_samples

SOLID = [c for c in CELLS.values() if c.dimension]


def inside(cell: Cell, count: int = 20) -> np.ndarray:
    """Random places inside an element: mixtures of its corners."""
    weights = np.random.default_rng(1).dirichlet(np.ones(cell.corners), count)
    return weights @ cell.nodes[: cell.corners]


@pytest.mark.parametrize("cell", SOLID, ids=lambda c: c.name)
def test_shape_functions_are_one_at_their_node_and_sum_to_one(cell: Cell) -> None:
    assert np.allclose(cell.shape(cell.nodes), np.eye(cell.size), atol=1e-10)
    assert np.allclose(cell.shape(inside(cell)).sum(1), 1.0)


@pytest.mark.parametrize("cell", SOLID, ids=lambda c: c.name)
def test_a_linear_field_is_reproduced_with_its_gradient(cell: Cell) -> None:
    slope = np.array([2.0, -3.0, 5.0])
    slope[cell.dimension :] = 0.0
    nodal = cell.nodes @ slope + 1.0
    xi = inside(cell)
    assert np.allclose(cell.shape(xi) @ nodal, xi @ slope + 1.0)
    assert np.allclose(np.einsum("qna,n->qa", cell.gradient(xi), nodal), slope[: cell.dimension], atol=1e-9)


@pytest.mark.parametrize("cell", [c for c in SOLID if c.order == 2], ids=lambda c: c.name)
def test_a_quadratic_field_is_reproduced_by_quadratic_elements(cell: Cell) -> None:
    def quadratic(x: np.ndarray) -> np.ndarray:
        r, s, t = x.T
        return 1 + r * r - 2 * r * s + s * s * (cell.dimension > 1) + t * t

    xi = inside(cell)
    assert np.allclose(cell.shape(xi) @ quadratic(cell.nodes), quadratic(xi))


@pytest.mark.parametrize("cell", SOLID, ids=lambda c: c.name)
def test_faces_close_the_element(cell: Cell) -> None:
    """Every side of a solid's faces is shared by two faces, run through in opposite directions."""
    if cell.dimension != 3:
        return
    directed = []
    for face in cell.faces:
        corners = face[: len(face) // cell.order]
        directed += list(zip(corners, corners[1:] + corners[:1], strict=True))
    assert len(set(directed)) == len(directed)
    assert {(b, a) for a, b in directed} == set(directed)


@pytest.mark.parametrize(("corners", "detail"), [(3, 1), (3, 4), (4, 1), (4, 5)])
def test_a_cut_face_covers_itself_once(corners: int, detail: int) -> None:
    weights, triangles, rim = face_samples(corners, detail)
    flat = (
        np.array([[0, 0], [1, 0], [1, 1], [0, 1]], dtype=float) if corners == 4 else np.array([[0, 0], [1, 0], [0, 1]], dtype=float)
    )
    points = weights @ flat
    a, b, c = (points[triangles[:, i]] for i in range(3))
    area = 0.5 * ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
    assert (area > 0).all()
    assert area.sum() == pytest.approx(1.0 if corners == 4 else 0.5)
    assert len(rim) == corners * detail
