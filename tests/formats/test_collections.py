"""Meshes that come in several files or pieces: by time, by piece, by block, field by field; joined where they are one mesh."""

from __future__ import annotations

from pathlib import Path

import h5py
import numpy as np
import pytest
from vtkmodules.vtkCommonDataModel import vtkMultiBlockDataSet
from vtkmodules.vtkIOXML import vtkXMLMultiBlockDataWriter, vtkXMLUnstructuredGridReader

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.places import AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.formats.registry import apart
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource
from tests.writing import HEX, bar_of_hexahedra, write_vtu


def piece(folder: Path, name: str, start: int, count: int, more: dict | None = None, slip: float = 0.0, time: float = 1.0) -> Path:  # type: ignore[type-arg]
    """A stretch of a bar of unit cubes from x = start; it moves by time times x / 100, and by ``slip`` as a whole."""
    points, cells, _ = bar_of_hexahedra(count, shared=True)
    points = points + [start, 0, 0]
    moved = np.zeros_like(points)
    moved[:, 0] = 0.01 * time * points[:, 0] + slip
    stress = np.zeros((count, 6))
    stress[:, 0] = np.arange(start, start + count)
    data = {"displacement": moved, **({"GlobalNodeIds": more["ids"]} if more and "ids" in more else {})}
    cell = {"stress": stress, **({"vtkGhostType": more["ghosts"]} if more and "ghosts" in more else {})}
    return write_vtu(folder / name, points, cells, data, cell)


def taken(folder: Path, *paths: Path) -> ReviewSource:
    review = Review.create(folder / "r.ironstone")
    intake(review, list(paths))
    return review.result()


def pvtu(folder: Path, *names: str) -> Path:
    sources = "".join(f'<Piece Source="{n}"/>' for n in names)
    path = folder / "whole.pvtu"
    path.write_text(f'<VTKFile type="PUnstructuredGrid" version="1.0"><PUnstructuredGrid>{sources}</PUnstructuredGrid></VTKFile>')
    return path


def mean_of_all(source: ReviewSource) -> np.ndarray:
    """Stress at the corners, averaged over what meets at each node, of the second element: 1 alone, (0 + 1) / 2 at its left."""
    return np.asarray(evaluate(Reading("stress", "xx", averaging="all"), source, AtElements(np.array([1]))).values)


def test_the_pieces_of_a_parallel_file_are_one_mesh(tmp_path: Path) -> None:
    whole = taken(tmp_path, *[pvtu(tmp_path, piece(tmp_path, "a.vtu", 0, 2).name, piece(tmp_path, "b.vtu", 2, 2).name)])
    (tmp_path / "plain").mkdir()
    plain = taken(tmp_path / "plain", piece(tmp_path / "plain", "p.vtu", 0, 4))
    assert len(whole.mesh.points) == len(plain.mesh.points) == 20
    assert mean_of_all(whole) == pytest.approx(mean_of_all(plain))
    assert any("2 pieces, joined at 4 nodes" in w for w in whole.warnings)
    assert whole.fields["displacement"].location == "node"


def test_copies_a_piece_holds_of_its_neighbour_count_once(tmp_path: Path) -> None:
    ghosts = np.array([0, 0, 1], dtype=np.uint8)
    a = piece(tmp_path, "a.vtu", 0, 3, {"ghosts": ghosts})
    b = piece(tmp_path, "b.vtu", 2, 2)
    source = taken(tmp_path, pvtu(tmp_path, a.name, b.name))
    assert (len(source.mesh.types), len(source.mesh.points)) == (4, 20)
    assert source.values("stress", 0)[:, 0].tolist() == [0, 1, 2, 3]


def test_pieces_that_move_apart_stay_apart(tmp_path: Path) -> None:
    files = [piece(tmp_path, "a.vtu", 0, 2), piece(tmp_path, "b.vtu", 2, 2, slip=0.3)]
    source = taken(tmp_path, pvtu(tmp_path, *(f.name for f in files)))
    assert len(source.mesh.points) == 24


def test_pieces_are_joined_by_the_numbers_of_their_nodes_where_they_have_them(tmp_path: Path) -> None:
    _, _, ids = bar_of_hexahedra(4, shared=True)
    points = bar_of_hexahedra(4, shared=True)[0]
    a = np.flatnonzero(points[:, 0] <= 2)
    b = np.flatnonzero(points[:, 0] >= 2)
    files = [
        piece(tmp_path, "a.vtu", 0, 2, {"ids": ids[a]}),
        piece(tmp_path, "b.vtu", 2, 2, {"ids": ids[b]}, slip=0.0),
    ]
    source = taken(tmp_path, pvtu(tmp_path, *(f.name for f in files)))
    assert len(source.mesh.points) == 20
    assert sorted(source.mesh.node_ids.tolist()) == sorted(ids.tolist())


def test_two_nodes_of_one_piece_at_one_place_stay_two(tmp_path: Path) -> None:
    """A crack inside a piece, from which another piece goes on: what is not known is not joined."""
    left, right = HEX + [0, 0, 0], HEX + [1, 0, 0]
    cracked = np.concatenate([left, right])
    write_vtu(tmp_path / "a.vtu", cracked, [(12, list(range(8))), (12, list(range(8, 16))), (12, list(range(8, 16)))])
    above = HEX + [0, 0, 1]
    write_vtu(tmp_path / "b.vtu", above, [(12, list(range(8))), (12, list(range(8)))])
    source = taken(tmp_path, pvtu(tmp_path, "a.vtu", "b.vtu"))
    # Of the four nodes they share two lie in the crack.
    assert len(source.mesh.points) == 16 + 8 - 2


def test_a_series_by_time_names_its_files_and_their_parts(tmp_path: Path) -> None:
    (tmp_path / "out").mkdir()
    items = []
    for step, time in enumerate((0.5, 2.0)):
        for k, (start, count) in enumerate(((0, 2), (2, 1))):
            name = f"out/s{step}_{k}.vtu"
            piece(tmp_path, name, start, count, time=time)
            items.append(f'<DataSet timestep="{time}" part="{k}" name="{["web", "flange"][k]}" file="{name}"/>')
    path = tmp_path / "run.pvd"
    path.write_text(f'<VTKFile type="Collection" version="0.1"><Collection>{"".join(items)}</Collection></VTKFile>')
    source = taken(tmp_path, path)
    assert [s.value for s in source.steps] == [0.5, 2.0]
    assert source.mesh.part_names == ("web", "flange")
    assert len(source.mesh.points) == 16, "joined where they meet and move alike"
    assert np.ptp(source.values("displacement", 1)[:, 0]) == pytest.approx(0.06)
    given = [path, *sorted((tmp_path / "out").glob("*.vtu"))]
    assert apart(given) == ([path], given[1:]), "chosen along with it they are no steps of their own"
    (tmp_path / "out" / "s1_0.vtu").unlink()
    with pytest.raises(IronstoneError, match=r"run\.pvd needs s1_0\.vtu"):
        taken(tmp_path / "out", path)


@pytest.mark.parametrize("name", ["../secret.vtu", "/etc/secret.vtu"])
def test_a_collection_reads_nothing_outside_its_folder(tmp_path: Path, name: str) -> None:
    (tmp_path / "in").mkdir()
    piece(tmp_path, "secret.vtu", 0, 1)
    path = tmp_path / "in" / "run.pvd"
    path.write_text(f'<VTKFile type="Collection"><Collection><DataSet timestep="0" file="{name}"/></Collection></VTKFile>')
    with pytest.raises(IronstoneError, match=r"needs secret\.vtu, which is not beside it"):
        taken(tmp_path, path)


def test_a_collection_that_names_itself_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "a.vtm"
    path.write_text('<VTKFile type="vtkMultiBlockDataSet"><x><Block name="b"><DataSet file="a.vtm"/></Block></x></VTKFile>')
    with pytest.raises(IronstoneError, match="may name itself"):
        taken(tmp_path, path)


def test_blocks_of_vtks_own_writer_are_parts(tmp_path: Path) -> None:
    blocks = vtkMultiBlockDataSet()
    for k, (start, count) in enumerate(((0, 2), (2, 2))):
        reader = vtkXMLUnstructuredGridReader()
        reader.SetFileName(str(piece(tmp_path, f"raw{k}.vtu", start, count)))
        reader.Update()
        blocks.SetBlock(k, reader.GetOutput())
        blocks.GetMetaData(k).Set(blocks.NAME(), ("inner", "outer")[k])
    writer = vtkXMLMultiBlockDataWriter()
    writer.SetFileName(str(tmp_path / "m.vtm"))
    writer.SetInputData(blocks)
    assert writer.Write() == 1
    source = taken(tmp_path, tmp_path / "m.vtm")
    assert source.mesh.part_names == ("inner", "outer")
    assert len(source.mesh.points) == 20
    assert source.mesh.part.tolist() == [0, 0, 1, 1]


def block_of(group: h5py.Group, start: int, count: int) -> None:
    points, cells, _ = bar_of_hexahedra(count, shared=True)
    group.attrs["Version"] = (2, 0)
    group.attrs.create("Type", np.bytes_("UnstructuredGrid"))
    for name, value in (("NumberOfPoints", len(points)), ("NumberOfCells", count), ("NumberOfConnectivityIds", 8 * count)):
        group[name] = np.array([value])
    group["Points"] = points + [start, 0, 0]
    group["Types"] = np.full(count, 12, dtype=np.uint8)
    group["Offsets"] = 8 * np.arange(count + 1)
    group["Connectivity"] = np.array([n for _, c in cells for n in c])
    group["PointData/displacement"] = 0.01 * (points + [start, 0, 0])
    group["CellData/stress"] = np.tile(np.arange(start, start + count)[:, None], (1, 6)).astype(float)


def test_blocks_and_pieces_of_vtkhdf_are_one_mesh(tmp_path: Path) -> None:
    with h5py.File(tmp_path / "c.vtkhdf", "w") as file:
        root = file.create_group("VTKHDF")
        root.attrs["Version"] = (2, 0)
        root.attrs.create("Type", np.bytes_("PartitionedDataSetCollection"))
        root.create_group("Assembly")
        for k, (name, start, count) in enumerate((("inner", 0, 2), ("outer", 2, 2))):
            block_of(root.create_group(name), start, count)
            root[name].attrs["Index"] = k
    source = taken(tmp_path, tmp_path / "c.vtkhdf")
    assert source.mesh.part_names == ("inner", "outer")
    assert len(source.mesh.points) == 20


def test_fields_that_each_have_a_collection_of_their_own_are_one_series(tmp_path: Path) -> None:
    """As a solver library writes: the mesh, then for each function a series in time that includes it."""
    points, cells, _ = bar_of_hexahedra(2, shared=True)
    joined = " ".join(str(n) for _, c in cells for n in c)
    place = " ".join(f"{v:g}" for v in points.ravel())
    include = (
        '<xi:include xpointer="xpointer(/Xdmf/Domain/Grid[@GridType=&quot;Uniform&quot;][1]/*[self::Topology or self::Geometry])"/>'
    )

    def series(name: str, centre: str, values: list[np.ndarray]) -> str:
        grids = "".join(
            f'<Grid Name="{name}" GridType="Uniform">{include}<Time Value="{t}"/><Attribute Name="{name}" Center="{centre}">'
            f'<DataItem Dimensions="{v.shape[0]} {v.shape[1]}" Format="XML">{" ".join(f"{x:g}" for x in v.ravel())}</DataItem>'
            f"</Attribute></Grid>"
            for t, v in zip((0.5, 1.5), values, strict=True)
        )
        return f'<Grid Name="{name}" GridType="Collection" CollectionType="Temporal">{grids}</Grid>'

    moved = [0.01 * t * points for t in (1, 2)]
    stress = [np.full((2, 9), 3.0 * t) for t in (1, 2)]
    (tmp_path / "f.xdmf").write_text(
        '<Xdmf Version="3.0" xmlns:xi="https://www.w3.org/2001/XInclude"><Domain>'
        f'<Grid Name="mesh" GridType="Uniform"><Topology TopologyType="Hexahedron" NumberOfElements="2">'
        f'<DataItem Dimensions="2 8" NumberType="Int" Format="XML">{joined}</DataItem></Topology>'
        f'<Geometry GeometryType="XYZ"><DataItem Dimensions="{len(points)} 3" Format="XML">{place}</DataItem></Geometry></Grid>'
        f"{series('displacement', 'Node', moved)}{series('stress', 'Cell', stress)}</Domain></Xdmf>"
    )
    source = taken(tmp_path, tmp_path / "f.xdmf")
    assert [s.value for s in source.steps] == [0.5, 1.5]
    assert source.values("displacement", 1) == pytest.approx(moved[1])
    assert source.values("stress", 1)[:, 0] == pytest.approx([6.0, 6.0])
