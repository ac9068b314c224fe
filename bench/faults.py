"""Attacks on what must not be lost or believed: ``python -m bench.faults`` prints a table of tries and of what came of them."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.store import Review


def read_all(path: Path) -> dict[str, bytes]:
    """All a review answers with: every stored field at every step, the mesh, and the steps' values."""
    found = {}
    with Review.open(path) as review:
        for source in review.results():
            mesh = source.mesh
            found[f"{source.name} mesh"] = mesh.points.tobytes() + mesh.connectivity.tobytes() + mesh.part.tobytes()
            found[f"{source.name} steps"] = repr(source.steps).encode()
            for field in source.stored_fields:
                for step in range(len(source.steps)):
                    found[f"{source.name} {field} {step}"] = source.values(field, step).tobytes()
    return found


def flip(path: Path, copy: Path, truth: dict[str, bytes], rng: np.random.Generator) -> str:
    """Flip a bit of a byte somewhere in a copy of a review and read all of it: 'told', 'same', or 'wrong'."""
    data = bytearray(path.read_bytes())
    data[int(rng.integers(len(data)))] ^= 1 << int(rng.integers(8))
    copy.write_bytes(data)
    try:
        return "same" if read_all(copy) == truth else "wrong"
    except IronstoneError:
        return "told"
    finally:
        for left in (copy, copy.with_name(copy.name + "-wal"), copy.with_name(copy.name + "-shm")):
            left.unlink(missing_ok=True)
        shutil.rmtree(copy.with_name(copy.name + ".d"), ignore_errors=True)
