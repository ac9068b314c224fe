"""Sense checks of a mesh on arrival: what is wrong, where, and what to do about it, in words."""

from __future__ import annotations

import numpy as np

from ironstone.core.mesh.cells import Cell
from ironstone.core.mesh.mesh import Block, Float, Int, Mesh

FEW = 5
MANY_PLACES = 1_600_000


def mesh_warnings(mesh: Mesh) -> list[str]:
    """Inverted elements, loose nodes and repeated numbers."""
    found = []
    inverted = inverted_elements(mesh)
    if len(inverted):
        found.append(
            f"{_count(len(inverted), 'element')} turned inside out ({_some(mesh.element_ids[inverted])}): a volume below zero in "
            "them spoils means and recovered fields there. Check the order of their nodes."
        )
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


def inverted_elements(mesh: Mesh) -> Int:
    """Solids (and faces of a planar model) whose volume ratio is below zero somewhere, by position.

    At every integration point; at the middle alone where that would be more than 1.6 million places (200,000 linear hexahedra).
    """
    found = []
    for block in mesh.blocks:
        cell = block.cell
        if cell.dimension < 3 and not (cell.dimension == 2 and mesh.planar):
            continue
        xi = cell.quadrature[0]
        if len(block.elements) * len(xi) > MANY_PLACES:
            xi = cell.centre
        for piece in block.pieces(65_536):
            below = _volume_ratios(mesh, piece, cell, xi) < 0.0
            # Of a linear wedge both ways round are in use: it is wrong where it is turned over in part.
            found.append(piece.elements[below.any(1) & ~(below.all(1) & (cell.name == "wedge6"))])
    turned = np.sort(np.concatenate(found)) if found else np.zeros(0, dtype=np.int64)
    # A planar model may be numbered clockwise throughout: that is a way of looking, not a fault.
    return turned if not (mesh.planar and len(turned) == len(mesh.types)) else turned[:0]


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
