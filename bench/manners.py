"""What a user waits for in the real bench beside reading: a film, several steps in a row, what is stopped.

``python -m bench.manners [--small] [--folder F]``. Debian's Chromium with software rendering, service and browser on the same
cores. Printed: seconds of a film of forty frames of the demo's flexure as GIF and as WebM (target 20), and of a model of half a
million hexahedra with stress at the corners (--small: of 27,000) one step against four asked for in a row (ratio), the pointer's
value after thirty moves, and how long it takes from a click on Stop until it is stopped (target 1 s).
"""

from __future__ import annotations

import argparse
import shutil
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.models import make
from ironstone import demo_review
from ironstone.store import Review, intake
from tests.bench.driving import settle
from tests.bench.serving import ARGUMENTS, bench_on
from tests.conftest import DATA

FRAMES = 40


def film(page: Page, address: str, kind: str) -> float:
    page.goto(f"{address}/?bay=field&result=6&field=stress&measure=von-mises&step=3")
    settle(page)
    page.get_by_role("button", name="Film,").click()
    page.get_by_label("To step").fill(str(FRAMES))
    page.get_by_label("To step").press("Enter")
    begun = time.perf_counter()
    with page.expect_download(timeout=300_000):
        page.get_by_role("button", name=kind, exact=True).click()
    return time.perf_counter() - begun


def steps(page: Page, keys: list[str]) -> float:
    begun = time.perf_counter()
    for key in keys:
        page.keyboard.press(key)
    settle(page)
    return time.perf_counter() - begun


def large(page: Page, address: str) -> None:
    page.goto(f"{address}/?bay=field&result=1&field=stress&measure=von-mises&step=0")
    settle(page)
    one = steps(page, ["ArrowRight"])
    page.goto(f"{address}/?bay=field&result=1&field=stress&measure=principal-1&step=0")
    settle(page)
    four = steps(page, ["ArrowRight", "ArrowRight", "ArrowRight", "ArrowLeft"])
    print(f"one step {one:.2f} s, four in a row {four:.2f} s: {four / one:.2f} of one")
    box = page.locator(".view-canvas canvas").bounding_box()
    assert box
    begun = time.perf_counter()
    for i in range(30):
        page.mouse.move(box["x"] + 300 + 5 * i, box["y"] + 260)
    page.get_by_test_id("hover").wait_for()
    print(f"value under the pointer after thirty moves: {time.perf_counter() - begun:.2f} s")
    page.mouse.move(10, 10)
    page.goto(f"{address}/?bay=field&result=1&field=stress&measure=von-mises&averaging=part&step=0")
    settle(page)
    page.get_by_role("button", name="all steps").click()
    working = page.get_by_test_id("long-work")
    working.wait_for(timeout=60_000)
    page.wait_for_timeout(300)
    begun = time.perf_counter()
    working.get_by_role("button", name="Stop").click()
    working.wait_for(state="detached")
    print(f"stopped: {time.perf_counter() - begun:.2f} s (target 1)")


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--small", action="store_true")
    options.add_argument("--folder", type=Path)
    asked = options.parse_args()
    folder = asked.folder or Path(tempfile.mkdtemp(prefix="ironstone-bench-"))
    folder.mkdir(parents=True, exist_ok=True)
    demo, path = folder / "demo.ironstone", folder / "large.ironstone"
    for made in (demo, path):
        made.unlink(missing_ok=True)
    demo_review.make(demo, DATA)
    first = make(folder / "large_0.vtu", 27_000 if asked.small else 500_000, split=True)
    files = [first, *(Path(shutil.copy(first, folder / f"large_{k}.vtu")) for k in (1, 2, 3))]
    with Review.create(path) as review:
        intake(review, files, "large", "mm-N-s-t-MPa")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        with bench_on(demo) as address:
            for kind in ("GIF", "Video WebM"):
                print(f"{kind} of {FRAMES} frames: {film(page, address, kind):.1f} s (target 20)")
        with bench_on(path) as address:
            large(page, address)
        browser.close()
    if asked.folder is None:
        shutil.rmtree(folder)


if __name__ == "__main__":
    main()
