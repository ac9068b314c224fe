"""A change made from an old view of a thing is told, not done: whoever asks for it says in which state they saw the thing."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field

from ironstone.core.errors import IronstoneError


@dataclass
class Seen:
    """In which state somebody has seen what is changed (None: any), and the states of the review before and after each change."""

    state: str | None
    changes: list[tuple[str, str]] = field(default_factory=list)


_seen: ContextVar[Seen | None] = ContextVar("seen", default=None)


class Stale(IronstoneError):
    """What was to be changed was changed by somebody else since it was looked at."""


@contextmanager
def expecting(state: str | None) -> Iterator[Seen]:
    """Changes made within hold only for what is in this state still: an item's revision, a result's ``stated``. None: any.

    What is yielded says afterwards what was changed, in this thread or one it has called.
    """
    seen = Seen(state)
    token = _seen.set(seen)
    try:
        yield seen
    finally:
        _seen.reset(token)


def refuse_if_changed(state: str, what: str) -> None:
    """Raise Stale where this is not the state that was seen. To be called inside the transaction that writes."""
    if _other(state):
        raise Stale(
            f"{what} was changed elsewhere in the meantime: nothing was overwritten.",
            "It is shown here as it is now. Look at it, and make your change again if it is still wanted.",
        )


def refuse_other(state: str, what: str, left: str) -> None:
    """Raise Stale, in the words given, where this is not what was seen. To be called inside the transaction that writes."""
    if _other(state):
        raise Stale(
            f"{what}: the review was changed elsewhere in the meantime, and {left}.", "Look at what it is now, and ask again."
        )


def note_change(before: str, after: str) -> None:
    """Say from which state of the review to which something was changed. To be called inside the transaction that writes."""
    seen = _seen.get()
    if seen is not None:
        seen.changes.append((before, after))


def _other(state: str) -> bool:
    seen = _seen.get()
    return seen is not None and seen.state is not None and seen.state != state
