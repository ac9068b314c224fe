"""The real bench: the service in a process of its own, on loopback, driven in Debian's Chromium."""

from __future__ import annotations

import atexit
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Page, sync_playwright

ROOT = Path(__file__).resolve().parents[2]
ARGUMENTS = [
    "--no-sandbox",
    "--use-gl=angle",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield opened
        opened.close()


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
        for _ in range(1200):
            try:
                httpx.get(f"{address}/api/review", timeout=2)
                break
            except httpx.TransportError:
                time.sleep(0.05)
        yield address
    finally:
        os.kill(process, signal.SIGTERM)
        for _ in range(400):
            if gone(process):
                break
            time.sleep(0.05)


@contextmanager
def opened_page(browser: Browser, address: str | None) -> Iterator[Page]:
    """The bench as it opens, at 1280 x 800 (an empty page for None); a test fails on any error the page throws."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    page = context.new_page()
    page.set_default_timeout(30_000)
    thrown: list[str] = []
    page.on("pageerror", lambda error: thrown.append(str(error)))
    if address is not None:
        page.goto(address)
        page.get_by_test_id("core-key").wait_for()
    yield page
    context.close()
    assert thrown == []


@pytest.fixture(scope="session")
def shared_review(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    return Path(shutil.copy(demo_file, tmp_path_factory.mktemp("shared") / "demo.ironstone"))


@pytest.fixture(scope="session")
def address(shared_review: Path) -> Iterator[str]:
    """One bench for all tests that only look."""
    with bench_on(shared_review) as found:
        yield found


@pytest.fixture
def page(browser: Browser, address: str) -> Iterator[Page]:
    with opened_page(browser, address) as found:
        yield found


@pytest.fixture
def blank(browser: Browser) -> Iterator[Page]:
    """A page of a test that goes to an address of its own."""
    with opened_page(browser, None) as found:
        yield found


@pytest.fixture
def own_address(demo_copy: Path) -> Iterator[str]:
    """A bench of its own for a test that changes the review."""
    with bench_on(demo_copy) as found:
        yield found


@pytest.fixture
def own_page(browser: Browser, own_address: str) -> Iterator[Page]:
    with opened_page(browser, own_address) as found:
        yield found
