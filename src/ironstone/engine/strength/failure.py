"""What fails in a result: every ply of every element against a criterion, the worst of them, and the step of first failure."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel
from pydantic import Field as Word

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source
from ironstone.core.field.plies import Laminated, basis_of, ply_state, zones_with_elements
from ironstone.core.field.shell_axes import SAID, usual_way
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.failing import Where, basis_places, exposure_through_steps, first_failed, laminates_in, scan
from ironstone.core.reading.first_met import when_met
from ironstone.core.reading.plies import check_ply, has_shear
from ironstone.core.strength.criteria import WITHOUT_LOAD, Check, check_of, mode_words, reserve_of
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.reading.answers import number
from ironstone.engine.said import CRITERION
from ironstone.engine.steps import find_step, steps_column
from ironstone.engine.strength.particulars import FirstByZoneMore, StrengthMore
from ironstone.formats.laminates import parse_laminates
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Failed elements that are listed with their ply and mode.
LISTED = 1000
LAMINATE = "The laminates, the text of their JSON file; none: those stated of the result."


def laminated(source: ReviewSource, data: bytes | None, name: str = "the laminates") -> Source:
    """A result with the laminates of a file, or with its own where no file is given. Raises Impossible where there are none."""
    if data:
        known = parse_laminates(data, name).told_in(source.system)
        return Laminated(source, known, source.system.stress, source.system.length)
    if source.laminates is None:
        raise Impossible("No laminates are stated of this result.", "Read a laminate file in the bay Strength, or name one.")
    return source


def checked_by(source: Source, criterion: str) -> Check:
    """A criterion that can be asked of a result. Raises Impossible where a strength or the plies' stress is not known."""
    check = check_of(criterion)
    check.refuse_if_lacking(laminates_in(source).materials)
    if basis_of(source.fields) is None:
        # Says what it takes.
        zone, elements = zones_with_elements(source)[0]
        ply_state(source, zone, 0, elements[:1])
    if check.bond and not has_shear(source):
        raise Impossible("The bond lines need the shear between the plies.", "It follows from a transverse force by element.")
    return check


def strength_answer(source: ReviewSource, data: bytes | None, name: str, criterion: str, step: int) -> dict[str, Any]:
    """What fails of a result's laminates at a step, and when first: the keys of the command line."""
    shown = laminated(source, data, name)
    check = checked_by(shown, criterion)
    zones = zones_with_elements(shown)
    found = scan(shown, check, step)
    through = exposure_through_steps(shown, check)
    places = basis_places(shown)
    mesh = source.mesh
    plies = {z.name: z.laminate.plies for z, _ in zones}
    listed = sorted(found.elements, key=lambda e: -e[1])
    return {
        "sentence": f"{check.label}, plies of {len(zones)} zone{'s' if len(zones) > 1 else ''}, {source.steps[step].label}",
        "criterion": check.name,
        "step": step,
        "worst": _told(shown, check, found.at) if found.at else None,
        "failed_elements": sorted(int(mesh.element_ids[e[0]]) for e in listed),
        "failed_count": len(listed),
        "failed": [
            {
                "element": int(mesh.element_ids[e]),
                "zone": zone,
                "sheet": plies[zone][ply].sheet or None,
                "position": ply + 1,
                "place": places[place],
                "mode": mode,
                "exposure": number(exposure),
                "state": WITHOUT_LOAD if np.isinf(exposure) else None,
            }
            for e, exposure, ply, place, mode, zone in listed[:LISTED]
        ],
        "plies_present": found.present,
        "share_of_plies_failed": found.failed / found.present if found.present else None,
        "exposure": [number(v) for v in through],
        "first_failure": first_failure(shown, check, through),
        "assumed": assumed(shown),
    }


def assumed(source: Source) -> list[str]:
    """What was taken for granted of the plies' stress."""
    basis = basis_of(source.fields)
    assert basis is not None
    taken = f"is in {SAID[basis.surface_axes]}, as stated" if basis.surface_axes else f"is taken as in {SAID[usual_way(basis)]}"
    said = [*laminates_in(source).notes, f"What '{basis.name}' holds {taken}."]
    if basis.kind in ("mid-plane strain", "strain"):
        said.append("The strain is the solver's: it stays as it is where another stack is stated than the one it was solved with.")
    if laminates_in(source).turns:
        said.append(f"A change of temperature of {laminates_in(source).change:g} K is added; it does not scale with the loads.")
    if not has_shear(source):
        said.append("The result has no transverse force: the shear between the plies is not known.")
    return said


def _told(source: Source, check: Check, at: Where) -> dict[str, Any]:
    """One ply at one place of an element against a criterion, in plain data."""
    state, e, ply, place = at
    one = slice(e, e + 1)
    alone = replace(
        state,
        elements=state.elements[one],
        strain=None if state.strain is None else state.strain[one],
        layers=None if state.layers is None else state.layers[one],
        shear=None if state.shear is None else state.shear[one],
    )
    now = check_ply(alone, ply, place, check)
    exposure, own = float(now.exposure[0]), state.zone.laminate.plies[ply]
    return {
        "element": int(source.mesh.element_ids[state.elements[e]]),
        "zone": state.zone.name,
        "sheet": own.sheet or None,
        "position": ply + 1,
        "angle": own.angle,
        "material": own.material.name,
        "place": basis_places(source)[place],
        "mode": mode_words(check, [own.material])[int(now.mode[0])],
        "index": number(float(now.index[0])),
        "exposure": number(exposure),
        "reserve": reserve_of(exposure),
        "state": WITHOUT_LOAD if np.isinf(exposure) else None,
    }


def first_failure(source: Source, check: Check, through: Float, zone: str = "") -> dict[str, Any] | None:
    """The step in which a ply, of all or of a zone, first fails and where between it and the step before: of every ply at every
    place by itself, its stress going straight from step to step, the first. Of what never fails, how far the largest is."""
    over = np.flatnonzero(through >= 1.0)
    share: float | None = None
    if len(over) and over[0] > 0:
        share, at = first_failed(source, check, int(over[0]), zone)
    else:
        found_at = scan(source, check, int(over[0]) if len(over) else int(np.argmax(through)))
        at = found_at.of_zone.get(zone, (0.0, None))[1] if zone else found_at.at
    met = when_met(source, through, share)
    if met is None or at is None:
        return None
    found = _told(source, check, at)
    return met | {k: found[k] for k in ("element", "zone", "sheet", "position", "place", "mode", "index", "reserve", "state")}


class Strength(Question):
    """What fails of a result's laminates: the worst ply with its mode and reserve, the share of plies, the first failure."""

    kind: ClassVar[str] = "strength"
    more: ClassVar[type[BaseModel]] = StrengthMore
    laminate: str = Word("", description=LAMINATE, max_length=8_000_000)
    criterion: str = Word(description=CRITERION)
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        reply = strength_answer(source, self.laminate.encode(), "the laminates", self.criterion, find_step(source, self.step))
        worst = reply["worst"] or {}
        figures = [Figure(label=name, value=worst.get(name)) for name in ("index", "reserve")]
        figures.append(Figure(label="share of plies failed", value=reply["share_of_plies_failed"]))
        return Answer(
            kind=self.kind,
            sentence=reply["sentence"],
            columns=[
                steps_column(source),
                Column(name="largest exposure", unit="", values=reply["exposure"]),
            ],
            figures=figures,
            caveats=reply["assumed"],
            state="" if not reply["first_failure"] else "bad" if reply["first_failure"]["fails"] else "good",
            more=reply,
        )


class FirstByZone(Question):
    """The first failure of each zone: when, at which load factor, which ply, where, how; of a zone that does not fail how far it
    is."""

    kind: ClassVar[str] = "first-by-zone"
    more: ClassVar[type[BaseModel]] = FirstByZoneMore
    laminate: str = Word("", description=LAMINATE, max_length=8_000_000)
    criterion: str = Word(description=CRITERION)

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        shown = laminated(source, self.laminate.encode() or None)
        check = checked_by(shown, self.criterion)
        rows: list[dict[str, Any]] = []
        for zone, elements in zones_with_elements(shown):
            first = first_failure(shown, check, exposure_through_steps(shown, check, zone.name), zone.name)
            rows.append({"zone": zone.name, "elements": len(elements), "first": first})
        met = [r["first"] or {} for r in rows]

        def of(name: str) -> list[Any]:
            return [f.get(name) for f in met]

        fails = [("fails" if f["fails"] else "does not fail") if f else "no value" for f in met]
        return Answer(
            kind=self.kind,
            sentence=f"first failure of each zone, {check.label}",
            columns=[
                Column(name="zone", values=[r["zone"] for r in rows]),
                Column(name="elements", values=[r["elements"] for r in rows]),
                Column(name="verdict", values=fails),
                Column(name="when", values=[f["moment"] if f and f["fails"] else None for f in met]),
                Column(name="load factor", unit="", values=of("load_factor")),
                *(Column(name=n, values=of(n)) for n in ("sheet", "position", "place", "mode", "element", "state")),
            ],
            caveats=assumed(shown),
            state="" if not any(met) else "bad" if any(f.get("fails") for f in met) else "good",
            more={"zones": rows},
        )


class Failed(Question):
    """The elements in which a ply fails at a step, the worst first: zone, ply, place, mode and exposure of each."""

    kind: ClassVar[str] = "failed"
    criterion: str = Word(description=CRITERION)
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        reply = strength_answer(source, None, "", self.criterion, find_step(source, self.step))
        rows, count = reply["failed"], reply["failed_count"]
        return Answer(
            kind=self.kind,
            sentence=f"failed elements, {reply['sentence']}",
            columns=[
                Column(name=n, unit="" if n == "exposure" else None, values=[r[n] for r in rows])
                for n in ("element", "zone", "sheet", "position", "place", "mode", "exposure")
            ],
            caveats=[] if count <= LISTED else [f"The {LISTED} worst of {count} failed elements."],
        )


def content_of(data: bytes, name: str) -> dict[str, Any]:
    """What a laminate file holds, checked. Raises IronstoneError that says where something is wrong."""
    parse_laminates(data, name)
    found: dict[str, Any] = json.loads(data.decode("utf-8-sig"))
    return found
