"""What the commands share: the application, how errors are told, the arguments all of them have."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Mapping
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, ParamSpec

import numpy as np
import typer
from numpy.typing import NDArray
from typer.core import TyperGroup

from ironstone.cli.progress import Progress, shown
from ironstone.core.errors import IronstoneError, NotFound

if TYPE_CHECKING:
    from ironstone.engine.carrier import Answer
    from ironstone.store.review import Review


class AllCommands(TyperGroup):
    """Lists each command with the whole of what it says of itself, however narrow the window."""

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, (command.help or "").split("\n\n")[0]) for name, command in self.commands.items()])


app = typer.Typer(
    cls=AllCommands,
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Ironstone Ridge from the command line: the same engine without a window.",
)


@app.callback()
def one_of_many(quiet: Annotated[bool, typer.Option("--quiet", help="Say nothing of how far long work is.")] = False) -> None:
    # So that the command's name is expected also where only one module's commands are loaded.
    Progress.quiet = quiet


AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON object.")]
ReviewFile = Annotated[Path, typer.Argument(help="The review: one file.")]
ResultName = Annotated[str | None, typer.Option("--result", help="Name of the result; the newest when not given.")]
StepChoice = Annotated[str, typer.Option("--step", help="last, first, an index from 0, or t=VALUE for the nearest.")]


P = ParamSpec("P")


def guarded(command: Callable[P, None]) -> Callable[P, None]:
    """Turn an error of the family into a message and exit status 2."""

    @wraps(command)
    def run(*args: P.args, **kwargs: P.kwargs) -> None:
        try:
            with shown():
                command(*args, **kwargs)
        except IronstoneError as error:
            typer.echo(f"ironstone: {error}", err=True)
            raise typer.Exit(2) from None
        except OSError as error:
            typer.echo(f"ironstone: {error.strerror or error}: {error.filename or ''}".rstrip(": "), err=True)
            raise typer.Exit(2) from None
        except (typer.Exit, typer.Abort):
            raise
        except KeyboardInterrupt:
            typer.echo("ironstone: stopped; the review is as it was.", err=True)
            raise typer.Exit(130) from None
        except MemoryError:
            from ironstone.formats import memory

            hint = "Ask for one part or region of it, for means of elements, or on a machine with more."
            there = f"{memory.allowed() / 1024**3:.3g} GB, {memory.where()}"
            typer.echo(f"ironstone: This takes more memory than there is ({there}). {hint}", err=True)
            raise typer.Exit(2) from None
        except Exception as error:
            if os.environ.get("IRONSTONE_DEBUG"):
                raise
            said = f"It failed in a way that was not foreseen ({type(error).__name__}). The review is as it was."
            typer.echo(f"ironstone: {said} Set IRONSTONE_DEBUG=1 to see where.", err=True)
            raise typer.Exit(2) from None

    return run


def open_review(path: Path) -> Review:
    """A review, opened. Commands load what they need when they run, so that none of them waits for what another one needs."""
    from ironstone.store.review import Review

    opened = Review.open(path)
    for notice in opened.notices:
        typer.echo(f"ironstone: {notice}", err=True)
    return opened


def named_numbers(texts: list[str]) -> dict[str, float]:
    """NAME=VALUE, several times, as numbers by name."""
    found = {}
    for text in texts:
        name, _, value = text.partition("=")
        try:
            found[name.strip()] = float(value)
        except ValueError as error:
            raise IronstoneError(f"'{text}' is not right.", "Write a name and a number, like young=210000.") from error
    return found


def answered(review: Path, kind: str, words: Mapping[str, Any]) -> tuple[dict[str, Any], Answer]:
    """A question asked of a review: what a command prints as JSON (sentence, unit, verdict and its state where there is one, what
    only this kind has, caveats), and its answer."""
    from ironstone.engine.base import ask, question_of
    from ironstone.engine.weight import refuse_what_does_not_fit
    from ironstone.formats import memory

    question = question_of(kind, words)
    with open_review(review) as opened:
        refuse_what_does_not_fit(opened, question.reach_of(words), words, memory.allowed())
        answer = ask(opened, question)
    judged = {"verdict": answer.verdict, "state": answer.state} if answer.verdict else {}
    return {"sentence": answer.sentence, "unit": answer.unit, **judged, **answer.more, "caveats": answer.caveats}, answer


def show(answer: dict[str, Any], as_json: bool, text: Callable[[], str]) -> None:
    typer.echo(json.dumps(answer, ensure_ascii=False) if as_json else text())


def told(answer: Answer, lines: list[str]) -> str:
    """An answer for a person: its sentence, lines of what it holds, its verdict where it has one, its caveats."""
    verdict = [f"  {answer.verdict}"] if answer.verdict else []
    return "\n".join([answer.sentence, *lines, *verdict, *(f"  ! {c}" for c in answer.caveats)])


def bytes_of(file: Path) -> bytes:
    """What a file holds. Raises IronstoneError where there is none."""
    try:
        return file.read_bytes()
    except FileNotFoundError as error:
        raise IronstoneError(f"There is no file {file.name}.", "Check the name and the folder.") from error


def point_of(text: str) -> NDArray[np.float64]:
    """A point from 'X,Y,Z'."""
    try:
        x, y, z = (float(v) for v in text.split(","))
    except ValueError as error:
        raise NotFound(f"'{text}' is not a point.", "Write three numbers, like 0,0,1.") from error
    return np.array([x, y, z])


def value_text(value: float | None, unit: str | None = "") -> str:
    return "no value" if value is None else f"{value:.6g} {unit or ''}".rstrip()
