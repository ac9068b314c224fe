"""The demo's post in motion: what is shipped is what the solver gives, and what it gives is what mechanics says."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from demo import post as model
from ironstone.formats.registry import steps_of
from ironstone.store import Review

DATA = Path(model.__file__).parent / "data" / "post"


@pytest.fixture(scope="module")
def post() -> model.Post:
    return model.Post()


def test_modes_are_those_of_a_post_with_a_block_on_its_head(post: model.Post) -> None:
    """First bending: a cantilever's 3 E I / L^3 with the head's mass and 0.24 of the post's (Rayleigh, from memory); the foot gives
    way a little. The symmetric section has its bending modes in pairs."""
    frequencies, shapes = post.modes(4)
    inertia, length = 50.0**4 / 12, 660.0 - 16.0 - 30.0
    head, bar = (model.DENSITY * volume for volume in (120.0 * 120.0 * 60.0, 50.0 * 50.0 * 584.0))
    stiff = np.sqrt(3 * model.YOUNG * inertia / length**3 / (head + 0.24 * bar)) / (2 * np.pi)
    assert 0.80 * stiff < frequencies[0] < stiff
    assert frequencies[1] == pytest.approx(frequencies[0], rel=0.005)
    assert np.einsum("mi,mi->m", shapes, (post.mass @ shapes.T).T) == pytest.approx(1.0)


def test_what_is_shipped_is_what_the_solver_gives(post: model.Post) -> None:
    frequencies, shapes = post.modes(model.MODES)
    files = sorted(DATA.glob("modes_*.vtu"))
    steps = [next(iter(steps_of(f))) for f in files]
    assert [s.time for s in steps] == pytest.approx(frequencies.tolist(), rel=1e-6)
    ids = steps[2].point_data["GlobalIds"].values.ravel().astype(int) - 1
    assert steps[2].point_data["displacement"].values == pytest.approx(shapes[2][post.dofs[ids]], abs=1e-5 * abs(shapes[2]).max())
    assert all(f.stat().st_size < 4_000_000 for f in DATA.iterdir())


def test_a_direct_answer_is_the_sum_of_the_modes(post: model.Post) -> None:
    """(K (1 + i loss) - w^2 M) u = f by direct solution against phi phi' f / (w_k^2 (1 + i loss) - w^2) over sixty modes."""
    frequencies, shapes = post.modes(60)
    w, own = 2 * np.pi * 60.0, 2 * np.pi * frequencies
    direct = model.sweep(post, np.array([60.0]))[0]
    load = post.load(model.FORCE, post.top)
    summed = (shapes.T * ((shapes @ load) / (own**2 * (1 + 1j * model.LOSS) - w**2))).sum(axis=1)
    top = post.dofs[post.top][:, :2]
    assert direct[top] == pytest.approx(summed[top], rel=2e-3)


def test_the_review_opens_at_the_modes_with_the_test_beside_them(motion_file: Path) -> None:
    with Review.open(motion_file) as review:
        names = [r.name for r in review.results()]
        assert names[-4:] == ["post, tested modes", "post, tap on the head", "post, sweep", "post, modes"]
        assert not any("the other way round" in w for r in review.results() for w in review.result(r.id).warnings)
