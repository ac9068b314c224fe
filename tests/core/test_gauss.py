"""Gauss points lie where they should, and what is extrapolated from them is exact for what their grid can hold."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.errors import Impossible
from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.gauss import extrapolation, gauss_points, known_counts
from ironstone.core.mesh.places import AtCorners, AtElements, AtGauss
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from tests.models import SHAPES, crooked, field, memory, mesh_of

RULES = [(c, n) for c in SHAPES for n in known_counts(c)]
LINEAR_FROM = {"line": 2, "tri": 3, "quad": 4, "tet": 4, "wedge": 6, "hex": 8}


@pytest.mark.parametrize(("cell", "count"), RULES, ids=lambda v: getattr(v, "name", v))
def test_gauss_points_lie_inside_and_a_constant_stays_one(cell: Cell, count: int) -> None:
    points = gauss_points(cell, count)
    assert points.shape == (count, 3)
    assert (points >= 0).all() and (points <= 1).all()
    assert extrapolation(cell, count) @ np.ones(count) == pytest.approx(np.ones(cell.size))


@pytest.mark.parametrize(
    ("cell", "count"), [(c, n) for c, n in RULES if n >= LINEAR_FROM.get(c.family, 99)], ids=lambda v: getattr(v, "name", v)
)
def test_a_linear_field_is_extrapolated_exactly(cell: Cell, count: int) -> None:
    slope = np.array([3.0, -2.0, 5.0])
    assert extrapolation(cell, count) @ (gauss_points(cell, count) @ slope + 1) == pytest.approx(cell.nodes @ slope + 1)


@pytest.mark.parametrize(("name", "count"), [("hex20", 27), ("hex27", 27), ("quad8", 9), ("tri6", 6), ("line3", 3)])
def test_a_quadratic_field_is_extrapolated_exactly_by_the_larger_grid(name: str, count: int) -> None:
    cell = next(c for c in SHAPES if c.name == name)

    def quadratic(x: np.ndarray) -> np.ndarray:
        return 1 + x[:, 0] ** 2 - (x[:, 1] * x[:, 0] if cell.dimension > 1 else 0)

    assert extrapolation(cell, count) @ quadratic(gauss_points(cell, count)) == pytest.approx(quadratic(cell.nodes))


@pytest.mark.parametrize(("cell", "count"), [(c, n) for c, n in RULES if c.name in ("hex8", "quad4", "line2", "tri6", "tet10")])
def test_the_points_integrate_as_their_rule_says(cell: Cell, count: int) -> None:
    """A rule of n points a direction integrates degree 2n - 1; the mean of a linear field is its middle's (common practice)."""
    slope = np.array([1.0, 2.0, 4.0])
    at = gauss_points(cell, count) @ slope
    if cell.family in ("tri", "tet", "line", "quad", "hex") and count in (1, 2, 3, 4, 8):
        assert at.mean() == pytest.approx((cell.centre @ slope)[0])


def gauss_result(cell_vtk: int, points: np.ndarray, values: np.ndarray, count: int):  # type: ignore[no-untyped-def]
    mesh = mesh_of(points, [(cell_vtk, list(range(len(points))))])
    described = field("stress", "stress", "gauss", points=count)
    return memory(mesh, (described, values.reshape(1, -1)))


def test_a_field_at_gauss_points_is_told_there_as_it_is_and_at_corners_extrapolated_with_a_word() -> None:
    cell = next(c for c in SHAPES if c.name == "hex8")
    at = gauss_points(cell, 8)
    stress = np.zeros((8, 6))
    stress[:, 0] = 100.0 + 40.0 * at[:, 2]
    source = gauss_result(12, cell.nodes, stress, 8)
    inside = evaluate(Reading("stress", "xx"), source, AtGauss(np.array([0])))
    assert inside.values == pytest.approx(stress[:, 0])
    assert not any("Extrapolated" in c for c in inside.caveats)
    assert "each Gauss point as computed" in inside.resolved.sentence()
    corners = evaluate(Reading("stress", "xx"), source, AtCorners())
    assert corners.values == pytest.approx(100.0 + 40.0 * cell.nodes[:, 2])
    assert any("Extrapolated" in c for c in corners.caveats)
    mean = evaluate(Reading("stress", "xx"), source, AtElements(np.array([0])))
    assert mean.values == pytest.approx([120.0])


def test_an_extrapolated_value_below_zero_is_not_clipped() -> None:
    cell = next(c for c in SHAPES if c.name == "hex8")
    source = gauss_result(12, cell.nodes, np.repeat((gauss_points(cell, 8)[:, :1] > 0.5) * 1.0, 6, axis=1), 8)
    answer = evaluate(Reading("stress", "xx"), source, AtCorners()).values
    assert answer.min() == pytest.approx(0.5 - np.sqrt(3) / 2), "the linear field through 0 and 1 at 1/2 -+ 1/(2 sqrt 3)"


def test_a_mesh_of_two_shapes_has_fewer_points_in_one_of_them() -> None:
    hexahedron = next(c for c in SHAPES if c.name == "hex8")
    wedge = next(c for c in SHAPES if c.name == "wedge6")
    points = np.concatenate([hexahedron.nodes, wedge.nodes + [3, 0, 0]])
    mesh = mesh_of(points, [(12, list(range(8))), (13, list(range(8, 14)))])
    values = np.full((2, 8, 1), np.nan)
    values[0] = 5.0
    values[1, :6] = 7.0
    described = field("density", "", "gauss", points=8)
    source = memory(mesh, (described, values.reshape(2, 8)))
    answer = evaluate(Reading("density"), source, AtCorners())
    assert answer.values == pytest.approx([5.0] * 8 + [7.0] * 6)
    assert evaluate(Reading("density"), source, AtGauss(np.array([0, 1]))).offsets.tolist() == [0, 8, 14]


def test_gauss_points_are_asked_of_fields_that_have_them() -> None:
    mesh = crooked(SHAPES[0])
    source = memory(mesh, (field("stress", "stress", "corner"), np.zeros((mesh.offsets[-1], 6))))
    with pytest.raises(Impossible, match="no Gauss points"):
        evaluate(Reading("stress", "xx"), source, AtGauss(np.array([0])))
