"""Over chosen steps and combinations: the largest of a reading, which of them governs, and where, by part, set or element."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import COMBINATION, other_mesh
from ironstone.core.field.loadings import computed
from ironstone.core.mesh.mesh import Float, Int, Mesh
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.reduced import replaces
from ironstone.core.reading.resolve import resolve
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.compare.particulars import GoverningMore
from ironstone.engine.reading.answers import number
from ironstone.engine.steps import find_step
from ironstone.engine.words import ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Elements that are listed one by one; of more, those of the largest values.
LISTED = 2000


class Governing(ReadingWords, Question):
    """The largest (smallest, of largest magnitude) of a reading over chosen steps and combinations, and which of them governs."""

    kind: ClassVar[str] = "governing"
    more: ClassVar[type[BaseModel]] = GoverningMore
    cases: list[str] = Field(
        [],
        max_length=500,
        description="Steps, by name or number from 0; none: all combinations, else all steps.",
    )
    take: Literal["largest", "smallest", "magnitude"] = "largest"
    by: Literal["part", "set", "element"] = "part"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        cases = [find_step(source, name) for name in self.cases] or _usual(source)
        if len(set(cases)) < 2:
            raise Impossible("An envelope runs over two or more cases.", "Name steps, or make combinations of them first.")
        cases = list(dict.fromkeys(cases))
        span = ",".join(map(str, cases))
        plain = replace(self.reading(), over="step", span="all", when=False)
        asked = replace(plain, over=self.take, span=span).at(cases[0])
        resolved = resolve(asked, source)
        best, which = _over(plain, source, cases, self.take)
        names = [source.steps[c].label for c in cases]
        tops = _of_elements(source.mesh, best, self.take)
        rows = _rows(source.mesh, best, tops, self.take, self.by)
        whole = _largest(best, tops, self.take)
        owners = source.mesh.owners
        table = [
            {
                "of": name,
                "value": number(float(best[at])),
                "case": names[int(which[at])],
                "element": int(source.mesh.element_ids[owners(at)]),
            }
            for name, at in rows
        ]
        governs = np.bincount(which[tops[np.isfinite(best[tops])]], minlength=len(cases))
        more = {
            "cases": [{"name": n, "step": c, "elements": int(k)} for n, c, k in zip(names, cases, governs, strict=True)],
            "rows": table,
            "span": span,
        }
        figures = []
        if whole is not None:
            how = f"{names[int(which[whole])]}, element {source.mesh.element_ids[owners(whole)]}"
            figures.append(Figure(label=self.take, value=number(float(best[whole])), unit=resolved.unit, how=how))
        said = dict.fromkeys(note for c in cases for note in source.steps[c].notes[1:])
        return Answer(
            kind=self.kind,
            sentence=resolved.sentence(),
            unit=resolved.unit,
            columns=[
                Column(name={"part": "part", "set": "set", "element": "element"}[self.by], values=[r["of"] for r in table]),
                Column(name=self.take, unit=resolved.unit, values=[r["value"] for r in table]),
                Column(name="governed by", values=[r["case"] for r in table]),
                Column(name="at element", values=[r["element"] for r in table]),
            ],
            figures=figures,
            caveats=[*resolved.caveats, *said],
            verdict="" if whole is None else f"{names[int(which[whole])]} governs the whole.",
            more=more,
        )


def _usual(source: ReviewSource) -> list[int]:
    made = [s.index for s in source.steps if s.kind == COMBINATION]
    return made or list(computed(source.steps))


def _over(reading: Reading, source: ReviewSource, cases: list[int], take: str) -> tuple[Float, NDArray[np.int16]]:
    """The envelope at every corner, and the position of the case that makes it; one case is in memory at a time."""
    best, which = np.zeros(0), np.zeros(0, dtype=np.int16)
    for k, case in enumerate(cases):
        if source.at(case) is not source:
            raise other_mesh(source.steps[case])
        values = evaluate(reading.at(case), source, AtCorners()).values
        if k == 0:
            best, which = values, np.zeros(len(values), dtype=np.int16)
            continue
        beyond = replaces(take, best, values)
        np.copyto(best, values, where=beyond)
        which[beyond] = k
    return best, which


def _largest(best: Float, here: Int, take: str) -> int | None:
    """Of some corners the one that is largest (smallest, of largest magnitude); None where none has a value."""
    values = best[here] if take != "magnitude" else np.abs(best[here])
    if not len(values) or np.isnan(values).all():
        return None
    return int(here[np.nanargmin(values) if take == "smallest" else np.nanargmax(values)])


def _rows(mesh: Mesh, best: Float, tops: Int, take: str, by: str) -> list[tuple[str, int]]:
    """What the table has a row for, and the corner that is told there. tops: of each element the corner that is told."""
    if by == "element":
        at = tops[np.isfinite(best[tops])]
        size = np.abs(best[at]) if take == "magnitude" else -best[at] if take == "smallest" else best[at]
        chosen = at[np.argsort(-size, kind="stable")[:LISTED]]
        return [(str(mesh.element_ids[mesh.owners(c)]), int(c)) for c in chosen]
    if by == "part":
        corners = [(name, tops[mesh.part == k]) for k, name in enumerate(mesh.part_names)]
    else:
        corners = [(name, np.flatnonzero(np.isin(mesh.connectivity, nodes))) for name, nodes in mesh.node_sets.items()]
        corners += [(name, tops[np.sort(of)]) for name, of in mesh.element_sets.items()]
    found = [(name, _largest(best, here, take)) for name, here in corners]
    return [(name, at) for name, at in found if at is not None]


def _of_elements(mesh: Mesh, best: Float, take: str) -> Int:
    """Of each element the corner that is told, (elements,)."""
    tops = np.zeros(len(mesh.types), dtype=np.int64)
    for piece in (piece for block in mesh.blocks for piece in block.pieces()):
        corners = piece.corners
        own = best[corners]
        size = np.abs(own) if take == "magnitude" else -own if take == "smallest" else own
        tops[piece.elements] = corners[np.arange(len(corners)), np.where(np.isnan(size), -np.inf, size).argmax(1)]
    return tops
