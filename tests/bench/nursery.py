"""Starts benches quickly: the service's libraries are imported once, and every bench is a fork of that.

Reads lines 'PORT PATH' from standard input and answers each with the process number of a bench on that review.
"""

from __future__ import annotations

import os
import signal
import sys
from pathlib import Path

# What a bench loads when it is first asked for something.
import scipy.integrate
import scipy.optimize
import scipy.sparse.csgraph
import scipy.spatial
import scipy.stats  # noqa: F401

import ironstone.core.geometry.faces
import ironstone.core.geometry.nearest
import ironstone.store.arrival  # noqa: F401
from ironstone.core.units import registry
from ironstone.service.app import below_api
from ironstone.service.run import serve


def main() -> None:
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    registry()
    for route in below_api():
        route.matches({"type": "http", "method": "GET", "path": "/", "root_path": ""})
    for line in sys.stdin:
        port, _, path = line.rstrip("\n").partition(" ")
        child = os.fork()
        if child == 0:
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            sys.stdin.close()
            nothing = os.open(os.devnull, os.O_WRONLY)
            os.dup2(nothing, 1)
            os.dup2(nothing, 2)
            serve(Path(path), int(port))
            os._exit(0)
        print(child, flush=True)


if __name__ == "__main__":
    main()
