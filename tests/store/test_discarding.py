"""All that was removed goes for good when that is said, with all that hangs on it alone; what else names a file keeps it."""

from __future__ import annotations

from pathlib import Path

import pytest

from ironstone.store import Review, intake
from ironstone.store.damage import check
from ironstone.store.discarding import discard_removed, removed_bytes


@pytest.fixture
def path(bar_files: list[Path], tmp_path: Path) -> Path:
    """Two results; three exhibits with pictures of 1 MB, two of which share one; one record."""
    path = tmp_path / "bar.ironstone"
    with Review.create(path) as review:
        for name in ("one", "two"):
            intake(review, bar_files, name)
        first, second = (review.attach(f"{k}.png", "image/png", bytes([k]) * 1_000_000) for k in range(2))
        for title, picture in (("a", first), ("b", second), ("c", second)):
            review.add("exhibit", {"title": title, "picture": picture, "result": 1}, f"{title} kept")
    return path


def test_pictures_of_removed_exhibits_go_when_nothing_else_names_them(path: Path) -> None:
    with Review.open(path) as review:
        assert removed_bytes(review) == 0 and discard_removed(review) == 0
        a, b, c = review.items("exhibit")
        review.remove(a.id, "a removed")
        review.remove(b.id, "b removed")
        assert removed_bytes(review) == 1_000_000, "the other picture is still one's"
        assert discard_removed(review) > 900_000
        assert [i.payload["title"] for i in review.items("exhibit")] == ["c"] and review.removed_items() == []
        assert len(review.attachment(c.payload["picture"])[2]) == 1_000_000
        assert check(review)["whole"], "what was discarded is not lost"


def test_a_picture_that_a_change_back_would_need_stays(path: Path) -> None:
    with Review.open(path) as review:
        a, _, c = review.items("exhibit")
        review.change(a.id, {**a.payload, "picture": c.payload["picture"]}, "another picture")
        review.remove(review.add("flag", {"result": 1, "at": "node:1"}, "kept").id, "removed")
        discard_removed(review)
        assert review.attachment(a.payload["picture"])[2][:1] == b"\x00"
        assert review.item(a.id).payload["picture"] == c.payload["picture"]


def test_removed_results_go_with_what_was_stated_of_them(path: Path) -> None:
    with Review.open(path) as review:
        review.set_units(2, "m-N-s-kg-Pa")
        review.put_away(2)
        assert removed_bytes(review) > 5_000
        discard_removed(review)
        assert [r.name for r in review.results()] == ["one"] and review.items("correction") == []
        assert check(review)["whole"] and review.result(1).steps
    with Review.open(path) as review:
        assert [r.name for r in review.results()] == ["one"]
