"""A long test record in the real bench: what its plot costs. ``python -m bench.curves [--points N]``.

A loop of many cycles is brought in against the demo's flexure, in Debian's Chromium with software rendering. Printed: seconds from
the file to the plot, points drawn, seconds a zoom takes, and the longest time the page was blocked.
"""

from __future__ import annotations

import argparse
import shutil
import tempfile
import time
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, sync_playwright

from bench.browser import WATCH
from ironstone.demo_review import make
from tests.bench.serving import ARGUMENTS, bench_on

PLOT = "document.querySelector('.js-plotly-plot')"
COUNT = f"{PLOT}?.data.find((d) => d.name === 'long.csv')?.x.length ?? 0"
DATA = Path(__file__).resolve().parents[1] / "demo" / "data" / "flexure"


def until(page: Page, other_than: int) -> tuple[float, int]:
    """Seconds until another number of points is drawn, and that number."""
    begun = time.perf_counter()
    while time.perf_counter() - begun < 60:
        count: int = page.evaluate(COUNT)
        if count != other_than:
            return time.perf_counter() - begun, count
        page.wait_for_timeout(20)
    raise TimeoutError("nothing was drawn")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--points", type=int, default=100_000)
    count = parser.parse_args().points
    folder = Path(tempfile.mkdtemp())
    try:
        make(folder / "demo.ironstone", DATA)
        t = np.linspace(0, 40 * np.pi, count)
        noise = np.random.default_rng(1).normal(0, 0.01, (2, count))
        for name, spread in (("smooth", 0), ("noisy", 1)):
            x, y = 16 * np.sin(t) + spread * noise[0], 7 * np.sin(t + 0.4) + spread * noise[1]
            rows = "\n".join(f"{a:.5f},{b:.5f}" for a, b in zip(x, y, strict=True))
            (folder / "long.csv").write_text(f"Stroke,Load\nmm,kN\n{rows}\n")
            print(f"{count:,} points, {name}")
            measure(folder, Path(shutil.copy(folder / "demo.ironstone", folder / f"{name}.ironstone")))
    finally:
        shutil.rmtree(folder)


def measure(folder: Path, review: Path) -> None:
    with bench_on(review) as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.add_init_script(WATCH)
        page.goto(f"{address}/?bay=trace&result=6")
        page.get_by_test_id("core-key").wait_for()
        page.wait_for_timeout(3000)
        page.evaluate("window.blocked.length = 0")
        page.get_by_test_id("test-file").set_input_files(folder / "long.csv")
        seconds, drawn = until(page, 0)
        print(f"  from file to plot {seconds:.2f} s, {drawn:,} points drawn")
        box = page.locator(".js-plotly-plot").first.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 0.6 * box["width"], box["y"] + 0.4 * box["height"])
        page.wait_for_timeout(1500)
        blocked = page.evaluate("window.blocked.map((b) => b[0])")
        print(f"  longest block until then {max(blocked, default=0):.0f} ms")
        page.evaluate("window.blocked.length = 0")
        page.mouse.wheel(0, -600)
        seconds, closer = until(page, drawn)
        page.wait_for_timeout(500)
        blocked = page.evaluate("window.blocked.map((b) => b[0])")
        print(f"  a zoom {seconds:.2f} s, {closer:,} points then, longest block {max(blocked, default=0):.0f} ms")
        browser.close()


if __name__ == "__main__":
    main()
