"""A run that still goes on: what is finished is a result now, what comes later is added, what is half written waits."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.engine.base import ask, keep, question_of, readable, thing_of
from ironstone.engine.reading.flags import FlagIn
from ironstone.service.app import create_app
from ironstone.store import Review, intake
from ironstone.store.again import take_again
from ironstone.store.follow import Following, followed_beside
from tests.writing import bar_of_hexahedra, write_vtu


def step(folder: Path, k: int, push: float = 1.0) -> Path:
    points, cells, ids = bar_of_hexahedra()
    stress = np.zeros((24, 6))
    stress[:, 0] = 10.0 * (k + 1) * push
    reaction = np.zeros((24, 3))
    # It is held at its end only from the third step on.
    if k >= 2:
        reaction[points[:, 0] == 0.0, 0] = -2.5 * k
    moved = 0.01 * (k + 1) * points
    data = {"stress": stress, "displacement": moved, "reaction": reaction, "end": (points[:, 0] == 0.0).astype(np.uint8)}
    return write_vtu(folder / f"step_{k:03d}.vtu", points, cells, {**data, "GlobalIds": ids}, time=0.5 * k)


@pytest.fixture
def run(tmp_path: Path) -> Path:
    (tmp_path / "run").mkdir()
    return tmp_path / "run"


def test_steps_come_as_their_files_do_and_the_result_stays_the_same_one(run: Path, tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone", "Run") as review:
        following = Following(review, str(run / "step_*.vtu"), "bar", "mm-N-s-t-MPa")
        assert (following.look().steps, len(review.results())) == (0, 0)
        step(run, 0)
        assert not following.look().more, "what was not there before may be half written"
        assert following.look().steps == 1
        number = review.result("bar").id
        keep(review, thing_of("flag", {"result": number, "node": 3, "name": "root"}))
        review.set_constants(number, review.result().mesh.material_or_part_names[0], {"young": 210e3, "poisson": 0.3})
        for k in (1, 2, 3):
            step(run, k)
        following.look()
        found = following.look()
        assert found.more and found.steps == 4
        source = review.result(number)
        assert source.name == "bar" and len(review.results()) == 1 and [f["name"] for f in source.files][-1] == "step_003.vtu"
        assert [source.read("stress", "xx", step=k).values.max() for k in range(4)] == pytest.approx([10, 20, 30, 40])
        assert ask(review, question_of("trace", {"field": "stress", "measure": "xx", "at": "node:3", "averaging": "all"})).columns[
            1
        ].values == pytest.approx([10, 20, 30, 40])
        assert source.summary["sets"]["end"]["held"] == "held", "what is held is told of all steps"
        assert [flag.name for _, flag in readable(review, FlagIn, number)] == ["root"]
        assert source.setup.constants and review.damaged() == []
        assert not following.look().more
    with Review.open(tmp_path / "r.ironstone") as again:
        assert len(again.result("bar").steps) == 4 and again.damaged() == []
        assert again.result("bar").read("displacement", "x", step=3).values.max() == pytest.approx(0.04 * 3.0)


def test_it_is_the_same_as_taken_in_at_once(run: Path, tmp_path: Path) -> None:
    files = [step(run, k) for k in range(5)]
    with Review.create(tmp_path / "a.ironstone") as at_once, Review.create(tmp_path / "b.ironstone") as bit_by_bit:
        one = at_once.result(intake(at_once, files, "bar", "mm-N-s-t-MPa"))
        number = intake(bit_by_bit, files[:2], "bar", "mm-N-s-t-MPa")
        for count in (3, 5):
            assert take_again(bit_by_bit, number, files[:count]) == count
        other = bit_by_bit.result(number)
        for name in one.fields:
            for k in range(5):
                assert np.array_equal(one.values(name, k), other.values(name, k), equal_nan=True)
        for what in ("sets", "set_sums", "set_means", "totals", "first_yield", "largest_stress"):
            assert one.summary.get(what) == other.summary.get(what), what
        assert [s.label for s in one.steps] == [s.label for s in other.steps]


def test_a_half_written_file_is_left_until_it_is_whole(run: Path, tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        following = Following(review, str(run / "step_*.vtu"), "bar")
        step(run, 0)
        whole = step(run, 1).read_bytes()
        (run / "step_001.vtu").write_bytes(whole[: len(whole) // 2])
        following.look()
        found = following.look()
        assert found.steps == 1 and found.waiting == ["step_001.vtu"]
        assert following.look().steps == 1
        (run / "step_001.vtu").write_bytes(whole)
        following.look()
        found = following.look()
        assert found.steps == 2 and found.waiting == []


def test_a_file_of_another_body_is_told_of_and_leaves_the_rest(run: Path, tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        following = Following(review, str(run / "step_*.vtu"), "bar")
        step(run, 0)
        following.look()
        following.look()
        points, cells, _ = bar_of_hexahedra()
        write_vtu(run / "step_001.vtu", 1000.0 + 50.0 * points[:8], cells[:1], {"stress": np.zeros((8, 6))})
        following.look()
        found = following.look()
        assert (found.steps, found.more, found.waiting) == (1, False, ["step_001.vtu"]) and "step_001.vtu" in found.said
        assert len(review.results()) == 1 and review.damaged() == []
        (run / "step_001.vtu").unlink()
        step(run, 1)
        following.look()
        assert following.look().steps == 2


def test_whoever_has_the_review_open_hears_of_it_and_reads_the_new_steps(run: Path, tmp_path: Path) -> None:
    """The command follows in another process' stead while the bench has the review open."""
    files = [step(run, k) for k in range(2)]
    path = tmp_path / "r.ironstone"
    with Review.create(path) as review:
        number = intake(review, files, "step", "mm-N-s-t-MPa")
    with Review.open(path) as bench, TestClient(create_app(bench)) as client:
        state = bench.state()
        assert len(client.get(f"/api/results/{number}").json()["steps"]) == 2
        query = {"field": "stress", "measure": "xx", "over": "largest"}
        before = client.get(f"/api/results/{number}/values", params=query).headers["etag"]

        def later() -> None:
            time.sleep(0.6)
            for k in (2, 3):
                step(run, k)

        writing = threading.Thread(target=later)
        writing.start()
        words = ["watch", str(path), str(run / "step_*.vtu"), "--every", "0.2", "--idle", "3", "--name", "step"]
        done = CliRunner().invoke(app, words)
        writing.join()
        assert done.exit_code == 0 and "step: 4 steps" in done.stdout, done.stdout + done.stderr
        assert bench.state() != state
        assert len(client.get(f"/api/results/{number}").json()["steps"]) == 4
        after = client.get(f"/api/results/{number}/values", params=query)
        assert after.status_code == 200 and after.headers["etag"] != before, "no old answer over the steps is taken for the new one"
        assert bench.result(number).read("stress", "xx", step=3).values.max() == pytest.approx(40.0)


def test_a_process_that_is_ended_meanwhile_leaves_the_result_as_it_was(
    run: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    files = [step(run, k) for k in range(4)]
    path = tmp_path / "r.ironstone"
    with Review.create(path) as review:
        number = intake(review, files[:2], "bar", "mm-N-s-t-MPa")
        monkeypatch.setattr("ironstone.store.again._in_place_of", lambda *a: (_ for _ in ()).throw(KeyboardInterrupt()))
        with pytest.raises(KeyboardInterrupt):
            take_again(review, number, files)
        monkeypatch.undo()
    with Review.open(path) as review:
        assert len(review.results()) == 1 and len(review.result(number).steps) == 2 and review.damaged() == []
        assert take_again(review, number, files) == 4
        assert [r.name for r in review.results()] == ["bar"]


def test_a_result_that_is_renamed_is_still_followed_and_one_that_is_removed_is_not(run: Path, tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        following = Following(review, str(run / "step_*.vtu"), "bar")
        step(run, 0)
        following.look()
        following.look()
        number = review.result().id
        review.rename_result(number, "bar, revision 2")
        step(run, 1)
        following.look()
        assert following.look().steps == 2 and [r.name for r in review.results()] == ["bar, revision 2"]
        review.put_away(number)
        step(run, 2)
        following.look()
        with pytest.raises(IronstoneError, match="was removed"):
            following.look()
        assert review.results() == []


def test_it_is_followed_beside_other_work(run: Path, tmp_path: Path) -> None:
    path = tmp_path / "r.ironstone"
    with Review.create(path) as review:
        number = intake(review, [step(run, 0)], "bar", "mm-N-s-t-MPa")
        stopped = followed_beside(path, str(run / "step_*.vtu"), "bar", every=0.1)
        step(run, 1)
        end = time.monotonic() + 20
        while len(review.result(number).steps) < 2:
            assert time.monotonic() < end
            time.sleep(0.1)
        stopped.set()
