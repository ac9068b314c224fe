"""The log beside a review: moved into the file when it is quiet and when it ends, never taken into another file, never left out."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import httpx
import pytest

from ironstone.core.errors import IronstoneError
from ironstone.store import Review, intake, known, log_of, settling
from ironstone.store.damage import check
from tests.conftest import ROOT

FLAG = {"result": 1, "at": "node:1"}


@pytest.fixture
def path(bar_files: list[Path], tmp_path: Path) -> Path:
    path = tmp_path / "bar.ironstone"
    with Review.create(path) as review:
        intake(review, bar_files)
    return path


def names(path: Path) -> list[str]:
    """What the results of a copy of the one file are called, with nothing beside it."""
    copy = path.with_name("copy.ironstone")
    shutil.copy(path, copy)
    with Review.open(copy) as review:
        found = [r.name for r in review.results()]
    copy.unlink()
    return found


def test_a_closed_review_has_nothing_beside_it(path: Path) -> None:
    with Review.open(path) as review:
        review.rename_result(1, "first")
        assert names(path) != ["first"], "until then it stands in the log"
    assert [p.name for p in path.parent.iterdir() if p.name.startswith(path.name)] == [path.name]
    assert names(path) == ["first"]


def test_after_a_quiet_while_the_file_alone_is_the_review(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settling, "QUIET", 0.2)
    with Review.open(path) as review:
        review.rename_result(1, "quiet")
        for _ in range(100):
            if names(path) == ["quiet"]:
                break
            time.sleep(0.05)
        assert names(path) == ["quiet"]


def test_the_log_of_a_file_that_was_replaced_is_set_aside_and_said(path: Path, tmp_path: Path) -> None:
    """A process is killed with the day's work in the log; yesterday's copy is put back over the file."""
    yesterday = shutil.copy(path, tmp_path / "yesterday")
    kill = (
        "import os, sys\nfrom pathlib import Path\nfrom ironstone.store import Review\n"
        "review = Review.open(Path(sys.argv[1]))\nreview.rename_result(1, 'today')\nos._exit(9)"
    )
    subprocess.run([sys.executable, "-c", kill, str(path)], cwd=ROOT, check=False)
    assert log_of.log(path).stat().st_size > 0
    shutil.copy(yesterday, path)
    with Review.open(path) as review:
        assert [r.name for r in review.results()] == ["bar"]
        assert "was set aside as bar.ironstone-wal.of-another" in review.notices[0]
        assert check(review)["whole"]
        review.rename_result(1, "goes on")
    aside = path.with_name("bar.ironstone-wal.of-another")
    assert aside.stat().st_size > 0, "nothing of it is lost"
    with Review.open(path) as review:
        assert review.notices == [] and [r.name for r in review.results()] == ["goes on"]


def test_the_log_of_a_killed_process_is_taken_in_where_the_file_is_its_own(path: Path) -> None:
    kill = (
        "import os, sys\nfrom pathlib import Path\nfrom ironstone.store import Review\n"
        "review = Review.open(Path(sys.argv[1]))\nreview.rename_result(1, 'today')\nos._exit(9)"
    )
    subprocess.run([sys.executable, "-c", kill, str(path)], cwd=ROOT, check=False)
    with Review.open(path) as review:
        assert [r.name for r in review.results()] == ["today"] and review.notices == []


def test_a_log_that_another_process_begins_meanwhile_is_not_taken_for_a_foreign_one(
    path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Between the look at what is said beside the log and the look at the file's number, a log was ended and the next begun."""
    said = path.with_name("bar.ironstone-log-of")
    said.write_text("11")
    log_of.log(path).write_bytes(b"log")
    numbers = iter([22, 22])

    def number_in(_: Path) -> int:
        said.write_text("22")
        return next(numbers)

    monkeypatch.setattr(log_of, "number_in", number_in)
    assert log_of.set_aside_foreign(path) == ""
    assert log_of.log(path).read_bytes() == b"log" and said.read_text() == "22"
    monkeypatch.setattr(log_of, "number_in", lambda _: 33)
    assert "set aside" in log_of.set_aside_foreign(path), "said and meant: it is another file's"


def test_two_who_have_it_open_share_one_log(path: Path) -> None:
    with Review.open(path) as one:
        one.rename_result(1, "by one")
        with Review.open(path) as two:
            two.rename_result(1, "by two")
        assert [r.name for r in one.results()] == ["by two"]
        one.rename_result(1, "by one again")
    with Review.open(path) as again:
        assert [r.name for r in again.results()] == ["by one again"] and again.notices == []


@pytest.mark.parametrize("how", ["removed", "moved", "replaced"])
def test_a_file_that_goes_away_is_told_and_nothing_is_answered_that_is_nowhere(path: Path, tmp_path: Path, how: str) -> None:
    other = Path(shutil.copy(path, tmp_path / "other.ironstone"))
    with Review.open(path) as review:
        review.rename_result(1, "before")
        if how == "removed":
            path.unlink()
        elif how == "moved":
            path.rename(tmp_path / "elsewhere.ironstone")
        else:
            os.replace(other, path)
        with pytest.raises(IronstoneError, match="is not there any more"):
            review.rename_result(1, "after")
        with pytest.raises(IronstoneError, match="is not there any more"):
            review.results()


def test_who_may_only_read_sees_what_stands_in_the_log(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """With the owner at work."""
    with Review.open(path) as owner:
        owner.rename_result(1, "newest")
        monkeypatch.setattr(known, "writable", lambda _path: False)
        with Review.open(path) as reader:
            assert [r.name for r in reader.results()] == ["newest"]


def test_who_cannot_read_the_log_is_refused_rather_than_shown_what_is_old(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with Review.open(path) as owner:
        owner.rename_result(1, "newest")
        usual = sqlite3.connect

        def shut(address: str, **words: object) -> sqlite3.Connection:
            if "immutable" not in address:
                raise sqlite3.OperationalError("unable to open database file")
            return usual(address, **words)  # type: ignore[arg-type]

        monkeypatch.setattr(log_of.sqlite3, "connect", shut)
        with pytest.raises(IronstoneError, match="has changes in its log"):
            log_of.readable_at(path)


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_a_service_that_is_ended_leaves_one_whole_file(path: Path, number: signal.Signals) -> None:
    from tests.bench.serving import free_port

    port = free_port()
    command = [sys.executable, "-m", "ironstone", "serve", str(path), "--port", str(port)]
    started = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    try:
        for _ in range(600):
            try:
                httpx.get(f"http://127.0.0.1:{port}/api/review")
                break
            except httpx.TransportError:
                time.sleep(0.05)
        reply = httpx.put(f"http://127.0.0.1:{port}/api/results/1/name", json={"name": "ended in order"}, timeout=30)
        assert reply.status_code < 300, reply.text
        started.send_signal(number)
        assert started.wait(30) is not None
    finally:
        started.kill()
    assert started.stderr is not None and b"Traceback" not in started.stderr.read()
    assert [p.name for p in path.parent.iterdir() if p.name.startswith(path.name)] == [path.name]
    assert names(path) == ["ended in order"]


def test_a_second_service_on_a_taken_port_says_so_and_nothing_else(path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        command = [sys.executable, "-m", "ironstone", "serve", str(path), "--port", port]
        done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == 2 and f"Port {port} cannot be had" in done.stderr
    assert "the bench is at" not in done.stdout and "Traceback" not in done.stderr
