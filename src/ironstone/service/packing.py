"""What goes over the wire is packed: the page's own files once, when they are built; answers as they are made.

Arrays of up to some megabytes too: those of a surface come to a fifth, within milliseconds. Larger ones would take longer to pack
than this machine takes to hand them over.
"""

from __future__ import annotations

import gzip
from collections.abc import MutableMapping
from typing import Any

from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

SMALL = 1400
LARGEST_ARRAYS = 4_000_000
# How hard each kind is packed.
LEVELS = {"application/json": 5, "application/octet-stream": 1}
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
    """Packs JSON of some size and arrays that are not too large; everything else passes as it comes."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or "gzip" not in accepted(Headers(scope=scope)):
            await self.app(scope, receive, send)
            return
        start: MutableMapping[str, Any] | None = None
        body: list[bytes] = []
        level = 0

        async def packed(message: Message) -> None:
            nonlocal start, level
            if message["type"] == "http.response.start":
                level = _level(Headers(raw=message["headers"]))
                if level:
                    start = message
                    return
            elif start is not None and message["type"] == "http.response.body":
                body.append(message.get("body", b""))
                if message.get("more_body"):
                    return
                whole = b"".join(body)
                headers = MutableHeaders(raw=start["headers"])
                if len(whole) > SMALL:
                    whole = await run_in_threadpool(gzip.compress, whole, level, mtime=0)
                    headers["Content-Encoding"] = "gzip"
                    headers.add_vary_header("Accept-Encoding")
                headers["Content-Length"] = str(len(whole))
                await send(start)
                await send({"type": "http.response.body", "body": whole})
                return
            await send(message)

        await self.app(scope, receive, packed)


def _level(headers: Headers) -> int:
    """How hard an answer is packed; 0 where it goes as it is."""
    kind = headers.get("content-type", "").split(";")[0]
    if "content-encoding" in headers:
        return 0
    if kind == "application/octet-stream" and not SMALL < int(headers.get("content-length", 0)) <= LARGEST_ARRAYS:
        return 0
    return LEVELS.get(kind, 0)
