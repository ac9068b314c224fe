"""Fields kept at Gauss points: how many an element has, where they are, and what they give at its corners."""

from __future__ import annotations

import numpy as np

from ironstone.core.field.fields import Field, Source, rows_of, run_of
from ironstone.core.field.loadings import computed
from ironstone.core.kept import kept_with
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.gauss import extrapolation, gauss_points, known_counts
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

# Elements that are looked at in one go.
FEW = 65_536


def gauss_rows(source: Source, field: Field, step: int, elements: Int) -> Float:
    """Values at Gauss points as the file holds them, (elements, points, components)."""
    return rows_of(source, field.name, step, elements).reshape(len(elements), field.points, -1)


@kept_with(256)
def gauss_count(source: Source, field: Field, cell: Cell) -> int:
    """How many Gauss points the elements of a shape have in a field.

    All columns where the mesh has one shape. Else the columns that any element of the shape fills at any step, brought up to the
    next number of points that is usual for the shape: a point that is missing everywhere does not make the rule a smaller one.
    """
    mesh = source.mesh
    if len(mesh.blocks) == 1:
        return field.points
    mine = np.flatnonzero(mesh.types == cell.vtk)
    filled = 0
    for step in (s for s in computed(source.steps) if source.at(s) is source):
        for start in range(0, len(mine), FEW):
            there = ~np.isnan(gauss_rows(source, field, step, mine[start : start + FEW])).all(axis=(0, 2))
            filled = max(filled, int(np.flatnonzero(there)[-1]) + 1 if there.any() else 0)
            if filled == field.points:
                break
        if filled == field.points:
            break
    usual = [n for n in known_counts(cell) if filled <= n <= field.points]
    return min(usual, default=filled or field.points)


def unplaced(source: Source, field: Field) -> str:
    """A shape of the mesh whose Gauss points lie where nobody has said, with their number ('hex8 with 14 points'); '' for none."""
    for block in source.mesh.blocks:
        count = gauss_count(source, field, block.cell)
        if count not in known_counts(block.cell):
            return f"{block.cell.name} with {count} points"
    return ""


def gauss_places(mesh: Mesh, element: int, cell: Cell, count: int) -> Float:
    """Where an element's Gauss points are, (count, 3); NaN where that is not known."""
    if count not in known_counts(cell):
        return np.full((count, 3), np.nan)
    return positions(mesh, AtSamples(np.full(count, element), gauss_points(cell, count)))


def gauss_positions(mesh: Mesh, element: Int, offsets: Int) -> Float:
    """Where the answers at all Gauss points of some elements are, (answers, 3). element: of each answer; offsets: where those of
    each element begin."""
    found = [
        gauss_places(mesh, int(element[first]), CELLS[int(mesh.types[element[first]])], int(last - first))
        for first, last in zip(offsets[:-1], offsets[1:], strict=True)
    ]
    return np.concatenate(found) if found else np.zeros((0, 3))


def extrapolated(source: Source, field: Field, step: int, corners: Int) -> Float:
    """Components at corners, extrapolated from the Gauss points with the functions of their grid; nothing is clipped.

    Where their places are not known the corners have their plain mean.
    """
    mesh = source.mesh
    owner: Int = mesh.owners(corners)
    if run_of(corners) is None:
        elements, back = np.unique(owner, return_inverse=True)
    else:
        elements, back = np.arange(owner[0], owner[-1] + 1), owner - owner[0]
    local = corners - mesh.offsets[owner]
    types = mesh.types[elements]
    result: Float | None = None
    for vtk in np.unique(types):
        cell = CELLS[int(vtk)]
        mine = types == vtk
        alone = bool(mine.all())
        place = np.arange(len(mine)) if alone else np.cumsum(mine) - 1
        count = gauss_count(source, field, cell)
        outward = extrapolation(cell, count) if count in known_counts(cell) else np.full((cell.size, count), 1.0 / count)
        table = gauss_rows(source, field, step, elements if alone else elements[mine])[:, :count]
        at_nodes = np.matmul(outward, table)
        if alone:
            own: Float = at_nodes.reshape(-1, table.shape[2])[back * cell.size + local]
            return own
        here = np.flatnonzero(mine[back])
        if result is None:
            result = np.full((len(corners), table.shape[2]), np.nan)
        result[here] = at_nodes[place[back[here]], local[here]]
    return np.zeros((0, (field.components and len(field.components)) or 1)) if result is None else result
