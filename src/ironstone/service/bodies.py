"""The bound on bodies: of what a request says of its length, and of what really comes."""

from __future__ import annotations

import json
from contextlib import suppress

from starlette.types import ASGIApp, Message, Receive, Scope, Send

LARGEST_BODY = 64 * 1024**2
# Files are received as they come, and bounded where they are received.
UNBOUNDED = "/api/uploads/"


class TooLarge(Exception):
    """More came than a body may hold."""


class BoundedBodies:
    """Answers 413 for a body that is larger than the bound, whether its length was told or not; no more than that is ever held."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["path"].startswith(UNBOUNDED):
            await self.app(scope, receive, send)
            return
        told = next((value for name, value in scope["headers"] if name == b"content-length"), b"0")
        if not told.isdigit() or int(told) > LARGEST_BODY:
            await self._refuse(send)
            return
        size, begun, over = 0, False, False

        async def counted() -> Message:
            nonlocal size, over
            message = await receive()
            size += len(message.get("body", b""))
            if size > LARGEST_BODY:
                over = True
                raise TooLarge
            return message

        async def watched(message: Message) -> None:
            nonlocal begun
            # What the application makes of a body that broke off is not what is answered.
            if not over or begun:
                begun = True
                await send(message)

        with suppress(TooLarge):
            await self.app(scope, counted, watched)
        if over and not begun:
            await self._refuse(send)

    @staticmethod
    async def _refuse(send: Send) -> None:
        said = {"title": "That is too much to take at once.", "hint": f"The limit is {LARGEST_BODY // 1024**2} MB.", "status": 413}
        headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
        await send({"type": "http.response.start", "status": 413, "headers": headers})
        await send({"type": "http.response.body", "body": json.dumps(said).encode()})
