"""One review in two windows of the bench."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Browser, Page, expect

from tests.bench.driving import COARSE_LUG, settle
from tests.bench.serving import SIZE, bench_on


@contextmanager
def two(browser: Browser, address: str, *, told: bool = True) -> Iterator[tuple[Page, Page]]:
    """Two windows of different browsers on one bench. told: the second one hears of changes."""
    contexts = [browser.new_context(viewport=SIZE, reduced_motion="reduce") for _ in range(2)]
    pages = [context.new_page() for context in contexts]
    if not told:
        pages[1].route("**/api/events", lambda route: route.abort())
    for page in pages:
        page.goto(f"{address}/?bay=field&result={COARSE_LUG}")
        page.get_by_test_id("core-key").wait_for()
        settle(page)
    yield pages[0], pages[1]
    for context in contexts:
        context.close()


def test_what_another_window_stated_is_not_overwritten(browser: Browser, demo_copy: Path) -> None:
    """Where the second window has not yet heard of the change it acts on what it sees: that is refused, and shown anew."""
    with bench_on(demo_copy) as address, two(browser, address, told=False) as (first, second):
        for page in (first, second):
            page.get_by_role("button", name="Intake").click()
        units = "#system"
        first.locator(units).first.select_option("m-N-s-kg-Pa")
        expect(first.locator(units).first).to_have_value("m-N-s-kg-Pa")
        expect(second.locator(units).first).not_to_have_value("m-N-s-kg-Pa")
        second.locator(units).first.select_option("mm-kN-ms-kg-GPa")
        expect(second.get_by_text("was changed elsewhere in the meantime")).to_be_visible()
        expect(second.locator(units).first).to_have_value("m-N-s-kg-Pa")
        second.locator(units).first.select_option("mm-kN-ms-kg-GPa")
        expect(second.locator(units).first).to_have_value("mm-kN-ms-kg-GPa")


def test_a_change_reaches_the_other_window_at_once_and_undo_takes_what_it_names(browser: Browser, demo_copy: Path) -> None:
    with bench_on(demo_copy) as address, two(browser, address) as (first, second):
        settle(second)
        expect(second.get_by_test_id("core-key")).to_contain_text("MPa")
        first.get_by_role("button", name="Intake").click()
        first.locator("#system").first.select_option("m-N-s-kg-Pa")
        expect(second.get_by_test_id("reading-line")).to_contain_text(re.compile(r"in Pa\b"))
        expect(second.locator(".key-unit")).to_have_text(re.compile(r"^Pa"))
        undo = second.get_by_role("button", name="Undo: Unit system stated")
        expect(undo).to_be_enabled()
        undo.click()
        expect(second.get_by_text("Undone: Unit system stated")).to_be_visible()
        expect(first.locator("#system").first).to_have_value("mm-N-s-t-MPa")
        expect(first.get_by_test_id("reading-line")).to_contain_text("in MPa")
        # Done again by the one, it is at the change the other has made: what it shows is not what it showed then.
        first.get_by_role("button", name="Redo: Unit system stated").click()
        expect(second.get_by_test_id("reading-line")).to_contain_text(re.compile(r"in Pa\b"))


def test_an_undo_that_would_take_something_else_takes_nothing(browser: Browser, demo_copy: Path) -> None:
    with bench_on(demo_copy) as address, two(browser, address, told=False) as (first, second):
        second.keyboard.press("1")
        second.get_by_role("button", name="Rename roof truss", exact=True).click()
        second.get_by_label("New name of roof truss").fill("truss A")
        second.keyboard.press("Enter")
        expect(second.get_by_role("button", name="Undo: Result 'roof truss' renamed 'truss A'")).to_be_visible()
        first.keyboard.press("1")
        first.get_by_role("button", name="Rename lug, fine").click()
        first.get_by_label("New name of lug, fine").fill("lug v3")
        first.keyboard.press("Enter")
        expect(first.get_by_role("button", name="Rename lug v3")).to_be_visible()
        second.get_by_role("button", name="Undo: Result 'roof truss'").click()
        expect(second.get_by_text("What would be undone next is now 'Result 'lug, fine' renamed 'lug v3''")).to_be_visible()
        expect(second.get_by_role("button", name="Rename truss A")).to_be_visible()
        expect(second.get_by_role("button", name="Undo: Result 'lug, fine' renamed 'lug v3'")).to_be_visible()
