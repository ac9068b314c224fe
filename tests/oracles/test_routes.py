"""Ways over the outside against what they must be: a brute-force search, circles, the edges of a box, an interface."""

from __future__ import annotations

import heapq

import numpy as np
import pytest

from ironstone.core.errors import Impossible
from ironstone.core.geometry.routes import nearest_on_edge, on_sharp_edges, outside, route, sharp_edge
from ironstone.core.mesh.mesh import Mesh
from tests.models import grid_of_quads, mesh_of
from tests.oracles.boxes import BY_NAME, box
from tests.oracles.test_levels import boxes


def tube(around: int = 24, layers: int = 3) -> Mesh:
    """A thick ring of hexahedra: bore of radius 1, outside of radius 2."""
    angle = 2 * np.pi * np.arange(around) / around
    ring = [np.stack([r * np.cos(angle), r * np.sin(angle)], 1) for r in (1.0, 2.0)]
    points = np.concatenate([np.column_stack([r, np.full(around, z)]) for z in range(layers + 1) for r in ring])
    cells = []
    for k in range(layers):
        for i in range(around):
            j = (i + 1) % around
            low, high = 2 * around * k, 2 * around * (k + 1)
            cells.append(
                (
                    12,
                    [
                        low + i,
                        low + around + i,
                        low + around + j,
                        low + j,
                        high + i,
                        high + around + i,
                        high + around + j,
                        high + j,
                    ],
                )
            )
    return mesh_of(points, cells)


def by_force(mesh: Mesh, start: int, end: int) -> float:
    """Shortest way over faces that belong to one element, by a search written out."""
    faces: dict[frozenset[int], int] = {}
    for b in mesh.blocks:
        for row in b.nodes:
            for f in b.cell.faces:
                key = frozenset(int(row[i]) for i in f)
                faces[key] = faces.get(key, 0) + 1
    near: dict[int, set[int]] = {}
    for b in mesh.blocks:
        for row in b.nodes:
            for f in b.cell.faces:
                nodes = [int(row[i]) for i in f]
                if faces[frozenset(nodes)] == 1:
                    for a, c in zip(nodes, nodes[1:] + nodes[:1], strict=True):
                        near.setdefault(a, set()).add(c)
                        near.setdefault(c, set()).add(a)
    best, queue = {start: 0.0}, [(0.0, start)]
    while queue:
        far, node = heapq.heappop(queue)
        if node == end:
            return far
        for other in near[node]:
            step = far + float(np.linalg.norm(mesh.points[other] - mesh.points[node]))
            if step < best.get(other, np.inf):
                best[other] = step
                heapq.heappush(queue, (step, other))
    return np.inf


def length(mesh: Mesh, nodes: np.ndarray) -> float:
    return float(np.linalg.norm(np.diff(mesh.points[nodes], axis=0), axis=1).sum())


def test_the_shortest_way_is_the_one_found_by_a_search_written_out() -> None:
    mesh = tube()
    pick = np.random.default_rng(2).choice(outside(mesh).nodes, (6, 2), replace=False)
    for a, b in pick.tolist():
        found = route(mesh, a, b)
        assert (found[0], found[-1]) == (a, b)
        assert length(mesh, found) == pytest.approx(by_force(mesh, a, b))


def test_no_way_leads_from_inside_the_body_or_to_another_body() -> None:
    mesh = boxes(3)
    inner = int(np.flatnonzero((np.abs(mesh.points) < 0.9).all(1))[0])
    with pytest.raises(Impossible, match="not on the outside"):
        route(mesh, inner, 0)
    two = mesh_of([[x, y, 0] for x in (0, 1, 5, 6) for y in (0, 1)], [(9, [0, 2, 3, 1]), (9, [4, 6, 7, 5])])
    with pytest.raises(Impossible, match="No way over the surface"):
        route(two, 0, 7)


def test_the_rim_of_a_bore_closes_and_is_as_long_as_its_polygon() -> None:
    mesh = tube()
    found = sharp_edge(mesh, 0)
    assert found.closed and len(found.nodes) == 25 and found.nodes[0] == found.nodes[-1]
    np.testing.assert_allclose(np.linalg.norm(mesh.points[found.nodes][:, :2], axis=1), 1.0)
    assert length(mesh, found.nodes) == pytest.approx(24 * 2 * np.sin(np.pi / 24))
    np.testing.assert_array_equal(mesh.points[found.nodes][:, 2], 0.0)


def test_an_edge_of_a_box_ends_at_its_corners_and_at_a_node_that_is_picked() -> None:
    mesh = boxes(4)
    on = np.flatnonzero((mesh.points[:, 1] == -1) & (mesh.points[:, 2] == 1))
    on = on[np.argsort(mesh.points[on, 0])]
    found = sharp_edge(mesh, int(on[1]))
    assert not found.closed and "branches" in found.ended
    assert sorted(found.nodes.tolist()) == sorted(on.tolist())
    picked = sharp_edge(mesh, int(on[3]), end=int(on[1]))
    assert picked.nodes.tolist() == on[[3, 2, 1]].tolist()
    with pytest.raises(Impossible, match="not on this edge"):
        sharp_edge(mesh, int(on[1]), end=0 if 0 not in on else 1)
    middle = int(np.flatnonzero((mesh.points == [0.0, 0.0, 1.0]).all(1))[0])
    with pytest.raises(Impossible, match="No edge sharper"):
        sharp_edge(mesh, middle)


def test_the_border_of_a_sheet_is_an_edge_and_turns_at_its_corners() -> None:
    mesh = grid_of_quads(4, 2)
    bottom = np.flatnonzero(mesh.points[:, 1] == 0.0)
    found = sharp_edge(mesh, int(bottom[2]))
    assert sorted(found.nodes.tolist()) == bottom.tolist() and "turns" in found.ended


def test_an_interface_belongs_to_the_outside_of_the_part_alone() -> None:
    mesh = boxes(2)
    part = (mesh.middles(np.arange(8))[:, 0] > 0).astype(np.int32)
    halves = Mesh(
        mesh.points, mesh.types, mesh.offsets, mesh.connectivity, mesh.node_ids, mesh.element_ids, part, ("left", "right")
    )
    heart = int(np.flatnonzero((mesh.points == 0.0).all(1))[0])
    assert heart not in outside(halves).nodes
    assert heart in outside(halves, frozenset({0})).nodes
    rim = np.flatnonzero((mesh.points[:, 0] == 0) & (mesh.points[:, 1] == -1))
    assert length(halves, route(halves, heart, int(rim[1]), frozenset({1}))) == pytest.approx(1.0)


def test_a_way_over_quadratic_elements_goes_through_their_middle_nodes() -> None:
    points = [[0, 0, 0], [2, 0, 0], [2, 2, 0], [0, 2, 0], [1, -0.5, 0], [2, 1, 0], [1, 2, 0], [0, 1, 0]]
    mesh = mesh_of(points, [(23, list(range(8)))])
    assert route(mesh, 0, 1).tolist() == [0, 4, 1]
    assert outside(mesh).length.max() == pytest.approx(2 * np.hypot(1, 0.5))


def test_from_a_corner_where_edges_meet_the_one_that_leads_to_the_end_is_taken() -> None:
    mesh = boxes(4)
    corner = int(np.flatnonzero((mesh.points == [-1.0, -1.0, -1.0]).all(1))[0])
    for axis in range(3):
        on = np.flatnonzero((np.delete(mesh.points, axis, 1) == -1.0).all(1))
        on = on[np.argsort(mesh.points[on, axis])]
        for end in on[1:]:
            found = sharp_edge(mesh, corner, end=int(end)).nodes
            np.testing.assert_array_equal(found, on[: list(on).index(end) + 1])


@pytest.mark.parametrize("name", ["hex8", "hex20", "hex27", "tet4", "tet10", "wedge6", "wedge15", "pyramid5", "pyramid13"])
def test_the_nearest_node_of_an_edge_is_the_nearest_of_all_that_lie_on_the_edges_of_a_box(name: str) -> None:
    """Of a box the nodes on its edges are those with two coordinates at an end: all of them, middles too, and no other."""
    mesh = box(BY_NAME[name], counts=(3, 2, 2), size=(3.0, 2.0, 1.0))
    at_end = np.isclose(mesh.points, mesh.points.min(0)) | np.isclose(mesh.points, mesh.points.max(0))
    on = np.flatnonzero(at_end.sum(1) >= 2)
    np.testing.assert_array_equal(on_sharp_edges(mesh), on)
    for point in np.random.default_rng(1).uniform(-1, 4, size=(20, 3)):
        node, away = nearest_on_edge(mesh, point)
        distances = np.linalg.norm(mesh.points[on] - point, axis=1)
        assert away == pytest.approx(distances.min())
        assert distances[list(on).index(node)] == pytest.approx(distances.min())


def test_a_body_without_a_sharp_edge_says_so() -> None:
    ring = tube()
    with pytest.raises(Impossible, match="sharper than 170"):
        nearest_on_edge(ring, np.zeros(3), sharper=170.0)


def test_round_a_rim_the_shorter_way_to_the_end_is_taken() -> None:
    mesh = tube()
    rim = np.flatnonzero((np.abs(np.linalg.norm(mesh.points[:, :2], axis=1) - 1.0) < 1e-9) & (mesh.points[:, 2] == 0.0))
    angle = np.degrees(np.arctan2(*mesh.points[rim][:, 1::-1].T)) % 360
    start = int(rim[np.argmin(angle)])
    for k, end in enumerate(rim[np.argsort(angle)]):
        if k in (0, 12):
            continue
        nodes = sharp_edge(mesh, start, end=int(end)).nodes
        assert nodes[0] == start and nodes[-1] == end
        assert len(nodes) - 1 == min(k, 24 - k)


@pytest.mark.parametrize("name", ["quad4", "quad8", "quad9", "tri3", "tri6"])
def test_the_sharp_edges_of_a_sheet_are_its_border(name: str) -> None:
    mesh = box(BY_NAME[name], counts=(3, 2, 1), size=(3.0, 2.0, 1.0))
    in_plane = mesh.points[:, np.ptp(mesh.points, axis=0) > 0.0]
    on = np.flatnonzero((np.isclose(in_plane, in_plane.min(0)) | np.isclose(in_plane, in_plane.max(0))).any(1))
    np.testing.assert_array_equal(on_sharp_edges(mesh), on)
