"""Sets that nobody wrote: where a model is held, driven and loaded, patch by patch, found by what its nodes do over all steps."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Float, Int, Mesh

# More patches than these are one set; a share of the nodes above this is no support.
MOST, SHARE = 12, 0.5
# Forces that a stress leaves: the error inside the body, as a share of the largest, below which a node's force is told from it; how
# many times the error a load is, and the least share of the largest.
OFF, WELL, LEAST = 0.05, 5.0, 0.02
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
        stands = np.asarray(done.moved <= done.loose * float(np.nanmax(done.moved, initial=0.0)))
        still = np.asarray(stands.all(axis=1))
    if done.reaction is not None and _some(done.reaction, done.loose):
        holding = done.reaction > done.loose * float(done.reaction.max())
        if still is not None:
            _add(found, mesh, DRIVEN, holding & ~still, done, reactions=True)
            for patch in found.values():
                holding[patch.nodes] = False
        # A roller holds in one direction alone.
        _add(found, mesh, SUPPORT, holding & stands.any(axis=1), done, reactions=True)
        for name, patch in found.items():
            if name.startswith(SUPPORT) and not stands[patch.nodes].all():
                found[name] = Patch(patch.nodes, ROLLER)
    elif still is not None and done.moved is not None and _some(done.moved, done.loose):
        _add(found, mesh, SUPPORT, still, done, reactions=False)
        for axis, nodes in _sides(mesh):
            if len(nodes) > 2 and not still[nodes].all():
                slides = (done.moved[nodes, axis] <= done.loose * float(np.nanmax(done.moved))).all()
                kind = SLIDING if slides else DRIVEN if _moved_alike(done.shift, nodes, done.loose) else ""
                if kind:
                    found[f"{kind} {_where(mesh, nodes)}"] = Patch(nodes, HOW[kind, False])
    if done.force is not None and _some(done.force, done.loose):
        _add(found, mesh, LOADED, done.force > done.loose * float(done.force.max()), done, reactions=True)
    return found


def left_by_stress(mesh: Mesh, force: Float, found: Mapping[str, Patch], done: Done = NOTHING) -> Mapping[str, Patch]:
    """Loaded patches by the force (nodes, 3) that a stress leaves at nodes, beside the supports and driven patches ``found``.

    Inside the body nothing acts: what a stress leaves there is its error, and what is a load stands well above it. Where that is
    not so, a side of the body over which the forces come to the whole load; with weight nothing is found.
    """
    size = np.linalg.norm(np.nan_to_num(force), axis=1)
    held = np.zeros(len(size), dtype=bool)
    for patch in found.values():
        held[patch.nodes] |= not patch.how.startswith(HOW[SLIDING, False])
    if done.reaction is not None:
        held |= done.reaction > done.loose * float(np.nanmax(done.reaction, initial=0.0))
    free = ~held & ~np.isnan(force).any(axis=1)
    if not free.any():
        return {}
    outside = np.zeros(len(size), dtype=bool)
    outside[_skin_nodes(mesh)] = True
    inside = size[free & ~outside]
    error = float(inside.max()) if len(inside) else float(np.median(size[free]))
    largest = float(size[free].max())
    loads: dict[str, Patch] = {}
    if largest > 0.0 and error <= OFF * largest:
        _add(loads, mesh, LOADED, free & outside & (size > max(WELL * error, LEAST * largest)), Done(), reactions=False)
        return loads
    # A stress that is even in each element leaves forces at every node of a bent body, which cancel over a side.
    total = np.nan_to_num(force)[free].sum(0)
    against = float(size[held].sum()) if held.any() else float(size.sum())
    if not np.linalg.norm(total) > LEAST * against:
        return {}
    whole = [nodes for _, nodes in _sides(mesh) if _carries(force, nodes[free[nodes]], total)]
    if whole:
        nodes = min(whole, key=len)
        loads[f"{LOADED} {_where(mesh, nodes)}"] = Patch(nodes[free[nodes]], HOW[LOADED, False])
    return loads


def _carries(force: Float, nodes: Int, total: Float) -> bool:
    """Whether the forces at some nodes come to the whole."""
    own = np.nan_to_num(force)[nodes].sum(0)
    return bool(len(nodes)) and bool(np.linalg.norm(own - total) <= LEAST * np.linalg.norm(total))


def _skin_nodes(mesh: Mesh) -> Int:
    """The nodes of faces that one element has alone."""
    from ironstone.core.geometry.faces import boundary

    faces = boundary(mesh, np.ones(len(mesh.types), dtype=bool))
    found = [np.zeros(0, dtype=np.int64)]
    for vtk in np.unique(mesh.types[faces[:, 0]]):
        for local, nodes in enumerate(CELLS[int(vtk)].faces):
            here = faces[(mesh.types[faces[:, 0]] == vtk) & (faces[:, 1] == local), 0]
            found.append(mesh.connectivity[mesh.offsets[here][:, None] + np.array(nodes)].ravel())
    return np.unique(np.concatenate(found))


def _some(values: Float, loose: float) -> bool:
    """Whether there is any, and not nearly everywhere: a reaction at most nodes says nothing of supports."""
    largest = float(np.nanmax(values, initial=0.0))
    return bool(largest > 0.0 and (values > loose * largest).sum() > 0)


def _add(found: dict[str, Patch], mesh: Mesh, kind: str, members: NDArray[np.bool_], done: Done, reactions: bool) -> None:
    if not members.any() or members.mean() > SHARE:
        return
    groups = _joined(mesh, members)
    if kind == DRIVEN:
        groups = [g for g in groups if _moved_alike(done.shift, g, done.loose)]
    if len(groups) > MOST:
        groups = [np.concatenate(groups)]
    for nodes in groups:
        name = plain = f"{kind} {_where(mesh, nodes)}"
        count = 1
        while name in found:
            count += 1
            name = f"{plain} ({count})"
        found[name] = Patch(np.sort(nodes), HOW[kind, reactions])


def _moved_alike(shift: Float | None, nodes: Int, loose: float) -> bool:
    """Whether nodes move by the same amount in a direction, and not by nothing."""
    if shift is None:
        return False
    near = loose * float(np.nanmax(np.abs(shift), initial=0.0))
    own = shift[nodes]
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


def _sides(mesh: Mesh) -> list[tuple[int, Int]]:
    """The nodes at the least and the greatest of each coordinate, where the model has that direction at all."""
    near = 1e-6 * max(mesh.size, 1e-300)
    found = []
    for axis in range(3):
        own = mesh.points[:, axis]
        if np.ptp(own) > near:
            found += [(axis, np.flatnonzero(own <= own.min() + near)), (axis, np.flatnonzero(own >= own.max() - near))]
    return found


def _where(mesh: Mesh, nodes: Int) -> str:
    """Where a patch is: on a plane square to an axis, else near its middle."""
    own = mesh.points[nodes]
    spans, reach = np.ptp(own, axis=0), np.ptp(mesh.points, axis=0)
    flat = [k for k in range(3) if spans[k] <= 1e-6 * mesh.size < reach[k]]
    if len(nodes) > 1 and len(flat) == 1:
        return f"at {'xyz'[flat[0]]} = {_number(own[:, flat[0]].mean(), mesh.size)}"
    if len(nodes) > 1 and flat:
        ends = [k for k in flat if min(own[0, k] - mesh.points[:, k].min(), mesh.points[:, k].max() - own[0, k]) < 1e-6 * mesh.size]
        axis = (ends or flat)[0]
        return f"at {'xyz'[axis]} = {_number(own[:, axis].mean(), mesh.size)}"
    return "near " + ", ".join(_number(v, mesh.size) for v in own.mean(0))


def _number(value: float, size: float) -> str:
    return "0" if abs(value) < 1e-9 * size else f"{value:.4g}"
