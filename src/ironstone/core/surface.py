"""The skin that is looked at: faces used by one visible element, cut into triangles fine enough for curved sides."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.cells import CELLS, face_samples
from ironstone.core.evaluate import AtSamples, positions
from ironstone.core.mesh import Float, Int, Mesh


@dataclass(frozen=True, eq=False)
class Surface:
    """Display vertices inside elements, and what joins them.

    vertices: places of the vertices; face: (vertices,) face each belongs to; triangles: (t, 3) and edges, outline: (e, 2)
    index vertices. No vertex is shared between faces, so each face keeps its own values.
    """

    vertices: AtSamples
    face: NDArray[np.int32]
    triangles: NDArray[np.int32]
    edges: NDArray[np.int32]
    outline: NDArray[np.int32]
    face_element: Int
    face_vertex: Int
    face_corners: NDArray[np.int8]
    face_natural: Float
    points: Float

    @cached_property
    def triangle_areas(self) -> Float:
        a, b, c = (self.points[self.triangles[:, i]] for i in range(3))
        areas: Float = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2.0
        return areas


def usual_detail(faces: int, curved: bool) -> int:
    """How often a face's side is cut when the analyst has set nothing: fewer for many faces."""
    if not curved:
        return 2 if faces < 5_000 else 1
    return 4 if faces < 3_000 else 2 if faces < 60_000 else 1


def skin(mesh: Mesh, visible: NDArray[np.bool_] | None = None, detail: int | None = None, fold: float = 30.0) -> Surface:
    """Skin of the visible elements (elements,). ``detail``: pieces a side; ``fold``: degrees above which an edge is outline."""
    visible = np.ones(len(mesh.types), dtype=bool) if visible is None else visible
    mixture = _mixture(len(mesh.points))
    keys, elements, locals_, counts = [], [], [], []
    for block in mesh.blocks:
        here = np.flatnonzero(visible[block.elements])
        for local, nodes in enumerate(block.cell.faces):
            corners = _corner_count(nodes, block.cell.order)
            key = np.zeros((len(here), 2), dtype=np.uint64)
            for node in nodes[:corners]:
                key += mixture[block.nodes[here, node]]
            keys.append(key)
            elements.append(block.elements[here])
            locals_.append(np.full(len(here), local, dtype=np.int8))
            counts.append(np.full(len(here), corners, dtype=np.int8))
    single = _used_once(_join(keys, (0, 2)).astype(np.uint64, copy=False))
    owner = _join(elements, (0,)).astype(np.int64, copy=False)
    # Faces of flat elements are always seen; two that lie on each other are both kept.
    flat = np.array([CELLS[int(t)].dimension == 2 for t in range(256) if t in CELLS])
    is_flat = np.zeros(256, dtype=bool)
    is_flat[[t for t in range(256) if t in CELLS]] = flat
    seen = np.flatnonzero(single | is_flat[mesh.types[owner]])
    chosen = np.stack([owner[seen], _join(locals_, (0,))[seen], _join(counts, (0,))[seen]], axis=1).astype(np.int64)
    order = np.lexsort((chosen[:, 1], chosen[:, 0]))
    chosen = chosen[order]
    curved = any(block.cell.order == 2 for block in mesh.blocks)
    return _build(mesh, chosen, detail or usual_detail(len(chosen), curved), fold)


def _corner_count(nodes: tuple[int, ...], order: int) -> int:
    return len(nodes) // order


def _mixture(nodes: int) -> NDArray[np.uint64]:
    """Two 64-bit numbers for each node, (nodes, 2), whose sums tell sets of nodes apart whatever their order (splitmix64)."""
    result = np.empty((nodes, 2), dtype=np.uint64)
    for column, seed in enumerate((0x9E3779B97F4A7C15, 0xD1B54A32D192ED03)):
        z = (np.arange(nodes, dtype=np.uint64) + np.uint64(1)) * np.uint64(seed)
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        result[:, column] = z ^ (z >> np.uint64(31))
    return result


def _used_once(key: NDArray[np.uint64]) -> NDArray[np.bool_]:
    """Which rows (n, 2) occur once. Sorted by the first number; alike only where the second agrees too."""
    order = np.argsort(key[:, 0])
    alike = key[order[1:], 0] == key[order[:-1], 0]
    at = np.flatnonzero(alike)
    alike[at] = key[order[at], 1] == key[order[at + 1], 1]
    once = np.ones(len(key), dtype=bool)
    once[order[1:][alike]] = False
    once[order[:-1][alike]] = False
    return once


def _build(mesh: Mesh, chosen: NDArray[np.int64], detail: int, fold: float) -> Surface:
    faces = len(chosen)
    element_of: list[NDArray[Any]] = []
    xi_of: list[NDArray[Any]] = []
    face_of: list[NDArray[Any]] = []
    triangles: list[NDArray[Any]] = []
    edges: list[NDArray[Any]] = []
    sides: list[NDArray[Any]] = []
    face_natural = np.zeros((faces, 4, 3))
    start = np.zeros(faces, dtype=np.int64)
    total = 0
    types = mesh.types[chosen[:, 0]] if faces else np.zeros(0, dtype=np.uint8)
    for vtk in np.unique(types):
        cell = CELLS[int(vtk)]
        for local, nodes in enumerate(cell.faces):
            here = np.flatnonzero((types == vtk) & (chosen[:, 1] == local))
            if not len(here):
                continue
            corners = _corner_count(nodes, cell.order)
            weights, cut, rim = face_samples(corners, detail)
            natural = cell.nodes[list(nodes[:corners])]
            count = len(weights)
            base = total + count * np.arange(len(here))
            start[here] = base
            face_natural[here, :corners] = natural
            face_natural[here, corners:] = natural[-1]
            element_of.append(np.repeat(chosen[here, 0], count))
            xi_of.append(np.tile(weights @ natural, (len(here), 1)))
            face_of.append(np.repeat(here, count))
            triangles.append((base[:, None, None] + cut).reshape(-1, 3))
            edges.append((base[:, None, None] + rim).reshape(-1, corners, detail, 2).swapaxes(0, 1).reshape(-1, detail, 2))
            element_nodes = mesh.connectivity[mesh.offsets[chosen[here, 0]][:, None] + np.array(nodes[:corners])]
            for side in range(corners):
                ends = np.sort(element_nodes[:, [side, (side + 1) % corners]], axis=1)
                sides.append(np.column_stack([ends, here, np.full(len(here), side)]))
            total += count * len(here)
    vertices = AtSamples(_join(element_of, (0,)).astype(np.int64), _join(xi_of, (0, 3)).astype(np.float64))
    points = positions(mesh, vertices)
    cut_all = _join(triangles, (0, 3)).astype(np.int32)
    face = _join(face_of, (0,)).astype(np.int32)
    side_list = _join(sides, (0, 4)).astype(np.int64)
    normals = _face_normals(points, cut_all, face, faces)
    once, sharp = _edge_classes(side_list, normals, fold)
    pieces = _join(edges, (0, detail, 2)).astype(np.int32)
    return Surface(
        vertices=vertices,
        face=face,
        triangles=cut_all,
        edges=pieces[once].reshape(-1, 2),
        outline=pieces[sharp].reshape(-1, 2),
        face_element=chosen[:, 0],
        face_vertex=start,
        face_corners=chosen[:, 2].astype(np.int8),
        face_natural=face_natural,
        points=points,
    )


def _join(pieces: list[NDArray[Any]], empty: tuple[int, ...]) -> NDArray[Any]:
    return np.concatenate(pieces) if pieces else np.zeros(empty)


def _face_normals(points: Float, triangles: NDArray[np.int32], face: NDArray[np.int32], count: int) -> Float:
    normal = np.zeros((count, 3))
    if len(triangles):
        a, b, c = (points[triangles[:, i]] for i in range(3))
        np.add.at(normal, face[triangles[:, 0]], np.cross(b - a, c - a))
    unit: Float = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    return unit


def _edge_classes(sides: NDArray[np.int64], normals: Float, fold: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which sides to draw as element edges (each once), and which as outline: folds, borders, and branchings."""
    if not len(sides):
        return np.zeros(0, dtype=bool), np.zeros(0, dtype=bool)
    order = np.lexsort((sides[:, 1], sides[:, 0]))
    ordered = sides[order]
    fresh = np.ones(len(sides), dtype=bool)
    fresh[1:] = (ordered[1:, :2] != ordered[:-1, :2]).any(1)
    group = np.cumsum(fresh) - 1
    count = np.bincount(group)
    first = np.flatnonzero(fresh)
    bend = np.ones(len(first), dtype=bool)
    pair = count == 2
    a, b = ordered[first[pair], 2], ordered[first[pair] + 1, 2]
    cosine = (normals[a] * normals[b]).sum(1)
    bend[pair] = cosine < np.cos(np.radians(fold))
    once = np.zeros(len(sides), dtype=bool)
    once[order[first]] = True
    sharp = np.zeros(len(sides), dtype=bool)
    sharp[order[first[bend]]] = True
    return once, sharp


def face_point(surface: Surface, face: int, s: float, t: float) -> AtSamples:
    """The place inside an element of face coordinates s, t in 0..1 (as drawn)."""
    corners = int(surface.face_corners[face])
    if corners == 4:
        weights = np.array([(1 - s) * (1 - t), s * (1 - t), s * t, (1 - s) * t])
    else:
        weights = np.array([1 - s - t, s, t])
    xi = weights @ surface.face_natural[face, :corners]
    return AtSamples(surface.face_element[face : face + 1], xi[None, :])


def face_coordinates(surface: Surface) -> NDArray[np.float32]:
    """Face coordinates s, t of every display vertex, (vertices, 2), as ``face_point`` takes them back."""
    result = np.zeros((len(surface.face), 2), dtype=np.float32)
    counts = np.bincount(surface.face, minlength=len(surface.face_element))
    for corners in (3, 4):
        here = np.flatnonzero(surface.face_corners == corners)
        if not len(here):
            continue
        count = int(counts[here[0]])
        detail = round(np.sqrt(count)) - 1 if corners == 4 else round((np.sqrt(8 * count + 1) - 3) / 2)
        weights, _, _ = face_samples(corners, detail)
        st = np.stack([weights[:, 1] + weights[:, 2], weights[:, 2] + weights[:, 3]], 1) if corners == 4 else weights[:, 1:]
        result[(surface.face_vertex[here][:, None] + np.arange(count)).ravel()] = np.tile(st, (len(here), 1))
    return result


def distribution(surface: Surface, values: Float, low: float, high: float, bins: int = 256) -> Float:
    """Share of the skin's area in each of ``bins`` equal classes between low and high; places without a value left out."""
    at = values[surface.triangles].mean(1)
    there = ~np.isnan(at)
    areas = surface.triangle_areas
    if not there.any() or not high > low:
        return np.zeros(bins)
    position = np.clip(((at[there] - low) / (high - low) * bins).astype(np.int64), 0, bins - 1)
    shares: Float = np.bincount(position, weights=areas[there], minlength=bins) / max(float(areas.sum()), 1e-300)
    return shares
