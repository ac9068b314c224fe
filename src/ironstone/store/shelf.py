"""The reviews a service may open: those in the folders it was given at its start, and no others."""

from __future__ import annotations

import json
import sqlite3
import threading
from collections.abc import Callable, Sequence
from contextlib import closing, suppress
from dataclasses import dataclass, field
from pathlib import Path
from time import monotonic

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
# So many reviews stay open, and one of more is closed when nobody has asked for it for so many seconds.
MOST_OPEN, UNASKED = 4, 300.0
# Stands between the number of a folder and the file, where an address needs both.
OF_FOLDER = "~"


@dataclass(eq=False)
class _Held:
    """A review that is open, and when it was asked for last."""

    review: Review
    asked: float = field(default_factory=monotonic)


class Shelf:
    """The reviews that are open, and the folders in which others are looked for and made.

    Each window of the bench has a review of its own: it names it in its addresses (``name_of``, ``at``). One that names none means
    the one that was opened last. busy: whether long work goes on, during which no review is closed.
    """

    def __init__(self, review: Review, folders: Sequence[Path] = (), busy: Callable[[], bool] = lambda: False) -> None:
        """folders: beside that of the review itself."""
        self.review = review
        self.folders = list(dict.fromkeys(p.resolve() for p in (review.path.parent, *folders)))
        self._own = review
        self._busy = busy
        self._held: dict[Path, _Held] = {review.path.resolve(): _Held(review)}
        self._turning = threading.Lock()

    def reviews(self, in_view: Review | None = None) -> list[OnShelf]:
        """All reviews of the folders, the last changed first; what only looks like one is left out. in_view: the one that is open
        where this is asked."""
        here = (in_view or self.review).path.resolve()
        found = []
        for number, folder in enumerate(self.folders):
            for path in folder.glob(f"*{SUFFIX}"):
                held = self._held.get(path.resolve())
                with suppress(IronstoneError, OSError, sqlite3.Error):
                    name = held.review.name if held else _name_in(path)
                    state = path.stat()
                    found.append(OnShelf(path.name, number, name, state.st_size, state.st_mtime, path.resolve() == here))
        return sorted(found, key=lambda r: -r.changed)

    def name_of(self, review: Review) -> str:
        """How addresses name a review: its file, with the number of its folder where an earlier folder has a file of that name."""
        path = review.path.resolve()
        for number, folder in enumerate(self.folders):
            if folder == path.parent:
                first = next((n for n, f in enumerate(self.folders) if (f / path.name).is_file()), number)
                return path.name if first == number else f"{number}{OF_FOLDER}{path.name}"
        return path.name

    def at(self, name: str) -> Review:
        """The review an address names; '' the one that was opened last. Raises NotFound where no folder has it."""
        if not name:
            return self._asked(self.review)
        number, of_folder, file = name.partition(OF_FOLDER)
        if of_folder and number.isdigit() and not (self.folders[0] / name).is_file():
            return self._asked(self._opened(self._path(file, int(number))))
        for folder in range(len(self.folders)):
            with suppress(NotFound):
                return self._asked(self._opened(self._path(name, folder)))
        raise _no_review(name)

    def make(self, name: str, folder: int = 0) -> Review:
        """Make a review of a name, in a file called after it, and open it. Raises IronstoneError where that cannot be."""
        name = name.strip()
        if not name or len(name) > LONGEST_NAME:
            raise IronstoneError(f"A review needs a name of 1 to {LONGEST_NAME} characters.", "Name it after its question.")
        stem = "".join(c if c.isalnum() or c in "-_" else "_" for c in name)
        # A file's name is bounded in bytes, and letters may have four.
        stem = stem.encode()[:MOST_BYTES].decode(errors="ignore")
        made = Review.create(self._folder(folder) / f"{stem}{SUFFIX}", name)
        with self._turning:
            self._held[made.path.resolve()] = _Held(made)
        return self._turn_to(made)

    def open(self, file: str, folder: int = 0) -> Review:
        """Open one of the reviews of the folders; windows that have another one keep it. Raises NotFound for any other file."""
        return self._turn_to(self._opened(self._path(file, folder)))

    def close(self) -> None:
        """Close what was opened here; the review it began with is left to who opened it."""
        for held in self._held.values():
            held.review.naming.stop()
            if held.review is not self._own:
                held.review.close()

    def _path(self, file: str, folder: int) -> Path:
        path = self._folder(folder) / file
        if path.name != file or path.suffix != SUFFIX or path.resolve().parent != self._folder(folder) or not path.is_file():
            raise _no_review(file)
        return path.resolve()

    def _opened(self, path: Path) -> Review:
        """The review of a file, opened where it is not yet."""
        held = self._held.get(path)
        if held is not None:
            return held.review
        with self._turning:
            if path not in self._held:
                self._held[path] = _Held(Review.open(path))
            return self._held[path].review

    def _asked(self, review: Review) -> Review:
        held = self._held.get(review.path.resolve())
        if held:
            held.asked = monotonic()
        return review

    def _folder(self, number: int) -> Path:
        if not 0 <= number < len(self.folders):
            raise NotFound("There is no such folder here.", "The folders are those given when the bench was started.")
        return self.folders[number]

    def _turn_to(self, review: Review) -> Review:
        """From now on this is the one that is meant where none is named."""
        with self._turning:
            self.review = review
            self._put_away()
        return self._asked(review)

    def _put_away(self) -> None:
        """Close those that nobody has asked for a while, so that no more than a few stay open."""
        for path, held in sorted(self._held.items(), key=lambda item: item[1].asked):
            if len(self._held) <= MOST_OPEN or self._busy():
                return
            if held.review not in (self._own, self.review) and monotonic() - held.asked > UNASKED:
                del self._held[path]
                held.review.naming.stop()
                held.review.close()


def _no_review(name: str) -> NotFound:
    return NotFound(f"There is no review {name[:80]} in the folders of this bench.", "Choose one of the list.")


def _name_in(path: Path) -> str:
    """What a review is called, without opening it for writing. Raises IronstoneError where it is none."""
    known.check(path, set(layouts()))
    with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro&immutable=1", uri=True)) as database:
        given = database.execute(
            "SELECT payload FROM item WHERE kind = 'title' AND NOT removed ORDER BY id DESC LIMIT 1"
        ).fetchone()
        made = database.execute("SELECT name FROM review").fetchone()
    return str(json.loads(given[0])["name"]) if given else str(made[0]) if made else path.stem
