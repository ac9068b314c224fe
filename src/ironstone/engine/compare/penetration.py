"""How deep the nodes of one body lie inside another, both ways, at true scale; and the pressure that goes with it."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.field.fields import displacement_of
from ironstone.core.geometry.penetration import Inside, facing, hinge, inside, moved
from ironstone.core.mesh.mesh import Float, Mesh
from ironstone.core.mesh.places import AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.compare.particulars import PenetrationMore
from ironstone.engine.reading.answers import number
from ironstone.engine.steps import find_step
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Deepest as a share of the elements' size beside the place: below the first it agrees, above the second the contact is not held.
# Common practice, no source.
NEGLIGIBLE, TOO_DEEP = 0.01, 0.05
HOW = "Write two parts as 'A|B'."


class Penetration(Question):
    """Whose nodes lie how deep inside whose faces, both ways, in the deformed shape at true scale: the deepest, how many, where."""

    kind: ClassVar[str] = "penetration"
    more: ClassVar[type[BaseModel]] = PenetrationMore
    between: str = Field("", max_length=400, description="Two parts, 'A|B'; none: every two parts that enclose something.")
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        step = find_step(source, self.step)
        here = source.at(step)
        field = displacement_of(here.fields)
        shape = moved(here.mesh, None if field is None else np.asarray(here.values(field.name, step), dtype=np.float64))
        pairs = _pairs(shape, self.between)
        sides = [(of, into, inside(shape, of, into)) for a, b in pairs for of, into in ((a, b), (b, a))]
        if self.between or len(sides) > 2:
            sides = [s for s in sides if self.between or s[2].deepest is not None] or sides[:2]
        length, names = source.system.length, shape.part_names
        rows = [_side(shape, of, into, found) for of, into, found in sides]
        worst = max(rows, key=lambda r: r["deepest"])
        share = _share(shape, sides, length=worst["deepest"])
        pressures = _pressure(source, step, sides)
        figures = [Figure(label="deepest", value=worst["deepest"], unit=length, how=_where(worst))]
        if worst["count"]:
            figures.append(Figure(label="of the elements' size there", value=share, unit=""))
        if pressures is not None:
            figures.append(
                Figure(label="pressure over penetration", value=pressures, unit=f"{source.system.stress}/{length}",
                       how="a line through zero, over the nodes that lie inside and have a pressure")
            )  # fmt: skip
        said = [] if field is not None else ["The result has no displacement: this is the undeformed shape."]
        return Answer(
            kind=self.kind,
            sentence=f"penetration of {_named(sides, names)}, shape at true scale, {source.steps[step].label}, in {length}",
            unit=length,
            columns=[
                Column(name="nodes of", values=[r["of"] for r in rows]),
                Column(name="inside", values=[r["into"] for r in rows]),
                Column(name="deepest", unit=length, values=[r["deepest"] for r in rows]),
                Column(name="nodes inside", values=[r["count"] for r in rows]),
                Column(name="at node", values=[r["node"] for r in rows]),
            ],
            figures=figures,
            caveats=said,
            verdict=_verdict(worst, share, length),
            state="good" if not worst["count"] or share <= NEGLIGIBLE else "doubt" if share <= TOO_DEEP else "bad",
            more={"unit": length, "sides": rows, "share_of_element": number(share), "stiffness": pressures},
        )


def _pairs(mesh: Mesh, between: str) -> list[tuple[int, int]]:
    names = list(mesh.part_names)
    if between:
        words = [w.strip() for w in between.split("|")]
        if len(words) != 2 or words[0] == words[1]:
            raise Impossible(f"'{between}' does not name two parts.", HOW)
        for word in words:
            if word not in names:
                raise NotFound(f"There is no part '{word}' in this result.", f"Here: {', '.join(names)}.")
        return [(names.index(words[0]), names.index(words[1]))]
    solid = [k for k in range(len(names)) if mesh.encloses(k)]
    if len(solid) < 2:
        raise Impossible("Penetration is between two parts that enclose something; there are no two here.", HOW)
    return [(a, b) for i, a in enumerate(solid) for b in solid[i + 1 :]]


def _side(mesh: Mesh, of: int, into: int, found: Inside) -> dict[str, Any]:
    at = found.deepest
    faces = facing(mesh, of, into)
    book = None
    if faces is not None:
        at_hinge, axis = hinge(mesh, of, into, *faces)
        book = ":".join([str(of), *(",".join(f"{v:.7g}" for v in words) for words in (at_hinge, axis))])
    return {
        "of": mesh.part_names[of],
        "into": mesh.part_names[into],
        "at": None if faces is None else faces[0].tolist(),
        "looks": None if faces is None else faces[1].tolist(),
        "book": book,
        "deepest": 0.0 if at is None else float(found.depth[at]),
        "count": int((found.depth > 0.0).sum()),
        "node": None if at is None else int(mesh.node_ids[found.nodes[at]]),
    }


def _share(mesh: Mesh, sides: list[tuple[int, int, Inside]], length: float) -> float:
    """The deepest as a share of the size of the elements that meet at its node."""
    found = max(sides, key=lambda s: s[2].depth.max(initial=0.0))[2]
    at = found.deepest
    if at is None:
        return 0.0
    elements = np.unique(mesh.corner_element[mesh.corners_at(int(found.nodes[at]))])
    size = float(np.mean(mesh.volumes[elements] ** (1.0 / np.maximum(mesh.dimensions[elements], 1))))
    return length / size if size > 0 else 0.0


def _pressure(source: ReviewSource, step: int, sides: list[tuple[int, int, Inside]]) -> float | None:
    """Stiffness a contact pressure at the nodes means, by those that lie inside: sum p d / sum d d. None where there is none."""
    field = next((f for f in source.fields.values() if f.kind == "pressure" and f.plain), None)
    if field is None:
        return None
    every = np.arange(len(source.at(step).mesh.points))
    pressure: Float = evaluate(Reading(field.name, step=step, averaging="part"), source.at(step), AtNodes(every)).values
    depth, pressed = np.zeros(0), np.zeros(0)
    for _, _, found in sides:
        here = (found.depth > 0.0) & np.isfinite(pressure[found.nodes])
        depth, pressed = np.append(depth, found.depth[here]), np.append(pressed, np.abs(pressure[found.nodes[here]]))
    return float((pressed * depth).sum() / (depth * depth).sum()) if len(depth) else None


def _named(sides: list[tuple[int, int, Inside]], names: tuple[str, ...]) -> str:
    pairs = dict.fromkeys(" and ".join(sorted((names[of], names[into]))) for of, into, _ in sides)
    return "; ".join(pairs)


def _where(side: dict[str, Any]) -> str:
    return f"node {side['node']} of {side['of']} inside {side['into']}" if side["count"] else "no node lies inside"


def _verdict(worst: dict[str, Any], share: float, length: str) -> str:
    if not worst["count"]:
        return "No node of one lies inside the other."
    word = "negligible beside" if share <= NEGLIGIBLE else "not small beside" if share <= TOO_DEEP else "too deep for"
    count = worst["count"]
    who = f"{count} nodes of {worst['of']} lie up to" if count != 1 else f"1 node of {worst['of']} lies"
    return f"{who} {worst['deepest']:.3g} {length} inside {worst['into']}, {100 * share:.2g} % of the elements' size: {word} them."
