"""What is kept in a review beside its results: items, every change of them, and the way back."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.store import stale
from ironstone.store.damaged_rows import damaged_rows
from ironstone.store.models import (
    AttachmentRow,
    ChangeRow,
    ItemRow,
)
from ironstone.store.source import ReviewSource


@dataclass(frozen=True)
class Item:
    """Something the analyst made: a flag, a test record, accept limits, an exhibit, a correction of a result."""

    id: int
    kind: str
    payload: dict[str, Any]
    revision: int


@dataclass(frozen=True)
class Change:
    """One change that can be undone or done again: its number and what it is called."""

    id: int
    label: str


_LAST = select(ChangeRow).where(~ChangeRow.undone).order_by(ChangeRow.id.desc())
_STATE = select(select(func.max(ChangeRow.id)).scalar_subquery(), select(func.sum(ItemRow.revision)).scalar_subquery())
_UNDONE = select(ChangeRow).where(ChangeRow.undone).order_by(ChangeRow.id)


def mark(session: Session) -> str:
    """The state of a review, see ``Items.state``."""
    # Undo and redo lead back to the same last change, but they too are counted by the revisions of what they touch.
    last, touched = session.execute(_STATE).one()
    return f"{last or 0}.{touched or 0}"


class Items:
    """The part of a review that keeps items; every change is recorded, so that it can be undone and done again."""

    @abstractmethod
    def writing(self) -> AbstractContextManager[Session]: ...

    @abstractmethod
    def session(self) -> AbstractContextManager[Session]: ...

    # Results that are on their way in: nothing can be kept of them yet.
    _arriving: dict[int, ReviewSource]

    def items(self, kind: str | None = None) -> list[Item]:
        with self.session() as session:
            query = select(ItemRow).where(~ItemRow.removed).order_by(ItemRow.id)
            if kind:
                query = query.where(ItemRow.kind == kind)
            # What is damaged is named elsewhere, and costs only itself.
            return [Item(r.id, r.kind, r.payload, r.revision) for r in session.scalars(query) if r.whole]

    def damaged(self) -> list[str]:
        """What was made, stated or taken in and is not as it was written, or is lost, in words: it is left out elsewhere."""
        with self.session() as session:
            return damaged_rows(session)

    def item(self, item_id: int, kind: str | None = None) -> Item:
        with self.session() as session:
            row = self._there(session, item_id, kind)
            return Item(row.id, row.kind, row.payload, row.revision)

    def add(self, kind: str, payload: dict[str, Any], label: str) -> Item:
        with self.writing() as session:
            return self._add(session, kind, payload, label)

    def _add(self, session: Session, kind: str, payload: dict[str, Any], label: str) -> Item:
        if kind != "result" and payload.get("result") in self._arriving:
            raise IronstoneError(
                "This result is still being stored: nothing can be kept with it yet.", "It can in a moment, once it is stored."
            )
        row = ItemRow(kind=kind, payload=payload)
        session.add(row)
        session.flush()
        self._record(session, row.id, label, None, payload)
        return Item(row.id, kind, payload, 1)

    def change(self, item_id: int, payload: dict[str, Any], label: str) -> Item:
        with self.writing() as session:
            row = self._there(session, item_id)
            stale.refuse_if_changed(str(row.revision), f"This {row.kind}")
            return self._change(session, item_id, payload, label)

    def _change(self, session: Session, item_id: int, payload: dict[str, Any], label: str, joined: bool = False) -> Item:
        row = self._there(session, item_id)
        before, row.payload, row.revision = row.payload, payload, row.revision + 1
        self._record(session, item_id, label, before, payload, joined)
        return Item(item_id, row.kind, payload, row.revision)

    def remove(self, item_id: int, label: str) -> None:
        with self.writing() as session:
            row = self._there(session, item_id)
            stale.refuse_if_changed(str(row.revision), f"This {row.kind}")
            row.removed = True
            self._record(session, item_id, label, row.payload, None)

    @staticmethod
    def _there(session: Session, item_id: int, kind: str | None = None) -> ItemRow:
        row = session.get(ItemRow, item_id)
        if row is None or row.removed or (kind and row.kind != kind):
            raise NotFound(f"There is no {kind or 'item'} {item_id} in this review.", "It may have been removed.")
        if not row.whole:
            raise IronstoneError(f"Number {item_id} of this review is damaged on the disk.", "Take the review from a backup.")
        return row

    def _record(self, session: Session, item: int, label: str, before: Any, after: Any, joined: bool = False) -> None:
        # A number is never given twice: who still holds that of an undone change must not be taken to mean this one.
        last = session.scalar(select(func.max(ChangeRow.id))) or 0
        session.execute(delete(ChangeRow).where(ChangeRow.undone))
        session.add(ChangeRow(id=last + 1, item_id=item, label=label, before=before, after=after, joined=joined))

    def join(self, items: Sequence[int], label: str) -> None:
        """Have the last changes undone as one, called ``label``, where they are those that made these items and no others."""
        with self.writing() as session:
            last = list(session.scalars(_LAST.limit(len(items))))[::-1]
            if {change.item_id for change in last} == set(items):
                for change in last[1:]:
                    change.joined = True
                last[-1].label = label

    def undo(self) -> str | None:
        """Take the last change back; returns what it was, None when there is nothing to undo.

        Raises Stale where another change was expected to be the last one (``stale.expecting`` its number).
        """
        return self._travel(_LAST, back=True)

    def redo(self) -> str | None:
        return self._travel(_UNDONE, back=False)

    def next_changes(self) -> tuple[Change | None, Change | None]:
        """What ``undo`` and ``redo`` would take back or do again."""
        with self.session() as session:
            found = [session.scalars(query.limit(1)).first() for query in (_LAST, _UNDONE)]
            undo, redo = (Change(row.id, row.label) if row else None for row in found)
            return undo, redo

    def state(self) -> str:
        """A mark of everything that was changed so far; after any change, undo or redo, by whomever, it is one that never was."""
        with self.session() as session:
            return mark(session)

    def removed_items(self) -> list[Item]:
        """What was removed and can be brought back, the last removed first."""
        with self.session() as session:
            rows = session.execute(
                select(ItemRow, func.max(ChangeRow.id).label("last"))
                .join(ChangeRow, ChangeRow.item_id == ItemRow.id)
                .where(ItemRow.removed)
                .group_by(ItemRow.id)
                .order_by(func.max(ChangeRow.id).desc())
            ).all()
            return [Item(r.id, r.kind, r.payload, r.revision) for r, _ in rows if r.whole]

    def bring_back(self, item_id: int, label: str) -> None:
        """Bring back what was removed, however long ago; that is a change of its own, and can be undone."""
        with self.writing() as session:
            row = session.get(ItemRow, item_id)
            if row is None or not row.removed:
                raise NotFound("That is not among what was removed.", "It may have been brought back elsewhere.")
            row.removed, row.revision = False, row.revision + 1
            self._record(session, item_id, label, None, row.payload)

    def _travel(self, query: Any, back: bool) -> str | None:
        with self.writing() as session:
            change = session.scalars(query.limit(1)).first()
            word = "undone" if back else "done again"
            what = f"What would be {word} next is now '{change.label}'" if change else f"Nothing is left to be {word}"
            stale.refuse_other(str(change.id if change else 0), what, f"nothing was {word}")
            if change is None:
                return None
            label: str = change.label
            following: ChangeRow | None = change
            while following is not None:
                last = following
                self._take(session, last, back)
                session.flush()
                following = session.scalars(query.limit(1)).first()
                # Back, the change that was joined to another takes that along; forth, the one that is joined goes along.
                if not (last.joined if back else following is not None and following.joined):
                    break
            return label

    @staticmethod
    def _take(session: Session, change: ChangeRow, back: bool) -> None:
        row = session.get_one(ItemRow, change.item_id)
        target = change.before if back else change.after
        row.removed = target is None
        if target is not None:
            row.payload = target
        row.revision += 1
        change.undone = back

    def attach(self, name: str, media_type: str, data: bytes) -> int:
        with self.session() as session:
            row = AttachmentRow(name=name, media_type=media_type, data=data)
            session.add(row)
            session.flush()
            return row.id

    def attachment(self, attachment_id: int) -> tuple[str, str, bytes]:
        """Name, media type and bytes of a kept file."""
        with self.session() as session:
            row = session.get(AttachmentRow, attachment_id)
            if row is None:
                raise NotFound(f"There is no kept file {attachment_id} in this review.")
            return row.name, row.media_type, row.data
