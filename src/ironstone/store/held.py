"""Where the arrays of a result's fields are: in the review's blocks, or still with the reader while they are being stored."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from typing import Any, Protocol

from numpy.typing import NDArray
from sqlalchemy import select

from ironstone.core.mesh.mesh import Int
from ironstone.store import arrays, known, seal
from ironstone.store.models import ArrayRow, BlockRow, FieldRow, ResultRow
from ironstone.store.opened import OpenReview


class Held(Protocol):
    """Arrays of fields by the field's id and step; None where a field has none at a step."""

    def whole(self, field_id: int, step: int) -> NDArray[Any] | None: ...

    def rows(self, field_id: int, steps: Sequence[int], entities: Int) -> Iterator[NDArray[Any] | None]: ...


class InReview:
    """Arrays as blocks of the review: whole ones, and a few rows by seeking inside a block."""

    def __init__(self, review: OpenReview, result_id: int) -> None:
        self.review = review
        self.result_id = result_id

    @cached_property
    def _arrays(self) -> dict[tuple[int, int], tuple[ArrayRow, list[int]]]:
        """Array and block ids of every field (by its id) and step."""
        with self.review.session() as session:
            rows = session.scalars(select(ArrayRow).where(ArrayRow.result_id == self.result_id, ArrayRow.role == "field")).all()
            blocks = session.execute(
                select(BlockRow.array_id, BlockRow.id)
                .join(ArrayRow, ArrayRow.id == BlockRow.array_id)
                .where(ArrayRow.result_id == self.result_id, ArrayRow.role == "field")
                .order_by(BlockRow.array_id, BlockRow.position)
            ).all()
        ids: dict[int, list[int]] = {}
        for array_id, block_id in blocks:
            ids.setdefault(array_id, []).append(block_id)
        return {(r.field_id or 0, r.step or 0): (r, ids.get(r.id, [])) for r in rows}

    @cached_property
    def _lost(self) -> set[tuple[int, int]]:
        """Field and step of every array that was there when the result came and is not any more."""
        with self.review.session() as session:
            row = session.get_one(ResultRow, self.result_id)
        return {
            (int(field), step)
            for field, steps in row.summary.get("arrays", {}).get("fields", {}).items()
            for step in seal.steps_of(steps)
            if (int(field), step) not in self._arrays
        }

    def _there(self, field_id: int, step: int) -> tuple[ArrayRow, list[int]] | None:
        """The array of a field at a step, None where it never had one. Raises Damaged where it is lost."""
        found = self._arrays.get((field_id, step))
        if found is None and (field_id, step) in self._lost:
            with self.review.session() as session:
                name = session.scalar(select(FieldRow.name).where(FieldRow.id == field_id))
                row = session.get_one(ResultRow, self.result_id)
            raise arrays.Damaged(
                f"'{name}' at step {step + 1} of {row.name} is lost on the disk: it was stored, and is not there any more.",
                f"The rest can be read. To get it back, {arrays.way_back(row.files)}",
            )
        return found

    def whole(self, field_id: int, step: int) -> NDArray[Any] | None:
        found = self._there(field_id, step)
        if found is None:
            return None
        with known.in_words(self.review.path), self.review.engine.connect() as connection:
            return arrays.read(connection, found[0])

    def rows(self, field_id: int, steps: Sequence[int], entities: Int) -> Iterator[NDArray[Any] | None]:
        with self.review.database() as database:
            for step in steps:
                found = self._there(field_id, step)
                if found is None:
                    yield None
                    continue
                rows = arrays.read_rows(database, *found, entities)
                if rows is None:
                    with self.review.engine.connect() as connection:
                        raise arrays.damaged(connection, found[0])
                yield rows


class WithReader:
    """Arrays as the reader left them, asked for by ``get(field_id, step)``; once a step is stored they are the review's."""

    def __init__(self, review: OpenReview, result_id: int, get: Callable[[int, int], NDArray[Any] | None]) -> None:
        self.review = review
        self.result_id = result_id
        self._get = get

    def whole(self, field_id: int, step: int) -> NDArray[Any] | None:
        try:
            return self._get(field_id, step)
        except FileNotFoundError:
            # The reader's file goes when its step is in the review.
            return InReview(self.review, self.result_id).whole(field_id, step)

    def rows(self, field_id: int, steps: Sequence[int], entities: Int) -> Iterator[NDArray[Any] | None]:
        for step in steps:
            found = self.whole(field_id, step)
            yield None if found is None else found[entities]
