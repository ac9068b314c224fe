"""Commands for what is made here and called by a name: sets, axes, names, and what was removed."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, TypeVar

import typer

from ironstone.cli.asked import Words, words_of
from ironstone.cli.base import AsJson, ResultName, ReviewFile, app, guarded, open_review, show
from ironstone.core.errors import IronstoneError

if TYPE_CHECKING:
    from pydantic import BaseModel

M = TypeVar("M", bound="BaseModel")


def _stated(kind: type[M], name: str, words: list[str] | None, command: str) -> M:
    """What is to be made under a name, of NAME=VALUE words. Raises IronstoneError, with the words there are, for others."""
    from pydantic import ValidationError

    from ironstone.engine.base import said_of

    try:
        return kind.model_validate({"name": name, **words_of(words, kind)})
    except ValidationError as error:
        raise IronstoneError(f"{command}: {said_of(error)}.", f"Its words are: {', '.join(kind.model_fields)}.") from error


@app.command("set")
@guarded
def set_command(
    review: ReviewFile,
    name: Annotated[str, typer.Argument(help="Name of the set.")],
    words: Words = None,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Make a node set: ``set R.ironstone root how=box low=[0,0,0] high=[1,50,50]``, how=part part=NAME, how=nodes nodes=[1,2]."""
    from ironstone.engine.reading.sets import SetIn, make_set

    stated = _stated(SetIn, name, words, "set")
    with open_review(review) as opened:
        chosen = opened.result(result)
        make_set(chosen.id, stated, opened)
        count = len(opened.result(chosen.id).mesh.node_sets[stated.name.strip()])
    show({"name": stated.name, "nodes": count}, as_json, lambda: f"Set {stated.name}: {count} nodes.")


@app.command("axes")
@guarded
def axes_command(
    review: ReviewFile,
    name: Annotated[str, typer.Argument(help="Name of the axes.")],
    words: Words = None,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Make axes: ``axes R.ironstone eye how=nodes nodes=[8,20,31]`` (round a bore), or how=points origin=... third=... first=..."""
    from ironstone.engine.reading.axes import AxesIn, make_axes

    stated = _stated(AxesIn, name, words, "axes")
    with open_review(review) as opened:
        chosen = opened.result(result).id
        made, _ = make_axes(chosen, stated, opened)
        axes = opened.result(chosen).setup.axes[made]
        how = opened.correction(chosen)["axes"][made]["how"]
    reply = {
        "name": made, "kind": axes.kind, "origin": list(axes.origin), "third": list(axes.matrix[2]), "first": list(axes.matrix[0]),
        "how": how,
    }  # fmt: skip
    show(reply, as_json, lambda: f"Axes {made}, {axes.kind}: {how}.")


@app.command("rename")
@guarded
def rename_command(
    review: ReviewFile,
    name: Annotated[str, typer.Argument(help="The new name.")],
    result: Annotated[str | None, typer.Option(help="The result that gets it; the review itself where not given.")] = None,
) -> None:
    """Give the review, or one of its results, another name; its file keeps its own."""
    with open_review(review) as opened:
        if result is None:
            opened.rename(name)
        else:
            opened.rename_result(opened.result(result).id, name)
    typer.echo(f"{'The review' if result is None else result} is now called {name.strip()}.")


@app.command("remove")
@guarded
def remove_command(review: ReviewFile, number: Annotated[int, typer.Argument(help="Its number in 'kept'.")]) -> None:
    """Remove something that is kept; it can be brought back."""
    from ironstone.engine.base import remove

    with open_review(review) as opened:
        remove(opened, number)
    typer.echo(f"Number {number} is removed.")


@app.command("removed")
@guarded
def removed_command(review: ReviewFile, as_json: AsJson = False) -> None:
    """List what was removed and can be brought back, the last first."""
    from ironstone.engine.base import removed_things

    with open_review(review) as opened:
        found = removed_things(opened)
    show(
        {"removed": [r.model_dump() for r in found]},
        as_json,
        lambda: "\n".join(f"{r.id}: {r.what}" for r in found) or "Nothing was removed.",
    )


@app.command("bring-back")
@guarded
def bring_back_command(review: ReviewFile, number: Annotated[int, typer.Argument(help="Its number in 'removed'.")]) -> None:
    """Bring back something that was removed, however much was done since."""
    from ironstone.engine.base import bring_back, removed_things

    with open_review(review) as opened:
        what = next((r.what for r in removed_things(opened) if r.id == number), "")
        bring_back(opened, number)
    typer.echo(f"{what} is back.")
