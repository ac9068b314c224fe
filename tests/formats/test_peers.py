"""Files that other libraries write, and their own readers on the same file: meshio for XDMF and VTK, VTK for Exodus II."""

from __future__ import annotations

from pathlib import Path

import h5py
import meshio
import numpy as np
import pytest
from scipy.io import netcdf_file
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkIOExodus import vtkExodusIIReader

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.formats.registry import steps_of
from tests.models import SHAPES, crooked

MESHIO = {
    "line2": "line", "line3": "line3", "tri3": "triangle", "tri6": "triangle6", "quad4": "quad", "quad8": "quad8", "quad9": "quad9",
    "tet4": "tetra", "tet10": "tetra10", "pyramid5": "pyramid", "wedge6": "wedge", "hex8": "hexahedron", "hex20": "hexahedron20",
}  # fmt: skip
KNOWN = [c for c in SHAPES if c.name in MESHIO]


def by_meshio(cell: Cell) -> meshio.Mesh:
    mesh = crooked(cell)
    return meshio.Mesh(
        mesh.points,
        [(MESHIO[cell.name], mesh.connectivity[None, :])],
        point_data={"moved": mesh.points * 2, "heat": mesh.points[:, 0]},
        cell_data={"energy": [np.array([7.5])]},
    )


@pytest.mark.parametrize("cell", KNOWN, ids=lambda c: c.name)
@pytest.mark.parametrize(("suffix", "options"), [
    (".vtk", {"binary": True}), (".vtk", {"binary": False}), (".vtu", {}), (".xdmf", {"data_format": "HDF"}),
    (".xdmf", {"data_format": "XML"}), (".xdmf", {"data_format": "Binary"}),
])  # fmt: skip
def test_what_meshio_writes_is_read(tmp_path: Path, cell: Cell, suffix: str, options: dict[str, object]) -> None:
    path = tmp_path / f"one{suffix}"
    by_meshio(cell).write(path, **options)
    (step,) = steps_of(path)
    mesh = crooked(cell)
    # meshio turns a linear wedge over for VTK, whose base looks outward; quadratic ones it leaves.
    order = [0, 2, 1, 3, 5, 4] if cell.name == "wedge6" and suffix != ".xdmf" else list(range(cell.size))
    assert step.types.tolist() == [cell.vtk]
    assert step.points[step.connectivity] == pytest.approx(mesh.points[mesh.connectivity[order]], abs=1e-6)
    assert step.point_data["moved"].values == pytest.approx(2 * mesh.points, abs=1e-6)
    assert step.point_data["heat"].values[:, 0] == pytest.approx(mesh.points[:, 0], abs=1e-6)
    assert step.cell_data["energy"].values.ravel() == pytest.approx([7.5])


def test_a_series_in_xdmf_has_its_times_and_one_mesh(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)  # meshio puts the heavy data where it stands
    mesh = by_meshio(CELLS[12])
    path = tmp_path / "run.xdmf"
    with meshio.xdmf.TimeSeriesWriter(path) as writer:
        writer.write_points_cells(mesh.points, mesh.cells)
        for time in (0.0, 0.5, 2.0):
            writer.write_data(time, point_data={"heat": mesh.point_data["heat"] + time})
    steps = list(steps_of(path))
    assert [s.time for s in steps] == [0.0, 0.5, 2.0]
    assert steps[2].point_data["heat"].values[:, 0] == pytest.approx(mesh.point_data["heat"] + 2.0)
    assert steps[0].points is steps[2].points, "the mesh is read once"


def test_a_mixed_mesh_in_xdmf(tmp_path: Path) -> None:
    a, b = crooked(CELLS[12]), crooked(CELLS[10])
    points = np.concatenate([a.points, b.points + [5, 0, 0]])
    mesh = meshio.Mesh(points, [("hexahedron", a.connectivity[None]), ("tetra", b.connectivity[None] + 8)])
    mesh.write(tmp_path / "mixed.xdmf")
    (step,) = steps_of(tmp_path / "mixed.xdmf")
    assert step.types.tolist() == [12, 10]
    assert step.connectivity.tolist() == list(range(12))


def test_heavy_data_that_is_not_there_or_lies_elsewhere_is_told(tmp_path: Path) -> None:
    path = tmp_path / "one.xdmf"
    by_meshio(CELLS[12]).write(path, data_format="HDF")
    (tmp_path / "one.h5").unlink()
    with pytest.raises(IronstoneError, match=r"needs one\.h5"):
        list(steps_of(path))
    path.write_text(path.read_text().replace("one.h5", "../one.h5"))
    with pytest.raises(IronstoneError, match="outside its own folder"):
        list(steps_of(path))


def exodus(path: Path, cell: Cell, shape: str, order: list[int], steps: int = 2) -> None:
    """A classic netCDF file after the published description of Exodus II: one block, a node set, a side set, variables."""
    mesh = crooked(cell)
    with netcdf_file(path, "w", version=2) as file:
        for name, size in {
            "time_step": None, "len_string": 33, "len_line": 81, "four": 4, "num_dim": 3, "num_nodes": cell.size, "num_elem": 1,
            "num_el_blk": 1, "num_node_sets": 1, "num_el_in_blk1": 1, "num_nod_per_el1": cell.size, "num_nod_ns1": 2,
            "num_nod_var": 4, "num_elem_var": 1,
        }.items():  # fmt: skip
            file.createDimension(name, size)
        file.title, file.api_version, file.version = "invented", np.float32(5.0), np.float32(5.0)
        file.floating_point_word_size, file.file_size = 8, 1

        def put(name: str, kind: str, dimensions: tuple[str, ...], values: np.ndarray) -> None:
            file.createVariable(name, kind, dimensions)[:] = values

        def text(names: list[str], width: int) -> np.ndarray:
            return np.array([list(n.ljust(width, "\0")) for n in names], dtype="S1")

        for i, axis in enumerate("xyz"):
            put(f"coord{axis}", "d", ("num_nodes",), mesh.points[:, i])
        put("eb_prop1", "i", ("num_el_blk",), np.array([10]))
        put("eb_status", "i", ("num_el_blk",), np.array([1]))
        file.variables["eb_prop1"].name = "ID"
        connect = file.createVariable("connect1", "i", ("num_el_in_blk1", "num_nod_per_el1"))
        connect.elem_type = shape
        turned = np.empty(cell.size, dtype=int)
        turned[order] = np.arange(cell.size)
        connect[:] = (turned + 1)[None, :]
        put("node_ns1", "i", ("num_nod_ns1",), np.array([1, 3]))
        put("ns_prop1", "i", ("num_node_sets",), np.array([40]))
        put("ns_status", "i", ("num_node_sets",), np.array([1]))
        file.variables["ns_prop1"].name = "ID"
        put("name_nod_var", "c", ("num_nod_var", "len_string"), text(["disp_x", "disp_y", "disp_z", "heat"], 33))
        put("name_elem_var", "c", ("num_elem_var", "len_string"), text(["energy"], 33))
        put("elem_var_tab", "i", ("num_el_blk", "num_elem_var"), np.array([[1]]))
        whole = file.createVariable("time_whole", "d", ("time_step",))
        nodal = [file.createVariable(f"vals_nod_var{i + 1}", "d", ("time_step", "num_nodes")) for i in range(4)]
        element = file.createVariable("vals_elem_var1eb1", "d", ("time_step", "num_el_in_blk1"))
        for step in range(steps):
            whole[step] = 0.25 * step
            for i in range(3):
                nodal[i][step] = mesh.points[:, i] * (step + 1)
            nodal[3][step] = np.arange(cell.size) + step
            element[step] = np.array([3.0 + step])


PLAIN = {"hex8": "HEX8", "tet4": "TETRA4", "tet10": "TETRA10", "wedge6": "WEDGE6", "pyramid5": "PYRAMID5", "quad4": "QUAD4",
         "tri3": "TRI3", "line2": "BAR2"}  # fmt: skip
TURNED = {"hex20": ("HEX20", [*range(12), *range(16, 20), *range(12, 16)]),
          "wedge15": ("WEDGE15", [*range(9), *range(12, 15), *range(9, 12)])}  # fmt: skip
CASES = [(n, s, list(range(next(c for c in SHAPES if c.name == n).size))) for n, s in PLAIN.items()]
CASES += [(n, s, o) for n, (s, o) in TURNED.items()]


@pytest.mark.parametrize(("name", "shape", "order"), CASES, ids=lambda v: v if isinstance(v, str) else "")
def test_exodus_is_read_as_vtk_reads_it(tmp_path: Path, name: str, shape: str, order: list[int]) -> None:
    cell = next(c for c in SHAPES if c.name == name)
    path = tmp_path / "one.exo"
    exodus(path, cell, shape, order)
    steps = list(steps_of(path))
    assert [s.time for s in steps] == [0.0, 0.25]
    step = steps[1]
    assert step.types.tolist() == [cell.vtk]
    assert step.point_data["disp"].values == pytest.approx(2 * step.points)
    assert step.cell_data["energy"].values.tolist() == [[4.0]]
    assert [m.tolist() for m in step.node_sets.values()] == [[0, 2]]
    reader = vtkExodusIIReader()
    reader.SetFileName(str(path))
    reader.UpdateInformation()
    reader.SetAllArrayStatus(vtkExodusIIReader.NODAL, 1)
    reader.SetTimeStep(1)
    reader.Update()
    grid = reader.GetOutput().GetBlock(0).GetBlock(0)
    points = vtk_to_numpy(grid.GetPoints().GetData())
    connectivity = vtk_to_numpy(grid.GetCells().GetConnectivityArray())
    displaced = 2 * step.points[step.connectivity] if reader.GetApplyDisplacements() else 0.0
    assert step.points[step.connectivity] + displaced == pytest.approx(points[connectivity], abs=1e-5)
    heat = vtk_to_numpy(grid.GetPointData().GetArray("heat"))
    assert step.point_data["heat"].values[step.connectivity, 0] == pytest.approx(heat[connectivity])


def test_exodus_on_hdf5_is_read_too(tmp_path: Path) -> None:
    """netCDF-4 is HDF5 beneath: the same names, read by another library."""
    exodus(tmp_path / "classic.exo", CELLS[12], "HEX8", list(range(8)))
    with netcdf_file(tmp_path / "classic.exo", "r", mmap=False) as old, h5py.File(tmp_path / "new.exo", "w") as new:
        for name, variable in old.variables.items():
            new[name] = np.asarray(variable[:]).astype(np.asarray(variable[:]).dtype.newbyteorder("="))
        new["connect1"].attrs["elem_type"] = "HEX8"
    a, b = list(steps_of(tmp_path / "classic.exo")), list(steps_of(tmp_path / "new.exo"))
    assert a[1].connectivity.tolist() == b[1].connectivity.tolist()
    assert a[1].point_data["heat"].values == pytest.approx(b[1].point_data["heat"].values)


@pytest.mark.parametrize("suffix", [".vtk", ".vtkhdf", ".xdmf", ".exo", ".uff", ".vtu"])
@pytest.mark.parametrize("content", [b"", b"hello\n", bytes(range(256)) * 4])
def test_what_is_no_such_file_is_told_so(tmp_path: Path, suffix: str, content: bytes) -> None:
    path = tmp_path / f"other{suffix}"
    path.write_bytes(content)
    with pytest.raises(IronstoneError, match="other"):
        list(steps_of(path))
