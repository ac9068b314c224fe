"""What fails in a result: every ply of every element against a criterion, the worst of them, and the step of first failure."""

from __future__ import annotations

import json
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel
from pydantic import Field as Word

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Source, Step
from ironstone.core.field.plies import Laminated, PlyState, basis_of, ply_state, zones_with_elements
from ironstone.core.field.shell_axes import SAID, usual_way
from ironstone.core.kept import remembered
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.plies import check_all, check_ply, first_between, has_shear, runs
from ironstone.core.strength.criteria import WITHOUT_LOAD, Check, check_of, mode_words, reserve_of
from ironstone.core.strength.zones import Laminates
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.reading.answers import number
from ironstone.engine.said import CRITERION
from ironstone.engine.steps import find_step, steps_column
from ironstone.engine.strength.particulars import StrengthMore
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


def laminates_in(source: Source) -> Laminates:
    """The laminates of a result that has some."""
    assert source.setup.laminates is not None
    return source.setup.laminates


@dataclass(eq=False)
class Scan:
    """All plies of a step: the largest exposure and where (state, element in it, ply, place), plies there are and plies failed,
    and of each element that fails its worst (element, exposure, ply, place, mode, zone)."""

    most: float = -np.inf
    at: tuple[PlyState, int, int, int] | None = None
    present: int = 0
    failed: int = 0
    elements: list[tuple[int, float, int, int, str, str]] = field(default_factory=list)


def scan(source: Source, check: Check, step: int) -> Scan:
    """Every ply of every element against a criterion at a step."""
    found = Scan()
    places = basis_places(source)
    words = mode_words(check, laminates_in(source).materials)
    for state in runs(source, step):
        exposure, mode = check_all(state, check, len(places))
        count = exposure.shape[2]
        known = ~np.isnan(exposure)
        found.present += int(known.any(1).sum())
        found.failed += int((known & (exposure >= 1.0)).any(1).sum())
        flat = np.where(known, exposure, -np.inf).reshape(-1, count)
        at, each = flat.argmax(0), np.arange(count)
        best, mode_of = flat[at, each], mode.reshape(-1, count)[at, each]
        ply_of, place_of = np.divmod(at, len(places))
        if best.max(initial=-np.inf) > found.most:
            e = int(np.argmax(best))
            found.most, found.at = float(best[e]), (state, e, int(ply_of[e]), int(place_of[e]))
        found.elements += [
            (int(state.elements[e]), float(best[e]), int(ply_of[e]), int(place_of[e]), words[mode_of[e]], state.zone.name)
            for e in np.flatnonzero(best >= 1.0)
        ]
    return found


def basis_places(source: Source) -> tuple[str, ...]:
    """The places in a ply that are answered."""
    return next(f.places for f in source.fields.values() if f.of_plies)


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


def history(source: Source, check: Check) -> Float:
    """The largest exposure of any ply at each step, (steps,); 0 where nothing has a value."""

    def work() -> Float:
        return np.array([max(scan(source, check, s).most, 0.0) for s in range(len(source.steps))])

    return remembered(source, "exposure through the steps", check.name, work, most=16)


def strength_answer(source: ReviewSource, data: bytes | None, name: str, criterion: str, step: int) -> dict[str, Any]:
    """What fails of a result's laminates at a step, and when first: the keys of the command line."""
    shown = laminated(source, data, name)
    check = checked_by(shown, criterion)
    zones = zones_with_elements(shown)
    found = scan(shown, check, step)
    through = history(shown, check)
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


def _told(source: Source, check: Check, at: tuple[PlyState, int, int, int]) -> dict[str, Any]:
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


def first_failure(source: Source, check: Check, through: Float) -> dict[str, Any] | None:
    """The step in which a ply first fails and where between it and the step before: of every ply at every place by itself, its
    stress going straight from step to step, the first. Of what never fails, how far the largest is."""
    over = np.flatnonzero(through >= 1.0)
    if len(over) and over[0] > 0:
        share, at = _first_between(source, check, int(over[0]))
    else:
        share, at = None, scan(source, check, int(over[0]) if len(over) else int(np.argmax(through))).at
    met = when_met(source, through, share)
    if met is None or at is None:
        return None
    found = _told(source, check, at)
    return met | {k: found[k] for k in ("element", "zone", "sheet", "position", "place", "mode", "index", "reserve", "state")}


def _first_between(source: Source, check: Check, step: int) -> tuple[float, tuple[PlyState, int, int, int] | None]:
    """Of a step and the one before: at which share of the way a ply first fails, and which (its state in the later step, the
    element in it, ply, place)."""
    best, at = np.inf, None
    for before, after in zip(runs(source, step - 1), runs(source, step), strict=True):
        for ply in range(len(after.zone.laminate.plies)):
            for place in range(len(basis_places(source))):
                share = first_between(before, after, ply, place, check)
                if not np.isnan(share).all() and float(np.nanmin(share)) < best:
                    e = int(np.nanargmin(share))
                    best, at = float(share[e]), (after, e, ply, place)
    return min(best, 1.0), at


def when_met(source: Source, through: Float, share: float | None = None) -> dict[str, Any] | None:
    """When what grows with the load first comes to 1, of its largest at each step (steps,): the step it is met in, where between
    that and the step before (share of the way), and the load factor. Of what never comes there, the step of the largest and what
    the loads of it may be multiplied by. None where all is 0."""
    over = np.flatnonzero(through >= 1.0)
    step = int(over[0]) if len(over) else int(np.argmax(through))
    fails = len(over) > 0
    if not through[step] > 0.0:
        return None
    here = source.steps[step]
    value = here.value
    if fails and step > 0 and share is not None:
        before = source.steps[step - 1]
        value = before.value + share * (here.value - before.value)
    stepped = here.kind == "load factor" and fails and step > 0
    return {
        "fails": fails,
        "step": step,
        "at": float(value) if fails else None,
        "kind": here.kind,
        "unit": here.unit,
        "moment": _moment(here, float(value), step),
        # Between steps of a load factor each place is taken as straight; else the loads of the step are scaled.
        "load_factor": float(
            value if stepped else here.value / through[step] if here.kind == "load factor" else 1.0 / through[step]
        ),
    }


def _moment(here: Step, value: float, step: int) -> str:
    """When something is met, in words: steps that are only counted have nothing between them."""
    if here.kind == "number":
        return f"in step {step + 1}" if step == 0 or value == here.value else f"between step {step} and step {step + 1}"
    return f"at {here.kind} {value:#.4g} {here.unit}".rstrip()


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
