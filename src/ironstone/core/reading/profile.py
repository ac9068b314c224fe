"""Profiles: a reading along a line, and how lines are written."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source
from ironstone.core.geometry.borders import Parts
from ironstone.core.geometry.ends import resized, turned_round
from ironstone.core.geometry.geodesic import shortest_way
from ironstone.core.geometry.outlines import outline
from ironstone.core.geometry.paths import Line, along_nodes, arc, straight
from ironstone.core.geometry.routes import sharp_edge
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.grammar import GRAMMAR
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolved import Values

# How often an arc may go round.
MOST_TURNS = 10


@dataclass(frozen=True)
class Ends:
    """What is done to a line: turned round, then lengthened before its start and after its end (negative: shortened)."""

    reverse: bool = False
    before: float = 0.0
    after: float = 0.0

    def words(self, unit: str) -> str:
        """For a sentence; '' where nothing is done."""
        found = [", reversed"] if self.reverse else []
        for where, much in (("before its start", self.before), ("after its end", self.after)):
            if much:
                found.append(f", {abs(much):.10g} {unit} {'longer' if much > 0 else 'shorter'} {where}")
        return "".join(found)


def line_of(text: str, mesh: Mesh, samples: int = 101, side: str = "", ends: Ends = Ends()) -> Line:
    """The line a text means in a mesh. side: the part it belongs to, '' any. ends: what is done to it.

    Raises Impossible, with the grammar, where the text is no line.
    """
    kind, _, rest = text.partition(":")
    pieces = rest.split(":")
    parts = parts_named(mesh, side)
    try:
        if kind == "arc" and len(pieces) in (3, 4):
            # A part of a circle is made longer along the circle.
            return arc(mesh, *_arc_resized(*_circle(pieces), ends), samples, parts)
        line = _line(kind, rest, pieces, mesh, samples, parts)
    except ValueError as error:
        raise Impossible(f"'{text}' is not a line: {error}.", GRAMMAR) from error
    if line is None:
        raise Impossible(f"'{text}' is not a line.", GRAMMAR)
    if ends.reverse:
        line = turned_round(line)
    return resized(mesh, line, ends.before, ends.after, samples, parts) if ends.before or ends.after else line


def _line(kind: str, rest: str, pieces: list[str], mesh: Mesh, samples: int, parts: Parts) -> Line | None:
    """The line of a kind and its words; None where there is no such kind, or not with so many words."""
    if kind == "line" and len(pieces) == 2:
        return straight(mesh, _three(pieces[0]), _three(pieces[1]), samples, parts)
    if kind == "radial" and len(pieces) == 4:
        centre, along = _three(pieces[0]), _three(pieces[1])
        size = float(np.linalg.norm(along))
        if not size:
            raise ValueError("its direction points nowhere")
        start, end = (centre + float(r) * along / size for r in pieces[2:])
        return straight(mesh, start, end, samples, parts)
    if kind == "section" and len(pieces) in (2, 3):
        near = _three(pieces[2]) if len(pieces) == 3 else None
        return outline(mesh, _three(pieces[0]), _three(pieces[1]), near, parts)
    if kind == "nodes":
        return along_nodes(mesh, np.array([mesh.node_position(int(n)) for n in rest.split(",")]), samples, parts)
    if kind == "route" and len(pieces) == 2:
        both = [mesh.node_position(int(n)) for n in pieces]
        return shortest_way(mesh, both[0], both[1], samples, parts)
    if kind == "edge" and len(pieces) in (1, 2):
        start_node, *end_node = (mesh.node_position(int(n)) for n in pieces)
        found = sharp_edge(mesh, start_node, parts, end=end_node[0] if end_node else None)
        return along_nodes(mesh, found.nodes, samples, parts)
    return None


def _circle(pieces: list[str]) -> tuple[Float, Float, Float, float]:
    """Centre, normal, radius and sweep of an arc, as it is written or through three points."""
    if len(pieces) == 4:
        centre, normal, radius = (_three(p) for p in pieces[:3])
        return centre, normal, radius, float(pieces[3])
    a, b, c = (_three(p) for p in pieces)
    one, two = b - a, c - a
    normal = np.cross(one, two)
    twice = 2.0 * float(normal @ normal)
    if twice <= 1e-24 * float(one @ one) * float(two @ two) or not twice:
        raise ValueError("its three points lie on one straight line")
    centre = a + (np.cross(normal, one) * (two @ two) + np.cross(two, normal) * (one @ one)) / twice
    first, last = a - centre, c - centre
    unit = normal / np.linalg.norm(normal)
    # By the right hand about this normal the second point comes before the third.
    sweep = np.degrees(np.arctan2(float(np.cross(first, last) @ unit), float(first @ last))) % 360.0
    return centre, unit, first, float(sweep)


def _arc_resized(centre: Float, normal: Float, radius: Float, sweep: float, ends: Ends) -> tuple[Float, Float, Float, float]:
    size = float(np.linalg.norm(normal))
    if not size:
        return centre, normal, radius, sweep
    axis = normal / size
    first = radius - (radius @ axis) * axis
    across = np.cross(axis, first)
    if ends.reverse:
        angle = np.radians(sweep)
        first, sweep = np.cos(angle) * first + np.sin(angle) * across, -sweep
        across = np.cross(axis, first)
    degrees = np.degrees(1.0 / max(float(np.linalg.norm(first)), 1e-300)) * np.sign(sweep)
    back = np.radians(-ends.before * degrees)
    first = np.cos(back) * first + np.sin(back) * across
    longer = sweep + (ends.before + ends.after) * degrees
    if not abs(longer) <= MOST_TURNS * 360.0:
        raise Impossible(f"An arc cannot turn by {longer:.6g} degrees.", f"At most {MOST_TURNS} times round.")
    if longer * np.sign(sweep) <= 0:
        raise Impossible("Nothing is left of this arc.", "Take less off its ends.")
    return centre, normal, first, float(longer)


def line_words(text: str) -> str:
    """A line in a sentence, as it is written; see ``line_of``."""
    kind, _, rest = text.partition(":")
    pieces = rest.split(":")
    told = [f"({p.replace(' ', '').replace(',', ', ')})" for p in pieces]
    if kind == "line":
        return f"along the line from {told[0]} to {told[-1]}"
    if kind == "radial":
        return f"along the radius from {told[0]} in the direction {told[1]}, from {pieces[2]} to {pieces[3]}"
    if kind == "section":
        near = f", the one near {told[2]}" if len(pieces) > 2 else ""
        return f"where the plane through {told[0]} square to {told[1]} meets the surface{near}"
    if kind == "arc" and len(pieces) == 3:
        return f"along the arc through {told[0]}, {told[1]} and {told[2]}"
    if kind == "arc":
        start = tuple(float(a) + float(b) for a, b in zip(pieces[0].split(","), pieces[2].split(","), strict=True))
        return f"along the arc about {told[0]} square to {told[1]}, from ({', '.join(f'{v:.10g}' for v in start)}), {pieces[3]}° on"
    if kind == "edge":
        return f"along the sharp edge through node {pieces[0]}" + (f" to node {pieces[1]}" if len(pieces) > 1 else "")
    if kind == "route":
        return f"along the shortest way over the surface from node {pieces[0]} to node {pieces[1]}"
    return f"along nodes {', '.join(n.strip() for n in rest.split(','))}"


def _three(text: str) -> Float:
    x, y, z = (float(v) for v in text.split(","))
    if not np.isfinite([x, y, z]).all():
        raise ValueError("its coordinates are not all numbers")
    return np.array([x, y, z])


def parts_named(mesh: Mesh, side: str) -> Parts:
    """The part a line belongs to, none for any. Raises Impossible where there is no such part."""
    if not side:
        return frozenset()
    if side not in mesh.part_names:
        raise Impossible(f"There is no part '{side}' in this result.", f"Parts: {', '.join(mesh.part_names)}.")
    return frozenset({mesh.part_names.index(side)})


@dataclass(frozen=True, eq=False)
class Profile:
    """A reading along a line: the line, values (n,) with NaN outside the body, and the answers at the samples inside.

    x: what it is drawn over (n,), where that is not the distance along the undeformed line.
    """

    line: Line
    values: Float
    answers: Values
    x: Float | None = None

    def figures(self) -> dict[str, Any]:
        """Highest and lowest with their distance, and the mean over the length inside the body."""
        x, y = self.line.distance if self.x is None else self.x, self.values
        if np.isnan(y).all():
            return {"peaks": None, "mean": None}
        top, low = int(np.nanargmax(y)), int(np.nanargmin(y))
        step, middle = np.diff(x), (y[1:] + y[:-1]) / 2
        there = ~np.isnan(middle)
        length = float(step[there].sum())
        mean = float((step[there] * middle[there]).sum() / length) if length else None
        ends = {"max": {"value": float(y[top]), "x": float(x[top])}, "min": {"value": float(y[low]), "x": float(x[low])}}
        return {"peaks": ends, "mean": mean}


def profile(reading: Reading, source: Source, line: Line) -> Profile:
    """A reading at every sample of a line, each from the element it lies in."""
    found = evaluate(reading, source, line.place)
    values = np.full(len(line.distance), np.nan)
    values[line.inside] = found.values
    return Profile(line, values, found)


def deformed(line: Line, mesh: Mesh, displacement: Float) -> Float:
    """How far each sample of a line moves, (n, 3); outside the body as the samples nearest to it on either side do."""
    moved = np.zeros((len(line.distance), 3))
    inside = line.inside
    moved[inside] = np.nan_to_num(positions(mesh, line.place, displacement))
    if not inside.all():
        known = line.distance[inside]
        for axis in range(3):
            moved[~inside, axis] = np.interp(line.distance[~inside], known, moved[inside, axis])
    return moved
