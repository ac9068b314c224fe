"""What the routes share: the open review, and answers that the browser may keep while nothing changed."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Sequence
from typing import Annotated, Literal

from fastapi import Depends, Request, Response

from ironstone.core.mesh.mesh import Float
from ironstone.engine.base import engine
from ironstone.engine.carrier import Column
from ironstone.formats.tables import write_table, write_workbook
from ironstone.service.jobs import Jobs
from ironstone.service.schemas import JobOut
from ironstone.service.turns import Turns
from ironstone.service.uploads import Uploads
from ironstone.store import Review
from ironstone.store.shelf import Shelf


def _review(request: Request) -> Review:
    review: Review = _shelf(request).review
    return review


def _shelf(request: Request) -> Shelf:
    shelf: Shelf = request.app.state.shelf
    return shelf


def _jobs(request: Request) -> Jobs:
    jobs: Jobs = request.app.state.jobs
    return jobs


def _uploads(request: Request) -> Uploads:
    uploads: Uploads = request.app.state.uploads
    return uploads


def _turns(request: Request) -> Turns:
    turns: Turns = request.app.state.turns
    return turns


OpenReview = Annotated[Review, Depends(_review)]
OpenShelf = Annotated[Shelf, Depends(_shelf)]
RunningJobs = Annotated[Jobs, Depends(_jobs)]
OpenUploads = Annotated[Uploads, Depends(_uploads)]
RunningTurns = Annotated[Turns, Depends(_turns)]


def tagged(request: Request, depends_on: object, make: Callable[[], bytes], job: Callable[[], JobOut] | None = None) -> Response:
    """Raw bytes with an ETag of all they depend on; 304 when the browser has them.

    job: starts what has to be worked out first; who prefers not to wait for that (RFC 7240) gets it in their place, with 202.
    """
    text = json.dumps([engine(), depends_on], sort_keys=True, default=str)
    tag = '"' + hashlib.sha256(text.encode()).hexdigest()[:32] + '"'
    headers = {"ETag": tag, "Cache-Control": "no-cache"}
    if request.headers.get("if-none-match") == tag:
        return Response(status_code=304, headers=headers)
    if job is not None and "respond-async" in request.headers.get("prefer", ""):
        return Response(job().model_dump_json(), status_code=202, media_type="application/json")
    return Response(make(), media_type="application/octet-stream", headers=headers)


WORKBOOK = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def safe_name(name: str) -> str:
    """A file name that says what it is and holds nothing a file system minds."""
    kept = "".join(c if c.isalnum() or c in "-_. " else "_" for c in name).strip() or "table"
    return kept.encode("ascii", "replace").decode().replace("?", "_")


Form = Literal["csv", "xlsx"]


def table(
    form: Form,
    names: Sequence[str],
    units: Sequence[str | None],
    columns: Sequence[Sequence[object] | Float],
    name: str,
    sentence: str = "",
) -> Response:
    """A table as CSV or XLSX under a name that says what it is; a workbook carries its reading."""
    if form == "xlsx":
        data, kind = write_workbook(names, units, columns, sentence), WORKBOOK
    else:
        data, kind = write_table(names, units, columns).encode("utf-8"), "text/csv; charset=utf-8"
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{safe_name(name)}.{form}"'})


def columns_table(form: Form, columns: Sequence[Column], name: str, sentence: str = "") -> Response:
    """An answer's columns as CSV or XLSX; what has no value is an empty cell, of numbers as of words."""
    missing = float("nan")
    numbers = [all(isinstance(v, int | float | None) for v in c.values) for c in columns]
    values = [[(missing if n else "") if v is None else v for v in c.values] for c, n in zip(columns, numbers, strict=True)]
    return table(form, [c.name for c in columns], [c.unit for c in columns], values, name, sentence)
