"""One arrow a set: what its nodes' forces add up to, where the set is; what lies in no set has an arrow of its own."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source
from ironstone.core.geometry.surface import Surface
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtNodes, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.statics.arrows import Arrows, drawn_nodes

# A sum below this share of what it is made of is nothing.
NOTHING = 1e-6
# Sums are of such kinds; a mean displacement of a set is no resultant.
ADD_UP = ("force", "reaction")
REST = "in no set"


def set_arrows(field: str, source: Source, surface: Surface, step: int, unit: str | None = None) -> tuple[Arrows, list[str]]:
    """The resultant of each node set with forces on it, at the node of the set nearest its middle, and what the sets are called.

    Sets of the same forces are told once, those within another one as part of it, those that add up to nothing not at all.
    Raises Impossible for what does not add up.
    """
    found = source.fields.get(field)
    if found is None or found.rank != "vector" or found.location != "node" or found.kind not in ADD_UP or not found.plain:
        raise Impossible(f"'{field}' does not add up over a set.", "Arrows of sets are drawn of forces and reactions at nodes.")
    mesh = source.mesh
    every = AtNodes(np.arange(len(mesh.points)))
    forces = np.stack([evaluate(Reading(field, c, step=step, unit=unit), source, every).values for c in "xyz"], axis=1)
    forces = np.nan_to_num(forces)
    least = NOTHING * float(np.linalg.norm(forces, axis=1).max(initial=0.0))
    names, at, totals, outward = [], [], [], []
    drawn = _outward(mesh, surface)
    for name, nodes in _sets(mesh, forces, least):
        size = np.linalg.norm(forces[nodes], axis=1)
        total = forces[nodes].sum(0)
        if np.linalg.norm(total) <= max(NOTHING * size.sum(), least):
            continue
        carrying = nodes[size > least]
        middle = mesh.points[carrying].mean(0)
        names.append(name)
        at.append(int(carrying[np.argmin(np.linalg.norm(mesh.points[carrying] - middle, axis=1))]))
        totals.append(total)
        outward.append(drawn[carrying].sum(0))
    place = _at_nodes(mesh, np.array(at, dtype=np.int64))
    values = np.array(totals).reshape(-1, 3)
    resolved = resolve(Reading(field, "x", step=step, unit=unit), source)
    arrows = Arrows(place, mesh.points[at].reshape(-1, 3), values, None, np.array(outward).reshape(-1, 3), resolved, 0.0, 0)
    return arrows, names


def _sets(mesh: Mesh, forces: Float, least: float) -> Iterator[tuple[str, Int]]:
    """The sets that carry something, and what lies in none of them. One whose forces are all in another one is part of that."""
    loaded = np.linalg.norm(forces, axis=1) > least
    carrying = {name: frozenset(nodes[loaded[nodes]].tolist()) for name, nodes in mesh.node_sets.items()}
    told: list[frozenset[int]] = []
    for name, own in carrying.items():
        if own and own not in told and not any(own < other for other in carrying.values()):
            told.append(own)
            yield name, mesh.node_sets[name]
    rest = np.setdiff1d(np.flatnonzero(loaded), np.array(sorted(frozenset().union(*told)), dtype=np.int64))
    if len(rest):
        yield REST, rest


def _outward(mesh: Mesh, surface: Surface) -> Float:
    """Away from the body at every node, nothing inside it."""
    _, node, outward = drawn_nodes(mesh, surface)
    result = np.zeros((len(mesh.points), 3))
    result[node] = outward
    return result


def _at_nodes(mesh: Mesh, nodes: Int) -> AtSamples:
    """Each node in the first element that has it."""
    corners = np.array([mesh.corners_at(int(n))[0] for n in nodes], dtype=np.int64)
    elements = mesh.corner_element[corners]
    xi = [CELLS[int(mesh.types[e])].nodes[c - mesh.offsets[e]] for e, c in zip(elements, corners, strict=True)]
    return AtSamples(elements, np.array(xi, dtype=np.float64).reshape(-1, 3))
