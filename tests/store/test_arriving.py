"""A result can be looked at while it is being stored: the same answers as afterwards, and nothing kept with it before."""

from __future__ import annotations

import threading
from pathlib import Path

import numpy as np
import pytest

from bench.models import make
from ironstone.core.errors import IronstoneError, NotFound
from ironstone.core.mesh.places import AtCorners, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from ironstone.store.source import ReviewSource

READINGS = (Reading("stress", "von-mises"), Reading("stress", "xx", "part"), Reading("displacement", "x"))


def answers(source: ReviewSource) -> list[bytes]:
    asked = (Reading(r.field, r.measure, r.averaging, step=step) for r in READINGS for step in range(len(source.steps)))
    return [evaluate(r, source, AtCorners()).values.tobytes() for r in asked]


@pytest.mark.parametrize("small", [True, False])
def test_what_is_seen_before_it_is_stored_is_what_is_seen_after(
    bar_files: list[Path], tmp_path: Path, small: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    import sys

    if not small:
        monkeypatch.setattr(sys.modules["ironstone.store.runs_read"], "SMALL_STEP", 0)
    seen: dict[str, object] = {}
    with Review.create(tmp_path / "a.ironstone") as review:

        def shown(result: int) -> None:
            source = review.result(result)
            assert source.arriving and review.results() == [] and review.arriving() == [source]
            seen["answers"], seen["revision"], seen["mesh"] = answers(source), source.revision, source.mesh
            seen["trace"] = trace(Reading("displacement", "x"), source, AtNodes(np.array([3]))).values.tolist()
            answer = contents(source)
            assert (
                answer["arriving"]
                and answer["nodes"] == 16
                and [s["value"] for s in answer["steps"]] == [s.value for s in source.steps]
            )

        result = intake(review, bar_files, shown=shown)
        source = review.result(result)
        assert not source.arriving and review.arriving() == []
        assert answers(source) == seen["answers"]
        assert source.revision == seen["revision"], "what the browser has is still good"
        assert source.mesh is seen["mesh"], "what was drawn of it still is"
        assert trace(Reading("displacement", "x"), source, AtNodes(np.array([3]))).values.tolist() == seen["trace"]
    with Review.open(tmp_path / "a.ironstone") as review:
        assert answers(review.result()) == seen["answers"]


def test_nothing_is_kept_with_it_before_it_is_stored(bar_files: list[Path], tmp_path: Path) -> None:
    with Review.create(tmp_path / "a.ironstone") as review:

        def shown(result: int) -> None:
            with pytest.raises(IronstoneError, match="still being stored"):
                review.set_units(result, "m-N-s-kg-Pa")
            with pytest.raises(IronstoneError, match="still being stored"):
                review.add("flag", {"result": result, "node": 1}, "Flag planted")

        intake(review, bar_files, shown=shown)
        assert [i.kind for i in review.items()] == ["result"]


def test_an_intake_that_fails_after_it_was_shown_leaves_nothing(bar_files: list[Path], tmp_path: Path) -> None:
    with Review.create(tmp_path / "a.ironstone") as review:

        def shown(result: int) -> None:
            raise IronstoneError("Stopped.", "")

        with pytest.raises(IronstoneError, match="Stopped"):
            intake(review, bar_files, shown=shown)
        assert review.results() == [] and review.arriving() == []
        with pytest.raises(NotFound):
            review.result(1)


def test_it_is_read_on_while_its_steps_go_into_the_review(tmp_path: Path) -> None:
    """A reader of all steps beside the storing, of steps too large to stay mapped: never an error, never another value."""
    import sys

    files = [make(tmp_path / f"box_{i}.vtu", 3000) for i in range(6)]
    module = sys.modules["ironstone.store.runs_read"]
    kept, module.SMALL_STEP = module.SMALL_STEP, 0  # type: ignore[attr-defined]
    failed: list[BaseException] = []
    done = threading.Event()
    try:
        with Review.create(tmp_path / "a.ironstone") as review:

            def look(source: ReviewSource) -> None:
                try:
                    first = answers(source)
                    while not done.is_set():
                        source._cache.clear()
                        assert answers(source) == first
                except BaseException as error:
                    failed.append(error)

            threads: list[threading.Thread] = []

            def shown(result: int) -> None:
                threads.append(threading.Thread(target=look, args=(review.result(result),)))
                threads[0].start()

            intake(review, files, shown=shown)
            done.set()
            threads[0].join()
    finally:
        module.SMALL_STEP = kept  # type: ignore[attr-defined]
    assert failed == []
