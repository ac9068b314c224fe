"""Long work on the command line says how far it is, on standard error, and what does not fit is told in words."""

from __future__ import annotations

import io
import resource
import subprocess
import sys
from pathlib import Path

import pytest

from ironstone.cli import progress
from ironstone.core.wanted import still_wanted
from ironstone.formats import memory
from ironstone.store import Review, intake
from tests.store.test_loads import pulled


class Terminal(io.StringIO):
    def isatty(self) -> bool:
        return True


def test_in_a_terminal_one_line_is_written_over_and_taken_back(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(progress, "FIRST", 0.0)
    monkeypatch.setattr(progress, "BETWEEN", 0.0)
    monkeypatch.setattr(sys, "stderr", terminal := Terminal())
    with progress.shown():
        still_wanted("values at corners, 5 of 9")
    said = terminal.getvalue()
    assert "values at corners, 5 of 9" in said and "\n" not in said
    assert said.endswith(f"\r{'':<{progress.WIDTH}}\r")


def test_elsewhere_it_is_lines_and_with_quiet_nothing(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr(progress, "FIRST", 0.0)
    monkeypatch.setattr(progress, "LINES", 0.0)
    for quiet in (False, True):
        monkeypatch.setattr(progress.Progress, "quiet", quiet)
        with progress.shown():
            still_wanted("step 3 of 40")
        assert capsys.readouterr().err.startswith("ironstone: step 3 of 40") is not quiet


def test_what_is_over_soon_says_nothing(capsys: pytest.CaptureFixture[str]) -> None:
    with progress.shown():
        still_wanted("step 3 of 40")
    assert capsys.readouterr().err == ""


def test_what_does_not_fit_is_told_with_what_would(tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, pulled(tmp_path), "pulled", "mm-N-s-t-MPa")
    code = (
        "import sys\nfrom ironstone.engine.reading import answers\n"
        "def full(*given, **words): raise MemoryError('Unable to allocate 3.00 GiB')\n"
        "answers.extremes = full\nfrom ironstone.__main__ import main\n"
        "main()\n"
    )
    words = ["read", str(tmp_path / "r.ironstone"), "--field", "stress", "--measure", "von-mises", "--extremes"]
    done = subprocess.run([sys.executable, "-c", code, *words], capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert "more memory than there is" in done.stderr and "region" in done.stderr


def test_a_limit_of_the_system_is_what_there_is(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr(memory, "BOUNDS", (tmp_path / "memory.max",))
    assert memory.allowed() <= memory.machine()
    (tmp_path / "memory.max").write_text("max\n")
    free = memory.allowed()
    (tmp_path / "memory.max").write_text("1073741824\n")
    assert memory.allowed() == min(free, 1024**3) and memory.where() == "what this process is allowed"
    monkeypatch.setattr(resource, "getrlimit", lambda kind: (512 * 1024**2, resource.RLIM_INFINITY))
    assert memory.allowed() == 512 * 1024**2
