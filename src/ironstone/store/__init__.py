"""The review: one SQLite file with everything about one question."""

from __future__ import annotations

from ironstone.store.intake import intake
from ironstone.store.review import Review

__all__ = ["Review", "intake"]
