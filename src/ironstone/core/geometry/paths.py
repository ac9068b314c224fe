"""Lines through a body, sampled in the elements they pass: a sample at every border, once from each side, and blank outside.

Where the borders are is found in ``geometry.borders``. A line belongs to a side: of the elements that meet where it runs along a
border, those of the parts chosen are taken.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.geometry.borders import NONE, Curve, Parts, Stretch, Walk, along_outside, borders, usual_size
from ironstone.core.geometry.locate import natural
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples

# Up to which slope (its sine) a line runs along the outside: a circle rises and falls beside the straight sides of elements.
STRAIGHT, ROUND = 0.01, 0.2


@dataclass(frozen=True, eq=False)
class Line:
    """Samples of a line in order: distance from its start (n,), place (n, 3), element (n,), -1 outside the body, and natural
    coordinates (n, 3), NaN there. Where it passes from one element to the next there are two samples at one distance."""

    distance: Float
    points: Float
    element: Int
    xi: Float

    @property
    def inside(self) -> NDArray[np.bool_]:
        return self.element >= 0

    @property
    def place(self) -> AtSamples:
        """The samples inside the body, as a reading is answered there."""
        return AtSamples(self.element[self.inside], self.xi[self.inside])


def through(mesh: Mesh, curve: Curve, length: float, samples: int, side: Parts = frozenset(), steep: float = STRAIGHT) -> Line:
    """Sample a curve, a function of its share from 0 to 1 (n,) -> (n, 3), at even shares and at all borders it crosses.

    side: positions of the parts it belongs to; other elements are passed over as if they were not there. steep: see ``Walk``.
    Raises Impossible where none of it lies in the body.
    """
    walk = Walk(mesh, curve, side, steep)
    # Looked at more finely than the elements are large, so that none is stepped over; told as often as was asked for.
    finer = int(np.clip(np.ceil(2.0 * length / (max(samples, 2) - 1) / usual_size(mesh)), 1, 50))
    every = np.linspace(0.0, 1.0, finer * (max(samples, 2) - 1) + 1)
    owners = walk.owners(every)
    on = along_outside(walk, every, owners)
    beside = on >= 0
    owners[beside] = on[beside]
    within = owners >= 0
    # What lies outside between two samples of the body may be beside it; what leaves the body is outside.
    along = within[:-1] & within[1:] | beside[:-1] | beside[1:]
    changed = np.flatnonzero(owners[:-1] != owners[1:])
    shares, before, after = borders(
        walk, Stretch(every[changed], every[changed + 1], owners[changed], owners[changed + 1], along[changed])
    )
    share, owner, beside = every[::finer], owners[::finer], beside[::finer]
    at = np.concatenate([share, shares, shares])
    element = np.concatenate([owner, before, after])
    # Of the two samples at a border that of the element before comes first.
    rank = np.concatenate([np.zeros(len(share)), np.full(len(shares), -1.0), np.full(len(shares), 1.0)])
    order = np.lexsort((rank, at))
    at, element, rank = at[order], element[order], rank[order]
    if not (element >= 0).any():
        where = "what is chosen" if side else "the body"
        raise Impossible(f"No part of this line lies in {where}.", "Move its ends.")
    points = curve(at)
    xi = _inside(mesh, points, element)
    distance = at * length
    # What runs along the outside is where the elements have it.
    moved = np.flatnonzero(np.concatenate([beside, np.zeros(2 * len(shares), dtype=bool)])[order])
    if len(moved):
        points[moved] = positions(mesh, AtSamples(element[moved], xi[moved]))
    border = np.flatnonzero((rank != 0.0) & (element >= 0))
    if len(border):
        # An element is found to hold what lies a little beside it: at a border the place on its face itself is taken.
        face = positions(mesh, AtSamples(element[border], xi[border]))
        distance[border] += ((face - points[border]) * walk.ahead(at[border])).sum(1)
        points[border] = face
    for first in np.flatnonzero(rank == -1.0):
        # Both samples of a border stand at one distance, also where one of them is outside.
        known = first if element[first] >= 0 else first + 1
        distance[[first, first + 1]] = np.clip(distance[known], 0.0, length)
        points[[first, first + 1]] = points[known]
    xi[border] = _inside(mesh, points[border], element[border])
    return Line(np.maximum.accumulate(distance), points, element, xi)


def _inside(mesh: Mesh, points: Float, element: Int) -> Float:
    """Natural coordinates of points (n, 3), each in its element; NaN where it has none."""
    xi = np.full((len(points), 3), np.nan)
    there = element >= 0
    types = np.zeros(len(element), dtype=np.int64)
    types[there] = mesh.types[element[there]]
    for vtk in np.unique(types[there]):
        here = np.flatnonzero(there & (types == vtk))
        cell = CELLS[int(vtk)]
        nodes = mesh.points[mesh.connectivity[mesh.offsets[element[here]][:, None] + np.arange(cell.size)]]
        xi[here] = onto(cell, natural(cell, nodes, points[here])[0])
    return xi


def onto(cell: Cell, xi: Float) -> Float:
    """Natural coordinates (n, 3) brought into the domain where they lie a little outside it."""
    inside = np.clip(xi, 0.0, 1.0)
    if cell.family in ("tri", "wedge", "tet"):
        many = 3 if cell.family == "tet" else 2
        inside[:, :many] /= np.maximum(inside[:, :many].sum(1, keepdims=True), 1.0)
    elif cell.family == "pyramid":
        inside[:, :2] = np.minimum(inside[:, :2], 1.0 - inside[:, 2:])
    return inside


def straight(mesh: Mesh, start: Float, end: Float, samples: int, side: Parts = frozenset()) -> Line:
    """A straight line through the body."""
    length = float(np.linalg.norm(end - start))
    if length == 0.0:
        raise Impossible("This line has no length: its ends are one point.", "Choose two points.")
    return through(mesh, lambda t: start + t[:, None] * (end - start), length, samples, side)


def arc(mesh: Mesh, centre: Float, normal: Float, radius: Float, sweep: float, samples: int, side: Parts = frozenset()) -> Line:
    """A part of a circle: about ``centre`` in the plane square to ``normal``, from ``centre + radius``, ``sweep`` degrees on by the
    right hand; of ``radius`` what lies in the plane counts."""
    size = float(np.linalg.norm(normal))
    axis = normal / (size or 1.0)
    first = radius - (radius @ axis) * axis
    reach = float(np.linalg.norm(first))
    if not size or reach <= 1e-12 * max(float(np.linalg.norm(radius)), 1e-300) or not 0.0 < abs(sweep) <= 360.0:
        raise Impossible("This is no part of a circle.", "Its normal and radius point somewhere, its sweep is up to 360 degrees.")
    second = np.cross(axis, first)
    angle = np.radians(sweep)

    def curve(t: Float) -> Float:
        turned: Float = centre + np.cos(angle * t)[:, None] * first + np.sin(angle * t)[:, None] * second
        return turned

    return through(mesh, curve, abs(angle) * reach, samples, side, ROUND)


def along_nodes(mesh: Mesh, nodes: Int, samples: int, side: Parts = frozenset()) -> Line:
    """A line from node to node: along the element edge (curved as the element is) where two follow each other in one element,
    straight through the body else. samples: of the whole, shared out evenly."""
    if len(nodes) < 2:
        raise Impossible("A line through nodes needs two of them.", "Add a node.")
    each = max(2, round(samples / (len(nodes) - 1)))
    distance, points, element, xi = [], [], [], []
    done = 0.0
    before = NONE
    for a, b in zip(nodes[:-1].tolist(), nodes[1:].tolist(), strict=True):
        if a == b:
            continue
        owner = _sharing(mesh, a, b, side, before)
        if owner is None:
            piece = straight(mesh, mesh.points[a], mesh.points[b], each, side)
        else:
            corners = np.arange(mesh.offsets[owner], mesh.offsets[owner + 1])
            cell = CELLS[int(mesh.types[owner])]
            ends = [cell.nodes[int(np.flatnonzero(mesh.connectivity[corners] == n)[0])] for n in (a, b)]
            inner = ends[0] + np.linspace(0, 1, each)[:, None] * (ends[1] - ends[0])
            own = np.full(each, owner, dtype=np.int64)
            at = positions(mesh, AtSamples(own, inner))
            run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(at, axis=0), axis=1))])
            piece = Line(run, at, own, inner)
        before = int(piece.element[-1])
        distance.append(done + piece.distance)
        points.append(piece.points)
        element.append(piece.element)
        xi.append(piece.xi)
        done += float(piece.distance[-1])
    if not distance:
        raise Impossible("This line has no length: its nodes are one.", "Choose others.")
    return Line(np.concatenate(distance), np.concatenate(points), np.concatenate(element), np.concatenate(xi))


def _sharing(mesh: Mesh, a: int, b: int, side: Parts, before: int) -> int | None:
    """An element that has both nodes: the one the line was in before where it is among them, else the first; None for none."""
    first, second = (mesh.corner_element[mesh.corners_at(n)] for n in (a, b))
    both = np.intersect1d(first, second)
    if side:
        both = both[np.isin(mesh.part[both], list(side))]
    if not len(both):
        return None
    return before if before in both else int(both[0])
