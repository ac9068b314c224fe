"""The reviews a service may open: those in the folders it was given at its start, and no others."""

from __future__ import annotations

import json
import sqlite3
import threading
from collections.abc import Sequence
from contextlib import closing, suppress
from dataclasses import dataclass
from pathlib import Path

from ironstone.core.errors import IronstoneError, NotFound
from ironstone.store import known
from ironstone.store.layout import layouts
from ironstone.store.review import Review

SUFFIX = ".ironstone"
LONGEST_NAME = 80


@dataclass(frozen=True)
class OnShelf:
    """A review that can be opened. folder: its number among the folders; changed: seconds since 1970."""

    file: str
    folder: int
    name: str
    bytes: int
    changed: float
    open: bool


MOST_BYTES = 180


class Shelf:
    """The review that is open, and the folders in which others are looked for and made."""

    def __init__(self, review: Review, folders: Sequence[Path] = ()) -> None:
        """folders: beside that of the review itself."""
        self.review = review
        self.folders = list(dict.fromkeys(p.resolve() for p in (review.path.parent, *folders)))
        self._own = review
        self._turning = threading.Lock()

    def reviews(self) -> list[OnShelf]:
        """All reviews of the folders, the last changed first; what only looks like one is left out."""
        found = []
        for number, folder in enumerate(self.folders):
            for path in folder.glob(f"*{SUFFIX}"):
                is_open = path.resolve() == self.review.path.resolve()
                with suppress(IronstoneError, OSError, sqlite3.Error):
                    name = self.review.name if is_open else _name_in(path)
                    state = path.stat()
                    found.append(OnShelf(path.name, number, name, state.st_size, state.st_mtime, is_open))
        return sorted(found, key=lambda r: -r.changed)

    def make(self, name: str, folder: int = 0) -> Review:
        """Make a review of a name, in a file called after it, and open it. Raises IronstoneError where that cannot be."""
        name = name.strip()
        if not name or len(name) > LONGEST_NAME:
            raise IronstoneError(f"A review needs a name of 1 to {LONGEST_NAME} characters.", "Name it after its question.")
        stem = "".join(c if c.isalnum() or c in "-_" else "_" for c in name)
        # A file's name is bounded in bytes, and letters may have four.
        stem = stem.encode()[:MOST_BYTES].decode(errors="ignore")
        return self._turn_to(Review.create(self._folder(folder) / f"{stem}{SUFFIX}", name))

    def open(self, file: str, folder: int = 0) -> Review:
        """Open one of the reviews of the folders in place of the one that is open. Raises NotFound for any other file."""
        path = self._folder(folder) / file
        if path.name != file or path.suffix != SUFFIX or path.resolve().parent != self._folder(folder) or not path.is_file():
            raise NotFound(f"There is no review {file[:80]} in the folders of this bench.", "Choose one of the list.")
        for held in (self.review, self._own):
            if path.resolve() == held.path.resolve():
                return self._turn_to(held)
        return self._turn_to(Review.open(path))

    def close(self) -> None:
        """Close what was opened here; the review it began with is left to who opened it."""
        self._own.naming.stop()
        if self.review is not self._own:
            self.review.naming.stop()
            self.review.close()

    def _folder(self, number: int) -> Path:
        if not 0 <= number < len(self.folders):
            raise NotFound("There is no such folder here.", "The folders are those given when the bench was started.")
        return self.folders[number]

    def _turn_to(self, review: Review) -> Review:
        with self._turning:
            before, self.review = self.review, review
        if before is not self._own and before is not review:
            before.naming.stop()
            before.close()
        return review


def _name_in(path: Path) -> str:
    """What a review is called, without opening it for writing. Raises IronstoneError where it is none."""
    known.check(path, set(layouts()))
    with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro&immutable=1", uri=True)) as database:
        given = database.execute(
            "SELECT payload FROM item WHERE kind = 'title' AND NOT removed ORDER BY id DESC LIMIT 1"
        ).fetchone()
        made = database.execute("SELECT name FROM review").fetchone()
    return str(json.loads(given[0])["name"]) if given else str(made[0]) if made else path.stem
