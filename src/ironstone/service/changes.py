"""Changes of the review as all open pages hear of them: looked for once, however many listen."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator, Callable
from contextlib import suppress
from pathlib import Path

from fastapi.concurrency import run_in_threadpool

from ironstone.store import Review

# How often a change by another window or the command line is looked for, and how often a line is sent at least.
LOOK, ALIVE = 0.25, 15.0


class Changes:
    """The states of the reviews that somebody listens to."""

    def __init__(self) -> None:
        self._of: dict[Path, _Changes] = {}

    async def told(self, path: Path, review: Callable[[], Review]) -> AsyncIterator[str]:
        """A line whenever the review of a file was changed, by whatever window or program; the first at once. review: as it is by
        now."""
        async for line in self._of.setdefault(path, _Changes(review)).told():
            yield line

    def end(self) -> None:
        """Nobody is told anything any more: the service ends, and does not wait for those who listen."""
        for changes in self._of.values():
            changes.end()


class _Changes:
    """The state of one review, looked at while somebody listens."""

    def __init__(self, review: Callable[[], Review]) -> None:
        self._review = review
        self._now = ""
        self._listeners: set[asyncio.Event] = set()
        self._looking: asyncio.Task[None] | None = None
        self._ended = False

    async def told(self) -> AsyncIterator[str]:
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
            # Whatever fails once is looked at again: all who listen hang on this one look.
            with suppress(Exception):
                review = await run_in_threadpool(self._review)
                now = json.dumps({"file": review.path.name, "state": await run_in_threadpool(review.state)})
                if now != self._now:
                    self._now = now
                    for heard in self._listeners:
                        heard.set()
            await asyncio.sleep(LOOK)
        self._now = ""

    def end(self) -> None:
        self._ended = True
        for heard in self._listeners:
            heard.set()
