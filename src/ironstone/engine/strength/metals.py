"""Metals against their limits: utilisation of yield and ultimate strength by part, plastic strain, and what share has yielded."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel
from pydantic import Field as Word

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source, thickness_of
from ironstone.core.field.volumes import is_turned, volume_per_size
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.first_met import when_met
from ironstone.core.statics.limits import AtStep, every_step, first_between
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.steps import find_step, steps_column
from ironstone.engine.strength.particulars import UtilisationMore
from ironstone.formats.allowables import parse_allowables
from ironstone.store import Review
from ironstone.store.source import ReviewSource


def stated_limits(source: ReviewSource) -> dict[str, dict[str, Float]]:
    """The limits stated of the materials of a result, in the form of a file's."""
    names = {"yield": "yield", "ultimate": "ultimate", "plastic_limit": "plastic_strain"}
    found = {
        part: {names[n]: np.array([[0.0], [v]]) for n, v in constants.items() if n in names}
        for part, constants in source.setup.constants.items()
    }
    return {part: limits for part, limits in found.items() if limits}


class Utilisation(Question):
    """Metals against their limits: the highest utilisation of yield, ultimate strength and plastic strain by part, with the share
    that has yielded by volume, through the steps."""

    kind: ClassVar[str] = "utilisation"
    more: ClassVar[type[BaseModel]] = UtilisationMore
    allowables: str = Word("", description="The allowables, the text of their JSON file; none: those stated of the materials.")
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        return utilisation(source, self.allowables.encode(), find_step(source, self.step))


def _verdict(worst: Mapping[str, Any] | None) -> str:
    """Which limit is come nearest to, where, and whether it is met."""
    if worst is None:
        return ""
    side = "At or above" if worst["utilisation"] >= 1 else "Below"
    return f"{side} {worst['against']}: {worst['part']} reaches {worst['utilisation']:.4g} of it at element {worst['element']}."


def limits_of(source: ReviewSource, data: bytes) -> dict[str, dict[str, Float]]:
    """The limits of a file, or those stated. Raises Impossible where there are none."""
    limits = parse_allowables(data, "the allowables", source.system.name) if data else stated_limits(source)
    if not limits:
        raise Impossible("No limits are stated.", "State yield or ultimate strength of a material in Intake, or give a file.")
    return limits


def through_steps(source: ReviewSource, data: bytes) -> list[AtStep]:
    """Every step of a result against the limits of a file, or those stated; kept for the last few.

    Raises Impossible where no limits are stated, or nothing of the result can be held against them.
    """
    found = every_step(source, limits_of(source, data))
    if not any(s.rows for s in found):
        raise Impossible("Nothing of this result can be held against these limits.", "It takes a stress, or a plastic strain.")
    return found


def utilisation(source: ReviewSource, data: bytes, step: int) -> Answer:
    """The answer of a ``Utilisation`` question: at a step, and when a limit is first met."""
    steps = through_steps(source, data)
    here = steps[step]
    worst = here.worst
    largest = np.array([0.0 if s.worst is None else s.worst["utilisation"] for s in steps])
    first = _first_met(source, data, steps, largest)
    figures = []
    if worst is not None:
        how = f"{worst['part']}, element {worst['element']}"
        figures.append(Figure(label=f"utilisation of {worst['against']}", value=worst["utilisation"], how=how))
    if here.yielded is not None:
        figures.append(Figure(label="yielded share by volume", value=here.yielded))
    units = {"plastic strain": ""}
    columns = {n: [r[n] for r in here.rows] for n in ("part", "against", "limit", "utilisation", "element", "over_share")}
    return Answer(
        kind="utilisation",
        sentence=f"von Mises and plastic strain against their limits, each corner as computed, {source.steps[step].label}",
        columns=[
            Column(name="part", values=columns["part"]),
            Column(name="against", values=columns["against"]),
            Column(name="limit", values=columns["limit"]),
            Column(name="unit", values=[units.get(a, source.system.stress) for a in columns["against"]]),
            Column(name="utilisation", unit="", values=columns["utilisation"]),
            Column(name="element", values=columns["element"]),
            Column(name="share at 1 or more", unit="", values=columns["over_share"]),
        ],
        figures=figures,
        caveats=_said_of_shares(source, step),
        verdict=_verdict(worst),
        state="" if worst is None else "bad" if worst["utilisation"] >= 1 else "good",
        more={
            "rows": here.rows,
            "worst": None if worst is None else _as_ply(worst),
            "failed_elements": source.mesh.element_ids[here.over].tolist(),
            "share_of_plies_failed": None,
            "first_failure": first,
            "utilisation": largest.tolist(),
            "yielded": [s.yielded for s in steps],
        },
    )


def _first_met(source: ReviewSource, data: bytes, steps: list[AtStep], largest: Float) -> dict[str, Any] | None:
    """When and where a limit is first met, or of what never is, how far it is."""
    over = np.flatnonzero(largest >= 1.0)
    share, row = None, None
    if len(over) and over[0] > 0:
        share, row = first_between(source, limits_of(source, data), int(over[0]), steps[over[0]].over)
    met = when_met(source, largest, share)
    return None if met is None else met | _as_ply(row or steps[met["step"]].worst or {})


def _as_ply(row: dict[str, Any]) -> dict[str, Any]:
    """A row in the words what fails of plies has: the part for the zone, the limit for the mode."""
    share = row.get("utilisation", 0.0)
    return {
        "element": row.get("element"),
        "zone": row.get("part"),
        "sheet": None,
        "position": None,
        "place": "corner",
        "mode": row.get("against"),
        "index": share,
        "reserve": 1.0 / share if share else None,
    }


def _said_of_shares(source: Source, step: int) -> list[str]:
    """How shares of the volume were formed, or why they were not."""
    mesh, unknown = source.mesh, np.isnan(volume_per_size(source, step))
    for dimension, what in ((2, "thickness of the shells"), (1, "section area of the bars")):
        if (unknown & (mesh.dimensions == dimension)).any():
            return [f"No share by volume of what has an unknown {what}."]
    said = ["Shares of the volume are counted at the integration points of the elements."]
    if mesh.planar and not is_turned(source) and thickness_of(source, step) is None:
        said.append("The thickness is not known: it is taken as the same everywhere.")
    return said


class Yielded(Question):
    """Metals through the steps: the largest utilisation at each, and what share has yielded by volume."""

    kind: ClassVar[str] = "yielded"
    allowables: str = Word("", description="The allowables, the text of their JSON file; none: those stated of the materials.")

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        steps = through_steps(source, self.allowables.encode())
        return Answer(
            kind=self.kind,
            sentence="largest utilisation and yielded share by volume through the steps",
            columns=[
                steps_column(source),
                Column(
                    name="largest utilisation", unit="", values=[None if s.worst is None else s.worst["utilisation"] for s in steps]
                ),
                Column(name="yielded share", unit="", values=[s.yielded for s in steps]),
            ],
            caveats=_said_of_shares(source, 0),
        )
