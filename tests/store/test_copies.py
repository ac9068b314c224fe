"""Copies to be shared: the whole is the review, the lean one its exhibits alone; one that was changed on its way is refused."""

from __future__ import annotations

import json
import os
import subprocess
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, question_of
from ironstone.engine.kept.exhibits import answers_of, keep_answer
from ironstone.engine.kept.outline import exhibits_of, in_chapters
from ironstone.engine.report.html import report_html
from ironstone.engine.report.pdf import report_pdf
from ironstone.service.app import create_app
from ironstone.store import Review, intake
from ironstone.store.copies import copy_review, sizes


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path):
    with Review.create(tmp_path / "r.ironstone", "Bar") as opened:
        intake(opened, bar_files, "bar", "mm-N-s-t-MPa")
        keep_answer(opened, "Balance", ask(opened, question_of("balance", {})))
        yield opened


def test_a_whole_copy_is_the_review_in_one_file(review: Review, tmp_path: Path) -> None:
    digest = copy_review(review, tmp_path / "copy.ironstone")
    there = sorted(p.name for p in tmp_path.glob("copy*"))
    assert there == ["copy.ironstone", "copy.ironstone.sha256"], "and nothing beside it but its hash"
    told = subprocess.run(["sha256sum", "-c", "copy.ironstone.sha256"], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert told.returncode == 0 and len(digest) == 64
    then = review.result().read("stress", "xx", step=1)
    with Review.open(tmp_path / "copy.ironstone") as copy:
        assert (copy.result().read("stress", "xx", step=1).values == then.values).all()
        assert [e.title for e in exhibits_of(copy)] == ["Balance"]
    with pytest.raises(IronstoneError, match="already"):
        copy_review(review, tmp_path / "copy.ironstone")


def test_a_copy_that_was_changed_on_its_way_is_refused_and_one_that_was_changed_here_is_not(review: Review, tmp_path: Path) -> None:
    path = tmp_path / "copy.ironstone"
    copy_review(review, path)
    good = path.read_bytes()
    path.write_bytes(good[:-1] + bytes([good[-1] ^ 1]))
    with pytest.raises(IronstoneError, match="not what was sent"):
        Review.open(path)
    done = CliRunner().invoke(app, ["contents", str(path)])
    assert done.exit_code == 2 and "Have it sent again" in done.stderr
    path.write_bytes(good)
    with Review.open(path) as copy:
        keep_answer(copy, "Again", ask(copy, question_of("balance", {})))
    later = path.with_name(path.name + ".sha256").stat().st_mtime + 60
    os.utime(path, (later, later))
    with Review.open(path) as copy:
        assert len(exhibits_of(copy)) == 2


def test_a_lean_copy_has_its_exhibits_and_says_what_it_lacks(review: Review, tmp_path: Path) -> None:
    copy_review(review, tmp_path / "lean.ironstone", lean=True)
    with Review.open(tmp_path / "lean.ironstone") as lean:
        ((_, ((_, kept),)),) = in_chapters(lean)
        assert answers_of(lean, kept)[0].verdict == answers_of(review, kept)[0].verdict
        with pytest.raises(IronstoneError, match="lean copy"):
            lean.result().read("stress", "xx")
        with pytest.raises(IronstoneError, match="lean copy"):
            ask(lean, question_of("balance", {}))
        text = report_html(lean)
        assert "Balance" in text and "This is a lean copy" in text
        assert report_pdf(lean).startswith(b"%PDF")
        with TestClient(create_app(lean), raise_server_exceptions=False) as client:
            assert client.get("/api/outline").json()["chapters"][0]["exhibits"][0]["title"] == "Balance"
            answer = client.get("/api/results/1")
            assert answer.status_code >= 400 and "lean copy" in answer.text
            assert client.get("/api/review").status_code == 200


def test_sizes_are_told_before_and_hold(demo_copy: Path, tmp_path: Path) -> None:
    with Review.open(demo_copy) as review:
        told = sizes(review)
        copy_review(review, tmp_path / "whole.ironstone")
        copy_review(review, tmp_path / "lean.ironstone", lean=True)
        whole, lean = ((tmp_path / f"{n}.ironstone").stat().st_size for n in ("whole", "lean"))
        assert lean < 0.2 * whole and abs(told.whole - whole) < 0.1 * whole and abs(told.lean - lean) < 0.1 * whole
        said = json.loads(CliRunner().invoke(app, ["copy", str(review.path), "--json"]).stdout)
        assert said == {"whole": told.whole, "lean": told.lean}
        with TestClient(create_app(review)) as client:
            assert client.get("/api/review/copies").json() == said
            sent = client.get("/api/review/copy", params={"lean": True})
            assert sent.headers["content-disposition"].endswith("Ropeway%20lean.ironstone")
            (tmp_path / "sent.ironstone").write_bytes(sent.content)
    with Review.open(tmp_path / "sent.ironstone") as copy:
        assert copy.name == "Ropeway"
