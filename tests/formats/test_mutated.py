"""Damaged files of every format: a clear error or a sound mesh, never a crash, a hang, or a mesh that cannot be."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.formats.out import write
from ironstone.formats.registry import RawArray, RawStep
from ironstone.formats.series import load, read_series
from tests.formats.test_peers import by_meshio, exodus
from tests.models import TENSOR, crooked

KINDS = ("vtk", "vtu", "vtkhdf", "uff", "exo", "xdmf")


@pytest.fixture(scope="module")
def sound(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    folder = tmp_path_factory.mktemp("sound")
    mesh = crooked(CELLS[12])
    step = RawStep(mesh.points, mesh.types, mesh.offsets, mesh.connectivity, {"moved": RawArray(mesh.points)}, time=0.5,
                   node_ids=mesh.node_ids, corner_data={"stress": RawArray(np.arange(48.0).reshape(8, 6), TENSOR)})  # fmt: skip
    for suffix in ("vtu", "vtkhdf", "uff"):
        write(folder / f"one.{suffix}", iter([step]))
    exodus(folder / "one.exo", CELLS[12], "HEX8", list(range(8)))
    by_meshio(CELLS[12]).write(folder / "one.vtk", binary=False)
    by_meshio(CELLS[12]).write(folder / "one.xdmf", data_format="XML")
    return {kind: folder / f"one.{kind}" for kind in KINDS}


@pytest.mark.usefixtures("one_reader")
@settings(max_examples=8, deadline=None, suppress_health_check=list(HealthCheck))
@given(data=st.data())
@pytest.mark.parametrize("kind", KINDS)
def test_a_damaged_file_is_an_error_or_still_a_mesh(
    sound: dict[str, Path], tmp_path_factory: pytest.TempPathFactory, kind: str, data: st.DataObject
) -> None:
    """Each damage is read in the child process, as intake does it: cut, overwritten, or stretched at a random place."""
    whole = sound[kind].read_bytes()
    folder = tmp_path_factory.mktemp("damaged")
    paths = []
    for i in range(6):
        at = data.draw(st.integers(0, len(whole) - 1))
        how = data.draw(st.sampled_from(("cut", "overwrite", "insert", "number")))
        noise = data.draw(st.binary(min_size=1, max_size=12))
        damaged = {
            "cut": whole[:at],
            "overwrite": whole[:at] + noise + whole[at + len(noise) :],
            "insert": whole[:at] + noise + whole[at:],
            "number": whole[:at] + b"99999999" + whole[at + 8 :],
        }[how]
        paths.append(folder / f"bad{i}.{kind}")
        paths[-1].write_bytes(damaged)
    try:
        for path in paths:
            try:
                for _, stored in read_series([path], folder):
                    step = load(stored)
                    if not step.same_mesh:
                        assert step.connectivity.max(initial=0) < len(step.points)
                        assert np.isfinite(step.points).all()
            except IronstoneError as error:
                assert path.name in str(error) or "bad" in str(error) or "memory" in str(error), "it says which file"
                assert "Traceback" not in str(error)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


@pytest.mark.usefixtures("plain_readers")
def test_a_file_that_kills_its_reader_is_an_error(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A reader that ends its process takes nothing else with it."""
    module = tmp_path / "deadly_reader.py"
    module.write_text("import os\ndef read(path):\n    os._exit(9)\n    yield\n")
    site = tmp_path / "sitecustomize.py"
    site.write_text("from ironstone.formats.registry import READERS\nREADERS['.deadly'] = 'deadly_reader'\n")
    monkeypatch.setenv("PYTHONPATH", str(tmp_path))
    monkeypatch.syspath_prepend(str(tmp_path))
    from ironstone.formats.registry import READERS

    monkeypatch.setitem(READERS, ".deadly", "deadly_reader")
    path = tmp_path / "x.deadly"
    path.write_text("x")
    with pytest.raises(IronstoneError, match=r"stopped while it read x\.deadly"):
        list(read_series([path], tmp_path))
