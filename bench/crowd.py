"""A crowd at one service: ``python -m bench.crowd REVIEW FILE`` (a review of a large model, and a large file to take in meanwhile).

Sixty questions of the large model wait, each from a page of its own, the file is taken in, three hundred pages listen for changes;
meanwhile the overview, a value at a node and the keeping of a flag are asked for, one after the other. Printed: how long these took
(the median and the 95th percentile), beside the same on a service that has nothing else to do, the service's largest memory, and
how soon nothing is worked out any more when all the pages are closed.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import suppress
from pathlib import Path
from urllib.parse import urlencode

import numpy as np

from tests.bench.serving import free_port

WORDS = {"field": "stress", "measure": "von-mises", "step": 0}
QUESTIONS, LISTENERS, SECONDS = 60, 300, 60.0


class Service:
    """A service of its own process on a review."""

    def __init__(self, review: Path) -> None:
        self.port = free_port()
        command = [sys.executable, "-m", "ironstone", "serve", str(review), "--port", str(self.port)]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        for _ in range(400):
            with suppress(OSError):
                self.asked("GET", "/api/review")
                return
            time.sleep(0.1)
        raise SystemExit("The service did not start.")

    def open(self, method: str, address: str, body: object = None) -> http.client.HTTPConnection:
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=600)
        told = None if body is None else json.dumps(body)
        line.request(method, address, told, {"Content-Type": "application/json"} if told else {})
        return line

    def asked(self, method: str, address: str, body: object = None) -> tuple[int, bytes]:
        line = self.open(method, address, body)
        try:
            answer = line.getresponse()
            return answer.status, answer.read()
        finally:
            line.close()

    def memory(self, what: str = "VmHWM") -> float:
        """Gigabytes."""
        lines = Path(f"/proc/{self.process.pid}/status").read_text().splitlines()
        return next(int(line.split()[1]) / 1024**2 for line in lines if line.startswith(what))

    def seconds_worked(self) -> float:
        worked = Path(f"/proc/{self.process.pid}/stat").read_text().rpartition(") ")[2].split()
        return (int(worked[11]) + int(worked[12])) / os.sysconf("SC_CLK_TCK")

    def end(self) -> None:
        self.process.terminate()
        self.process.wait()


SIMPLE = {
    "overview": lambda service, turn: service.asked("GET", "/api/review"),
    "value at a node": lambda service, turn: service.asked("POST", "/api/ask/read", {**WORDS, "at": f"node:{17 + turn}"}),
    "flag planted": lambda service, turn: service.asked("POST", "/api/flags", {"result": 1, "node": 17 + turn}),
}


def simple_questions(service: Service, seconds: float) -> dict[str, list[float]]:
    """How long each simple question took, asked one after the other for so many seconds."""
    taken: dict[str, list[float]] = {name: [] for name in SIMPLE}
    turn, end = 0, time.perf_counter() + seconds
    while time.perf_counter() < end:
        for name, asked in SIMPLE.items():
            begun = time.perf_counter()
            status, said = asked(service, turn)
            if status != 200:
                raise SystemExit(f"{name}: {status} {said[:200]!r}")
            taken[name].append(time.perf_counter() - begun)
        turn += 1
        time.sleep(0.05)
    return taken


def views(count: int) -> list[str]:
    """Addresses of so many views of the model, none the same as another."""
    measures, averagings = ("von-mises", "xx", "yy", "zz", "mean"), ("off", "all", "element", "part")
    ways = [(m, a, f) for a in averagings for m in measures for f in (10, 20, 30)]
    return [
        f"/api/results/1/values?{urlencode({**WORDS, 'measure': m, 'averaging': a, 'fold': f})}" for m, a, f in (ways * 2)[:count]
    ]


def said(name: str, taken: dict[str, list[float]]) -> None:
    for what, times in taken.items():
        middle, high, most = np.percentile(times, [50, 95, 100])
        rest = f"half within {middle:.3f} s, 95 % within {high:.3f} s, longest {most:.3f} s"
        print(f"  {name:20s} {what:16s} {len(times):4d} asked, {rest}")


def take_in(service: Service, file: Path) -> None:
    """Begin to take a large file in."""
    upload = json.loads(service.asked("POST", "/api/uploads")[1])["id"]
    line = http.client.HTTPConnection("127.0.0.1", service.port, timeout=600)
    with file.open("rb") as stream:
        line.request("PUT", f"/api/uploads/{upload}/{file.name}", stream, {"Content-Length": str(file.stat().st_size)})
        line.getresponse().read()
    service.asked("POST", "/api/intake", {"upload": upload})


def crowd(review: Path, file: Path, seconds: float) -> None:
    service = Service(review)
    try:
        service.asked("GET", views(1)[0])
        said("nothing else to do", simple_questions(service, seconds / 6))
        lines = [service.open("GET", "/api/events") for _ in range(LISTENERS)]
        said(f"{LISTENERS} pages listen", simple_questions(service, seconds / 6))
        waiting = [service.open("GET", address) for address in views(QUESTIONS)]
        threading.Thread(target=take_in, args=(service, file), daemon=True).start()
        said("the whole crowd", simple_questions(service, seconds))
        print(f"  largest memory of the service: {service.memory():.2f} GB")
        for line in (*waiting, *lines):
            line.close()
        closed, last = time.perf_counter(), -1.0
        while (now := service.seconds_worked()) - last > 0.05 and time.perf_counter() - closed < 120:
            last = now
            time.sleep(0.5)
        print(f"  all pages closed: at rest after {time.perf_counter() - closed:.1f} s")
    finally:
        service.end()


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("review", type=Path)
    options.add_argument("file", type=Path)
    options.add_argument("--seconds", type=float, default=SECONDS)
    chosen = options.parse_args()
    with tempfile.TemporaryDirectory(dir=chosen.review.parent) as folder:
        copy = Path(shutil.copy(chosen.review, folder))
        crowd(copy, chosen.file, chosen.seconds)


if __name__ == "__main__":
    main()
