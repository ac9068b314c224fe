"""How far long work is, on standard error: one line that is written over where it is a terminal, else a line now and then."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

from ironstone.core.wanted import wanted_while

# Seconds before anything is said, between two looks in a terminal, and between two lines elsewhere.
FIRST, BETWEEN, LINES = 1.5, 0.2, 5.0
WIDTH = 78


class Progress:
    """Says how far work has come; nothing of what is over within ``FIRST`` seconds."""

    quiet = False

    def __init__(self) -> None:
        self._begun = time.monotonic()
        self._last = 0.0
        self._written = False

    def __call__(self, text: str) -> None:
        now = time.monotonic()
        over = sys.stderr.isatty()
        if Progress.quiet or now - self._begun < FIRST or now - self._last < (BETWEEN if over else LINES):
            return
        self._last = now
        line = f"ironstone: {text}, {now - self._begun:.0f} s"
        if over:
            self._written = True
            sys.stderr.write(f"\r{line[:WIDTH]:<{WIDTH}}")
            sys.stderr.flush()
        else:
            print(line, file=sys.stderr, flush=True)

    def share(self, share: float, text: str) -> None:
        """The same of work that knows its share."""
        self(f"{text} ({100 * share:.0f} %)")

    def end(self) -> None:
        """Take back what is written over."""
        if self._written:
            sys.stderr.write(f"\r{'':<{WIDTH}}\r")
            sys.stderr.flush()


@contextmanager
def shown() -> Iterator[None]:
    """What is worked out inside says how far it is."""
    progress = Progress()
    try:
        with wanted_while(lambda: True, progress):
            yield
    finally:
        progress.end()
