"""What was worked out for something is kept with it, and goes with it: a mesh that is dropped takes its operators along."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import wraps
from typing import Any, TypeVar

F = TypeVar("F", bound=Callable[..., Any])
T = TypeVar("T")
_LOCK = threading.Lock()


def remembered(owner: object, name: str, key: Hashable, work: Callable[[], T], most: int) -> T:
    """What ``work`` makes, kept with its owner under a name and a key; of a name the last ``most``."""
    with _LOCK:
        table: OrderedDict[Any, T] = vars(owner).setdefault(name, OrderedDict())
        if key in table:
            table.move_to_end(key)
            return table[key]
    answer = work()
    with _LOCK:
        table[key] = answer
        while len(table) > most:
            table.popitem(last=False)
    return answer


def is_kept(owner: object, name: str, key: Hashable) -> bool:
    """Whether something is kept with its owner under a name and a key."""
    with _LOCK:
        return key in vars(owner).get(name, ())


def kept_with(most: int, owner: int = 0) -> Callable[[F], F]:
    """Keep the last ``most`` answers of a function with the argument at position ``owner``; the other arguments must be hashable.

    Asked by several at once for the same, it may be worked out more than once.
    """

    def decorate(function: F) -> F:
        name = f"kept {function.__module__}.{function.__qualname__}"

        @wraps(function)
        def kept(*arguments: Any) -> Any:
            key = arguments[:owner] + arguments[owner + 1 :]
            return remembered(arguments[owner], name, key, lambda: function(*arguments), most)

        return kept  # type: ignore[return-value]

    return decorate
