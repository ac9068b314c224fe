"""A recipe made of what is kept in a review: its hand checks become values with limits, its exhibits become tables."""

from __future__ import annotations

from typing import Any

from ironstone.core.errors import Impossible
from ironstone.engine.base import QUESTIONS, Kept, readable
from ironstone.engine.curves.pairings import PairingIn
from ironstone.engine.kept.checks import CheckIn
from ironstone.engine.kept.exhibits import ExhibitKept
from ironstone.engine.motion.mass import MassIn
from ironstone.engine.reading.gauges import GaugeList
from ironstone.engine.reading.profiles import PathIn
from ironstone.engine.recipes.recipe import Recipe
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# What a question may name by its number in a review, and what it is then.
NAMED: dict[str, type[Kept]] = {"named": PathIn, "gauges": GaugeList, "pairing": PairingIn}
# Words of a question that name something a recipe does not bring along: a test record, another result.
ELSEWHERE = ("test", "other", "others", "results", "modes", "second", "of_result", "against", "beside", "less")


def recipe_of(review: Review, result: str | int | None = None) -> dict[str, Any]:
    """A recipe of what is kept of a result, as it is written to a file; ``title`` says what was left out."""
    source = review.result(result)
    kinds: tuple[type[Kept], ...] = (*NAMED.values(), MassIn)
    held = [(item.id, thing) for kept in kinds for item, thing in readable(review, kept, source.id)]
    names = {(thing.kind, number): str(getattr(thing, "name", number)) for number, thing in held}
    values = [_of_check(source, check) for _, check in readable(review, CheckIn, source.id)]
    tables: list[dict[str, Any]] = []
    left: list[str] = []
    for _, exhibit in readable(review, ExhibitKept):
        for asked in exhibit.questions:
            words = _words_elsewhere(dict(asked.words), names)
            if words is None or asked.kind not in QUESTIONS or exhibit.result not in (None, source.id):
                left.append(exhibit.title)
            else:
                tables.append({"name": _apart(exhibit.title, tables), "kind": asked.kind, **words})
    if not values and not tables:
        raise Impossible(
            f"Nothing is kept of '{source.name}' that a recipe could ask again.", "Keep a hand check (Balance), or an exhibit."
        )
    stated = {
        "version": 1,
        "title": f"{review.name}: {source.name}" + (f" (without {', '.join(left)})" if left else ""),
        "units": source.system.name,
        "constants": {k: dict(v) for k, v in review.correction(source.id).get("constants", {}).items()},
        "keep": [_without(thing.written(), "result") | {"kind": thing.kind} for _, thing in held],
        "ask": values,
        "tables": tables,
    }
    return Recipe.model_validate(stated).model_dump(mode="json", exclude_defaults=True) | {"version": 1}


def _of_check(source: ReviewSource, check: CheckIn) -> dict[str, Any]:
    """A hand check as a value with its limits."""
    words = check.reading.model_dump(mode="json", exclude_defaults=True)
    step = words.pop("step", 0)
    words["step"] = "last" if step == len(source.steps) - 1 else step
    place: dict[str, Any] = {"extremes": True} if check.at in ("max", "min") else {"at": check.at}
    take = {"max": "highest", "min": "lowest"}.get(check.at, "value")
    room = abs(check.tolerance * check.expected) or check.tolerance
    return {
        "name": check.name,
        "kind": "read",
        **words,
        **place,
        "take": take,
        "at_least": check.expected - room,
        "at_most": check.expected + room,
    }


def _words_elsewhere(words: dict[str, Any], names: dict[tuple[str, int], str]) -> dict[str, Any] | None:
    """Words of a question as they are asked of another result: without this one's number, what is kept by its name; None where it
    names what a recipe does not bring along."""
    found = {k: v for k, v in words.items() if k != "result" and v not in (None, "", [], False)}
    if any(word in found for word in ELSEWHERE):
        return None
    for word, kept in NAMED.items():
        number = found.get(word)
        if isinstance(number, int) or (isinstance(number, str) and number.isdigit()):
            name = names.get((kept.kind, int(number)))
            if name is None:
                return None
            found[word] = name
    return found


def _apart(title: str, tables: list[dict[str, Any]]) -> str:
    taken = {t["name"] for t in tables}
    name, count = title, 1
    while name in taken:
        count += 1
        name = f"{title} {count}"
    return name


def _without(words: dict[str, Any], *names: str) -> dict[str, Any]:
    return {k: v for k, v in words.items() if k not in names}
