"""The log beside a review that is open: begun before the first change, moved into the file when nothing is written for a while."""

from __future__ import annotations

import sqlite3
import threading
from collections import Counter
from contextlib import suppress
from pathlib import Path

from sqlalchemy import Engine

from ironstone.core.errors import IronstoneError
from ironstone.store import log_of

# Seconds without a change after which the log is moved into the file.
QUIET = 3.0


def identity(path: Path) -> tuple[int, int] | None:
    """Which file stands at a path; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


# How often this process has each file open: what is open is not looked at beside SQLite, which would lose its locks.
_OPEN: Counter[tuple[int, int] | None] = Counter()


def is_open(path: Path) -> bool:
    """Whether this process has a review open already."""
    return _OPEN[identity(path)] > 0


class Settling:
    """What keeps the file of one open review complete."""

    def __init__(self, path: Path, engine: Engine) -> None:
        self.path, self.engine = path, engine
        self._file = identity(path)
        self._closed = False
        _OPEN[self._file] += 1
        self._lock = threading.RLock()
        self._timer: threading.Timer | None = None
        self._begun = False

    def still_there(self) -> None:
        """Raise IronstoneError where the file is no longer the one that was opened: what is written would be nowhere."""
        if identity(self.path) != self._file:
            raise IronstoneError(
                f"{self.path.name} is not there any more: it was removed, moved or replaced while it was open.",
                "Put it back where it was, or end the bench and open the file that is there now.",
            )

    def begin(self) -> None:
        """Before a change: the file is still there, and it is said which file the log belongs to."""
        self.still_there()
        with self._lock:
            if self._begun:
                return
            self._begun = True
            with suppress(sqlite3.Error, OSError), self.engine.connect() as connection:
                database = connection.connection.driver_connection
                assert isinstance(database, sqlite3.Connection)
                log_of.begin(self.path, database)

    def soon(self) -> None:
        """After a change: move the log into the file once nothing has been written for a while."""
        with self._lock:
            if self._timer is not None:
                self._timer.cancel()
            self._timer = threading.Timer(QUIET, self.now)
            self._timer.daemon = True
            self._timer.start()

    def now(self) -> None:
        with suppress(Exception), self.engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA wal_checkpoint(PASSIVE)")

    def end(self) -> None:
        """Close the engine, the log moved into the file."""
        if not self._closed:
            self._closed = True
            _OPEN[self._file] -= 1
        with self._lock:
            if self._timer is not None:
                self._timer.cancel()
        if self._begun:
            self.now()
        self.engine.dispose()
        if self._begun:
            log_of.ended(self.path)
