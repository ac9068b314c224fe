"""Which file SQLite's log beside a review belongs to, so that the log of one is never replayed into another.

The log (NAME-wal) holds what was written since it was last moved into the file. Put back a copy of yesterday and SQLite would take
today's log into it without a word. So the file carries a number of its own, another one for each time a log is begun, and the same
number stands beside the log (NAME-log-of); where the two differ the log is another file's, and is set aside.
"""

from __future__ import annotations

import secrets
import sqlite3
from pathlib import Path

from ironstone.core.errors import IronstoneError

# Where SQLite keeps an application's second number in the head of a file.
_AT = slice(60, 64)


def _beside(path: Path, ending: str) -> Path:
    return path.with_name(path.name + ending)


def log(path: Path) -> Path:
    return _beside(path, "-wal")


def number_in(path: Path) -> int:
    """The number in the file itself, not in its log. Not while this process has it open: see ``begin``."""
    with path.open("rb") as stream:
        return int.from_bytes(stream.read(100)[_AT], "big")


def _told(path: Path) -> int | None:
    """The number of the file the log belongs to, as it stands beside the log; None where nothing is said."""
    try:
        text = _beside(path, "-log-of").read_text().strip()
    except (OSError, UnicodeDecodeError):
        return None
    return int(text) if text.isdigit() else None


def readable_at(path: Path) -> str:
    """The address at which SQLite reads a review it cannot write to, its log included.

    Raises IronstoneError where there is a log that cannot be read from here: what is in the file alone would be old.
    """
    address, here = f"{path.resolve().as_uri()}?mode=ro", log(path)
    if not here.exists() or not here.stat().st_size:
        # The file is all there is: so nothing is written beside it, not even what SQLite keeps there for its own order.
        return f"{address}&immutable=1"
    try:
        connection = sqlite3.connect(address, uri=True)
        try:
            connection.execute("SELECT count(*) FROM sqlite_master").fetchone()
        finally:
            connection.close()
    except sqlite3.OperationalError as error:
        raise IronstoneError(
            f"{path.name} has changes in its log ({here.name}) that cannot be read from here: without them it would be old.",
            f"Copy {path.name} and {here.name} together to a folder of your own and open it there, or have its owner close it.",
        ) from error
    return address


def begin(path: Path, database: sqlite3.Connection) -> None:
    """Before a log is written to: give the file a number, and say beside the log that it is this file's.

    Where that is said already, by another process that has the review open, it is left as it is. The file itself is asked through
    SQLite alone: to open and close it beside would let go of the locks this process holds on it.
    """
    said, here = _beside(path, "-log-of"), log(path)
    (now,) = database.execute("PRAGMA user_version").fetchone()
    if said.exists() and _told(path) != now and not (here.exists() and here.stat().st_size):
        # Left over, and of no log.
        said.unlink(missing_ok=True)
    try:
        with said.open("x") as stream:
            number = 1 + secrets.randbelow(2**31 - 1)
            database.execute(f"PRAGMA user_version = {number}")
            busy, pages, moved = database.execute("PRAGMA wal_checkpoint(PASSIVE)").fetchone()
            # Somebody who reads may keep it in the log: then nothing is said, as in reviews of older versions.
            if not busy and pages == moved:
                stream.write(str(number))
    except FileExistsError:
        return


def ended(path: Path) -> None:
    """After a review is closed: where its log is gone there is nothing to say of it."""
    here = log(path)
    if not here.exists() or not here.stat().st_size:
        _beside(path, "-log-of").unlink(missing_ok=True)


def _is_foreign(path: Path) -> bool:
    """Whether there is a log that belongs to another file. Other processes may end a log and begin the next meanwhile: what is said
    beside the log has to be the same before and after the number is read."""
    here, told = log(path), _told(path)
    while True:
        number = number_in(path)
        there = here.exists() and here.stat().st_size > 0
        again = _told(path)
        if again == told:
            return told is not None and told != number and there
        told = again


def set_aside_foreign(path: Path) -> str:
    """Before a review is opened: set a log aside that belongs to another file. Returns what was done, in words; '' for nothing."""
    here = log(path)
    if not _is_foreign(path):
        return ""
    count, aside = 1, _beside(path, "-wal.of-another")
    while aside.exists():
        count += 1
        aside = _beside(path, f"-wal.of-another-{count}")
    here.rename(aside)
    _beside(path, "-shm").unlink(missing_ok=True)
    _beside(path, "-log-of").unlink(missing_ok=True)
    return (
        f"The log beside {path.name} belongs to another file of that name, which this one has replaced: it was set aside as "
        f"{aside.name}, and nothing of it is in this review. To get it back, put that other file and the log back together."
    )
