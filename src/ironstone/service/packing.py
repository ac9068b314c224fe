"""What goes over the wire is packed: the page's own files once, when they are built; answers in JSON as they are made.

Arrays are left as they are: they hardly shrink, and the bench waits for them.
"""

from __future__ import annotations

import gzip
from collections.abc import MutableMapping
from typing import Any

from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

SMALL = 1400
FOREVER = "public, max-age=31536000, immutable"
# As the build writes them, the smallest first.
PACKED = (("br", ".br"), ("gzip", ".gz"))


def accepted(headers: Headers) -> set[str]:
    """The ways of packing a request takes."""
    return {word.split(";")[0].strip() for word in headers.get("accept-encoding", "").lower().split(",")}


class PackedFiles(StaticFiles):
    """Files whose names tell their content: a browser keeps them for good, and gets them packed where they were packed."""

    def file_response(self, full_path: Any, stat_result: Any, scope: Scope, status_code: int = 200) -> Response:
        headers = {"Cache-Control": FOREVER, "Vary": "Accept-Encoding"}
        ways = accepted(Headers(scope=scope))
        plain = super().file_response(full_path, stat_result, scope, status_code)
        for way, suffix in PACKED:
            packed, stat = self.lookup_path(f"{scope['path'].split('/assets/')[-1]}{suffix}")
            if way in ways and stat is not None:
                return FileResponse(
                    packed, status_code, {**headers, "Content-Encoding": way}, media_type=plain.media_type, stat_result=stat
                )
        plain.headers.update(headers)
        return plain


class PackedAnswers:
    """Packs JSON answers of some size; everything else passes as it comes."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or "gzip" not in accepted(Headers(scope=scope)):
            await self.app(scope, receive, send)
            return
        start: MutableMapping[str, Any] | None = None
        body: list[bytes] = []

        async def packed(message: Message) -> None:
            nonlocal start
            if message["type"] == "http.response.start":
                kind = Headers(raw=message["headers"]).get("content-type", "")
                if kind.startswith("application/json"):
                    start = message
                    return
            elif start is not None and message["type"] == "http.response.body":
                body.append(message.get("body", b""))
                if message.get("more_body"):
                    return
                whole = b"".join(body)
                headers = MutableHeaders(raw=start["headers"])
                if len(whole) > SMALL and "content-encoding" not in headers:
                    whole = gzip.compress(whole, 5, mtime=0)
                    headers["Content-Encoding"] = "gzip"
                    headers.add_vary_header("Accept-Encoding")
                headers["Content-Length"] = str(len(whole))
                await send(start)
                await send({"type": "http.response.body", "body": whole})
                return
            await send(message)

        await self.app(scope, receive, packed)
