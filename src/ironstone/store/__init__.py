"""The review: one SQLite file with everything about one question."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ironstone.store.review import Review

if TYPE_CHECKING:
    from ironstone.store.arrival import intake

__all__ = ["Review", "intake"]


def __getattr__(name: str) -> Any:
    # Who only reads a review does not load what takes results in.
    if name == "intake":
        from ironstone.store.arrival import intake

        return intake
    raise AttributeError(name)
