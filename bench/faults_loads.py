"""An attack on what goes on behind a result that is in: the program killed while it looks for loads, and while it stores them."""

from __future__ import annotations

import multiprocessing
import os
import random
import signal
import time
from collections import Counter
from pathlib import Path

from ironstone.store import Review, intake
from ironstone.store.damage import check
from ironstone.store.describe import whole_contents
from tests.store.test_loads import NAME, pulled


def loads_sought(folder: Path, tries: int) -> Counter[str]:
    """A process that takes a loaded body in, killed at a random moment after it is in: whoever opens the review next has its loads,
    the same ones, or finds them."""
    file = pulled(folder)[0]
    rng, found = random.Random(41), Counter[str]()
    context = multiprocessing.get_context("spawn")
    for k in range(tries):
        path = folder / f"loads_{k}.ironstone"
        ready, says = context.Pipe()
        child = context.Process(target=_work, args=(path, file, says))
        child.start()
        ready.poll(60)
        time.sleep(rng.random() * 0.08)
        os.kill(child.pid or 0, signal.SIGKILL)
        child.join()
        ready.close()
        found[_after(path)] += 1
    return found


def _work(path: Path, file: Path, says: object) -> None:
    with Review.create(path) as review:
        intake(review, [file], "pulled", "mm-N-s-t-MPa")
        says.send("in")  # type: ignore[attr-defined]
        while True:
            time.sleep(1.0)


def _after(path: Path) -> str:
    try:
        with Review.open(path) as review:
            if not check(review)["whole"]:
                return "damaged"
            told = [s for s in whole_contents(review)["sets"] if s["name"] == NAME]
            nodes = review.result().mesh.node_sets.get(NAME)
            right = nodes is not None and bool((review.result().mesh.points[nodes, 0] == 2.0).all())
            return "kept" if len(told) == 1 and right else "lost"
    except Exception as error:
        return f"failed: {type(error).__name__}"
