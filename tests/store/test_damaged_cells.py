"""One damaged cell costs what it holds and nothing else: it is named, the rest opens, and no number changes without a word."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from ironstone.core.errors import IronstoneError
from ironstone.service.app import create_app
from ironstone.store import Review, intake, seal
from ironstone.store.damage import check


@pytest.fixture
def path(bar_files: list[Path], tmp_path: Path) -> Path:
    """Two results, one of them with something stated of it, and a hand check."""
    path = tmp_path / "bar.ironstone"
    with Review.create(path) as review:
        intake(review, bar_files, "one")
        intake(review, bar_files, "two")
        review.set_units(1, "m-N-s-kg-Pa")
        review.add("check", {"result": 1, "name": "hand", "reading": {"field": "stress"}, "at": "node:1", "expected": 2.0}, "kept")
    return path


def spoil(path: Path, statement: str) -> None:
    database = sqlite3.connect(path)
    with database:
        assert database.execute(statement).rowcount > 0, statement
    database.close()


CELLS = [
    ("UPDATE item SET payload = '{\"result\": 1, ' WHERE kind = 'correction'", "correction"),
    ("UPDATE item SET payload = replace(payload, 'm-N-s-kg-Pa', 'mm-kN-s-Gg-GPa') WHERE kind = 'correction'", "correction"),
    ("UPDATE item SET payload = replace(payload, '2.0', '3.0') WHERE kind = 'check'", "check, 'hand'"),
    ("UPDATE item SET kind = 'chack' WHERE kind = 'check'", "chack"),
    ("UPDATE item SET removed = 1 WHERE kind = 'check'", "check, 'hand'"),
    ("UPDATE result SET summary = '{' WHERE id = 1", "one"),
    ("UPDATE result SET files = 'nothing' WHERE id = 1", "one"),
    ("UPDATE result SET system = 'm-N-s-kg-Pa' WHERE id = 2", "two"),
    ("UPDATE result SET part_names = replace(part_names, 'part', 'pert') WHERE id = 2", "two"),
]


@pytest.mark.parametrize(("statement", "named"), CELLS, ids=[f"{n}: {s[:46]}" for s, n in CELLS])
def test_what_is_damaged_is_named_and_the_rest_opens(path: Path, statement: str, named: str) -> None:
    spoil(path, statement)
    with Review.open(path) as review:
        assert any(named in said for said in review.damaged()), review.damaged()
        found = check(review)
        assert not found["whole"]
        others = [r for r in review.results() if r.name != named]
        assert others and all(r.read("stress", "xx", at="nodes").values.size for r in others)
        with TestClient(create_app(review)) as client:
            reply = client.get("/api/review")
            assert reply.status_code == 200 and any(named in said for said in reply.json()["unreadable"])
            assert client.get("/api/kept/check").status_code == 200


@pytest.mark.parametrize("moment", ["yesterday", "2026-13-45 99:00", ""])
def test_a_moment_that_cannot_be_read_costs_nothing_else(path: Path, moment: str) -> None:
    spoil(path, f"UPDATE result SET created = '{moment}' WHERE id = 1")
    spoil(path, f"UPDATE item SET created = '{moment}'")
    with Review.open(path) as review:
        assert [r.name for r in review.results()] == ["one", "two"] and review.result(1).steps


def test_an_array_that_vanished_is_told_and_is_no_step_without_a_value(path: Path) -> None:
    """A row of the list of arrays gone, with all that hangs on it."""
    with Review.open(path) as review:
        stress = review.result(1).field_rows["stress"].id
    spoil(path, f"DELETE FROM array WHERE field_id = {stress} AND step = 1")
    with Review.open(path) as review:
        source = review.result(1)
        assert source.values("stress", 0).size
        for read in (lambda: source.values("stress", 1), lambda: source.read("stress", "xx", at="nodes", step=1)):
            with pytest.raises(IronstoneError, match="'stress' at step 2 of one is lost"):
                read()
        found = check(review)
        assert "'stress' at step 2, which is not there any more" in found["results"][0]["lost"] and not found["whole"]


@pytest.mark.parametrize(("role", "told"), [("node set fixed", True), ("part", False)])
def test_a_piece_of_the_mesh_that_vanished_is_told(path: Path, role: str, told: bool) -> None:
    spoil(path, f"DELETE FROM array WHERE result_id = 1 AND role = '{role}'")
    with Review.open(path) as review:
        source = review.result(1)
        if told:
            assert "fixed" not in source.mesh.node_sets and any(f"The mesh ({role}) of one is lost" in w for w in source.warnings)
        else:
            with pytest.raises(IronstoneError, match="is lost on the disk"):
                _ = source.mesh
        assert any(role in lost for lost in check(review)["results"][0]["lost"])


def test_a_field_that_begins_later_is_still_no_damage(path: Path) -> None:
    assert (
        seal.steps_of(seal.of_steps([0, 1, 2, 5, 7, 8])) == [0, 1, 2, 5, 7, 8]
        and seal.of_steps([]) == ""
        and seal.steps_of("") == []
    )
    with Review.open(path) as review:
        assert check(review)["whole"] and review.damaged() == []


def test_a_sound_review_stays_sound_through_undo_removal_and_return(path: Path) -> None:
    with Review.open(path) as review:
        item = review.items("check")[0]
        review.change(item.id, {**item.payload, "expected": 4.0, "pairs": {"10": [1, 2.5], "2": None}}, "changed")
        review.remove(item.id, "removed")
        review.undo()
        review.undo()
        review.redo()
        review.rename_result(1, "renamed")
    with Review.open(path) as review:
        assert check(review)["whole"], check(review)
        assert review.item(item.id).payload["expected"] == 4.0


@pytest.mark.parametrize(
    ("statement", "told"),
    [
        ("DELETE FROM item WHERE kind = 'check'", "of what was made or stated is lost"),
        ("DELETE FROM item WHERE kind = 'correction'", "of what was made or stated is lost"),
        ("DELETE FROM result WHERE id = 2", "The result 'two' is lost"),
        ("UPDATE item SET removed = '' WHERE kind = 'check'", "(check, 'hand') is damaged"),
        ("UPDATE review SET roll = 'one to three'", "The list of all that was made is damaged"),
    ],
)
def test_a_row_that_vanished_is_told(path: Path, statement: str, told: str) -> None:
    spoil(path, statement)
    with Review.open(path) as review:
        assert any(told in said for said in review.damaged()), review.damaged()
        assert not check(review)["whole"]


def test_what_is_discarded_is_not_lost(path: Path) -> None:
    with Review.open(path) as review:
        review.discard("two")
        assert review.damaged() == [] and check(review)["whole"]
