"""What is drawn is the element's own shape, each face once, and nothing of what lies inside."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.geometry.locate import find
from ironstone.core.geometry.surface import APART, Look, Surface, face_point, skin, usual_detail
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.interpolation import interpolation, positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.distribution import distribution
from tests.core.test_mesh import REFERENCE, family, one
from tests.writing import bar_of_hexahedra

SOLIDS = [c for c in CELLS.values() if c.dimension == 3]


def bar(count: int, parts: tuple[int, ...]) -> Mesh:
    points, cells, _ = bar_of_hexahedra(count, shared=True)
    connectivity = np.concatenate([nodes for _, nodes in cells])
    return Mesh(
        points,
        np.full(count, 12, np.uint8),
        np.arange(0, 8 * count + 1, 8),
        connectivity,
        np.arange(len(points)),
        np.arange(count),
        np.array(parts, np.int32),
        tuple(f"part {p}" for p in sorted(set(parts))),
    )


def enclosed(surface: Surface) -> float:
    a, b, c = (surface.points[surface.triangles[:, i]] for i in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6.0)


@pytest.mark.parametrize("cell", SOLIDS, ids=lambda c: c.name)
def test_the_skin_of_one_element_encloses_its_volume(cell: Cell) -> None:
    surface = skin(one(cell), Look(detail=3))
    assert enclosed(surface) == pytest.approx(REFERENCE[family(cell)])
    assert len(surface.face_element) == len(cell.faces)


@pytest.mark.parametrize("cell", SOLIDS, ids=lambda c: c.name)
def test_face_coordinates_lead_back_to_the_drawn_vertex(cell: Cell) -> None:
    mesh = one(cell)
    surface = skin(mesh, Look(detail=3))
    st = surface.st
    for vertex in range(len(surface.face)):
        place = face_point(surface, int(surface.face[vertex]), float(st[vertex, 0]), float(st[vertex, 1]))
        assert positions(mesh, place)[0] == pytest.approx(surface.points[vertex], abs=1e-6)


def test_faces_between_elements_are_not_drawn() -> None:
    assert len(skin(bar(3, (0, 0, 0)), Look(detail=1)).face_element) == 14


def test_hiding_a_part_opens_the_faces_behind_it() -> None:
    mesh = bar(3, (0, 1, 0))
    surface = skin(mesh, Look(detail=1, hidden=frozenset({1})))
    assert len(surface.face_element) == 12
    assert set(surface.face_element.tolist()) == {0, 2}
    assert len(skin(mesh, Look(hidden=frozenset({0, 1}))).face_element) == 0


def test_behind_a_translucent_part_the_others_are_closed() -> None:
    surface = skin(bar(3, (0, 1, 0)), Look(detail=1, translucent=frozenset({1})))
    assert len(surface.face_element) == 18, "three closed boxes"
    assert len(surface.triangles) - surface.opaque == 12
    assert set(surface.face_element[surface.face[surface.triangles[surface.opaque :, 0]]].tolist()) == {1}


def test_elements_drawn_apart_are_whole_and_do_not_touch() -> None:
    mesh = bar(3, (0, 0, 0))
    surface = skin(mesh, Look(detail=1, apart=True))
    assert len(surface.face_element) == 18
    assert enclosed(surface) == pytest.approx(3 * (1 - APART) ** 3)
    assert len(skin(mesh, Look(detail=1, every=True)).edges) == 28, "each of the edges of three bricks in a row once"


def frame(kind: int = 3) -> Mesh:
    cell = CELLS[kind]
    points = np.array([[0, 0, 0], [0, 0, 2.0]] + ([[0.0, 0.4, 1]] if cell.size == 3 else []))
    return Mesh(points, np.array([kind], np.uint8), np.array([0, cell.size]), np.arange(cell.size), np.arange(cell.size),
                np.array([0]), np.array([0], np.int32), ("bar",))  # fmt: skip


def test_a_bar_is_drawn_with_its_own_section_where_that_is_known() -> None:
    area = np.array([0.5])
    surface = skin(frame(), Look(solid=True), area=area)
    away = np.hypot(surface.points[:, 0], surface.points[:, 1])
    assert away == pytest.approx(np.sqrt(0.5 / np.pi))
    assert enclosed(surface) == pytest.approx(1.0, rel=0.07), "a decagon holds 6.5 % less than its circle"
    nominal = skin(frame(), Look(), area=area)
    assert np.hypot(nominal.points[:, 0], nominal.points[:, 1]) == pytest.approx(0.004 * 2)
    place = face_point(surface, 0, 0.25, 0.0)
    assert positions(frame(), place)[0] == pytest.approx([0, 0, 0.5])
    assert len(surface.nodes) == 2


def test_a_curved_bar_is_drawn_along_its_curve() -> None:
    surface = skin(frame(21), Look(detail=4))
    assert surface.points[:, 1].max() == pytest.approx(0.4, abs=0.02)


@pytest.mark.parametrize("kind", [c.vtk for c in CELLS.values() if c.dimension == 2])
def test_a_shell_is_drawn_with_its_thickness(kind: int) -> None:
    """One element out of the plane of drawing encloses its area times its thickness."""
    cell = CELLS[kind]
    mesh = one(cell, cell.nodes @ np.array([[1.0, 0, 0], [0, 0, 1], [0, 1, 0]]))
    size = skin(mesh, Look(detail=2)).triangle_areas.sum()
    surface = skin(mesh, Look(detail=2, solid=True), thickness=np.array([0.05]))
    assert enclosed(surface) == pytest.approx(0.05 * size)
    assert np.ptp(surface.points[:, 1]) == pytest.approx(0.05)
    thin = skin(mesh, Look(detail=2, solid=True), thickness=np.array([np.nan]))
    assert len(thin.points) == len(surface.points) / 2, "where the thickness is not known nothing is made up"


def test_every_node_that_is_drawn_has_one_vertex() -> None:
    assert len(skin(bar(3, (0, 0, 0)), Look(detail=1)).nodes) == 16
    assert len(skin(one(CELLS[25]), Look(detail=2)).nodes) == 20, "with an even detail the nodes at mid-sides are there too"


def test_a_quadratic_side_is_drawn_curved() -> None:
    """A hex20 with one edge node moved out: the drawn edge passes through it when the detail is even."""
    cell = CELLS[25]
    points = cell.nodes.copy()
    points[8] += [0.0, -0.2, 0.0]
    surface = skin(one(cell, points), Look(detail=2))
    assert surface.points[:, 1].min() == pytest.approx(-0.2)
    straight = skin(one(cell, points), Look(detail=1))
    assert straight.points[:, 1].min() == pytest.approx(0.0), "with one piece a side only the corners are seen"


def test_element_edges_are_drawn_once_and_the_outline_where_it_folds() -> None:
    surface = skin(bar(2, (0, 0)), Look(detail=1))
    assert len(surface.edges) == 20
    assert len(surface.outline) == 16, "the four edges between the elements lie flat"


def test_flat_elements_are_drawn_with_their_border() -> None:
    surface = skin(one(CELLS[9]), Look(detail=2))
    assert len(surface.face_element) == 1
    assert surface.triangle_areas.sum() == pytest.approx(1.0)
    assert len(surface.outline) == 8


def test_distribution_is_by_area_and_leaves_out_what_is_missing() -> None:
    surface = skin(bar(3, (0, 0, 0)), Look(detail=1))
    values = surface.points[:, 0].copy()
    shares = distribution(surface, values, 0.0, 3.0, 3)
    assert shares.sum() == pytest.approx(1.0)
    assert shares[0] == pytest.approx(shares[2]), "a bar is the same from both ends"
    values[:] = np.nan
    assert distribution(surface, values, 0.0, 3.0, 3).sum() == 0.0
    assert distribution(surface, surface.points[:, 0], 1.0, 1.0).sum() == 0.0, "no span, no classes"


@pytest.mark.parametrize("cell", SOLIDS, ids=lambda c: c.name)
def test_a_point_inside_is_found_where_it_was_put(cell: Cell) -> None:
    rng = np.random.default_rng(3)
    skew = np.array([[1.0, 0.2, 0.1], [0.0, 1.3, -0.2], [0.1, 0.0, 0.9]])
    mesh = one(cell, cell.nodes @ skew)
    xi = (rng.dirichlet(np.ones(cell.corners), 5) @ cell.nodes[: cell.corners]) * 0.9 + 0.1 * cell.centre
    for place in xi:
        where = positions(mesh, AtSamples(np.array([0]), place[None, :]))[0]
        found = find(mesh, where)
        assert positions(mesh, found)[0] == pytest.approx(where, abs=1e-8)


def test_a_point_on_a_border_belongs_to_both_elements() -> None:
    assert find(bar(2, (0, 0)), np.array([1.0, 0.4, 0.6])).element.tolist() == [0, 1]


def test_interpolation_gives_a_node_its_own_value_whatever_its_neighbours_lack() -> None:
    mesh = one(CELLS[12])
    found = interpolation(mesh, AtSamples(np.array([0, 0]), np.array([[0.0, 0, 0], [0.5, 0, 0]])))
    nodal = np.full((8, 1), np.nan)
    nodal[0] = 4.0
    values = found.matrix @ nodal
    assert values[0, 0] == pytest.approx(4.0)
    assert np.isnan(values[1, 0]), "between a value and none there is none"


@pytest.mark.parametrize(
    ("faces", "curved", "pieces"), [(100, True, 4), (10_000, True, 2), (100_000, True, 1), (100, False, 2), (9_000, False, 1)]
)
def test_the_usual_detail_falls_with_the_number_of_faces(faces: int, curved: bool, pieces: int) -> None:
    assert usual_detail(faces, curved) == pieces
