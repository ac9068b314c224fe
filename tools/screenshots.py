"""Takes the pictures in docs/screenshots from the demo's data, at 1280 x 800, in Debian's Chromium."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from urllib.parse import quote

from playwright.sync_api import Page, Playwright, sync_playwright

from ironstone import demo_motion
from ironstone.demo_review import make
from tests.bench.serving import ARGUMENTS, bench_on, opened_page

ROOT = Path(__file__).resolve().parent.parent
TARGET = ROOT / "docs" / "screenshots"


def tab(page: Page, name: str) -> None:
    page.get_by_role("tablist", name="Field").get_by_role("tab", name=name).click()


def record(page: Page) -> None:
    page.locator("summary", has_text="Test record").click()
    page.locator("summary", has_text="Test record").scroll_into_view_if_needed()
    page.get_by_role("tab", name="Energy").click()


def exhibits(page: Page) -> None:
    page.goto(page.url.replace("bay=exhibits", "bay=field"))
    page.get_by_test_id("core-key").wait_for()
    page.wait_for_timeout(2500)
    for bay in ("3", "5"):
        page.keyboard.press(bay)
        page.keyboard.press("k")
        page.get_by_role("button", name="Keep", exact=True).click()
        page.get_by_role("dialog").wait_for(state="detached")
    page.keyboard.press("9")
    page.wait_for_timeout(4500)


def at_the_bond(page: Page) -> None:
    tab(page, "Marks")
    page.get_by_label("Node", exact=True).fill("1351")
    page.get_by_role("button", name="Plant").click()
    page.get_by_role("button", name="Compare averaged").first.click()


def by_name(page: Page) -> None:
    page.get_by_role("tab", name="Curves").click()


def members(page: Page) -> None:
    page.get_by_role("tablist", name="Balance").get_by_role("tab", name="Inside").click()
    page.get_by_test_id("members").locator("tbody tr", has_text="nominal").first.get_by_role("button").click()


def both_sides(page: Page) -> None:
    page.get_by_role("checkbox", name="Profile of Bond, bronze side").check()
    page.wait_for_timeout(1500)


def cut_through(page: Page) -> None:
    tab(page, "Cuts")
    page.get_by_role("button", name="square to z").click()
    page.get_by_test_id("cut-figures").wait_for()


def over_the_steps(page: Page) -> None:
    """In the dark theme: what a flag at the bond says at every step, in both parts."""
    page.emulate_media(color_scheme="dark")
    page.get_by_role("button", name="Over the steps").first.click()
    page.get_by_test_id("flag-steps-plot").wait_for()


def stack_in_view(page: Page) -> None:
    page.get_by_test_id("first-failure").wait_for()
    page.get_by_test_id("stack-table").wait_for()


def envelope_in_view(page: Page) -> None:
    page.get_by_test_id("tested-verdict").wait_for()
    page.get_by_role("tab", name="Envelope").click()
    page.get_by_test_id("envelope-plot").wait_for()


MISES = "&field=stress&measure=von-mises"
PICTURES: dict[str, tuple[str, Callable[[Page], None] | None]] = {
    "intake": ("bay=intake", None),
    "field": ("bay=field", None),
    "lug": ("bay=field&result=2&field=stress&measure=yy&axes=eye&averaging=off&step=0", at_the_bond),
    "dark": ("bay=field&result=2&field=stress&measure=yy&axes=eye&averaging=off&step=2", over_the_steps),
    "twin": (f"bay=field&result=2{MISES}&step=5&twin={quote(f'result=1{MISES}&step=5')}", None),
    "balance": ("bay=balance&result=3&field=axial_stress&step=14&shown=20&arrows=snow_load,0.12,0.015,full,outside,set", None),
    "members": ("bay=balance&result=3&field=top_fibre_stress&step=24&shown=20", members),
    "truss": ("bay=trace&result=3&field=yielded_share&step=14&shown=20", by_name),
    "path": ("bay=path&result=2&field=stress&measure=yy&axes=eye&step=0&paths=11", both_sides),
    "gauges": ("bay=path&drawer=gauges&along=1&result=2&field=strain+from+displacement&measure=xx&unit=ustrain&step=0", None),
    "cuts": ("bay=field&result=2&field=stress&measure=von-mises&step=2", cut_through),
    "trace": ("bay=trace", None),
    "record": ("bay=trace", record),
    "strength": ("bay=strength&result=4&step=7&camera=-2029,-3902,2676,0,0,725,0.75", stack_in_view),
    "tests": ("bay=strength&drawer=tests&result=4&step=4&camera=-2029,-3902,2676,0,0,725,0.75", envelope_in_view),
    "cases": (
        "bay=compare&result=5&drawer=cases&field=axial_force&over=magnitude&span=4%2C5%2C6%2C7&when=1&step=4"
        "&governing=magnitude:part&plot=governing",
        None,
    ),
    "compare": ("bay=compare&result=2&field=stress&measure=von-mises&against=result%3D1&step=8&second=1&plot=study", None),
    "exhibits": ("bay=exhibits", exhibits),
}


# Of the demo's third review.
MOVING: dict[str, tuple[str, Callable[[Page], None] | None]] = {
    "motion": (
        f"bay=motion&result=7&field=displacement&measure=magnitude&step=3&shown=6&drawer=shapes&motion={quote('4;x;amplitude;;spectrum;')}",
        None,
    ),
}


def taken(playwright: Playwright, review: Path, pictures: dict[str, tuple[str, Callable[[Page], None] | None]]) -> None:
    """Pictures of a review, each of an address of its own."""
    browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
    with bench_on(review) as address:
        for name, (where, prepare) in pictures.items():
            with opened_page(browser, f"{address}/?{where}") as page:
                page.wait_for_timeout(2000)
                if prepare:
                    prepare(page)
                page.wait_for_timeout(2000)
                page.screenshot(path=TARGET / f"{name}.png")
                print(name)
    browser.close()


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        review = Path(folder) / "brake_flexure.ironstone"
        source = ROOT / "demo" / "review" / "brake_flexure.ironstone"
        if source.exists():
            shutil.copy(source, review)
        else:
            make(review, ROOT / "demo" / "data" / "flexure")
        moving = review.with_name("drive_in_motion.ironstone")
        demo_motion.make(moving, ROOT / "demo" / "data")
        taken(playwright, review, PICTURES)
        taken(playwright, moving, MOVING)


if __name__ == "__main__":
    main()
