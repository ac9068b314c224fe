"""Files on their way in: kept in a folder of their own beside the review, under checked names, within bounds."""

from __future__ import annotations

import re
import shutil
import uuid
from collections.abc import AsyncIterator
from contextlib import ExitStack
from pathlib import Path

from fastapi import Request

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.engine.curves.records import LARGEST_RECORD
from ironstone.store.lease import UPLOADS, leased

LARGEST_FILE = 4 * 1024**3
MOST_FILES = 20_000


class Uploads:
    """All uploads of this service; removed when it ends or when an intake has used them."""

    def __init__(self, beside: Path) -> None:
        self._held = ExitStack()
        self._folder = self._held.enter_context(leased(beside, UPLOADS))

    def close(self) -> None:
        self._held.close()

    def begin(self) -> str:
        name = uuid.uuid4().hex
        (self._folder / name).mkdir()
        return name

    def folder(self, upload: str) -> Path:
        path = self._folder / upload
        if not re.fullmatch(r"[0-9a-f]{32}", upload) or not path.is_dir():
            raise NotFound("There is no such upload.", "Choose the files again.")
        return path

    def drop(self, upload: str) -> None:
        shutil.rmtree(self.folder(upload), ignore_errors=True)

    async def receive(self, upload: str, name: str, chunks: AsyncIterator[bytes]) -> int:
        """Write one file; returns its size."""
        folder = self.folder(upload)
        if not re.fullmatch(r"[^/\\\x00-\x1f]{1,200}", name) or name.startswith("."):
            raise IronstoneError(f"'{name[:60]}' is not a file name that can be taken.", "Rename the file.")
        if sum(1 for _ in folder.iterdir()) >= MOST_FILES:
            raise IronstoneError(f"More than {MOST_FILES} files were sent at once.", "Take the series in by parts.")
        size = 0
        target = folder / name
        try:
            with target.open("wb") as stream:
                async for chunk in chunks:
                    size += len(chunk)
                    if size > LARGEST_FILE:
                        raise IronstoneError(f"{name} is larger than {LARGEST_FILE // 1024**3} GB.", "Use the command line.")
                    stream.write(chunk)
        except BaseException:
            # Whoever sent it went away, or the disk is full: half a file is no file.
            target.unlink(missing_ok=True)
            raise
        return size

    def files(self, upload: str) -> list[Path]:
        return sorted(self.folder(upload).iterdir())


async def bounded(request: Request, name: str) -> bytes:
    """The body of a request, given up as soon as it is larger than a record may be, whatever it says of its length."""
    pieces, size = [], 0
    async for piece in request.stream():
        size += len(piece)
        if size > LARGEST_RECORD:
            raise IronstoneError(f"{name} is larger than {LARGEST_RECORD // 1024**2} MB.", "Thin it out first.")
        pieces.append(piece)
    return b"".join(pieces)
