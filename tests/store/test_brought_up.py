"""Reviews of older layouts are brought up whole or not at all, wherever it is broken off."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from alembic import op

from bench.faults_outside import older
from ironstone.core.errors import IronstoneError
from ironstone.store import Review, intake
from ironstone.store.damage import check
from tests.writing import bar_of_hexahedra, write_vtu


@pytest.fixture
def path(tmp_path: Path) -> Path:
    points, cells, ids = bar_of_hexahedra()
    file = write_vtu(tmp_path / "bar.vtu", points, cells, {"displacement": points, "GlobalIds": ids}, {"stress": np.eye(6)[:3]})
    with Review.create(tmp_path / "bar.ironstone") as review:
        intake(review, [file])
    return tmp_path / "bar.ironstone"


def layout(path: Path) -> tuple[str, list[str]]:
    """The layout a file says it has, and all columns that are in it."""
    with closing(sqlite3.connect(path)) as database:
        (version,) = database.execute("SELECT version_num FROM alembic_version").fetchone()
        tables = sorted(row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'"))
        return version, [f"{t}.{c[1]}" for t in tables for c in database.execute(f"PRAGMA table_info({t})")]


@pytest.mark.parametrize("step", range(4))
def test_what_breaks_off_between_two_steps_leaves_the_file_as_it_was(
    path: Path, step: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each change of a layout stood by itself once: a file that was left between two could not be opened any more."""
    older(path, "0003")
    before, honest, done = layout(path), op.add_column, 0

    def broken(*given: Any, **named: Any) -> None:
        nonlocal done
        if done == step:
            raise KeyboardInterrupt
        done += 1
        honest(*given, **named)

    monkeypatch.setattr(op, "add_column", broken)
    with pytest.raises((KeyboardInterrupt, IronstoneError)):
        Review.open(path)
    assert layout(path) == before
    monkeypatch.undo()
    with Review.open(path) as review:
        assert check(review)["whole"] and len(review.results()) == 1


@pytest.mark.parametrize("made", [[("change", "joined", "BOOLEAN DEFAULT 0 NOT NULL")], [("item", "seal", "VARCHAR")]])
def test_a_file_an_older_program_left_between_two_layouts_is_brought_up(path: Path, made: list[tuple[str, str, str]]) -> None:
    older(path, "0003")
    with closing(sqlite3.connect(path)) as database, database:
        for table, column, kind in made:
            database.execute(f"ALTER TABLE {table} ADD COLUMN {column} {kind}")
    with Review.open(path) as review:
        assert check(review)["whole"] and len(review.results()) == 1
