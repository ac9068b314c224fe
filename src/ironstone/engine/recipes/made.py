"""A recipe made of what is kept in a review: its hand checks become values with limits, its exhibits become tables."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import BaseModel

from ironstone.core.errors import Impossible, NotFound
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


class Offered(BaseModel):
    """Something of a recipe that can be a parameter: the name it would have, what it is now, and what it is, in words."""

    name: str
    value: float | int | str
    says: str


# Words of a value, a table or a picture that may be another from run to run.
VARYING = ("at_least", "at_most", "step", "region", "at", "low", "high")


def offers_of(made: Mapping[str, Any]) -> list[Offered]:
    """What of a recipe can be made a parameter."""
    return [offer for offer, _, _ in _places(made)]


def _places(made: Mapping[str, Any]) -> list[tuple[Offered, dict[str, Any], str]]:
    """What can be a parameter, each with where it stands in the recipe."""
    found: list[tuple[Offered, dict[str, Any], str]] = []
    taken: set[str] = set()
    for one in (*made.get("ask", []), *made.get("tables", []), *made.get("pictures", [])):
        for word in (w for w in VARYING if one.get(w) not in (None, "", "all")):
            plain = re.sub(r"[^A-Za-z0-9]+", "_", f"{one['name']} {word}").strip("_").lower()
            name = plain if plain[:1].isalpha() else f"p_{plain}"
            while name in taken:
                name += "_"
            taken.add(name)
            found.append((Offered(name=name, value=one[word], says=f"{word.replace('_', ' ')} of {one['name']}"), one, word))
    return found


def with_parameters(made: dict[str, Any], names: Sequence[str]) -> dict[str, Any]:
    """A recipe with some of what it offers as parameters, at their present values. Raises NotFound for one it does not offer."""
    places = {offer.name: (offer, one, word) for offer, one, word in _places(made)}
    for name in names:
        if name not in places:
            raise NotFound(
                f"The recipe has nothing called '{name}' to make a parameter of.", f"It offers: {', '.join(places) or 'nothing'}."
            )
        offer, one, word = places[name]
        one[word] = f"{{{name}}}"
        made.setdefault("parameters", {})[name] = offer.value
    return made


def recipe_of(review: Review, result: str | int | None = None, parameters: Sequence[str] = ()) -> dict[str, Any]:
    """A recipe of what is kept of a result, as it is written to a file; ``title`` says what was left out. parameters: what of it is
    to be a parameter, by the names it offers."""
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
    made = Recipe.model_validate(stated).model_dump(mode="json", exclude_defaults=True) | {"version": 1}
    return with_parameters(made, parameters)


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
