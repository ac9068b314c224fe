"""Commands that open the bench."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ironstone.cli.base import ReviewFile, app, guarded
from ironstone.core.errors import NotFound


@app.command("serve")
@guarded
def serve_command(
    review: ReviewFile,
    port: Annotated[int, typer.Option(help="Port on 127.0.0.1.")] = 8737,
    folder: Annotated[list[Path] | None, typer.Option(help="Another folder whose reviews may be opened from the bench.")] = None,
) -> None:
    """Open the bench on a review (made when it is not there), at http://127.0.0.1:PORT."""
    from ironstone.service.run import serve

    missing = [f for f in folder or [] if not f.is_dir()]
    if missing:
        raise NotFound(f"There is no folder {missing[0]}.", "Make it first.")
    serve(review, port, folder or [])


@app.command("demo")
@guarded
def demo_command(
    review: Annotated[Path, typer.Option(help="Where the demo's review is kept.")] = Path("demo/review/brake_flexure.ironstone"),
    data: Annotated[Path, typer.Option(help="The demo's result files.")] = Path("demo/data/flexure"),
    port: Annotated[int, typer.Option(help="Port on 127.0.0.1.")] = 8737,
    fresh: Annotated[bool, typer.Option("--fresh", help="Forget what was done to the demo's review.")] = False,
    prepare: Annotated[bool, typer.Option("--prepare", help="Make the review and stop.")] = False,
) -> None:
    """Open the bench on the brake flexure of the Ironstone Ridge ropeway."""
    from ironstone import demo_motion, demo_review, demo_studies
    from ironstone.service.run import serve

    demo_studies.make(review.with_name("models_compared.ironstone"), data.parent, fresh)
    demo_motion.make(review.with_name("drive_in_motion.ironstone"), data.parent, fresh)
    demo_review.make(review, data, fresh)
    if not prepare:
        serve(review, port)
