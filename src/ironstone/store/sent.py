"""A review that was sent, held against the hash that came with it."""

from __future__ import annotations

import hashlib
from pathlib import Path

from ironstone.core.errors import IronstoneError
from ironstone.store import log_of

# Beside a copy stands its SHA-256, as the command sha256sum writes and reads it.
HASH = ".sha256"


def sha256(path: Path) -> str:
    found = hashlib.sha256()
    with path.open("rb") as stream:
        while piece := stream.read(1 << 22):
            found.update(piece)
    return found.hexdigest()


def check_sent(path: Path) -> bool:
    """Hold a review that was sent against the hash beside it, once: the first time it is opened here. Returns whether it was.

    Raises IronstoneError where it is not what was sent.
    """
    beside = path.with_name(path.name + HASH)
    if not beside.is_file() or log_of.log(path).exists():
        return False
    stated = beside.read_text(encoding="utf-8", errors="replace").split()
    if not stated or len(stated[0]) != 64 or path.stat().st_mtime > beside.stat().st_mtime + 2.0:
        # It was changed here since: that is no matter of its way.
        return False
    if sha256(path) != stated[0].lower():
        raise IronstoneError(
            f"{path.name} is not what was sent: its SHA-256 is another than that in {beside.name}.",
            "Have it sent again; or remove that file to open it nevertheless.",
        )
    return True
