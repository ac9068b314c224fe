"""One review in two windows of the bench."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Browser, expect

from tests.bench.conftest import bench_on


def test_what_another_window_stated_is_not_overwritten(browser: Browser, demo_copy: Path) -> None:
    with bench_on(demo_copy) as address:
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        first, second = context.new_page(), context.new_page()
        for page in (first, second):
            page.goto(address)
            page.get_by_test_id("core-key").wait_for()
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
        context.close()
