"""The sharp edge nearest to a place: where a line along an edge begins when one points beside it."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.geometry.routes import nearest_on_edge
from ironstone.core.reading.profile import parts_named
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column
from ironstone.engine.reading.particulars import NearEdgeMore
from ironstone.engine.said import SIDE
from ironstone.engine.weight import Reach
from ironstone.engine.words import Point
from ironstone.store import Review


class NearEdge(Question):
    """The node on a sharp edge of the outside that is nearest to a point, and how far that is."""

    kind: ClassVar[str] = "near-edge"
    more: ClassVar[type[BaseModel]] = NearEdgeMore
    reach: ClassVar[Reach] = "kept"
    step: int | str = "last"
    at: Point = Field(description="X,Y,Z in the result's unit of length.")
    side: str = Field("", description=SIDE)

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        mesh, unit = source.mesh, source.system.length
        node, away = nearest_on_edge(mesh, np.array(self.at), parts_named(mesh, self.side))
        number, xyz = int(mesh.node_ids[node]), mesh.points[node].tolist()
        return Answer(
            kind=self.kind,
            sentence=f"node {number} on the sharp edge nearest to ({', '.join(f'{v:g}' for v in self.at)}), {away:.4g} {unit} away",
            unit=unit,
            columns=[Column(name="node", values=[number]), Column(name="away", unit=unit, values=[away])],
            more={"node": number, "xyz": xyz, "away": away, "unit": unit},
        )
