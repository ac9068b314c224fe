"""Heavy questions wait their turn: within a share of the machine's memory, a few at once, in the order they came.

Whoever waits is told how many are before it; who has gone away is not answered, and what is being worked out for nobody ends.
"""

from __future__ import annotations

import asyncio
import json
import os
import threading
from collections.abc import AsyncIterator, Callable, Coroutine, Iterator, Mapping
from concurrent.futures import Future
from concurrent.futures import TimeoutError as NotYet
from contextlib import asynccontextmanager, contextmanager, suppress
from dataclasses import dataclass, field
from typing import Any, TypeVar

from fastapi import HTTPException, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.routing import APIRoute

from ironstone.core.errors import IronstoneError
from ironstone.core.wanted import NotWanted, wanted_while
from ironstone.engine.weight import LIGHT, Reach, held_against_another, weight
from ironstone.formats import memory
from ironstone.service.of_review import review_of

# The share of the machine's memory heavy questions may take together; a larger one is worked out alone.
SHARE = 0.25
# How often it is looked whether somebody still waits, in seconds.
LOOK = 0.1
# The header by which a page's questions are known as its own.
PAGE = "x-page"

T = TypeVar("T")
Handler = Callable[[Request], Coroutine[Any, Any, Response]]
ReachOf = Callable[[Mapping[str, Any]], Reach]


@dataclass(eq=False)
class Ticket:
    """One heavy question: the bytes it may take, whose it is; ``ready`` is done when it is its turn."""

    weight: int
    page: str = ""
    ready: Future[None] = field(default_factory=Future)


class Turns:
    """The queue of heavy questions: strictly in order, so that a large one is not overtaken for ever."""

    def __init__(self, budget: int | None = None, at_once: int | None = None) -> None:
        """budget: bytes they may take together; a share of what there is where not given. at_once: half of its cores."""
        self.budget = budget or int(SHARE * memory.allowed())
        self.at_once = at_once or max(1, (os.cpu_count() or 1) // 2)
        self._lock = threading.Lock()
        self._waiting: list[Ticket] = []
        self._working: list[Ticket] = []
        self._ended = False
        self._said: dict[str, str] = {}

    def said(self) -> str:
        at_once = "one at a time" if self.at_once == 1 else f"{self.at_once} at once at most"
        return f"Questions of large models may take {self.budget / 1024**3:.2g} GB of memory together, {at_once}; the others wait."

    def join(self, weight: int, page: str = "") -> Ticket:
        """Wait in the queue from now on."""
        ticket = Ticket(weight, page)
        with self._lock:
            self._waiting.append(ticket)
            self._admit()
        return ticket

    def leave(self, ticket: Ticket) -> None:
        """Done, or not waiting any more: the next ones come in."""
        with self._lock:
            for row in (self._waiting, self._working):
                if ticket in row:
                    row.remove(ticket)
            self._admit()

    def before(self, ticket: Ticket) -> int:
        """How many come before this one, those included that are being worked out; 0 where it is its turn."""
        with self._lock:
            return len(self._working) + self._waiting.index(ticket) if ticket in self._waiting else 0

    def before_page(self, page: str) -> int:
        """How many come before the first question of a page that waits; 0 where none does."""
        with self._lock:
            mine = next((i for i, ticket in enumerate(self._waiting) if ticket.page == page), None)
            return 0 if mine is None else mine + len(self._working)

    def _admit(self) -> None:
        while self._waiting and len(self._working) < self.at_once:
            taken = sum(t.weight for t in self._working)
            if self._working and taken + self._waiting[0].weight > self.budget:
                return
            ticket = self._waiting.pop(0)
            self._working.append(ticket)
            ticket.ready.set_result(None)

    @asynccontextmanager
    async def turn(self, request: Request, weight: int) -> AsyncIterator[None]:
        """Wait for a turn, and work while whoever asked is there. Raises NotWanted where they have gone."""
        ticket = self.join(weight, request.headers.get(PAGE, ""))
        gone = asyncio.create_task(self._gone(request))
        try:
            ready = asyncio.wrap_future(ticket.ready)
            await asyncio.wait({ready, gone}, return_when=asyncio.FIRST_COMPLETED)
            if gone.done():
                raise NotWanted("Nobody waits for this answer any more.")
            with wanted_while(lambda: not gone.done(), lambda text: self._said.update({ticket.page: text})):
                yield
        finally:
            gone.cancel()
            self._said.pop(ticket.page, None)
            self.leave(ticket)

    async def work(self, request: Request, work: Callable[..., T], *given: object) -> T:
        """Work in a thread while whoever asked is there; how far it is can be asked by the page it is for (``far``)."""
        page = request.headers.get(PAGE, "")
        gone = asyncio.create_task(self._gone(request))
        try:
            with wanted_while(lambda: not gone.done(), lambda text: self._said.update({page: text})):
                return await run_in_threadpool(work, *given)
        finally:
            gone.cancel()
            self._said.pop(page, None)

    def far(self, page: str) -> str:
        """How far what is worked out for a page is; empty where nothing says so."""
        return self._said.get(page, "")

    async def _gone(self, request: Request) -> None:
        """Ends when nobody waits for a request's answer any more."""
        while not self._ended and not await request.is_disconnected():
            await asyncio.sleep(LOOK)

    def end(self) -> None:
        """The service ends: nothing is waited for any more."""
        self._ended = True

    @contextmanager
    def turn_of_work(self, weight: int, tell: Callable[[float, str], None]) -> Iterator[Callable[[], None]]:
        """The same for work in a thread of its own, which hears its place by ``tell`` and is stopped by what that raises.

        What is yielded is to be called between the pieces of long work: it lets those who wait come in, and waits in its turn.
        """
        if weight < LIGHT:
            yield lambda: None
            return
        ticket = self.join(weight)

        def wait() -> None:
            while before := self.before(ticket):
                tell(0.0, f"waits its turn: {before} before it")
                with suppress(NotYet):
                    ticket.ready.result(LOOK)

        def give_way() -> None:
            nonlocal ticket
            if self._waiting:
                self.leave(ticket)
                ticket = self.join(weight)
                wait()

        try:
            wait()
            yield give_way
        finally:
            self.leave(ticket)


def reaches(reach: Reach | ReachOf) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Say of a route what it looks at (see ``engine.weight``): it then waits its turn where that is heavy."""

    def mark(route: Callable[..., Any]) -> Callable[..., Any]:
        vars(route)["reach"] = reach
        return route

    return mark


class InTurn(APIRoute):
    """A route that waits its turn where what it looks at is heavy."""

    def get_route_handler(self) -> Handler:
        plain: Handler = super().get_route_handler()
        reach: Reach | ReachOf | None = vars(self.endpoint).get("reach")
        if reach is None:
            return plain

        async def in_turn(request: Request) -> Response:
            heavy = await _weight(request, reach)
            if heavy < LIGHT:
                return await plain(request)
            async with request.app.state.turns.turn(request, heavy):
                return await plain(request)

        return in_turn


async def _weight(request: Request, reach: Reach | ReachOf) -> int:
    """What a request may take, by the result it names and how it averages; 0 where it is not understood, and will be refused."""
    words: dict[str, Any] = {**request.query_params, **request.path_params}
    if request.method == "POST":
        try:
            body = await request.body()
        except Exception as error:  # it broke off, or is too large (told in a group by the layers between)
            raise HTTPException(400) from error
        with suppress(ValueError):
            told = json.loads(body or b"{}")
            words |= told if isinstance(told, dict) else {}
    of = reach if isinstance(reach, str) else reach(words)
    result, averaging = words.get("result"), words.get("averaging")
    if isinstance(result, str) and result.isdigit():
        result = int(result)
    try:
        # A review may have to be opened for it: not on the thread that serves all.
        other = held_against_another(words)
        return await run_in_threadpool(lambda: weight(review_of(request), of, result, str(averaging), other))
    except (IronstoneError, TypeError, OverflowError):
        return 0
