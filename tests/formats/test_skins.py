"""The skin of a view for any viewer: read back by other packages (trimesh, VTK), and held against the view it is of."""

from __future__ import annotations

import io
import json
import struct
from pathlib import Path

import numpy as np
import pyarrow.parquet
import pytest
import trimesh
from PIL import Image
from typer.testing import CliRunner
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkIOGeometry import vtkSTLReader
from vtkmodules.vtkIOPLY import vtkPLYReader

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.core.picture.colours import Key, coloured
from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.model import model_file
from ironstone.formats.parquet import write_parquet
from ironstone.formats.skins import Skin, skin_file
from ironstone.store import Review, intake

READING = {"field": "stress", "measure": "von-mises"}
KEY = np.array([[255, 0, 0], [0, 255, 0], [0, 0, 255], [255, 255, 0]], dtype=np.uint8)


@pytest.fixture
def square() -> Skin:
    points = np.array([[0, 0, 0], [2, 0, 0], [2, 4, 0], [0, 4, 6.0]]) + [1000.0, 0, 0]
    return Skin(
        points, np.array([[0, 1, 2], [0, 2, 3]]), np.array([0.0, 1.0, 0.5, np.nan]), KEY, (9, 9, 9), 0.001, "stress, in MPa"
    )


def parts(data: bytes) -> tuple[dict, bytes]:
    """The two chunks of a GLB, by the specification's own layout."""
    magic, version, whole = struct.unpack_from("<4sII", data)
    assert (magic, version, whole) == (b"glTF", 2, len(data)) and whole % 4 == 0
    length, kind = struct.unpack_from("<I4s", data, 12)
    assert kind == b"JSON" and length % 4 == 0
    told = json.loads(data[20 : 20 + length])
    size, kind = struct.unpack_from("<I4s", data, 20 + length)
    assert kind == b"BIN\0" and size % 4 == 0 and 28 + length + size == len(data)
    return told, data[28 + length :]


def test_a_glb_is_as_the_format_has_it(square: Skin) -> None:
    told, binary = parts(skin_file(square, ".glb"))
    assert told["asset"]["version"] == "2.0" and told["buffers"][0]["byteLength"] == len(binary)
    for view in told["bufferViews"]:
        assert view["byteOffset"] % 4 == 0 and view["byteOffset"] + view["byteLength"] <= len(binary)
    for accessor in told["accessors"]:
        own = told["bufferViews"][accessor["bufferView"]]
        width = {"SCALAR": 1, "VEC2": 2, "VEC3": 3}[accessor["type"]]
        assert own["byteLength"] == 4 * width * accessor["count"]
    place = told["accessors"][0]
    stored = np.frombuffer(binary, "<f4", 12, told["bufferViews"][0]["byteOffset"]).reshape(-1, 3)
    assert np.allclose(place["min"], stored.min(0)) and np.allclose(place["max"], stored.max(0))
    assert set(told["extensionsUsed"]) == {e for m in told["materials"] for e in m["extensions"]}
    image = told["bufferViews"][told["images"][0]["bufferView"]]
    picture = Image.open(io.BytesIO(binary[image["byteOffset"] : image["byteOffset"] + image["byteLength"]]))
    assert np.array_equal(np.asarray(picture.convert("RGB"))[0], KEY)


def test_a_glb_read_by_another_package_stands_upright_in_metres(square: Skin) -> None:
    scene = trimesh.load(io.BytesIO(skin_file(square, ".glb")), file_type="glb", force="scene")
    whole = trimesh.util.concatenate([g for g in scene.dump()])
    assert whole.extents == pytest.approx([0.002, 0.006, 0.004], rel=1e-5), "x stays, z is upwards, y goes back"
    assert len(whole.faces) == 2 and len(scene.geometry) == 2, "the face without a value has a material of its own"


def test_colours_of_a_glb_are_looked_up_after_the_place_is_interpolated() -> None:
    share = np.linspace(0, 1, 5)
    points = np.stack([np.arange(5.0), np.zeros(5), np.zeros(5)], 1)
    points = np.concatenate([points, points + [0, 1, 0]])
    triangles = np.array([t for i in range(4) for t in ([i, i + 1, i + 5], [i + 1, i + 6, i + 5])])
    told, binary = parts(skin_file(Skin(points, triangles, np.tile(share, 2), KEY, (9, 9, 9), 1.0), ".glb"))
    view = told["bufferViews"][1]
    across = np.frombuffer(binary, "<f4", 20, view["byteOffset"]).reshape(-1, 2)[:5, 0]
    for s in (0.1, 0.3, 0.6, 0.9):
        place = np.interp(s, share, across)
        # A sampler that takes the nearest: the texel the place lies in.
        assert int(place * len(KEY)) == min(int(s * (len(KEY) - 1) + 0.5), len(KEY) - 1)


def test_ply_and_stl_read_by_vtk_are_the_same_shape(square: Skin, tmp_path: Path) -> None:
    for suffix, reader in ((".ply", vtkPLYReader()), (".stl", vtkSTLReader())):
        path = tmp_path / f"skin{suffix}"
        path.write_bytes(skin_file(square, suffix))
        reader.SetFileName(str(path))
        reader.Update()
        found = reader.GetOutput()
        assert found.GetNumberOfPolys() == 2 and found.GetNumberOfPoints() == 4
        assert np.ptp(vtk_to_numpy(found.GetPoints().GetData()), axis=0) == pytest.approx([2, 4, 6])
    colours = vtk_to_numpy(vtkPLY(tmp_path / "skin.ply"))
    assert colours.tolist() == [[255, 0, 0], [255, 255, 0], [0, 0, 255], [9, 9, 9]]
    with pytest.raises(IronstoneError, match=r"\.obj"):
        skin_file(square, ".obj")


def vtkPLY(path: Path):
    reader = vtkPLYReader()
    reader.SetFileName(str(path))
    reader.Update()
    return reader.GetOutput().GetPointData().GetScalars()


def test_the_skin_of_a_view_has_its_values_its_shape_and_its_parts(bar_files: list[Path], tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        number = intake(review, bar_files, "bar", "mm-N-s-t-MPa")
        words = {"result": number, "reading": READING, "step": 1, "bands": 0, "low": 0.0, "high": 60.0}
        data, said = model_file(review, InView(**words, exaggeration=10.0), ".ply")
        (tmp_path / "m.ply").write_bytes(data)
        reader = vtkPLYReader()
        reader.SetFileName(str(tmp_path / "m.ply"))
        reader.Update()
        points = vtk_to_numpy(reader.GetOutput().GetPoints().GetData())
        assert points[:, 0].max() == pytest.approx(3.0 + 10.0 * 0.02 * 3.0), "deformed ten times"
        colours = vtk_to_numpy(reader.GetOutput().GetPointData().GetScalars())
        # Stress is 20, 40 and 60 MPa in the three cubes.
        for x, stress in ((0.2, 20.0), (1.8, 40.0), (3.4, 60.0)):
            near = np.abs(points[:, 0] - x) < 0.25
            expected = coloured(np.array([stress]), Key(0.0, 60.0, 0))[0].astype(int)
            assert np.abs(colours[near].astype(int) - expected).max() <= 3
        assert "drawn deformed 10 times" in said and "Result bar" in said
        part, _ = model_file(review, InView(**words, hidden=[1]), ".stl")
        assert (
            struct.unpack_from("<I", part, 80)[0] < struct.unpack_from("<I", model_file(review, InView(**words), ".stl")[0], 80)[0]
        )
        with pytest.raises(IronstoneError, match="Nothing of the model"):
            model_file(review, InView(**words, hidden=[0, 1]), ".glb")
        done = CliRunner().invoke(
            app, ["model", str(review.path), "-o", str(tmp_path / "m.glb"), "--field", "stress", "--measure", "xx", "--step", "0"]
        )
        assert done.exit_code == 0, done.stderr
    parts((tmp_path / "m.glb").read_bytes())


def test_a_table_leaves_as_parquet_with_its_units_and_what_is_missing_as_null(bar_files: list[Path], tmp_path: Path) -> None:
    data = write_parquet(
        ["t", "x", "x", "word"], ["s", "mm", None, None], [[0.0, 1.0], [2.5, float("nan")], [1, 2], ["a", ""]], "what"
    )
    table = pyarrow.parquet.read_table(io.BytesIO(data))
    assert table.column_names == ["t", "x", "x (3)", "word"]
    assert table.column("x").to_pylist() == [2.5, None] and table.column("word").to_pylist() == ["a", ""]
    assert table.schema.field("x").metadata[b"unit"] == b"mm" and table.schema.metadata[b"reading"] == b"what"
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, bar_files, "bar", "mm-N-s-t-MPa")
    words = ["ask", str(tmp_path / "r.ironstone"), "balance", "--table"]
    done = CliRunner().invoke(app, [*words, str(tmp_path / "b.parquet")])
    assert done.exit_code == 0, done.stderr
    assert pyarrow.parquet.read_table(tmp_path / "b.parquet").column_names[0] == "of"
    wrong = CliRunner().invoke(app, [*words, str(tmp_path / "b.ods")])
    assert wrong.exit_code == 2 and ".parquet" in wrong.stderr
