"""Node sets made here: of a box, a part, a face of the model, nodes, or a value of a reading."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ironstone.core.errors import IronstoneError
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.resolved import region_words
from ironstone.core.reading.sets import nodes_by_value, nodes_in_box, nodes_of_face, nodes_of_part
from ironstone.engine.reading.drawing import surface
from ironstone.engine.words import LookQuery, Point, ReadingQuery, Strict
from ironstone.store import Review


class SetIn(Strict):
    """A node set and how it is made: of a part, in a box, on a smooth drawn face, of nodes, or where the reading is high enough."""

    name: str = Field(min_length=1, max_length=60)
    how: Literal["part", "box", "face", "nodes", "value"]
    part: str = ""
    low: Point | None = None
    high: Point | None = None
    face: int = -1
    fold: float = 20.0
    look: LookQuery = LookQuery()
    nodes: list[int] = Field(default=[], max_length=100_000, description="Node numbers.")
    reading: ReadingQuery | None = None
    least: float = 0.0


def make_set(result: int, stated: SetIn, review: Review) -> None:
    """Make a node set and keep it with the result."""
    source = review.result(result)
    mesh = source.mesh
    if stated.how == "part":
        nodes, how = nodes_of_part(mesh, stated.part), region_words(f"part:{stated.part}")
    elif stated.how == "box":
        if stated.low is None or stated.high is None:
            raise IronstoneError("A box has two corners.", "Give the lowest and the highest x, y, z.")
        nodes, how = nodes_in_box(mesh, np.array(stated.low), np.array(stated.high)), f"in the box {stated.low} to {stated.high}"
    elif stated.how == "face":
        nodes = nodes_of_face(mesh, surface(source, stated.look.look()), stated.face, stated.fold)
        how = f"a face and what joins it within {stated.fold:g}°"
    elif stated.how == "nodes":
        if not stated.nodes:
            raise IronstoneError("No node is named.", "Click nodes on the model, or write their numbers.")
        nodes, how = np.unique([mesh.node_position(n) for n in stated.nodes]), f"{len(set(stated.nodes))} nodes picked"
    else:
        if stated.reading is None:
            raise IronstoneError("There is no reading to go by.", "Choose one in the reading line.")
        reading = stated.reading.reading()
        nodes = nodes_by_value(reading, source, stated.least)
        how = f"{resolve(reading, source).sentence()}, at least {stated.least:g}"
    review.make_set(result, stated.name.strip(), nodes, how)
