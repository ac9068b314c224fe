"""Attacks from outside: bringing reviews up killed, sources that go while they are read, files that unpack to far more."""

from __future__ import annotations

import base64
import json
import multiprocessing
import os
import random
import resource
import shutil
import signal
import struct
import subprocess
import sys
import tempfile
import threading
import time
import zlib
from collections import Counter
from collections.abc import Callable
from pathlib import Path

import h5py
import numpy as np
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine

from ironstone.core.errors import IronstoneError
from ironstone.engine.curves.printed import picture_of
from ironstone.formats.registry import RawArray
from ironstone.formats.series import load, read_series
from ironstone.formats.vtkhdf import Writer
from ironstone.store import Review, intake
from ironstone.store.damage import check
from ironstone.store.layout import MIGRATIONS

# More than this of the attacking process's own memory, or longer, is a survivor: what is large is read elsewhere.
MOST_MEMORY, MOST_SECONDS = 1.5e9, 60.0


def older(path: Path, layout: str) -> None:
    """Give a review the layout it had in an older version."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    engine = create_engine(f"sqlite:///{path}")
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.downgrade(config, layout)
    engine.dispose()


def _opened(path: Path) -> None:
    with Review.open(path):
        pass


def brought_up(folder: Path, files: list[Path], tries: int, truth_of: Callable[[Path], dict[str, bytes]]) -> Counter[str]:
    """Reviews of older layouts whose bringing up is killed at a random moment: all answers are as before, afterwards."""
    path, found = folder / "now.ironstone", Counter[str]()
    with Review.create(path) as review:
        intake(review, files)
        for number in range(200):
            review.add("note", {"result": 1, "text": str(number)}, "Stated")
    truth = truth_of(path)
    context, rng = multiprocessing.get_context("spawn"), random.Random(4)
    for number in range(tries):
        copy = Path(shutil.copy(path, folder / "old.ironstone"))
        older(copy, ("0002", "0003", "0004")[number % 3])
        child = context.Process(target=_opened, args=(copy,))
        child.start()
        # Opening begins some 1.5 s after the start of the process.
        time.sleep(0.8 + 1.2 * rng.random())
        os.kill(child.pid or 0, signal.SIGKILL)
        child.join()
        try:
            with Review.open(copy) as review:
                whole, notes = check(review)["whole"], len(review.items("note"))
            found["whole" if whole and notes == 200 and truth_of(copy) == truth else "wrong"] += 1
        except IronstoneError as error:
            found[f"refused: {error.message[:40]}"] += 1
        except Exception as error:
            found[f"failed: {type(error).__name__}"] += 1
        for left in folder.glob("old.ironstone*"):
            left.unlink()
    return found


def going(folder: Path, files: list[Path], tries: int, taken: Callable[[Path, list[Path]], str]) -> Counter[str]:
    """Source files cut off, emptied, overwritten or removed while they are read and stored: the result is whole or not there."""
    rng, found = random.Random(5), Counter[str]()
    for number in range(tries):
        work = folder / f"t{number}"
        work.mkdir()
        copies = [Path(shutil.copy(f, work)) for f in files]
        with Review.create(work / "r.ironstone") as review:
            intake(review, files, name="first")
        victim = copies[rng.randrange(len(copies))]
        act = rng.choice([
            lambda v=victim: v.unlink(missing_ok=True), lambda v=victim: os.truncate(v, v.stat().st_size // 2),
            lambda v=victim: v.write_bytes(b""), lambda v=victim: v.write_bytes(os.urandom(5000)),
        ])  # fmt: skip
        timer = threading.Timer(rng.random() * 1.2, act)
        timer.start()
        found[taken(work / "r.ironstone", copies)] += 1
        timer.cancel()
        timer.join()
        shutil.rmtree(work)
    return found


LAUGHS = '<!DOCTYPE z [<!ENTITY a "aaaaaaaaaa">' + "".join(
    f'<!ENTITY {chr(98 + k)} "{10 * f"&{chr(97 + k)};"}">' for k in range(9)
)  # fmt: skip


def _with_entities(path: Path) -> None:
    body = '<VTKFile type="UnstructuredGrid"><UnstructuredGrid><Piece NumberOfPoints="&j;"/></UnstructuredGrid></VTKFile>'
    if path.suffix == ".pvd":
        body = '<VTKFile type="Collection"><Collection><DataSet timestep="0" file="&j;"/></Collection></VTKFile>'
    if path.suffix == ".xdmf":
        body = '<Xdmf Version="3.0"><Domain><Grid><Topology TopologyType="&j;"/></Grid></Domain></Xdmf>'
    path.write_text(f'<?xml version="1.0"?>{LAUGHS}]>{body}')


def _cube(path: Path) -> None:
    points = np.array([[x, y, z] for z in (0.0, 1) for x, y in ((0, 0), (1, 0), (1, 1), (0, 1))])
    with Writer(path, points, np.array([12], np.uint8), np.array([0, 8]), np.arange(8)) as out:
        out.step(0.0, {"displacement": RawArray(points)}, {})


def _many_rows(path: Path) -> None:
    """400 million rows of zeros for 8 points, packed to next to nothing."""
    _cube(path)
    with h5py.File(path, "r+") as file:
        group = file["VTKHDF/PointData"]
        group.create_dataset("heat", (400_000_000,), "f8", chunks=(4_000_000,), compression="gzip")[:8_000_000] = 0.0


def _large_piece(path: Path) -> None:
    """8 rows kept in one piece that unpacks to 2 GB."""
    _cube(path)
    with h5py.File(path, "r+") as file:
        group = file["VTKHDF/PointData"]
        group.create_dataset("heat", (8,), "f8", maxshape=(None,), chunks=(250_000_000,), compression="gzip")[:] = 1.0


def _packed_vtu(path: Path) -> None:
    """A VTU whose one array unpacks to 3 GB of zeros."""
    packer, piece, body = zlib.compressobj(9), bytes(16 * 1024**2), b""
    for _ in range(192):
        body += packer.compress(piece)
    body += packer.flush()
    head = struct.pack("<4I", 1, 192 * len(piece), 0, len(body))
    data = base64.b64encode(head) + base64.b64encode(body)
    path.write_bytes(
        b'<VTKFile type="UnstructuredGrid" version="0.1" byte_order="LittleEndian" compressor="vtkZLibDataCompressor">'
        b'<UnstructuredGrid><Piece NumberOfPoints="134217728" NumberOfCells="0"><Points>'
        b'<DataArray type="Float64" NumberOfComponents="3" format="binary">'
        + data + b"</DataArray></Points><Cells/></Piece></UnstructuredGrid></VTKFile>"
    )  # fmt: skip


FILES: dict[str, tuple[str, Callable[[Path], None]]] = {
    "entities in a VTU": (".vtu", _with_entities),
    "entities in a collection": (".pvd", _with_entities),
    "entities in XDMF": (".xdmf", _with_entities),
    "400 million rows on 8 points": (".vtkhdf", _many_rows),
    "a piece that unpacks to 2 GB": (".vtkhdf", _large_piece),
    "a VTU that unpacks to 3 GB": (".vtu", _packed_vtu),
}


def bombs(folder: Path, tries: int) -> Counter[str]:
    """Small files that ask for far more than they are, and pictures of absurd size: told in words, in bounded memory and time."""
    found = Counter[str]()
    for _, (suffix, make) in list(FILES.items())[:tries]:
        path = folder / f"bomb{suffix}"
        maker = multiprocessing.get_context("spawn").Process(target=make, args=(path,))
        maker.start()
        maker.join()
        begun = time.perf_counter()
        said = _read(path, folder)
        slow = time.perf_counter() - begun > MOST_SECONDS
        large = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 > MOST_MEMORY
        found["too slow" if slow else "too large" if large else said] += 1
        path.unlink()
    for side in (50_000, 2**31 - 1):
        head = struct.pack(">2I5B", side, side, 8, 6, 0, 0, 0)
        data = b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + b"IHDR" + head + struct.pack(">I", zlib.crc32(b"IHDR" + head))
        try:
            picture_of("data:image/png;base64," + base64.b64encode(data).decode())
            found["a picture of absurd size taken in"] += 1
        except IronstoneError:
            found["told"] += 1
    return found


def _read(path: Path, folder: Path) -> str:
    with tempfile.TemporaryDirectory(dir=folder) as scratch:
        try:
            notes = [n for _, stored in read_series([path], Path(scratch)) for n in load(stored).notes]
        except IronstoneError as error:
            return "told" if "Traceback" not in str(error) else "a raw error"
        except Exception as error:
            return f"failed: {type(error).__name__}"
    return "told" if notes else "taken in without a word"


OWNER = """
import os, sys, time
from pathlib import Path
from ironstone.store import Review
review = Review.open(Path(sys.argv[1]))
review.set_units(1, "m-N-s-kg-Pa")
review.rename_result(1, "as it is now")
print("stated", flush=True)
time.sleep(60)
"""
NOBODY = ("setpriv", "--reuid=65534", "--regid=65534", "--clear-groups")


def other_users(folder: Path, files: list[Path], tries: int) -> Counter[str]:
    """A review read by somebody who may not write, while what was stated last stands in the log beside it: at work, or killed."""
    if os.geteuid() != 0 or not shutil.which(NOBODY[0]):
        return Counter({"not tried: only root can become another user": tries})
    folder.chmod(0o755)
    found = Counter[str]()
    for number in range(tries):
        path = folder / f"r{number}.ironstone"
        with Review.create(path) as review:
            intake(review, files, name="as it was")
        owner = subprocess.Popen([sys.executable, "-c", OWNER, str(path)], stdout=subprocess.PIPE)
        assert owner.stdout
        owner.stdout.readline()
        if number % 2:
            owner.kill()
            owner.wait()
        command = [*NOBODY, sys.executable, "-m", "ironstone", "contents", str(path), "--json"]
        ended = subprocess.run(command, capture_output=True, text=True, check=False)
        owner.kill()
        owner.wait()
        if ended.returncode == 2 and "ironstone:" in ended.stderr:
            found["told"] += 1
        elif ended.returncode == 0:
            found["same" if json.loads(ended.stdout)["results"][0]["name"] == "as it is now" else "an old review"] += 1
        else:
            found[f"failed: {ended.stderr[-40:]}"] += 1
    return found
