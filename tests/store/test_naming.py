"""The files a result came from are named by what they hold: quickly while it is taken in, by SHA-256 once it is there."""

from __future__ import annotations

import hashlib
import os
import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import xxhash

from ironstone.core.errors import IronstoneError
from ironstone.store import Review, intake, naming
from ironstone.store.damage import check
from tests.writing import bar_of_hexahedra, write_vtu


@pytest.fixture
def files(tmp_path: Path) -> list[Path]:
    points, cells, ids = bar_of_hexahedra()
    return [
        write_vtu(tmp_path / f"bar_{k}.vtu", points, cells, {"displacement": k * points, "GlobalIds": ids}, time=float(k))
        for k in range(2)
    ]


def test_the_result_is_there_before_its_files_are_named(tmp_path: Path, files: list[Path], monkeypatch: pytest.MonkeyPatch) -> None:
    go, over, honest = threading.Event(), threading.Event(), hashlib.sha256
    monkeypatch.setattr(naming.hashlib, "sha256", lambda: (go.wait(20), honest())[1])
    with Review.create(tmp_path / "a.ironstone") as review:
        result = intake(review, files, named=over.set)
        rows = review.result(result).files
        assert [r["name"] for r in rows] == ["bar_0.vtu", "bar_1.vtu"] and not any(r.get("sha256") for r in rows)
        assert [r["xxh3"] for r in rows] == [xxhash.xxh3_64(f.read_bytes()).hexdigest() for f in files]
        assert [r["bytes"] for r in rows] == [f.stat().st_size for f in files]
        assert not over.is_set() and check(review)["whole"]
        go.set()
        assert over.wait(20)
        assert [r["sha256"] for r in review.result(result).files] == [honest(f.read_bytes()).hexdigest() for f in files]
        assert check(review)["whole"]


def test_closing_a_review_waits_until_its_files_are_named(tmp_path: Path, files: list[Path]) -> None:
    with Review.create(tmp_path / "a.ironstone") as review:
        intake(review, files)
    with Review.open(tmp_path / "a.ironstone") as review:
        assert all(len(r["sha256"]) == 64 for r in review.result().files) and check(review)["whole"]


def test_a_service_that_ends_does_not_wait_and_the_quick_checksum_stands(tmp_path: Path, files: list[Path]) -> None:
    over = threading.Event()
    with Review.create(tmp_path / "a.ironstone") as review:
        review.naming.stop()
        intake(review, files, named=over.set)
    assert over.is_set(), "what waited for the naming goes on"
    with Review.open(tmp_path / "a.ironstone") as review:
        assert all(r["xxh3"] and not r.get("sha256") for r in review.result().files) and check(review)["whole"]


@pytest.mark.parametrize(
    "change",
    [lambda f: f.unlink(), lambda f: f.write_bytes(b"another"), lambda f: os.truncate(f, 10)],
    ids=["gone", "written", "cut"],
)
def test_a_file_that_changes_once_it_is_read_is_told_and_not_named(
    tmp_path: Path, files: list[Path], change: Callable[[Path], None]
) -> None:
    """What was read is whole; a checksum made afterwards would be that of another file."""
    with Review.create(tmp_path / "a.ironstone") as review:
        result = intake(review, files, shown=lambda _: change(files[1]))
        source = review.result(result)
        np.testing.assert_allclose(source.values("displacement", 1), source.mesh.points)
        assert any("bar_1.vtu was changed, moved or removed while it was taken in" in w for w in source.warnings)
        assert not any("bar_0.vtu" in w for w in source.warnings)
        assert source.files[1]["xxh3"] is None
    with Review.open(tmp_path / "a.ironstone") as review:
        named = review.result(result).files
        assert len(named[0]["sha256"]) == 64 and named[1]["sha256"] is None and check(review)["whole"]


def test_a_result_removed_while_its_files_are_named_stays_removed(
    tmp_path: Path, files: list[Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    go, honest = threading.Event(), hashlib.sha256
    monkeypatch.setattr(naming.hashlib, "sha256", lambda: (go.wait(20), honest())[1])
    with Review.create(tmp_path / "a.ironstone") as review:
        intake(review, files)
        review.discard(review.result().name)
        go.set()
    with Review.open(tmp_path / "a.ironstone") as review, pytest.raises(IronstoneError):
        review.result()
