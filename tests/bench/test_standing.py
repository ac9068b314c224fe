"""What fails leaves the rest standing: no WebGL, graphics that go away and come back, a panel that throws."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, Route, expect

from tests.bench.driving import picture, settle, tab
from tests.bench.serving import bench_on


def test_without_webgl_the_rest_of_the_bench_works(page: Page) -> None:
    """As all tests without a picture show: this one looks at what is said, and that plots, which wait for the model, come."""
    expect(page.get_by_test_id("view").get_by_role("status").first).to_contain_text("This browser cannot draw the model")
    expect(page.get_by_test_id("core-key")).to_contain_text("highest")
    expect(page.get_by_test_id("reading-line")).to_contain_text("von Mises of stress")
    page.keyboard.press("2")
    expect(page.get_by_test_id("balance")).to_contain_text("residual")
    page.keyboard.press("5")
    expect(page.locator(".js-plotly-plot .main-svg").first).to_be_visible()
    # What stands over the model stands nowhere without it.
    assert page.locator(".view-canvas svg:visible").count() == 0


def test_graphics_that_go_away_are_told_and_the_picture_comes_back(picture_page: Page) -> None:
    page = picture_page
    settle(page)
    before = picture(page)
    lose = "window.lost = document.querySelector('.view-canvas canvas').getContext('webgl2').getExtension('WEBGL_lose_context')"
    page.evaluate(f"{lose}; window.lost.loseContext()")
    expect(page.get_by_role("alert")).to_contain_text("have let the picture go")
    page.evaluate("window.lost.restoreContext()")
    expect(page.get_by_text("have let the picture go")).to_have_count(0)
    settle(page)
    assert (np.abs(picture(page) - before).max(2) > 8).mean() < 0.002


def test_a_service_that_goes_away_is_told_and_all_comes_by_itself_when_it_is_back(demo_copy: Path, blank: Page) -> None:
    """Loading, failed and empty are three states: nothing claims to be empty while the service is dead."""
    page = blank
    with bench_on(demo_copy) as address:
        page.goto(f"{address}/?bay=exhibits&result=6")
        page.get_by_test_id("core-key").wait_for()
        expect(page.get_by_test_id("exhibits")).to_contain_text("Nothing kept yet")
    page.keyboard.press("3")
    page.keyboard.press("Home")
    expect(page.get_by_test_id("unreachable")).to_contain_text("The service does not answer")
    page.get_by_role("tab", name="Flags").click()
    expect(page.get_by_text("Nothing kept yet")).to_have_count(0)
    with bench_on(demo_copy, int(address.rpartition(":")[2])):
        expect(page.get_by_test_id("unreachable")).to_have_count(0)
        expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", "0")
        settle(page)
        expect(page.locator(".view-problem[role=alert]")).to_have_count(0)
        expect(page.get_by_test_id("reading-line")).to_contain_text("t = 0 s")
        expect(page.get_by_test_id("flag-table")).to_be_visible()


def test_a_panel_that_throws_says_so_and_leaves_the_others(picture_blank: Page, address: str) -> None:
    """An answer the page does not understand: of the checks alone, so that the drawer fails and the view stays."""
    page = picture_blank

    def odd(route: Route) -> None:
        route.fulfill(status=200, content_type="application/json", body=json.dumps([{"odd": 1}]))

    page.route("**/api/outline*", odd)
    page.goto(address)
    page.get_by_test_id("core-key").wait_for()
    page.keyboard.press("9")
    expect(page.locator(".drawer").get_by_role("alert")).to_contain_text("This bay cannot be shown. The rest of the bench works")
    settle(page)
    assert len(np.unique(picture(page).reshape(-1, 3), axis=0)) > 50, "the view stays"
    page.unroute("**/api/outline*")
    page.keyboard.press("3")
    expect(page.get_by_test_id("field")).to_be_visible()


def test_a_mode_is_said_in_the_view_and_ends_with_escape_and_with_its_bay(blank: Page, address: str) -> None:
    page = blank
    page.goto(f"{address}/?bay=field&result=2")
    page.get_by_test_id("core-key").wait_for()
    tab(page, "Marks")
    page.get_by_text("length", exact=True).click()
    expect(page.get_by_test_id("mode")).to_contain_text("A click adds a node to the length. Escape ends it.")
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("mode")).to_have_count(0)
    tab(page, "Model")
    page.get_by_role("button", name="Hide by click").click()
    expect(page.get_by_test_id("mode")).to_contain_text("A click hides the part")
    page.keyboard.press("5")
    expect(page.get_by_test_id("trace")).to_be_visible()
    expect(page.get_by_test_id("mode")).to_have_count(0)
