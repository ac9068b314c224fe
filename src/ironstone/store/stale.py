"""A change made from an old view of a thing is told, not done: whoever asks for it says in which state they saw the thing."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from ironstone.core.errors import IronstoneError

_seen: ContextVar[str | None] = ContextVar("seen", default=None)


class Stale(IronstoneError):
    """What was to be changed was changed by somebody else since it was looked at."""


@contextmanager
def expecting(state: str | None) -> Iterator[None]:
    """Changes made within hold only for what is in this state still: an item's revision, a result's ``stated``. None: any."""
    token = _seen.set(state)
    try:
        yield
    finally:
        _seen.reset(token)


def refuse_if_changed(state: str, what: str) -> None:
    """Raise Stale where this is not the state that was seen. To be called inside the transaction that writes."""
    seen = _seen.get()
    if seen is not None and seen != state:
        raise Stale(
            f"{what} was changed elsewhere in the meantime: nothing was overwritten.",
            "It is shown here as it is now. Look at it, and make your change again if it is still wanted.",
        )
