"""The real bench, driven in two browsers: without graphics for all that needs no picture, with them for what does.

``page`` is the bench as it opens, ``blank`` an empty page for a test that goes to an address of its own; ``picture_page`` and
``picture_blank`` are the same with graphics. ``address`` is a bench for tests that only look, ``own_address`` one on a copy of the
demo's review for a test that changes it (``own_page``, ``own_picture_page``: its page).
"""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, Playwright, sync_playwright

from tests.bench.driving import opened
from tests.bench.serving import WITH_PICTURES, WITHOUT_GRAPHICS, Window, bench_on, free_port, launched


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as started:
        yield started


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator[Browser]:
    """The browser without graphics."""
    found = launched(playwright, WITHOUT_GRAPHICS)
    yield found
    found.close()


@pytest.fixture(scope="session")
def picture_browser(playwright: Playwright) -> Iterator[Browser]:
    found = launched(playwright, WITH_PICTURES)
    yield found
    found.close()


@pytest.fixture(scope="session")
def window(browser: Browser) -> Window:
    return Window(browser)


@pytest.fixture(scope="session")
def picture_window(picture_browser: Browser) -> Window:
    return Window(picture_browser)


@pytest.fixture(scope="session")
def shared_review(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    return Path(shutil.copy(demo_file, tmp_path_factory.mktemp("shared") / "demo.ironstone"))


@pytest.fixture(scope="session")
def address(shared_review: Path) -> Iterator[str]:
    """One bench for all tests that only look."""
    with bench_on(shared_review) as found:
        yield found


@pytest.fixture(scope="session")
def own_port() -> int:
    """The benches of tests that change things stand at one address, one after the other: the page itself is loaded once."""
    return free_port()


@pytest.fixture
def own_address(demo_copy: Path, own_port: int) -> Iterator[str]:
    with bench_on(demo_copy, own_port) as found:
        yield found


@pytest.fixture
def blank(window: Window) -> Iterator[Page]:
    with window.page() as found:
        yield found


@pytest.fixture
def picture_blank(picture_window: Window) -> Iterator[Page]:
    with picture_window.page() as found:
        yield found


@pytest.fixture
def page(blank: Page, address: str) -> Page:
    opened(blank, address)
    return blank


@pytest.fixture
def picture_page(picture_blank: Page, address: str) -> Page:
    opened(picture_blank, address)
    return picture_blank


@pytest.fixture
def own_page(own_address: str, blank: Page) -> Page:
    opened(blank, own_address)
    return blank


@pytest.fixture
def own_picture_page(own_address: str, picture_blank: Page) -> Page:
    opened(picture_blank, own_address)
    return picture_blank
