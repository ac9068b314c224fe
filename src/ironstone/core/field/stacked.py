"""Arrays that hold one ply each: 'Ply 3 Stress' is the third layer of 'Ply Stress', where its name says so."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

_PLY = re.compile(r"(?<![a-z])(ply|layer|lamina)([ _.\-#]*)(\d+)(?!\d)", re.IGNORECASE)
_PLACE = re.compile(r"(?<![a-z])(bottom|bot|lower|middle|mid|top|upper)(?![a-z]|[ _-]?plane)", re.IGNORECASE)
_PLACES = {
    "bottom": "bottom",
    "bot": "bottom",
    "lower": "bottom",
    "middle": "middle",
    "mid": "middle",
    "top": "top",
    "upper": "top",
}
_BETWEEN = " _.-#"


@dataclass(frozen=True)
class OnePly:
    """What the name of an array says: the field it is a ply of, which ply, and where in it ('' where it does not say)."""

    field: str
    ply: int
    place: str


def one_ply(name: str) -> OnePly | None:
    """Read a name such as 'Ply 3 Stress', 'stress_layer_2_top'; None where it names no ply, or nothing but a ply."""
    found = _PLY.search(name)
    if found is None:
        return None
    word = found.group(1)
    rest = f"{name[: found.start()]}{word}{name[found.end() :]}"
    place = ""
    if said := _PLACE.search(rest):
        place = _PLACES[said.group(1).lower()]
        rest = rest[: said.start()] + rest[said.end() :]
    rest = re.sub(r"\(\s*\)|\[\s*\]", "", rest)
    rest = re.sub(rf"[{re.escape(_BETWEEN)}]{{2,}}", lambda run: run.group()[0], rest).strip(_BETWEEN)
    if not re.search(r"[a-z]", rest.lower().replace(word.lower(), "", 1)):
        return None
    return OnePly(rest, int(found.group(3)), place)


@dataclass(frozen=True)
class Stack:
    """The arrays of one field by ply: ``arrays`` by (layer, place), positions from 0; what is not there has no value.

    note: what was taken for what, where it is not plain.
    """

    field: str
    arrays: Mapping[tuple[int, int], str]
    layers: int
    places: tuple[str, ...]
    note: str


def stacks_in(names: Iterable[str]) -> list[Stack]:
    """The fields that come with an array for each ply, of the names of a step's arrays."""
    groups: dict[str, list[tuple[str, OnePly]]] = {}
    for name in names:
        if found := one_ply(name):
            groups.setdefault(found.field.lower(), []).append((name, found))
    return [_stack(group) for group in groups.values()]


def _stack(group: list[tuple[str, OnePly]]) -> Stack:
    field = group[0][1].field
    numbers = sorted({p.ply for _, p in group})
    lowest = min(numbers[0], 1)
    # Numbers far apart are names of plies and no places in a stack.
    spread = numbers[-1] - lowest + 1 <= 4 * len(numbers) + 4
    layer_of = {n: n - lowest if spread else k for k, n in enumerate(numbers)}
    layers = max(layer_of.values()) + 1
    said = {p.place for _, p in group} - {""}
    places = ("",) if len(said) < 2 else ("bottom", "top") if said == {"bottom", "top"} else ("bottom", "middle", "top")
    arrays = {
        (layer_of[p.ply], places.index(p.place) if p.place in places else len(places) // 2 if len(places) == 3 else 0): name
        for name, p in group
    }
    shown = ", ".join(f"'{name}'" for name, _ in group[:2]) + (" and so on" if len(group) > 2 else "")
    note = f"{len(group)} array{'s' if len(group) > 1 else ''} taken as the layers of one field: {shown}"
    if not spread:
        note += f"; layers 1 to {layers} are plies {', '.join(map(str, numbers[:8]))}{' …' if layers > 8 else ''}"
    elif lowest == 0:
        note += f"; ply 0 of the file is layer 1, ply {numbers[-1]} layer {layers}"
    missing = [k + 1 for k in range(layers) if all((k, j) not in arrays for j in range(len(places)))]
    if missing:
        note += f"; no array for layer {', '.join(map(str, missing[:8]))}: no value there"
    if len(said) == 1:
        note += f"; values at the {next(iter(said))} of each ply"
    return Stack(field, arrays, layers, places, note)
