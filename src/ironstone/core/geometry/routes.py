"""Ways over the outside of a body: the graph of its edges, the shortest way between two nodes, and a sharp edge followed.

The outside may be that of some parts alone: an interface is then part of it, and a way along it belongs to those parts.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.kept import kept_with
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Float, Int, Mesh

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix


Parts = frozenset[int]
NOWHERE = -1


@dataclass(frozen=True, eq=False)
class Outside:
    """The edges of the outside, from corner node to corner node, each once.

    ends: (e, 2) nodes. middle: (e,) the node half way of a quadratic edge, -1 for none. length: (e,). bend: (e,) degrees between
    the two faces that meet there, 180 where there is one face or more than two. diagonals: (d, 2) corner nodes across a face.
    """

    ends: Int
    middle: Int
    length: Float
    bend: Float
    diagonals: Int

    @property
    def nodes(self) -> Int:
        """All nodes on the outside."""
        return np.unique(np.concatenate([self.ends.ravel(), self.middle[self.middle >= 0]]))


@kept_with(4)
def outside(mesh: Mesh, parts: Parts = frozenset()) -> Outside:
    """The edges of the outside of some parts (of all, for none). Raises Impossible where there are no faces."""
    from ironstone.core.geometry.faces import boundary

    shown = mesh.dimensions >= 2
    if parts:
        shown &= np.isin(mesh.part, list(parts))
    faces = boundary(mesh, shown)
    if not len(faces):
        raise Impossible("There is no outside to go over.", "Choose a part of solids or shells.")
    one, other, middle, face, normals = [], [], [], [], np.zeros((len(faces), 3))
    across = [np.zeros((0, 2), dtype=np.int64)]
    types = mesh.types[faces[:, 0]]
    for vtk in np.unique(types):
        cell = CELLS[int(vtk)]
        for local, nodes in enumerate(cell.faces):
            here = np.flatnonzero((types == vtk) & (faces[:, 1] == local))
            if not len(here):
                continue
            corners = len(nodes) // cell.order
            own = mesh.connectivity[mesh.offsets[faces[here, 0]][:, None] + np.array(nodes)]
            at = mesh.points[own[:, :corners]]
            normals[here] = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
            if corners == 4:
                normals[here] += np.cross(at[:, 2] - at[:, 0], at[:, 3] - at[:, 0])
                across += [own[:, [0, 2]], own[:, [1, 3]]]
            for side in range(corners):
                one.append(own[:, side])
                other.append(own[:, (side + 1) % corners])
                middle.append(
                    own[:, corners + side] if cell.order == 2 and len(nodes) >= 2 * corners else np.full(len(here), NOWHERE)
                )
                face.append(here)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    a, b, m, f = (np.concatenate(x).astype(np.int64) for x in (one, other, middle, face))
    ends = np.stack([np.minimum(a, b), np.maximum(a, b)], axis=1)
    key = ends[:, 0] * len(mesh.points) + ends[:, 1]
    _, first, back, count = np.unique(key, return_index=True, return_inverse=True, return_counts=True)
    # The last of the faces at each edge: where two meet, the other one.
    last = np.zeros(len(first), dtype=np.int64)
    last[back] = np.arange(len(key))
    cosine = (normals[f[first]] * normals[f[last]]).sum(1)
    bend = np.where(count == 2, np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0))), 180.0)
    ends, m = ends[first], m[first]
    there = m >= 0
    length = np.linalg.norm(mesh.points[ends[:, 1]] - mesh.points[ends[:, 0]], axis=1)
    halves = [np.linalg.norm(mesh.points[ends[there, i]] - mesh.points[m[there]], axis=1) for i in (0, 1)]
    length[there] = halves[0] + halves[1]
    return Outside(ends, m, length, bend, np.concatenate(across))


def route(mesh: Mesh, start: int, end: int, parts: Parts = frozenset(), across: bool = False) -> Int:
    """The nodes of the shortest way along edges of the outside from one node to another, both by position (Dijkstra 1959).

    across: from corner to corner over the faces too. Raises Impossible where a node is not on the outside, or no way joins them.
    """
    from scipy.sparse.csgraph import dijkstra

    graph, number = _graph(mesh, parts, across)
    for node in (start, end):
        if number[node] < 0:
            raise Impossible(f"Node {mesh.node_ids[node]} is not on the outside of what is chosen.", "Pick a node on the surface.")
    if start == end:
        return np.array([start], dtype=np.int64)
    _, before = dijkstra(graph, directed=False, indices=number[start], return_predecessors=True)
    nodes = np.flatnonzero(number >= 0)
    way = [int(number[end])]
    while way[-1] != number[start]:
        step = int(before[way[-1]])
        if step < 0:
            raise Impossible(
                f"No way over the surface joins nodes {mesh.node_ids[start]} and {mesh.node_ids[end]}.", "Pick both on one body."
            )
        way.append(step)
    found: Int = nodes[np.array(way[::-1])]
    return found


@kept_with(4)
def _graph(mesh: Mesh, parts: Parts, across: bool) -> tuple[csr_matrix, Int]:
    """The outside as a graph of its own nodes, and the number each node of the mesh has in it, -1 for none."""
    from scipy.sparse import csr_matrix

    edges = outside(mesh, parts)
    there = edges.middle >= 0
    halves = [
        (
            edges.ends[there, i],
            edges.middle[there],
            np.linalg.norm(mesh.points[edges.ends[there, i]] - mesh.points[edges.middle[there]], axis=1),
        )
        for i in (0, 1)
    ]
    a, b, length = (
        np.concatenate(x) for x in zip((edges.ends[~there, 0], edges.ends[~there, 1], edges.length[~there]), *halves, strict=True)
    )
    if across:
        c, d = edges.diagonals.T
        a, b = np.concatenate([a, c]), np.concatenate([b, d])
        length = np.concatenate([length, np.linalg.norm(mesh.points[c] - mesh.points[d], axis=1)])
    number = np.full(len(mesh.points), NOWHERE, dtype=np.int64)
    used = edges.nodes
    number[used] = np.arange(len(used))
    return csr_matrix((length, (number[a], number[b])), shape=(len(used), len(used))), number


@dataclass(frozen=True)
class Edge:
    """A sharp edge followed: its nodes in order (the first again at the end of a closed one), and why it ends there."""

    nodes: Int
    closed: bool
    ended: str


# Faces that meet by more than so many degrees make a sharp edge.
SHARP = 30.0


def on_sharp_edges(mesh: Mesh, parts: Parts = frozenset(), sharper: float = SHARP) -> Int:
    """All nodes that lie on sharp edges of the outside, (n,); empty where there is none."""
    edges = outside(mesh, parts)
    sharp = edges.bend > sharper
    middle = edges.middle[sharp]
    return np.unique(np.concatenate([edges.ends[sharp].ravel(), middle[middle >= 0]]))


def nearest_on_edge(mesh: Mesh, point: Float, parts: Parts = frozenset(), sharper: float = SHARP) -> tuple[int, float]:
    """The node on a sharp edge of the outside that is nearest to a point (3,), and how far it is away.

    Raises Impossible where no edge is that sharp.
    """
    nodes = on_sharp_edges(mesh, parts, sharper)
    if not len(nodes):
        raise Impossible(
            f"No edge of this outside is sharper than {sharper:g}°.",
            "Take nodes, a line, an arc or a section in its place.",
        )
    away = np.linalg.norm(mesh.points[nodes] - point, axis=1)
    nearest = int(np.argmin(away))
    return int(nodes[nearest]), float(away[nearest])


def sharp_edge(
    mesh: Mesh, start: int, parts: Parts = frozenset(), sharper: float = SHARP, turn: float = 45.0, end: int | None = None
) -> Edge:
    """Follow the sharp edge that a node lies on, both ways, until it turns by more than ``turn`` degrees, branches, or closes.

    sharper: faces that meet there by more than so many degrees. end: a node it ends at; the way is then from ``start`` to it.
    Raises Impossible where no sharp edge goes through the node, or the end is not on it.
    """
    edges = outside(mesh, parts)
    sharp = edges.bend > sharper
    pairs, middles = edges.ends[sharp], edges.middle[sharp]
    at: dict[int, list[tuple[int, int]]] = {}
    for (a, b), m in zip(pairs.tolist(), middles.tolist(), strict=True):
        at.setdefault(a, []).append((b, m))
        at.setdefault(b, []).append((a, m))
        if m >= 0 and start == m:
            start = a
    if start not in at:
        raise Impossible(
            f"No edge sharper than {sharper:g}° goes through node {mesh.node_ids[start]}.", "Name a node on an edge of the outside."
        )
    if end is not None:
        # At a corner, where several edges meet, the one that leads to the end is meant; round a rim the shorter way.
        followed = (_followed(mesh, start, way, at, turn)[0] for way in at[start])
        leading = [np.array(w[: w.index(end, 1) + 1], dtype=np.int64) for w in followed if end in w[1:]]
        if leading:
            return Edge(min(leading, key=lambda nodes: _length(mesh.points[nodes])), False, "the node picked")
        raise Impossible(f"Node {mesh.node_ids[end]} is not on this edge.", "Pick the end on it, or leave it out.")
    # Both ways from the node; where the edge branches right there, the first two that go on straightest.
    ways = _straightest(mesh, start, at[start])
    one, closed, why = _followed(mesh, start, ways[0], at, turn)
    if closed or len(ways) < 2:
        found, ended = one, why
    else:
        other, _, also = _followed(mesh, start, ways[1], at, turn)
        found, ended = other[::-1] + one[1:], "; ".join(dict.fromkeys((also, why)))
    return Edge(np.array(found, dtype=np.int64), closed, ended)


def _straightest(mesh: Mesh, node: int, leaving: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """The two edges at a node that go on straightest through it."""
    if len(leaving) < 3:
        return leaving
    along = [_unit(mesh.points[m if m >= 0 else b] - mesh.points[node]) for b, m in leaving]
    best = min(((float(along[i] @ along[j]), i, j) for i in range(len(leaving)) for j in range(i)), key=lambda t: t[0])
    return [leaving[best[2]], leaving[best[1]]]


def _length(points: Float) -> float:
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())


def _unit(vector: Float) -> NDArray[np.float64]:
    length = float(np.linalg.norm(vector))
    return vector / length if length else vector


def _followed(
    mesh: Mesh, start: int, first: tuple[int, int], at: dict[int, list[tuple[int, int]]], turn: float
) -> tuple[list[int], bool, str]:
    """An edge from a node by its first piece on, to where it ends: nodes, whether it came back, and why it ended."""
    found = [start]
    here, (there, middle) = start, first
    limit = np.cos(np.radians(turn))
    while True:
        if middle >= 0:
            found.append(middle)
        found.append(there)
        if there == start:
            return found, True, "closed"
        came = _unit(mesh.points[there] - mesh.points[middle if middle >= 0 else here])
        on = [(b, m) for b, m in at[there] if b != here]
        if not on:
            return found, False, "the edge ends"
        if len(on) > 1:
            return found, False, f"it branches at node {mesh.node_ids[there]}"
        goes = _unit(mesh.points[on[0][1] if on[0][1] >= 0 else on[0][0]] - mesh.points[there])
        if float(came @ goes) < limit:
            return found, False, f"it turns at node {mesh.node_ids[there]}"
        here, (there, middle) = there, on[0]
