"""Cells as VTK's writers have them: Lagrange cells of every shape, polygons, lines of many points, a missing centre."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from vtkmodules import vtkCommonDataModel as model

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.formats.cells import CENTRE
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource
from tests.oracles.boxes import BY_NAME, box
from tests.writing import write_vtu

LAGRANGE = {
    "line2": (68, "vtkLagrangeCurve"),
    "line3": (68, "vtkLagrangeCurve"),
    "tri3": (69, "vtkLagrangeTriangle"),
    "tri6": (69, "vtkLagrangeTriangle"),
    "quad4": (70, "vtkLagrangeQuadrilateral"),
    "quad9": (70, "vtkLagrangeQuadrilateral"),
    "tet4": (71, "vtkLagrangeTetra"),
    "tet10": (71, "vtkLagrangeTetra"),
    "hex8": (72, "vtkLagrangeHexahedron"),
    "hex27": (72, "vtkLagrangeHexahedron"),
    "wedge6": (73, "vtkLagrangeWedge"),
    "wedge18": (73, "vtkLagrangeWedge"),
}


def cells_of(mesh: Mesh, vtk: int | None = None) -> list[tuple[int, list[int]]]:
    return [
        (int(t) if vtk is None else vtk, mesh.connectivity[a:b].tolist())
        for t, a, b in zip(mesh.types, mesh.offsets, mesh.offsets[1:], strict=False)
    ]


def taken(folder: Path, *written: object, **more: object) -> ReviewSource:
    review = Review.create(folder / "r.ironstone")
    intake(review, [write_vtu(folder / "f.vtu", *written, **more)])  # type: ignore[arg-type]
    return review.result()


@pytest.mark.parametrize("name", LAGRANGE)
def test_a_lagrange_cell_counts_its_nodes_as_the_plain_shape_does(name: str) -> None:
    """VTK's own natural coordinates of both, node by node."""
    cell = LAGRANGE[name][1]
    shape = BY_NAME[name]
    made = getattr(model, cell)()
    made.GetPointIds().SetNumberOfIds(len(shape.nodes))
    made.GetPoints().SetNumberOfPoints(len(shape.nodes))
    if hasattr(made, "SetUniformOrderFromNumPoints"):
        made.SetUniformOrderFromNumPoints(len(shape.nodes))
    made.Initialize()
    natural = made.GetParametricCoords()
    found = np.array([natural[i] for i in range(3 * len(shape.nodes))]).reshape(-1, 3)
    np.testing.assert_allclose(found, CELLS[shape.vtk].nodes, atol=1e-12)


@pytest.mark.parametrize("name", LAGRANGE)
def test_lagrange_cells_are_taken_in_as_the_plain_shape(name: str, tmp_path: Path) -> None:
    mesh = box(BY_NAME[name])
    source = taken(tmp_path, mesh.points, cells_of(mesh, LAGRANGE[name][0]), {"temperature": mesh.points[:, 0] * 7})
    assert {b.cell.name for b in source.mesh.blocks} == {name}
    assert source.mesh.volumes.sum() == pytest.approx(mesh.volumes.sum())
    means = evaluate(Reading("temperature", averaging="element"), source, AtElements(np.arange(len(mesh.types)))).values
    middles = np.array([mesh.points[n[: CELLS[t].corners]].mean(0) for t, n in cells_of(mesh)])
    assert means == pytest.approx(7 * middles[:, 0])


def test_lagrange_cells_of_a_higher_degree_and_bezier_cells_are_refused_by_name(tmp_path: Path) -> None:
    points = np.random.default_rng(1).normal(size=(10, 3))
    with pytest.raises(IronstoneError, match="Lagrange triangles of 10 nodes"):
        taken(tmp_path, points, [(69, list(range(10)))])
    (tmp_path / "b").mkdir()
    with pytest.raises(IronstoneError, match="Bezier"):
        taken(tmp_path / "b", points, [(76, list(range(6)))])
    (tmp_path / "p").mkdir()
    with pytest.raises(IronstoneError, match="polygons of 5 corners"):
        taken(tmp_path / "p", points, [(7, list(range(5)))])


def test_polygons_lines_of_many_points_and_strips_are_the_elements_they_are_made_of(tmp_path: Path) -> None:
    points = np.array([[x, y, 0.0] for y in (0, 1) for x in range(4)])
    cells = [(7, [0, 1, 5, 4]), (4, [0, 1, 2, 3]), (7, [1, 2, 5]), (6, [2, 3, 6, 7]), (4, [4, 5])]
    source = taken(tmp_path, points, cells, cell_data={"load share": np.array([1.0, 2.0, 3.0, 4.0, 5.0])})
    names = [CELLS[int(t)].name for t in source.mesh.types]
    assert names == ["quad4", "line2", "line2", "line2", "tri3", "tri3", "tri3", "line2"]
    assert source.values("load share", 0)[:, 0].tolist() == [1, 2, 2, 2, 3, 4, 4, 5]
    assert source.mesh.volumes == pytest.approx([1, 1, 1, 1, 0.5, 0.5, 0.5, 1])
    triangles = source.mesh.points[source.mesh.connectivity[source.mesh.offsets[4] : source.mesh.offsets[7]].reshape(3, 3)]
    normals = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    assert (normals[1:, 2] > 0).all() or (normals[1:, 2] < 0).all(), "both of a strip look one way"
    assert any("Cells of many lines were taken apart" in w for w in source.warnings)


def test_the_middle_that_a_hexahedron_lacks_is_made_of_its_other_nodes(tmp_path: Path) -> None:
    """Of every polynomial that is of the second degree in no more than two directions it is exact."""
    nodes = CELLS[29].nodes
    x, y, z = nodes.T
    for value in (1 + x + 2 * y * z, x * x * y + z, x * x * y * y, x * y * z, z * z * x):
        assert CENTRE @ value[:26] == pytest.approx(value[26])
    mesh = box(BY_NAME["hex27"])
    without = [(t, n[:26]) for t, n in cells_of(mesh, 72)]
    source = taken(tmp_path, mesh.points, without, {"temperature": (mesh.points**2).sum(1)})
    assert {b.cell.name for b in source.mesh.blocks} == {"hex27"}
    assert source.mesh.volumes == pytest.approx(mesh.volumes)
    middles = source.mesh.connectivity.reshape(-1, 27)[:, 26]
    at = source.mesh.points[middles]
    assert source.values("temperature", 0)[middles, 0] == pytest.approx((at**2).sum(1))
    assert any("given their middle" in w for w in source.warnings)
