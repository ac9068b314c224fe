"""All plies of a result against a criterion: the worst of a step, what fails, and the step of first failure."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ironstone.core.field.fields import Source
from ironstone.core.field.loadings import computed
from ironstone.core.field.plies import PlyState
from ironstone.core.kept import remembered
from ironstone.core.mesh.mesh import Float
from ironstone.core.reading.plies import check_all, first_between, runs, worst_of
from ironstone.core.strength.criteria import Check, mode_words
from ironstone.core.strength.zones import Laminates

# One ply: the state it is in, the element of that, the ply, the place in it.
Where = tuple[PlyState, int, int, int]


def laminates_in(source: Source) -> Laminates:
    """The laminates of a result that has some."""
    assert source.setup.laminates is not None
    return source.setup.laminates


@dataclass(eq=False)
class Scan:
    """All plies of a step: the largest exposure and where (state, element in it, ply, place), of all and of each zone; plies there
    are and plies failed, and of each element that fails its worst (element, exposure, ply, place, mode, zone)."""

    most: float = -np.inf
    at: Where | None = None
    of_zone: dict[str, tuple[float, Where]] = field(default_factory=dict)
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
        known = ~np.isnan(exposure)
        found.present += int(known.any(1).sum())
        found.failed += int((known & (exposure >= 1.0)).any(1).sum())
        worst = worst_of(exposure, mode)
        best = np.nan_to_num(worst.exposure, nan=-np.inf)
        zone = state.zone.name
        if best.max(initial=-np.inf) > found.of_zone.get(zone, (-np.inf,))[0]:
            e = int(np.argmax(best))
            found.of_zone[zone] = float(best[e]), (state, e, int(worst.ply[e]), int(worst.place[e]))
            if found.of_zone[zone][0] > found.most:
                found.most, found.at = found.of_zone[zone]
        found.elements += [
            (int(state.elements[e]), float(best[e]), int(worst.ply[e]), int(worst.place[e]), words[worst.mode[e]], state.zone.name)
            for e in np.flatnonzero(best >= 1.0)
        ]
    return found


def basis_places(source: Source) -> tuple[str, ...]:
    """The places in a ply that are answered."""
    return next(f.places for f in source.fields.values() if f.of_plies)


def exposure_through_steps(source: Source, check: Check, zone: str = "") -> Float:
    """The largest exposure of any ply, or of any in a zone, at each step, (steps,); 0 where nothing has a value."""

    def work() -> list[dict[str, float]]:
        found = (scan(source.at(s), check, s) for s in computed(source.steps))
        return [{"": one.most, **{name: most for name, (most, _) in one.of_zone.items()}} for one in found]

    steps = remembered(source, "exposure through the steps", check.name, work, most=16)
    return np.array([max(most.get(zone, 0.0), 0.0) for most in steps])


def first_failed(source: Source, check: Check, step: int, zone: str = "") -> tuple[float, Where | None]:
    """Of a step and the one before: at which share of the way a ply first fails, of all or of a zone, and which (its state in the
    later step, the element in it, ply, place)."""
    best, at = np.inf, None
    for before, after in zip(runs(source, step - 1), runs(source, step), strict=True):
        if zone and after.zone.name != zone:
            continue
        for ply in range(len(after.zone.laminate.plies)):
            for place in range(len(basis_places(source))):
                share = first_between(before, after, ply, place, check)
                if not np.isnan(share).all() and float(np.nanmin(share)) < best:
                    e = int(np.nanargmin(share))
                    best, at = float(share[e]), (after, e, ply, place)
    return min(best, 1.0), at
