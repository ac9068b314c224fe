"""Opens a large model in the real bench, in Debian's Chromium with software rendering, and prints what a user waits for.

``python -m bench.browser [--small] [--folder F]``. Two steps of a million linear hexahedra (--small: of 125,000) are taken in, then
opened, turned, stepped and read anew. Printed: seconds to the first picture, bytes sent, frame times while turning, seconds for
another step and another measure, and the longest time the page was blocked, with what stood on it as a sign of work.
"""

from __future__ import annotations

import argparse
import shutil
import tempfile
import time
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, Response, sync_playwright

from bench.models import make
from ironstone.store import Review, intake
from tests.bench.serving import ARGUMENTS, bench_on

WATCH = """
window.blocked = [];
window.signs = () => ['.view-wait', '.view-busy', '[data-testid=long-work]'].some((s) => document.querySelector(s));
new PerformanceObserver((list) => {
  for (const e of list.getEntries()) window.blocked.push([e.duration, window.signs()]);
}).observe({entryTypes: ['longtask']});
"""
# Each frame is waited for until every view has been drawn.
TURN = """
async () => {
  const canvases = [...document.querySelectorAll('.view-canvas canvas')];
  const canvas = canvases[0];
  const box = canvas.getBoundingClientRect();
  const at = (type, x) => canvas.dispatchEvent(new PointerEvent(type, {
    pointerId: 1, pointerType: 'mouse', button: 0, buttons: type === 'pointerup' ? 0 : 1, bubbles: true,
    clientX: box.left + x, clientY: box.top + 200,
  }));
  canvas.setPointerCapture = () => {};
  canvas.releasePointerCapture = () => {};
  at('pointerdown', 200);
  const pixel = new Uint8Array(4);
  const times = [];
  for (let i = 1; i <= 20; i++) {
    const begun = performance.now();
    at('pointermove', 200 + 8 * i);
    await new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)));
    for (const gl of canvases.map((c) => c.getContext('webgl2')))
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
    times.push(performance.now() - begun);
  }
  at('pointerup', 360);
  return times;
}
"""


SETTLED = """
async () => {
  const frame = () => new Promise((r) => requestAnimationFrame(r));
  for (;;) {
    const view = document.querySelector('[data-testid=view]');
    if (view?.dataset.busy === 'false' && document.querySelector('.core-key')) break;
    await frame();
  }
  await frame();
  await frame();
}
"""


def settled(page: Page) -> None:
    page.evaluate(SETTLED)


def measured(page: Page, act: Any) -> float:
    begun = time.perf_counter()
    act()
    page.wait_for_timeout(30)
    settled(page)
    return time.perf_counter() - begun


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--small", action="store_true")
    options.add_argument("--folder", type=Path)
    asked = options.parse_args()
    elements = 125_000 if asked.small else 1_000_000
    folder = asked.folder or Path(tempfile.mkdtemp(prefix="ironstone-bench-"))
    folder.mkdir(parents=True, exist_ok=True)
    first = make(folder / "large_1.vtu", elements)
    second = Path(shutil.copy(first, folder / "large_2.vtu"))
    path = folder / "large.ironstone"
    path.unlink(missing_ok=True)
    begun = time.perf_counter()
    with Review.create(path) as review:
        intake(review, [first, second])
    print(f"two steps of {elements:,} hexahedra taken in: {time.perf_counter() - begun:.1f} s")
    sent: dict[str, int] = {}

    def answer(response: Response) -> None:
        length = response.headers.get("content-length")
        name = response.url.split("?")[0].rsplit("/", 1)[-1]
        if length and "/api/" in response.url:
            sent[name] = sent.get(name, 0) + int(length)

    with bench_on(path) as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.on("response", answer)
        page.add_init_script(WATCH)
        begun = time.perf_counter()
        page.goto(address)
        settled(page)
        print(f"first picture: {time.perf_counter() - begun:.1f} s")
        total = sum(sent.values())
        print(f"sent for it: {total / 1e6:.1f} MB (" + ", ".join(f"{n} {b / 1e6:.1f}" for n, b in sent.items() if b > 1e5) + ")")
        page.wait_for_timeout(1500)
        times = page.evaluate(TURN)
        ordered = sorted(times)
        print(f"turning: median {ordered[len(ordered) // 2]:.0f} ms a frame, slowest {ordered[-1]:.0f} ms")
        sent.clear()
        print(f"another step: {measured(page, lambda: page.keyboard.press('Home')):.2f} s, {sum(sent.values()) / 1e6:.1f} MB")

        def tresca() -> None:
            page.get_by_label("Measure: von Mises").click()
            page.locator(".chooser [role=option]").filter(has_text="Tresca").first.click()

        sent.clear()
        print(f"another measure: {measured(page, tresca):.2f} s, {sum(sent.values()) / 1e6:.1f} MB")
        sent.clear()
        seconds = measured(page, lambda: page.get_by_label("everywhere").check())
        print(f"averaged everywhere: {seconds:.2f} s, {sum(sent.values()) / 1e6:.1f} MB")
        blocked = page.evaluate("window.blocked")
        silent = [b for b, sign in blocked if not sign and b > 200]
        print(f"page blocked at most {max((b for b, _ in blocked), default=0):.0f} ms; above 200 ms with no sign of work: {silent}")
        browser.close()
    if asked.folder is None:
        shutil.rmtree(folder)


if __name__ == "__main__":
    main()
