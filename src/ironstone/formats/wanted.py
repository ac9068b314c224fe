"""Which arrays of a file are read, where only some are asked for: the others are left out by the formats that allow it.

Whole numbers (parts, sets, numbering), what moves or loads the nodes and what belongs to the model are always read: how a mesh is
understood hangs on them.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from ironstone.core.kinds import KINDS

_WANTED: ContextVar[frozenset[str] | None] = ContextVar("wanted", default=None)
# What moves the nodes, holds or loads them, and what belongs to the model, by the names files have for it.
ALWAYS = frozenset(name for kind in KINDS.values() if kind.single_valued or kind.stays for name in kind.names)


@contextmanager
def only(names: frozenset[str] | None) -> Iterator[None]:
    """Within, of the arrays of real numbers only these are asked for; None: all."""
    before = _WANTED.set(None if names is None else frozenset(n.lower() for n in names))
    try:
        yield
    finally:
        _WANTED.reset(before)


def all_wanted() -> bool:
    return _WANTED.get() is None


def left_out(name: str) -> bool:
    """Whether an array of real numbers is not asked for. One that begins as one that is may be a piece of it: xx of stress."""
    wanted = _WANTED.get()
    if wanted is None:
        return False
    plain = name.lower()
    # Short names (u, v) are taken as they are, longer ones wherever they stand.
    always = plain in ALWAYS or any(len(word) > 2 and word in plain for word in ALWAYS)
    return not always and not any(plain.startswith(word) for word in wanted)
