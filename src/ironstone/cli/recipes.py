"""Commands of recipes: run one over many files, make one of a review, print what one may hold."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ironstone.cli.base import AsJson, app, guarded, open_review, show
from ironstone.core.errors import IronstoneError, NotFound

if TYPE_CHECKING:
    from ironstone.engine.recipes.cluster import Cluster


@app.command("run")
@guarded
def run_command(
    recipe: Annotated[Path, typer.Argument(help="The recipe, a JSON or YAML file.")],
    files: Annotated[list[str], typer.Argument(help="Result files, a run each; NAME=FILES for a series (commas, * and ?).")],
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Folder the runs are written to, a folder each.")] = None,
    value: Annotated[str | None, typer.Option(help="Print this value alone; of one run.")] = None,
    state: Annotated[list[str] | None, typer.Option("--set", help="NAME=VALUE of a parameter.")] = None,
    jobs: Annotated[int, typer.Option(min=1, max=256, help="Runs at a time, each in a process of its own.")] = 1,
    scheduler: Annotated[
        str | None, typer.Option(help="Run on a Dask scheduler: local (with --jobs workers), or its address, tcp://HOST:PORT.")
    ] = None,
    send_files: Annotated[
        bool, typer.Option("--send-files", help="Send files to the workers and answers back: no folder is shared with them.")
    ] = False,
    tls: Annotated[Path | None, typer.Option(help="A folder of ca.pem, cert.pem, key.pem for a tls:// scheduler.")] = None,
    fresh: Annotated[bool, typer.Option("--fresh", help="Do again what was done before.")] = False,
    keep_reviews: Annotated[bool, typer.Option("--keep-reviews", help="Leave the review of each run in its folder.")] = False,
    as_json: AsJson = False,
) -> None:
    """Run a recipe over result files: exit status 0 all limits kept, 1 a limit broken, 2 something could not be read."""
    from tempfile import TemporaryDirectory

    from ironstone.engine.recipes.many import orders, run_all
    from ironstone.engine.recipes.recipe import read_recipe
    from ironstone.engine.recipes.run import kept_words
    from ironstone.engine.recipes.summary import STATUS, status_of, summarised

    stated = read_recipe(recipe)
    if output is None and value is None:
        raise IronstoneError("Where the runs are written to is not said.", "Name a folder: -o FOLDER; or one value: --value NAME.")
    if value is not None and value not in [one.name for one in stated.ask]:
        raise IronstoneError(f"The recipe has no value '{value}'.", f"It has: {', '.join(one.name for one in stated.ask)}.")

    if value is not None and output is None:
        # One number alone: nothing else of the recipe is worked out.
        own = [one for one in stated.ask if one.name == value]
        stated = stated.model_copy(update={"ask": own, "tables": [], "pictures": []})

    def told(run: dict[str, Any], before: bool) -> None:
        if value is None and not as_json:
            typer.echo(f"{run['run']}: {'done before, ' if before else ''}{STATUS[int(run['status'])]}")
            for name, found in run["values"].items():
                number = "no value" if found["value"] is None else f"{found['value']:.6g}"
                typer.echo(f"  {name}: {number} {found['unit']}  {kept_words(found)}".rstrip())
            for error in run["errors"]:
                typer.echo(f"  ! {error}")

    with TemporaryDirectory(prefix="ironstone-runs-") as scratch:
        folder = output or Path(scratch)
        found = orders(stated, files, folder, _parameters(state or []), keep_reviews)
        if value is not None and len(found) != 1:
            raise IronstoneError("One value is that of one run.", "Name one file, or one series as NAME=FILES.")
        runs = run_all(found, jobs, fresh, told, _cluster(scheduler, jobs, send_files, tls))
        said = {} if output is None else summarised(stated, runs, folder)
    if value is not None:
        _alone(runs[0], value)
    elif as_json:
        typer.echo(json.dumps({**said, "values": {r["run"]: r["values"] for r in runs}}, ensure_ascii=False))
    else:
        for name, worst in said["worst"].items():
            typer.echo(f"nearest to its limit, {name}: {worst['run']}, {worst['value']:.6g} {worst['unit']}".rstrip())
        typer.echo(f"{len(runs)} runs: {STATUS[status_of(runs)]}; summary in {folder / 'summary.html'}")
    raise typer.Exit(status_of(runs))


def _cluster(scheduler: str | None, jobs: int, sent: bool, tls: Path | None) -> Cluster | None:
    """Where runs are done; None: on this machine, without a scheduler."""
    if scheduler is None:
        if sent or tls is not None:
            raise IronstoneError("There is no scheduler that files could be sent to.", "Name it: --scheduler tcp://HOST:PORT.")
        return None
    from ironstone.engine.recipes.cluster import Cluster

    return Cluster(scheduler, jobs, sent, tls)


def _alone(run: dict[str, Any], name: str) -> None:
    """Print one value alone; why there is none goes to standard error."""
    found = run["values"].get(name)
    if found is None or found["value"] is None:
        said = "; ".join(run["errors"]) or "It has no value."
        typer.echo(f"ironstone: {name}: {said}", err=True)
        raise typer.Exit(2)
    typer.echo(repr(found["value"]))
    for error in run["errors"]:
        print(f"ironstone: {error}", file=sys.stderr)


def _parameters(stated: list[str]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for text in stated:
        name, equals, written = text.partition("=")
        if not equals:
            raise IronstoneError(f"'{text}' states no parameter.", "Write NAME=VALUE.")
        try:
            number = json.loads(written)
            found[name] = number if isinstance(number, int | float | bool) else written
        except ValueError:
            found[name] = written
    return found


@app.command("recipe")
@guarded
def recipe_command(
    review: Annotated[Path | None, typer.Argument(help="The review a recipe is made of: its hand checks and exhibits.")] = None,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write it to this file; else it is printed.")] = None,
    result: Annotated[str | None, typer.Option(help="Of one result, by name; else of the newest.")] = None,
    parameter: Annotated[
        list[str] | None, typer.Option(help="What of it is to be a parameter, by a name that --offers prints.")
    ] = None,
    offers: Annotated[bool, typer.Option("--offers", help="Print what can be made a parameter.")] = False,
    schema: Annotated[bool, typer.Option("--schema", help="Print the JSON Schema of recipes.")] = False,
) -> None:
    """Make a recipe of what is kept in a review, or print the schema of recipes."""
    from ironstone.engine.recipes.made import offers_of, recipe_of
    from ironstone.engine.recipes.recipe import schema as schema_of

    if schema:
        made: dict[str, Any] = schema_of()
    elif review is None:
        raise NotFound("No review was named.", "Name one, or ask for the --schema.")
    else:
        with open_review(review) as opened:
            made = recipe_of(opened, result, parameter or [])
        if offers:
            for offer in offers_of(made):
                typer.echo(f"{offer.name} = {offer.value}  ({offer.says})")
            return
    text = json.dumps(made, indent=1, ensure_ascii=False)
    if output is None:
        typer.echo(text)
    else:
        output.write_text(text + "\n")


@app.command("report")
@guarded
def report_command(
    review: Annotated[Path, typer.Argument(help="The review that is reported on.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file that is written, NAME.html or NAME.pdf.")],
    turns: Annotated[
        bool, typer.Option("--turns", help="Views of the HTML can be turned, its plots zoomed: by a script in it.")
    ] = False,
) -> None:
    """Write the report of a review as HTML or PDF: exhibits, results and what was assumed of them, checks, sources."""
    kind = output.suffix.lower()
    if kind not in (".html", ".htm", ".pdf"):
        raise IronstoneError(
            f"A report is written as HTML or PDF, and not as {output.suffix or 'a file without an ending'}.",
            "Name it NAME.html or NAME.pdf.",
        )

    def tell(share: float, text: str) -> None:
        if sys.stderr.isatty():
            typer.echo(f"\r{100 * share:3.0f} % {text[:60]:60}", err=True, nl=False)

    with open_review(review) as opened:
        if kind == ".pdf":
            from ironstone.engine.report.pdf import report_pdf

            data = report_pdf(opened, tell)
        else:
            from ironstone.engine.report.html import report_html

            data = report_html(opened, tell, turns).encode()
    if sys.stderr.isatty():
        typer.echo(f"\r{'':66}\r", err=True, nl=False)
    try:
        output.write_bytes(data)
    except OSError as error:
        raise IronstoneError(f"{output.name} could not be written.", "Choose a folder that can be written to.") from error
    typer.echo(f"{output.name}, {len(data) / 1e6:.2g} MB")


@app.command("replay")
@guarded
def replay_command(
    review: Annotated[Path, typer.Argument(help="The review whose hand checks and exhibits are asked again.")],
    files: Annotated[list[Path], typer.Argument(help="The revised result: one file, or a series.")],
    result: Annotated[str | None, typer.Option(help="The result that was revised, by name; else the newest.")] = None,
    tolerance: Annotated[float, typer.Option(min=0.0, help="Share by which a number may be another and is still the same.")] = 0.01,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write what was seen then and now, NAME.html.")] = None,
    as_json: AsJson = False,
) -> None:
    """Replay a review on a revised result: 0 nothing changed by more than the tolerance, 1 something did, 2 something is gone."""
    for file in files:
        if not file.is_file():
            raise NotFound(f"There is no file {file.name}.", "Check the name and the folder.")
    if output is None:
        from ironstone.engine.recipes.replay import replay

        found = replay(review, files, result, tolerance)
    else:
        from ironstone.engine.recipes.replayed import replay_page

        if output.suffix.lower() not in (".html", ".htm"):
            raise IronstoneError("A replay is written as HTML.", "Name it NAME.html.")
        found, page = replay_page(review, files, result, tolerance)
        output.write_text(page, encoding="utf-8")

    def text() -> str:
        lines = [f"{found.result} against {found.revised}"]
        for item in found.items:
            numbers = (
                ""
                if item.then is None and item.now is None
                else f"  {_number(item.then)} -> {_number(item.now)} {item.unit}".rstrip()
            )
            verdict = f"  ({item.verdict_then} -> {item.verdict_now})" if item.verdict_then != item.verdict_now else ""
            lines.append(f"  {item.status}: {item.title}: {item.said}{numbers}{verdict}")
        return "\n".join([*lines, *(f"  ! {n}" for n in found.notes)])

    show(found.model_dump(), as_json, text)
    raise typer.Exit(found.status)


def _number(value: float | None) -> str:
    return "no value" if value is None else f"{value:.6g}"
