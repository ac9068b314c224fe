"""What the routes share: the open review, and answers that the browser may keep while nothing changed."""

from __future__ import annotations

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from functools import cache, lru_cache
from pathlib import Path
from typing import Annotated, Any, Literal

import numpy as np
from fastapi import Depends, Request, Response

import ironstone
from ironstone.core.mesh import Float, Mesh
from ironstone.core.surface import Look, Surface, skin
from ironstone.formats.tables import write_table, write_workbook
from ironstone.service.jobs import Jobs
from ironstone.service.uploads import Uploads
from ironstone.store import Review
from ironstone.store.source import ReviewSource


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


def surface(source: ReviewSource, look: Look) -> Surface:
    """What is drawn of a result, with the thickness of its shells and the section area of its bars where it has them."""
    known = [_one_an_element(source, kind) if look.solid else None for kind in ("thickness", "section area")]
    return _drawn(source.mesh, look, *known)


@lru_cache(maxsize=8)
def _one_an_element(source: ReviewSource, kind: str) -> Float | None:
    found = next((f for f in source.fields.values() if f.kind == kind and f.location == "element"), None)
    return None if found is None else np.asarray(source.values(found.name, 0)[:, 0], dtype=np.float64)


KEPT_SURFACES = 6
_KEPT: OrderedDict[Any, tuple[Any, Future[Surface]]] = OrderedDict()
_LOCK = threading.Lock()


def _drawn(mesh: Mesh, look: Look, thickness: Float | None, area: Float | None) -> Surface:
    """The last few surfaces are kept. Shape and values of a view are asked for at once: whoever comes first makes the surface."""
    key = (id(mesh), look, id(thickness), id(area))
    with _LOCK:
        found = _KEPT.get(key)
        if found is not None:
            _KEPT.move_to_end(key)
        else:
            making: Future[Surface] = Future()
            # What the key names by its id is kept with it, so that no other object can come by the same id.
            _KEPT[key] = ((mesh, thickness, area), making)
            while len(_KEPT) > KEPT_SURFACES:
                _KEPT.popitem(last=False)
    if found is not None:
        return found[1].result()
    try:
        making.set_result(skin(mesh, look, thickness, area))
    except BaseException as error:
        with _LOCK:
            _KEPT.pop(key, None)
        making.set_exception(error)
        raise
    return making.result()


@cache
def engine() -> str:
    """Which state of this program answers: its version, and when its code was last changed."""
    code = Path(ironstone.__file__).parent.rglob("*.py")
    return f"{ironstone.__version__} of {max(p.stat().st_mtime_ns for p in code)}"


def tagged(request: Request, depends_on: object, make: Callable[[], bytes]) -> Response:
    """Raw bytes with an ETag of all they depend on; 304 when the browser has them."""
    text = json.dumps([engine(), depends_on], sort_keys=True, default=str)
    tag = '"' + hashlib.sha256(text.encode()).hexdigest()[:32] + '"'
    headers = {"ETag": tag, "Cache-Control": "no-cache"}
    if request.headers.get("if-none-match") == tag:
        return Response(status_code=304, headers=headers)
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
