"""Arrays as rows of BLOB blocks: whole ones fast, a few rows by seeking inside a block. All are checked as they are read."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, select, text
from sqlalchemy.orm import Session

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Int
from ironstone.store import seal
from ironstone.store.models import ArrayRow, BlockRow, FieldRow, ResultRow, SealRow

BLOCK_BYTES = 512 * 1024


class Description(NamedTuple):
    """What the table ``array`` says of one, in the order of its columns."""

    result_id: int
    role: str
    field_id: int | None
    step: int | None
    dtype: str
    rows: int
    columns: int
    rows_per_block: int


_NEW_ARRAY = f"INSERT INTO array ({', '.join(Description._fields)}) VALUES (?, ?, ?, ?, ?, ?, ?, ?)"


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
    described = Description(result_id, role, field_id, step, table.dtype.str, len(table), table.shape[1], per_block)
    # By the driver itself: of many small steps, what SQLAlchemy makes of each statement would be half of the time.
    database: sqlite3.Connection = connection.connection.driver_connection  # type: ignore[assignment]
    array_id = database.execute(_NEW_ARRAY, described).lastrowid
    mark = seal.mark(described)
    for position, start in enumerate(range(0, len(table), per_block)):
        data = table[start : start + per_block].data
        block = database.execute(
            "INSERT INTO block (array_id, position, data) VALUES (?, ?, ?)", (array_id, position, data)
        ).lastrowid
        database.execute("INSERT INTO seal (block_id, sums) VALUES (?, ?)", (block, seal.sums(data, mark, position)))
    assert array_id is not None
    return array_id


def arrays_held(session: Session, result_id: int) -> dict[str, Any]:
    """Which arrays a result has: the roles of its mesh, and of each field (by its number) the steps."""
    rows = session.execute(select(ArrayRow.role, ArrayRow.field_id, ArrayRow.step).where(ArrayRow.result_id == result_id)).all()
    steps: dict[str, list[int]] = {}
    for _, field, step in rows:
        if field is not None:
            steps.setdefault(str(field), []).append(step or 0)
    mesh = sorted(role for role, field, _ in rows if field is None)
    return {"mesh": mesh, "fields": {field: seal.of_steps(found) for field, found in steps.items()}}


class Damaged(IronstoneError):
    """What is stored is not what was stored once."""


def read(connection: Connection, array: ArrayRow) -> NDArray[np.generic]:
    """The whole array, (rows, columns). Raises Damaged where a block is missing, cut, or not as it was stored."""
    rows = connection.execute(
        select(BlockRow.id, SealRow.sums)
        .join(SealRow, SealRow.block_id == BlockRow.id, isouter=True)
        .where(BlockRow.array_id == array.id)
        .order_by(BlockRow.position)
    ).all()
    database: sqlite3.Connection = connection.connection.driver_connection  # type: ignore[assignment]
    try:
        result = np.empty((array.rows, array.columns), dtype=array.dtype)
    except (TypeError, ValueError, OverflowError, MemoryError) as error:
        raise damaged(connection, array) from error
    # Block by block into its place: all blocks at once, then joined, would touch twice the memory.
    whole, at, mark = memoryview(result.reshape(-1).view(np.uint8)), 0, seal.mark(array)  # type: ignore[arg-type]
    for position, (block, sums) in enumerate(rows):
        data = _open(connection, array, database, block)
        if at + len(data) > len(whole) or not seal.whole(data, mark, position, sums):
            raise damaged(connection, array)
        whole[at : at + len(data)] = data
        at += len(data)
    if at != len(whole):
        raise damaged(connection, array)
    result.flags.writeable = False
    return result


def _open(connection: Connection, array: ArrayRow, database: sqlite3.Connection, block: int) -> bytes:
    """A block's bytes, without the copies a query would make of them."""
    try:
        with database.blobopen("block", "data", block, readonly=True) as blob:
            return blob.read()
    except sqlite3.DatabaseError as error:
        raise damaged(connection, array) from error


def read_rows(database: sqlite3.Connection, array: ArrayRow, blocks: Sequence[int], rows: Int) -> NDArray[np.generic] | None:
    """A few rows (sorted or not), (len(rows), columns). ``blocks``: ids of the array's blocks in order.

    Only the runs of bytes that hold them are read. None where one of these is missing or not as it was stored.
    """
    try:
        dtype = np.dtype(array.dtype)
        size = array.columns * dtype.itemsize
        result = np.empty((len(rows), array.columns), dtype=dtype)
    except (TypeError, ValueError, OverflowError, MemoryError):
        return None
    block_of, mark = rows // array.rows_per_block, seal.mark(array)
    for block in _distinct(block_of).tolist():
        here = np.flatnonzero(block_of == block)
        start = (rows[here] - block * array.rows_per_block) * size
        first, last = start // seal.RUN, (start + max(size, 1) - 1) // seal.RUN
        needed = _distinct(np.concatenate([np.minimum(first + k, last) for k in range(int((last - first).max()) + 1)]))
        runs = _runs(database, blocks[block], needed, mark, block) if block < len(blocks) else None
        if runs is None:
            return None
        # The runs stand one after the other: where each began in its block, and where it begins here.
        place = start + (np.searchsorted(needed, first) - first) * seal.RUN
        if (place + size > len(runs)).any():
            return None
        result[here] = np.frombuffer(runs, dtype=dtype)[(place // dtype.itemsize)[:, None] + np.arange(array.columns)]
    return result


def _distinct(small: Int) -> Int:
    """The distinct ones of small whole numbers, in order."""
    found: Int = np.flatnonzero(np.bincount(small))
    return found


def _runs(database: sqlite3.Connection, block: int, needed: Int, mark: int, position: int) -> bytes | None:
    """Runs of a block's bytes, joined; None where one is not as it was stored."""
    kept = database.execute("SELECT sums FROM seal WHERE block_id = ?", (block,)).fetchone()
    if kept is None:
        return None
    pieces = []
    try:
        with database.blobopen("block", "data", block, readonly=True) as blob:
            for index in needed.tolist():
                blob.seek(min(index * seal.RUN, len(blob)))
                piece = blob.read(seal.RUN)
                if not seal.run_is_whole(piece, index, mark, position, kept[0]):
                    return None
                pieces.append(piece)
    except sqlite3.DatabaseError:
        return None
    return b"".join(pieces)


def damaged(connection: Connection, array: ArrayRow) -> Damaged:
    """The error for an array that is not as it was stored: which field of which result, at which step."""
    if is_lean(connection):
        return Damaged(LEAN_SAID, LEAN_HINT)
    result = connection.execute(select(ResultRow.name, ResultRow.files).where(ResultRow.id == array.result_id)).first()
    field = connection.execute(select(FieldRow.name).where(FieldRow.id == array.field_id)).scalar()
    where = f"'{field}' at step {(array.step or 0) + 1}" if field is not None else f"The mesh ({array.role})"
    name, files = result or ("?", [])
    return Damaged(
        f"{where} of {name} is damaged on the disk: what the review holds is not what was stored.",
        f"The rest can be read. To get it back, {way_back(files)}",
    )


# A copy without arrays says of itself what it is by a table of this name.
LEAN = "lean_copy"
LEAN_SAID = "This is a lean copy of the review: meshes and values are not in it, only what was kept of them."
LEAN_HINT = "Exhibits, records and notes are here. To look at the results, ask for the whole copy."


def is_lean(connection: Connection) -> bool:
    """Whether a review is a copy without arrays."""
    found = connection.execute(text("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = :name"), {"name": LEAN}).first()
    return found is not None


def way_back(files: Sequence[dict[str, Any]]) -> str:
    """How to get a damaged result back, as the end of a sentence: from which files, told by their hash."""
    if not files:
        return "take its file in again."
    file = files[0]
    way, summed = ("SHA-256", file.get("sha256")) if file.get("sha256") else ("XXH3", file.get("xxh3"))
    first = f"{file.get('name', '?')} ({way} {str(summed)[:16]}{'...' if len(str(summed)) > 16 else ''})"
    more = f" and {len(files) - 1} more files" if len(files) > 1 else ""
    return f"take {first}{more} in again, or take the review from a backup."
