"""A reading of one result at the places of another: by identity where the meshes are one, else by its own elements' interpolation
at the undeformed place, on the side (part, element) the place belongs to. Where the other body is not, there is no value.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source, Step
from ironstone.core.field.volumes import is_turned
from ironstone.core.geometry.locate import locate, natural
from ironstone.core.kept import kept_with, remembered
from ironstone.core.kinds import kind_of
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.interpolation import element_centres, positions
from ironstone.core.mesh.mesh import Float, Int, Mesh, quadrature_weights
from ironstone.core.mesh.places import AtCorners, AtElements, AtGauss, AtNodes, AtSamples, TheseCorners
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolved import Resolved, Values
from ironstone.core.units import conversion
from ironstone.core.wanted import still_wanted

# How far towards the middle of its own element a place is moved to tell which side of a border it is on.
INWARDS = 1e-4
# What lies outside by no more than this share of an element's size is read at the nearest place: curved borders differ by mesh.
BESIDE = 0.1
# So many points and more are looked for at once before those that are left are looked for one by one.
MANY = 2000
# Places that are looked for at once.
RUN = 1 << 17
# Moments that are the same, as a share of the range of the steps.
SAME_MOMENT = 1e-6


@dataclass(frozen=True, eq=False)
class Found:
    """Places of one mesh in another: element and natural coordinates, and at which of the places (positions); ``count`` of all.
    weights: of elements, whose places are integration points: which element each is of, and what it counts there."""

    places: AtSamples
    at: Int
    count: int
    owner: Int | None = None
    weights: Float | None = None

    def spread(self, values: Float) -> Float:
        """Values at the places that were found, (found,), as values at all places: NaN where the other body is not, (count,)."""
        if self.owner is None or self.weights is None:
            whole = np.full(self.count, np.nan)
            whole[self.at] = values
            return whole
        # The mean over an element is one of all its places, or none.
        each = np.full(len(self.owner), np.nan)
        each[self.at] = values
        total = np.bincount(self.owner, self.weights * each, self.count)
        mean: Float = total / np.bincount(self.owner, self.weights, self.count)
        return mean


@kept_with(4)
def one_mesh(mine: Mesh, theirs: Mesh, scale: float) -> bool:
    """Whether two results have the same nodes and elements in the same order; scale: from the one's length unit to the other's."""
    if mine is theirs:
        return True
    same = all(np.array_equal(getattr(mine, a), getattr(theirs, a)) for a in ("types", "offsets", "connectivity"))
    if not same or mine.points.shape != theirs.points.shape:
        return False
    return bool(np.abs(scale * mine.points - theirs.points).max(initial=0.0) <= 1e-9 * theirs.size)


def same_moment(step: Step, theirs: Source) -> int:
    """The step of another result at the same time, load factor or frequency; by number where the steps have none.

    Raises Impossible where it has none there.
    """
    steps = theirs.steps
    if step.kind == "number" and 0 <= step.index < len(steps) and steps[step.index].kind == "number":
        return step.index
    values = np.array([s.value if s.kind == step.kind else np.nan for s in steps])
    if np.isfinite(values).any():
        wanted = step.value * _scale(step.unit, steps[0].unit)
        reach = max(float(np.nanmax(np.abs(values))), abs(wanted), 1e-300)
        nearest = int(np.nanargmin(np.abs(values - wanted)))
        if abs(values[nearest] - wanted) <= SAME_MOMENT * reach:
            return nearest
    raise Impossible(
        f"'{theirs.name}' has no step at {step.label}.",
        f"It runs from {steps[0].label} to {steps[-1].label}: name one of its steps, with step=0 behind its name.",
    )


def _scale(unit: str, other: str) -> float:
    """From one unit to another; 1 where either is not known."""
    return conversion(unit, other)[0] if unit and other and unit != other else 1.0


def taken_off(
    against: Resolved, source: Source, place: Any, evaluate: Callable[[Reading, Source, Any], Values], said: list[str]
) -> tuple[Float, list[str]]:
    """What is taken off at some places of a result, and what is to be said of it where it is of another one; ``said``: what is said
    of the first already, and not again."""
    if against.elsewhere:
        theirs, called = source.other(against.elsewhere).at(against.reading.step), f"'{against.called}'"
    else:
        theirs, called = source.at(against.reading.step), f"The step {source.steps[against.reading.step].label}"
    if theirs is source:
        return evaluate(against.reading, source, place).values, []
    reading = replace(against.reading, result="")
    notes: list[str] = []

    def read(there: Any) -> Float:
        answer = evaluate(reading, theirs, there)
        notes.extend(f"Of {called[0].lower()}{called[1:]}: {note}" for note in answer.caveats if note not in said)
        return answer.values

    if one_mesh(source.mesh, theirs.mesh, length_scale(source, theirs)):
        return read(place), notes
    refuse_what_is_of_its_mesh(against)
    values, absent = read_elsewhere(source, theirs, place, read)
    where = f"it is not there at {100 * absent:.2g} % of them, which have no value" if absent else "it is there at all of them"
    return values, [f"{called} has another mesh: read at the undeformed places of this one; {where}.", *notes]


def matched(mine: Source, theirs: Source) -> bool:
    """Whether two results have one mesh, so that what is at a place of one is at the same place of the other."""
    return one_mesh(mine.mesh, theirs.mesh, length_scale(mine, theirs))


def length_scale(mine: Source, theirs: Source) -> float:
    """From the unit of length of one result to that of another; 1 where either is not known."""
    return _scale(mine.setup.length, theirs.setup.length)


def refuse_what_is_of_its_mesh(against: Resolved) -> None:
    """Raise Impossible for what means nothing between the nodes or elements it is given at."""
    field = against.field
    if kind_of(field.kind).portion:
        raise Impossible(
            f"'{field.name}' is what falls to each node of its own mesh: at the places of another mesh it is nothing.",
            "Hold the sums over a set against each other, in the load balance or as curves.",
        )
    if field.names or kind_of(field.kind).own:
        raise Impossible(
            f"'{field.name}' belongs to the elements of its own mesh: it is not read between them.",
            "Look at both results, one after the other.",
        )


def read_elsewhere(mine: Source, theirs: Source, place: Any, read: Callable[[Any], Float]) -> tuple[Float, float]:
    """What ``read(place)`` answers of another result at places of one, (answers,), NaN where its body is not; and its share."""
    if isinstance(place, AtGauss):
        raise Impossible(
            "Gauss points belong to their mesh, and the other result has another one.", "Read it at elements or nodes."
        )
    found = _found(mine, theirs, place)
    values = found.spread(read(found.places)) if len(found.at) else np.full(found.count, np.nan)
    absent = np.isnan(found.spread(np.zeros(len(found.at))))
    return values, float(absent.mean()) if len(absent) else 0.0


def places_elsewhere(mine: Source, theirs: Source, place: AtSamples) -> Found:
    """Where places of one result are in another, each on the side of its own element; the same places where they have one mesh."""
    if matched(mine, theirs):
        return Found(place, np.arange(len(place.element)), len(place.element))
    return _found(mine, theirs, place)


def nodes_elsewhere(mine: Source, theirs: Source, nodes: Int) -> Found:
    """Where nodes of one result are in another that has another mesh."""
    return _found(mine, theirs, AtNodes(nodes))


def _found(mine: Source, theirs: Source, place: Any) -> Found:
    """The places of a mesh in another; those of the last few questions are kept, every corner of the mesh as one of them."""
    scale, turned = length_scale(mine, theirs), is_turned(mine)
    key = ("corners",) if isinstance(place, AtCorners) and place.elements is None else (place,)
    work = partial(_find, mine.mesh, theirs.mesh, place, scale, turned)
    return remembered(mine.mesh, "places elsewhere", (*key, theirs.mesh, scale, turned), work, most=4)


def _find(mine: Mesh, theirs: Mesh, place: Any, scale: float, turned: bool) -> Found:
    """Where places are in another mesh, looked for a run at a time; 64 bytes a place are kept."""
    count = len(place.elements) if isinstance(place, AtElements) else _count(mine, place)
    # An element stands for all its integration points.
    most = max((len(block.cell.quadrature[0]) for block in mine.blocks), default=1)
    run = RUN // most if isinstance(place, AtElements) else RUN
    pieces: list[tuple[AtSamples, Int, Int, Float]] = []
    before = 0
    for start in range(0, count, run):
        still_wanted(f"places in the other mesh, {start:,} of {count:,}" if start else "")
        chosen = slice(start, min(start + run, count))
        if isinstance(place, AtElements):
            element, points, weights, owner = _inside(mine, place.elements[chosen], turned)
            places, at = _placed(mine, theirs, points, element, scale)
            pieces.append((places, at + before, owner + start, weights))
        else:
            points, element = _points_of(mine, place, chosen)
            places, at = _placed(mine, theirs, points, element, scale)
            pieces.append((places, at + before, np.zeros(0, dtype=np.int64), np.zeros(0)))
        before += len(points)
    if not pieces:
        none = np.zeros(0, dtype=np.int64)
        return Found(AtSamples(none, np.zeros((0, 3))), none, count, none, np.zeros(0))
    places = AtSamples(np.concatenate([p.element for p, *_ in pieces]), np.concatenate([p.xi for p, *_ in pieces]))
    at = np.concatenate([own for _, own, _, _ in pieces])
    if not isinstance(place, AtElements):
        return Found(places, at, count)
    return Found(places, at, count, np.concatenate([o for *_, o, _ in pieces]), np.concatenate([w for *_, w in pieces]))


def _count(mesh: Mesh, place: Any) -> int:
    if isinstance(place, AtNodes):
        return len(place.nodes)
    if isinstance(place, AtSamples):
        return len(place.element)
    return len(mesh.connectivity) if isinstance(place, AtCorners) and place.elements is None else len(_corners(mesh, place))


def _points_of(mine: Mesh, place: Any, chosen: slice) -> tuple[Float, Int]:
    """Where some of the places are, (n, 3), and the element each is of, -1 of nodes."""
    if isinstance(place, AtNodes):
        nodes = place.nodes[chosen]
        return mine.points[nodes], np.full(len(nodes), -1)
    if isinstance(place, AtSamples):
        own = AtSamples(place.element[chosen], place.xi[chosen])
        return positions(mine, own), own.element
    if isinstance(place, AtCorners) and place.elements is None:
        corners = np.arange(chosen.start, chosen.stop)
    else:
        corners = _corners(mine, place)[chosen]
    return mine.points[mine.connectivity[corners]], mine.owners(corners)


def _corners(mesh: Mesh, place: AtCorners | TheseCorners) -> Int:
    if isinstance(place, TheseCorners):
        return place.corners
    return np.arange(len(mesh.connectivity)) if place.elements is None else mesh.corners_of(place.elements)


def _inside(mesh: Mesh, elements: Int, turned: bool) -> tuple[Int, Float, Float, Int]:
    """Integration points of some elements: which element, where, weight, and the element's position in ``elements``. turned: of a
    body of revolution, where what lies farther out counts more."""
    wanted = np.full(len(mesh.types), -1, dtype=np.int64)
    wanted[elements] = np.arange(len(elements))
    element, points, weights = [], [], []
    for block in mesh.blocks:
        for chosen in block.some(wanted[block.elements] >= 0).pieces():
            xi, _ = chosen.cell.quadrature
            element.append(np.repeat(chosen.elements, len(xi)))
            points.append(np.einsum("qn,enx->eqx", chosen.cell.shape(xi), mesh.points[chosen.nodes]).reshape(-1, 3))
            weights.append(quadrature_weights(mesh, chosen, turned).ravel())
    if not element:
        return np.zeros(0, dtype=np.int64), np.zeros((0, 3)), np.zeros(0), np.zeros(0, dtype=np.int64)
    own = np.concatenate(element)
    return own, np.concatenate(points), np.concatenate(weights), wanted[own]


def _placed(mine: Mesh, theirs: Mesh, points: Float, element: Int, scale: float) -> tuple[AtSamples, Int]:
    """Which places of another mesh some points (n, 3) are, and of which of them: each on the side of its own element (-1: none)."""
    inwards = points.copy()
    owned = element >= 0
    inwards[owned] += INWARDS * (element_centres(mine, element[owned]) - points[owned])
    points, inwards = scale * points, scale * inwards
    still_wanted()
    alike = _same_part(mine, theirs, element)
    found, xi = _held(theirs, inwards, alike)
    still_wanted()
    # What was not moved is where it was found.
    at = np.flatnonzero((found >= 0) & owned)
    xi[at] = _exact(theirs, found[at], xi[at], points[at])
    at = np.flatnonzero(found >= 0)
    # Borders of parts are not quite where they are in the other mesh: what is just beside its own part is of that part still.
    own_size = scale * _sizes(mine, element)
    settled = np.zeros(len(points), dtype=bool)
    settled[at] = alike[at, theirs.part[found[at]]]
    for part in range(len(theirs.part_names)):
        beside = np.flatnonzero(alike[:, part] & ~settled)
        settled[_beside(theirs, frozenset({part}), points, beside, own_size, found, xi)] = True
    missing = np.flatnonzero(found < 0)
    _beside(theirs, frozenset(), points, missing, own_size, found, xi)
    at = np.flatnonzero(found >= 0)
    return AtSamples(found[at], xi[at]), at


def _held(theirs: Mesh, points: Float, alike: NDArray[np.bool_]) -> tuple[Int, Float]:
    """The element of another mesh that holds each point, -1 for none, and its natural coordinates. Of several that meet there one
    of a part that is ``alike``, (n, parts), else the first."""
    found, xi = np.full(len(points), -1), np.zeros((len(points), 3))
    left = np.arange(len(points))
    if len(points) >= MANY:
        from ironstone.core.geometry.inside import strictly_inside

        found, xi = strictly_inside(theirs, points)
        # Inside one element no other of its part is met, but one of another part may be.
        own = alike[left, theirs.part[found]] if len(theirs.part_names) > 1 else True
        found = np.where((found >= 0) & own, found, -1)
        left = np.flatnonzero(found < 0)
    held = locate(theirs, points[left])
    point = left[held.point]
    same = alike[point, theirs.part[held.element]] if len(point) else np.zeros(0, dtype=bool)
    order = np.lexsort((held.element, ~same, point))
    at, first = np.unique(point[order], return_index=True)
    chosen = order[first]
    found[at], xi[at] = held.element[chosen], held.xi[chosen]
    return found, xi


def _beside(mesh: Mesh, parts: frozenset[int], points: Float, wanted: Int, own: Float, found: Int, xi: Float) -> Int:
    """Give some of the points the nearest place of parts of a mesh (of none: of all), where that is near; which were given one."""
    if not len(wanted) or not len(mesh.types):
        return wanted[:0]
    still_wanted()
    # Imported here: most readings are of one result, and none of them needs what looks for the nearest place.
    from ironstone.core.geometry.nearest import outside_of

    try:
        place, _, where = outside_of(mesh, parts).nearest(points[wanted])
    except Impossible:
        # Bars alone have no outside: what is not on them is nowhere.
        return wanted[:0]
    size = np.maximum(_sizes(mesh, place.element), own[wanted])
    near = np.linalg.norm(where - points[wanted], axis=1) <= BESIDE * size
    found[wanted[near]], xi[wanted[near]] = place.element[near], place.xi[near]
    given: Int = wanted[near]
    return given


def _same_part(mine: Mesh, theirs: Mesh, element: Int) -> NDArray[np.bool_]:
    """Whether each point's own part has the name of each part of the other mesh, (n, parts)."""
    names = np.array([[a == b for b in theirs.part_names] for a in mine.part_names], dtype=bool)
    table: NDArray[np.bool_] = names[mine.part[np.maximum(element, 0)]]
    table[element < 0] = False
    return table


def _exact(mesh: Mesh, element: Int, nudged: Float, points: Float) -> Float:
    """Natural coordinates of the points themselves in the elements that were chosen; the moved ones where that leads away."""
    xi = nudged.copy()
    types = mesh.types[element]
    for vtk in np.unique(types):
        here, cell = np.flatnonzero(types == vtk), CELLS[int(vtk)]
        nodes = mesh.points[mesh.connectivity[mesh.offsets[element[here]][:, None] + np.arange(cell.size)]]
        own, _ = natural(cell, nodes, points[here], nudged[here])
        close = np.nan_to_num(np.abs(own - nudged[here]).max(1), nan=np.inf) <= 100 * INWARDS
        xi[here[close]] = own[close]
    return xi


def _sizes(mesh: Mesh, element: Int) -> Float:
    """The diagonal of the box of each element, (n,); 0 of none (-1)."""
    sizes = np.zeros(len(element))
    for vtk in np.unique(mesh.types[element[element >= 0]]):
        here = np.flatnonzero((element >= 0) & (mesh.types[np.maximum(element, 0)] == vtk))
        own = mesh.points[mesh.connectivity[mesh.offsets[element[here]][:, None] + np.arange(CELLS[int(vtk)].size)]]
        sizes[here] = np.linalg.norm(np.ptp(own, axis=1), axis=1)
    return sizes
