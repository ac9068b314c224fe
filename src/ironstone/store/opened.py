"""What a result needs of the review it lies in: connections to its file, and its other results."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import AbstractContextManager
from pathlib import Path
from sqlite3 import Connection
from typing import Any, Protocol

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from ironstone.core.field.fields import Source
from ironstone.core.units import UnitSystem


class Other(Source, Protocol):
    """A result of a review: its number, and the name the analyst calls it."""

    id: int
    name: str
    system: UnitSystem


class Sought(Protocol):
    """What looks for the loads of results behind."""

    def sought(self, source: Any) -> bool: ...


class OpenReview(Protocol):
    """An open review, as its own results and the thread that names its files see it."""

    path: Path
    engine: Engine

    @property
    def loads(self) -> Sought: ...

    def session(self) -> AbstractContextManager[Session]: ...

    def writing(self) -> AbstractContextManager[Session]: ...

    def database(self) -> AbstractContextManager[Connection]: ...

    def results(self) -> Sequence[Other]: ...

    def run(self, row_id: int, of: Any) -> Any:
        """The steps of a result that are on another mesh, as a source of their own."""
        ...

    def result(self, which: int | str | None = None) -> Other: ...
