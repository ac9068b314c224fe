"""Bars and beams: axial forces, the balance of a joint, members from joint to joint, and what a hand calculation makes of them."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Source, constants_of, displacement_of
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolved import Values
from ironstone.core.rounding import settle
from ironstone.core.statics.balance import force_field

STRAIGHT = 5.0
ELASTIC = 0.01
NOTHING = 1e-6


def bars_of(mesh: Mesh) -> Int:
    """Positions of all line elements. Raises where there is none."""
    found = np.flatnonzero(mesh.dimensions == 1)
    if not len(found):
        raise Impossible("This result has no bars.", "Members are runs of line elements.")
    return found


def _of_elements(source: Source, kind: str) -> Field | None:
    fields = source.fields.values()
    return next((f for f in fields if f.kind == kind and f.location == "element" and f.plain), None)


def axial_force(source: Source, step: int) -> tuple[Float, str]:
    """Axial force of each element, (elements,), NaN for what is no bar, and where it comes from: the file, or stress times area."""
    bars = source.mesh.dimensions == 1
    result = np.full(len(bars), np.nan)
    given = _of_elements(source, "axial force")
    if given is not None:
        result[bars] = source.values(given.name, step)[bars, 0]
        return result, f"'{given.name}' of the file"
    area, stress = _of_elements(source, "section area"), _of_elements(source, "axial stress")
    if area is None or stress is None:
        raise Impossible(
            "The bars of this result have no axial force.",
            "State in Intake which field is the axial force, or the axial stress and the section area.",
        )
    result[bars] = source.values(stress.name, step)[bars, 0] * source.values(area.name, 0)[bars, 0]
    return result, f"'{stress.name}' times '{area.name}'"


@dataclass(frozen=True)
class Joint:
    """Bars that meet at a node: element positions, axial force (tension positive), force each exerts on the node, and the rest."""

    elements: Int
    axial: Float
    pulls: Float
    applied: Float
    reaction: Float

    @property
    def residual(self) -> Float:
        """What is left of all forces on the node, (3,); nothing where bars carry no bending."""
        acting = np.concatenate([self.pulls, self.applied[None], self.reaction[None]])
        return settle(acting.sum(0), np.abs(acting).sum())


def joint(source: Source, node: int, step: int) -> Joint:
    """The forces of the bars that meet at a node (by position), undeformed directions, against what acts on it."""
    mesh = source.mesh
    corners = mesh.corners_at(node)
    elements = mesh.corner_element[corners]
    bar = mesh.dimensions[elements] == 1
    if not bar.any():
        raise Impossible(f"No bar meets at node {int(mesh.node_ids[node])}.", "Name a joint of bars.")
    elements = elements[bar]
    axial, _ = axial_force(source, step)
    ends = _ends(mesh, elements)
    far = np.where(ends[:, 0] == node, ends[:, 1], ends[:, 0])
    along = mesh.points[far] - mesh.points[node]
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-300)

    def at(kind: str) -> Float:
        field = force_field(source, kind)
        if field is None:
            return np.zeros(3)
        return np.nan_to_num(np.asarray(source.rows(field.name, step, np.array([node]))[0], dtype=np.float64))

    return Joint(elements, axial[elements], axial[elements, None] * along, at("force"), at("reaction"))


def _ends(mesh: Mesh, elements: Int) -> Int:
    """The two end nodes of line elements, (n, 2)."""
    first = mesh.offsets[elements]
    ends: Int = np.stack([mesh.connectivity[first], mesh.connectivity[first + 1]], 1)
    return ends


@dataclass(frozen=True, eq=False)
class Member:
    """A run of line elements of one part from joint to joint.

    elements: (n,) in order; nodes: (n + 1,) along it; lengths: (n,) of the pieces.

    A joint is a node where other than two bars meet, or where they turn by more than 5 degrees.
    """

    part: str
    elements: Int
    nodes: Int
    lengths: Float

    @property
    def length(self) -> float:
        return float(self.lengths.sum())


def members(mesh: Mesh) -> list[Member]:
    """All members of a mesh, in the order of their first elements."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import breadth_first_order, connected_components

    bars = bars_of(mesh)
    ends = _ends(mesh, bars)
    way = mesh.points[ends[:, 1]] - mesh.points[ends[:, 0]]
    lengths = np.linalg.norm(way, axis=1)
    way /= np.maximum(lengths[:, None], 1e-300)
    order = np.argsort(ends.ravel(), kind="stable")
    _, first, count = np.unique(ends.ravel()[order], return_index=True, return_counts=True)
    twice = first[count == 2]
    one, two = order[twice], order[twice + 1]
    # At a node that is the far end of one and the near end of the other both point the same way, else against each other.
    turned = np.where(one % 2 == two % 2, -1.0, 1.0)
    straight = turned * np.einsum("ij,ij->i", way[one // 2], way[two // 2]) > np.cos(np.radians(STRAIGHT))
    joined = straight & (mesh.part[bars[one // 2]] == mesh.part[bars[two // 2]])
    a, b = one[joined] // 2, two[joined] // 2
    graph = coo_matrix((np.ones(len(a)), (a, b)), shape=(len(bars),) * 2).tocsr()
    graph = graph + graph.T
    total, label = connected_components(graph, directed=False)
    degree = np.asarray(graph.getnnz(axis=1))
    sorted_bars = np.argsort(label, kind="stable")
    bounds = np.searchsorted(label[sorted_bars], np.arange(total + 1))
    found = []
    for i in range(total):
        own = sorted_bars[bounds[i] : bounds[i + 1]]
        start = own[np.argmin(degree[own])]
        run = breadth_first_order(graph, start, directed=False, return_predecessors=False).astype(np.int64)
        chain = _chain(ends[run])
        found.append(Member(mesh.part_names[int(mesh.part[bars[start]])], bars[run], chain, lengths[run]))
    return sorted(found, key=lambda m: int(m.elements.min()))


def _chain(ends: Int) -> Int:
    """Nodes along elements that follow each other, (n + 1,)."""
    if len(ends) == 1:
        return np.array(ends[0], dtype=np.int64)
    here = int(ends[0, 0] if ends[0, 1] in ends[1] else ends[0, 1])
    chain = [here]
    for a, b in ends.tolist():
        here = b if a == here else a
        chain.append(here)
    return np.array(chain, dtype=np.int64)


@dataclass(frozen=True)
class ByHand:
    """A member beside its hand calculation.

    force: of the file, mean over its length, tension positive. extension: of its joints' displacements, along it. strain: over its
    length. stress, hand_force: linear elastic, from modulus and area alone; NaN where those are not known. nominal: force over
    area. yielded: share of the section yielded, the largest along it, NaN where the file has none.
    sense: 'agrees' where it lengthens in tension and shortens in compression, 'against', or '' where nothing acts.
    """

    member: Member
    force: float
    area: float
    young: float
    extension: float
    strain: float
    stress: float
    hand_force: float
    nominal: float
    yielded: float
    sense: str

    @property
    def off(self) -> float:
        """Hand force against the file's, as a share of the file's; what is no more than rounding of single precision is none."""
        return float(settle(self.hand_force / self.force - 1.0, 10.0, "single")) if self.force else float("nan")

    @property
    def elastic(self) -> bool:
        """Whether force over area is the stress: nothing has yielded, and the hand calculation is within 1 %."""
        if np.isfinite(self.yielded):
            return self.yielded == 0.0
        return not abs(self.off) > ELASTIC


def by_hand(source: Source, step: int, found: list[Member]) -> list[ByHand]:
    """Every member's force beside extension, strain, stress and force from joint displacements, modulus and area alone.

    Small displacements; N = extension / sum(L / E A) (strength of materials, from memory).
    """
    mesh = source.mesh
    force, _ = axial_force(source, step)
    moved = displacement_of(source.fields)
    shift = np.full_like(mesh.points, np.nan) if moved is None else np.asarray(source.values(moved.name, step), dtype=np.float64)
    (young,) = constants_of(mesh, source.setup, "young")

    def each(kind: str, at: int) -> Float:
        field = _of_elements(source, kind)
        if field is None:
            return np.full(len(mesh.types), np.nan)
        return np.asarray(source.values(field.name, at)[:, 0], dtype=np.float64)

    area, yielded = each("section area", 0), each("yielded share", step)
    largest = float(np.nanmax(np.abs(force), initial=0.0))
    answer = []
    for m in found:
        a, b = mesh.points[m.nodes[:-1]], mesh.points[m.nodes[1:]]
        along = (b - a) / np.maximum(m.lengths[:, None], 1e-300)
        extension = float(np.einsum("ij,ij->", shift[m.nodes[1:]] - shift[m.nodes[:-1]], along))
        own = float(np.average(force[m.elements], weights=m.lengths))
        section = float(m.length / (m.lengths / area[m.elements]).sum())
        hand = float(extension / (m.lengths / (young[m.elements] * area[m.elements])).sum())
        acts = abs(own) > NOTHING * largest and np.isfinite(extension)
        answer.append(
            ByHand(
                member=m,
                force=own,
                area=section,
                young=float(np.average(young[m.elements], weights=m.lengths)),
                extension=extension,
                strain=extension / m.length,
                stress=hand / section,
                hand_force=hand,
                nominal=own / section,
                yielded=float(np.max(yielded[m.elements])),
                sense=("agrees" if extension * own >= 0 else "against") if acts else "",
            )
        )
    return answer


def along(source: Source, member: Member, reading: Reading) -> tuple[Float, Values]:
    """A reading along a member as its elements have it: distance from its first joint (2n,), and two values a piece."""
    mesh = source.mesh
    reversed_ = mesh.connectivity[mesh.offsets[member.elements]] != member.nodes[:-1]
    near = np.where(reversed_, 1.0, 0.0)
    xi = np.zeros((2 * len(member.elements), 3))
    line = next(b.cell for b in mesh.blocks if b.cell.dimension == 1)
    first, last = float(line.nodes[0, 0]), float(line.nodes[1, 0])
    xi[0::2, 0] = first + near * (last - first)
    xi[1::2, 0] = last - near * (last - first)
    ends = np.concatenate([[0.0], np.cumsum(member.lengths)])
    distance = np.stack([ends[:-1], ends[1:]], 1).ravel()
    return distance, evaluate(reading, source, AtSamples(np.repeat(member.elements, 2), xi))


def so_far(reading: Reading) -> Reading:
    """The same reading, largest in magnitude over the steps up to its own."""
    return replace(reading, over="magnitude", span="so-far", when=False)


@dataclass(frozen=True)
class Shift:
    """A member's force at two steps, and what the second would be had all forces grown with the load. gained: of its size."""

    member: Member
    before: float
    after: float
    expected: float

    @property
    def gained(self) -> float:
        return abs(self.after) - abs(self.expected)


def taken_over(source: Source, first: int, last: int, found: list[Member]) -> tuple[list[Shift], float, str]:
    """Which members take over force between two steps: those that gained most first; how much the load has grown, and by what told.

    A structure that stays linear scales with its load where all of it grows in proportion: what a member has more than that, others
    have handed to it. That loads have not grown so is told with by what the growth is told.
    """
    growth, answer = _growth(source, first, last)
    before, after = (axial_force(source, s)[0] for s in (first, last))
    shifts = []
    for m in found:
        a, b = (float(np.average(f[m.elements], weights=m.lengths)) for f in (before, after))
        shifts.append(Shift(m, a, b, growth * a))
    return sorted(shifts, key=lambda s: -s.gained), growth, answer


# Loads that keep their places and directions within this share have grown in proportion.
PROPORTION = 0.01


def _growth(source: Source, first: int, last: int) -> tuple[float, str]:
    for kind, word in (("force", "applied forces"), ("reaction", "reactions")):
        field = force_field(source, kind)
        if field is None:
            continue
        vectors = [np.nan_to_num(np.asarray(source.values(field.name, s), dtype=np.float64)) for s in (first, last)]
        a, b = (float(np.linalg.norm(v, axis=1).sum()) for v in vectors)
        if a > 0:
            if kind == "reaction":
                return b / a, f"{word}, all loads taken as growing in proportion"
            off = float(np.linalg.norm(vectors[1] - b / a * vectors[0], axis=1).sum())
            apart = f", which have not grown in proportion ({100 * off / b:.2g} % of them changed place or direction)"
            return b / a, word + (apart if b and off > PROPORTION * b else "")
    a, b = source.steps[first].value, source.steps[last].value
    if source.steps[first].kind == "load factor" and a:
        return b / a, "load factor, all loads taken as growing with it"
    raise Impossible(
        f"No load acts at step {first}: there is nothing the forces could have grown from.", "Choose a later first step."
    )


def first_loaded(source: Source, before: int) -> int:
    """The first step with a load, to compare with; the one before where there is no telling."""
    for step in range(before):
        try:
            _growth(source, step, before)
        except Impossible:
            continue
        return step
    return max(0, before - 1)
