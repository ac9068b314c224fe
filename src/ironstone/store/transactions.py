"""Reading and writing a review: what is read for a change is read in the transaction that writes it."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from functools import wraps
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import Connection, Engine, update
from sqlalchemy.orm import Session

from ironstone.store import known, stale
from ironstone.store.items import mark
from ironstone.store.models import ReviewRow, write_roll
from ironstone.store.settling import Settling

F = TypeVar("F", bound=Callable[..., Any])


def in_one(change: F) -> F:
    """What changes a review, its first argument, in one transaction with all it reads for that."""

    @wraps(change)
    def within(review: Transactions, *given: Any, **named: Any) -> Any:
        with review.writing():
            return change(review, *given, **named)

    return within  # type: ignore[return-value]


class Transactions:
    """The sessions of one open review file. A thread that writes has one of them: whatever it reads meanwhile is read there."""

    def __init__(self, path: Path, engine: Engine) -> None:
        self.path = path
        self.engine = engine
        self._one_writer = threading.RLock()
        self._mine = threading.local()
        self._aside = ThreadPoolExecutor(1)
        self._settling = Settling(path, engine)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """To read, or to write what nobody reads first; within ``writing`` it is of that transaction."""
        mine: Session | None = getattr(self._mine, "session", None)
        if mine is not None:
            yield mine
            mine.flush()
            return
        self._settling.still_there()
        with known.in_words(self.path), Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction that nobody else writes beside: what is read in it is still so when it is written.

        Begun again within itself it is the same one, and is over when the first is.
        """
        if getattr(self._mine, "session", None) is not None:
            with self.session() as session:
                yield session
            return
        self._settling.begin()
        with self._one_writer, self.session() as session:
            self._mine.session = session
            try:
                # A write that changes nothing takes SQLite's lock before anything is read.
                session.execute(update(ReviewRow).values(name=ReviewRow.name))
                before = mark(session)
                yield session
                session.flush()
                write_roll(session)
                if (after := mark(session)) != before:
                    stale.note_change(before, after)
            finally:
                self._mine.session = None
        self._settling.soon()

    @contextmanager
    def bulk(self) -> Iterator[Connection]:
        """A transaction for much at once: SQLite leaves it in its log, and ``settle`` moves it into the file beside other work."""
        self._settling.begin()
        with known.in_words(self.path), self.engine.connect() as connection:
            database: sqlite3.Connection = connection.connection.driver_connection  # type: ignore[assignment]
            database.execute("PRAGMA wal_autocheckpoint = 0")
            try:
                with connection.begin():
                    yield connection
            finally:
                database.execute("PRAGMA wal_autocheckpoint = 1000")

    def settle(self) -> Future[None]:
        """Begin to move what the log holds into the file; writing may go on, and what is read is the same before and after."""

        def move() -> None:
            with self.engine.connect() as connection:
                connection.exec_driver_sql("PRAGMA wal_checkpoint(PASSIVE)")

        return self._aside.submit(move)
