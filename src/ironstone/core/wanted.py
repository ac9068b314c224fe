"""Whether anybody still waits for what is being worked out: long work looks here between its pieces, and ends where nobody does."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from ironstone.core.errors import IronstoneError

_WANTED: ContextVar[Callable[[], bool] | None] = ContextVar("wanted", default=None)


class NotWanted(IronstoneError):
    """Nobody waits for the answer any more."""


@contextmanager
def wanted_while(wanted: Callable[[], bool]) -> Iterator[None]:
    """What is worked out inside goes on while ``wanted()`` says so; it is asked from the thread that works."""
    token = _WANTED.set(wanted)
    try:
        yield
    finally:
        _WANTED.reset(token)


def still_wanted() -> None:
    """Raise NotWanted where nobody waits for the answer that is being worked out. Outside ``wanted_while`` all is wanted."""
    wanted = _WANTED.get()
    if wanted is not None and not wanted():
        raise NotWanted("Nobody waits for this answer any more.", "Ask again.")
