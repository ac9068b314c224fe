"""What is on its way into a review belongs to a process that lives; what a dead one has left behind can be told, and is swept.

The folder an intake works in, beside the review, holds a file that its process keeps locked. The system lets the lock go when the
process ends, however it ends.
"""

from __future__ import annotations

import fcntl
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ARRIVING, UPLOADS = ".arriving-", ".uploads-"
LOCK = "held"
# A folder may stand for a moment before its lock does.
YOUNG = 30.0


@contextmanager
def leased(beside: Path, prefix: str) -> Iterator[Path]:
    """A folder of this process' own beside the review, removed in the end."""
    folder = Path(tempfile.mkdtemp(prefix=prefix, dir=beside))
    try:
        with (folder / LOCK).open("w") as stream:
            fcntl.flock(stream, fcntl.LOCK_EX)
            yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def abandoned(folder: Path) -> bool:
    """Whether nobody works in a folder any more: it has gone, or its lock is free."""
    if not folder.is_dir():
        return True
    lock = folder / LOCK
    try:
        with lock.open("r+") as stream:
            fcntl.flock(stream, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return True
    except FileNotFoundError:
        return time.time() - folder.stat().st_mtime > YOUNG
    except OSError:
        return False


def sweep(beside: Path) -> int:
    """Remove folders that dead processes have left beside the reviews of a folder; returns how many."""
    left = [f for prefix in (ARRIVING, UPLOADS) for f in beside.glob(f"{prefix}*") if f.is_dir() and abandoned(f)]
    for folder in left:
        shutil.rmtree(folder, ignore_errors=True)
    return len(left)
