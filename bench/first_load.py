"""How much the first load takes over the wire, and how soon the first picture stands at 10 Mbit/s.

Plots are not counted: what draws them comes once the model stands. The peer is the same page with nothing packed.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, sync_playwright

from tests.bench.serving import ARGUMENTS, bench_on

RATE = 10e6 / 8
READY = "[data-testid=view][data-busy=false]"


def load(browser: Browser, address: str, packed: bool) -> tuple[float, float, float]:
    """Bytes until the first picture, bytes of all, and seconds until the first picture."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    wire = context.new_cdp_session(page)
    wire.send("Network.enable")
    limits = {"offline": False, "latency": 20, "downloadThroughput": RATE, "uploadThroughput": RATE}
    wire.send("Network.emulateNetworkConditions", limits)
    if not packed:
        wire.send("Network.setExtraHTTPHeaders", {"headers": {"Accept-Encoding": "identity"}})
    got: list[float] = []

    def finished(event: dict[str, Any]) -> None:
        got.append(event["encodedDataLength"])

    wire.on("Network.loadingFinished", finished)
    began = time.perf_counter()
    page.goto(address)
    page.wait_for_selector(".view-wait", state="detached", timeout=120_000)
    page.wait_for_selector("canvas", timeout=120_000)
    page.wait_for_selector(READY, timeout=120_000)
    seconds = time.perf_counter() - began
    first = sum(got)
    page.wait_for_timeout(6000)
    context.close()
    return first, sum(got), seconds


def main() -> None:
    review = Path(sys.argv[1]) if len(sys.argv) > 1 else Path("demo/review/brake_flexure.ironstone")
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        copy = Path(shutil.copy(review, Path(folder) / "demo.ironstone"))
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        with bench_on(copy) as address:
            load(browser, address, True)
            packed, plain = load(browser, address, True), load(browser, address, False)
        for name, (first, whole, seconds) in (("packed", packed), ("as it is", plain)):
            print(f"{name}: {first / 1e6:.2f} MB to the first picture in {seconds:.1f} s, {whole / 1e6:.2f} MB with the plots")
        print(f"ratio of bytes to the first picture: {packed[0] / plain[0]:.2f}")
        browser.close()


if __name__ == "__main__":
    main()
