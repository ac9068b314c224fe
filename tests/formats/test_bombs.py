"""Files that ask for far more than they are: refused or told, before they fill the memory."""

from __future__ import annotations

from pathlib import Path

import h5py
import numpy as np
import pytest

from bench.faults_outside import _cube, _with_entities
from ironstone.core.errors import IronstoneError
from ironstone.formats import registry, vtkhdf
from ironstone.formats.registry import steps_of


def test_rows_that_are_of_no_node_are_told(tmp_path: Path) -> None:
    path = tmp_path / "rows.vtkhdf"
    _cube(path)
    with h5py.File(path, "r+") as file:
        file["VTKHDF/PointData"].create_dataset("heat", data=np.arange(1000.0))
    (step,) = steps_of(path)
    np.testing.assert_array_equal(step.point_data["heat"].values[:, 0], np.arange(8.0))
    assert step.notes == ["'heat' has 1000 rows where at most 8 are of anything: the rest is not read."]


def test_a_piece_that_is_far_larger_than_its_array_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(vtkhdf, "SMALL", 10_000)
    path = tmp_path / "piece.vtkhdf"
    _cube(path)
    with h5py.File(path, "r+") as file:
        group = file["VTKHDF/PointData"]
        group.create_dataset("heat", (8,), "f8", maxshape=(None,), chunks=(100_000,), compression="gzip")[:] = 1.0
    with pytest.raises(IronstoneError, match="'/VTKHDF/PointData/heat' is kept in pieces of"):
        list(steps_of(path))


def test_a_file_that_unpacks_to_many_times_its_size_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "cube.vtkhdf"
    _cube(path)
    assert not [n for s in steps_of(path) for n in s.notes]
    monkeypatch.setattr(registry, "MUCH", 100)
    monkeypatch.setattr(registry, "MANY_TIMES", 0)
    (step,) = steps_of(path)
    assert any("cube.vtkhdf unpacks to" in n for n in step.notes)


@pytest.mark.parametrize("suffix", [".vtu", ".pvd", ".xdmf"])
def test_entities_of_entities_are_not_expanded(tmp_path: Path, suffix: str) -> None:
    path = tmp_path / f"laughs{suffix}"
    _with_entities(path)
    with pytest.raises(IronstoneError):
        list(steps_of(path))
