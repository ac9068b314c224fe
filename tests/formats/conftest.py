"""What tests of many damaged files share: a reader that is asked again."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from ironstone.formats import series
from tests.readers import started_plainly


@pytest.fixture
def one_reader(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """One reader's process for many files: where it has answered and lives it is asked again, in place of a new one each time."""
    end = series._end
    asked_again = lambda child: series._ahead.append(child) if child.poll() is None else end(child)  # noqa: E731
    monkeypatch.setattr(series, "_end", asked_again)
    yield
    monkeypatch.undo()
    series.end_ahead()


@pytest.fixture
def plain_readers(monkeypatch: pytest.MonkeyPatch) -> None:
    """Readers start as the product starts them, each an interpreter of its own."""
    monkeypatch.setattr(series, "_reader", started_plainly)
