"""The application: routes, one place that maps errors, and the built front end."""

from __future__ import annotations

from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from functools import lru_cache
from pathlib import Path

from fastapi import APIRouter, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from starlette.exceptions import HTTPException
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.routing import BaseRoute

from ironstone import __version__
from ironstone.core.errors import IronstoneError, NotFound, disk_full
from ironstone.core.wanted import NotWanted
from ironstone.engine.base import KEPT, QUESTIONS, said_of
from ironstone.formats import end_ahead
from ironstone.service import (
    routes_balance,
    routes_bars,
    routes_compare,
    routes_curves,
    routes_drawn,
    routes_gauges,
    routes_made,
    routes_results,
    routes_review,
    routes_strength,
)
from ironstone.service.bodies import BoundedBodies
from ironstone.service.changes import Changes
from ironstone.service.guard import Guarded
from ironstone.service.jobs import Jobs
from ironstone.service.of_review import OfReview
from ironstone.service.packing import PackedAnswers, PackedFiles
from ironstone.service.routes_asked import asked
from ironstone.service.schemas import Problem
from ironstone.service.turns import Turns
from ironstone.service.uploads import Uploads
from ironstone.store import Review
from ironstone.store.shelf import Shelf
from ironstone.store.stale import Stale

STATIC = Path(__file__).parent / "static"
# The last: what nobody waits for any more is answered to nobody.
STATUS = {NotFound: 404, Stale: 409, NotWanted: 499}


def create_app(review: Review, folders: Sequence[Path] = ()) -> FastAPI:
    """The service of a review, and of the others of its folder and of the folders given."""

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        app.state.uploads = Uploads(review.path.parent)
        yield
        app.state.changes.end()
        app.state.turns.end()
        end_ahead()
        app.state.uploads.close()
        app.state.shelf.close()

    app = FastAPI(title="Ironstone Ridge", version=__version__, lifespan=life, docs_url=None, redoc_url=None)
    app.state.turns = Turns()
    app.state.jobs = Jobs(app.state.turns)
    app.state.shelf = Shelf(review, folders, busy=app.state.jobs.running)
    app.state.changes = Changes()
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost", "testserver"])
    app.router.routes.extend(below_api())
    app.add_middleware(Guarded)
    app.add_middleware(PackedAnswers)
    app.add_middleware(BoundedBodies)
    app.add_middleware(OfReview)
    _map_errors(app)
    _serve_bench(app)
    return app


def below_api() -> list[BaseRoute]:
    """All routes below /api. What each takes FastAPI works out when one is first asked for, in half a second: once a process, not
    once an application."""
    return _below_api(*QUESTIONS.values(), *KEPT.values()).routes


@lru_cache(maxsize=4)
def _below_api(*_kinds: type) -> APIRouter:
    """The same for the kinds of question and of kept thing there are."""
    whole, below = (
        APIRouter(),
        (
            routes_results.router,
            routes_balance.router,
            routes_bars.router,
            routes_curves.router,
            routes_drawn.router,
            routes_gauges.router,
            routes_made.router,
            routes_review.router,
            routes_compare.router,
            routes_strength.router,
            asked(),
        ),
    )
    for router in below:
        whole.include_router(router, prefix="/api", responses={422: {"model": Problem}})
    return whole


def _problem(status: int, title: str, hint: str) -> JSONResponse:
    return JSONResponse({"title": title, "hint": hint, "status": status}, status_code=status, media_type="application/problem+json")


def _map_errors(app: FastAPI) -> None:
    @app.exception_handler(IronstoneError)
    async def known(_request: Request, error: IronstoneError) -> JSONResponse:
        status = next((s for kind, s in STATUS.items() if isinstance(error, kind)), 422)
        return _problem(status, error.message, error.hint)

    @app.exception_handler(RequestValidationError)
    async def malformed(_request: Request, error: RequestValidationError) -> JSONResponse:
        said = said_of(error.errors(), skip=1)
        return _problem(422, f"{said[0].upper()}{said[1:]}.", "")

    @app.exception_handler(HTTPException)
    async def refused(_request: Request, error: HTTPException) -> JSONResponse:
        return _problem(error.status_code, _SAID.get(error.status_code, "The request was refused."), "")

    @app.exception_handler(OSError)
    async def of_the_system(_request: Request, error: OSError) -> JSONResponse:
        full = disk_full(error)
        if full:
            return _problem(507, full.message, full.hint)
        return _problem(500, f"A file could not be read or written ({error.strerror or type(error).__name__}).", "Try again.")

    @app.exception_handler(OverflowError)
    async def too_large(_request: Request, _error: OverflowError) -> JSONResponse:
        return _problem(404, "A number in this address is larger than anything here has.", "Follow a link of the bench.")

    @app.exception_handler(Exception)
    async def unknown(_request: Request, error: Exception) -> JSONResponse:
        return _problem(500, f"The service failed: {type(error).__name__}.", "The review is as it was. Try again.")


_SAID = {400: "The request cannot be read.", 404: "There is no such address.", 405: "That cannot be done at this address."}


def _serve_bench(app: FastAPI) -> None:
    if not STATIC.is_dir():
        return
    app.mount("/assets", PackedFiles(directory=STATIC / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    async def page(path: str) -> Response:
        if path.startswith("api/"):
            return _problem(404, "There is no such address.", "")
        try:
            target = (STATIC / path).resolve()
            if path and target.is_relative_to(STATIC.resolve()) and target.is_file():
                return FileResponse(target)
        except (OSError, ValueError):
            return _problem(404, "There is no such address.", "")
        return FileResponse(STATIC / "index.html", headers={"Cache-Control": "no-cache"})
