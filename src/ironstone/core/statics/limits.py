"""Stress and plastic strain against limits of parts and materials: corners as computed, shares by volume, when a limit is met."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.field.fields import Field, Source, stress_of
from ironstone.core.field.loadings import computed
from ironstone.core.field.tensors import von_mises
from ironstone.core.field.volumes import is_turned, volume_per_size
from ironstone.core.kept import remembered
from ironstone.core.mesh.mesh import Float, Int, quadrature_weights
from ironstone.core.mesh.places import AtCorners, AtElements, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading

COMPONENTS = ("xx", "yy", "zz", "xy", "yz", "xz")
# Elements that are worked out at once.
RUN = 16_384


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


def every_step(source: Source, limits: Mapping[str, Mapping[str, Float]]) -> list[AtStep]:
    """Every step of a result against the limits; kept for the last few."""

    def work() -> list[AtStep]:
        found, there, samples = [], source, samples_of(source)
        for step in computed(source.steps):
            if source.at(step) is not there:
                there = source.at(step)
                samples = samples_of(there)
            found.append(at_step(there, limits, step, *samples))
        return found

    key = tuple((of, which, table.tobytes()) for of, tables in limits.items() for which, table in tables.items())
    found: list[AtStep] = remembered(source, "against limits", key, work, most=4)
    return found


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
