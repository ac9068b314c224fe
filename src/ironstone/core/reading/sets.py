"""Sets made by the analyst: nodes of a part, in a box, on a smooth face, or where a reading is high enough."""

from __future__ import annotations

import numpy as np

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.field.fields import Source
from ironstone.core.geometry.measuring import smooth_faces
from ironstone.core.geometry.surface import Surface, face_nodes
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading


def nodes_of_part(mesh: Mesh, name: str) -> Int:
    if name not in mesh.part_names:
        raise NotFound(f"There is no part '{name}'.", f"Parts here: {', '.join(mesh.part_names)}.")
    chosen = mesh.part[mesh.corner_element] == mesh.part_names.index(name)
    return _found(np.unique(mesh.connectivity[chosen]), f"part {name}")


def nodes_in_box(mesh: Mesh, low: Float, high: Float) -> Int:
    """Nodes with every coordinate between low and high (3,), with a slack of 1e-6 of the model's size."""
    slack = 1e-6 * mesh.size
    inside = ((mesh.points >= np.minimum(low, high) - slack) & (mesh.points <= np.maximum(low, high) + slack)).all(1)
    return _found(np.flatnonzero(inside), "the box")


def nodes_of_face(mesh: Mesh, surface: Surface, face: int, fold: float) -> Int:
    """Nodes of a drawn face and of all that join it without folding by more than ``fold`` degrees."""
    if not 0 <= face < len(surface.face_element):
        raise Impossible("That face is not drawn any more.", "Pick a face again.")
    return _found(face_nodes(mesh, surface, smooth_faces(surface, face, fold)), "the face")


def nodes_by_value(reading: Reading, source: Source, least: float) -> Int:
    """Nodes where the reading, in any element that meets there, is at least ``least``."""
    answer = evaluate(reading, source, AtCorners())
    return _found(np.unique(source.mesh.connectivity[answer.values >= least]), f"a value of at least {least:g}")


def _found(nodes: Int, where: str) -> Int:
    if not len(nodes):
        raise Impossible(f"No node is in {where}." if "value" not in where else f"No node has {where}.", "Nothing was made.")
    return nodes.astype(np.int64)
