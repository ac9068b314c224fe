"""Arrays as rows of BLOB blocks: whole ones fast, a few rows by seeking inside a block."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, insert, select

from ironstone.core.mesh import Int
from ironstone.store.models import ArrayRow, BlockRow

BLOCK_BYTES = 512 * 1024


def write(
    connection: Connection,
    result_id: int,
    role: str,
    values: NDArray[np.generic],
    field_id: int | None = None,
    step: int | None = None,
) -> int:
    """Store an array (rows,) or (rows, columns) and return its id. The caller commits."""
    table = values[:, None] if values.ndim == 1 else values
    table = np.ascontiguousarray(table, dtype=table.dtype.newbyteorder("<"))
    row_bytes = max(1, table.shape[1] * table.dtype.itemsize)
    per_block = max(1, BLOCK_BYTES // row_bytes)
    stored = connection.execute(
        insert(ArrayRow).values(
            result_id=result_id,
            role=role,
            field_id=field_id,
            step=step,
            dtype=table.dtype.str,
            rows=len(table),
            columns=table.shape[1],
            rows_per_block=per_block,
        )
    ).inserted_primary_key
    assert stored is not None
    array_id = stored[0]
    blocks = [
        {"array_id": array_id, "position": i, "data": table[start : start + per_block].data}
        for i, start in enumerate(range(0, len(table), per_block))
    ]
    if blocks:
        connection.execute(insert(BlockRow), blocks)
    return int(array_id)


def read(connection: Connection, array: ArrayRow) -> NDArray[np.generic]:
    """The whole array, (rows, columns)."""
    blocks = connection.execute(select(BlockRow.data).where(BlockRow.array_id == array.id).order_by(BlockRow.position))
    result = np.empty((array.rows, array.columns), dtype=array.dtype)
    # Block by block into its place: all blocks at once, then joined, would touch twice the memory.
    whole, at = memoryview(result.reshape(-1).view(np.uint8)), 0  # type: ignore[arg-type]
    for (data,) in blocks:
        whole[at : at + len(data)] = data
        at += len(data)
    result.flags.writeable = False
    return result


def read_rows(database: sqlite3.Connection, array: ArrayRow, blocks: Sequence[int], rows: Int) -> NDArray[np.generic]:
    """A few rows (sorted or not), (len(rows), columns). ``blocks``: ids of the array's blocks in order."""
    dtype = np.dtype(array.dtype)
    size = array.columns * dtype.itemsize
    result = np.empty((len(rows), array.columns), dtype=dtype)
    block_of = rows // array.rows_per_block
    for block in np.unique(block_of):
        here = np.flatnonzero(block_of == block)
        local = rows[here] - block * array.rows_per_block
        first, last = int(local.min()), int(local.max())
        with database.blobopen("block", "data", blocks[int(block)], readonly=True) as blob:
            if (last - first + 1) * size <= 65_536:
                blob.seek(first * size)
                piece = np.frombuffer(blob.read((last - first + 1) * size), dtype=dtype).reshape(-1, array.columns)
                result[here] = piece[local - first]
            else:
                for i, row in zip(here, local, strict=True):
                    blob.seek(int(row) * size)
                    result[i] = np.frombuffer(blob.read(size), dtype=dtype)
    return result
