"""What of a file is not read is told by name; what can be taken in of an odd one is."""

from __future__ import annotations

from pathlib import Path

import h5py
import numpy as np
import pytest
from scipy.io import netcdf_file

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.formats.registry import RawStep, steps_of
from ironstone.store import Review, intake
from tests.formats.test_cuts import ours
from tests.formats.test_universal import NODES, QUAD
from tests.writing import bar_of_hexahedra, write_vtu

CUBE = np.array([[x, y, z] for z in (0.0, 1.0) for x, y in ((0, 0), (1, 0), (1, 1), (0, 1))], dtype=float)


def blocks(path: Path, *given: tuple[str, np.ndarray, dict[str, np.ndarray]], points: np.ndarray = CUBE, first: int = 1) -> Path:
    """An Exodus II file of named blocks: of each its kind, its nodes from 0 (a row an element), and more of its variables."""
    with netcdf_file(path, "w", version=2) as file:
        file.createDimension("time_step", None)
        file.createDimension("num_nodes", len(points))
        for axis, values in zip("xyz", points.T, strict=True):
            file.createVariable(f"coord{axis}", "d", ("num_nodes",))[:] = values
        for number, (kind, nodes, more) in enumerate(given, start=first):
            dimensions = []
            for i, size in enumerate(nodes.shape):
                file.createDimension(f"d{number}_{i}", size)
                dimensions.append(f"d{number}_{i}")
            connect = file.createVariable(f"connect{number}", "i", tuple(dimensions))
            connect.elem_type = kind
            connect[:] = nodes + 1
            for name, values in more.items():
                file.createDimension(f"of_{name}{number}", len(values))
                file.createVariable(f"{name}{number}", "i", (f"of_{name}{number}",))[:] = values
        file.createDimension("in_set", 2)
        file.createVariable("node_ns1", "i", ("in_set",))[:] = [1, 4]
    return path


def only(path: Path) -> RawStep:
    (step,) = steps_of(path)
    return step


def test_tetrahedra_with_nodes_at_their_faces_are_read_by_their_corners_and_it_is_said(tmp_path: Path) -> None:
    step = only(blocks(tmp_path / "a.exo", ("TETRA8", np.arange(8)[None, :], {})))
    assert step.types.tolist() == [10] and step.connectivity.tolist() == [0, 1, 2, 3]
    assert step.notes == ["Block 1: elements 'tetra8' of 8 nodes are read by their first 4."]


def test_nodes_without_elements_are_points(tmp_path: Path) -> None:
    step = only(blocks(tmp_path / "a.exo"))
    assert step.types.tolist() == [1] * 8
    assert [m.tolist() for m in step.node_sets.values()] == [[0, 3]]
    assert "no blocks of elements" in step.notes[0]


def test_polygons_of_three_and_four_corners_are_read_and_others_refused_by_name(tmp_path: Path) -> None:
    nodes = np.array([0, 1, 2, 4, 5, 6, 7])
    step = only(blocks(tmp_path / "a.exo", ("nsided", nodes, {"ebepecnt": np.array([3, 4])})))
    assert step.types.tolist() == [5, 9] and step.offsets.tolist() == [0, 3, 7] and step.connectivity.tolist() == nodes.tolist()
    with pytest.raises(IronstoneError, match=r"block 1 has polygons \('nsided'\) of up to 7 corners"):
        only(blocks(tmp_path / "b.exo", ("nsided", nodes, {"ebepecnt": np.array([7])})))
    with pytest.raises(IronstoneError, match=r"block 1 has polyhedra \('nfaced'\)"):
        only(blocks(tmp_path / "c.exo", ("nfaced", nodes, {})))


def test_a_block_left_out_of_the_numbering_keeps_the_others_their_own_values(tmp_path: Path) -> None:
    path = blocks(tmp_path / "a.exo", ("HEX8", np.arange(8)[None, :], {}), first=2)
    with netcdf_file(path, "a") as file:
        file.createDimension("vars", 1)
        file.createDimension("len_string", 33)
        file.createVariable("time_whole", "d", ("time_step",))[0] = 0.0
        file.createVariable("name_elem_var", "c", ("vars", "len_string"))[:] = np.array([list("heat".ljust(33, "\0"))], dtype="S1")
        file.createVariable("vals_elem_var1eb2", "d", ("time_step", "d2_0"))[0] = 7.0
    assert only(path).cell_data["heat"].values.tolist() == [[7.0]]


@pytest.mark.parametrize(
    ("values", "words"), [(np.ones(8, dtype=complex), "complex numbers"), (np.array([b"a"] * 8), "texts"),
                          (np.zeros(8, dtype=[("a", "f8"), ("b", "i4")]), "numbers of several kinds")]
)  # fmt: skip
def test_arrays_of_something_else_than_numbers_are_named(tmp_path: Path, values: np.ndarray, words: str) -> None:
    path = tmp_path / "a.vtkhdf"
    ours(path)
    with h5py.File(path, "a") as file:
        file["VTKHDF/PointData/odd"] = values
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [path])
        assert any("'odd' is not read" in w and words in w for w in review.result().warnings)


def xdmf(folder: Path, text: str = "data.h5:/heat") -> tuple[Path, Path]:
    with h5py.File(folder / "data.h5", "w") as file:
        file["points"], file["cells"], file["heat"] = CUBE, np.arange(8)[None, :], np.arange(8.0)
        file["phasor"] = np.ones(8, dtype=complex)
    path = folder / "a.xdmf"
    path.write_text(
        '<Xdmf><Domain><Grid><Topology TopologyType="Hexahedron" NumberOfElements="1"><DataItem Dimensions="1 8" Format="HDF">'
        'data.h5:/cells</DataItem></Topology><Geometry><DataItem Dimensions="8 3" Format="HDF">data.h5:/points</DataItem>'
        '</Geometry><Attribute Name="heat" Center="Node"><DataItem Dimensions="8" Format="HDF">'
        f"{text}</DataItem></Attribute></Grid></Domain></Xdmf>"
    )
    return path, folder / "data.h5"


@pytest.mark.parametrize("order", [(0, 1), (1, 0), (0,)])
def test_an_xdmf_file_is_taken_in_with_or_without_naming_its_data(tmp_path: Path, order: tuple[int, ...]) -> None:
    files = xdmf(tmp_path)
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [files[i] for i in order])
        source = review.result()
        assert len(source.steps) == 1 and source.name == "a"
        assert source.values("heat", 0)[:, 0].tolist() == list(range(8))
        assert {f["name"] for f in source.files} == {files[i].name for i in order}


def test_data_alone_and_data_elsewhere_are_refused_with_what_to_do(tmp_path: Path) -> None:
    described, data = xdmf(tmp_path)
    with Review.create(tmp_path / "r.ironstone") as review:
        with pytest.raises(IronstoneError, match=r"data\.h5 holds data that another file describes"):
            intake(review, [data])
        (tmp_path / "else").mkdir()
        moved = data.rename(tmp_path / "else" / "data.h5")
        with pytest.raises(IronstoneError, match=r"data\.h5 is not beside a\.xdmf"):
            intake(review, [described, moved])
        assert review.results() == []


def test_complex_data_of_an_xdmf_file_are_named(tmp_path: Path) -> None:
    described, _ = xdmf(tmp_path, "data.h5:/phasor")
    assert any("'heat' is not read" in n and "complex numbers" in n for n in only(described).notes)


def test_a_universal_file_cut_at_a_border_says_that_results_are_missing(tmp_path: Path) -> None:
    path = tmp_path / "a.uff"
    path.write_text(NODES + QUAD)
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [path])
        assert any("a mesh and no results: they were cut off" in w for w in review.result().warnings)


def test_an_index_that_is_too_low_is_not_called_too_high(tmp_path: Path) -> None:
    path = blocks(tmp_path / "a.exo", ("HEX8", np.array([[-1, 0, 1, 2, 3, 4, 5, 6]]), {}))
    with pytest.raises(IronstoneError, match="names point -1, counted from 0: there is none before the first"):
        only(path)


def test_every_kind_of_element_we_know_has_its_nodes(tmp_path: Path) -> None:
    for cell in CELLS.values():
        if cell.name == "hex8":
            assert only(blocks(tmp_path / "a.exo", ("HEX", np.arange(8)[None, :], {}))).types.tolist() == [cell.vtk]


def test_a_head_that_calls_six_columns_vectors_takes_nothing_away(tmp_path: Path) -> None:
    """VTK's reader warns of it, and reads all there is."""
    points, cells, _ = bar_of_hexahedra(2, shared=True)
    path = write_vtu(tmp_path / "a.vtu", points, cells, {"u": 0.01 * points}, {"stress": np.full((2, 6), 7.0)}, mode="ascii")
    path.write_text(path.read_text().replace("<CellData>", '<CellData Vectors="stress">'))
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [path])
        assert review.result().values("stress", 0).tolist() == [[7.0] * 6] * 2
