"""Takes the pictures in docs/screenshots from the demo's data, at 1280 x 800, in Debian's Chromium."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from ironstone.demo_review import make
from tests.bench.conftest import ARGUMENTS, bench_on, opened_page

ROOT = Path(__file__).resolve().parent.parent
TARGET = ROOT / "docs" / "screenshots"


def averaged(page: Page) -> None:
    page.get_by_label("within part").check()


def record(page: Page) -> None:
    page.locator("summary", has_text="Test record").click()
    page.locator("summary", has_text="Test record").scroll_into_view_if_needed()
    page.get_by_role("tab", name="Energy per cycle").click()


def exhibits(page: Page) -> None:
    page.goto(page.url.replace("bay=exhibits", "bay=field"))
    page.get_by_test_id("core-key").wait_for()
    page.wait_for_timeout(2500)
    for bay in ("3", "5"):
        page.keyboard.press(bay)
        page.keyboard.press("k")
        page.get_by_role("button", name="Keep", exact=True).click()
        page.get_by_role("dialog").wait_for(state="detached")
    page.keyboard.press("7")
    page.wait_for_timeout(4500)


def exaggerated(page: Page) -> None:
    page.get_by_label("Exaggeration", exact=True).first.fill("2")
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    page.wait_for_timeout(300)
    page.get_by_role("button", name="Fit view").click()
    page.get_by_label("Bands").select_option("0")


PICTURES: dict[str, tuple[str, Callable[[Page], None] | None]] = {
    "intake": ("bay=intake", None),
    "field": ("bay=field", None),
    "averaged": ("bay=field", averaged),
    "exaggerated": ("bay=field&field=stress&measure=xx&averaging=off&step=150", exaggerated),
    "trace": ("bay=trace", None),
    "record": ("bay=trace", record),
    "exhibits": ("bay=exhibits", exhibits),
}


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        review = Path(folder) / "brake_flexure.ironstone"
        source = ROOT / "demo" / "review" / "brake_flexure.ironstone"
        if source.exists():
            shutil.copy(source, review)
        else:
            make(review, ROOT / "demo" / "data" / "flexure")
        with bench_on(review) as address, sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
            for name, (where, prepare) in PICTURES.items():
                with opened_page(browser, f"{address}/?{where}") as page:
                    page.wait_for_timeout(2000)
                    if prepare:
                        prepare(page)
                    page.wait_for_timeout(2000)
                    page.screenshot(path=TARGET / f"{name}.png")
                    print(name)
            browser.close()


if __name__ == "__main__":
    main()
