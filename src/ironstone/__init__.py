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
    from ironstone.store.review import Review

__version__ = "0.1.0"
__all__ = ["ask", "keep", "open", "run", "take_in"]


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
