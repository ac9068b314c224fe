"""What the routes share: the open review, and answers that the browser may keep while nothing changed."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from functools import lru_cache
from typing import Annotated

from fastapi import Depends, Request, Response

from ironstone import __version__
from ironstone.core.mesh import Mesh
from ironstone.core.surface import Surface, skin
from ironstone.service.jobs import Jobs
from ironstone.service.uploads import Uploads
from ironstone.store import Review


def _review(request: Request) -> Review:
    review: Review = request.app.state.review
    return review


def _jobs(request: Request) -> Jobs:
    jobs: Jobs = request.app.state.jobs
    return jobs


def _uploads(request: Request) -> Uploads:
    uploads: Uploads = request.app.state.uploads
    return uploads


OpenReview = Annotated[Review, Depends(_review)]
RunningJobs = Annotated[Jobs, Depends(_jobs)]
OpenUploads = Annotated[Uploads, Depends(_uploads)]


@lru_cache(maxsize=6)
def surface(mesh: Mesh, detail: int) -> Surface:
    return skin(mesh, detail=detail or None)


def tagged(request: Request, depends_on: object, make: Callable[[], bytes]) -> Response:
    """Raw bytes with an ETag of all they depend on; 304 when the browser has them."""
    text = json.dumps([__version__, depends_on], sort_keys=True, default=str)
    tag = '"' + hashlib.sha256(text.encode()).hexdigest()[:32] + '"'
    headers = {"ETag": tag, "Cache-Control": "no-cache"}
    if request.headers.get("if-none-match") == tag:
        return Response(status_code=304, headers=headers)
    return Response(make(), media_type="application/octet-stream", headers=headers)


def download(text: str, name: str) -> Response:
    """CSV text under a name that says what it is."""
    safe = "".join(c if c.isalnum() or c in "-_. " else "_" for c in name).strip() or "table"
    return Response(
        text.encode("utf-8"),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{safe.encode("ascii", "replace").decode()}.csv"'},
    )
