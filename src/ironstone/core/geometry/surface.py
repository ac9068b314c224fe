"""What is looked at: faces used by one shown element, cut into triangles fine enough for curved sides, and bars as tubes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.geometry.solid import Drawn, octahedra, stacked, thickened, tubes
from ironstone.core.mesh.cells import CELLS, face_samples
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

MANY = 150_000
APART = 0.16


Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Turn:
    """Half a turn of a part, by position, about the line through ``at`` along ``axis``."""

    part: int
    at: Triple
    axis: Triple

    def of(self, vectors: Float) -> Float:
        """Vectors (n, 3) after the turn."""
        axis = np.array(self.axis) / max(float(np.linalg.norm(self.axis)), 1e-300)
        turned: Float = 2.0 * (vectors @ axis)[:, None] * axis - vectors
        return turned

    def members(self, mesh: Mesh, elements: Int) -> NDArray[np.bool_]:
        """Which of some elements (n,) are of the part."""
        found: NDArray[np.bool_] = mesh.part[elements] == self.part
        return found


@dataclass(frozen=True)
class Look:
    """What of a mesh is drawn, and how finely; none of it changes a value.

    detail: pieces a face's side is cut into, 0 leaves it to the model's size. hidden, translucent: parts, by position, that are
    left out or drawn so. every: all faces of every element in place of the skin. apart: every element shrunk towards its
    middle, so that one sees between them. solid: bars and shells at their own section and thickness where the result has them.
    turned: a part turned over about a hinge, as one opens a book.
    """

    detail: int = 0
    hidden: frozenset[int] = frozenset()
    translucent: frozenset[int] = frozenset()
    every: bool = False
    apart: bool = False
    solid: bool = False
    turned: Turn | None = None


@dataclass(frozen=True, eq=False)
class Surface:
    """Display vertices inside elements, and what joins them.

    vertices: places of the vertices; face: (vertices,) face each belongs to; st: (vertices, 2) face coordinates;
    triangles: (t, 3), those of translucent parts from ``opaque`` on; edges, outline: (e, 2). All index vertices. No vertex is
    shared between faces, so each face keeps its own values. points: (vertices, 3) where they are drawn, undeformed; that is
    the place itself, but for bars, thick shells and elements drawn apart. face_corners is 2 for a bar. nodes: one vertex for
    each node that is drawn. sides: (s, 3) two nodes, in order of number, and the face they bound.
    """

    vertices: AtSamples
    face: NDArray[np.int32]
    st: NDArray[np.float32]
    triangles: NDArray[np.int32]
    opaque: int
    edges: NDArray[np.int32]
    outline: NDArray[np.int32]
    face_element: Int
    face_local: NDArray[np.int8]
    face_vertex: Int
    face_corners: NDArray[np.int8]
    face_natural: Float
    points: Float
    nodes: NDArray[np.int32]
    sides: Int

    @property
    def triangle_areas(self) -> Float:
        a, b, c = (self.points[self.triangles[:, i]] for i in range(3))
        areas: Float = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2.0
        return areas


def usual_detail(faces: int, curved: bool) -> int:
    """How often a face's side is cut when the analyst has set nothing: fewer for many faces."""
    if not curved:
        return 2 if faces < 5_000 else 1
    return 4 if faces < 3_000 else 2 if faces < 60_000 else 1


def skin(mesh: Mesh, look: Look = Look(), thickness: Float | None = None, area: Float | None = None, fold: float = 30.0) -> Surface:
    """What is drawn of a mesh. thickness, area: (elements,) of shells and of bars, NaN where not known.

    fold: degrees above which an edge is outline. Raises Impossible where all faces of a very large model are asked for.
    """
    from ironstone.core.geometry.faces import all_faces, boundary

    shown = _outside(mesh.part, look.hidden)
    translucent = shown & ~_outside(mesh.part, look.translucent)
    every = look.every or look.apart
    if every and int(shown.sum()) > MANY:
        raise Impossible(
            f"All faces of {int(shown.sum()):,} elements are too many to draw.".replace(",", "\u202f"),
            f"Hide parts until at most {MANY:,} elements are shown.".replace(",", "\u202f"),
        )
    flat = mesh.dimensions >= 2
    pick = all_faces if every else boundary
    chosen = np.concatenate([pick(mesh, shown & flat & ~translucent), pick(mesh, translucent & flat)])
    chosen = chosen[np.lexsort((chosen[:, 1], chosen[:, 0]))]
    curved = any(CELLS[int(t)].order == 2 for t in np.flatnonzero(np.bincount(mesh.types, minlength=256)))
    detail = look.detail or usual_detail(len(chosen), curved)
    surface = _build(mesh, chosen, detail, fold)
    if look.solid and thickness is not None and not mesh.planar:
        surface = _thick(surface, mesh, thickness)
    if look.apart:
        surface = _shrunk(surface, mesh)
    bars = np.flatnonzero(shown & (mesh.dimensions == 1))
    if len(bars):
        surface = _with_bars(surface, mesh, bars, max(detail, 2) if curved else 1, area if look.solid else None)
    alone = np.flatnonzero(shown & (mesh.dimensions == 0))
    if len(alone):
        bodies = octahedra(mesh, alone, 0.008 * mesh.size or 1.0)
        surface = _with_bodies(surface, alone, bodies, np.zeros((len(alone), 4, 3)))
    if look.turned is not None:
        surface = _turned(surface, mesh, look.turned)
    see_through = (
        translucent[surface.face_element[surface.face[surface.triangles[:, 0]]]] if len(surface.triangles) else np.zeros(0)
    )
    order = np.argsort(see_through, kind="stable")
    return replace(surface, triangles=surface.triangles[order], opaque=int((see_through == 0).sum()))


def faces_drawn(mesh: Mesh, chosen: NDArray[np.int64]) -> Surface:
    """Some faces, as ``boundary`` gives them, drawn as they usually are."""
    curved = any(CELLS[int(t)].order == 2 for t in np.flatnonzero(np.bincount(mesh.types, minlength=256)))
    return _build(mesh, chosen, usual_detail(len(chosen), curved), 30.0)


def _outside(part: NDArray[np.int32], parts: frozenset[int]) -> NDArray[np.bool_]:
    """Which elements are of none of these parts."""
    return ~np.isin(part, list(parts)) if parts else np.ones(len(part), dtype=bool)


def _thick(surface: Surface, mesh: Mesh, thickness: Float) -> Surface:
    """Shell faces drawn as plates: a copy on either side of the middle, and walls along borders."""
    of = surface.face_element[surface.face]
    drawn = thickened(mesh, surface.vertices, surface.face, surface.triangles, surface.edges, surface.outline, thickness[of])
    if drawn is None:
        return surface
    copied = drawn.copied
    return replace(
        surface,
        vertices=AtSamples(
            np.concatenate([surface.vertices.element, surface.vertices.element[copied]]),
            np.concatenate([surface.vertices.xi, surface.vertices.xi[copied]]),
        ),
        face=np.concatenate([surface.face, surface.face[copied]]),
        st=np.concatenate([surface.st, surface.st[copied]]),
        points=drawn.points,
        triangles=drawn.triangles,
        edges=drawn.edges,
        outline=drawn.outline,
    )


def _turned(surface: Surface, mesh: Mesh, turn: Turn) -> Surface:
    points = surface.points.copy()
    own = turn.members(mesh, surface.vertices.element)
    points[own] = turn.at + turn.of(points[own] - turn.at)
    return replace(surface, points=points)


def _shrunk(surface: Surface, mesh: Mesh) -> Surface:
    middles = np.zeros((len(mesh.types), 3))
    for block in mesh.blocks:
        corners = mesh.points[block.nodes[:, : block.cell.corners]]
        middles[block.elements] = corners.mean(1)
    middle = middles[surface.vertices.element]
    return replace(surface, points=surface.points + APART * (middle - surface.points))


def _with_bars(surface: Surface, mesh: Mesh, bars: Int, detail: int, area: Float | None) -> Surface:
    radius = np.full(len(bars), 0.004 * mesh.size)
    if area is not None:
        known = area[bars] > 0
        radius[known] = np.sqrt(area[bars][known] / np.pi)
    middle = np.zeros((len(bars), 4, 3))
    middle[:, 0], middle[:, 1:] = CELLS[3].nodes[0], CELLS[3].nodes[1]
    return _with_bodies(surface, bars, tubes(mesh, bars, detail, radius), middle)


def _with_bodies(surface: Surface, elements: Int, drawn: Drawn, natural: Float) -> Surface:
    """A surface and bodies that stand for elements without faces, as many vertices each; natural: (elements, 4, 3) their ends."""
    vertex, face = len(surface.face), len(surface.face_element)
    count = len(drawn.points) // len(elements)
    return replace(
        surface,
        vertices=AtSamples(
            np.concatenate([surface.vertices.element, drawn.element]), np.concatenate([surface.vertices.xi, drawn.xi])
        ),
        face=np.concatenate([surface.face, face + np.repeat(np.arange(len(elements)), count)]).astype(np.int32),
        st=np.concatenate([surface.st, drawn.st]).astype(np.float32),
        points=np.concatenate([surface.points, drawn.points]),
        triangles=stacked(surface.triangles, drawn.triangles, vertex),
        edges=stacked(surface.edges, drawn.edges, vertex),
        outline=stacked(surface.outline, drawn.outline, vertex),
        face_element=np.concatenate([surface.face_element, elements]),
        face_local=np.concatenate([surface.face_local, np.zeros(len(elements), dtype=np.int8)]),
        face_vertex=np.concatenate([surface.face_vertex, vertex + count * np.arange(len(elements))]),
        face_corners=np.concatenate([surface.face_corners, np.full(len(elements), 2, dtype=np.int8)]),
        face_natural=np.concatenate([surface.face_natural, natural]),
        nodes=np.concatenate([surface.nodes, vertex + drawn.ends]).astype(np.int32),
    )


def _build(mesh: Mesh, chosen: NDArray[np.int64], detail: int, fold: float) -> Surface:
    from ironstone.core.geometry.faces import corner_count

    faces = len(chosen)
    element_of: list[NDArray[Any]] = []
    point_of: list[NDArray[Any]] = []
    xi_of: list[NDArray[Any]] = []
    face_of: list[NDArray[Any]] = []
    st_of: list[NDArray[Any]] = []
    node_of: list[NDArray[Any]] = []
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
            corners = corner_count(nodes, cell.order)
            weights, cut, rim = face_samples(corners, detail)
            natural = cell.nodes[list(nodes[:corners])]
            count = len(weights)
            base = total + count * np.arange(len(here))
            start[here] = base
            face_natural[here, :corners] = natural
            face_natural[here, corners:] = natural[-1]
            shape = cell.shape(weights @ natural)
            own_nodes = np.flatnonzero(np.abs(shape).max(0) > 1e-12)
            of_face = mesh.points[mesh.connectivity[mesh.offsets[chosen[here, 0]][:, None] + own_nodes]]
            point_of.append((shape[:, own_nodes] @ of_face).reshape(-1, 3))
            element_of.append(np.repeat(chosen[here, 0], count))
            xi_of.append(np.tile(weights @ natural, (len(here), 1)))
            face_of.append(np.repeat(here, count))
            st = weights[:, 1:3] + weights[:, 2:4] if corners == 4 else weights[:, 1:]
            st_of.append(np.tile(st, (len(here), 1)))
            at, own = _on_nodes(cell.nodes[list(nodes)], weights @ natural)
            met = mesh.connectivity[mesh.offsets[chosen[here, 0]][:, None] + np.array(nodes)[own]]
            node_of.append(np.stack([met, base[:, None] + at], axis=2).reshape(-1, 2))
            triangles.append((base[:, None, None] + cut).reshape(-1, 3))
            edges.append((base[:, None, None] + rim).reshape(-1, corners, detail, 2).swapaxes(0, 1).reshape(-1, detail, 2))
            element_nodes = mesh.connectivity[mesh.offsets[chosen[here, 0]][:, None] + np.array(nodes[:corners])]
            for side in range(corners):
                one, other = element_nodes[:, side], element_nodes[:, (side + 1) % corners]
                low, high = np.minimum(one, other), np.maximum(one, other)
                sides.append(np.column_stack([low, high, here, np.full(len(here), side)]))
            total += count * len(here)
    vertices = AtSamples(_join(element_of, (0,)).astype(np.int64), _join(xi_of, (0, 3)).astype(np.float64))
    points = _join(point_of, (0, 3)).astype(np.float64)
    cut_all = _join(triangles, (0, 3)).astype(np.int32)
    face = _join(face_of, (0,)).astype(np.int32)
    side_list = _join(sides, (0, 4)).astype(np.int64)
    normals = face_normals(points, cut_all, face, faces)
    once, sharp = _edge_classes(side_list, normals, fold)
    met_nodes = _join(node_of, (0, 2)).astype(np.int64)
    _, first = np.unique(met_nodes[:, 0], return_index=True)
    pieces = _join(edges, (0, detail, 2)).astype(np.int32)
    return Surface(
        vertices=vertices,
        face=face,
        st=_join(st_of, (0, 2)).astype(np.float32),
        triangles=cut_all,
        opaque=len(cut_all),
        edges=pieces[once].reshape(-1, 2),
        outline=pieces[sharp].reshape(-1, 2),
        face_element=chosen[:, 0],
        face_local=chosen[:, 1].astype(np.int8),
        face_vertex=start,
        face_corners=chosen[:, 2].astype(np.int8),
        face_natural=face_natural,
        points=points,
        nodes=met_nodes[first, 1].astype(np.int32),
        sides=side_list[:, :3],
    )


def _on_nodes(nodes: Float, samples: Float) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Which samples of a face lie on nodes of it, and on which."""
    near = np.abs(samples[:, None] - nodes[None]).max(2) < 1e-9
    found, own = np.nonzero(near)
    return found, own


def _join(pieces: list[NDArray[Any]], empty: tuple[int, ...]) -> NDArray[Any]:
    return np.concatenate(pieces) if pieces else np.zeros(empty)


def face_normals(points: Float, triangles: NDArray[np.int32], face: NDArray[np.int32], count: int) -> Float:
    """Unit normal of each of ``count`` faces, (count, 3), from the triangles it is drawn in."""
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
    order = np.argsort(sides[:, 0] * (sides[:, 1].max() + 1) + sides[:, 1], kind="stable")
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


def face_nodes(mesh: Mesh, surface: Surface, faces: Int) -> Int:
    """All nodes of some drawn faces, by position, each once."""
    element, local = surface.face_element[faces], surface.face_local[faces]
    kind = mesh.types[element]
    nodes = [np.zeros(0, dtype=np.int64)]
    for vtk, side in {(int(t), int(f)) for t, f in zip(kind, local, strict=True)}:
        cell = CELLS[vtk]
        of_side = np.array(cell.faces[side] if cell.dimension > 1 else range(cell.size))
        here = element[(kind == vtk) & (local == side)]
        nodes.append(np.unique(mesh.connectivity[mesh.offsets[here][:, None] + of_side]))
    return np.unique(np.concatenate(nodes)).astype(np.int64)


def face_point(surface: Surface, face: int, s: float, t: float) -> AtSamples:
    """The place inside an element of face coordinates s, t in 0..1 (as drawn)."""
    corners = int(surface.face_corners[face])
    if corners == 2:
        weights = np.array([1 - s, s])
    elif corners == 4:
        weights = np.array([(1 - s) * (1 - t), s * (1 - t), s * t, (1 - s) * t])
    else:
        weights = np.array([1 - s - t, s, t])
    xi = weights @ surface.face_natural[face, :corners]
    return AtSamples(surface.face_element[face : face + 1], xi[None, :])
