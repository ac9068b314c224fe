"""Where a plane meets the outside of a body: lines over the surface, in the elements they lie on."""

from __future__ import annotations

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.geometry.borders import Parts
from ironstone.core.geometry.paths import Line
from ironstone.core.geometry.surface import Look, skin
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

# Pieces a face's side is cut into where elements are curved.
FINE = 4


def outline(mesh: Mesh, origin: Float, normal: Float, near: Float | None = None, parts: Parts = frozenset()) -> Line:
    """The line along which a plane meets the outside of some parts (of all, for none).

    Of several the one nearest to ``near``; without it the longest. A closed one starts where it is nearest to ``near``. Raises
    Impossible where the plane meets nothing.
    """
    size = float(np.linalg.norm(normal))
    if not size:
        raise Impossible("The normal of the plane points nowhere.", "Write three numbers, like 0,0,1.")
    others = frozenset(range(len(mesh.part_names))) - parts if parts else frozenset()
    curved = any(block.cell.order == 2 for block in mesh.blocks)
    drawn = skin(mesh, Look(detail=FINE if curved else 1, hidden=others))
    away = (drawn.points - origin) @ (normal / size)
    away[np.abs(away) <= 1e-9 * mesh.size] = 0.0
    # What lies on the plane counts as in front: the line through a layer of nodes is then there once.
    front = away[drawn.triangles] >= 0.0
    crossed = drawn.triangles[front.any(1) & ~front.all(1)].astype(np.int64)
    if not len(crossed):
        raise Impossible("The plane does not meet the outside.", "Move it into the model.")
    element, xi = _segments(crossed, away, drawn.vertices)
    points = positions(mesh, AtSamples(np.repeat(element, 2), xi.reshape(-1, 3))).reshape(-1, 2, 3)
    longer = np.linalg.norm(points[:, 1] - points[:, 0], axis=1) > 1e-9 * mesh.size
    return _chained(mesh, element[longer], xi[longer], points[longer], near)


def _segments(triangles: Int, away: Float, vertices: AtSamples) -> tuple[Int, Float]:
    """The piece of the plane in each triangle: its element (s,), natural coordinates of its ends (s, 2, 3)."""
    front = away[triangles] >= 0.0
    # The corner that is alone on its side comes first.
    alone = np.where(front.sum(1) == 1, front.argmax(1), (~front).argmax(1))
    turned = triangles[np.arange(len(triangles))[:, None], (alone[:, None] + np.arange(3)) % 3]
    ends = []
    for other in (1, 2):
        a, b = turned[:, 0], turned[:, other]
        share = away[a] / (away[a] - away[b])
        ends.append(vertices.xi[a] + share[:, None] * (vertices.xi[b] - vertices.xi[a]))
    return np.asarray(vertices.element[turned[:, 0]], dtype=np.int64), np.stack(ends, axis=1)


def _chained(mesh: Mesh, element: Int, xi: Float, points: Float, near: Float | None) -> Line:
    """Segments put in order, end to end; see ``outline``."""
    from scipy.sparse import csr_matrix
    from scipy.sparse.csgraph import connected_components

    number = welded(points.reshape(-1, 3), 1e-6 * mesh.size).reshape(-1, 2)
    many = int(number.max()) + 1
    joined = csr_matrix((np.ones(len(number)), (number[:, 0], number[:, 1])), shape=(many, many))
    of = connected_components(joined, directed=False)[1][number[:, 0]]
    length = np.linalg.norm(points[:, 1] - points[:, 0], axis=1)
    middle = points.mean(1)
    nearest = None if near is None else int(np.argmin(np.linalg.norm(middle - near, axis=1)))
    chosen = int(of[nearest]) if nearest is not None else int(np.argmax(np.bincount(of, length)))
    segments = np.flatnonzero(of == chosen)
    at: dict[int, list[int]] = {}
    for s in segments.tolist():
        for end in number[s].tolist():
            at.setdefault(end, []).append(s)
    loose = [n for n, here in at.items() if len(here) == 1]
    place = {int(n): points[s, k] for s in segments.tolist() for k, n in enumerate(number[s])}
    starts = loose or list(at)
    start = min(starts, key=lambda n: float(np.linalg.norm(place[n] - near))) if near is not None else starts[0]
    here, left = start, set(segments.tolist())
    order: list[tuple[int, bool]] = []
    while True:
        ahead = [s for s in at[here] if s in left]
        if not ahead:
            break
        s = ahead[0]
        left.discard(s)
        forward = bool(number[s, 0] == here)
        order.append((s, forward))
        here = int(number[s, 1 if forward else 0])
    which = np.array([s for s, _ in order])
    back = np.array([not forward for _, forward in order])
    ends, inner = points[which], xi[which]
    ends[back], inner[back] = ends[back, ::-1], inner[back, ::-1]
    run = np.concatenate([[0.0], np.cumsum(length[which])])
    distance = np.stack([run[:-1], run[1:]], axis=1).ravel()
    own = np.repeat(element[which], 2)
    # Inside one element a place is told once.
    again = np.concatenate([[False], (own[1:] == own[:-1]) & (distance[1:] == distance[:-1])])
    return Line(distance[~again], ends.reshape(-1, 3)[~again], own[~again], inner.reshape(-1, 3)[~again])


def welded(points: Float, near: float) -> Int:
    """Numbers of places (n,), the same for those that lie within ``near`` of each other."""
    from scipy.sparse import csr_matrix
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    pairs = cKDTree(points).query_pairs(near, output_type="ndarray")
    count = len(points)
    same = csr_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    found: Int = connected_components(same, directed=False)[1].astype(np.int64)
    return found
