"""Borders of regions against what they are by definition, on every shape of element."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ironstone.core.errors import Impossible
from ironstone.core.geometry.region_borders import edge_of_surface, region_border
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.reading.front import measured
from tests.oracles.boxes import BY_NAME, SHAPES, Shape, box

X = np.array([1.0, 0.0, 0.0])
SPREAD = [s for s in SHAPES if s.dimension > 1]
FLAT = [s for s in SHAPES if s.dimension == 2]


def body(shape: Shape, counts=(6, 4, 2)) -> Mesh:
    return box(shape, counts=counts, size=(3.0, 2.0, 1.0 if shape.dimension == 3 else 0.0))


def middles(mesh: Mesh) -> np.ndarray:
    found = np.zeros((len(mesh.types), 3))
    for block in mesh.blocks:
        found[block.elements] = mesh.points[block.nodes[:, : block.cell.corners]].mean(1)
    return found


@pytest.mark.parametrize("shape", SPREAD, ids=lambda s: s.name)
def test_a_region_that_ends_on_a_plane_has_that_plane_as_its_border(shape: Shape) -> None:
    mesh = body(shape)
    found = region_border(mesh, middles(mesh)[:, 0] < 1.5)
    assert found[..., 0] == pytest.approx(1.5)
    across = measured(found, X)
    assert across.size == pytest.approx(2.0 if shape.dimension == 2 else 2.0 * 1.0), "each side once, the outside left out"
    assert (across.mean, across.angle) == pytest.approx((1.5, 0.0), abs=1e-6)


@pytest.mark.parametrize("shape", SPREAD, ids=lambda s: s.name)
def test_inside_and_outside_have_the_same_border_and_all_or_nothing_has_none(shape: Shape) -> None:
    mesh = body(shape)
    chosen = np.hypot(middles(mesh)[:, 0] - 1.4, middles(mesh)[:, 1] - 1.1) < 0.8
    one, other = (measured(region_border(mesh, c), X) for c in (chosen, ~chosen))
    assert one.size == pytest.approx(other.size) and one.middle == pytest.approx(other.middle)
    assert (
        len(region_border(mesh, np.ones(len(chosen), dtype=bool)))
        == len(region_border(mesh, np.zeros(len(chosen), dtype=bool)))
        == 0
    )


@pytest.mark.parametrize("shape", SPREAD, ids=lambda s: s.name)
def test_elements_that_share_no_nodes_and_other_numbers_change_nothing(shape: Shape) -> None:
    mesh = body(shape)
    chosen = middles(mesh)[:, 1] > 0.9
    apart = replace(
        mesh,
        points=mesh.points[mesh.connectivity],
        connectivity=np.arange(len(mesh.connectivity)),
        node_ids=np.arange(len(mesh.connectivity))[::-1],
    )
    assert measured(region_border(apart, chosen), X).size == pytest.approx(measured(region_border(mesh, chosen), X).size)


@pytest.mark.parametrize("shape", FLAT, ids=lambda s: s.name)
@pytest.mark.parametrize("degrees", [0.0, 30.0, 90.0, 180.0])
def test_the_edge_of_a_surface_that_faces_a_way(shape: Shape, degrees: float) -> None:
    """Of a rectangle 3 by 2: one side facing, or two where the way lies between them."""
    mesh = body(shape)
    way = np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees)), 0.0])
    found = measured(edge_of_surface(mesh, np.ones(len(mesh.types), dtype=bool), way), way)
    assert found.size == pytest.approx({0.0: 2.0, 30.0: 2.0, 90.0: 3.0, 180.0: 2.0}[degrees])


def test_the_edge_of_a_part_of_a_surface_is_free_where_the_rest_is_not_chosen() -> None:
    mesh = body(BY_NAME["quad4"])
    chosen = middles(mesh)[:, 0] < 1.0
    assert measured(edge_of_surface(mesh, chosen, X), X).mean == pytest.approx(1.0)


def test_what_has_no_edge_or_border_is_refused() -> None:
    solid, bars = body(BY_NAME["hex8"]), box(BY_NAME["line2"], counts=(4, 1, 1), size=(3.0, 0.0, 0.0))
    with pytest.raises(Impossible, match="no edge"):
        edge_of_surface(solid, np.ones(len(solid.types), dtype=bool), X)
    with pytest.raises(Impossible, match="no border"):
        region_border(bars, np.ones(len(bars.types), dtype=bool))
