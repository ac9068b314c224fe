"""Metals against their limits: utilisation of yield and ultimate strength by part, plastic strain, and what share has yielded."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from pydantic import Field as Word

from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.core.field.fields import Field, Source, stress_of, thickness_of
from ironstone.core.field.tensors import von_mises
from ironstone.core.field.volumes import is_turned, volume_per_size
from ironstone.core.kept import remembered
from ironstone.core.mesh.mesh import Float, Int, quadrature_weights
from ironstone.core.mesh.places import AtCorners, AtElements, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.units import SYSTEMS, convert
from ironstone.engine.base import Answer, Column, Figure, Question
from ironstone.engine.steps import find_step
from ironstone.engine.strength import when_met
from ironstone.store import Review
from ironstone.store.source import ReviewSource

COMPONENTS = ("xx", "yy", "zz", "xy", "yz", "xz")
# Elements that are worked out at once.
RUN = 16_384
LIMITS = ("yield", "ultimate", "plastic_strain")
HOW = (
    'The file is JSON: {"version": 1, "units": "mm-N-s-t-MPa", "parts": {NAME or "all": {"yield", "ultimate", "plastic_strain"}}}.'
)


def parse_allowables(data: bytes, name: str, system: str) -> dict[str, dict[str, Float]]:
    """Limits by part, each as (temperatures, values) (2, n) in a unit system; one number holds at all temperatures.

    Raises IronstoneError that says where in the file something is wrong.
    """
    try:
        stated = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        raise IronstoneError(f"{name}: this is no JSON.", HOW) from error
    if (
        not isinstance(stated, dict)
        or stated.get("version") != 1
        or not isinstance(stated.get("parts"), dict)
        or not stated["parts"]
    ):
        raise IronstoneError(f"{name} holds no allowables of version 1.", HOW)
    units = SYSTEMS.get(str(stated.get("units")))
    if units is None:
        raise IronstoneError(f"{name} states no units.", f"Write one of {', '.join(SYSTEMS)}.")
    found: dict[str, dict[str, Float]] = {}
    for part, limits in stated["parts"].items():
        if not isinstance(limits, dict) or not set(limits) & set(LIMITS):
            raise IronstoneError(f"{name}: '{part}' has no limit.", HOW)
        found[part] = {}
        for limit in LIMITS:
            if limit in limits:
                table = _table(limits[limit], f"{limit} of '{part}'")
                if limit != "plastic_strain":
                    table[1] = convert(table[1], units.stress, SYSTEMS[system].stress)
                found[part][limit] = table
    return found


def _table(value: Any, where: str) -> Float:
    rows = [[0.0, value]] if isinstance(value, int | float) else value
    try:
        table = np.array(rows, dtype=np.float64)
    except (TypeError, ValueError) as error:
        raise IronstoneError(f"{where} is no number.", "Write a number, or [[temperature, value], ...].") from error
    if table.ndim != 2 or table.shape[1] != 2 or not np.isfinite(table).all() or not (table[:, 1] > 0).all():
        raise IronstoneError(f"{where} is no limit above zero.", "Write a number, or [[temperature, value], ...].")
    if (np.diff(table[:, 0]) <= 0).any():
        raise IronstoneError(f"The temperatures of {where} do not rise.", "Write them from the coldest on.")
    return table.T.copy()


def stated_limits(source: ReviewSource) -> dict[str, dict[str, Float]]:
    """The limits stated of the materials of a result, in the form of a file's."""
    names = {"yield": "yield", "ultimate": "ultimate", "plastic_limit": "plastic_strain"}
    found = {
        part: {names[n]: np.array([[0.0], [v]]) for n, v in constants.items() if n in names}
        for part, constants in source.setup.constants.items()
    }
    return {part: limits for part, limits in found.items() if limits}


def limit_of_elements(source: Source, limits: Mapping[str, Mapping[str, Float]], which: str, step: int) -> Float:
    """A limit of each element at its temperature, (elements,), NaN where none is stated; part by part, 'all' for the others."""
    mesh = source.mesh
    names = mesh.material_or_part_names
    known = (set(limits) - {"all"}) - set(names) - set(mesh.part_names)
    if known:
        raise NotFound(f"There is no part or material '{sorted(known)[0]}' in this result.", f"Here: {', '.join(names)}, all.")
    result = np.full(len(mesh.types), np.nan)
    temperature: Float | None = None
    for name in ("all", *names, *mesh.part_names):
        table = limits.get(name, {}).get(which)
        if table is None:
            continue
        here: Int = np.arange(len(result))
        if name in mesh.part_names:
            here = np.flatnonzero(mesh.part == mesh.part_names.index(name))
        elif name in names:
            here = np.flatnonzero(mesh.material_or_part == names.index(name))
        if table.shape[1] == 1:
            result[here] = table[1, 0]
            continue
        if temperature is None:
            temperature = _temperature(source, step)
        inside = np.interp(temperature[here], table[0], table[1])
        outside = (temperature[here] < table[0, 0]) | (temperature[here] > table[0, -1])
        result[here] = np.where(outside, np.nan, inside)
    return result


def _temperature(source: Source, step: int) -> Float:
    found = next((f for f in source.fields.values() if f.kind == "temperature" and f.plain), None)
    if found is None:
        raise Impossible("These limits depend on temperature, and the result has none.", "State one number of each.")
    every = np.arange(len(source.mesh.types))
    return evaluate(Reading(found.name, step=step, averaging="off"), source, AtElements(every)).values


def samples_of(source: Source, step: int = 0) -> tuple[AtSamples, Float]:
    """Integration points of all elements, and the volume each stands for: of shells by their thickness, of bars by their section
    area, of a body of revolution all the way round; NaN where that is not known."""
    element, places, weights = [], [], []
    per_size, turned = volume_per_size(source, step), is_turned(source)
    for block in source.mesh.blocks:
        for chosen in block.pieces():
            xi, _ = chosen.cell.quadrature
            element.append(np.repeat(chosen.elements, len(xi)))
            places.append(np.tile(xi, (len(chosen.elements), 1)))
            weights.append((quadrature_weights(source.mesh, chosen, turned) * per_size[chosen.elements, None]).ravel())
    padded = [np.pad(p, ((0, 0), (0, 3 - p.shape[1]))) for p in places]
    return AtSamples(np.concatenate(element), np.concatenate(padded)), np.concatenate(weights)


class Utilisation(Question):
    """Metals against their limits: the highest utilisation of yield, ultimate strength and plastic strain by part, with the share
    that has yielded by volume, through the steps."""

    kind: ClassVar[str] = "utilisation"
    allowables: str = Word("", description="The allowables, the text of their JSON file; none: those stated of the materials.")
    step: int | str = "last"

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        return utilisation(source, self.allowables.encode(), find_step(source, self.step))


@dataclass(frozen=True, eq=False)
class AtStep:
    """A step against the limits: a row a part and limit, the positions of the elements at 1 or above, and the share by volume that
    has yielded (None where no yield strength is stated, or the volume of what has one is not known)."""

    rows: list[dict[str, Any]]
    over: Int
    yielded: float | None

    @property
    def worst(self) -> dict[str, Any] | None:
        return max(self.rows, key=lambda r: float(r["utilisation"]), default=None)


def _share(volume: Float, utilisation: Float) -> float | None:
    """What of a volume is at 1 or above; None where the volume is not known."""
    whole = float(volume.sum())
    return float(volume[utilisation >= 1.0].sum() / whole) if whole > 0.0 else None


def _against(source: Source) -> tuple[tuple[str, Field | None, str], ...]:
    """Each limit, the field that is held against it, and the measure of that."""
    stress = stress_of(source.fields)
    plastic = next((f for f in source.fields.values() if f.kind == "plastic strain" and f.rank == "scalar" and f.plain), None)
    return ("yield", stress, "von-mises"), ("ultimate", stress, "von-mises"), ("plastic_strain", plastic, "value")


def at_step(source: Source, limits: Mapping[str, Mapping[str, Float]], step: int, place: AtSamples, volume: Float) -> AtStep:
    """Stress at the corners and plastic strain against the limits at a step; shares of volume by the samples."""
    mesh = source.mesh
    rows: list[dict[str, Any]] = []
    over, yielded = np.zeros(0, dtype=np.int64), None
    for which, field, measure in _against(source):
        if field is None or not any(which in of for of in limits.values()):
            continue
        limit = limit_of_elements(source, limits, which, step)
        reading = Reading(field.name, measure, step=step)
        corners = evaluate(reading, source, AtCorners())
        peaks = corners.values / limit[corners.element]
        share = evaluate(reading, source, place).values / limit[place.element]
        known = np.isfinite(share)
        if which == "yield" and known.any():
            yielded = _share(volume[known], share[known])
        over = np.union1d(over, corners.element[np.nan_to_num(peaks) >= 1.0])
        for k, part in enumerate(mesh.part_names):
            here = (mesh.part[place.element] == k) & known
            there = np.flatnonzero((mesh.part[corners.element] == k) & np.isfinite(peaks))
            if not here.any() or not len(there):
                continue
            top = int(there[np.argmax(peaks[there])])
            row = _row(source, which, limit, int(corners.element[top]), float(peaks[top])) | {"part": part}
            rows.append(row | {"over_share": _share(volume[here], share[here])})
    return AtStep(rows, over, yielded)


def _row(source: Source, which: str, limit: Float, element: int, utilisation: float) -> dict[str, Any]:
    """An element against a limit."""
    mesh = source.mesh
    return {
        "part": mesh.part_names[mesh.part[element]],
        "against": which.replace("_", " "),
        "limit": float(limit[element]),
        "utilisation": utilisation,
        "element": int(mesh.element_ids[element]),
    }


def first_between(source: Source, limits: Mapping[str, Mapping[str, Float]], step: int, over: Int) -> tuple[float, dict[str, Any]]:
    """Of a step and the one before: at which share of the way a limit is first met, and the row of where. Every corner of the
    elements over a limit (positions) goes by itself, its components and its limit straight from the one step to the other."""
    best, row = np.inf, {}
    for which, field, measure in _against(source):
        if field is None or not any(which in of for of in limits.values()):
            continue
        limit = [limit_of_elements(source, limits, which, s) for s in (step - 1, step)]
        names = COMPONENTS if field.rank == "tensor" else ("value",)
        for start in range(0, len(over), RUN):
            place = AtCorners(over[start : start + RUN])
            tables = [
                np.stack([evaluate(Reading(field.name, name, step=s), source, place).values for name in names], axis=1)
                for s in (step - 1, step)
            ]
            element = evaluate(Reading(field.name, names[0], step=step), source, place).element
            share = share_of_way(tables[0], tables[1], limit[0][element], limit[1][element])
            if np.isnan(share).all() or not np.nanmin(share) < best:
                continue
            at = int(np.nanargmin(share))
            size = von_mises(tables[1][at]) if measure == "von-mises" else tables[1][at, 0]
            best = float(share[at])
            row = _row(source, which, limit[1], int(element[at]), float(size / limit[1][element[at]]))
    return min(best, 1.0), row


def share_of_way(before: Float, after: Float, limit_before: Float, limit_after: Float) -> Float:
    """At which share of the way from one state to another a limit is first met, components (n, 6) of a stress held by their von
    Mises, of one number (n, 1) by itself, limits (n,): 0 where it was met before, infinite where it is not met on the way (n,)."""
    step, rise = after - before, limit_after - limit_before
    if before.shape[1] == 6:
        # Von Mises squared is a square form: a t^2 + b t + c = 0.
        a = von_mises(step) ** 2 - rise**2
        c = von_mises(before) ** 2 - limit_before**2
        b = von_mises(after) ** 2 - limit_after**2 - a - c
    else:
        a, b, c = np.zeros(len(before)), step[:, 0] - rise, before[:, 0] - limit_before
    with np.errstate(divide="ignore", invalid="ignore"):
        root = np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))
        half = -(b + np.where(b >= 0, root, -root)) / 2
        both = np.stack([half / a, c / half])
        both = np.where((both >= 0.0) & (both <= 1.0 + 1e-12) & (b * b >= 4 * a * c), both, np.inf)
    found = np.where(c >= 0.0, 0.0, both.min(0))
    missing = ~(np.isfinite(before).all(1) & np.isfinite(after).all(1) & np.isfinite(limit_before) & np.isfinite(limit_after))
    return np.where(missing, np.nan, found)


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
    limits = limits_of(source, data)

    def work() -> list[AtStep]:
        place, volume = samples_of(source)
        return [at_step(source, limits, s, place, volume) for s in range(len(source.steps))]

    found: list[AtStep] = remembered(source, "against limits", data, work, most=4)
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
        first = source.steps[0]
        return Answer(
            kind=self.kind,
            sentence="largest utilisation and yielded share by volume through the steps",
            columns=[
                Column(name=first.kind, unit=first.unit, values=[s.value for s in source.steps]),
                Column(
                    name="largest utilisation", unit="", values=[None if s.worst is None else s.worst["utilisation"] for s in steps]
                ),
                Column(name="yielded share", unit="", values=[s.yielded for s in steps]),
            ],
            caveats=_said_of_shares(source, 0),
        )
