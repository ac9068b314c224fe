"""Files of points alone: taken in as places with values, or laid on the body they were chosen with."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkUnstructuredGrid
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridWriter

from ironstone.core.errors import IronstoneError
from ironstone.core.geometry.surface import skin
from ironstone.core.mesh.places import AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from tests.writing import bar_of_hexahedra, write_vtu


def write_points(path: Path, points: np.ndarray, data: dict[str, np.ndarray]) -> Path:
    """Points without a single cell, as VTK writes them."""
    grid = vtkUnstructuredGrid()
    held = vtkPoints()
    held.SetData(numpy_to_vtk(np.ascontiguousarray(points, dtype=np.float64), deep=True))
    grid.SetPoints(held)
    for name, values in data.items():
        array = numpy_to_vtk(np.ascontiguousarray(values), deep=True)
        array.SetName(name)
        grid.GetPointData().AddArray(array)
    writer = vtkXMLUnstructuredGridWriter()
    writer.SetFileName(str(path))
    writer.SetInputData(grid)
    assert writer.Write() == 1
    return path


SENSORS = np.array([[0.0, 0, 0], [1.5, 0.25, 0], [3.0, 1, 1]])


def test_points_alone_are_places_with_values(tmp_path: Path) -> None:
    file = write_points(tmp_path / "sensors.vtu", SENSORS, {"temperature": np.array([20.0, 35.0, 50.0])})
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [file])
        source = review.result()
        assert contents(source)["cells"] == {"vertex1": 3}
        found = evaluate(Reading("temperature"), source, AtNodes(np.arange(3))).values
        assert found.tolist() == [20.0, 35.0, 50.0]
        drawn = skin(source.mesh)
        assert np.unique(drawn.face_element).tolist() == [0, 1, 2]
        middles = [drawn.points[drawn.vertices.element == e].mean(0) for e in range(3)]
        assert np.array(middles) == pytest.approx(SENSORS), "a small body about each, and nothing else"
        assert np.bincount(drawn.vertices.element[drawn.triangles].max(1)).tolist() == [8, 8, 8]


def test_a_series_of_points_alone_is_one_result(tmp_path: Path) -> None:
    files = [write_points(tmp_path / f"s_{k}.vtu", SENSORS, {"temperature": np.full(3, 10.0 * k)}) for k in range(3)]
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, files)
        source = review.result()
        assert [source.values("temperature", k)[0, 0] for k in range(3)] == [0.0, 10.0, 20.0]


@pytest.mark.parametrize("shared", [True, False])
@pytest.mark.parametrize("name", ["a_held", "z_held"])
def test_chosen_along_with_a_body_they_are_laid_on_its_nodes(tmp_path: Path, name: str, shared: bool) -> None:
    """Whatever the order of the names, and where elements share no nodes too."""
    points, cells, _ = bar_of_hexahedra(shared=shared)
    body = [
        write_vtu(tmp_path / f"bar_{k}.vtu", points, cells, {"displacement": np.full((len(points), 3), 0.1 * k)}, time=float(k))
        for k in range(2)
    ]
    places = np.array([[0.0, 0, 0], [0, 1, 0], [0, 0, 1], [9.0, 9, 9]])
    held = {
        "fixed": np.array([1, 1, 0, 1], dtype=np.uint8),
        "reaction": np.array([[-1.0, 0, 0], [-2, 0, 0], [-3, 0, 0], [7, 7, 7]]),
    }
    file = write_points(tmp_path / f"{name}.vtu", places, held)
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [*body, file])
        source = review.result()
        assert source.name == "bar" and len(source.steps) == 2
        sets = {n: source.mesh.points[v] for n, v in source.mesh.node_sets.items()}
        assert sorted(map(tuple, sets["fixed"].tolist())) == [(0, 0, 0), (0, 1, 0)]
        assert len(sets[name]) == 3
        said = " ".join(source.warnings)
        assert f"1 of the 4 points of {name}.vtu lie at no node" in said and f"they are the set '{name}'" in said
        assert source.fields["reaction"].location == "node" and source.fields["reaction"].kind == "reaction"
        for step in range(2):
            values = source.values("reaction", step)
            there = ~np.isnan(values[:, 0])
            found = sorted(zip(map(tuple, source.mesh.points[there].tolist()), values[there, 0].tolist(), strict=True))
            assert found == [((0.0, 0.0, 0.0), -1.0), ((0.0, 0.0, 1.0), -3.0), ((0.0, 1.0, 0.0), -2.0)]
        assert [source.values("displacement", k)[0, 0] for k in range(2)] == pytest.approx([0.0, 0.1])


def test_a_mesh_that_lost_its_cells_is_not_taken_for_points(tmp_path: Path) -> None:
    points, cells, _ = bar_of_hexahedra()
    file = write_vtu(tmp_path / "cut.vtu", points, cells, mode="ascii")
    text = file.read_text(encoding="latin-1")
    file.write_text(text[: text.index("<Cells>")], encoding="latin-1")
    with Review.create(tmp_path / "r.ironstone") as review, pytest.raises(IronstoneError):
        intake(review, [file])
