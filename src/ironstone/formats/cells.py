"""Cells as writers have them, brought to the shapes that are known: Lagrange cells, polygons, cells of many, a missing centre."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.formats.registry import RawArray, RawStep

# VTK's Lagrange cells by number of nodes: up to the second degree their nodes are counted as those of the plain shape.
_LAGRANGE = {
    68: ("line", {2: 3, 3: 21}),
    69: ("triangle", {3: 5, 6: 22}),
    70: ("quadrilateral", {4: 9, 8: 23, 9: 28}),
    71: ("tetrahedron", {4: 10, 10: 24}),
    72: ("hexahedron", {8: 12, 20: 25, 26: 29, 27: 29}),
    73: ("wedge", {6: 13, 15: 26, 18: 32}),
    74: ("pyramid", {5: 14, 13: 27}),
}
_BEZIER = range(75, 82)
# Cells of images count their corners along the axes, not around.
_OF_IMAGES = ((8, 9, [0, 1, 3, 2]), (11, 12, [0, 1, 3, 2, 4, 5, 7, 6]))
_POLYVERTEX, _POLYLINE, _STRIP, _POLYGON = 2, 4, 6, 7
_POLYGONS = {3: 5, 4: 9}
HEX27 = 29
# The middle of a hexahedron of the second order made of its other nodes: what a cubic or lower function has there (Gordon and Hall
# 1973, blending of faces, edges and corners): half the faces less a quarter of the edges and an eighth of the corners.
CENTRE = np.concatenate([np.full(8, 1 / 8), np.full(12, -1 / 4), np.full(6, 1 / 2)])


def known_cells(raw: RawStep, path: Path) -> RawStep:
    """The same step with every cell of a known shape, and what was made of what in its notes.

    Raises IronstoneError that names a shape that is not known.
    """
    present = np.flatnonzero(np.bincount(raw.types, minlength=256)).tolist()
    sizes = np.diff(raw.offsets)
    if not any(t not in CELLS for t in present) and not (HEX27 in present and (sizes[raw.types == HEX27] == 26).any()):
        return raw
    for vtk in present:
        if vtk in _BEZIER:
            raise IronstoneError(f"{path.name} has Bezier cells (VTK {vtk}), which are not read.", "Export Lagrange cells.")
        if vtk in _LAGRANGE:
            raw = _plain(raw, vtk, path)
        elif vtk == _POLYGON:
            raw = _polygons(raw, path)
        elif vtk in (_POLYVERTEX, _POLYLINE, _STRIP):
            raw = _split(raw, vtk)
    raw = _of_images(raw)
    return _with_centres(raw)


def _plain(raw: RawStep, vtk: int, path: Path) -> RawStep:
    word, by_size = _LAGRANGE[vtk]
    here, sizes = raw.types == vtk, np.diff(raw.offsets)
    types = raw.types.copy()
    for size in np.unique(sizes[here]).tolist():
        if size not in by_size:
            raise IronstoneError(
                f"{path.name} has Lagrange {word}s of {size} nodes, which are not read: of a degree above two.",
                "Export the result with elements of the first or second degree.",
            )
        types[here & (sizes == size)] = by_size[size]
    return replace(raw, types=types)


def _polygons(raw: RawStep, path: Path) -> RawStep:
    here, sizes = raw.types == _POLYGON, np.diff(raw.offsets)
    many = np.setdiff1d(sizes[here], list(_POLYGONS))
    if len(many):
        raise IronstoneError(
            f"{path.name} has polygons of {int(many[0])} corners, which are not read.", "Export triangles and quadrilaterals."
        )
    types = raw.types.copy()
    for size, vtk in _POLYGONS.items():
        types[here & (sizes == size)] = vtk
    return replace(raw, types=types)


def _of_images(raw: RawStep) -> RawStep:
    for image, plain, order in _OF_IMAGES:
        here = np.flatnonzero(raw.types == image)
        if len(here):
            types, connectivity = raw.types.copy(), raw.connectivity.copy()
            at = raw.offsets[here][:, None] + np.arange(len(order))
            connectivity[at] = connectivity[at][:, order]
            types[here] = plain
            raw = replace(raw, types=types, connectivity=connectivity)
    return raw


# Of a cell of many: how many points each piece has, how many pieces of so many points, and what VTK calls one.
_PIECES = {_POLYVERTEX: (1, 1), _POLYLINE: (2, 3), _STRIP: (3, 5)}


def _split(raw: RawStep, vtk: int) -> RawStep:
    """Cells that are several in one taken apart; what an element has is that of all its pieces."""
    width, single = _PIECES[vtk]
    sizes = np.diff(raw.offsets)
    pieces = np.where(raw.types == vtk, np.maximum(sizes - width + 1, 0), 1)
    if raw.corner_data or raw.element_ids is not None or raw.element_sets:
        return raw
    owner = np.repeat(np.arange(len(raw.types)), pieces)
    rank = np.arange(len(owner)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    mine = raw.types[owner] == vtk
    length = np.where(mine, width, sizes[owner])
    offsets = np.concatenate([[0], np.cumsum(length)])
    within = np.arange(offsets[-1]) - np.repeat(offsets[:-1], length)
    start = raw.offsets[owner] + np.where(mine, rank, 0)
    connectivity = raw.connectivity[np.repeat(start, length) + within]
    if vtk == _STRIP:
        # Every second triangle of a strip runs the other way round.
        odd = offsets[:-1][mine & (rank % 2 == 1)]
        connectivity[odd], connectivity[odd + 1] = connectivity[odd + 1].copy(), connectivity[odd].copy()
    types = raw.types[owner].copy()
    types[mine] = single
    said = []
    if len(types) != len(raw.types):
        what = {_POLYVERTEX: "points", _POLYLINE: "lines", _STRIP: "triangles"}[vtk]
        said = [f"Cells of many {what} were taken apart: {len(raw.types)} cells are {len(types)} elements."]
    return replace(
        raw,
        types=types,
        offsets=offsets.astype(np.int64),
        connectivity=connectivity,
        cell_data={n: replace(a, values=a.values[owner]) for n, a in raw.cell_data.items()},
        part=None if raw.part is None else raw.part[owner],
        material=None if raw.material is None else raw.material[owner],
        notes=[*raw.notes, *said],
    )


def _with_centres(raw: RawStep) -> RawStep:
    """Hexahedra of 26 nodes given their middle, made of the others; what nodes have likewise."""
    sizes = np.diff(raw.offsets)
    short = np.flatnonzero((raw.types == HEX27) & (sizes == 26))
    if not len(short) or raw.corner_data:
        return raw
    nodes = raw.connectivity[raw.offsets[short][:, None] + np.arange(26)]
    first = len(raw.points)

    def grown(values: NDArray[np.generic]) -> NDArray[np.generic]:
        if values.dtype.kind != "f":
            return np.concatenate([values, values[nodes[:, 0]]])
        made = np.einsum("n,enc->ec", CENTRE, values[nodes].astype(np.float64))
        return np.concatenate([values, made.astype(values.dtype)])

    new = np.insert(raw.connectivity, raw.offsets[short + 1], first + np.arange(len(short)))
    sizes[short] = 27
    ids = raw.node_ids
    if ids is not None:
        ids = np.concatenate([ids, int(ids.max(initial=0)) + 1 + np.arange(len(short))])
    return replace(
        raw,
        points=np.asarray(grown(np.asarray(raw.points, dtype=np.float64)), dtype=np.float64),
        connectivity=new,
        offsets=np.concatenate([[0], np.cumsum(sizes)]).astype(np.int64),
        point_data={n: RawArray(grown(a.values), a.components, a.harmonic) for n, a in raw.point_data.items()},
        node_ids=ids,
        notes=[*raw.notes, f"{len(short)} hexahedra of 26 nodes were given their middle, made of the others."],
    )
