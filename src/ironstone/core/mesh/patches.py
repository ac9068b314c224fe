"""Sets that nobody wrote: where a model is held, driven and loaded, patch by patch, found by what its nodes do over all steps."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.mesh import Float, Int, Mesh

# More patches than these are one set; a share of the nodes above this is no support.
MOST, SHARE = 12, 0.5
SUPPORT, DRIVEN, LOADED, SLIDING = "support", "driven", "loaded", "symmetry"
HOW = {
    (SUPPORT, True): "found: its nodes carry reactions and do not move at any step",
    (DRIVEN, True): "found: its nodes carry reactions and are moved alike",
    (SUPPORT, False): "found: its nodes do not move at any step",
    (DRIVEN, False): "found: its nodes lie on a side of the model and are moved alike",
    (LOADED, True): "found: forces act on its nodes",
    (LOADED, False): "found: the stress leaves forces at its nodes, which nothing holds",
    (SLIDING, False): "found: its nodes lie on a side of the model and do not move square to it at any step",
}


ROLLER = "found: its nodes carry reactions and do not move in some direction at any step"


@dataclass(frozen=True, eq=False)
class Done:
    """What nodes do over all steps: the largest reaction and force of each (nodes,) and displacement (nodes, 3), and that itself
    at the step at which it is largest; None of what a result does not have, NaN where a displacement is missing. loose: what
    counts as nothing, as a share of the largest."""

    reaction: Float | None = None
    moved: Float | None = None
    shift: Float | None = None
    force: Float | None = None
    loose: float = 1e-6

    @cached_property
    def nothing_moved(self) -> float:
        """What of a displacement counts as nothing."""
        return self.loose * (0.0 if self.moved is None else float(np.nanmax(self.moved, initial=0.0)))

    @cached_property
    def nothing_shifted(self) -> float:
        """The same at the step at which nodes move most."""
        return self.loose * (0.0 if self.shift is None else float(np.nanmax(np.abs(self.shift), initial=0.0)))


NOTHING = Done()


@dataclass(frozen=True, eq=False)
class Patch:
    nodes: Int
    how: str


def patches(mesh: Mesh, done: Done) -> Mapping[str, Patch]:
    """Supports, driven and loaded patches of a mesh by name, each named by what it is and where."""
    found: dict[str, Patch] = {}
    still: NDArray[np.bool_] | None = None
    stands = np.ones((len(mesh.points), 3), dtype=bool)
    if done.moved is not None:
        stands = np.asarray(done.moved <= done.nothing_moved)
        still = np.asarray(stands.all(axis=1))
    if done.reaction is not None and _some(done.reaction, done.loose):
        holding = done.reaction > done.loose * float(done.reaction.max())
        if still is not None:
            add_groups(found, mesh, DRIVEN, holding & ~still, done, reactions=True)
            for patch in found.values():
                holding[patch.nodes] = False
        # A roller holds in one direction alone.
        add_groups(found, mesh, SUPPORT, holding & stands.any(axis=1), done, reactions=True)
        for name, patch in found.items():
            if name.startswith(SUPPORT) and not stands[patch.nodes].all():
                found[name] = Patch(patch.nodes, ROLLER)
    elif still is not None and done.moved is not None and _some(done.moved, done.loose):
        add_groups(found, mesh, SUPPORT, still, done, reactions=False)
        # A line has ends and no sides.
        for axis, nodes in sides_of(mesh) if (mesh.dimensions > 1).any() else []:
            if len(nodes) > 2 and not still[nodes].all():
                slides = (done.moved[nodes, axis] <= done.nothing_moved).all()
                kind = SLIDING if slides else DRIVEN if _moved_alike(done, nodes) else ""
                if kind:
                    found[f"{kind} {where_of(mesh, nodes)}"] = Patch(nodes, HOW[kind, False])
    if done.force is not None and _some(done.force, done.loose):
        add_groups(found, mesh, LOADED, done.force > done.loose * float(done.force.max()), done, reactions=True)
    return found


def _some(values: Float, loose: float) -> bool:
    """Whether there is any, and not nearly everywhere: a reaction at most nodes says nothing of supports."""
    largest = float(np.nanmax(values, initial=0.0))
    return bool(largest > 0.0 and (values > loose * largest).sum() > 0)


def add_groups(found: dict[str, Patch], mesh: Mesh, kind: str, members: NDArray[np.bool_], done: Done, reactions: bool) -> None:
    if not members.any() or members.mean() > SHARE:
        return
    groups = _joined(mesh, members)
    if kind == DRIVEN:
        groups = [g for g in groups if _moved_alike(done, g)]
    if len(groups) > MOST:
        groups = [np.concatenate(groups)]
    for nodes in groups:
        name = plain = f"{kind} {where_of(mesh, nodes)}"
        count = 1
        while name in found:
            count += 1
            name = f"{plain} ({count})"
        found[name] = Patch(np.sort(nodes), HOW[kind, reactions])


def _moved_alike(done: Done, nodes: Int) -> bool:
    """Whether nodes move by the same amount in a direction, and not by nothing."""
    if done.shift is None:
        return False
    near = done.nothing_shifted
    own = done.shift[nodes]
    return bool(((np.ptp(own, axis=0) <= near) & (np.abs(own).max(axis=0) > near)).any())


def _joined(mesh: Mesh, members: NDArray[np.bool_]) -> list[Int]:
    """Nodes that are joined by edges of elements, patch by patch, the largest first."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    pairs = [np.zeros((0, 2), dtype=np.int64)]
    for whole in mesh.blocks:
        block = whole.some(members[whole.nodes].sum(axis=1) > 1)
        for edge in block.cell.edges:
            chain = block.nodes[:, list(edge)] if len(edge) == 2 else block.nodes[:, [edge[0], edge[2]]]
            pairs.append(chain)
            if len(edge) > 2:
                pairs.append(block.nodes[:, [edge[2], edge[1]]])
    every = np.concatenate(pairs)
    both = every[members[every].all(axis=1)]
    count = len(mesh.points)
    graph = coo_matrix((np.ones(len(both), dtype=bool), (both[:, 0], both[:, 1])), shape=(count, count))
    _, label = connected_components(graph, directed=False)
    nodes = np.flatnonzero(members)
    own = label[nodes]
    groups = [nodes[own == k] for k in np.unique(own)[: 4 * MOST]] if len(np.unique(own)) <= 4 * MOST else [nodes]
    return sorted(groups, key=len, reverse=True)


def sides_of(mesh: Mesh) -> list[tuple[int, Int]]:
    """The nodes at the least and the greatest of each coordinate, where the model has that direction at all."""
    near = 1e-6 * max(mesh.size, 1e-300)
    found = []
    low, high = mesh.box
    for axis in range(3):
        own = mesh.points[:, axis]
        if high[axis] - low[axis] > near:
            found += [(axis, np.flatnonzero(own <= low[axis] + near)), (axis, np.flatnonzero(own >= high[axis] - near))]
    return found


def where_of(mesh: Mesh, nodes: Int) -> str:
    """Where a patch is: on a plane square to an axis, else near its middle."""
    own = mesh.points[nodes]
    low, high = mesh.box
    spans, reach = np.ptp(own, axis=0), high - low
    flat = [k for k in range(3) if spans[k] <= 1e-6 * mesh.size < reach[k]]
    if len(nodes) > 1 and len(flat) == 1:
        return f"at {'xyz'[flat[0]]} = {_number(own[:, flat[0]].mean(), mesh.size)}"
    if len(nodes) > 1 and flat:
        ends = [k for k in flat if min(own[0, k] - low[k], high[k] - own[0, k]) < 1e-6 * mesh.size]
        axis = (ends or flat)[0]
        return f"at {'xyz'[axis]} = {_number(own[:, axis].mean(), mesh.size)}"
    return "near " + ", ".join(_number(v, mesh.size) for v in own.mean(0))


def _number(value: float, size: float) -> str:
    return "0" if abs(value) < 1e-9 * size else f"{value:.4g}"
