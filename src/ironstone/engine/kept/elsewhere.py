"""What is kept of one mesh of a body, offered for its other meshes: lines, gauge lists, flags and cuts, by place."""

from __future__ import annotations

from contextlib import suppress

from pydantic import BaseModel

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.engine.base import KEPT, Kept, keep, kept_of, readable
from ironstone.engine.bodies import one_body
from ironstone.store import Review


class OfOther(BaseModel):
    """Something kept of another result that can be used in this one. name: what it is called; of: its result."""

    id: int
    kind: str
    name: str
    of: str


def offered(review: Review, kind: str, result: int) -> list[OfOther]:
    """What other meshes of the same body have of a kind, and this result has not."""
    there = review.result(result)
    kept = KEPT.get(kind)
    if kept is None or kept.elsewhere is Kept.elsewhere:
        return []
    own = [thing for _, thing in readable(review, kept, result)]
    found: list[OfOther] = []
    for other in review.results():
        theirs = readable(review, kept, other.id) if other.id != result else []
        if not theirs or not one_body(other, there):
            continue
        for item, thing in theirs:
            with suppress(IronstoneError):
                here, _ = thing.elsewhere(other, there)
                if any(_alike(here, one) for one in own) or any((_told(here), kind) == (f.name, f.kind) for f in found):
                    continue
                found.append(OfOther(id=item.id, kind=kind, name=_told(here), of=other.name))
    return found


def taken_over(review: Review, item_id: int, result: int) -> tuple[int, list[str]]:
    """Keeps for a result what is kept of another one, by place: its number, and what must be said of it.

    Raises Impossible where the two are not one body, or its place is not there.
    """
    item = review.item(item_id)
    thing = kept_of(item.kind, item.payload)
    here, there = review.result(getattr(thing, "result", None)), review.result(result)
    if not one_body(here, there):
        raise Impossible(f"{there.name} is not the same body as {here.name}.", "Make it anew there.")
    found, notes = thing.elsewhere(here, there)
    return keep(review, found).id, notes


def _told(thing: Kept) -> str:
    return str(getattr(thing, "name", "") or getattr(thing, "place", thing.kind))


def _alike(one: Kept, other: Kept) -> bool:
    """Whether a result has it already: by its name, else by all its words."""
    if getattr(one, "name", ""):
        return getattr(other, "name", "") == getattr(one, "name", "")
    return one.model_dump(exclude={"name"}) == other.model_dump(exclude={"name"})
