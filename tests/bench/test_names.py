"""What was made is called as the analyst likes, everywhere at once, and comes back when it was removed."""

from __future__ import annotations

import httpx
from playwright.sync_api import Page, expect

from tests.bench.driving import settle


def named(address: str) -> str:
    """A curve by name over a set that is made here, of the flexure: its number."""
    trace = {"field": "displacement", "measure": "x", "at": "set:grip", "reduce": "mean"}
    answer = httpx.post(f"{address}/api/named", json={"result": 6, "name": "stroke", "trace": trace})
    assert answer.is_success, answer.text
    return str(answer.json()["id"])


def test_a_sets_new_name_goes_along_to_the_curve_that_reads_it(own_page: Page, own_address: str) -> None:
    page = own_page
    settle(page)
    page.keyboard.press("2")
    page.get_by_role("tab", name="Sets").click()
    page.get_by_role("button", name="a part", exact=True).click()
    page.get_by_label("Name the set").fill("grip")
    page.get_by_label("Name the set").press("Enter")
    expect(page.get_by_role("button", name="Rename set grip")).to_be_visible()
    named(own_address)
    page.get_by_role("button", name="Rename set grip").click()
    page.get_by_label("New name of grip").fill("brake head, clamped in the rig of hall 2")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Rename set brake head")).to_be_visible()
    page.keyboard.press("5")
    curve = page.get_by_test_id("named-curve").filter(has_text="stroke")
    expect(curve).to_contain_text("set:brake head, clamped in the rig of hall 2")
    expect(curve).to_contain_text("mm")
    settle(page)
    page.get_by_role("button", name="Undo: Set 'grip' renamed").click()
    expect(curve).to_contain_text("set:grip")
    expect(curve).to_contain_text("mm")


def test_curves_records_and_flags_are_renamed_removed_and_brought_back(own_picture_page: Page, own_address: str) -> None:
    page = own_picture_page
    settle(page)
    page.keyboard.press("5")
    page.locator("summary", has_text="Curve: what").click()
    page.get_by_label("Name of the curve", exact=True).fill("Loop of the brake")
    page.keyboard.press("Enter")
    page.locator("summary", has_text="Test record").click()
    page.get_by_label("Name of the record").fill("F3, second run")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("trace").locator(".legend").last).to_contain_text("F3, second run")
    page.get_by_role("tab", name="Flags").click()
    page.get_by_label("Name of flag 1").fill("root")
    page.get_by_label("Name of flag 1").press("Enter")
    expect(page.get_by_test_id("flag-1")).to_contain_text("root")
    page.keyboard.press("3")
    page.get_by_role("button", name="Remove flag 1").click()
    page.keyboard.press("5")
    page.get_by_role("button", name="Remove F3, second run").click()
    expect(page.get_by_role("button", name="Remove F3, second run")).to_have_count(0)
    page.get_by_role("button", name="Remove", exact=True).click()
    expect(page.get_by_test_id("trace")).not_to_contain_text("Loop of the brake")
    page.keyboard.press("1")
    page.get_by_test_id("removed").locator("summary").click()
    for what in ("Curve 'Loop of the brake'", "Test record 'F3, second run'", "Flag"):
        page.get_by_role("button", name=f"Bring back {what}").first.click()
    expect(page.get_by_test_id("removed")).to_have_count(0)
    expect(page.get_by_test_id("flag-1")).to_contain_text("root")
    page.keyboard.press("5")
    page.get_by_test_id("trace").locator("select").first.select_option("Loop of the brake")
    expect(page.get_by_test_id("trace")).to_contain_text("F3, second run")
    # What is removed again goes for good once that is said, with how much it is.
    page.get_by_role("button", name="Remove F3, second run").click()
    expect(page.get_by_role("button", name="Remove F3, second run")).to_have_count(0)
    page.keyboard.press("1")
    page.get_by_test_id("removed").get_by_role("button", name="Discard all for good").click()
    expect(page.get_by_role("group", name="Discard all that was removed")).to_contain_text("MB go for good. This cannot be undone.")
    page.get_by_role("button", name="Discard", exact=True).click()
    expect(page.get_by_test_id("removed")).to_have_count(0)
