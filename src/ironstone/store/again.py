"""A result read again from its files, more of them by now: it takes the place of what was read before, under the same number.

So flags, curves, exhibits and corrections of it stay what they are. All is worked out anew from all files: which sets are held,
what is single-valued, where yield begins, are told of all steps.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from sqlalchemy import delete, select, text, update
from sqlalchemy.orm import Session

from ironstone.store import seal
from ironstone.store.arrival import Tell, intake
from ironstone.store.models import ArrayRow, BlockRow, FieldRow, ItemRow, ResultRow, SealRow, StepRow, seal_result
from ironstone.store.review import Review


def take_again(review: Review, which: int | str, paths: Sequence[Path], tell: Tell | None = None) -> int:
    """Take a result in again, from these files; returns how many steps it has then.

    Raises IronstoneError where they cannot be read, with the result as it was.
    """
    before = review.result(which)
    system = None if before.system_guessed else before.system.name
    with review.session() as session:
        # What a process that was ended left of an earlier time.
        own = [run["result"] for run in before.stored_summary.get("runs", [])]
        session.execute(delete(ResultRow).where(ResultRow.run_of == before.id, ResultRow.id.not_in(own)))
    # Until it takes its place it is none of the review's results.
    new = intake(review, paths, f"{before.name}, read again", system, tell, behind=before.id)
    # What names its files is done with it under the number it has still.
    review.naming.wait()
    with review.writing() as session:
        _in_place_of(session, new, before.id)
    review.forget_source(new, before.id)
    review.give_back()
    again = review.result(before.id)
    review.loads.follow(again)
    return len(again.steps)


def _in_place_of(session: Session, new: int, old: int) -> None:
    """Give a result the number and the name of another one, which goes."""
    # Rows name a number that is given anew only at the end.
    session.execute(text("PRAGMA defer_foreign_keys = ON"))
    name = session.scalar(select(ResultRow.name).where(ResultRow.id == old))
    session.execute(update(ResultRow).where(ResultRow.id == new).values(run_of=None))
    session.execute(delete(ResultRow).where(ResultRow.id == old))
    session.execute(update(ResultRow).where(ResultRow.id == new).values(id=old, name=name))
    session.execute(update(ResultRow).where(ResultRow.run_of == new).values(run_of=old))
    for rows in (StepRow, FieldRow, ArrayRow):
        session.execute(update(rows).where(rows.result_id == new).values(result_id=old))
    session.expire_all()
    for item in session.scalars(select(ItemRow).where(ItemRow.kind == "result")).all():
        if item.payload["result"] == old:
            # Whoever has the review open hears that there is more of it.
            item.revision += 1
    session.flush()
    _sealed_anew(session, old)
    seal_result(session.get_one(ResultRow, old, populate_existing=True))


def _sealed_anew(session: Session, result_id: int) -> None:
    """Checksums of blocks are of the result's number as well."""
    for array in session.scalars(select(ArrayRow).where(ArrayRow.result_id == result_id)).all():
        mark = seal.mark(array)
        blocks = session.execute(
            select(BlockRow.id, BlockRow.data).where(BlockRow.array_id == array.id).order_by(BlockRow.position)
        )
        for position, (block, data) in enumerate(blocks):
            sums = seal.sums(data, mark, position)
            session.execute(update(SealRow).where(SealRow.block_id == block).values(sums=sums))
