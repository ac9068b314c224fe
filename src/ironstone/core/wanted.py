"""Whether anybody still waits for what is being worked out: long work looks here between its pieces, and ends where nobody does."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from ironstone.core.errors import IronstoneError

Tell = Callable[[str], None]
_WANTED: ContextVar[tuple[Callable[[], bool], Tell | None] | None] = ContextVar("wanted", default=None)


class NotWanted(IronstoneError):
    """Nobody waits for the answer any more."""


@contextmanager
def wanted_while(wanted: Callable[[], bool], tell: Tell | None = None) -> Iterator[None]:
    """What is worked out inside goes on while ``wanted()`` says so; it is asked from the thread that works, which
    tells how far it is."""
    token = _WANTED.set((wanted, tell))
    try:
        yield
    finally:
        _WANTED.reset(token)


def still_wanted(far: str = "") -> None:
    """Raise NotWanted where nobody waits for the answer that is being worked out; else tell how far it is, where that is said.

    Outside ``wanted_while`` all is wanted, and nobody listens.
    """
    wanted, tell = _WANTED.get() or (None, None)
    if wanted is None:
        return
    if far and tell is not None:
        tell(far)
    if not wanted():
        raise NotWanted("Nobody waits for this answer any more.", "Ask again.")
