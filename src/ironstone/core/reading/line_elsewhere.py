"""A line of one mesh in another mesh of the same body: coordinates stay as they are, nodes are found by place."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from ironstone.core.errors import Impossible
from ironstone.core.geometry.routes import on_sharp_edges
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.reading.grammar import GRAMMAR

# What a line of node numbers begins with, and what stands between the numbers.
NUMBERED = {"nodes": ",", "edge": ":", "route": ":"}
# A node of the other mesh is the same place up to this share of the model's size; nearer than the second it is said to be there.
BESIDE, THERE = 0.02, 1e-6


def line_elsewhere(text: str, mesh: Mesh, other: Mesh, unit: str = "") -> tuple[str, list[str]]:
    """The line a text means in ``mesh``, as it is written for ``other``, and what must be said of it. unit: of lengths, for that.

    Raises Impossible where no node of the other mesh lies near one of the line.
    """
    kind, _, rest = text.partition(":")
    if kind not in NUMBERED:
        return text, []
    try:
        numbers = [int(n) for n in rest.split(NUMBERED[kind])]
    except ValueError as error:
        raise Impossible(f"'{text}' is not a line.", GRAMMAR) from error
    points = mesh.points[[mesh.node_position(n) for n in numbers]]
    # An edge goes on along an edge there, not along whichever node happens to be nearer.
    there = on_sharp_edges(other) if kind == "edge" else np.arange(len(other.points))
    if not len(there):
        raise Impossible("That mesh has no sharp edge.", "Write the line by coordinates, or keep a path of the same name there.")
    away, nearest = cKDTree(other.points[there]).query(points)
    nearest = there[nearest]
    worst = int(np.argmax(away))
    if away[worst] > BESIDE * mesh.size:
        raise Impossible(
            f"Node {numbers[worst]} of this line has no node of that mesh near it.",
            "Write the line by coordinates, or keep a path of the same name there.",
        )
    notes = []
    if away[worst] > THERE * mesh.size:
        notes.append(f"Its nodes are the nearest ones there, up to {away[worst]:.3g} {unit}".rstrip() + " away.")
    return f"{kind}:{NUMBERED[kind].join(str(int(n)) for n in other.node_ids[nearest])}", notes


def sided(x: Float) -> Float:
    """Distances of a profile with the two samples of a border kept apart by next to nothing, so that each keeps its own value where
    one reads between samples, (n,)."""
    apart = np.array(x, dtype=np.float64)
    length = float(np.ptp(apart)) if len(apart) else 0.0
    at = np.flatnonzero(np.diff(apart) <= 1e-12 * length)
    apart[at] -= 1e-9 * length
    apart[at + 1] += 1e-9 * length
    # Another sample may lie nearer to the border than that: the order stays.
    ordered: Float = np.maximum.accumulate(apart)
    return ordered
