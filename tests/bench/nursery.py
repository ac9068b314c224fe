"""Starts benches quickly: the service's libraries are imported once, and every bench is a fork of that.

Reads lines 'PORT PATH' from standard input and answers each with the process number of a bench on that review. On a copy of the
first of them it is asked what a page asks when it opens, so that the benches need not learn each for itself how that is answered.
"""

from __future__ import annotations

import gc
import os
import shutil
import signal
import sys
import tempfile
from importlib import import_module
from pathlib import Path
from pkgutil import walk_packages

from fastapi.testclient import TestClient
from vtkmodules.vtkCommonCore import vtkSMPTools

import ironstone
from ironstone.core.units import registry
from ironstone.service.app import create_app
from ironstone.service.run import serve
from ironstone.store import Review
from tests.readers import fork_readers

# What the product's own modules load when they are first asked for something.
LATER = ("openpyxl", "scipy.integrate", "scipy.optimize", "scipy.sparse.csgraph", "scipy.spatial", "scipy.signal", "scipy.stats")


def load() -> None:
    """Import whatever a bench may come to need."""
    ours = (found.name for found in walk_packages(ironstone.__path__, "ironstone."))
    for name in (*LATER, *ours):
        if not name.startswith(("ironstone.cli", "ironstone.store.migrations", "ironstone.__main__")):
            import_module(name)
    registry()


def learn(path: Path) -> None:
    """Answer once what a page asks of a review's last result."""
    with Review.open(path) as review, TestClient(create_app(review)) as client:
        results = client.get("/api/review").json()["results"]
        if not results:
            return
        at, of = f"/api/results/{results[-1]['id']}", f"?result={results[-1]['id']}"
        reading = "field=displacement&measure=magnitude&step=0"
        kept = (f"/api/kept/{kind}{of}" for kind in ("cut", "path", "gauges", "table"))
        drawn = (f"{at}/{what}" for what in ("surface?step=0", "deformation?step=0", f"values?{reading}"))
        told = (f"{at}/{what}?{reading}" for what in ("line", "averagings"))
        made = (f"/api/{what}{of}" for what in ("named", "flags", "pairings"))
        for asked in ("/api/formats", "/api/tests", at, *kept, *made, *drawn, *told):
            client.get(asked)
        if tests := client.get("/api/tests").json():
            one = f"pairing={tests[-1]['use']['pairing']}&test={tests[-1]['id']}"
            client.get(f"/api/matches?{one}")
            client.get(f"/api/overlays?{one}")


def main() -> None:
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    load()
    fork_readers(now=True)
    warm = False
    for line in sys.stdin:
        port, _, path = line.rstrip("\n").partition(" ")
        if not warm and (warm := Path(path).is_file()):
            # Without threads of VTK's: a fork has none of them, and would wait for them.
            vtkSMPTools.SetBackend("Sequential")
            with tempfile.TemporaryDirectory() as folder:
                learn(Path(shutil.copy(path, folder)))
            vtkSMPTools.SetBackend("STDThread")
        # What is here stays: the forks need not look whether it is garbage, and share its memory.
        gc.collect()
        gc.freeze()
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
