"""What every question, every answer and everything that is kept has in common.

A question is written down once, as a class with ``kind``: from it follow its address in the service, its command, its tables and
its place in a recipe. What is kept in a review (a flag, a curve, a test record) is written down the same way. Both carry a version;
one that was stored by an older program is brought up by ``upgraded``, and one that cannot be read costs only itself.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any, ClassVar, Self, TypeVar

from pydantic import BaseModel, ValidationError

import ironstone
from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.engine.carrier import Answer, Particulars, Provenance
from ironstone.engine.found import Kinds
from ironstone.engine.steps import find_step
from ironstone.engine.weight import Reach
from ironstone.engine.words import Strict
from ironstone.store import Review
from ironstone.store.items import Item
from ironstone.store.source import ReviewSource

QUESTIONS: Kinds[Question] = Kinds("Question")
KEPT: Kinds[Kept] = Kinds("Kept")


class _Versioned(Strict):
    kind: ClassVar[str] = ""
    version: ClassVar[int] = 1

    @classmethod
    def upgraded(cls, stored: dict[str, Any], version: int) -> dict[str, Any]:
        """What an older version stored, in the words of this one."""
        return stored

    @classmethod
    def understood(cls, stored: Mapping[str, Any]) -> Self:
        """One that was stored, brought up to this version. Raises IronstoneError, in words, where it cannot be read."""
        words = dict(stored)
        version = int(words.pop("version", 1))
        name = f"'{words['name']}'" if words.get("name") else "one of them"
        if version > cls.version:
            raise IronstoneError(f"This {cls.kind} ({name}) was made by a newer version of this program.", "Open it with that.")
        try:
            return cls.model_validate(cls.upgraded(words, version))
        except ValidationError as error:
            raise IronstoneError(
                f"This {cls.kind} ({name}) cannot be read: {said_of(error)}.", "Remove it, or make it anew."
            ) from error

    @classmethod
    def stated(cls, words: Mapping[str, Any]) -> Self:
        """One that is asked for or made now. Raises IronstoneError that says which word is wrong."""
        try:
            return cls.model_validate(dict(words))
        except ValidationError as error:
            raise IronstoneError(f"{cls.kind}: {said_of(error)}.", f"Its words are: {', '.join(cls.model_fields)}.") from error

    def written(self) -> dict[str, Any]:
        """What is stored of this one."""
        return {**self.model_dump(mode="json"), **({"version": self.version} if self.version > 1 else {})}


class Question(_Versioned):
    """Something that can be asked of a result. A subclass states ``kind``, says in its docstring what it asks, and answers."""

    result: int | str | None = None
    # What it looks at: what looks at the whole of a large model waits its turn.
    reach: ClassVar[Reach] = "whole"
    # Whether it looks at all sets of nodes: loads that are still looked for behind are then found first.
    sets: ClassVar[bool] = False
    # What its answer has beside what every answer carries.
    more: ClassVar[type[BaseModel]] = Particulars

    def __init_subclass__(cls, **more: Any) -> None:
        super().__init_subclass__(**more)
        if cls.__dict__.get("kind"):
            QUESTIONS[cls.kind] = cls

    @classmethod
    def reach_of(cls, words: Mapping[str, Any]) -> Reach:
        """What it looks at where it is asked with these words, which may be wrong ones."""
        return cls.reach

    def answer(self, review: Review) -> Answer:
        raise NotImplementedError

    def others(self) -> list[str]:
        """Other results that are read for it, by name."""
        return []

    def source(self, review: Review) -> ReviewSource:
        """The result it is asked of, as it is at the step it is asked at: by number or name, the newest where none is named."""
        found = review.result(self.result)
        if (self.sets or self._names_a_set()) and review.loads.needed(found):
            found = review.result(self.result)
        step = getattr(self, "step", None)
        return found if step is None else found.at(step if isinstance(step, int) else find_step(found, step))

    def _names_a_set(self) -> bool:
        """Whether one of its words names a set, as places are written."""
        return any("set:" in str(value) for value in vars(self).values() if isinstance(value, str | list | tuple | BaseModel))


class Kept(_Versioned):
    """Something the analyst keeps in a review, and can undo. A subclass states ``kind`` and what its making is called."""

    def __init_subclass__(cls, **more: Any) -> None:
        super().__init_subclass__(**more)
        if cls.__dict__.get("kind"):
            KEPT[cls.kind] = cls

    def check(self, review: Review) -> None:
        """Raise IronstoneError where this cannot be kept: nothing it is of is there, or it makes no sense."""

    def same(self, other: Kept) -> bool:
        """Whether another one is replaced by this."""
        return False

    def elsewhere(self, here: ReviewSource, there: ReviewSource) -> tuple[Self, list[str]]:
        """The same for another mesh of the body, by place, and what must be said of it. Raises Impossible where it is not there."""
        raise Impossible(f"A {self.kind} stays with its result.", "Make it anew there.")

    def made(self) -> str:
        """What keeping it is called where it can be undone."""
        return f"{self.kind.capitalize()} kept"

    def gone(self) -> str:
        """What removing it is called where it can be undone."""
        return f"{self.kind.capitalize()} removed"


V = TypeVar("V", bound=_Versioned)
K = TypeVar("K", bound=Kept)


def ask(review: Review, question: Question) -> Answer:
    """Answer a question, and say what the answer depends on."""
    answer = question.answer(review)
    answer.more = question.more.model_validate(answer.more).model_dump(by_alias=True, exclude_unset=True)
    if answer.provenance is None:
        source = question.source(review)
        read = [source, *(source.other(name) for name in question.others())]
        answer.provenance = Provenance(
            result=source.name,
            revision="+".join(one.revision for one in read),
            question={"kind": question.kind, **question.written()},
            engine=engine(),
        )
    return answer


def question_of(kind: str, words: Mapping[str, Any]) -> Question:
    """A question by its kind and its words. Raises NotFound for a kind there is not, IronstoneError for words that do not fit."""
    return _by_kind(QUESTIONS, kind, "question").stated(words)


def thing_of(kind: str, words: Mapping[str, Any]) -> Kept:
    """Something to be kept, by its kind and its words. Raises as ``question_of`` does."""
    return _by_kind(KEPT, kind, "thing to keep").stated(words)


def kept_of(kind: str, stored: Mapping[str, Any]) -> Kept:
    """Something that is kept, as it is stored."""
    return _by_kind(KEPT, kind, "thing to keep").understood(stored)


def _by_kind(known: Mapping[str, type[V]], kind: str, what: str) -> type[V]:
    if kind not in known:
        raise NotFound(f"There is no {what} called '{kind}'.", f"There are: {', '.join(sorted(known))}.")
    return known[kind]


def keep(review: Review, thing: Kept) -> Item:
    """Keep something in a review, in place of the one it replaces. Raises IronstoneError where it cannot be."""
    thing.check(review)
    with review.writing():
        for item, other in readable(review, type(thing)):
            if thing.same(other):
                return review.change(item.id, thing.written(), thing.made())
        return review.add(thing.kind, thing.written(), thing.made())


def changed(review: Review, item_id: int, kind: str, words: Mapping[str, Any]) -> Kept:
    """Change words of something that is kept; the others stay. Raises IronstoneError where it cannot be so."""
    seen = review.item(item_id, kind)
    # What takes long is checked before anything is locked; where somebody was quicker it is checked again of what they made.
    thing = _with(review, seen, words)
    with review.writing():
        now = review.item(item_id, kind)
        if now.revision != seen.revision:
            thing = _with(review, now, words)
        for other, known in readable(review, type(thing)):
            if other.id != item_id and thing.same(known):
                raise IronstoneError(f"There is another {kind} called '{getattr(thing, 'name', '')}'.", "Choose another name.")
        review.change(item_id, thing.written(), f"{kind.capitalize()} '{getattr(thing, 'name', item_id)}' changed")
    return thing


def _with(review: Review, item: Item, words: Mapping[str, Any]) -> Kept:
    """Something that is kept, with some of its words changed. Raises IronstoneError where it cannot be so."""
    before = kept_of(item.kind, item.payload)
    thing = _by_kind(KEPT, item.kind, "thing to keep").stated({**before.model_dump(mode="json"), **words})
    thing.check(review)
    return thing


def remove(review: Review, item_id: int, kind: str | None = None) -> None:
    """Remove something that was kept; undo brings it back. One that cannot be read can be removed as well."""
    item = review.item(item_id, kind)
    # What it is called where it is undone hangs on nothing that could change meanwhile.
    try:
        label = kept_of(item.kind, item.payload).gone()
    except IronstoneError:
        label = f"{item.kind.capitalize()} removed"
    review.remove(item_id, label)


class Removed(BaseModel):
    """Something that was removed and can be brought back: its number, its kind, what it is, and the result it is of."""

    id: int
    kind: str
    what: str
    result: int | None = None


def removed_things(review: Review) -> list[Removed]:
    """What was removed, the last first; what cannot be read any more is left out."""
    found = []
    for item in review.removed_items():
        if item.kind == "result":
            found.append(Removed(id=item.id, kind="result", what=f"Result '{item.payload['name']}'", result=item.payload["result"]))
        elif item.kind in KEPT:
            with suppress(IronstoneError):
                what = kept_of(item.kind, item.payload).gone().removesuffix(" removed")
                found.append(Removed(id=item.id, kind=item.kind, what=what, result=item.payload.get("result")))
    return found


def bring_back(review: Review, item_id: int) -> None:
    """Bring back something that was removed. Raises IronstoneError where something else has taken its name or its place is gone."""
    with review.writing():
        item = next((i for i in review.removed_items() if i.id == item_id), None)
        removed = next((r for r in removed_things(review) if r.id == item_id), None)
        if item is None or removed is None:
            raise NotFound("That is not among what was removed.", "It may have been brought back elsewhere.")
        if item.kind == "result":
            if any(r.name == item.payload["name"] for r in review.results()):
                raise IronstoneError(f"There is another result called '{item.payload['name']}'.", "Rename that one first.")
        else:
            thing = kept_of(item.kind, item.payload)
            thing.check(review)
            if any(thing.same(other) for _, other in readable(review, type(thing))):
                raise IronstoneError(f"{removed.what}: another one has taken its place.", "Rename or remove that one first.")
        review.bring_back(item_id, f"{removed.what} brought back")


def readable(review: Review, kept: type[K], result: int | None = None) -> list[tuple[Item, K]]:
    """What is kept of a kind, of one result or of all; what is of no result goes with each. What cannot be read is left out (see
    ``unreadable``)."""
    found = []
    for item in review.items(kept.kind):
        try:
            thing = kept.understood(item.payload)
        except IronstoneError:
            continue
        if result is None or getattr(thing, "result", result) == result:
            found.append((item, thing))
    return found


def by_name(review: Review, kept: type[K], which: int | str) -> tuple[Item, K]:
    """Something that is kept, by its number or its name. Raises NotFound, with the names there are."""
    found = readable(review, kept)
    names = [str(getattr(thing, "name", item.id)) for item, thing in found]
    for (item, thing), name in zip(found, names, strict=True):
        if which in (item.id, str(item.id), name):
            return item, thing
    raise NotFound(f"There is no {kept.kind} '{which}' in this review.", f"Here: {', '.join(names) or 'none'}.")


def unreadable(review: Review) -> list[str]:
    """What is kept and cannot be read, each with its reason."""
    found = []
    for item in review.items():
        if item.kind in KEPT:
            try:
                kept_of(item.kind, item.payload)
            except IronstoneError as error:
                found.append(f"Number {item.id}: {error.message}")
    return found


@cache
def engine() -> str:
    """Which state of this program answers: its version, and when its code was last changed."""
    code = Path(ironstone.__file__).parent.rglob("*.py")
    return f"{ironstone.__version__} of {max(p.stat().st_mtime_ns for p in code)}"


# What is wrong with words, by the kind of Pydantic's complaint; {} is what the complaint compares with.
# What a check of our own says stands behind this.
_OWN = "Value error, "
_WRONG = {
    "missing": ("is missing", ""),
    "extra_forbidden": ("is not known here", ""),
    "int_parsing": ("must be a whole number", ""),
    "int_type": ("must be a whole number", ""),
    "int_from_float": ("must be a whole number", ""),
    "float_parsing": ("must be a number", ""),
    "float_type": ("must be a number", ""),
    "finite_number": ("must be a finite number", ""),
    "string_type": ("must be a text", ""),
    "bool_parsing": ("must be true or false", ""),
    "json_invalid": ("is no JSON that can be read", ""),
    "literal_error": ("must be one of {}", "expected"),
    "string_too_long": ("must not be longer than {} characters", "max_length"),
    "string_too_short": ("must have {} characters at least", "min_length"),
    "too_long": ("must not have more than {} entries", "max_length"),
    "too_short": ("must have {} entries at least", "min_length"),
    "greater_than": ("must be greater than {}", "gt"),
    "greater_than_equal": ("must be {} at least", "ge"),
    "less_than": ("must be less than {}", "lt"),
    "less_than_equal": ("must be {} at most", "le"),
}


def said_of(error: ValidationError | Sequence[Any], skip: int = 0) -> str:
    """What the first complaint of a check is, in words; ``skip`` leaves so many names before the place out."""
    first = (error.errors(include_input=False, include_url=False) if isinstance(error, ValidationError) else error)[0]
    if first["type"] == "value_error" and first["msg"].startswith(_OWN):
        return f"the request cannot be taken: {first['msg'].removeprefix(_OWN)}"
    said, compared = _WRONG.get(first["type"], ("is not as it must be", ""))
    where = ".".join(str(p)[:60] for p in first["loc"][skip:])
    return f"{where or 'the request'} {said.format(first.get('ctx', {}).get(compared, '')) if compared else said}"
