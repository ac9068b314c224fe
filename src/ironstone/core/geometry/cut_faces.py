"""What is drawn of a cut: triangles and the borders of elements on it, every vertex at a place inside one element."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ironstone.core.geometry.cut import Pieces
from ironstone.core.geometry.levels import Band
from ironstone.core.geometry.surface import faces_drawn
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

# Natural coordinates that differ by less are one place.
SAME = 1e-7


@dataclass(frozen=True, eq=False)
class CutFaces:
    """triangles: (3 t,) places, three to a triangle. borders: (2 b,) places, two to a piece of the border of an element on the cut;
    of shells and bars, which a cut meets in lines and points, the lines."""

    triangles: AtSamples
    borders: AtSamples


def faces_of(pieces: Iterable[Pieces], hidden: NDArray[np.bool_]) -> CutFaces:
    """What is drawn of a section or an iso-surface. hidden: (elements,) those that are left out."""
    triangles: list[tuple[Int, Float]] = []
    borders: list[tuple[Int, Float]] = []
    for piece in pieces:
        element = piece.block.elements[piece.owner]
        shown = ~hidden[element]
        element, xi = element[shown], piece.xi[shown]
        if xi.shape[1] == 3:
            triangles.append((element, xi))
            borders.append(_once(element, xi))
        elif xi.shape[1] == 2:
            borders.append((element, xi))
    return CutFaces(_places(triangles, 3), _places(borders, 2))


def faces_of_band(mesh: Mesh, band: Band, hidden: NDArray[np.bool_]) -> CutFaces:
    """What is drawn of the body between two values: where it is cut off, and the outside of the elements that lie in it whole."""
    from ironstone.core.geometry.faces import boundary

    triangles: list[tuple[Int, Float]] = []
    borders: list[tuple[Int, Float]] = []
    whole = np.zeros(len(mesh.types), dtype=bool)
    whole[band.whole] = True
    flat = mesh.dimensions >= 2
    skin = faces_drawn(mesh, boundary(mesh, whole & ~hidden & flat))
    own, inner = skin.vertices.element, skin.vertices.xi
    triangles.append((own[skin.triangles[:, 0]], inner[skin.triangles]))
    borders.append((own[skin.edges[:, 0]], inner[skin.edges]))
    for piece in band.pieces:
        element = piece.block.elements[piece.owner]
        shown = ~hidden[element]
        element, xi = element[shown], piece.xi[shown]
        if xi.shape[1] == 4:
            outer = _outer(element, xi)
            triangles.append(outer)
        elif xi.shape[1] == 3:
            triangles.append((element, xi))
            borders.append(_once(element, xi))
        else:
            borders.append((element, xi))
    return CutFaces(_places(triangles, 3), _places(borders, 2))


def _places(pieces: Sequence[tuple[Int, Float]], count: int) -> AtSamples:
    element = np.concatenate([np.zeros(0, dtype=np.int64), *(np.repeat(e, count) for e, _ in pieces)])
    return AtSamples(element, np.concatenate([np.zeros((0, 3)), *(xi.reshape(-1, 3) for _, xi in pieces)]))


def _once(element: Int, xi: Float) -> tuple[Int, Float]:
    """Sides of triangles that no other triangle of the same element has: the border of the element on the cut."""
    return _alone(element, xi, 2)


def _outer(element: Int, xi: Float) -> tuple[Int, Float]:
    """Faces of tetrahedra that no other of the same element has."""
    return _alone(element, xi, 3)


def _alone(element: Int, xi: Float, size: int) -> tuple[Int, Float]:
    """Sides (of ``size`` corners) of simplices (p, d, 3) that occur once within their element: owner (s,), places (s, size, 3)."""
    corner = np.round(xi / SAME).astype(np.int64)
    key = corner[..., 0] * 1_000_003 + corner[..., 1] * 998_244_353 + corner[..., 2] * 2_147_483_659
    of, keys, places = [], [], []
    for side in combinations(range(xi.shape[1]), size):
        chosen = list(side)
        of.append(element)
        keys.append(np.sort(key[:, chosen], axis=1))
        places.append(xi[:, chosen])
    if not len(element):
        return element, np.zeros((0, size, 3))
    owner = np.concatenate(of)
    table = np.column_stack([owner, np.concatenate(keys)])
    _, first, count = np.unique(table, axis=0, return_index=True, return_counts=True)
    kept = first[count == 1]
    return owner[kept], np.concatenate(places)[kept]
