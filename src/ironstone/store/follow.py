"""A run that still goes on: its finished files are a result now, and those that come later are added when they are there."""

from __future__ import annotations

import glob
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from threading import Event, Thread

from ironstone.core.errors import IronstoneError
from ironstone.formats import numbered_order
from ironstone.store.again import take_again
from ironstone.store.arrival import intake
from ironstone.store.review import Review

State = dict[Path, tuple[int, int]]


@dataclass(frozen=True)
class Looked:
    """What one look found: how many steps the result has, whether there were more than before, the files that are not taken yet,
    and why the last of them was not, in words."""

    steps: int
    more: bool
    waiting: list[str] = field(default_factory=list)
    said: str = ""


class Following:
    """Follows the files of a pattern into a result of a review."""

    def __init__(self, review: Review, pattern: str, name: str, system: str | None = None) -> None:
        """pattern: of files, with * and ?. name: of the result, made with the first files where there is none."""
        self.review, self.pattern, self.name, self.system = review, pattern, name, system
        self.steps = 0
        # Called something else meanwhile, it is the same result.
        self._number: int | None = None
        self._seen: State = {}
        self._taken: State = {}
        self._left: State = {}
        self._said = ""
        there = next((r for r in review.results() if r.name == name), None)
        if there is not None:
            self._number = there.id
            self.steps = len(there.steps)
            held = {(f["name"], f["bytes"]) for f in there.files}
            self._taken = {p: s for p, s in self._found().items() if (p.name, s[0]) in held}

    def _found(self) -> State:
        found: State = {}
        for text in glob.glob(self.pattern):
            path = Path(text)
            try:
                told = path.stat()
            except OSError:
                continue
            if path.is_file() and told.st_size:
                found[path] = (told.st_size, told.st_mtime_ns)
        return found

    def look(self) -> Looked:
        """Look once. A file is taken when it was the same at the look before; one that cannot be read is left until it can be.

        Raises IronstoneError where the files that are whole cannot be one result.
        """
        found = self._found()
        # One that could not be read is not tried again before it is another one.
        self._left = {p: s for p, s in self._left.items() if found.get(p) == s}
        known = {p: s for p, s in found.items() if self._seen.get(p) == s or self._taken.get(p) == s}
        still = {p: s for p, s in known.items() if p not in self._left}
        self._seen = found
        whole, more = numbered_order(list(still)), False
        while whole and {p: still[p] for p in whole} != self._taken:
            try:
                self._take(whole)
                self._taken, more = {p: still[p] for p in whole}, True
            except IronstoneError as error:
                # The last one of a series may be half written.
                if whole[-1].name not in error.message:
                    raise
                self._left[whole[-1]], self._said = still[whole[-1]], str(error)
                whole.pop()
        waiting = sorted(p.name for p in found if p not in self._taken)
        return Looked(self.steps, more, waiting, self._said if self._left else "")

    def _take(self, files: list[Path]) -> None:
        if self._number is None:
            self._number = intake(self.review, files, self.name, self.system)
            self.steps = len(self.review.result(self._number).steps)
        elif any(r.id == self._number for r in self.review.results()):
            self.steps = take_again(self.review, self._number, files)
        else:
            raise IronstoneError(f"'{self.name}' was removed from the review: nothing is added to it.", "Bring it back, or stop.")


def followed_beside(path: Path, pattern: str, name: str, system: str | None = None, every: float = 5.0) -> Event:
    """Follow files into a review beside other work, in a thread, until the event that is returned is set or the process ends."""
    stopped = Event()

    def follow() -> None:
        with Review.open(path) as review:
            following = Following(review, pattern, name, system)
            while not stopped.wait(every):
                # What cannot be read yet is looked at again.
                with suppress(IronstoneError):
                    following.look()

    Thread(target=follow, daemon=True, name="following").start()
    return stopped
