"""The elements' own interpolation against VTK's, at random places of every shape both know."""

from __future__ import annotations

import numpy as np
import pytest
from vtkmodules.vtkCommonCore import reference
from vtkmodules.vtkCommonDataModel import vtkGenericCell

from ironstone.core.geometry.locate import find
from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.places import AtSamples
from tests.models import SHAPES, crooked

# VTK's linear wedge counts its base the other way round, and its pyramids shrink towards another corner.
SHARED = [c for c in SHAPES if c.family not in ("pyramid",) and c.name != "wedge6"]


def vtk_cell(cell: Cell, points: np.ndarray) -> vtkGenericCell:
    made = vtkGenericCell()
    made.SetCellType(cell.vtk)
    for i, p in enumerate(points):
        made.GetPointIds().SetId(i, i)
        made.GetPoints().SetPoint(i, *p)
    return made


def inside(cell: Cell, count: int) -> np.ndarray:
    return np.random.default_rng(4).dirichlet(np.ones(cell.corners), count) @ cell.nodes[: cell.corners]


@pytest.mark.parametrize("cell", SHARED, ids=lambda c: c.name)
def test_a_place_inside_is_where_vtk_says(cell: Cell) -> None:
    mesh = crooked(cell)
    other = vtk_cell(cell, mesh.points)
    for xi in inside(cell, 25):
        found = [0.0, 0.0, 0.0]
        weights = [0.0] * cell.size
        other.EvaluateLocation(reference(0), list(xi), found, weights)
        assert np.array(weights) == pytest.approx(cell.shape(xi[None])[0], abs=1e-9)
        mine = positions(mesh, AtSamples(np.array([0]), xi[None]))[0]
        assert mine == pytest.approx(found, abs=1e-9)


@pytest.mark.parametrize("cell", [c for c in SHARED if c.dimension == 3], ids=lambda c: c.name)
def test_the_way_back_finds_the_same_natural_coordinates(cell: Cell) -> None:
    mesh = crooked(cell)
    for xi in inside(cell, 10):
        point = positions(mesh, AtSamples(np.array([0]), xi[None]))[0]
        assert find(mesh, point).xi[0] == pytest.approx(xi, abs=1e-6)
