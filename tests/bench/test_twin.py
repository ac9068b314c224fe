"""Two views side by side: another result or another reading, what they do together, and what holds them."""

from __future__ import annotations

import re
from pathlib import Path
from urllib.parse import quote

import httpx
from PIL import Image
from playwright.sync_api import Page, expect

from tests.bench.driving import COARSE_LUG, LUG, opened, opened_in, settle, to_the_step

ASKED = "&step=4&field=stress&measure=von-mises"


def heads(page: Page) -> list[str]:
    return [h.text_content() or "" for h in page.get_by_test_id("pane-head").all()]


def test_two_results_move_through_the_steps_together_and_a_link_reopens_both(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "field", LUG, ASKED)
    page.keyboard.press("t")
    expect(page.get_by_test_id("pane-head")).to_have_count(2)
    settle(page)
    first, second = page.get_by_label("Result of the first view"), page.get_by_label("Result of the second view")
    assert (first.input_value(), second.input_value()) == (str(LUG), str(COARSE_LUG))
    to_the_step(page, "ArrowRight")
    settle(page)
    assert all("at t = 2.5 s" in words for words in heads(page))
    seam = page.get_by_role("group", name="What the two views do together")
    seam.get_by_role("button", name="step").click()
    page.keyboard.press("Home")
    settle(page)
    expect(page.get_by_test_id("pane-head").nth(1)).to_contain_text("t = 0 s beside t = 2.5 s")
    page.reload()
    expect(page.get_by_test_id("pane-head").nth(1)).to_contain_text("t = 0 s beside t = 2.5 s")
    expect(seam.get_by_role("button", name="step")).to_have_attribute("aria-pressed", "false")
    expect(seam.get_by_role("button", name="camera")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("t")
    expect(page.get_by_test_id("pane-head")).to_have_count(0)
    assert "twin=" not in page.url or settle(page) is None


def test_the_pane_that_is_clicked_is_worked_in_and_two_readings_of_one_result_stand_beside_each_other(
    own_address: str, blank: Page
) -> None:
    page = blank
    opened_in(page, own_address, "field", LUG, ASKED)
    page.keyboard.press("t")
    expect(page.get_by_test_id("pane-head")).to_have_count(2)
    settle(page)
    page.get_by_label("Result of the second view").select_option(str(LUG))
    settle(page)
    expect(page.get_by_test_id("pane-head").nth(1)).to_have_attribute("data-active", "true")
    page.get_by_role("radio", name="within part").check()
    settle(page)
    averaged, plain = heads(page)[1], heads(page)[0]
    assert "averaged within each part" in averaged and "each corner as computed" in plain
    page.get_by_test_id("pane-head").nth(0).click()
    expect(page.get_by_role("radio", name="off")).to_be_checked()


def test_both_views_turn_together_share_a_key_and_are_one_picture(own_address: str, picture_blank: Page, tmp_path: Path) -> None:
    page = picture_blank
    opened(page, f"{own_address}/?bay=field&drawer=view&result={LUG}{ASKED}")
    page.keyboard.press("t")
    expect(page.get_by_test_id("pane-head")).to_have_count(2)
    settle(page)
    expect(page.get_by_test_id("core-key")).to_have_count(1)
    before = page.url
    box = page.get_by_test_id("view").nth(0).bounding_box()
    assert box
    x, y = box["x"] + 0.3 * box["width"], box["y"] + 0.2 * box["height"]
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 70, y + 30, steps=4)
    page.mouse.up()
    settle(page)
    assert page.url != before
    first, _, second = page.url.partition("twin=")
    camera = first.split("camera=")[1].split("&")[0].replace("%2C", ",")
    assert camera in second.replace("%252C", ",")
    page.get_by_role("group", name="What the two views do together").get_by_role("button", name="limits").click()
    expect(page.get_by_test_id("core-key")).to_have_count(2)
    with page.expect_download() as got:
        page.get_by_role("button", name="Picture PNG").click()
    got.value.save_as(tmp_path / "both.png")
    width, height = Image.open(tmp_path / "both.png").size
    assert width > 1.2 * height


def test_a_flag_of_one_view_stands_in_the_other_too_with_both_values_and_their_difference(
    own_address: str, picture_blank: Page
) -> None:
    page = picture_blank
    flag = {"result": LUG, "node": 1351, "name": "bond"}
    httpx.post(f"{own_address}/api/flags", json=flag).raise_for_status()
    opened_in(page, own_address, "field", LUG, "&step=4&field=strain from displacement&measure=xx")
    page.keyboard.press("t")
    beside = page.get_by_test_id("flag-beside-1")
    expect(beside).to_contain_text("bond of lug, fine")
    sides = beside.locator("tbody")
    expect(sides).to_have_count(2)
    parts = {side.get_attribute("data-part") for side in sides.all()}
    assert parts == {"part 1", "part 2"}, "steel and bronze each for itself"
    expect(sides.first).to_contain_text("difference")
    before = sides.first.inner_text()
    to_the_step(page, "ArrowRight")
    settle(page)
    expect(sides.first).not_to_have_text(before)
    expect(page.get_by_test_id("flag-1")).to_have_count(1)
    page.keyboard.press("t")
    expect(beside).to_have_count(0)
    other = quote(f"result={LUG}&step=4&field=strain from displacement&measure=xx&averaging=part")
    opened_in(page, own_address, "field", LUG, f"&step=4&field=strain from displacement&measure=xx&twin={other}")
    both = page.get_by_test_id(re.compile("^flag-other-view-"))
    expect(both).to_have_count(2)
    expect(both.first).to_contain_text("other view")
    expect(both.first).to_contain_text("difference")
