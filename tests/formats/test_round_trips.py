"""What is written is read back the same, or the writer says what it could not carry; VTK reads what we write."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkIOHDF import vtkHDFReader

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.formats.out import WRITERS, write
from ironstone.formats.registry import RawArray, RawStep, steps_of
from ironstone.store import Review, intake
from ironstone.store.export import export, raw_steps
from ironstone.store.source import ReviewSource
from tests.models import SOLIDS, TENSOR, crooked

TOLERANCE = {".vtu": 1e-12, ".vtkhdf": 1e-12, ".uff": 2e-5}


def taken_back(path: Path, folder: Path) -> ReviewSource:
    review = Review.create(folder / f"back{path.suffix}.ironstone")
    return review.result(intake(review, [path], system="mm-N-s-t-MPa"))


@pytest.mark.parametrize("suffix", WRITERS)
def test_a_result_comes_back_as_it_was(bar: ReviewSource, tmp_path: Path, suffix: str) -> None:
    path = tmp_path / f"bar{suffix}"
    steps = [1] if suffix == ".vtu" else [0, 1]
    export(bar, path, steps)
    back = taken_back(path, tmp_path)
    assert len(back.steps) == len(steps)
    assert back.steps[-1].value == pytest.approx(0.5)
    assert back.mesh.types.tolist() == bar.mesh.types.tolist()
    assert back.mesh.points[back.mesh.connectivity] == pytest.approx(bar.mesh.points[bar.mesh.connectivity])
    assert back.mesh.part.tolist() == bar.mesh.part.tolist()
    assert {n: f.location for n, f in back.fields.items() if f.stored and not f.names} == {
        n: f.location for n, f in bar.fields.items() if f.stored
    }
    shift = 1 if suffix == ".uff" else 0
    for name, nodes in bar.mesh.node_sets.items():
        assert set(back.mesh.node_ids[back.mesh.node_sets[name]]) == set(bar.mesh.node_ids[nodes])
    assert set(back.mesh.element_ids - shift) == set(bar.mesh.element_ids)
    for field in bar.fields.values():
        if not field.stored:
            continue
        mine = evaluate(Reading(field.name, step=1), bar, AtCorners()).values
        theirs = evaluate(Reading(field.name, step=len(back.steps) - 1), back, AtCorners()).values
        assert theirs == pytest.approx(mine, rel=TOLERANCE[suffix], abs=1e-9), field.name


@pytest.mark.parametrize("cell", SOLIDS, ids=lambda c: c.name)
@pytest.mark.parametrize("suffix", WRITERS)
def test_every_solid_keeps_the_order_of_its_nodes(tmp_path: Path, suffix: str, cell) -> None:  # type: ignore[no-untyped-def]
    """An element whose nodes come back in another order has another volume, or none; 20-node bricks are the usual victims."""
    mesh = crooked(cell)
    corners = np.arange(cell.size * 6, dtype=float).reshape(-1, 6)
    step = RawStep(mesh.points, mesh.types, mesh.offsets, mesh.connectivity, time=0.0, node_ids=mesh.node_ids,
                   corner_data={"stress": RawArray(corners, TENSOR)})  # fmt: skip
    path = tmp_path / f"one{suffix}"
    lost = write(path, iter([step]))
    if any("no such shape" in w for w in lost):
        assert cell.name in ("pyramid5", "pyramid13", "wedge18", "hex27"), "told, not written wrongly"
        return
    back = next(iter(steps_of(path)))
    assert back.points[back.connectivity] == pytest.approx(mesh.points[mesh.connectivity], abs=1e-9)
    data = back.corner_data or back.point_data
    values, names = data["stress"].values, data["stress"].components
    assert names in (TENSOR, ("xx", "xy", "yy", "xz", "yz", "zz"))
    assert values[:, [names.index(n) for n in TENSOR]] == pytest.approx(corners)


def test_vtk_reads_the_steps_we_write(bar: ReviewSource, tmp_path: Path) -> None:
    """The reference reader of the format (VTK's own) finds the same mesh, steps and values."""
    path = tmp_path / "bar.vtkhdf"
    export(bar, path, [0, 1])
    reader = vtkHDFReader()
    reader.SetFileName(str(path))
    reader.UpdateInformation()
    assert reader.GetNumberOfSteps() == 2
    for step in (0, 1):
        reader.SetStep(step)
        reader.Update()
        grid = reader.GetOutput()
        assert grid.GetNumberOfCells() == 3
        raw = next(raw_steps(bar, [step]))
        stress = vtk_to_numpy(grid.GetPointData().GetArray("stress"))
        assert stress == pytest.approx(raw.corner_data["stress"].values)
        moved = vtk_to_numpy(grid.GetPointData().GetArray("displacement"))
        assert moved == pytest.approx(raw.point_data["displacement"].values[bar.mesh.connectivity])


def test_component_names_survive_vtkhdf(bar: ReviewSource, tmp_path: Path) -> None:
    path = tmp_path / "bar.vtkhdf"
    export(bar, path, [0])
    assert next(iter(steps_of(path))).point_data["stress"].components == TENSOR


def test_what_a_format_cannot_carry_is_said(bar: ReviewSource, tmp_path: Path) -> None:
    lost = export(bar, tmp_path / "bar.uff", [0, 1])
    assert any("six digits" in w for w in lost)
    step = next(raw_steps(bar, [0]))
    step.part_names, step.kind = ("web", "flange"), "mode"
    answer = write(tmp_path / "named.vtu", iter([step]))
    assert any("web, flange" in w for w in answer) and any("kind of the step" in w for w in answer)


def test_a_format_that_is_not_written_is_named_with_those_that_are(bar: ReviewSource, tmp_path: Path) -> None:
    with pytest.raises(IronstoneError, match=r"Formats written: \.vtu, \.vtkhdf, \.uff"):
        export(bar, tmp_path / "bar.xyz", [0])
    with pytest.raises(IronstoneError, match="holds one step"):
        export(bar, tmp_path / "bar.vtu", [0, 1])


def test_a_missing_value_is_not_written_as_a_number(tmp_path: Path) -> None:
    mesh = crooked(CELLS[12])
    values = np.arange(8.0)[:, None]
    values[3] = np.nan
    for suffix in (".vtu", ".vtkhdf", ".uff"):
        step = RawStep(mesh.points, mesh.types, mesh.offsets, mesh.connectivity, {"t": RawArray(values)}, time=1.0,
                       node_ids=mesh.node_ids)  # fmt: skip
        write(tmp_path / f"gap{suffix}", iter([step]))
        back = next(iter(steps_of(tmp_path / f"gap{suffix}"))).point_data["t"].values
        assert np.isnan(back[3, 0]) and back[[0, 7], 0].tolist() == [0.0, 7.0]
