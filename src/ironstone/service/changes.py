"""Changes of the review as all open pages hear of them: looked for once, however many listen."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from contextlib import suppress

from fastapi.concurrency import run_in_threadpool

from ironstone.store.shelf import Shelf

# How often a change by another window or the command line is looked for, and how often a line is sent at least.
LOOK, ALIVE = 0.25, 15.0


class Changes:
    """The state of the open review, looked at while somebody listens."""

    def __init__(self, shelf: Shelf) -> None:
        self._shelf = shelf
        self._now = ""
        self._listeners: set[asyncio.Event] = set()
        self._looking: asyncio.Task[None] | None = None
        self._ended = False

    async def told(self) -> AsyncIterator[str]:
        """A line whenever the review was changed, by whatever window or program, or another one was opened; the first at once."""
        heard = asyncio.Event()
        self._listeners.add(heard)
        if self._looking is None or self._looking.done():
            self._looking = asyncio.create_task(self._look())
        elif self._now:
            heard.set()
        told = ""
        try:
            while not self._ended:
                with suppress(TimeoutError):
                    await asyncio.wait_for(heard.wait(), ALIVE)
                heard.clear()
                if self._ended:
                    return
                if self._now != told:
                    told = self._now
                    yield f"data: {told}\n\n"
                else:
                    yield ": still here\n\n"
        finally:
            self._listeners.discard(heard)

    async def _look(self) -> None:
        while self._listeners:
            review = self._shelf.review
            # Whatever fails once is looked at again: all who listen hang on this one look.
            with suppress(Exception):
                now = json.dumps({"file": review.path.name, "state": await run_in_threadpool(review.state)})
                if now != self._now:
                    self._now = now
                    for heard in self._listeners:
                        heard.set()
            await asyncio.sleep(LOOK)
        self._now = ""

    def end(self) -> None:
        """Nobody is told anything any more: the service ends, and does not wait for those who listen."""
        self._ended = True
        for heard in self._listeners:
            heard.set()
