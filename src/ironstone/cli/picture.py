"""The command that draws a picture of a result, without a browser or a screen."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ironstone.cli.base import ResultName, ReviewFile, StepChoice, app, guarded, open_review
from ironstone.cli.words import Words, with_words
from ironstone.core.errors import IronstoneError

if TYPE_CHECKING:
    from ironstone.engine.picture.asked import PictureWords

# What a picture and a model are both drawn by.
Exaggeration = Annotated[float, typer.Option(help="Of the deformed shape; 0: undeformed.")]
Low = Annotated[float | None, typer.Option(help="Lower end of the key; none: that of the values.")]
High = Annotated[float | None, typer.Option(help="Upper end of the key.")]
Bands = Annotated[int, typer.Option(help="Bands of the key; 0: continuous.")]
Hide = Annotated[list[str] | None, typer.Option(help="A part that is left out, by name.")]


def _asked(words: Mapping[str, Any], own: Mapping[str, Any], cannot: str) -> PictureWords:
    """What is asked for, checked. Raises IronstoneError that says which word is wrong."""
    from pydantic import ValidationError

    from ironstone.engine.base import said_of
    from ironstone.engine.picture.asked import PictureWords

    try:
        return PictureWords.model_validate({**words, **own})
    except ValidationError as error:
        raise IronstoneError(f"{cannot}: {said_of(error)}.") from error


@app.command("picture")
@with_words()
@guarded
def picture_command(
    review: ReviewFile,
    words: Words,
    output: Annotated[Path, typer.Option("-o", "--output", help="The file that is written, NAME.png.")],
    exaggeration: Exaggeration = 1.0,
    low: Low = None,
    high: High = None,
    bands: Bands = 9,
    map: Annotated[str, typer.Option(help="auto, batlow, vik, lapaz or broc.")] = "auto",
    log: Annotated[bool, typer.Option("--log", help="A logarithmic key.")] = False,
    hide: Hide = None,
    only: Annotated[list[str] | None, typer.Option(help="A part that is shown alone, by name.")] = None,
    side: Annotated[str, typer.Option(help="front, back, left, right, top, bottom, or a direction X,Y,Z.")] = "",
    width: Annotated[int, typer.Option(help="Of the model's part of the picture, in pixels.")] = 900,
    height: Annotated[int, typer.Option()] = 620,
    step: StepChoice = "last",
    result: ResultName = None,
) -> None:
    """Draw a result in the colours of a reading as PNG, with its key and its caption; neither browser nor screen is needed."""
    from ironstone.engine.picture.asked import picture

    own: dict[str, Any] = {
        "step": step, "exaggeration": exaggeration, "low": low, "high": high, "bands": bands, "map": map, "log": log,
        "hidden": hide or [], "only": only or [], "side": side, "width": width, "height": height,
    }  # fmt: skip
    if output.suffix.lower() != ".png":
        raise IronstoneError(
            f"A picture is written as PNG, and not as {output.suffix or 'a file without an ending'}.", "Name it NAME.png."
        )
    asked = _asked(words.named, own, "The picture cannot be drawn")
    with open_review(review) as opened:
        drawn = picture(opened, asked, result)
    output.write_bytes(drawn)
    typer.echo(f"{output.name}, {len(drawn) / 1e6:.2g} MB")


@app.command("model")
@with_words()
@guarded
def model_command(
    review: ReviewFile,
    words: Words,
    output: Annotated[Path, typer.Option("-o", "--output", help="The file that is written, NAME.glb, NAME.ply or NAME.stl.")],
    exaggeration: Exaggeration = 1.0,
    low: Low = None,
    high: High = None,
    bands: Bands = 9,
    hide: Hide = None,
    step: StepChoice = "last",
    result: ResultName = None,
) -> None:
    """Write the skin of a result, deformed and in the colours of a reading, for any viewer: glTF (GLB), PLY or STL."""
    from ironstone.engine.picture.model import model_file

    own: dict[str, Any] = {
        "step": step, "exaggeration": exaggeration, "low": low, "high": high, "bands": bands, "hidden": hide or [],
    }  # fmt: skip
    asked = _asked(words.named, own, "The model cannot be written")
    with open_review(review) as opened:
        source = opened.result(result)
        data, said = model_file(opened, asked.in_view(source, source.id), output.suffix)
    output.write_bytes(data)
    typer.echo(f"{output.name}, {output.stat().st_size / 1e6:.2g} MB: {said}")
