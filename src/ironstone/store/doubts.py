"""What is doubtful about a result's files, each with what settles it: one short list."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ironstone.core.field.fields import Field
from ironstone.core.field.loadings import computed
from ironstone.core.field.titles import field_title
from ironstone.store.entries import GUESSED, Offer, Way, offers
from ironstone.store.source import ReviewSource

# Entries whose guess changes numbers; a kind that a name tells is no doubt.
ASKED = ("kind", "columns", "points_order", "layout", "order", "shear", "averaged_before", "surface_axes")
# What the numbers of a field of unknown kind most often are, by rank.
LIKELY = {"tensor": ("stress", "strain"), "vector": ("displacement", "force"), "scalar": ("temperature",)}
MOST_ACTS = 3
# What confirms a guess.
RIGHT = "that is right"


@dataclass(frozen=True)
class Act:
    """A statement that settles a doubt. what: units, fields, model, steps; words: what it is stated with; none: a form opens."""

    label: str
    what: str
    words: dict[str, Any]


@dataclass(frozen=True)
class Doubt:
    """said: what was assumed. why: for what reason, or what hangs on it."""

    said: str
    why: str
    acts: tuple[Act, ...]


def doubts(source: ReviewSource) -> list[Doubt]:
    """What was guessed of a result and changes its numbers, and what it lacks that can be stated."""
    return [*_units(source), *_model(source), *_steps(source), *_fields(source)]


# A stress that no material of structures bears, in MPa: as a number in guessed MPa it is one in Pa.
UNBORNE = 2e4


def implausible(source: ReviewSource) -> str:
    """That guessed units make numbers no structure has, '' where they do not."""
    largest = float(source.summary.get("largest_stress", 0.0))
    if not source.system_guessed or source.system.stress != "MPa" or largest < UNBORNE:
        return ""
    return (
        f"A body of {source.mesh.size:.3g} with stresses up to {largest:.3g}: in {source.system.length} and MPa no material bears "
        "that. Are they in m and Pa?"
    )


def _units(source: ReviewSource) -> Iterator[Doubt]:
    if not source.system_guessed:
        return
    here, wrong = source.system.name, implausible(source)
    likely = ["m-N-s-kg-Pa", "mm-N-s-t-MPa", "mm-kN-ms-kg-GPa"]
    order = [n for n in likely if n != here] if wrong else [here, *(n for n in likely if n != here)]
    acts = [Act(RIGHT if n == here else n, "units", {"system": n}) for n in order[:MOST_ACTS]]
    yield Doubt(f"The files state no unit: taken as {here}.", wrong or "Every number shown hangs on it.", tuple(acts))


def _model(source: ReviewSource) -> Iterator[Doubt]:
    flat = [f for f in source.fields.values() if f.flat and f.kind in ("stress", "strain") and not f.layers]
    if source.setup.model or not flat or source.is_shell or not source.mesh.planar:
        return
    acts = tuple(Act(m, "model", {"model": m}) for m in ("plane stress", "plane strain"))
    yield Doubt("What the planar model stands for is not said.", "The third direction has no value until it is.", acts)


def _steps(source: ReviewSource) -> Iterator[Doubt]:
    own = [source.steps[i] for i in computed(source.steps)]
    if len(own) < 2 or source.correction.get("steps") or any(s.kind != "number" for s in own):
        return
    acts = [Act("they are numbers", "steps", {"kind": "number", "values": "1:1"}), Act("state them", "steps", {})]
    yield Doubt(
        f"The files give {len(own)} steps no time, load factor or frequency: counted.",
        "Curves and rates over the steps need it.",
        tuple(acts),
    )


def _fields(source: ReviewSource) -> Iterator[Doubt]:
    groups: dict[tuple[str, str, tuple[str, ...]], list[tuple[Field, Offer]]] = {}
    for field in source.fields.values():
        for offer in offers(source, field):
            if offer.name in ASKED and offer.state == GUESSED and _matters(field, offer):
                ways = tuple(w.value for w in _acts_of(field, offer))
                groups.setdefault((offer.name, offer.value, ways), []).append((field, offer))
    for (name, value, _), members in groups.items():
        field, offer = members[0]
        names = ", ".join(field_title(f.name, source.fields) for f, _ in members)
        fields = [f.name for f, _ in members]
        acts = [
            Act(RIGHT if w.value == value else w.label, "fields", {"fields": fields, "entries": {name: w.value}})
            for w in _acts_of(field, offer)
        ]
        taken = f"{offer.before} {offer.label}, assumed".strip() if offer.value else offer.label
        yield Doubt(f"{names}: {taken}.", _why(offer), tuple(acts))


def _matters(field: Field, offer: Offer) -> bool:
    if offer.name == "kind":
        return not field.kind and not field.names
    if offer.name in ("order", "layout", "points_order"):
        return field.kind in ("stress", "strain") or "strain" in field.kind
    return True


def _acts_of(field: Field, offer: Offer) -> list[Way]:
    if offer.name == "kind":
        return [w for w in offer.ways if w.value in LIKELY.get(field.rank, ())][:MOST_ACTS]
    first = [w for w in offer.ways if w.value == offer.value]
    return [*first, *(w for w in offer.ways if w.value != offer.value)][:MOST_ACTS] if offer.value else list(offer.ways[:MOST_ACTS])


def _why(offer: Offer) -> str:
    return {
        "kind": "The name does not say what it is: it has no unit, and no measure of its own.",
        "columns": "The file has more columns than a tensor.",
        "points_order": "The file does not say which column is which Gauss point.",
        "layout": "The file names no components.",
        "order": "The file names no components, and they do not prove themselves.",
        "shear": "The file does not say which shear a strain has; a factor of two hangs on it.",
        "averaged_before": "It came at nodes that elements share: means cannot be un-averaged.",
        "surface_axes": "A component in a surface means nothing without its axes.",
    }[offer.name]
