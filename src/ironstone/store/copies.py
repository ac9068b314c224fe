"""Copies of a review to be shared: whole, or lean, without the arrays of its results; each one file with its hash beside it."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import func, select, text

from ironstone.core.errors import IronstoneError
from ironstone.store.arrays import LEAN
from ironstone.store.models import BlockRow
from ironstone.store.review import Review
from ironstone.store.sent import HASH, sha256


@dataclass(frozen=True)
class Sizes:
    """How many bytes a copy has, about: without what was freed, and without the arrays of results."""

    whole: int
    lean: int


def sizes(review: Review) -> Sizes:
    """How large copies of a review would be."""
    with review.session() as session:
        pages, free, size = (
            int(session.execute(text(f"PRAGMA {n}")).scalar() or 0) for n in ("page_count", "freelist_count", "page_size")
        )
        arrays = int(session.scalar(select(func.sum(func.length(BlockRow.data)))) or 0)
    whole = (pages - free) * size
    return Sizes(whole, max(whole - arrays, size))


def copy_review(review: Review, target: Path, lean: bool = False) -> str:
    """Copy a review as it is now to a file that must not be there yet, and write its SHA-256 beside it; returns that.

    A lean copy has no arrays. Raises IronstoneError where the file is there already, or cannot be written.
    """
    if target.exists():
        raise IronstoneError(f"There is a file {target.name} already.", "Choose another name, or remove it first.")
    half = target.with_name(f".{target.name}.{os.getpid()}")
    half.unlink(missing_ok=True)
    try:
        with review.session() as session:
            # One file of its own, without what was freed: what is being written meanwhile is not in it.
            session.connection().exec_driver_sql("VACUUM INTO ?", (str(half),))
        if lean:
            with closing(sqlite3.connect(half)) as connection:
                connection.execute("PRAGMA secure_delete = OFF")
                connection.execute("DELETE FROM seal")
                connection.execute("DELETE FROM block")
                connection.execute(f"CREATE TABLE {LEAN} (said TEXT)")
                connection.commit()
                connection.execute("VACUUM")
        digest = sha256(half)
        target.with_name(target.name + HASH).write_text(f"{digest}  {target.name}\n")
        half.replace(target)
    except (sqlite3.Error, OSError) as error:
        raise IronstoneError(
            f"{target.name} could not be written: {error}.", "Check the folder, and that there is room."
        ) from error
    finally:
        half.unlink(missing_ok=True)
    return digest
