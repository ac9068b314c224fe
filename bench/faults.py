"""Attacks on what must not be lost or believed: ``python -m bench.faults`` prints a table of tries and of what came of them.

Everything happens in a temporary folder, or on the loopback of one process. ``--share 0.1`` makes a tenth of the tries. The exit
status is 1 where anything survived that should not: a wrong answer, something lost, a failure without words.
"""

from __future__ import annotations

import argparse
import multiprocessing
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing, contextmanager
from pathlib import Path

import numpy as np
from vtkmodules.vtkCommonCore import vtkLogger

from bench import faults_outside as outside
from bench.faults_loads import loads_sought
from ironstone.core.errors import IronstoneError
from ironstone.formats.series import load, read_series
from ironstone.store import Review, intake
from ironstone.store.damage import check

# What is as it should be; anything else is a survivor.
GOOD = {"told", "same", "whole", "kept"}


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
        for left in copy.parent.glob(f"{copy.name}*"):
            left.unlink()


def flips(folder: Path, tries: int) -> Counter[str]:
    path = folder / "whole.ironstone"
    with Review.create(path) as review:
        intake(review, _box(folder, 2000))
    truth = read_all(path)
    return Counter(flip(path, folder / "flipped.ironstone", truth, np.random.default_rng(seed)) for seed in range(tries))


def cuts(folder: Path, tries: int) -> Counter[str]:
    """Files of every format and encoding cut off at so many places: read with anything made up?"""
    from tests.formats.test_cuts import FILES, made_up, steps_of

    found: Counter[str] = Counter()
    for suffix, make in FILES.values():
        path, cut = folder / f"whole{suffix}", folder / f"cut{suffix}"
        make(path)
        data, whole = path.read_bytes(), list(steps_of(path))
        for size in np.unique(np.linspace(1, len(data) - 1, max(tries // len(FILES), 1)).astype(int)).tolist():
            cut.write_bytes(data[:size])
            found["made up" if made_up(cut, whole) else "told"] += 1
    return found


def mutations(folder: Path, tries: int) -> Counter[str]:
    """Files of every format overwritten, stretched or cut at random: refused in words, or a mesh that can be."""
    from tests.formats.test_cuts import FILES

    rng, found = random.Random(1), Counter[str]()
    sound = []
    for kind, (suffix, make) in FILES.items():
        path = folder / f"{kind.replace(' ', '_').replace(',', '')}{suffix}"
        make(path)
        sound.append((path, path.read_bytes()))
    for number in range(tries):
        path, whole = sound[number % len(sound)]
        at, noise = rng.randrange(len(whole)), bytes(rng.randrange(256) for _ in range(rng.randint(1, 12)))
        damaged = rng.choice([
            whole[:at] + noise + whole[at + len(noise) :], whole[:at] + noise + whole[at:], whole[:at],
            whole[:at] + b"99999999" + whole[at + 8 :],
        ])  # fmt: skip
        bad = folder / f"bad{path.suffix}"
        bad.write_bytes(damaged)
        found[_taken(bad, folder)] += 1
    return found


def _taken(path: Path, folder: Path) -> str:
    with tempfile.TemporaryDirectory(dir=folder) as scratch:
        try:
            for _, stored in read_series([path], Path(scratch)):
                step = load(stored)
                if not step.same_mesh and (
                    step.connectivity.max(initial=0) >= len(step.points) or not np.isfinite(step.points).all()
                ):
                    return "a mesh that cannot be"
        except IronstoneError as error:
            return "told" if path.name in str(error) and "Traceback" not in str(error) else "told without its name"
        except Exception as error:
            return f"failed: {type(error).__name__}"
    return "whole"


def kills(folder: Path, tries: int) -> Counter[str]:
    """A process that takes results in and states things of them, killed at a random moment, again and again."""
    path = folder / "killed.ironstone"
    files = _box(folder, 3000, 3)
    with Review.create(path) as review:
        intake(review, files[:1], name="first")
        truth = review.result().values("stress", 0).tobytes()
    rng, found, stated = random.Random(2), Counter[str](), 0
    context = multiprocessing.get_context("spawn")
    for _ in range(tries):
        ready, says = context.Pipe()
        child = context.Process(target=_work, args=(path, files, stated, says))
        child.start()
        ready.poll(60)
        time.sleep(rng.random() * 0.8)
        os.kill(child.pid or 0, signal.SIGKILL)
        child.join()
        while ready.poll():
            try:
                stated = max(stated, int(ready.recv()))
            except (EOFError, OSError):
                break
        ready.close()
        found[_after_a_kill(path, truth, stated)] += 1
    return found


def _work(path: Path, files: list[Path], stated: int, says: object) -> None:
    """Of the child: what was stated is reported once it is done, so that it must be there afterwards."""
    with Review.open(path) as review:
        says.send(stated)  # type: ignore[attr-defined]
        first = next(r for r in review.results() if r.name == "first").id
        while True:
            stated += 1
            review.add("note", {"result": first, "text": str(stated)}, "Stated")
            says.send(stated)  # type: ignore[attr-defined]
            result = intake(review, files, name="more")
            review.discard(review.result(result).name)


def _after_a_kill(path: Path, truth: bytes, stated: int) -> str:
    try:
        with Review.open(path) as review:
            first = next((r for r in review.results() if r.name == "first"), None)
            if first is None or first.values("stress", 0).tobytes() != truth:
                return "the first result is lost"
            if max((int(i.payload["text"]) for i in review.items("note")), default=0) < stated:
                return "a statement is lost"
            for other in review.results():
                if len(other.steps) != (1 if other.name == "first" else 3):
                    return "half a result"
                other.values("stress", len(other.steps) - 1)
            for _ in range(100):
                if not list(path.parent.glob(".arriving-*")):
                    return "kept"
                time.sleep(0.05)
                review.sweep()
            return "left over"
    except IronstoneError as error:
        return f"told: {error.message[:40]}"
    except Exception as error:
        return f"failed: {type(error).__name__}"


@contextmanager
def disk(folder: Path, size: int) -> Iterator[Path]:
    """A disk of so many bytes where the system lets one be made (a memory file system)."""
    point = folder / "disk"
    point.mkdir(exist_ok=True)
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={size}", "none", str(point)], check=True, capture_output=True)
    try:
        yield point
    finally:
        subprocess.run(["umount", "-l", str(point)], check=False, capture_output=True)


def full_disks(folder: Path, tries: int) -> Counter[str]:
    """A result taken in on disks that have room for less and less of it: told in words, and what was there is there."""
    files = _box(folder, 3000, 2)
    found: Counter[str] = Counter()
    for number in range(tries):
        try:
            with disk(folder, 2_500_000 + 60_000 * number * 40 // max(tries, 1)) as point:
                found[_on_disk(point / "a.ironstone", files)] += 1
        except subprocess.CalledProcessError:
            return Counter({"not tried: no disk can be made here": tries})
    return found


def _on_disk(path: Path, files: list[Path]) -> str:
    try:
        with Review.create(path) as review:
            try:
                intake(review, files[:1], name="first")
            except IronstoneError as error:
                return "told" if "full" in error.message and not review.results() else "told otherwise"
            truth = review.result().values("stress", 0).tobytes()
            reply = "whole"
            try:
                intake(review, files, name="second")
            except IronstoneError as error:
                reply = "told" if "full" in error.message else "told otherwise"
            names = [r.name for r in review.results()]
            if review.result("first").values("stress", 0).tobytes() != truth:
                return "the first result is lost"
            if names != (["first", "second"] if reply == "whole" else ["first"]):
                return "half a result"
    except IronstoneError as error:
        return "told" if "full" in error.message else "told otherwise"
    except Exception as error:
        return f"failed: {type(error).__name__}"
    with Review.open(path) as review:
        return reply if [r.name for r in review.results()] == names else "another list after opening it again"


def writers(folder: Path, tries: int) -> Counter[str]:
    """So many statements of one result from eight threads through two openings: which are there afterwards?"""
    from ironstone.core.field.axes import three_points

    path = folder / "written.ironstone"
    with Review.create(path) as first, Review.open(path) as second:
        result = intake(first, _box(folder, 8))

        def state(number: int) -> str:
            points = (np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
            try:
                (first, second)[number % 2].set_axes(result, three_points(f"axes {number}", "cartesian", *points))
            except IronstoneError:
                return "told"
            return "kept"

        with ThreadPoolExecutor(8) as pool:
            said = list(pool.map(state, range(tries)))
        there = first.correction(result).get("axes", {})
    return Counter("lost" if s == "kept" and f"axes {i}" not in there else s for i, s in enumerate(said))


def requests(folder: Path, tries: int) -> Counter[str]:
    """Addresses no page would ask for: answered in words, never a failure."""
    from fastapi.testclient import TestClient

    from ironstone.service.app import create_app
    from tests.service.test_words import ADDRESSES, LIBRARIES

    found, rng = Counter[str](), random.Random(3)
    with Review.create(folder / "asked.ironstone") as review:
        intake(review, _box(folder, 8))
        with TestClient(create_app(review), raise_server_exceptions=False) as client:
            for number in range(tries):
                address = ADDRESSES[number % len(ADDRESSES)]
                if number >= len(ADDRESSES):
                    at = rng.randrange(1, len(address))
                    address = (
                        address[:at] + rng.choice(["%00", "%ff", "9" * 25, "/", "&", "=", "-1", "nan", "%2e%2e/"]) + address[at:]
                    )
                answer = client.get(address)
                words = not any(w in answer.text.lower() for w in LIBRARIES) or answer.status_code == 200
                found["told" if answer.status_code < 500 and words else f"status {answer.status_code}"] += 1
    return found


def _box(folder: Path, elements: int, steps: int = 1) -> list[Path]:
    from bench.models import make

    first = make(folder / f"box{elements}_0.vtu", elements)
    rest = [folder / f"box{elements}_{i}.vtu" for i in range(1, steps)]
    for path in rest:
        if not path.exists():
            shutil.copy(first, path)
    return [first, *rest]


def cells(folder: Path, tries: int) -> Counter[str]:
    """One cell of a table overwritten, or one row of it gone: told, or the same answers, statements and checks as before?"""
    path = folder / "whole.ironstone"
    with Review.create(path) as review:
        intake(review, _box(folder, 400, 2))
        review.set_units(1, "m-N-s-kg-Pa")
        for k in range(3):
            review.add("note", {"result": 1, "name": f"note {k}", "value": float(k)}, "kept")
    truth, made = read_all(path), _made(path)
    found: Counter[str] = Counter()
    for seed in range(tries):
        rng = random.Random(seed)
        copy = Path(shutil.copy(path, folder / "spoiled.ironstone"))
        with closing(sqlite3.connect(copy)) as database, database:
            table = rng.choice(["item", "result", "field", "step", "array", "block", "seal"])
            (row,) = rng.choice(database.execute(f"SELECT rowid FROM {table}").fetchall())
            columns = [c[1] for c in database.execute(f"PRAGMA table_info({table})") if c[1] not in ("id", "created", "data")]
            if rng.random() < 0.4:
                database.execute(f"DELETE FROM {table} WHERE rowid = ?", (row,))
            else:
                column = rng.choice(columns)
                value = rng.choice(["", "{", "7", "x" * 40, 3, -1, 2.5, b"\x00\xff"])
                try:
                    database.execute(f"UPDATE {table} SET {column} = ? WHERE rowid = ?", (value, row))
                except sqlite3.IntegrityError:
                    found["kept"] += 1
                    continue
        try:
            same = read_all(copy) == truth and _made(copy) == made
            with Review.open(copy) as review:
                whole = check(review)["whole"]
            found["told" if not whole else "same" if same else "wrong"] += 1
        except IronstoneError:
            found["told"] += 1
        except Exception as error:  # a failure without words
            found[f"raw {type(error).__name__}"] += 1
    return found


def _again(path: Path, files: list[Path]) -> str:
    """Take files in beside a result that is there: whole or told, and the first one as it was."""
    with Review.open(path) as review:
        truth = [review.result("first").values("stress", step).tobytes() for step in range(3)]
        try:
            intake(review, files, name="second")
            second = review.result("second")
            said = "whole" if [second.values("stress", step).tobytes() for step in range(3)] == truth else "wrong"
        except IronstoneError as error:
            said = "told" if error.hint and len(review.results()) == 1 else "half a result"
        except Exception as error:
            said = f"failed: {type(error).__name__}"
        kept = [review.result("first").values("stress", step).tobytes() for step in range(3)] == truth
        return said if kept and check(review)["whole"] else "the first result is lost"


def _made(path: Path) -> list[tuple[str, str]]:
    with Review.open(path) as review:
        return [(item.kind, repr(item.payload)) for item in review.items()]


ATTACKS: dict[str, tuple[Callable[[Path, int], Counter[str]], int]] = {
    "a bit flipped in a review": (flips, 200),
    "a result file cut off": (cuts, 1100),
    "a result file overwritten, stretched or cut": (mutations, 1000),
    "the program killed while it stores": (kills, 100),
    "a disk that is too small": (full_disks, 30),
    "statements at one time": (writers, 200),
    "odd requests": (requests, 500),
    "a cell overwritten, a row gone": (cells, 400),
    "a bringing up that is killed": (lambda to, tries: outside.brought_up(to, _box(to, 2000), tries, read_all), 40),
    "sources that go while they are read": (lambda to, tries: outside.going(to, _box(to, 20_000, 3), tries, _again), 60),
    "reviews read by another user": (lambda to, tries: outside.other_users(to, _box(to, 64), tries), 20),
    "killed while loads are sought": (loads_sought, 20),
    "files that unpack to far more": (outside.bombs, len(outside.FILES)),
}


def main() -> int:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--share", type=float, default=1.0, help="Share of the tries that is made.")
    options.add_argument("--only", help="Only attacks whose name has this in it.")
    chosen = options.parse_args()
    survivors = 0
    vtkLogger.SetStderrVerbosity(vtkLogger.VERBOSITY_OFF)
    print(f"{'attack':<46s} {'tries':>6s} {'survivors':>9s}  what came of them")
    for name, (attack, usual) in ATTACKS.items():
        if chosen.only and chosen.only not in name:
            continue
        begun = time.perf_counter()
        with tempfile.TemporaryDirectory() as scratch:
            found = attack(Path(scratch), max(round(usual * chosen.share), 1))
        bad = sum(count for word, count in found.items() if word not in GOOD and not word.startswith("not tried"))
        survivors += bad
        said = ", ".join(f"{count} {word}" for word, count in found.most_common())
        print(f"{name:<46s} {sum(found.values()):>6d} {bad:>9d}  {said} ({time.perf_counter() - begun:.0f} s)", flush=True)
    return 1 if survivors else 0


if __name__ == "__main__":
    sys.exit(main())
