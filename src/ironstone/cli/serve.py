"""Commands that open the bench."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ironstone.cli.base import ReviewFile, app, guarded
from ironstone.core.errors import IronstoneError, NotFound


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


@app.command("open")
@guarded
def open_command(
    files: Annotated[list[Path], typer.Argument(help="Result files: one, a numbered series, or files of several roles.")],
    review: Annotated[Path | None, typer.Option(help="The review they are taken into; else one beside the first file.")] = None,
    name: Annotated[str | None, typer.Option(help="Name of the result.")] = None,
    units: Annotated[str | None, typer.Option(help="Unit system, such as mm-N-s-t-MPa.")] = None,
    port: Annotated[int, typer.Option(help="Port on 127.0.0.1.")] = 8737,
    prepare: Annotated[bool, typer.Option("--prepare", help="Make the review and stop.")] = False,
) -> None:
    """Take result files in and open the bench on them; files that are in the review already are not taken in again."""
    import ironstone
    from ironstone.service.run import serve

    missing = [f for f in files if not f.is_file()]
    if missing:
        raise NotFound(f"There is no file {missing[0].name}.", "Check the name and the folder.")
    path = review or files[0].with_suffix(".ironstone")
    if not _is_in(path, files):
        fresh = not path.exists()
        try:
            ironstone.take_in(path, files, name or "", units).close()
        except IronstoneError:
            for left in (path, *(path.with_name(path.name + end) for end in ("-wal", "-shm", "-log-of"))) if fresh else ():
                left.unlink(missing_ok=True)
            raise
    typer.echo(f"{', '.join(f.name for f in files[:3])}{' ...' if len(files) > 3 else ''} in {path}")
    if not prepare:
        serve(path, port)


def _is_in(review: Path, files: list[Path]) -> bool:
    """Whether a review has a result of just these files, by their names and sizes."""
    if not review.exists():
        return False
    import ironstone

    wanted = sorted((f.name, f.stat().st_size) for f in files)
    with ironstone.open(review) as opened:
        held = [[(f["name"], f["bytes"]) for f in opened.result(r.id).files] for r in opened.results()]
    return any(sorted(one) == wanted for one in held)


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
