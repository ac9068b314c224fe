"""What fails in a result: every ply of every element against a criterion, the worst of them, and the step of first failure."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import Field as Word

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.field.fields import Field
from ironstone.core.mesh.mesh import Float, Int
from ironstone.core.strength.criteria import Criterion, criterion_of
from ironstone.core.strength.laminate import PLACES, Laminate
from ironstone.core.units import UnitSystem, convert
from ironstone.engine.answers import number
from ironstone.engine.base import Answer, Column, Figure, Question
from ironstone.engine.steps import find_step
from ironstone.formats.laminates import parse_laminates
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# Elements that are worked out at once, so that memory stays bounded.
RUN = 4096


@dataclass(frozen=True, eq=False)
class Zone:
    """A laminate and the elements it is of, by position."""

    name: str
    laminate: Laminate
    elements: Int


@dataclass(frozen=True, eq=False)
class Plies:
    """A run of elements of a zone: index, exposure (1 / reserve) and mode by element, ply and place, (e, plies, places)."""

    zone: Zone
    elements: Int
    index: Float
    exposure: Float
    mode: NDArray[np.int64]
    modes: tuple[tuple[str, ...], ...]
    places: tuple[str, ...]


def zones_of(source: ReviewSource, laminates: dict[str, Laminate], stated: list[dict[str, Any]]) -> list[Zone]:
    """The zones of a file on the elements of a result. What is of 'all' takes what the others leave. Raises IronstoneError where a
    part or set is not there, or two zones claim an element."""
    mesh = source.mesh
    owner = np.full(len(mesh.types), -1)
    chosen: list[Int] = []
    for k, zone in enumerate(stated):
        where = str(zone.get("where", "all"))
        kind, _, name = where.partition(":")
        if where == "all":
            chosen.append(np.zeros(0, dtype=np.int64))
            continue
        if kind == "part" and name in mesh.part_names:
            here = np.flatnonzero(mesh.part == mesh.part_names.index(name))
        elif kind == "set" and name in mesh.element_sets:
            here = np.asarray(mesh.element_sets[name], dtype=np.int64)
        else:
            known = [f"part:{p}" for p in mesh.part_names] + [f"set:{s}" for s in mesh.element_sets]
            raise NotFound(
                f"Zone '{zone['name']}' is of '{where}', which is not in this result.", f"Here: all, {', '.join(known)}."
            )
        taken = here[owner[here] >= 0]
        if len(taken):
            other = stated[int(owner[taken[0]])]["name"]
            raise Impossible(
                f"Element {mesh.element_ids[taken[0]]} is of zone '{other}' and of zone '{zone['name']}'.", "Each has one stack."
            )
        owner[here] = k
        chosen.append(here)
    left = np.flatnonzero((owner < 0) & (mesh.dimensions == 2))
    found = []
    for zone, here in zip(stated, chosen, strict=True):
        elements = left if str(zone.get("where", "all")) == "all" else here
        if len(elements):
            found.append(Zone(str(zone["name"]), laminates[str(zone["name"])], elements))
    if not found:
        raise Impossible("No element of this result is of any zone.", "Say with 'where' which parts or sets the zones are of.")
    return found


def _kind(source: ReviewSource, kind: str) -> Field | None:
    return next((f for f in source.fields.values() if f.kind == kind and f.location == "element" and f.stored), None)


def _columns(source: ReviewSource, field: Field, step: int, elements: Int, unit: str) -> Float:
    rows = np.asarray(source.rows(field.name, step, elements), dtype=np.float64)
    return convert(rows, field.unit, unit) if unit and field.unit and field.unit != unit else rows


def _stress(source: ReviewSource, zone: Zone, system: UnitSystem, step: int, elements: Int) -> tuple[Float, tuple[str, ...]]:
    """Stress in ply axes (e, plies, places, 3) in the file's unit, and the places."""
    stress = next(
        (f for f in source.fields.values() if f.kind == "stress" and f.layers and f.location == "element" and not f.harmonic), None
    )
    count = len(zone.laminate.plies)
    if stress is not None:
        if stress.layers < count:
            raise Impossible(
                f"'{stress.name}' has {stress.layers} layers, zone '{zone.name}' {count} plies.",
                "Each ply is a layer, from the bottom.",
            )
        rows = _columns(source, stress, step, elements, system.stress)
        table = rows.reshape(len(elements), stress.layers, len(stress.places), -1)[:, :count]
        places = tuple(p or "middle" for p in stress.places)
        return table[..., [0, 1, 3]], places
    strain, bent = _kind(source, "mid-plane strain"), _kind(source, "curvature")
    force, moment = _kind(source, "section force"), _kind(source, "section moment")
    if strain is not None:
        middle = [_columns(source, strain, step, elements, "")]
        middle.append(np.zeros_like(middle[0]) if bent is None else _columns(source, bent, step, elements, f"1/{system.length}"))
        found = np.concatenate(middle, axis=1)
    elif force is not None:
        load = [_columns(source, force, step, elements, f"{system.force}/{system.length}")]
        load.append(np.zeros_like(load[0]) if moment is None else _columns(source, moment, step, elements, system.force))
        found = zone.laminate.strain_of(np.concatenate(load, axis=1))
    else:
        raise Impossible(
            "This result has nothing that stress of plies follows from.",
            "It takes a stress with layers, section forces (and moments), or mid-plane strain (and curvature), by element; say in "
            "Intake what its arrays are.",
        )
    return zone.laminate.in_plies(found)[1], PLACES


def checked(source: ReviewSource, zones: list[Zone], system: UnitSystem, criterion: Criterion, step: int) -> Iterator[Plies]:
    """Every ply of every element against a criterion at a step, in runs of bounded size."""
    for zone in zones:
        for start in range(0, len(zone.elements), RUN):
            elements = zone.elements[start : start + RUN]
            stress, places = _stress(source, zone, system, step, elements)
            outcomes = [criterion.check(ply.material, stress[:, k].reshape(-1, 3)) for k, ply in enumerate(zone.laminate.plies)]
            shape = (len(elements), len(places))
            table = [np.stack([getattr(o, n).reshape(shape) for o in outcomes], axis=1) for n in ("index", "reserve", "mode")]
            with np.errstate(divide="ignore"):
                exposure = 1.0 / table[1]
            yield Plies(zone, elements, table[0], exposure, table[2], tuple(o.modes for o in outcomes), places)


def strength_answer(source: ReviewSource, data: bytes, name: str, criterion: str, step: int) -> dict[str, Any]:
    """What fails of a result's laminates at a step, and when first: the keys of the command line."""
    chosen = criterion_of(criterion)
    system, laminates, stated = parse_laminates(data, name)
    zones = zones_of(source, laminates, stated)
    lacking = sorted({f"{n} of {p.material.name}" for z in zones for p in z.laminate.plies for n in chosen.lacking(p.material)})
    if lacking:
        raise Impossible(f"{chosen.label} needs more of the materials.", f"Missing: {', '.join(lacking)}.")
    mesh = source.mesh
    worst: dict[str, Any] | None = None
    most, present, failed = -np.inf, 0, 0
    listed: list[int] = []
    for run in checked(source, zones, system, chosen, step):
        there = np.isfinite(run.exposure)
        over = there & (run.exposure >= 1.0)
        present += int(there.any(2).sum())
        failed += int(over.any(2).sum())
        listed += mesh.element_ids[run.elements[over.any((1, 2))]].tolist()
        if there.any() and float(np.nanmax(run.exposure)) > most:
            most = float(np.nanmax(run.exposure))
            worst = _worst(source, run)
    history = [
        max(
            (float(np.nanmax(r.exposure)) for r in checked(source, zones, system, chosen, s) if np.isfinite(r.exposure).any()),
            default=0.0,
        )
        for s in range(len(source.steps))
    ]
    return {
        "sentence": f"{chosen.label}, plies of {len(zones)} zone{'s' if len(zones) > 1 else ''}, {source.steps[step].label}",
        "criterion": chosen.name,
        "step": step,
        "worst": worst,
        "failed_elements": sorted(listed),
        "failed_count": len(listed),
        "plies_present": present,
        "share_of_plies_failed": failed / present if present else None,
        "exposure": history,
        "first_failure": _first_failure(source, zones, system, chosen, history),
    }


def _worst(source: ReviewSource, run: Plies) -> dict[str, Any]:
    """The ply, place and element of the largest exposure of a run."""
    e, k, p = np.unravel_index(int(np.nanargmax(run.exposure)), run.exposure.shape)
    exposure = float(run.exposure[e, k, p])
    ply = run.zone.laminate.plies[int(k)]
    return {
        "element": int(source.mesh.element_ids[run.elements[e]]),
        "zone": run.zone.name,
        "sheet": ply.sheet or None,
        "position": int(k) + 1,
        "angle": ply.angle,
        "material": ply.material.name,
        "place": run.places[int(p)],
        "mode": run.modes[int(k)][int(run.mode[e, k, p])],
        "index": number(float(run.index[e, k, p])),
        "exposure": exposure,
        "reserve": number(1.0 / exposure) if exposure else None,
    }


def _first_failure(
    source: ReviewSource, zones: list[Zone], system: UnitSystem, criterion: Criterion, history: list[float]
) -> dict[str, Any] | None:
    """The first step at which a ply fails and where between it and the step before; of what never fails, how far the largest is."""
    over = [s for s, exposure in enumerate(history) if exposure >= 1.0]
    step = over[0] if over else int(np.argmax(history))
    if not history[step] > 0.0:
        return None
    runs = [r for r in checked(source, zones, system, criterion, step) if np.isfinite(r.exposure).any()]
    found = _worst(source, max(runs, key=lambda r: float(np.nanmax(r.exposure))))
    here = source.steps[step]
    at = here.value
    if over and step > 0 and history[step] > history[step - 1]:
        before = source.steps[step - 1]
        at = before.value + (1.0 - history[step - 1]) / (history[step] - history[step - 1]) * (here.value - before.value)
    stepped = here.kind == "load factor" and bool(over) and step > 0
    return {
        "fails": bool(over),
        "step": step,
        "at": at if over else None,
        "kind": here.kind,
        "unit": here.unit,
        # Between steps of a load factor the exposure is taken as linear; else the loads of the step are scaled.
        "load_factor": at if stepped else here.value / history[step] if here.kind == "load factor" else 1.0 / history[step],
        **{k: found[k] for k in ("element", "zone", "sheet", "position", "place", "mode", "index", "reserve")},
    }


class Strength(Question):
    """What fails of a result's laminates: the worst ply with its mode and reserve, the share of plies, the first failure."""

    kind: ClassVar[str] = "strength"
    laminate: str = Word(description="The laminates, the text of their JSON file.", max_length=8_000_000)
    criterion: str
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        reply = strength_answer(source, self.laminate.encode(), "the laminates", self.criterion, find_step(source, self.step))
        first, worst = source.steps[0], reply["worst"] or {}
        figures = [Figure(label=name, value=worst.get(name)) for name in ("index", "reserve")]
        figures.append(Figure(label="share of plies failed", value=reply["share_of_plies_failed"]))
        return Answer(
            kind=self.kind,
            sentence=reply["sentence"],
            columns=[
                Column(name=first.kind, unit=first.unit, values=[s.value for s in source.steps]),
                Column(name="largest exposure", unit="", values=reply["exposure"]),
            ],
            figures=figures,
            more=reply,
        )
