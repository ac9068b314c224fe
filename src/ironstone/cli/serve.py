"""Commands that open the bench."""

from __future__ import annotations

import re
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
    watch: Annotated[str | None, typer.Option(help="Files of the run that come later, 'run/step_*.vtu', are added to it.")] = None,
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
    if prepare:
        return
    if watch is not None:
        from ironstone.store.follow import followed_beside

        with ironstone.open(path) as opened:
            followed = name or opened.result().name
        followed_beside(path, watch, followed, units)
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


@app.command("watch")
@guarded
def watch_command(
    review: Annotated[Path, typer.Argument(help="The review, made where it is not there; the bench may have it open.")],
    pattern: Annotated[str, typer.Argument(help="Files of a run that still goes on, 'run/step_*.vtu'.")],
    name: Annotated[str, typer.Option(help="Name of the result.")] = "",
    units: Annotated[str | None, typer.Option(help="Unit system, such as mm-N-s-t-MPa.")] = None,
    every: Annotated[float, typer.Option(min=0.1, help="Seconds between two looks.")] = 5.0,
    idle: Annotated[
        float | None, typer.Option(help="End when nothing has come for so many seconds; none: until it is stopped.")
    ] = None,
) -> None:
    """Follow a run that still goes on: its finished files are a result now, later ones are added when they are there."""
    import time

    from ironstone.store.follow import Following
    from ironstone.store.review import Review

    if not name:
        # What the files share before what differs.
        name = re.split(r"[*?\[]", Path(pattern).stem)[0].rstrip("0123456789").rstrip("_-. ") or "run"
    with Review.open(review) if review.exists() else Review.create(review) as opened:
        following = Following(opened, pattern, name, units)
        last, said = time.monotonic(), ""
        while True:
            try:
                found = following.look()
                problem = found.said
                if found.more:
                    last = time.monotonic()
                    typer.echo(f"{name}: {found.steps} step{'s' if found.steps != 1 else ''}")
            except IronstoneError as error:
                # The next look may find it mended.
                problem = str(error)
            if problem != said:
                said = problem
                if said:
                    typer.echo(f"ironstone: not taken yet: {said}", err=True)
            if idle is not None and time.monotonic() - last > idle:
                break
            time.sleep(every)
