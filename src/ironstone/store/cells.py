"""Cells of the tables that hold JSON and moments: one that is damaged is read as such, and costs only the row it is in."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import String, Text
from sqlalchemy.types import TypeDecorator


class Broken(dict[str, Any]):
    """What stands in the place of JSON that cannot be read: empty, and known to be so."""


class Json(TypeDecorator[Any]):
    """JSON as text; None stays empty."""

    impl = Text
    cache_ok = True

    def process_bind_param(self, value: Any, dialect: Any) -> str | None:
        return None if value is None else json.dumps(value)

    def process_result_value(self, value: Any, dialect: Any) -> Any:
        if value is None:
            return None
        try:
            return json.loads(value)
        except (ValueError, TypeError, RecursionError):
            return Broken()


_FORMAT = "%Y-%m-%d %H:%M:%S.%f"
LONG_AGO = datetime(1970, 1, 1)


class Moment(TypeDecorator[datetime]):
    """A moment as SQLAlchemy writes it in SQLite, in UTC; one that cannot be read is long ago."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Any) -> str | None:
        if value is None:
            return None
        return (value.astimezone(UTC) if value.tzinfo else value).strftime(_FORMAT)

    def process_result_value(self, value: Any, dialect: Any) -> datetime | None:
        try:
            return datetime.fromisoformat(value) if value is not None else None
        except (ValueError, TypeError):
            return LONG_AGO
