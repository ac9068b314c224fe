"""Removing for good what was removed already: results, exhibits, records and what is kept with them. Nothing goes by itself."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from sqlalchemy import delete, func, or_, select
from sqlalchemy.orm import Session

from ironstone.store.models import ArrayRow, AttachmentRow, BlockRow, ChangeRow, ItemRow, ResultRow
from ironstone.store.review import Review

# Where the payload of an item names a kept file.
FILES = ("attachment", "picture", "photograph", "table", "answers")


def _named(payloads: Iterable[Any]) -> set[int]:
    """Numbers of the kept files that payloads name."""
    found = (p.get(word) for p in payloads if isinstance(p, dict) for word in FILES)
    return {number for number in found if isinstance(number, int) and not isinstance(number, bool)}


def _going(session: Session) -> tuple[list[int], list[int], set[int]]:
    """What would go: items, results, and kept files that nothing else names, not even a change that can be undone."""
    rows = session.scalars(select(ItemRow)).all()
    results = [int(r.payload["result"]) for r in rows if r.removed and r.whole and r.kind == "result"]
    going = {r.id for r in rows if r.removed or (r.kind == "correction" and r.payload.get("result") in results)}
    changes = session.scalars(select(ChangeRow).where(ChangeRow.item_id.not_in(going))).all()
    kept = _named([*(r.payload for r in rows if r.id not in going), *(c.before for c in changes), *(c.after for c in changes)])
    gone_changes = session.scalars(select(ChangeRow).where(ChangeRow.item_id.in_(going))).all()
    files = _named(
        [*(r.payload for r in rows if r.id in going), *(c.before for c in gone_changes), *(c.after for c in gone_changes)]
    )
    return sorted(going), results, files - kept


def removed_bytes(review: Review) -> int:
    """How much of the review is of what was removed: arrays of results, kept pictures, tables and records."""
    with review.session() as session:
        _, results, files = _going(session)
        kept = session.scalar(select(func.sum(func.length(AttachmentRow.data))).where(AttachmentRow.id.in_(files))) or 0
        rows = select(ResultRow.id).where(or_(ResultRow.id.in_(results), ResultRow.run_of.in_(results)))
        held = session.scalar(
            select(func.sum(func.length(BlockRow.data)))
            .join(ArrayRow, ArrayRow.id == BlockRow.array_id)
            .where(ArrayRow.result_id.in_(rows))
        )
    return int(kept) + int(held or 0)


def discard_removed(review: Review) -> int:
    """Remove for good all that was removed and give its space back, which cannot be undone. Returns how much smaller it is."""
    before = review.path.stat().st_size
    with review.writing() as session:
        items, results, files = _going(session)
        session.execute(delete(AttachmentRow).where(AttachmentRow.id.in_(files)))
        session.execute(delete(ItemRow).where(ItemRow.id.in_(items)))
    for result in results:
        review.remove_result(result)
    review.give_back()
    return max(before - review.path.stat().st_size, 0)
