"""Who may change anything, what state a change expects, and the headers every answer has."""

from __future__ import annotations

import json

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ironstone.store.stale import expecting

POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; "
    "connect-src 'self'; worker-src 'self' blob:; frame-ancestors 'none'"
)


class Guarded:
    """Changes come from this service's own page only, and are told to it by the states they led from and to."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        changes = scope["method"] not in ("GET", "HEAD")
        origin = headers.get("origin")
        if changes and origin and origin not in (f"{way}://{headers.get('host')}" for way in ("http", "https")):
            await _refuse(send)
            return
        seen = headers.get("if-match") if scope["method"] in ("PUT", "POST", "DELETE") else None
        with expecting(seen.strip('"') if seen else None) as made:

            async def told(message: Message) -> None:
                if message["type"] == "http.response.start":
                    answer = MutableHeaders(scope=message)
                    if made.changes:
                        # So that the page that made a change knows it again among the events, and sees what others changed before.
                        answer["X-Review-State"] = " ".join(f"{before}>{after}" for before, after in made.changes)
                    answer["X-Content-Type-Options"] = "nosniff"
                    answer["Content-Security-Policy"] = POLICY
                await send(message)

            await self.app(scope, receive, told)


async def _refuse(send: Send) -> None:
    said = json.dumps({"title": "Refused: the request comes from another page.", "hint": "", "status": 403}).encode()
    kind = [(b"content-type", b"application/problem+json"), (b"content-length", str(len(said)).encode())]
    await send({"type": "http.response.start", "status": 403, "headers": kind})
    await send({"type": "http.response.body", "body": said})
