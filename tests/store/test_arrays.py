from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from sqlalchemy import select

from ironstone.store import Review, arrays
from ironstone.store.models import ArrayRow, BlockRow, ResultRow


@pytest.fixture
def review(tmp_path: Path) -> Review:
    return Review.create(tmp_path / "a.ironstone")


def stored(review: Review, values: np.ndarray) -> ArrayRow:
    with review.session() as session:
        result = ResultRow(name="r", system="mm-N-s-t-MPa", system_guessed=True)
        session.add(result)
        session.flush()
        array = arrays.write(session.connection(), result.id, "test", values)
    with review.session() as session:
        return session.get_one(ArrayRow, array)


@pytest.mark.parametrize("dtype", [np.float32, np.float64, np.int64, np.uint8, ">f8"])
@pytest.mark.parametrize("shape", [(0, 3), (1, 1), (7,), (200_000, 6)])
def test_an_array_comes_back_as_it_went(review: Review, dtype: str, shape: tuple[int, ...]) -> None:
    values = np.random.default_rng(1).uniform(0, 200, shape).astype(dtype)
    row = stored(review, values)
    with review.engine.connect() as connection:
        back = arrays.read(connection, row)
    assert np.array_equal(back, values.reshape(len(values), shape[1] if len(shape) > 1 else 1))
    assert back.dtype.newbyteorder("=") == np.dtype(dtype).newbyteorder("=")


def test_missing_stays_missing(review: Review) -> None:
    row = stored(review, np.array([[1.0, np.nan], [np.nan, 4.0]]))
    with review.engine.connect() as connection:
        assert np.isnan(arrays.read(connection, row)).tolist() == [[False, True], [True, False]]


def test_a_few_rows_across_blocks_are_those_of_the_whole(review: Review) -> None:
    values = np.random.default_rng(2).normal(size=(100_000, 6))
    row = stored(review, values)
    with review.session() as session:
        blocks = list(session.scalars(select(BlockRow.id).where(BlockRow.array_id == row.id).order_by(BlockRow.position)))
    assert len(blocks) > 3
    wanted = np.array([99_999, 0, 5, row.rows_per_block - 1, row.rows_per_block, 50_000, 5])
    raw = review.engine.raw_connection()
    try:
        assert raw.driver_connection is not None
        assert np.array_equal(arrays.read_rows(raw.driver_connection, row, blocks, wanted), values[wanted])
    finally:
        raw.close()


def test_blocks_go_with_their_result(review: Review) -> None:
    row = stored(review, np.zeros((10, 3)))
    review.remove_result(row.result_id)
    with review.session() as session:
        assert session.scalars(select(BlockRow)).all() == []


def test_a_new_review_has_large_pages_and_can_give_room_back(review: Review) -> None:
    raw = review.engine.raw_connection()
    try:
        assert raw.driver_connection is not None
        answer = {
            p: raw.driver_connection.execute(f"PRAGMA {p}").fetchone()[0]
            for p in ("page_size", "auto_vacuum", "journal_mode", "foreign_keys")
        }
    finally:
        raw.close()
    assert answer == {"page_size": 16384, "auto_vacuum": 2, "journal_mode": "wal", "foreign_keys": 1}
