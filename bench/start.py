"""How long commands, service and reader take to start, beside Python importing what they stand on: ``python -m bench.start``.

Every time is the best of seven (wall clock) of a fresh process, file names and review in a temporary folder.
"""

from __future__ import annotations

import json
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

import numpy as np

from ironstone.store import Review, intake
from tests.bench.serving import free_port
from tests.writing import bar_of_hexahedra, write_vtu

PEER = "import numpy, sqlalchemy, pydantic"
RUNS = 7


def best(work: Callable[[], float]) -> float:
    return min(work() for _ in range(RUNS))


def command(*words: str) -> float:
    begun = time.perf_counter()
    subprocess.run([sys.executable, *words], check=True, capture_output=True)
    return time.perf_counter() - begun


def small_review(folder: Path) -> tuple[Path, Path]:
    """A result file of three cubes and two steps, and a review of it."""
    points, cells, ids = bar_of_hexahedra()
    files = []
    for step in range(2):
        data = {"stress": np.full((24, 6), 1.0 + step), "displacement": 0.01 * step * points, "GlobalIds": ids}
        files.append(write_vtu(folder / f"bar_{step}.vtu", points, cells, data, time=0.5 * step))
    with Review.create(folder / "bar.ironstone") as review:
        intake(review, files)
    return files[0], folder / "bar.ironstone"


def reader(file: Path, folder: Path) -> float:
    """From nothing to a step handed over."""
    begun = time.perf_counter()
    child = subprocess.Popen(
        [sys.executable, "-m", "ironstone.formats.series"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
    )
    assert child.stdin and child.stdout
    child.stdin.write(json.dumps([str(folder), str(file), "ironstone.formats.vtu", None, True]).encode() + b"\n")
    child.stdin.flush()
    answer = child.stdout.readline()
    taken = time.perf_counter() - begun
    child.kill()
    child.communicate()
    assert b"file" in answer, answer
    return taken


def service(review: Path) -> float:
    """From nothing to the first answer."""
    port, begun = free_port(), time.perf_counter()
    child = subprocess.Popen(
        [sys.executable, "-m", "ironstone", "serve", str(review), "--port", str(port)], stdout=subprocess.DEVNULL
    )
    while True:
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/review", timeout=30).read()
            break
        except OSError:
            time.sleep(0.01)
    taken = time.perf_counter() - begun
    child.send_signal(signal.SIGINT)
    child.wait()
    return taken


def rows() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        file, review = small_review(folder)
        peer = best(lambda: command("-c", PEER))
        print(f"python -c '{PEER}': {peer:.3f} s")
        read = ("-m", "ironstone", "read", str(review), "--field", "stress", "--measure", "von-mises")
        for what, work in (
            ("ironstone --help", lambda: command("-m", "ironstone", "--help")),
            ("contents of a tiny review", lambda: command("-m", "ironstone", "contents", str(review))),
            ("read its extremes", lambda: command(*read, "--extremes")),
            ("read it at a node", lambda: command(*read, "--at", "node:4")),
            ("a reader, to its first step", lambda: reader(file, folder)),
            ("the service, to its first answer", lambda: service(review)),
        ):
            taken = best(work)
            print(f"  {what:<40s} {taken:6.3f} s  ratio {taken / peer:5.2f}", flush=True)


if __name__ == "__main__":
    rows()
