"""Words put together as a sentence has them."""

from __future__ import annotations

from collections.abc import Iterable


def listed(words: Iterable[str]) -> str:
    """'a', 'a and b', 'a, b and c'."""
    answer = list(words)
    return f"{', '.join(answer[:-1])} and {answer[-1]}" if len(answer) > 1 else "".join(answer)
