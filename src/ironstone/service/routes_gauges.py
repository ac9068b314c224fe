"""Routes of gauge lists: brought in as a file, taken out as a universal file. The rest is asked and kept as everything is."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

from fastapi import APIRouter, Query, Request, Response

from ironstone.engine.base import by_name, keep
from ironstone.engine.reading.gauges import GaugeList, gauge_list, write_moved
from ironstone.service.deps import OpenReview, RunningTurns, safe_name
from ironstone.service.routes_asked import KeptOut, out
from ironstone.service.turns import InTurn, reaches
from ironstone.service.uploads import bounded
from ironstone.store import Review

router = APIRouter(tags=["gauges"], route_class=InTurn)


@router.post("/results/{result}/gauges")
@reaches("whole")
async def bring_gauges(
    request: Request,
    result: int,
    review: OpenReview,
    turns: RunningTurns,
    name: str = Query(min_length=1, max_length=200),
    unit: str | None = Query(None, max_length=20, description="Unit of coordinates whose column states none."),
) -> KeptOut:
    """Take a gauge list in as a file (the body of the request); one of the same name is replaced."""
    data = await bounded(request, name)
    return await turns.work(request, _bring, review, result, name, data, unit)


def _bring(review: Review, result: int, name: str, data: bytes, unit: str | None) -> KeptOut:
    found = gauge_list(review.result(result), (Path(name).stem or name)[:80], data, name, unit)
    return out(keep(review, found), found)


@router.get("/gauges/{gauges}/points.uff", response_class=Response)
@reaches("whole")
def moved_points(gauges: int, review: OpenReview) -> Response:
    """The displacement at the points of a list at every step, as a universal file."""
    _, found = by_name(review, GaugeList, gauges)
    source = review.result(found.result)
    with TemporaryDirectory() as folder:
        path = Path(folder) / "points.uff"
        write_moved(source, found, path)
        data = path.read_bytes()
    name = f"{safe_name(f'{source.name} {found.name}')}.uff"
    return Response(data, media_type="text/plain", headers={"Content-Disposition": f'attachment; filename="{name}"'})
