"""Large tables are read in a process of their own: bounded in memory and time, and ended when nobody waits for them."""

from __future__ import annotations

import json
import pickle
import selectors
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import wraps
from importlib import import_module
from pathlib import Path
from typing import Any, TypeVar

from ironstone.core.errors import IronstoneError
from ironstone.core.wanted import still_wanted
from ironstone.formats.confined import confine, limit_words

T = TypeVar("T")
# The longest a table may take, and how often it is looked whether it is still waited for; seconds.
SECONDS, LOOK = 180.0, 0.1
# Set in the process that reads: what is read there is read there.
_within = False


def aside(large: Callable[[bytes], bool]) -> Callable[[Callable[[bytes, str], T]], Callable[[bytes, str], T]]:
    """Work out a function of bytes and a name in a process of its own where they are ``large``.

    What it raises is raised here; a process that ends without an answer, or takes too long, is an IronstoneError.
    """

    def decorate(function: Callable[[bytes, str], T]) -> Callable[[bytes, str], T]:
        @wraps(function)
        def either(data: bytes, name: str = "the table") -> T:
            return _apart(function, data, name) if not _within and large(data) else function(data, name)

        return either

    return decorate


def _apart(function: Callable[[bytes, str], T], data: bytes, name: str) -> T:
    with tempfile.TemporaryDirectory() as folder:
        given, made = Path(folder) / "given", Path(folder) / "made"
        given.write_bytes(data)
        order = [function.__module__, function.__qualname__, str(given), name, str(made)]
        command = [sys.executable, "-m", "ironstone.formats.aside", json.dumps(order)]
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as child:
            try:
                _wait(child, name)
            finally:
                child.kill()
        if not made.exists():
            raise IronstoneError(
                f"{name} could not be read: the reader stopped (it may take {limit_words()}).", "Thin it out, or export it as CSV."
            )
        answer: Any = pickle.loads(made.read_bytes())
    if isinstance(answer, IronstoneError):
        raise answer
    found: T = answer
    return found


def _wait(child: subprocess.Popen[str], name: str) -> None:
    """Wait for a reader and tell how far it is; raises where that takes too long, or nobody waits any more."""
    assert child.stdout
    end, said = time.monotonic() + SECONDS, f"Reading {name}"
    with selectors.DefaultSelector() as selector:
        selector.register(child.stdout, selectors.EVENT_READ)
        while child.poll() is None:
            still_wanted(said)
            if time.monotonic() > end:
                raise IronstoneError(f"{name} was not read within {SECONDS:.0f} s.", "Thin it out, or export it as CSV.")
            if selector.select(LOOK):
                said = child.stdout.readline().strip() or said


def far(name: str, rows: int) -> None:
    """Say how far a table is read, where somebody listens: in the process that reads it, to the one that waits."""
    if _within:
        print(f"Reading {name}: {rows:,} rows".replace(",", "\u202f"), flush=True)


def _read(module: str, function: str, given: str, name: str, made: str) -> None:
    global _within
    _within = True
    confine()
    answer: object
    try:
        answer = getattr(import_module(module), function)(Path(given).read_bytes(), name)
    except IronstoneError as error:
        answer = error
    except MemoryError:
        answer = IronstoneError(f"{name} asks for more memory than a reader may take ({limit_words()}).", "Thin it out.")
    except Exception as error:  # whatever a parser throws is the file's fault, and told as such
        answer = IronstoneError(f"{name} could not be read ({type(error).__name__}).", "Export it again as CSV.")
    whole = pickle.dumps(answer)
    Path(made).write_bytes(whole)


if __name__ == "__main__":
    # The module under its own name is the one the readers know.
    from ironstone.formats import aside as known

    known._read(*json.loads(sys.argv[1]))
