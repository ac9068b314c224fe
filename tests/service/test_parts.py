"""The service's own pieces: packing, jobs, uploads."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import AsyncIterator, Coroutine
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.service import uploads as module
from ironstone.service.binary import pack
from ironstone.service.jobs import Jobs
from ironstone.service.uploads import Uploads
from tests.service.test_service import unpacked


def test_packed_arrays_come_out_as_they_went_in_and_lie_aligned() -> None:
    arrays = {
        "positions": np.arange(9.0).reshape(3, 3),
        "triangles": np.array([[0, 1, 2]]),
        "empty": np.zeros((0, 2), dtype=np.uint32),
        "values": np.array([1.5, np.nan], dtype=np.float32),
    }
    data = pack({"sentence": "von Mises · §", "faces": 1}, arrays)
    head, found = unpacked(data)
    assert head["sentence"] == "von Mises · §" and head["faces"] == 1
    for name, values in arrays.items():
        assert found[name].shape == values.shape
        assert np.array_equal(found[name], values, equal_nan=True)
    assert (4 + int.from_bytes(data[:4], "little")) % 8 == 0


def finished(jobs: Jobs, job: str) -> str:
    thread = jobs.get(job).thread
    assert thread is not None
    thread.join(10)
    return jobs.get(job).out.state


def test_a_job_tells_its_progress_and_its_result() -> None:
    jobs, seen = Jobs(), threading.Event()

    def work(tell) -> int:  # type: ignore[no-untyped-def]
        tell(0.5, "half way")
        seen.set()
        return 7

    job = jobs.start(work)
    assert seen.wait(10)
    assert finished(jobs, job.id) == "done"
    assert jobs.get(job.id).out.result == 7


def test_a_job_that_is_stopped_stops_at_its_next_word() -> None:
    jobs, begun, go = Jobs(), threading.Event(), threading.Event()

    def work(tell) -> int:  # type: ignore[no-untyped-def]
        begun.set()
        go.wait(10)
        tell(0.9, "too late")
        raise AssertionError("it went on")

    job = jobs.start(work)
    assert begun.wait(10)
    jobs.cancel(job.id)
    go.set()
    assert finished(jobs, job.id) == "stopped"
    assert jobs.get(job.id).out.error == "Stopped by you."


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (IronstoneError("It is damaged.", "Leave it out."), "It is damaged."),
        (ValueError("odd"), "It failed in a way that was not foreseen (ValueError)."),
    ],
)
def test_a_job_that_fails_ends_with_a_word(error: Exception, words: str) -> None:
    def work(tell) -> int:  # type: ignore[no-untyped-def]
        raise error

    jobs = Jobs()
    job = jobs.start(work)
    assert finished(jobs, job.id) == "failed"
    assert jobs.get(job.id).out.error == words and jobs.get(job.id).out.hint


def waited(work: Coroutine[Any, Any, int]) -> int:
    """The result of asynchronous work, in a thread of its own: the browser's loop may run in this one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, work).result()


async def chunks(*pieces: bytes) -> AsyncIterator[bytes]:
    for piece in pieces:
        yield piece


def test_an_upload_is_kept_apart_and_dropped_whole(tmp_path: Path) -> None:
    uploads = Uploads(tmp_path)
    first, second = uploads.begin(), uploads.begin()
    assert waited(uploads.receive(first, "step_1.vtu", chunks(b"abc", b"de"))) == 5
    assert [f.read_bytes() for f in uploads.files(first)] == [b"abcde"]
    assert uploads.files(second) == []
    uploads.drop(first)
    with pytest.raises(NotFound):
        uploads.files(first)
    uploads.close()
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("name", ["../x.vtu", "a/b.vtu", "a\\b.vtu", ".x", "", "x\x00.vtu", "x" * 201])
def test_a_name_that_could_lead_elsewhere_is_refused(tmp_path: Path, name: str) -> None:
    uploads = Uploads(tmp_path)
    with pytest.raises(IronstoneError, match="not a file name"):
        waited(uploads.receive(uploads.begin(), name, chunks(b"x")))


@pytest.mark.parametrize("upload", ["..", "0" * 31, "g" * 32, "0" * 32])
def test_an_upload_that_was_not_begun_is_not_found(tmp_path: Path, upload: str) -> None:
    with pytest.raises(NotFound):
        Uploads(tmp_path).files(upload)


def test_a_file_beyond_the_bound_is_refused_and_removed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "LARGEST_FILE", 4)
    uploads = Uploads(tmp_path)
    upload = uploads.begin()
    with pytest.raises(IronstoneError, match="larger than"):
        waited(uploads.receive(upload, "big.vtu", chunks(b"abc", b"de")))
    assert uploads.files(upload) == []
