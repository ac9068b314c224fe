"""The one grammar of places: node:ID, element:ID, gauss:ELEMENT, gauss:ELEMENT:POINT, point:X,Y,Z, set:NAME.

A place is written the same in the command line, the interface, Python and what a review keeps. ``parse`` reads it, ``str`` writes
it, ``place_of`` finds it in a result. A kind of place is a ``Where`` that registers itself: how it is written, read and found.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.field.fields import Source, other_mesh
from ironstone.core.field.loadings import computed
from ironstone.core.geometry.locate import find
from ironstone.core.mesh.mesh import Int, Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtGauss, AtNodes, Place
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.trace import Trace, trace, trace_at_gauss


class Where(ABC):
    """A place as it is written, of one kind. form: how that is done, for the message when it is not."""

    kind: ClassVar[str]
    form: ClassVar[str]
    # Whether it is the same place in another mesh of the same body.
    stays: ClassVar[bool] = False

    @classmethod
    @abstractmethod
    def read(cls, rest: str) -> Where:
        """The place from what stands behind 'kind:'. Raises ValueError, with the reason, where it is none."""

    @abstractmethod
    def __str__(self) -> str: ...

    @property
    @abstractmethod
    def words(self) -> str:
        """The place in a sentence."""

    @abstractmethod
    def place(self, reading: Reading, source: Source) -> Place:
        """The place in a result, as a reading is answered there. Raises NotFound or Impossible where it is not there."""

    def of_row(self, mesh: Mesh, row: int, element: int, node: int) -> str:
        """How the place of one of its answers is written; element, node: positions, -1 for none."""
        return str(self)

    def one(self) -> Where:
        """The single place a trace is of where this one may have several answers."""
        return self

    def trace(self, reading: Reading, source: Source, reduce: str | None) -> Trace:
        """The reading followed through the steps at this place; reduce: of several answers.

        Where the mesh is another one at some steps a place that stays is found in each; where it is not in one, there is no value.
        Raises Impossible of a place that is a number of one mesh.
        """
        meshes = _by_mesh(source)
        if len(meshes) == 1:
            return self.followed(reading, source, reduce, None)
        if not self.stays:
            raise other_mesh(source.steps[next(steps[0] for there, steps in meshes if there is not meshes[0][0])])
        values = np.full(sum(len(steps) for _, steps in meshes), np.nan)
        resolved, absent = None, None
        for there, steps in meshes:
            try:
                found = self.followed(reading.at(steps[0]), there, reduce, steps)
            except (Impossible, NotFound) as error:
                absent = error
                continue
            values[steps] = found.values
            resolved = resolved or found.resolved
        if resolved is None:
            assert absent is not None
            raise absent
        return Trace(np.arange(len(values)), values, resolved)

    def followed(self, reading: Reading, source: Source, reduce: str | None, steps: list[int] | None) -> Trace:
        """The reading followed through steps that have one mesh; None is all."""
        return trace(reading, source, self.place(reading, source), None, steps)


WHERES: dict[str, type[Where]] = {}


def where(kind: str, form: str) -> Callable[[type[Where]], type[Where]]:
    """Register a kind of place under the word it is written with."""

    def register(cls: type[Where]) -> type[Where]:
        cls.kind, cls.form = kind, form
        WHERES[kind] = cls
        return cls

    return register


def grammar() -> str:
    """How places are written, in a sentence."""
    forms = [cls.form for cls in WHERES.values()]
    return f"Write {', '.join(forms[:-1])} or {forms[-1]}."


def parse(text: str) -> Where:
    """Read a place. Raises Impossible, with the grammar, where the text is none."""
    kind, _, rest = text.partition(":")
    cls = WHERES.get(kind.strip())
    if cls is None or not rest:
        raise Impossible(f"'{text}' is not a place.", grammar())
    try:
        return cls.read(rest)
    except ValueError as error:
        raise Impossible(f"'{text}' is not a place: {error}.", grammar()) from error


def place_of(where: Where, reading: Reading, source: Source) -> Place:
    """The place in a result, as a reading is answered there. Raises NotFound or Impossible where it is not there."""
    return where.place(reading, source)


@where("node", "node:ID")
@dataclass(frozen=True)
class Node(Where):
    """A node by its number in the file."""

    number: int

    @classmethod
    def read(cls, rest: str) -> Where:
        return cls(int(rest))

    def __str__(self) -> str:
        return f"node:{self.number}"

    @property
    def words(self) -> str:
        return f"node {self.number}"

    def place(self, reading: Reading, source: Source) -> Place:
        return AtNodes(np.array([source.mesh.node_position(self.number)]))

    def followed(self, reading: Reading, source: Source, reduce: str | None, steps: list[int] | None) -> Trace:
        return trace(reading, source, self.place(reading, source), reduce, steps)


@where("element", "element:ID")
@dataclass(frozen=True)
class Element(Where):
    """An element by its number in the file."""

    number: int

    @classmethod
    def read(cls, rest: str) -> Where:
        return cls(int(rest))

    def __str__(self) -> str:
        return f"element:{self.number}"

    @property
    def words(self) -> str:
        return f"element {self.number}"

    def place(self, reading: Reading, source: Source) -> Place:
        return AtElements(np.array([source.mesh.element_position(self.number)]))


@where("gauss", "gauss:ELEMENT, gauss:ELEMENT:POINT")
@dataclass(frozen=True)
class Gauss(Where):
    """The Gauss points of an element. point: one of them, from 1; 0 for all."""

    number: int
    point: int = 0

    @classmethod
    def read(cls, rest: str) -> Where:
        element, _, point = rest.partition(":")
        found = cls(int(element), int(point) if point else 0)
        if found.point < 0 or (point and not found.point):
            raise ValueError("Gauss points are counted from 1")
        return found

    def __str__(self) -> str:
        return f"gauss:{self.number}:{self.point}" if self.point else f"gauss:{self.number}"

    @property
    def words(self) -> str:
        return f"Gauss point {self.point} of element {self.number}" if self.point else f"Gauss points of element {self.number}"

    def place(self, reading: Reading, source: Source) -> Place:
        return AtGauss(np.array([source.mesh.element_position(self.number)]))

    def of_row(self, mesh: Mesh, row: int, element: int, node: int) -> str:
        return f"gauss:{self.number}:{row + 1}"

    def one(self) -> Where:
        return self if self.point else Gauss(self.number, 1)

    def followed(self, reading: Reading, source: Source, reduce: str | None, steps: list[int] | None) -> Trace:
        return trace_at_gauss(reading, source, source.mesh.element_position(self.number), max(self.point, 1))


@where("point", "point:X,Y,Z")
@dataclass(frozen=True)
class Point(Where):
    """A point in the body."""

    stays: ClassVar[bool] = True
    xyz: tuple[float, float, float]

    @classmethod
    def read(cls, rest: str) -> Where:
        x, y, z = (float(v) for v in rest.split(","))
        if not np.isfinite([x, y, z]).all():
            raise ValueError("its coordinates are not all numbers")
        return cls((x, y, z))

    def __str__(self) -> str:
        return "point:" + ",".join(repr(v) for v in self.xyz)

    @property
    def words(self) -> str:
        return "the point " + ", ".join(f"{v:.10g}" for v in self.xyz)

    def place(self, reading: Reading, source: Source) -> Place:
        return find(source.mesh, np.array(self.xyz))


@where("set", "set:NAME")
@dataclass(frozen=True)
class NamedSet(Where):
    """A set: of nodes its nodes, of elements those elements and their corners, not what lies beside them."""

    stays: ClassVar[bool] = True
    name: str

    @classmethod
    def read(cls, rest: str) -> Where:
        return cls(rest)

    def __str__(self) -> str:
        return f"set:{self.name}"

    @property
    def words(self) -> str:
        return f"set {self.name}"

    def place(self, reading: Reading, source: Source) -> Place:
        mesh = source.mesh
        of, members = elements_or_nodes(mesh, self.name)
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

    def of_row(self, mesh: Mesh, row: int, element: int, node: int) -> str:
        return f"node:{mesh.node_ids[node]}" if node >= 0 else f"element:{mesh.element_ids[element]}"

    def followed(self, reading: Reading, source: Source, reduce: str | None, steps: list[int] | None) -> Trace:
        if reduce is None:
            of, members = elements_or_nodes(source.mesh, self.name)
            raise Impossible(f"The set '{self.name}' has {len(members)} {of}.", "Reduce it: sum, mean, max or min.")
        return trace(reading, source, self.place(reading, source), reduce, steps)


def _by_mesh(source: Source) -> list[tuple[Source, list[int]]]:
    """The steps a result came with by the mesh they have: the result as it is there, and which steps those are."""
    found: dict[int, tuple[Source, list[int]]] = {}
    for step in computed(source.steps):
        there = source.at(step)
        found.setdefault(id(there), (there, []))[1].append(step)
    return list(found.values()) or [(source, [])]


def elements_or_nodes(mesh: Mesh, name: str) -> tuple[str, Int]:
    """What a set is of ('nodes' or 'elements'), and their positions. Of two sets of one name that of the nodes is meant."""
    if name in mesh.node_sets:
        return "nodes", mesh.node_sets[name]
    if name in mesh.element_sets:
        return "elements", mesh.element_sets[name]
    known = ", ".join([*mesh.node_sets, *mesh.element_sets]) or "none"
    raise NotFound(f"There is no set named '{name}' in this result.", f"Sets here: {known}.")
