"""Readings with plies: one scalar of each element, of a stack position, a cut sheet, or the worst of all.

A ply that does not lie in an element has no value there. Elements are worked out in runs of bounded size.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.axes import GLOBAL
from ironstone.core.field.fields import Field, Source, Through
from ironstone.core.field.plies import PLY_STRESS, PlyState, ply_state, zones_with_elements
from ironstone.core.field.sliced import NO_LAYERS
from ironstone.core.kept import remembered
from ironstone.core.mesh.mesh import Float, Int
from ironstone.core.reading.measures import MEASURES
from ironstone.core.reading.reduced import replaces
from ironstone.core.reading.resolved import Resolved
from ironstone.core.strength.criteria import BOND_WORDS, Check, bond_exposure, check_of, mode_words
from ironstone.core.strength.laminate import PlyMaterial
from ironstone.core.strength.zones import ply_name

# Elements that are worked out at once.
RUN = 16_384
# Measures that compare a stress with strengths.
STRENGTH = ("exposure", "index", "reserve", "mode", "first-ply")


@dataclass(frozen=True, eq=False)
class PlyCheck:
    """Elements of a zone against a criterion, in one ply at one place: index, exposure (1 / reserve, without bound where the ply
    fails without load) and position of the mode in ``mode_words``, (n,) each."""

    index: Float
    exposure: Float
    mode: NDArray[np.int64]


def check_ply(state: PlyState, ply: int, place: int, check: Check, index: bool = True) -> PlyCheck:
    """One ply of some elements at one place against a criterion. index: whether its own expression is asked for as well."""
    material = state.zone.laminate.plies[ply].material
    stress = state.stress(ply, place)
    residual = state.residual(ply, place)
    known = mode_words(check, [material])
    if residual is None and not index:
        alone, which = _against(stress, material, check, np.full(len(stress), state.on_bond(place)))
        return PlyCheck(alone, alone, which)
    places = np.array([known.index(m.words) for m in check.criterion.modes(material)])
    fixed = None if residual is None else np.broadcast_to(residual, (len(stress), 3))
    outcome = check.criterion.check(material, stress[:, :3], fixed)
    with np.errstate(divide="ignore"):
        exposure = 1.0 / outcome.reserve
    expression, mode = outcome.index, places[outcome.mode]
    if check.bond and state.on_bond(place):
        between = bond_exposure(material, stress[:, 3:])
        first = between > np.nan_to_num(exposure, nan=-1.0)
        exposure, expression = np.where(first, between, exposure), np.where(first, between**2, expression)
        mode = np.where(first, known.index(BOND_WORDS), mode)
    return PlyCheck(expression, exposure, mode)


def check_all(state: PlyState, check: Check, places: int) -> tuple[Float, NDArray[np.int64]]:
    """Every ply of some elements at every place against a criterion: exposure and position of the mode, (plies, places, n) each.

    Plies of one material without a part that does not scale are asked at once: one by one costs more than the arithmetic.
    """
    plies = state.zone.laminate.plies
    count = len(state.elements)
    exposure = np.full((len(plies), places, count), np.nan)
    mode = np.zeros((len(plies), places, count), dtype=np.int64)
    together: dict[str, list[tuple[int, int]]] = {}
    for ply, own in enumerate(plies):
        for place in range(places):
            if state.residual(ply, place) is None:
                together.setdefault(own.material.name, []).append((ply, place))
            else:
                found = check_ply(state, ply, place, check, index=False)
                exposure[ply, place], mode[ply, place] = found.exposure, found.mode
    for pairs in together.values():
        material = plies[pairs[0][0]].material
        stress = np.concatenate([state.stress(ply, place) for ply, place in pairs])
        bonds = np.repeat([state.on_bond(place) for _, place in pairs], count)
        now, which = _against(stress, material, check, bonds)
        for k, (ply, place) in enumerate(pairs):
            mine = slice(k * count, (k + 1) * count)
            exposure[ply, place], mode[ply, place] = now[mine], which[mine]
    return exposure, mode


@dataclass(frozen=True, eq=False)
class Worst:
    """Of each element the ply and place of the largest exposure, with that exposure and its mode, (n,) each; NaN where none has a
    value. Of equals the first counts: the lowest ply, and in it the lowest place."""

    exposure: Float
    mode: NDArray[np.int64]
    ply: NDArray[np.int64]
    place: NDArray[np.int64]


def worst_of(exposure: Float, mode: NDArray[np.int64]) -> Worst:
    """The worst of what ``check_all`` answers, (plies, places, n)."""
    _, places, count = exposure.shape
    flat, each = exposure.reshape(-1, count), np.arange(count)
    at = np.where(np.isnan(flat), -np.inf, flat).argmax(0)
    ply, place = np.divmod(at, places)
    return Worst(flat[at, each], mode.reshape(-1, count)[at, each], ply, place)


def _against(stress: Float, material: PlyMaterial, check: Check, bonds: NDArray[np.bool_]) -> tuple[Float, NDArray[np.int64]]:
    """Exposure and position of the mode of stresses (n, 5) all of which scale, bond lines included where they are asked for and the
    place is on one (n,)."""
    known = mode_words(check, [material])
    places = np.array([known.index(m.words) for m in check.criterion.modes(material)])
    exposure, mode = check.criterion.exposures(material, stress[:, :3])
    mode = places[mode]
    if check.bond and bonds.any():
        between = np.where(bonds, bond_exposure(material, stress[:, 3:]), np.nan)
        first = between > np.nan_to_num(exposure, nan=-1.0)
        exposure, mode = np.where(first, between, exposure), np.where(first, known.index(BOND_WORDS), mode)
    return exposure, mode


def first_between(before: PlyState, after: PlyState, ply: int, place: int, check: Check) -> Float:
    """The share of the way from one step to the next at which a ply of some elements fails first at a place, stress going straight
    from the one to the other, (n,): 0 where it has failed before, infinite where it does not fail on the way."""
    material = after.zone.laminate.plies[ply].material
    start, end = before.stress(ply, place), after.stress(ply, place)
    residual = after.residual(ply, place)
    fixed = start[:, :3] + (0.0 if residual is None else residual)
    share = check.criterion.check(material, end[:, :3] - start[:, :3], fixed).reserve
    if check.bond and after.on_bond(place):
        strengths = np.array([material["S23"], material["S13"]])
        one, step = start[:, 3:] / strengths, (end[:, 3:] - start[:, 3:]) / strengths
        a, b, c = (step * step).sum(1), 2 * (one * step).sum(1), (one * one).sum(1) - 1.0
        with np.errstate(divide="ignore", invalid="ignore"):
            root = (-b + np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))) / (2 * a)
        bond = np.where(c >= 0.0, 0.0, np.where(a > 0.0, root, np.inf))
        share = np.fmin(share, bond)
    found: Float = share
    return found


def runs(source: Source, step: int) -> Iterator[PlyState]:
    """Every element that has plies, in runs of bounded size, zone by zone."""
    for zone, elements in zones_with_elements(source):
        for start in range(0, len(elements), RUN):
            yield ply_state(source, zone, step, elements[start : start + RUN])


def ply_values(resolved: Resolved, source: Source) -> Float:
    """A reading of plies at its step, one value of each element in the reading's unit, (elements,); NaN where there is no such
    ply. Kept for the last few readings."""
    key = replace(resolved.reading, against=None, over="step", span="all", when=False, of="value", averaging="off", region="all")
    return remembered(source, "ply readings", key, lambda: _worked_out(resolved, source), most=12)


def _worked_out(resolved: Resolved, source: Source) -> Float:
    reading, measure = resolved.reading, resolved.measure
    laminates = source.setup.laminates
    assert laminates is not None
    strength = measure.name in STRENGTH
    check = check_of(reading.criterion) if strength else None
    if check is not None and check.bond and not has_shear(source):
        raise Impossible("The bond lines need the shear between the plies.", "It follows from a transverse force by element.")
    named = {name: k for k, name in enumerate(laminates.ply_names)}
    result = np.full(len(source.mesh.types), np.nan)
    for state in runs(source, reading.step):
        value, rank = (np.full(len(state.elements), np.nan) for _ in range(2))
        plies = state.zone.laminate.plies
        chosen = [(ply, place) for layer, place in resolved.layers.slices for ply in laminates.plies_of(state.zone, layer)]
        whole = len(set(chosen)) == len(plies) * len(resolved.field.places) and resolved.layers.how in ("", "largest")
        if check is not None and whole and measure.name != "index":
            worst = worst_of(*check_all(state, check, len(resolved.field.places)))
            value = worst.exposure
            if measure.name == "mode":
                value = np.where(np.isnan(value), np.nan, worst.mode)
            elif measure.name == "first-ply":
                names = np.array([named[ply_name(own, k)] for k, own in enumerate(plies)])
                value = np.where(np.isnan(value), np.nan, names[worst.ply])
            chosen = []
        for ply, place in chosen:
            if check is None:
                now = by = _component(state, resolved, ply, place)
            else:
                found = check_ply(state, ply, place, check, index=measure.name == "index")
                by = found.exposure
                if measure.name == "mode":
                    now = np.where(np.isnan(by), np.nan, found.mode)
                elif measure.name == "first-ply":
                    now = np.where(np.isnan(by), np.nan, named[ply_name(plies[ply], ply)])
                elif measure.name == "index":
                    now = by = found.index
                else:
                    now = by
            beyond = replaces(resolved.layers.how or "largest", rank, by)
            value, rank = np.where(beyond, now, value), np.where(beyond, by, rank)
        if measure.name == "reserve":
            with np.errstate(divide="ignore"):
                value = 1.0 / value
        result[state.elements] = value
    return resolved.scaled(result)


def has_shear(source: Source) -> bool:
    """Whether the shear between the plies is known."""
    return any(f.kind == "transverse force" and f.location == "element" and f.plain for f in source.fields.values())


def _component(state: PlyState, resolved: Resolved, ply: int, place: int) -> Float:
    table = state.stress(ply, place) if resolved.field.name == PLY_STRESS else state.strain_in(ply, place)
    residual = state.residual(ply, place)
    if residual is not None and resolved.field.name == PLY_STRESS:
        table[:, :3] += residual
    found: Float = table[:, int(resolved.measure.function(np.arange(5)[None])[0])]
    return found


class Answered(Through):
    """A source in which a reading of plies is a plain field of one number an element."""

    def __init__(self, source: Source, field: Field, values: Float) -> None:
        super().__init__(source)
        self.own, self._values = field, values
        self.fields = {**source.fields, field.name: field}

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        return self._values[:, None] if field == self.own.name else self.source.values(field, step)

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        return self._values[entities, None] if field == self.own.name else self.source.rows(field, step, entities)

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        return np.stack([self.rows(field, int(step), entities) for step in steps])


def as_plain(resolved: Resolved, source: Source) -> tuple[Resolved, Answered]:
    """A reading of plies as one of a plain field that holds its answers, and the source that has it."""
    plain = replace(
        resolved.field, rank="scalar", components=("value",), layers=0, places=("",), sheets=(), unit=resolved.unit, kind=""
    )
    told = replace(
        resolved, field=plain, measure=MEASURES["scalar", "value"], factor=1.0, offset=0.0, layers=NO_LAYERS, axes=GLOBAL
    )
    return told, Answered(source, plain, ply_values(resolved, source))
