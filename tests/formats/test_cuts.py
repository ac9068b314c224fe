"""Files that end too soon: refused, or every value that is there is that of the whole file; nothing is made up.

Each cut is read in a process of its own, as intake does it: some libraries end theirs on a damaged file.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from vtkmodules.vtkIOLegacy import vtkUnstructuredGridWriter
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.formats.out import write
from ironstone.formats.registry import RawArray, RawStep, steps_of
from tests.formats.test_peers import exodus
from tests.writing import bar_of_hexahedra, write_vtu

# Six hundred each were tried; the usual run takes fewer.
CUTS = int(os.environ.get("IRONSTONE_CUTS", "60"))


def bar() -> tuple[np.ndarray, list[tuple[int, list[int]]], dict[str, np.ndarray], dict[str, np.ndarray]]:
    points, cells, _ = bar_of_hexahedra(3)
    stress = np.random.default_rng(1).normal(size=(24, 6))
    return points, cells, {"stress": stress, "u": points * 0.1}, {"d": np.array([1.0, 2, 3])}


def vtu(path: Path, mode: str, compressor: str) -> None:
    write_vtu(path, *bar(), time=0.5, mode=mode, compressor=compressor)


def legacy(path: Path, binary: bool) -> None:
    reader, writer = vtkXMLUnstructuredGridReader(), vtkUnstructuredGridWriter()
    source = path.with_suffix(".source.vtu")
    vtu(source, "raw", "None")
    reader.SetFileName(str(source))
    reader.Update()
    writer.SetInputData(reader.GetOutput())
    writer.SetFileName(str(path))
    (writer.SetFileTypeToBinary if binary else writer.SetFileTypeToASCII)()
    writer.Write()


def ours(path: Path) -> None:
    points, cells, nodal, _ = bar()
    nodes = np.concatenate([n for _, n in cells])
    corner = {"stress": RawArray(nodal["stress"], ("xx", "yy", "zz", "xy", "yz", "xz"))}
    ids = np.arange(24) + 1
    step = RawStep(points, np.full(3, 12, np.uint8), np.arange(0, 25, 8), nodes, {"u": RawArray(nodal["u"])}, {}, 0.5, corner)
    step.node_ids = ids
    write(path, iter([step]))


FILES: dict[str, tuple[str, Callable[[Path], None]]] = {
    "legacy ascii": (".vtk", lambda p: legacy(p, False)),
    "legacy binary": (".vtk", lambda p: legacy(p, True)),
    "vtu ascii": (".vtu", lambda p: vtu(p, "ascii", "None")),
    "vtu binary": (".vtu", lambda p: vtu(p, "binary", "None")),
    "vtu appended, zlib": (".vtu", lambda p: vtu(p, "appended", "ZLib")),
    "vtu raw": (".vtu", lambda p: vtu(p, "raw", "None")),
    "vtu raw, lz4": (".vtu", lambda p: vtu(p, "raw", "LZ4")),
    "vtu raw, lzma": (".vtu", lambda p: vtu(p, "raw", "LZMA")),
    "vtkhdf": (".vtkhdf", ours),
    "universal": (".uff", ours),
    "exodus": (".exo", lambda p: exodus(p, CELLS[12], "HEX8", list(range(8)))),
}


def made_up(path: Path, whole: list[RawStep]) -> bool:
    """Whether a cut file is read with something that the whole one does not have; asked in a process of its own."""
    child = os.fork()
    if not child:
        code = 1
        try:
            code = int(not all(_part_of(step, whole) for step in steps_of(path)))
        except BaseException:
            code = 0
        finally:
            os._exit(code)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 1


def _part_of(step: RawStep, whole: list[RawStep]) -> bool:
    same = next(
        (s for s in whole if np.array_equal(s.points, step.points) and np.array_equal(s.connectivity, step.connectivity)), None
    )
    if same is None:
        return False
    for data, full in ((step.point_data, same.point_data), (step.cell_data, same.cell_data), (step.corner_data, same.corner_data)):
        if any(n not in full or not np.array_equal(a.values, full[n].values, equal_nan=True) for n, a in data.items()):
            return False
    return True


@pytest.mark.parametrize("kind", FILES)
def test_nothing_is_made_up_of_a_file_that_was_cut_off(kind: str, tmp_path: Path) -> None:
    suffix, make = FILES[kind]
    path, cut = tmp_path / f"whole{suffix}", tmp_path / f"cut{suffix}"
    make(path)
    data, whole = path.read_bytes(), list(steps_of(path))
    wrong = []
    for size in np.unique(np.linspace(1, len(data) - 1, CUTS).astype(int)).tolist():
        cut.write_bytes(data[:size])
        if made_up(cut, whole):
            wrong.append((size, data[max(size - 30, 0) : size]))
    assert wrong == []


def test_a_legacy_file_without_its_last_line_break_is_refused_with_what_to_do(tmp_path: Path) -> None:
    """A last number that was cut in two looks like a number."""
    path = tmp_path / "a.vtk"
    legacy(path, False)
    whole = path.read_bytes()
    text = whole[: whole.rindex(b"METADATA")] if b"METADATA" in whole[-200:] else whole
    path.write_bytes(text.rstrip()[:-1])
    with pytest.raises(IronstoneError, match=r"a\.vtk ends before what its headers promise.*line break"):
        list(steps_of(path))
