"""Files made to bring in what they do not hold, or to fill the memory: refused in words, the reader bounded and mortal."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import h5py
import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.formats.confined import memory_limit
from ironstone.formats.series import read_series
from tests.formats.test_cuts import ours

SECRET = b"what another file holds"


def refused(path: Path) -> str:
    with pytest.raises(IronstoneError) as caught:
        list(read_series([path], path.parent))
    return str(caught.value)


@pytest.fixture
def sound(tmp_path: Path) -> Path:
    path = tmp_path / "a.vtkhdf"
    ours(path)
    return path


@pytest.mark.parametrize("how", ["link", "soft then link", "external", "virtual"])
@pytest.mark.parametrize("form", ["vtkhdf", "xdmf"])
def test_what_lies_in_other_files_is_not_brought_in(sound: Path, tmp_path: Path, how: str, form: str) -> None:
    other = tmp_path / "other.h5"
    with h5py.File(other, "w") as file:
        file["secret"] = np.arange(24.0)
    (tmp_path / "raw.bin").write_bytes(SECRET * 20)
    target = sound if form == "vtkhdf" else tmp_path / "heavy.h5"
    with h5py.File(target, "a") as file:
        group = file.require_group("VTKHDF/PointData")
        if how == "link":
            group["stolen"] = h5py.ExternalLink("other.h5", "/secret")
        elif how == "soft then link":
            file["hidden"] = h5py.ExternalLink("other.h5", "/secret")
            group["stolen"] = h5py.SoftLink("/hidden")
        elif how == "external":
            group.create_dataset("stolen", (24,), "f8", external=[(str(tmp_path / "raw.bin"), 0, 192)])
        else:
            layout = h5py.VirtualLayout((24,), "f8")
            layout[:] = h5py.VirtualSource(str(other), "secret", (24,))
            group.create_virtual_dataset("stolen", layout)
        if form == "xdmf":
            file["points"], file["cells"] = np.eye(4, 3), np.array([[0, 1, 2, 3]])
    if form == "xdmf":
        target = tmp_path / "a.xdmf"
        target.write_text(
            '<Xdmf><Domain><Grid><Topology TopologyType="Tetrahedron" NumberOfElements="1"><DataItem Dimensions="1 4" '
            'Format="HDF">heavy.h5:/cells</DataItem></Topology><Geometry><DataItem Dimensions="4 3" Format="HDF">'
            'heavy.h5:/points</DataItem></Geometry><Attribute Name="s" Center="Node"><DataItem Dimensions="24" Format="HDF">'
            "heavy.h5:/VTKHDF/PointData/stolen</DataItem></Attribute></Grid></Domain></Xdmf>"
        )
    said = refused(target)
    assert "another file" in said or "other files" in said


def test_an_array_that_holds_nothing_of_its_size_is_refused(sound: Path) -> None:
    with h5py.File(sound, "a") as file:
        file["VTKHDF/PointData"].create_dataset("filled", (3_000_000_000,), "f8", chunks=(1_000_000,), fillvalue=7.0)
    assert "said to hold 24 GB" in refused(sound)


def test_a_file_of_a_few_lines_that_asks_for_all_memory_is_refused_and_nothing_else_fails(tmp_path: Path) -> None:
    """27 thousand million points in 200 bytes, an honest file beside it."""
    path = tmp_path / "bomb.vtk"
    path.write_text(
        "# vtk DataFile Version 3.0\nbomb\nASCII\nDATASET STRUCTURED_POINTS\nDIMENSIONS 3000 3000 3000\n"
        "ORIGIN 0 0 0\nSPACING 1 1 1\n"
    )
    assert "2.7e+10 points, more than a file" in refused(path)
    honest = tmp_path / "b.vtkhdf"
    ours(honest)
    assert len(list(read_series([honest], tmp_path))) == 1


def test_components_without_end_are_refused(tmp_path: Path) -> None:
    from tests.formats.test_cuts import vtu

    path = tmp_path / "a.vtu"
    vtu(path, "ascii", "None")
    path.write_text(path.read_text().replace('NumberOfComponents="6"', 'NumberOfComponents="2000000000"'))
    assert "is said to hold" in refused(path)


@pytest.mark.parametrize("encoding", [("appended", "None"), ("binary", "ZLib"), ("binary", "LZMA")])
def test_arrays_that_cannot_lie_in_the_file_are_refused_before_they_are_allocated(
    tmp_path: Path, encoding: tuple[str, str], monkeypatch: pytest.MonkeyPatch
) -> None:
    from ironstone.formats import vtu as module
    from tests.formats.test_cuts import vtu

    path = tmp_path / "a.vtu"
    vtu(path, *encoding)
    list(module.read(path))
    path.write_bytes(path.read_bytes().replace(b'NumberOfComponents="6"', b'NumberOfComponents="900000000"'))
    monkeypatch.setattr(module, "updated", lambda *_: pytest.fail("the reader was asked"))
    with pytest.raises(IronstoneError, match=r"'.+' is said to hold .* GB, more than .* of file can"):
        list(module.read(path))


def test_the_limit_is_the_machines_and_leaves_it_room() -> None:
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    assert 0 < memory_limit() <= whole


def test_a_reader_ends_with_the_process_that_started_it(tmp_path: Path) -> None:
    """The parent is killed while its reader waits for a file: a moment later the reader is gone as well."""
    code = "from ironstone.formats.series import _reader\nimport time\np = _reader()\nprint(p.pid, flush=True)\ntime.sleep(600)\n"
    parent = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE)
    assert parent.stdout
    child = int(parent.stdout.readline())
    time.sleep(1.5)
    os.kill(parent.pid, signal.SIGKILL)
    parent.wait()
    for _ in range(100):
        state = Path(f"/proc/{child}/stat")
        if not state.exists() or state.read_text().split()[2] == "Z":
            return
        time.sleep(0.1)
    os.kill(child, signal.SIGKILL)
    pytest.fail("the reader lived on")
