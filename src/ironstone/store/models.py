"""Tables of a review file. What the analyst makes (flags, tests, exhibits) are items; every change to one can be undone."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, LargeBinary, String, event, select, update
from sqlalchemy.orm import DeclarativeBase, Mapped, Session, mapped_column

from ironstone.store import seal
from ironstone.store.cells import Broken, Json, Moment


def now() -> datetime:
    return datetime.now(UTC)


class Base(DeclarativeBase):
    type_annotation_map = {dict[str, Any]: Json, list[Any]: Json, datetime: Moment}


class ReviewRow(Base):
    """The review itself: one row."""

    __tablename__ = "review"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String)
    created: Mapped[datetime] = mapped_column(default=now)
    # The numbers of all items there are, as runs: one that is not there any more is lost.
    roll: Mapped[str | None]


class ResultRow(Base):
    """An imported set of results. ``state`` is arriving until the last step is in, then ready."""

    __tablename__ = "result"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    state: Mapped[str] = mapped_column(default="arriving")
    created: Mapped[datetime] = mapped_column(default=now)
    system: Mapped[str]
    system_guessed: Mapped[bool]
    files: Mapped[list[Any]] = mapped_column(default=list)
    warnings: Mapped[list[Any]] = mapped_column(default=list)
    part_names: Mapped[list[Any]] = mapped_column(default=list)
    summary: Mapped[dict[str, Any]] = mapped_column(default=dict)
    seal: Mapped[str | None]
    # The result whose steps on another mesh these are: it is no result of its own.
    run_of: Mapped[int | None] = mapped_column(ForeignKey("result.id", ondelete="CASCADE"))

    @property
    def whole(self) -> bool:
        """Whether it is as it was when it came to be in the review."""
        return _sealed(self, RESULT_CELLS)


class StepRow(Base):
    __tablename__ = "step"
    id: Mapped[int] = mapped_column(primary_key=True)
    result_id: Mapped[int] = mapped_column(ForeignKey("result.id", ondelete="CASCADE"), index=True)
    position: Mapped[int]
    kind: Mapped[str]
    value: Mapped[float]
    loading: Mapped[str] = mapped_column(default="")


class FieldRow(Base):
    """What the file says, or was guessed to say, of one field."""

    __tablename__ = "field"
    id: Mapped[int] = mapped_column(primary_key=True)
    result_id: Mapped[int] = mapped_column(ForeignKey("result.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    kind: Mapped[str]
    rank: Mapped[str]
    location: Mapped[str]
    components: Mapped[list[Any]]
    precision: Mapped[str]
    guessed: Mapped[bool]
    averaged_before: Mapped[bool]
    notes: Mapped[list[Any]]
    more: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")


class ArrayRow(Base):
    """One array: of a field at a step, or of the mesh (field_id empty, told apart by ``role``)."""

    __tablename__ = "array"
    __table_args__ = (Index("array_of_step", "field_id", "step"), Index("array_of_result", "result_id", "role"))
    id: Mapped[int] = mapped_column(primary_key=True)
    result_id: Mapped[int] = mapped_column(ForeignKey("result.id", ondelete="CASCADE"))
    role: Mapped[str]
    field_id: Mapped[int | None] = mapped_column(ForeignKey("field.id", ondelete="CASCADE"))
    step: Mapped[int | None]
    dtype: Mapped[str]
    rows: Mapped[int]
    columns: Mapped[int]
    rows_per_block: Mapped[int]


class BlockRow(Base):
    """A run of an array's rows, uncompressed little-endian."""

    __tablename__ = "block"
    __table_args__ = (Index("block_of_array", "array_id", "position", unique=True),)
    id: Mapped[int] = mapped_column(primary_key=True)
    array_id: Mapped[int] = mapped_column(ForeignKey("array.id", ondelete="CASCADE"))
    position: Mapped[int]
    data: Mapped[bytes] = mapped_column(LargeBinary)


class SealRow(Base):
    """Checksums of a block, one for each run of its bytes (see ``store.seal``)."""

    __tablename__ = "seal"
    block_id: Mapped[int] = mapped_column(ForeignKey("block.id", ondelete="CASCADE"), primary_key=True)
    sums: Mapped[bytes] = mapped_column(LargeBinary)


class ItemRow(Base):
    """Something the analyst made. ``payload`` is checked by the schema of its kind before it comes here."""

    __tablename__ = "item"
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(index=True)
    payload: Mapped[dict[str, Any]]
    removed: Mapped[bool] = mapped_column(default=False)
    revision: Mapped[int] = mapped_column(default=1)
    created: Mapped[datetime] = mapped_column(default=now)
    seal: Mapped[str | None]

    @property
    def whole(self) -> bool:
        """Whether it is as it was written."""
        return _sealed(self, ITEM_CELLS)


class ChangeRow(Base):
    """One change to an item; ``before`` or ``after`` is empty where the item was not there.

    joined: it is undone and done again together with the change before it.
    """

    __tablename__ = "change"
    id: Mapped[int] = mapped_column(primary_key=True)
    item_id: Mapped[int] = mapped_column(ForeignKey("item.id", ondelete="CASCADE"))
    label: Mapped[str]
    before: Mapped[dict[str, Any] | None] = mapped_column(Json)
    after: Mapped[dict[str, Any] | None] = mapped_column(Json)
    undone: Mapped[bool] = mapped_column(default=False)
    joined: Mapped[bool] = mapped_column(default=False)


class AttachmentRow(Base):
    """A file kept as it came: a test record's text, an exhibit's picture."""

    __tablename__ = "attachment"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    media_type: Mapped[str]
    data: Mapped[bytes] = mapped_column(LargeBinary)


# What a row's seal is of.
ITEM_CELLS = ("kind", "payload", "removed", "revision")
RESULT_CELLS = ("name", "state", "system", "system_guessed", "files", "warnings", "part_names", "summary")


def _mark(row: Any, cells: tuple[str, ...]) -> str:
    # As it is once it was written and read: keys are texts, lists are lists.
    return seal.of_description(json.loads(json.dumps([getattr(row, cell) for cell in cells], default=repr)))


def _sealed(row: Any, cells: tuple[str, ...]) -> bool:
    """Whether a row is what its seal is of; one of an older review that has none is, as long as it can be read."""
    if any(isinstance(getattr(row, cell), Broken) for cell in cells):
        return False
    if row.seal is None or row.seal == seal.of_description([getattr(row, cell) for cell in cells]):
        return True
    # One that was not read but made a moment ago still has what JSON has no word for.
    return bool(row.seal == _mark(row, cells))


def _seal_item(_mapper: Any, _connection: Any, row: ItemRow) -> None:
    # What a column has until the row is written.
    row.removed, row.revision = bool(row.removed), row.revision or 1
    row.seal = _mark(row, ITEM_CELLS)


def seal_result(row: ResultRow) -> None:
    """Seal a result that is whole; from then on its row does not change."""
    row.seal = _mark(row, RESULT_CELLS)


def write_roll(session: Session) -> None:
    """Write down which items there are."""
    numbers = seal.of_steps(list(session.scalars(select(ItemRow.id))))
    session.execute(update(ReviewRow).values(roll=numbers))


for moment in ("before_insert", "before_update"):
    event.listen(ItemRow, moment, _seal_item)
