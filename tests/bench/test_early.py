"""What is seen before all is done: a picture while its result is being stored, an old picture while a new one is worked out."""

from __future__ import annotations

import re
import threading
from pathlib import Path

import httpx
from playwright.sync_api import Page, Route, expect

from bench.models import make
from tests.bench.driving import choose


def test_a_dropped_file_is_seen_while_it_is_stored_and_nothing_is_kept_before(
    own_picture_page: Page, own_address: str, tmp_path: Path
) -> None:
    page, shown, go_on = own_picture_page, [], []

    def poll(route: Route) -> None:
        # The page hears of the preview, and of the end only when this test says so.
        answer = route.fetch()
        reply = answer.json()
        if reply.get("preview") and not go_on:
            reply["state"] = "running"
            shown.append(reply["preview"])
        route.fulfill(response=answer, json=reply)

    page.route("**/api/jobs/*", poll)
    page.keyboard.press("1")
    page.get_by_test_id("intake-files").set_input_files(make(tmp_path / "block.vtu", 20_000))
    expect(page.get_by_test_id("arriving")).to_be_visible()
    expect(page.get_by_test_id("core-key")).to_contain_text("MPa")
    expect(page.get_by_role("button", name="Keep as exhibit")).to_be_disabled()
    expect(page.locator(".review-name")).to_contain_text("block")
    expect(page).to_have_url(re.compile("field=stress.*step=0"))
    seen = page.url
    go_on.append(True)
    expect(page.get_by_test_id("arriving")).to_have_count(0)
    expect(page.get_by_role("button", name="Keep as exhibit")).to_be_enabled()
    assert page.url.split("&camera")[0] == seen.split("&camera")[0]
    results = httpx.get(f"{own_address}/api/review").json()["results"]
    assert results[-1] == {"id": shown[0], "name": "block", "arriving": False}


def test_while_a_reading_is_worked_out_the_old_picture_has_its_own_words(picture_page: Page) -> None:
    page = picture_page
    page.get_by_test_id("view").and_(page.locator("[data-busy=false]")).wait_for()
    before = page.locator(".view-canvas [role=img]").get_attribute("aria-label")
    held = threading.Event()
    waiting: list[Route] = []

    def hold(route: Route) -> None:
        if "principal-3" in route.request.url and not held.is_set():
            waiting.append(route)
        else:
            route.continue_()

    page.route("**/values?**", hold)
    choose(page, "Measure", "smallest principal")
    former = page.get_by_test_id("former")
    expect(former).to_contain_text(f"Shown until then: {before}")
    expect(page.locator(".view-canvas [role=img]")).to_have_attribute("aria-label", before or "")
    held.set()
    for route in waiting:
        route.continue_()
    expect(former).to_have_count(0)
    assert page.locator(".view-canvas [role=img]").get_attribute("aria-label") != before
