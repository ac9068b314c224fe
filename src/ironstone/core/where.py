"""The one grammar of places: node:ID, element:ID, gauss:ELEMENT, gauss:ELEMENT:POINT, point:X,Y,Z, set:NAME.

A place is written the same in the command line, the interface, Python and what a review keeps. ``parse`` reads it, ``str`` writes
it, ``place_of`` finds it in a result: a set of nodes means its nodes, a set of elements means those elements and their corners,
not what lies beside them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.fields import Source
from ironstone.core.locate import find
from ironstone.core.mesh import Int, Mesh
from ironstone.core.places import AtCorners, AtElements, AtGauss, AtNodes, Place
from ironstone.core.reading import Reading, resolve

GRAMMAR = "Write node:ID, element:ID, gauss:ELEMENT, gauss:ELEMENT:POINT, point:X,Y,Z or set:NAME."
KINDS = ("node", "element", "gauss", "point", "set")


@dataclass(frozen=True)
class Where:
    """A place as it is written. number: of a node or element, as the file has it; point: a Gauss point, from 1, 0 for all."""

    kind: str
    number: int = 0
    point: int = 0
    xyz: tuple[float, float, float] = (0.0, 0.0, 0.0)
    name: str = ""

    def __str__(self) -> str:
        if self.kind == "set":
            return f"set:{self.name}"
        if self.kind == "point":
            return "point:" + ",".join(repr(v) for v in self.xyz)
        if self.kind == "gauss" and self.point:
            return f"gauss:{self.number}:{self.point}"
        return f"{self.kind}:{self.number}"

    @property
    def words(self) -> str:
        """The place in a sentence."""
        if self.kind == "set":
            return f"set {self.name}"
        if self.kind == "point":
            return "the point " + ", ".join(f"{v:.10g}" for v in self.xyz)
        if self.kind == "gauss":
            return f"Gauss point {self.point} of element {self.number}" if self.point else f"Gauss points of element {self.number}"
        return f"{self.kind} {self.number}"


def parse(text: str) -> Where:
    """Read a place. Raises Impossible, with the grammar, where the text is none."""
    kind, _, rest = text.partition(":")
    kind = kind.strip()
    try:
        if kind in ("node", "element"):
            return Where(kind, int(rest))
        if kind == "gauss":
            element, _, point = rest.partition(":")
            found = Where(kind, int(element), int(point) if point else 0)
            if found.point < 0 or (point and not found.point):
                raise ValueError("Gauss points are counted from 1")
            return found
        if kind == "point":
            x, y, z = (float(v) for v in rest.split(","))
            if not np.isfinite([x, y, z]).all():
                raise ValueError("its coordinates are not all numbers")
            return Where(kind, xyz=(x, y, z))
    except ValueError as error:
        raise Impossible(f"'{text}' is not a place: {error}.", GRAMMAR) from error
    if kind == "set" and rest:
        return Where(kind, name=rest)
    raise Impossible(f"'{text}' is not a place.", GRAMMAR)


def elements_or_nodes(mesh: Mesh, name: str) -> tuple[str, Int]:
    """What a set is of ('nodes' or 'elements'), and their positions. Of two sets of one name that of the nodes is meant."""
    if name in mesh.node_sets:
        return "nodes", mesh.node_sets[name]
    if name in mesh.element_sets:
        return "elements", mesh.element_sets[name]
    known = ", ".join([*mesh.node_sets, *mesh.element_sets]) or "none"
    raise NotFound(f"There is no set named '{name}' in this result.", f"Sets here: {known}.")


def place_of(where: Where, reading: Reading, source: Source) -> Place:
    """The place in a result, as a reading is answered there. Raises NotFound or Impossible where it is not there."""
    mesh = source.mesh
    if where.kind == "node":
        return AtNodes(np.array([mesh.node_position(where.number)]))
    if where.kind == "element":
        return AtElements(np.array([mesh.element_position(where.number)]))
    if where.kind == "gauss":
        return AtGauss(np.array([mesh.element_position(where.number)]))
    if where.kind == "point":
        return find(mesh, np.array(where.xyz))
    of, members = elements_or_nodes(mesh, where.name)
    if of == "nodes":
        return AtNodes(members)
    # Values of nodes are told once a node, values of elements once an element, all else at the corners of just those elements.
    resolved = resolve(reading, source)
    asked = [resolved, resolved.against] if resolved.against else [resolved]
    if all(r.field.location == "node" and r.reading.averaging != "element" for r in asked):
        return AtNodes(np.unique(mesh.connectivity[mesh.corners_of(members)]))
    if all(r.reading.averaging == "element" or (r.field.location == "element" and r.reading.averaging == "off") for r in asked):
        return AtElements(members)
    return AtCorners(members)
