"""A picture as it is asked for in a recipe, a command or from Python: a reading, and how the model is shown."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from ironstone.core.errors import NotFound
from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.sheet import picture_of_view
from ironstone.engine.picture.view import LARGEST, SIZE
from ironstone.engine.steps import find_step
from ironstone.engine.words import ReadingWords
from ironstone.store import Review
from ironstone.store.source import ReviewSource

SIDES = {
    "front": (0.0, -1.0, 0.0), "back": (0.0, 1.0, 0.0), "left": (-1.0, 0.0, 0.0), "right": (1.0, 0.0, 0.0),
    "top": (0.0, 0.0, 1.0), "bottom": (0.0, 0.0, -1.0),
}  # fmt: skip


def _parted(value: object) -> object:
    return [v.strip() for v in value.split(",") if v.strip()] if isinstance(value, str) else value


class PictureWords(ReadingWords):
    """The words of a picture: those of a reading, the step, and how the model is shown."""

    field: str
    step: int | str = "last"
    exaggeration: float = Field(1.0, ge=0, description="Of the deformed shape; 0: undeformed.")
    low: float | None = Field(None, description="Lower end of the key; none: that of the values.")
    high: float | None = None
    bands: int = Field(9, ge=0, le=64, description="0: continuous.")
    map: Literal["auto", "batlow", "vik", "lapaz", "broc"] = "auto"
    log: bool = False
    iso: Literal["none", "over", "alone"] = "none"
    hidden: Annotated[list[str], BeforeValidator(_parted)] = Field([], description="Parts that are left out, by name.")
    only: Annotated[list[str], BeforeValidator(_parted)] = Field([], description="Parts that are shown alone, by name.")
    style: Literal["shaded", "lines", "inside", "outline"] = "shaded"
    mesh_lines: bool = True
    labelled: bool = Field(True, description="Highest and lowest, where they are.")
    side: str = Field(
        "",
        max_length=100,
        description="Looked at from: front, back, left, right, top, bottom, or a direction X,Y,Z; none: as usual.",
    )
    perspective: bool = False
    width: int = Field(SIZE[0], ge=64, le=LARGEST, description="Of the model's part of the picture, in pixels.")
    height: int = Field(SIZE[1], ge=64, le=LARGEST)

    def in_view(self, source: ReviewSource, number: int) -> InView:
        """The view of a result it asks for. Raises NotFound for a step, a part or a side there is not."""
        names = list(source.mesh.part_names)
        for name in (*self.hidden, *self.only):
            if name not in names:
                raise NotFound(f"There is no part '{name}' in this result.", f"There are: {', '.join(names)}.")
        away = [i for i, n in enumerate(names) if n in self.hidden or (self.only and n not in self.only)]
        shown = self.model_dump(
            include={"low", "high", "bands", "map", "log", "iso", "style", "mesh_lines", "labelled", "perspective"}
        )
        return InView(
            result=number,
            reading=ReadingWords(**self.model_dump(include=set(ReadingWords.model_fields))),
            step=find_step(source, self.step),
            exaggeration=self.exaggeration,
            hidden=away,
            camera=list(self._direction()),
            **shown,
        )

    def _direction(self) -> tuple[float, ...]:
        if not self.side:
            return ()
        if self.side in SIDES:
            return SIDES[self.side]
        try:
            x, y, z = (float(v) for v in self.side.split(","))
        except ValueError as error:
            raise NotFound(f"'{self.side}' is no side to look from.", f"Write {', '.join(SIDES)}, or X,Y,Z.") from error
        return x, y, z


def picture(review: Review, asked: PictureWords, result: int | str | None = None, said: str = "") -> bytes:
    """A picture of a result (the newest) as PNG. Raises IronstoneError where it cannot be drawn."""
    source = review.result(result)
    view = asked.in_view(source, source.id)
    return picture_of_view(review, view, (asked.width, asked.height), said or f"Result {source.name}")
