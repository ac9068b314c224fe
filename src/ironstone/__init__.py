"""Ironstone Ridge: the bench where finite element results are reviewed. From Python::

import ironstone

with ironstone.open("flexure.ironstone") as review:
    stress = review.result().read("stress", "von-mises", averaging="part", step=230)
    print(stress.quantity.max(), stress.resolved.sentence(), stress.caveats)
"""

from __future__ import annotations

from os import PathLike
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ironstone.engine.carrier import Answer
    from ironstone.engine.notebook import Look
    from ironstone.engine.recipes.replay import Replayed
    from ironstone.store.review import Review

__version__ = "0.1.0"
__all__ = ["ask", "keep", "look", "open", "replay", "report", "run", "take_in"]


def open(path: str | PathLike[str]) -> Review:  # shadows the builtin on purpose: ironstone.open(...)
    """Open a review file. Raises IronstoneError when it is not there or is none."""
    from ironstone.store.review import Review

    return Review.open(Path(path))


def take_in(path: str | PathLike[str], files: Sequence[str | PathLike[str]], name: str = "", units: str | None = None) -> Review:
    """Take result files into a review, made when it is not there, and return it open; the result is its newest."""
    from ironstone.engine.together import take_in as taken_in
    from ironstone.store.review import Review

    target = Path(path)
    review = Review.open(target) if target.exists() else Review.create(target)
    taken_in(review, [Path(f) for f in files], name or None, units)
    return review


def ask(review: Review, kind: str, **words: Any) -> Answer:
    """Ask any kind of question: ``ask(review, "read", field="stress", measure="von-mises", at="node:8")``.

    Raises IronstoneError, with the kinds there are or the words a kind has, for what cannot be asked.
    """
    from ironstone.engine.base import ask as answered
    from ironstone.engine.base import question_of

    return answered(review, question_of(kind, words))


def look(review: Review, field: str, result: int | str | None = None, **words: Any) -> Look:
    """A view of a result (the newest): ``look(review, "stress", measure="von-mises", exaggeration=10).save("peak.png")``.

    words: those of a reading, and how the model is shown (low, high, bands, hidden, only, side, width, height, ...), as the command
    ``picture`` has them. A notebook shows the picture with its highest and lowest. Raises IronstoneError where it cannot be drawn.
    """
    from pydantic import ValidationError

    from ironstone.core.errors import IronstoneError
    from ironstone.engine.base import said_of
    from ironstone.engine.notebook import Look
    from ironstone.engine.picture.asked import PictureWords, picture
    from ironstone.engine.words import ReadingWords

    try:
        asked = PictureWords.model_validate({"field": field, **words})
    except ValidationError as error:
        raise IronstoneError(f"The picture cannot be drawn: {said_of(error)}.") from error
    reading = asked.model_dump(include=set(ReadingWords.model_fields))
    return Look(picture(review, asked, result), ask(review, "read", **reading, step=asked.step, result=result, extremes=True))


def report(review: Review, path: str | PathLike[str]) -> None:
    """Write the report of a review to NAME.html or NAME.pdf. Raises IronstoneError for another name."""
    from ironstone.core.errors import IronstoneError
    from ironstone.engine.report.html import report_html
    from ironstone.engine.report.pdf import report_pdf

    target = Path(path)
    if target.suffix.lower() not in (".html", ".pdf"):
        raise IronstoneError(f"A report is written as HTML or PDF, and not as {target.suffix}.", "Name it NAME.html or NAME.pdf.")
    data = report_pdf(review) if target.suffix.lower() == ".pdf" else report_html(review).encode()
    target.write_bytes(data)


def replay(
    path: str | PathLike[str], files: Sequence[str | PathLike[str]], result: str | None = None, tolerance: float = 0.01
) -> Replayed:
    """Replay what is kept of a result of a review file on the files of a revised one; the review is left as it is.

    Returns what became of each hand check and exhibit (``items``: status same, changed or gone). Raises IronstoneError for files
    that cannot be read.
    """
    from ironstone.engine.recipes.replay import replay as replayed

    return replayed(Path(path), [Path(f) for f in files], result, tolerance)


def run(
    recipe: str | PathLike[str],
    files: Sequence[str | PathLike[str]],
    folder: str | PathLike[str],
    jobs: int = 1,
    **parameters: float | str | bool,
) -> list[dict[str, Any]]:
    """Run a recipe over files (each one run, or "NAME=FILES"), and return what each came to, as in its ``values.json``.

    The folders of the runs and their summary are written as by the command. Raises IronstoneError where the recipe cannot be read.
    """
    from ironstone.engine.recipes.many import orders, run_all
    from ironstone.engine.recipes.recipe import read_recipe
    from ironstone.engine.recipes.summary import summarised

    stated, out = read_recipe(Path(recipe)), Path(folder)
    came_to = run_all(orders(stated, [str(f) for f in files], out, parameters), jobs)
    summarised(stated, came_to, out)
    return came_to


def keep(review: Review, kind: str, **words: Any) -> int:
    """Keep something in a review and return its number: ``keep(review, "flag", result=1, node=8)``."""
    from ironstone.engine.base import keep as kept
    from ironstone.engine.base import thing_of

    return kept(review, thing_of(kind, words)).id
