"""Sense checks of a mesh on arrival: what is wrong, where, and what to do about it, in words."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.mesh import Block, Float, Int, Mesh

FEW = 5
MANY_PLACES = 1_600_000


def mesh_warnings(mesh: Mesh) -> list[str]:
    """Folded elements, those numbered the other way round, loose nodes and repeated numbers."""
    found = []
    ways = orientations(mesh)
    folded, other = np.flatnonzero(ways == 0), np.flatnonzero(ways < 0)
    if len(folded):
        found.append(
            f"{_count(len(folded), 'element')} folded ({_some(mesh.element_ids[folded])}): part of the volume is below zero, which "
            "spoils means and recovered fields there. Check the order of their nodes."
        )
    # A planar model may be numbered clockwise throughout: that is a way of looking, and nothing to tell.
    if len(other) and not (mesh.planar and len(other) == len(mesh.types)):
        found.append(f"{_count(len(other), 'element')} numbered the other way round: they are the same body, and are read as it.")
    loose = np.flatnonzero(np.bincount(mesh.connectivity, minlength=len(mesh.points)) == 0)
    if len(loose):
        found.append(
            f"{_count(len(loose), 'node')} used by no element ({_some(mesh.node_ids[loose])}): shown nowhere, but counted in sets."
        )
    for ids, what in ((mesh.node_ids, "node"), (mesh.element_ids, "element")):
        unique, counts = np.unique(ids, return_counts=True)
        if len(unique) < len(ids):
            twice = unique[counts > 1]
            found.append(
                f"{what.capitalize()} number {_some(twice)} stands for more than one {what}: asked for, the first is meant."
            )
    return found


def orientations(mesh: Mesh) -> NDArray[np.int8]:
    """Which way round the nodes of solids (and faces of a planar model) are numbered, (elements,): 1 as usual, -1 the other way
    round, 0 of an element that is folded, its volume ratio above zero in part and below in part; 1 of what has no such way.

    At every integration point; at the middle alone where that would be more than 1.6 million places (200,000 linear hexahedra).
    """
    ways = np.ones(len(mesh.types), dtype=np.int8)
    for block in mesh.blocks:
        cell = block.cell
        if cell.dimension < 3 and not (cell.dimension == 2 and mesh.planar):
            continue
        xi = cell.quadrature[0]
        if len(block.elements) * len(xi) > MANY_PLACES:
            xi = cell.centre
        for piece in block.pieces(65_536):
            below = _volume_ratios(mesh, piece, cell, xi) < 0.0
            ways[piece.elements] = np.where(below.all(1), -1, np.where(below.any(1), 0, 1))
    return ways


def _volume_ratios(mesh: Mesh, piece: Block, cell: Cell, xi: Float) -> Float:
    """The determinant of dx/dxi (of a flat cell, of its first two rows) at places, (elements, places)."""
    gradient = cell.gradient(xi)
    flat = gradient.transpose(1, 0, 2).reshape(cell.size, -1)
    rows = [(mesh.points[:, axis][piece.nodes] @ flat).reshape(-1, len(xi), cell.dimension) for axis in range(cell.dimension)]
    if cell.dimension == 2:
        (a, b), (c, d) = (np.moveaxis(row, -1, 0) for row in rows)
        ratio: Float = a * d - b * c
        return ratio
    (a, b, c), (d, e, f), (g, h, i) = (np.moveaxis(row, -1, 0) for row in rows)
    ratio = a * (e * i - f * h) + b * (f * g - d * i) + c * (d * h - e * g)
    return ratio


def _some(ids: Int) -> str:
    shown = ", ".join(str(i) for i in ids[:FEW].tolist())
    return shown + (f" and {len(ids) - FEW} more" if len(ids) > FEW else "")


def _count(count: int, what: str) -> str:
    return f"1 {what} is" if count == 1 else f"{count} {what}s are"
