"""Whether a file is a review of this program, told without touching it; and what SQLite's complaints mean to an analyst."""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy.exc import DatabaseError, OperationalError

from ironstone.core.errors import IronstoneError

# Written into the head of every review, where SQLite keeps an application's own number ('IrnR').
APPLICATION = 0x49726E52
TABLES = {"review", "result", "item", "alembic_version"}


def check(path: Path, versions: set[str]) -> bool:
    """Look at a file that is to be opened as a review, without writing; returns whether it carries the review's own number.

    versions: what this program knows of how reviews are laid out. Raises IronstoneError where the file is something else, or was
    made by a newer program. Nothing is written, beside the file or in it.
    """
    with path.open("rb") as stream:
        head = stream.read(100)
    other = IronstoneError(f"{path.name} is not a review.", "A review is a file made by this program; nothing was changed.")
    if not head.startswith(b"SQLite format 3\x00") or len(head) < 100:
        raise other
    number = int.from_bytes(head[68:72], "big")
    if number not in (0, APPLICATION):
        raise other
    try:
        # What is still in the log beside the file is not looked at: to read it could change it.
        database = sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro&immutable=1", uri=True)
        try:
            tables = {row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            made = {row[0] for row in database.execute("SELECT version_num FROM alembic_version")} if tables >= TABLES else set()
        finally:
            database.close()
    except sqlite3.DatabaseError as error:
        raise IronstoneError(
            f"{path.name} is damaged: SQLite cannot read it.", "Take a copy from a backup, or take the files in anew."
        ) from error
    if number == 0 and not tables >= TABLES:
        raise other
    if made - versions:
        raise IronstoneError(
            f"{path.name} was made by a newer version of this program.",
            "Open it with that version, or take its files in again here.",
        )
    return number == APPLICATION


def writable(path: Path) -> bool:
    """Whether a review, and the folder its log has to stand in, can be written to."""
    return os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)


@contextmanager
def in_words(path: Path) -> Iterator[None]:
    """Turn what SQLite complains of into words: the disk that is full, the file that is read-only, held or damaged."""
    try:
        yield
    except DatabaseError as error:
        raise _said(path, str(error.orig).lower(), isinstance(error, OperationalError)) from error
    except sqlite3.Error as error:
        raise _said(path, str(error).lower(), True) from error


def _said(path: Path, complaint: str, operational: bool) -> IronstoneError:
    if "full" in complaint or "disk i/o" in complaint:
        free = shutil.disk_usage(path.parent).free
        return IronstoneError(
            f"The disk that holds {path.name} is full: {free / 1e6:.0f} MB are free. The review is as it was.",
            "Free some space, or move the review to another disk.",
        )
    if "readonly" in complaint or "read-only" in complaint or "attempt to write" in complaint:
        return IronstoneError(
            f"{path.name} can only be read: its file or folder is write-protected.",
            "Copy it to a folder of your own to work on it.",
        )
    if "locked" in complaint or "busy" in complaint:
        return IronstoneError(f"Another program holds {path.name}.", "Try again once it is done, or close it there.")
    if "unable to open" in complaint:
        return IronstoneError(f"{path.name} cannot be opened.", "Check that the folder is there and can be read.")
    if operational:
        return IronstoneError(f"{path.name} could not be read or written.", "The review is as it was. Try again.")
    return IronstoneError(f"{path.name} is damaged.", "Take a copy from a backup, or take the files in anew.")
