"""What a question may take of memory, told before it is worked out, beside what a process of its own takes at its peak."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from bench.models import box, tensor_at, write_raw
from bench.tetrahedra import SIX
from ironstone.cli import read  # noqa: F401
from ironstone.cli.base import app
from ironstone.core.errors import Impossible
from ironstone.engine.base import question_of
from ironstone.engine.weight import LIGHT, held_against_another, refuse_what_does_not_fit, weight
from ironstone.formats import memory
from ironstone.formats.registry import RawArray, RawStep
from ironstone.store import Review, intake

PEAK = """
import json, sys
from pathlib import Path
from bench.__main__ import high_water
from ironstone.engine.base import ask, question_of
from ironstone.store import Review
import ironstone.core.geometry.nearest, ironstone.core.geometry.inside, scipy.sparse.csgraph
review = Review.open(Path(sys.argv[1]))
base = high_water()
ask(review, question_of(sys.argv[2], json.loads(sys.argv[3])))
print(1024 * (high_water() - base))
"""
STRESS = {"field": "stress_gp", "measure": "von-mises"}


@pytest.fixture(scope="module")
def large(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two meshes of one cube, bricks with eight Gauss points and tetrahedra with one, in a review."""
    folder = tmp_path_factory.mktemp("weight")
    points, bricks, _ = box(34)
    finer, others, _ = box(18)
    for name, at, cells, kind, count in (
        ("bricks", points / 34, bricks, 12, 8),
        ("tets", finer / 18, others[:, SIX].reshape(-1, 4), 10, 1),
    ):
        own, size = cells.shape
        data = np.concatenate([tensor_at(at[cells].mean(1) + 0.01 * k) for k in range(count)], 1)
        arrays = {"stress_gp" if count > 1 else "stress": RawArray(data)}
        step = RawStep(
            at, np.full(own, kind, np.uint8), size * np.arange(own + 1), cells.ravel().astype(np.int64),
            {"displacement": RawArray(1e-3 * at), "temperature": RawArray(at[:, :1])}, arrays,
        )  # fmt: skip
        write_raw(folder / f"{name}.vtu", step)
    with Review.create(folder / "large.ironstone") as review:
        for name in ("tets", "bricks"):
            intake(review, [folder / f"{name}.vtu"], name, "mm-N-s-t-MPa")
    return folder / "large.ironstone"


@pytest.mark.parametrize(("kind", "words"), [
    ("read", {**STRESS, "extremes": True}),
    ("read", {**STRESS, "extremes": True, "averaging": "part"}),
    ("read", {**STRESS, "extremes": True, "of": "jump"}),
    ("by-part", STRESS),
    ("difference", {"field": "temperature", "less": "tets"}),
])  # fmt: skip
def test_nothing_takes_more_than_was_said(large: Path, kind: str, words: dict) -> None:
    words = {**words, "result": "bricks"}
    with Review.open(large) as review:
        reach = question_of(kind, words).reach_of(words)
        said = weight(review, reach, "bricks", words.get("averaging", "off"), held_against_another(words))
    command = [sys.executable, "-c", PEAK, str(large), kind, json.dumps(words)]
    taken = float(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
    assert said / 3 < taken <= said + LIGHT, f"{taken / 1e6:.0f} MB of {said / 1e6:.0f}"


def test_what_would_not_fit_is_refused_with_what_would(large: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with Review.open(large) as review, pytest.raises(Impossible, match="GB of memory"):
        refuse_what_does_not_fit(review, "whole", {"result": "bricks"}, 10_000_000)
    monkeypatch.setattr(memory, "allowed", lambda: 10_000_000)
    asked = ["read", str(large), "--result", "bricks", "--field", "temperature"]
    done = CliRunner().invoke(app, [*asked, "--extremes"])
    assert done.exit_code == 2 and "memory" in done.output
    assert CliRunner().invoke(app, [*asked, "--at", "node:4"]).exit_code == 0
