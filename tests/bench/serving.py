"""Benches to drive, each the service in a process of its own on loopback, and the browsers that drive them: Debian's Chromium."""

from __future__ import annotations

import atexit
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

import httpx
from playwright.sync_api import Browser, Page, Playwright

ROOT = Path(__file__).resolve().parents[2]
COMMON = [
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # No page of a test lives long enough to win back what its optimised code costs.
    "--js-flags=--no-opt",
]
# With WebGL, drawn by software.
ARGUMENTS = [*COMMON, "--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
# To put the page together by that software too costs as much as the picture, and shows nothing else.
WITH_PICTURES = [*ARGUMENTS, "--disable-gpu-compositing", "--webgl-antialiasing-mode=none"]
# Without: a page costs a third, and all but the picture works.
WITHOUT_GRAPHICS = [*COMMON, "--disable-gpu", "--disable-3d-apis"]
SIZE = {"width": 1280, "height": 800}
# How long one waits, in ms, on a machine that has other work.
PATIENCE = 30_000


def launched(playwright: Playwright, arguments: list[str]) -> Browser:
    return playwright.chromium.launch(executable_path="/usr/bin/chromium", args=arguments)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


@cache
def nursery() -> subprocess.Popen[str]:
    """Where benches come from; it goes with the process that asked for it first."""
    command = [sys.executable, "-m", "tests.bench.nursery"]
    started = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=ROOT)
    atexit.register(started.kill)
    return started


def gone(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return True
    return False


@contextmanager
def bench_on(review: Path, at: int | None = None) -> Iterator[str]:
    """A bench on a review, in a process of its own; its address. at: the port, where it matters."""
    port, from_there = at or free_port(), nursery()
    assert from_there.stdin and from_there.stdout
    from_there.stdin.write(f"{port} {review}\n")
    from_there.stdin.flush()
    process = int(from_there.stdout.readline())
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(1500):
            try:
                httpx.get(f"{address}/api/review", timeout=PATIENCE / 1000)
                break
            except httpx.TransportError:
                time.sleep(0.02)
        yield address
    finally:
        # In order it would wait for the pages that listen; how a bench ends is another test's.
        os.kill(process, signal.SIGKILL)
        for _ in range(1000):
            if gone(process):
                break
            time.sleep(0.02)


class Window:
    """One page of a browser for many tests, one after the other: what it has loaded once it need not load again.

    After each test it is as new: nothing kept in it, no route, its size and media as they were. A test fails on any error its page
    throws; the next one gets another page then.
    """

    def __init__(self, browser: Browser) -> None:
        self._browser = browser
        self._page: Page | None = None
        self._thrown: list[str] = []

    @contextmanager
    def page(self) -> Iterator[Page]:
        """An empty page."""
        page = self._page or self._new()
        self._page = None
        self._thrown.clear()
        try:
            yield page
        except BaseException:
            page.context.close()
            raise
        thrown = list(self._thrown)
        self._page = self._cleared(page)
        assert thrown == []

    def _new(self) -> Page:
        # Nothing of the page moves on its own: to wait for what glides into its place is time lost.
        context = self._browser.new_context(viewport=SIZE, accept_downloads=True, reduced_motion="reduce")  # type: ignore[arg-type]
        page = context.new_page()
        page.set_default_timeout(PATIENCE)
        page.on("pageerror", lambda error: self._thrown.append(str(error)))
        return page

    def _cleared(self, page: Page) -> Page | None:
        if page.is_closed():
            return None
        page.unroute_all(behavior="ignoreErrors")
        page.context.clear_permissions()
        with_storage = "try { localStorage.clear(); sessionStorage.clear() } catch { /* an empty page has none */ }"
        page.evaluate(with_storage)
        page.goto("about:blank")
        page.emulate_media(color_scheme="light", reduced_motion="reduce")
        page.set_viewport_size(SIZE)  # type: ignore[arg-type]
        return page


@contextmanager
def opened_page(browser: Browser, address: str | None, **of_context: Any) -> Iterator[Page]:
    """A page of its own, at an address or empty; a test fails on any error the page throws."""
    context = browser.new_context(**{"viewport": SIZE, "accept_downloads": True, "reduced_motion": "reduce", **of_context})
    page = context.new_page()
    page.set_default_timeout(PATIENCE)
    thrown: list[str] = []
    page.on("pageerror", lambda error: thrown.append(str(error)))
    if address is not None:
        page.goto(address)
        page.get_by_test_id("core-key").wait_for()
    yield page
    context.close()
    assert thrown == []
