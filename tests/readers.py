"""Readers of files that start quickly: the parsers are imported once, in a template, and every reader is a fork of that.

What a reader does is the product's own; only its start is another. Commands that tests run in interpreters of their own start
readers as the product does, as do tests with ``started_plainly``.
"""

from __future__ import annotations

import array
import atexit
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
from functools import cache
from importlib import import_module
from io import BufferedReader, BufferedWriter
from pathlib import Path

from ironstone.formats import READERS, series
from ironstone.formats.confined import confine

ROOT = Path(__file__).resolve().parent.parent
started_plainly = series._reader


class Reader:
    """A forked reader, with as much of ``subprocess.Popen`` as is asked of one."""

    def __init__(self, at: str) -> None:
        ours_in, theirs_out = os.pipe()
        theirs_in, ours_out = os.pipe()
        with socket.socket(socket.AF_UNIX) as line:
            line.connect(at)
            socket.send_fds(line, [b"read"], [theirs_in, theirs_out])
            self.pid = int(line.recv(32))
        os.close(theirs_in)
        os.close(theirs_out)
        self.stdin: BufferedWriter | None = os.fdopen(ours_out, "wb")
        self.stdout: BufferedReader | None = os.fdopen(ours_in, "rb")

    def poll(self) -> int | None:
        """None while it lives."""
        try:
            os.kill(self.pid, 0)
        except ProcessLookupError:
            return 0
        return None

    def kill(self) -> None:
        if self.poll() is None:
            os.kill(self.pid, signal.SIGKILL)

    def wait(self) -> int:
        while self.poll() is None:
            time.sleep(0.001)
        return 0


@cache
def _door() -> str:
    """Where the template of this process answers; it ends with this process."""
    at = str(Path(tempfile.mkdtemp()) / "readers")
    template = subprocess.Popen([sys.executable, "-m", "tests.readers", at], stdout=subprocess.PIPE, cwd=ROOT)
    assert template.stdout
    template.stdout.readline()
    atexit.register(template.kill)
    return at


def fork_readers(now: bool = False) -> None:
    """From here on readers that this process starts are forks. now: the template is made now, for this process and its forks."""
    if now:
        _door()
    series._reader = lambda: Reader(_door())  # type: ignore[assignment, return-value]


def _template(at: str) -> None:
    confine()
    for module in sorted(set(READERS.values())):
        import_module(module)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    with socket.socket(socket.AF_UNIX) as door:
        door.bind(at)
        door.listen(64)
        print(flush=True)
        while True:
            line, _ = door.accept()
            with line:
                _, ancillary, _, _ = line.recvmsg(32, socket.CMSG_LEN(2 * array.array("i").itemsize))
                given = array.array("i", ancillary[0][2])
                child = os.fork()
                if child == 0:
                    door.close()
                    _read(*given)
                line.sendall(str(child).encode())
                for end in given:
                    os.close(end)


def _read(asked: int, answered: int) -> None:
    os.dup2(asked, 0)
    os.dup2(answered, 1)
    os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
    os.closerange(3, 1024)
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    sys.stdin, sys.stdout = os.fdopen(0), os.fdopen(1, "w")
    try:
        series._serve()
    finally:
        os._exit(0)


if __name__ == "__main__":
    _template(sys.argv[1])
