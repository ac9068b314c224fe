"""A review is not lost, and nothing else is touched: other programs' files, writers at one time, killed intakes, a full disk."""

from __future__ import annotations

import hashlib
import os
import signal
import sqlite3
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.core.field.axes import three_points
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake, known
from ironstone.store.lease import leased

AXES = (np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))


def files_in(folder: Path) -> dict[str, str]:
    return {p.name: hashlib.sha256(p.read_bytes()).hexdigest() for p in folder.iterdir() if p.is_file()}


# Other files


@pytest.mark.parametrize("journal", ["DELETE", "WAL"])
@pytest.mark.parametrize("table", ["notes", "result"])
def test_another_programs_database_is_refused_and_left_byte_for_byte(tmp_path: Path, journal: str, table: str) -> None:
    path = tmp_path / "other.sqlite"
    database = sqlite3.connect(path)
    database.execute(f"PRAGMA journal_mode = {journal}")
    database.execute(f"CREATE TABLE {table} (id INTEGER PRIMARY KEY, text TEXT)")
    database.execute(f"INSERT INTO {table} (text) VALUES ('mine')")
    database.commit()
    database.close()
    before = files_in(tmp_path)
    with pytest.raises(IronstoneError, match=r"other\.sqlite is not a review"):
        Review.open(path)
    assert files_in(tmp_path) == before


@pytest.mark.parametrize("content", [b"", b"hello", b"SQLite format 3\x00" + b"\0" * 200, b"SQLite format 3\x00"], ids=repr)
def test_what_is_no_database_is_refused(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "a.ironstone"
    path.write_bytes(content)
    with pytest.raises(IronstoneError):
        Review.open(path)
    assert path.read_bytes() == content and list(tmp_path.iterdir()) == [path]


def test_a_review_is_known_by_its_number_and_an_older_one_by_its_tables(tmp_path: Path) -> None:
    path = tmp_path / "a.ironstone"
    Review.create(path).close()
    assert path.read_bytes()[68:72] == known.APPLICATION.to_bytes(4, "big")
    database = sqlite3.connect(path)
    database.execute("PRAGMA application_id = 0")
    database.close()
    Review.open(path).close()
    assert path.read_bytes()[68:72] == known.APPLICATION.to_bytes(4, "big"), "it carries the number from then on"


def test_a_newer_review_is_refused_with_advice_and_untouched(tmp_path: Path) -> None:
    path = tmp_path / "a.ironstone"
    Review.create(path).close()
    database = sqlite3.connect(path)
    database.execute("UPDATE alembic_version SET version_num = '9999_later'")
    database.commit()
    database.close()
    before = files_in(tmp_path)
    with pytest.raises(IronstoneError, match="newer version"):
        Review.open(path)
    assert files_in(tmp_path) == before


def test_a_review_that_cannot_be_written_opens_for_reading(
    bar_files: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "shelf" / "a.ironstone"
    with Review.create(path) as review:
        intake(review, bar_files)
    before = files_in(path.parent)
    monkeypatch.setattr(known, "writable", lambda _path: False)
    with Review.open(path) as review:
        answer = evaluate(Reading("stress", "xx"), review.result(), AtCorners())
        assert answer.values.max() == pytest.approx(30.0)
        with pytest.raises(IronstoneError, match="can only be read"):
            review.set_units(review.result().id, "m-N-s-kg-Pa")
    assert files_in(path.parent) == before
    monkeypatch.undo()
    database = sqlite3.connect(path)
    database.execute("UPDATE alembic_version SET version_num = '0001'")
    database.commit()
    database.close()
    monkeypatch.setattr(known, "writable", lambda _path: False)
    with pytest.raises(IronstoneError, match="older version"):
        Review.open(path)


# Several writers


def test_corrections_made_at_one_time_are_all_there(bar_files: list[Path], tmp_path: Path) -> None:
    """Forty axes kept by eight threads through two openings of one review: none overwrites another."""
    path = tmp_path / "a.ironstone"
    with Review.create(path) as first, Review.open(path) as second:
        result = intake(first, bar_files)

        def keep(number: int) -> None:
            (first, second)[number % 2].set_axes(result, three_points(f"axes {number}", "cartesian", *AXES))

        with ThreadPoolExecutor(8) as pool:
            list(pool.map(keep, range(40)))
        assert set(first.correction(result)["axes"]) == {f"axes {i}" for i in range(40)}
        for _ in range(40):
            assert first.undo() is not None
        assert not first.correction(result).get("axes")


def test_corrections_from_several_processes_are_all_there(bar_files: list[Path], tmp_path: Path) -> None:
    path = tmp_path / "a.ironstone"
    with Review.create(path) as review:
        result = intake(review, bar_files)
    command = [sys.executable, "-m", "ironstone", "state", str(path), "--axes"]
    running = [subprocess.Popen([*command, f"axes {i}"], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE) for i in range(6)]
    assert [(p.wait(120), p.stderr.read() if p.stderr else b"") for p in running] == [(0, b"")] * 6
    with Review.open(path) as review:
        assert set(review.correction(result)["axes"]) == {f"axes {i}" for i in range(6)}


# Arrivals

ARRIVE = """
import sys, time
from pathlib import Path
from ironstone.store import Review, intake
review = Review.open(Path(sys.argv[1]))
def tell(share, text):
    print(text, flush=True)
    if text.startswith("stored step"):
        sys.stdin.readline()
intake(review, [Path(p) for p in sys.argv[2:]], tell=tell)
"""


@contextmanager
def arriving(path: Path, files: list[Path]) -> Iterator[subprocess.Popen[bytes]]:
    """An intake in a process of its own that waits after its first step."""
    child = subprocess.Popen(
        [sys.executable, "-c", ARRIVE, str(path), *map(str, files)], stdin=subprocess.PIPE, stdout=subprocess.PIPE
    )
    assert child.stdout
    while b"stored step" not in (line := child.stdout.readline()):
        assert line, "it ended too soon"
    try:
        yield child
    finally:
        child.kill()
        child.communicate()


def test_opening_a_review_leaves_an_intake_elsewhere_alone(bar_files: list[Path], tmp_path: Path) -> None:
    path = tmp_path / "a.ironstone"
    Review.create(path).close()
    with arriving(path, bar_files) as child:
        for _ in range(3):
            with Review.open(path) as review:
                assert review.results() == []
        child.communicate(b"\n", timeout=60)
        assert child.returncode == 0
    with Review.open(path) as review:
        assert [r.name for r in review.results()] == ["bar"]
        assert evaluate(Reading("stress", "xx", step=1), review.result(), AtCorners()).values.max() == pytest.approx(60.0)


def test_what_a_killed_intake_left_is_swept(bar_files: list[Path], tmp_path: Path) -> None:
    path = tmp_path / "a.ironstone"
    Review.create(path).close()
    with arriving(path, bar_files) as child:
        assert list(tmp_path.glob(".arriving-*"))
        os.kill(child.pid, signal.SIGKILL)
        child.wait()
        with Review.open(path) as review:
            assert review.results() == [] and review.sweep() == 0
        assert not list(tmp_path.glob(".arriving-*"))
    assert sqlite3.connect(path).execute("SELECT count(*) FROM result").fetchone() == (0,)


def test_folders_of_the_living_are_not_swept(tmp_path: Path) -> None:
    from ironstone.store import lease

    with leased(tmp_path, lease.UPLOADS) as folder:
        assert lease.sweep(tmp_path) == 0 and folder.is_dir()
    assert not folder.exists()
    left = tmp_path / ".uploads-old"
    left.mkdir()
    assert lease.sweep(tmp_path) == 0, "it may have been made this moment"
    os.utime(left, (time.time() - 3600,) * 2)
    assert lease.sweep(tmp_path) == 1 and not left.exists()


# A full disk


@contextmanager
def disk_of(review: Review, pages: int) -> Iterator[None]:
    """As if the disk had room for so many more pages: SQLite says of both that database or disk is full."""

    def limit(most: int) -> None:
        with review.engine.connect() as connection:
            connection.exec_driver_sql(f"PRAGMA max_page_count = {most}")

    with review.engine.connect() as connection:
        used = connection.exec_driver_sql("PRAGMA page_count").scalar()
    limit((used or 0) + pages)
    yield
    limit(1_000_000_000)


@pytest.mark.parametrize("pages", range(0, 30, 3))
def test_an_intake_on_a_full_disk_says_so_and_leaves_the_review_as_it_was(
    bar_files: list[Path], tmp_path: Path, pages: int
) -> None:
    with Review.create(tmp_path / "a.ironstone") as review:
        intake(review, bar_files)
        with disk_of(review, pages):
            try:
                intake(review, bar_files)
            except IronstoneError as error:
                assert "disk that holds a.ironstone is full" in error.message and "MB are free" in error.message
                assert [r.name for r in review.results()] == ["bar"]
            else:
                assert [r.name for r in review.results()] == ["bar", "bar 2"]
            assert evaluate(Reading("stress", "xx"), review.results()[0], AtCorners()).values.max() == pytest.approx(30.0)
        ready = sqlite3.connect(review.path).execute("SELECT count(*) FROM result WHERE state = 'ready'").fetchone()[0]
        assert ready == len(review.results()), "nothing is ready and out of sight"


def test_a_result_is_shown_and_ready_or_neither(bar_files: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with Review.create(tmp_path / "a.ironstone") as review:

        def fail(*_: object) -> None:
            raise OSError(28, "No space left on device")

        monkeypatch.setattr(Review, "_add", fail)
        with pytest.raises(OSError):
            intake(review, bar_files)
        monkeypatch.undo()
        assert sqlite3.connect(review.path).execute("SELECT count(*) FROM result").fetchone() == (0,)
