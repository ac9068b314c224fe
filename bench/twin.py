"""Turns and steps two views of demo models beside one, in the same run, and prints the ratio: ``python -m bench.twin``.

Debian's Chromium with software rendering: both views share one processor's drawing, where a graphics card would have room for both.
The peer is the bench's own single view of the first model. Target: no less than half its speed.
"""

from __future__ import annotations

import shutil
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.browser import TURN
from ironstone import demo_review
from tests.bench.driving import COARSE_LUG, LUG, opened, settle
from tests.bench.serving import ARGUMENTS, bench_on

ASKED = "&step=0&field=stress&measure=von-mises&drawer=view&strata=0"


def stepped(page: Page, count: int = 8) -> float:
    """Seconds a step takes until it is drawn, the values of all steps fetched before."""
    page.get_by_role("slider", name="Step").focus()
    for key in ("End", "Home"):
        page.keyboard.press(key)
        settle(page)
    for _ in range(count):
        page.keyboard.press("ArrowRight")
        settle(page)
    page.keyboard.press("Home")
    settle(page)
    begun = time.perf_counter()
    for _ in range(count):
        page.keyboard.press("ArrowRight")
        settle(page)
    return (time.perf_counter() - begun) / count


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="ironstone-bench-"))
    review = folder / "demo.ironstone"
    demo_review.make(review, Path("demo/data/flexure"))
    with bench_on(review) as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        found: dict[str, list[tuple[float, float]]] = {"one": [], "two": []}
        # In turn, so that a busy moment of the machine meets both.
        for _ in range(3):
            for which in found:
                opened(page, f"{address}/?bay=field&result={LUG}{ASKED}")
                if which == "two":
                    page.keyboard.press("t")
                    settle(page)
                    assert page.get_by_test_id("pane-head").count() == 2
                found[which].append((sorted(page.evaluate(TURN))[10], 1e3 * stepped(page)))
        browser.close()
    turn, step = ({w: min(pair[k] for pair in pairs) for w, pairs in found.items()} for k in (0, 1))
    print(f"twin view of results {LUG} and {COARSE_LUG} beside one view of {LUG}, software rendering, best of three")
    for name, times in (("turning, a frame", turn), ("a step, until drawn", step)):
        ratio = times["one"] / times["two"]
        missed = "" if ratio >= 0.5 else "  MISSED"
        print(f"{name}: one {times['one']:.0f} ms, two {times['two']:.0f} ms, speed {ratio:.2f} of one{missed}")
    shutil.rmtree(folder)


if __name__ == "__main__":
    main()
