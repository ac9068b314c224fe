"""What the routes share: the open review, and answers that the browser may keep while nothing changed."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Sequence
from typing import Annotated

import numpy as np
from fastapi import Depends, Request, Response

from ironstone.core.mesh.mesh import Float
from ironstone.engine.base import engine
from ironstone.engine.carrier import Column
from ironstone.engine.tabled import Form, tabled
from ironstone.service.jobs import Jobs
from ironstone.service.of_review import review_of
from ironstone.service.schemas import JobOut
from ironstone.service.turns import Turns
from ironstone.service.uploads import Uploads
from ironstone.store import Review
from ironstone.store.shelf import Shelf


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


OpenReview = Annotated[Review, Depends(review_of)]
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


# Longer names of files are cut short at a word.
LONGEST_NAME = 60


def safe_name(name: str) -> str:
    """A file name, without its kind, that says what it is in few words and holds nothing a file system minds."""
    kept = "".join(c if c.isalnum() or c in "-_. " else "_" for c in name).strip()
    if len(kept) > LONGEST_NAME:
        kept = kept[: LONGEST_NAME + 1].rpartition(" ")[0] or kept[:LONGEST_NAME]
    return kept.rstrip("._ ").encode("ascii", "replace").decode().replace("?", "_") or "table"


def table(
    form: Form,
    names: Sequence[str],
    units: Sequence[str | None],
    columns: Sequence[Sequence[object] | Float],
    name: str,
    sentence: str = "",
) -> Response:
    """A table as CSV, XLSX or Parquet under a name that says what it is; a workbook carries its reading."""
    own = [Column(name=n, unit=u, values=_plain(c)) for n, u, c in zip(names, units, columns, strict=True)]
    return columns_table(form, own, name, sentence)


def _plain(column: Sequence[object] | Float) -> list[float | int | str | None]:
    """Values as a column of an answer has them: what is no number there is None."""
    plain = column.tolist() if isinstance(column, np.ndarray) else list(column)
    missing = [v is None or (isinstance(v, float) and math.isnan(v)) for v in plain]
    return [None if gone else v if isinstance(v, int | float) else str(v) for v, gone in zip(plain, missing, strict=True)]


def columns_table(form: Form, columns: Sequence[Column], name: str, sentence: str = "") -> Response:
    """An answer's columns as CSV, XLSX or Parquet; what has no value is an empty cell, of numbers as of words."""
    kinds = {"csv": "text/csv; charset=utf-8", "xlsx": WORKBOOK, "parquet": "application/vnd.apache.parquet"}
    disposition = {"Content-Disposition": f'attachment; filename="{safe_name(name)}.{form}"'}
    return Response(tabled(columns, form, sentence), media_type=kinds[form], headers=disposition)
