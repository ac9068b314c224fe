"""Reads a set of files as one series, in a child process: a parser that crashes or hangs is an error, not the end."""

from __future__ import annotations

import atexit
import json
import mmap
import os
import pickle
import re
import selectors
import struct
import subprocess
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from importlib import import_module
from pathlib import Path
from typing import Any

import numpy as np

from ironstone.core.errors import IronstoneError, disk_full
from ironstone.formats.confined import confine, limit_words
from ironstone.formats.registry import READERS, RawStep, reader_for, same_mesh, steps_of
from ironstone.formats.wanted import only

SECONDS_PER_STEP = 300.0
# Files the reader is asked for at a time.
AHEAD = 3


def numbered_order(paths: Sequence[Path]) -> list[Path]:
    """Files in the order of the numbers in their names: step_2 before step_10."""

    def key(path: Path) -> tuple[list[tuple[int, int, str]], str]:
        pieces = re.split(r"(\d+)", path.stem)
        return [(1, int(p), "") if p.isdigit() else (0, 0, p) for p in pieces], path.name

    return sorted(paths, key=key)


def read_series(paths: Sequence[Path], folder: Path, wanted: frozenset[str] | None = None) -> Iterator[tuple[Path, Path]]:
    """Read files one after the other in a child process; yields each step's file with what holds its RawStep in ``folder``.
    wanted: of the arrays of real numbers those that are asked for, None for all; formats that cannot leave some out read all.

    What is yielded is the caller's to ``load`` and remove. The child is stopped when the caller stops.
    """
    for path in paths:
        reader_for(path)
    child = _waiting() or _reader()
    whole = False
    try:
        answers = _Answers(child)
        for index, path in enumerate(paths):
            stopped = IronstoneError(
                f"The reader stopped while it read {path.name}: it is damaged, or asks for more memory than a reader may take "
                f"({limit_words()}).",
                "Leave it out or export it again.",
            )
            try:
                # The next file is asked for before this one is done with, so that the reader does not wait.
                for asked in paths[0:AHEAD] if index == 0 else paths[index + AHEAD - 1 : index + AHEAD]:
                    names = None if wanted is None else sorted(wanted)
                    _ask(child, [str(folder), str(asked), READERS[asked.suffix.lower()], names, asked == paths[0]])
            except BrokenPipeError as error:
                raise stopped from error
            while "file" in (answer := answers.next(path, stopped)):
                yield path, Path(answer["file"])
            if "error" in answer:
                raise IronstoneError(answer["error"], answer.get("hint", ""))
        whole = True
    finally:
        if whole and _again:
            _ahead.append(child)
        else:
            _end(child)


_ahead: list[subprocess.Popen[bytes]] = []
# Whether a reader that has read a series without a fault is kept for the next: where many are read one after the other.
_again = False


@contextmanager
def readers_kept() -> Iterator[None]:
    """Within, a reader reads one series after the other, as long as nothing fails in it."""
    global _again
    before, _again = _again, True
    try:
        yield
    finally:
        _again = before
        if not before:
            end_ahead()


def keep_readers() -> None:
    """As ``readers_kept``, for as long as this process lives."""
    global _again
    if not _again:
        _again = True
        atexit.register(end_ahead)


def start_ahead() -> None:
    """Start a reader before it is asked for: its imports take longer than most files. It waits, and ends with this process."""
    if not _ahead:
        _ahead.append(_reader())


def end_ahead() -> None:
    """End the reader that waits, if there is one."""
    while _ahead:
        _end(_ahead.pop())


def _waiting() -> subprocess.Popen[bytes] | None:
    while _ahead:
        child = _ahead.pop()
        if child.poll() is None:
            return child
        _end(child)
    return None


def _reader() -> subprocess.Popen[bytes]:
    command = [sys.executable, "-m", "ironstone.formats.series"]
    return subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)


def _ask(child: subprocess.Popen[bytes], order: list[Any]) -> None:
    assert child.stdin
    child.stdin.write(json.dumps(order).encode() + b"\n")
    child.stdin.flush()


def _end(child: subprocess.Popen[bytes]) -> None:
    child.kill()
    child.wait()
    for stream in (child.stdin, child.stdout):
        if stream:
            stream.close()


class _Answers:
    """The lines a child answers with, as they come, so that waiting for one has an end."""

    def __init__(self, child: subprocess.Popen[bytes]) -> None:
        assert child.stdout
        self._stream = child.stdout.fileno()
        self._selector = selectors.DefaultSelector()
        self._selector.register(child.stdout, selectors.EVENT_READ)
        self._left = b""

    def next(self, path: Path, stopped: IronstoneError) -> dict[str, str]:
        while b"\n" not in self._left:
            if not self._selector.select(SECONDS_PER_STEP):
                raise IronstoneError(f"A step of {path.name} was not read within {SECONDS_PER_STEP:.0f} s.", "Leave it out.")
            piece = os.read(self._stream, 65536)
            if not piece:
                raise stopped
            self._left += piece
        line, _, self._left = self._left.partition(b"\n")
        answer: dict[str, str] = json.loads(line)
        return answer


def dump(step: RawStep, target: Path) -> None:
    """Write a step so that ``load`` maps its arrays without copying: lengths, the pickle, then the arrays, aligned."""
    buffers: list[pickle.PickleBuffer] = []
    head = pickle.dumps(step, protocol=5, buffer_callback=buffers.append)
    pieces = [memoryview(head), *(b.raw() for b in buffers)]
    with target.open("wb") as stream:
        stream.write(struct.pack(f"<{1 + len(pieces)}q", len(pieces), *(p.nbytes for p in pieces)))
        for piece in pieces:
            stream.write(b"\0" * (-stream.tell() % 64))
            stream.write(piece)


def load(stored: Path) -> RawStep:
    """The step a child process has read; its arrays are views of the file and cannot be written to."""
    with stored.open("rb") as stream:
        whole = memoryview(mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ))
    (count,) = struct.unpack_from("<q", whole)
    sizes = struct.unpack_from(f"<{count}q", whole, 8)
    at, pieces = 8 + 8 * count, []
    for size in sizes:
        at += -at % 64
        pieces.append(whole[at : at + size])
        at += size
    step: RawStep = pickle.loads(pieces[0], buffers=pieces[1:])
    return step


def _serve() -> None:
    """The child: takes folders and files from standard input, answers with a line for each step, then one that ends the file."""
    confine()
    index = 0
    mesh: RawStep | None = None
    # What most files need is there before the first is asked for.
    import_module(READERS[".vtu"])
    for line in sys.stdin:
        *given, module, wanted, first = json.loads(line)
        folder, path = map(Path, given)
        if first:
            index, mesh = 0, None
        # A format that was registered is known by the process that registered it, not by this one.
        READERS[path.suffix.lower()] = module
        answer: dict[str, Any] = {"done": True}
        try:
            with only(None if wanted is None else frozenset(wanted)):
                for step in steps_of(path, mesh):
                    same = mesh is not None and same_mesh(step, mesh)
                    mesh = step
                    target = folder / f"{index}.step"
                    dump(_without_mesh(step) if same else step, target)
                    index += 1
                    print(json.dumps({"file": str(target)}), flush=True)
        except IronstoneError as error:
            answer = {"error": error.message, "hint": error.hint}
        except FileNotFoundError as error:
            name = Path(error.filename).name if error.filename else path.name
            answer = {
                "error": f"There is no file {name}.",
                "hint": "Check the name and the folder; choose it along with the others.",
            }
        except MemoryError as error:
            size = re.search(r"Unable to allocate ([\d.]+ \w+)", str(error))
            asked = f": {size[1]} for one array" if size else ""
            answer = {
                "error": f"{path.name} asks for more memory than a reader may take ({limit_words()}){asked}.",
                "hint": "Check that the file is sound; else export fewer fields or steps in one file.",
            }
        except Exception as error:  # whatever a parser throws is the file's fault, and told as such
            said = f"its content is not as its format has it ({type(error).__name__})"
            told = disk_full(error) or IronstoneError(
                f"{path.name} could not be read: {said}.", "Export it again, or leave it out."
            )
            answer = {"error": told.message, "hint": told.hint}
        print(json.dumps(answer), flush=True)


def _without_mesh(step: RawStep) -> RawStep:
    none = np.zeros(0, dtype=np.int64)
    return replace(
        step, points=np.zeros((0, 3)), types=np.zeros(0, np.uint8), offsets=none, connectivity=none, same_mesh=True, part=None,
        material=None, node_ids=None, element_ids=None, node_sets={}, element_sets={},
    )  # fmt: skip


if __name__ == "__main__":
    _serve()
