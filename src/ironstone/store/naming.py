"""Files named for good: by size, time and XXH3 while they are taken in, by SHA-256 once the result is there, beside other work."""

from __future__ import annotations

import hashlib
import os
import sys
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import xxhash

from ironstone.store.cells import Broken
from ironstone.store.models import ResultRow, seal_result
from ironstone.store.opened import OpenReview

PIECE = 1024**2
# How much less urgent than others the naming is to the system.
NICE = 15


def _mark(path: Path) -> tuple[int, int]:
    """Size and moment of the last change of a file; of one that is gone what no file has."""
    try:
        found = path.stat()
    except OSError:
        return -1, -1
    return found.st_size, found.st_mtime_ns


@dataclass(frozen=True)
class Given:
    """A file as it was when its reading began, and the quick checksum of what it holds (None where it went meanwhile)."""

    path: Path
    mark: tuple[int, int]
    quick: Future[str | None]

    @property
    def still(self) -> bool:
        """Whether it is the file that was read."""
        return _mark(self.path) == self.mark


def _summed(path: Path, summed: Any, wanted: Callable[[], bool]) -> str | None:
    try:
        with path.open("rb") as stream:
            while piece := stream.read(PIECE):
                if not wanted():
                    return None
                summed.update(piece)
    except OSError:
        return None
    return str(summed.hexdigest())


def given(paths: Sequence[Path], aside: Executor) -> list[Given]:
    """Files that are about to be read; their quick checksums are made beside."""
    return [Given(p, _mark(p), aside.submit(_summed, p, xxhash.xxh3_64(), lambda: True)) for p in paths if p.is_file()]


def described(files: Sequence[Given]) -> tuple[list[dict[str, Any]], list[str]]:
    """How files are kept with the result that was made of them, and what is to be said of those that changed meanwhile."""
    rows, said = [], []
    for file in files:
        quick = file.quick.result()
        if not (still := file.still and quick is not None):
            said.append(f"{file.path.name} was changed, moved or removed while it was taken in: here is what was read of it.")
        rows.append({"name": file.path.name, "bytes": file.mark[0], "modified": file.mark[1], "xxh3": quick if still else None})
    return rows, said


class Naming:
    """What names the files of one open review, one after the other, in a thread that gives way to all others."""

    def __init__(self, review: OpenReview) -> None:
        self._review = review
        self._stopped = threading.Event()
        self._work: ThreadPoolExecutor | None = None

    def follow(self, result_id: int, files: Sequence[Given]) -> Future[None]:
        """Name the files of a result; done when they are, or when it was stopped."""
        if self._work is None:
            self._work = ThreadPoolExecutor(1, "naming", initializer=give_way)
        return self._work.submit(self._name, result_id, files)

    def _name(self, result_id: int, files: Sequence[Given]) -> None:
        names = {}
        for file in files:
            found = _summed(file.path, hashlib.sha256(), lambda: not self._stopped.is_set()) if file.still else None
            if self._stopped.is_set():
                return
            if found is not None and file.still:
                names[file.path.name] = found
        with suppress(Exception), self._review.writing() as session:
            # A result that was removed meanwhile, or a disk that is full: the quick checksum stands.
            row = session.get(ResultRow, result_id)
            if row is None or isinstance(row.files, Broken):
                return
            row.files = [{**f, "sha256": names.get(f["name"])} for f in row.files]
            session.flush()
            seal_result(row)

    def wait(self) -> None:
        """Wait until all that is known of so far is named."""
        if self._work is not None:
            self._work.submit(lambda: None).result()

    def stop(self) -> None:
        """Name nothing more: what is not named yet keeps its quick checksum."""
        self._stopped.set()

    def end(self) -> None:
        """Wait until all is named, or what is at work has heard that it is to stop."""
        if self._work is not None:
            self._work.shutdown(cancel_futures=self._stopped.is_set())


def give_way() -> None:
    """What this thread does is less urgent than all else."""
    if sys.platform == "linux":
        with suppress(OSError):
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICE)
