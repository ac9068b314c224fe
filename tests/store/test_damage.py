"""A byte that changed on the disk is told, by field and step; it is never read as a result, and the rest stays readable."""

from __future__ import annotations

import json
import shutil
import sqlite3
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from bench.faults import flip, read_all
from bench.models import make
from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.places import AtCorners, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace
from ironstone.store import Review, arrays, intake
from ironstone.store.damage import check


@pytest.fixture
def review(bar_files: list[Path], tmp_path: Path) -> Path:
    path = tmp_path / "a.ironstone"
    with Review.create(path) as made:
        intake(made, bar_files)
    return path


def block_of(path: Path, field: str | None, step: int | None, role: str = "field") -> tuple[int, bytes]:
    """Id and bytes of the first block of a field at a step, or of a part of the mesh."""
    with sqlite3.connect(path) as database:
        found: tuple[int, bytes] = database.execute(
            "SELECT block.id, data FROM block JOIN array ON array.id = array_id LEFT JOIN field ON field.id = array.field_id "
            "WHERE role = ? AND field.name IS ? AND array.step IS ?",
            (role, field, step),
        ).fetchone()
    return found


def put(path: Path, block: int, data: bytes | None) -> None:
    with sqlite3.connect(path) as database:
        if data is None:
            database.execute("DELETE FROM block WHERE id = ?", (block,))
        else:
            database.execute("UPDATE block SET data = ? WHERE id = ?", (data, block))


@pytest.mark.parametrize("harm", ["one bit", "short", "long", "missing"])
def test_a_damaged_block_is_told_by_field_and_step_and_the_rest_is_read(review: Path, harm: str) -> None:
    block, data = block_of(review, "stress", 1)
    put(
        review,
        block,
        {"one bit": bytes([data[0] ^ 1]) + data[1:], "short": data[:-8], "long": data + data[:8], "missing": None}[harm],
    )
    with Review.open(review) as opened:
        source = opened.result()
        with pytest.raises(IronstoneError, match=r"'stress' at step 2 of bar is damaged") as reply:
            evaluate(Reading("stress", "xx", step=1), source, AtCorners())
        assert "bar_9.vtu (SHA-256 " in reply.value.hint
        assert evaluate(Reading("stress", "xx", step=0), source, AtCorners()).values.max() == pytest.approx(30.0)
        assert evaluate(Reading("displacement", "x", step=1), source, AtCorners()).values.max() == pytest.approx(0.06)
        found = check(opened)
    assert not found["whole"] and found["results"][0]["lost"] == ["'stress' at step 2"]


def test_a_few_rows_are_checked_as_well_as_whole_steps(review: Path) -> None:
    block, data = block_of(review, "displacement", 0)
    put(review, block, data[:-1] + bytes([data[-1] ^ 64]))
    with Review.open(review) as opened, pytest.raises(IronstoneError, match=r"'displacement' at step 1"):
        trace(Reading("displacement", "x"), opened.result(), AtNodes(np.array([0])))


def test_rows_of_a_sound_run_are_read_beside_a_damaged_one(tmp_path: Path) -> None:
    """In a large array only what is asked for is read and checked, so that the rest of the block still answers."""
    from tests.store.test_arrays import stored

    with Review.create(tmp_path / "a.ironstone") as opened:
        values = np.arange(60_000.0).reshape(-1, 6)
        row = stored(opened, values)
        with opened.database() as database:
            database.execute("UPDATE block SET data = zeroblob(65536) || substr(data, 65537)")
            database.commit()
            ids = [i for (i,) in database.execute("SELECT id FROM block ORDER BY position")]
            assert arrays.read_rows(database, row, ids, np.array([100])) is None
            found = arrays.read_rows(database, row, ids, np.array([9000, 3000, 2731]))
        assert found is not None and np.array_equal(found, values[[9000, 3000, 2731]])


@pytest.mark.parametrize(
    "change",
    [
        "UPDATE array SET dtype = '<i8' WHERE role = 'field'",
        "UPDATE array SET step = 1 - step WHERE role = 'field'",
        "UPDATE array SET field_id = field_id + 1 WHERE role = 'field'",
        "UPDATE step SET value = 3.5 WHERE position = 1",
        'UPDATE field SET components = \'["xx", "zz", "yy", "xy", "yz", "xz"]\' WHERE name = \'stress\'',
        "UPDATE seal SET sums = zeroblob(16)",
        "DELETE FROM seal",
    ],
)
def test_numbers_that_describe_what_is_stored_cannot_change_unseen(review: Path, change: str) -> None:
    with sqlite3.connect(review) as database:
        database.execute(change)
    with Review.open(review) as opened:
        with pytest.raises(IronstoneError, match=r"damaged|is lost on the disk"):
            source = opened.result()
            for step in range(len(source.steps)):
                for field in ("stress", "displacement", "reaction"):
                    evaluate(Reading(field, step=step), source, AtCorners())
        assert not check(opened)["whole"]


def test_a_damaged_set_is_left_out_and_said(review: Path) -> None:
    with sqlite3.connect(review) as database:
        result, mesh = database.execute("SELECT result_id, id FROM array WHERE role = 'part'").fetchone()
    with Review.open(review) as opened, opened.session() as session:
        arrays.write(session.connection(), result, "node set skin", np.array([0, 1, 2]))
    block, data = block_of(review, None, None, "node set skin")
    put(review, block, b"\xff" + data[1:])
    with Review.open(review) as opened:
        source = opened.result()
        assert "skin" not in source.mesh.node_sets
        assert any("node set skin" in w and "damaged" in w for w in source.warnings)
        assert evaluate(Reading("stress", "xx"), source, AtCorners()).values.max() == pytest.approx(30.0)
    assert mesh


def test_flipped_bytes_anywhere_are_told_or_change_nothing(review: Path, tmp_path: Path) -> None:
    whole = tmp_path / "whole.ironstone"
    with Review.create(whole) as made:
        intake(made, [make(tmp_path / "box.vtu", 2000)])
    truth = read_all(whole)
    outcomes = [flip(whole, tmp_path / "flipped.ironstone", truth, np.random.default_rng(seed)) for seed in range(40)]
    assert "wrong" not in outcomes
    assert outcomes.count("told") > 20


def test_the_command_goes_through_all_and_says_how_to_get_it_back(review: Path) -> None:
    runner = CliRunner()
    sound = runner.invoke(app, ["check", str(review)])
    assert sound.exit_code == 0 and "The review is whole." in sound.output
    put(review, block_of(review, "stress", 0)[0], None)
    reply = runner.invoke(app, ["check", str(review), "--json"])
    assert reply.exit_code == 1
    answer = json.loads(reply.output)
    assert answer["results"][0]["lost"] == ["'stress' at step 1"]
    assert "take bar_9.vtu (SHA-256" in answer["results"][0]["way_back"]


def test_a_review_made_before_checksums_gets_them_when_it_is_opened(review: Path) -> None:
    old = review.with_name("old.ironstone")
    shutil.copy(review, old)
    with sqlite3.connect(old) as database:
        before = database.execute("SELECT block_id, sums FROM seal ORDER BY block_id").fetchall()
        database.execute("DROP TABLE seal")
        for table, column in (("change", "joined"), ("item", "seal"), ("result", "seal"), ("review", "roll")):
            database.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
        database.execute("UPDATE alembic_version SET version_num = '0002'")
    with Review.open(old) as opened:
        assert check(opened)["whole"]
    with sqlite3.connect(old) as database:
        assert database.execute("SELECT block_id, sums FROM seal ORDER BY block_id").fetchall() == before


def test_changes_made_before_some_were_joined_are_undone_one_by_one(review: Path) -> None:
    with Review.open(review) as opened:
        names = ["first", "second"]
        for name in names:
            opened.rename(name)
    with sqlite3.connect(review) as database:
        for table, column in (("change", "joined"), ("item", "seal"), ("result", "seal"), ("review", "roll")):
            database.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
        database.execute("UPDATE alembic_version SET version_num = '0003'")
    with Review.open(review) as opened:
        assert opened.undo() == "Review named 'second'" and opened.name == "first"
        assert opened.redo() == "Review named 'second'" and opened.name == "second"


def test_a_discarded_result_gives_its_space_back(review: Path) -> None:
    with Review.open(review) as opened, opened.session() as session:
        result = opened.result().id
        arrays.write(session.connection(), result, "ballast", np.zeros((200_000, 6)))
    large = review.stat().st_size
    assert large > 9_000_000
    reply = CliRunner().invoke(app, ["discard", str(review), "bar", "--json"])
    assert reply.exit_code == 0 and json.loads(reply.output)["bytes"] > 9_000_000
    assert review.stat().st_size < large - 9_000_000
    with Review.open(review) as opened:
        assert opened.results() == []
        while opened.undo():
            assert opened.results() == []
