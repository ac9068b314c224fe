"""Rows of what was made, stated and taken in that are not as they were written, or not there any more, in words."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ironstone.store import seal
from ironstone.store.models import ItemRow, ResultRow, ReviewRow


def damaged_rows(session: Session) -> list[str]:
    """What is named here is left out everywhere else."""
    rows = session.scalars(select(ItemRow).order_by(ItemRow.id)).all()
    # A mark that is neither yes nor no hides an item from every list.
    odd = set(session.scalars(select(ItemRow.id).where(func.coalesce(ItemRow.removed, 7).not_in([0, 1]))))
    spoiled = [row for row in rows if not row.whole or row.id in odd]
    said = {"correction": "what was stated of a result does not hold any more"}
    found = []
    for row in spoiled:
        name = row.payload.get("name") if isinstance(row.payload, dict) else None
        called = f", '{name}'" if name else ""
        found.append(f"Number {row.id} ({row.kind}{called}) is damaged on the disk: {said.get(row.kind, 'it is left out')}.")
    return [*_results(session, [row for row in rows if row not in spoiled]), *found, *_lost(session, {row.id for row in rows})]


def _results(session: Session, items: list[ItemRow]) -> list[str]:
    """Results that are damaged, and those an item tells of that are not there."""
    results = session.scalars(select(ResultRow)).all()
    there = {row.id for row in results if row.state == "ready"}
    found = [
        f"What the review says of {row.name} is damaged on the disk: it is left out."
        for row in results
        if row.state != "arriving" and not row.whole
    ]
    named = [(row.payload.get("name"), row.payload.get("result")) for row in items if row.kind == "result"]
    return found + [
        f"The result '{name}' is lost on the disk: it was taken in, and is not there." for name, n in named if n not in there
    ]


def _lost(session: Session, there: set[int]) -> list[str]:
    """Items the list of all that was made has, and that are not there."""
    roll = session.scalar(select(ReviewRow.roll))
    if roll is None:
        return []
    try:
        numbers = seal.steps_of(roll)
    except ValueError:
        return ["The list of all that was made is damaged on the disk: what is lost of it cannot be told."]
    lost = [str(number) for number in numbers if number not in there]
    which = f"Number{'s' if len(lost) > 1 else ''} {', '.join(lost)}"
    return [f"{which} of what was made or stated {'are' if len(lost) > 1 else 'is'} lost on the disk."] if lost else []
