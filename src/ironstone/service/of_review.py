"""Addresses below /r/NAME/ are of the review of that name: so each window of the bench has its own, and keeps it."""

from __future__ import annotations

from starlette.requests import Request
from starlette.types import ASGIApp, Receive, Scope, Send

from ironstone.store import Review
from ironstone.store.shelf import Shelf

BELOW = "/r/"
# Where the name stands while a request is answered.
NAMED = "review_named"


class OfReview:
    """Takes the name of a review out of an address; what follows is the address as all others have it."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope["path"].startswith(BELOW):
            name, slash, rest = scope["path"].removeprefix(BELOW).partition("/")
            if slash:
                state = {**scope.get("state", {}), NAMED: name}
                scope = {**scope, "path": f"/{rest}", "raw_path": f"/{rest}".encode(), "state": state}
        await self.app(scope, receive, send)


def review_of(request: Request) -> Review:
    """The review a request is of: the one its address names, else the one that was opened last. Raises NotFound."""
    shelf: Shelf = request.app.state.shelf
    return shelf.at(str(request.scope.get("state", {}).get(NAMED, "")))
