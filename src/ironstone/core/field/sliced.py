"""The axes of a field: a row holds (real, imaginary) x (Gauss point | layer x place in it) x component, the last fastest.

A slice names one layer, place and phase; ``sliced`` shows a source as if the field had nothing but that.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Source, Through
from ironstone.core.kept import kept_with
from ironstone.core.kinds import kind_of
from ironstone.core.mesh.mesh import Int

REDUCED = ("largest", "smallest", "magnitude")
# Of plies: the most exposed, or what is farthest from zero.
WORST, SHEET = "worst", "sheet"
MAGNITUDE, PEAK, ANGLE = "magnitude", "peak", "angle"


@dataclass(frozen=True)
class Slice:
    """One point on a field's axes. layer, place: positions from 0. phase: degrees of a harmonic."""

    layer: int = 0
    place: int = 0
    phase: float = 0.0


@dataclass(frozen=True)
class Layers:
    """Which layers of a field are read: ``slices`` (a position, or a sheet by name, and a place), and how they become one ('' where
    there is one). words: in a sentence."""

    slices: tuple[tuple[int | str, int], ...]
    how: str
    words: str


@dataclass(frozen=True)
class Split:
    """How the columns of an element array are split: Gauss points, or layers and the places in each. location: '' as it was."""

    points: int = 0
    layers: int = 0
    places: tuple[str, ...] = ("",)
    location: str = ""


GAUSS, LAYERS = "Gauss points", "layers"
WAYS = {
    GAUSS: ("",),
    LAYERS: ("",),
    "layers with bottom, top": ("bottom", "top"),
    "layers with bottom, middle, top": ("bottom", "middle", "top"),
}


def ways_to_split(more: Mapping[str, Any]) -> list[str]:
    """What several sets of components in a row can be, in words; more: what is kept of the field as it came."""
    several = more.get("points", 0) or more.get("layers", 0)
    return [way for way, places in WAYS.items() if not several % len(places)] if several else []


def usual_split(more: Mapping[str, Any]) -> str:
    """How a row is split as long as nothing is stated."""
    return GAUSS if more.get("points") else more.get("way") or LAYERS


def split_of(more: Mapping[str, Any], stated: str | None) -> Split:
    """How a row is split: as stated, else as it was taken for when it came."""
    several = more.get("points", 0) or more.get("layers", 0)
    if not several:
        return Split()
    way = stated or usual_split(more)
    if way == GAUSS:
        return Split(points=several, location="gauss")
    places = WAYS[way]
    return Split(layers=several // len(places), places=places, location="element")


NO_LAYERS = Layers((), "", "")


def layers_of(text: str, field: Field) -> Layers:
    """Read which layers are meant: 'N', 'N:PLACE', 'largest', 'largest:PLACE', 'N:largest' (smallest, magnitude); layers count from
    1, the bottom. '' is what ``usual_layer`` says. Of plies also 'worst' in the place of largest, which is what '' is there, and
    'sheet:NAME', 'sheet:NAME:PLACE'. Raises Impossible where the field has no such layer or place."""
    if not field.layers:
        if text:
            raise Impossible(f"'{field.name}' has no layers.", "Leave the layer out.")
        return NO_LAYERS
    if field.of_plies:
        return _plies_of(text, field)
    first, _, second = (text or usual_layer(field)).partition(":")
    hint = f"Write a layer from 1 to {field.layers}, or largest, smallest, magnitude" + (
        f"; then perhaps a place: {', '.join(field.places)}." if len(field.places) > 1 else "."
    )
    if first in REDUCED:
        layers = list(range(field.layers))
    elif first.isdigit() and 1 <= int(first) <= field.layers:
        layers = [int(first) - 1]
    else:
        raise Impossible(f"'{field.name}' has no layer '{first}'.", hint)
    if second in REDUCED or (not second and first in REDUCED):
        places = list(range(len(field.places)))
    elif not second:
        places = [field.places.index("middle") if "middle" in field.places else 0]
    elif second in field.places:
        places = [field.places.index(second)]
    else:
        raise Impossible(f"A layer of '{field.name}' has no place '{second}'.", hint)
    how = {w for w in (first, second) if w in REDUCED}
    if len(how) > 1:
        raise Impossible(f"'{text}' asks for two things at once.", "Take the largest or the smallest.")
    several = len(field.places) > 1
    where = f", {field.places[places[0]]}" if several and len(places) == 1 else ""
    if first in REDUCED:
        words = f"{_REDUCED_WORDS[first]} over all layers{where}"
    elif second in REDUCED:
        words = f"{_REDUCED_WORDS[second]} in layer {first} of {field.layers}"
    else:
        words = f"in layer {first} of {field.layers}{where}"
    return Layers(tuple((i, j) for i in layers for j in places), next(iter(how), ""), words)


def usual_layer(field: Field) -> str:
    """The layer that is read where none is named: of what a ply fails by the worst of all, else the first."""
    return WORST if field.of_plies else kind_of(field.kind).worst or "1"


def _plies_of(text: str, field: Field) -> Layers:
    first, second = text or WORST, ""
    hows = (WORST, *REDUCED)
    for place in (*field.places, *hows):
        if text.endswith(f":{place}") and text not in (f"{SHEET}:{s}" for s in field.sheets):
            first, second = text.removesuffix(f":{place}"), place
    sheet = first.removeprefix(f"{SHEET}:")
    if first in hows:
        layers: list[int | str] = list(range(field.layers))
        said = ""
    elif first.startswith(f"{SHEET}:") and sheet in field.sheets:
        layers, said = [sheet], f"in sheet {sheet}"
    elif first.isdigit() and 1 <= int(first) <= field.layers:
        layers, said = [int(first) - 1], f"in ply {first} from the bottom"
    else:
        sheets = f", {SHEET}:NAME of {', '.join(field.sheets[:8])}{' …' if len(field.sheets) > 8 else ''}" if field.sheets else ""
        places_words = ", ".join(field.places)
        raise Impossible(
            f"There is no ply '{first}' in these laminates.",
            f"Write a ply from 1 to {field.layers}{sheets}, or {', '.join(hows)}; then perhaps :PLACE of {places_words}.",
        )
    if first in hows and second in hows and second != first:
        raise Impossible(f"'{text}' asks for two things at once.", "Take the worst.")
    whole = second in hows or not second
    places = list(range(len(field.places))) if whole else [field.places.index(second)]
    how = first if first in hows else second if second in hows else WORST
    lead = {WORST: "worst", **_REDUCED_WORDS}[how]
    if not said:
        words = f"{lead} of all plies" + ("" if whole else f", {second}")
    elif whole:
        words = f"{lead} {said}" if len(field.places) > 1 else said
    else:
        words = f"{said}, {second}"
    return Layers(tuple((k, p) for k in layers for p in places), how, words)


_REDUCED_WORDS = {"largest": "largest", "smallest": "smallest", "magnitude": "largest magnitude"}


def phase_of(text: str, field: Field, linear: bool) -> tuple[float | str, str]:
    """Read a phase: degrees, 'magnitude', 'peak', or 'angle', the phase at which that is reached; and its words.

    linear: the measure is one component, whose magnitude is that of its two parts; any other measure has a peak over the cycle
    instead."""
    if not field.harmonic:
        if text:
            raise Impossible(f"'{field.name}' is no harmonic: it has no phase.", "Leave the phase out.")
        return 0.0, ""
    if text == PEAK:
        return PEAK, "peak over the cycle"
    if text == ANGLE:
        return ANGLE, "the phase of its peak"
    if text == MAGNITUDE:
        if not linear:
            raise Impossible("A magnitude is that of one component.", "Take the peak over the cycle.")
        return MAGNITUDE, "magnitude of the harmonic"
    try:
        degrees = float(text or 0.0)
        if not np.isfinite(degrees):
            raise ValueError
    except ValueError as error:
        raise Impossible(f"'{text}' is no phase.", "Write degrees, magnitude, peak or angle.") from error
    return degrees, f"at phase {degrees:.15g}°"


def picked(field: Field, rows: NDArray[np.floating], at: Slice) -> NDArray[np.floating]:
    """What a slice takes out of rows (n, all columns): (n, Gauss points x components)."""
    table = rows
    if field.harmonic:
        real, imaginary = np.asarray(rows, dtype=np.float64).reshape(len(rows), 2, -1).transpose(1, 0, 2)
        angle = np.radians(at.phase)
        table = real * np.cos(angle) - imaginary * np.sin(angle)
    if field.layers:
        table = table.reshape(len(rows), field.layers, len(field.places), -1)[:, at.layer, at.place]
    return table


class Sliced(Through):
    """A source in which some fields have nothing but one slice of their axes; ``without``: fields it has not."""

    def __init__(self, source: Source, wholes: Mapping[str, Field], at: Slice, without: Sequence[str] = ()) -> None:
        super().__init__(source)
        self._wholes, self.slice = wholes, at
        plain = {name: replace(whole, layers=0, places=("",), harmonic=False) for name, whole in wholes.items()}
        self.fields = {name: plain.get(name, f) for name, f in source.fields.items() if name not in without}

    def values(self, field: str, step: int) -> NDArray[np.floating]:
        return self._picked(field, self.source.values(field, step))

    def rows(self, field: str, step: int, entities: Int) -> NDArray[np.floating]:
        return self._picked(field, self.source.rows(field, step, entities))

    def history(self, field: str, steps: Int, entities: Int) -> NDArray[np.floating]:
        found = self.source.history(field, steps, entities)
        return self._picked(field, found.reshape(-1, found.shape[2])).reshape(len(steps), len(entities), -1)

    def _picked(self, field: str, rows: NDArray[np.floating]) -> NDArray[np.floating]:
        return picked(self._wholes[field], rows, self.slice) if field in self._wholes else rows


@kept_with(8)
def sliced(source: Any, field: str, at: Slice) -> Sliced:
    """A source with one field cut down to a slice; kept, so that what belongs to it is not worked out again."""
    return Sliced(source, {field: source.fields[field]}, at)


@kept_with(2)
def at_phase(source: Any, degrees: float) -> Sliced:
    """A source in which every harmonic is what it is at a phase, those with layers left out; kept as ``sliced`` is."""
    turning = {name: f for name, f in source.fields.items() if f.harmonic}
    layered = [name for name, f in turning.items() if f.layers]
    return Sliced(source, {n: f for n, f in turning.items() if not f.layers}, Slice(0, 0, degrees), layered)
