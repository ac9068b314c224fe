"""The Balance and Trace bays in the real interface: the roof truss's question, sets, cuts, checks, curves by name."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from ironstone.store import Review, intake
from tests.bench.driving import COARSE_LUG, LUG, TRUSS, canvas, choose, highest, opened_in, places, settle, tab, undo
from tests.bench.serving import bench_on, opened_page
from tests.writing import bar_of_hexahedra, write_vtu


def test_at_which_snow_load_the_first_member_yields_and_the_roof_collapses(blank: Page, address: str) -> None:
    """First yield is marked on the step rail; the highest yielded share names the member; stiffness by name tells the collapse."""
    page = blank
    opened_in(page, address, "trace", TRUSS, "&field=yielded_share")
    page.locator(".mark-yield").click()
    settle(page)
    word = page.locator(".rail-word").inner_text()
    assert 3.5 < float(re.search(r"([\d.]+)$", word)[1]) < 3.8  # type: ignore[index]
    expect(page.get_by_test_id("ext-highest")).to_contain_text("part 4")
    page.get_by_role("tab", name="Curves").click()
    expect(page.locator(".legend-list")).to_contain_text("stiffness, of")
    row = page.get_by_test_id("named-curve").filter(has_text="stiffness")
    stiff = float(re.search(r"([\d.]+) kN/mm", row.inner_text())[1])  # type: ignore[index]
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("End")
    settle(page)
    expect(page.locator(".rail-word")).to_contain_text("3.98")
    soft = float(re.search(r"([\d.]+) kN/mm", row.inner_text())[1])  # type: ignore[index]
    assert soft < 0.05 * stiff, "an eighth more snow and hardly any stiffness is left"


def test_the_balance_agrees_and_a_free_set_is_told_so(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened_in(page, address, "balance", TRUSS, "&step=12")
    expect(page.get_by_test_id("verdict")).to_have_attribute("data-verdict", "agrees")
    table = page.get_by_test_id("set-forces")
    expect(table.locator("tr", has_text="supports")).to_contain_text("held")
    expect(table.locator("tr", has_text="ridge")).to_contain_text("not held")
    expect(page.get_by_test_id("balance")).to_contain_text("a reaction here means nothing")
    page.get_by_role("button", name="Arrows of loads").click()
    expect(page.get_by_role("button", name="Arrows of loads")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_test_id("arrow-key")).to_contain_text("resultant of each set")
    page.get_by_role("button", name="one a node").click()
    expect(page.get_by_test_id("arrow-key")).to_contain_text("7 at nodes")
    page.get_by_role("button", name="Arrows of supports").click()
    expect(page.get_by_test_id("arrow-key")).to_contain_text("supports")
    page.get_by_role("button", name="one a node").click()
    expect(page.get_by_test_id("arrow-key")).to_contain_text("2 at nodes")


def test_a_balance_that_fails_is_red(browser, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    points, cells, ids = bar_of_hexahedra()
    pull, hold = np.zeros((2, 24, 3))
    pull[points[:, 0] == 3.0, 0], hold[points[:, 0] == 0.0, 0] = 2.5, -2.0
    file = write_vtu(tmp_path / "bar.vtu", points, cells, {"load": pull, "reaction": hold, "GlobalIds": ids}, time=0.0)
    with Review.create(tmp_path / "bar.ironstone") as review:
        intake(review, [file])
    with bench_on(tmp_path / "bar.ironstone") as address, opened_page(browser, f"{address}/?bay=balance") as page:
        verdict = page.get_by_test_id("verdict")
        expect(verdict).to_have_attribute("data-verdict", "fails")
        colour = verdict.evaluate("e => getComputedStyle(e).borderLeftColor")
        assert colour == "rgb(158, 59, 35)", "iron red"


def test_the_force_through_a_cut_and_a_joint(blank: Page, address: str) -> None:
    page = blank
    opened_in(page, address, "balance", LUG, "&step=4")
    tab(page, "Inside", "Balance")
    page.get_by_label("Point of the plane").fill("-60, 0, 0")
    page.keyboard.press("Enter")
    cut = page.get_by_test_id("cut")
    expect(cut).to_contain_text("60.00")
    expect(cut.get_by_test_id("verdict")).to_have_attribute("data-verdict", "agrees")
    page.get_by_label("Point of the plane").fill("900, 0, 0")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("does not cut")
    opened_in(page, address, "balance", TRUSS, "&step=6")
    tab(page, "Inside", "Balance")
    page.get_by_role("button", name="a joint").click()
    page.get_by_label("Node", exact=True).fill("8")
    page.get_by_role("button", name="Add up").last.click()
    expect(page.get_by_test_id("joint")).to_contain_text("pushes")


def test_a_set_is_made_from_a_picked_face(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_in(page, own_address, "balance", LUG, "&step=4")
    tab(page, "Sets", "Balance")
    page.get_by_role("button", name="a face").click()
    x, y = places(page, 1)[0]
    box = canvas(page)
    page.mouse.click(box["x"] + x, box["y"] + y)
    expect(page.get_by_test_id("balance")).to_contain_text("A face is picked")
    page.get_by_label("Name the set").fill("skin")
    page.keyboard.press("Enter")
    row = page.get_by_test_id("set-row").filter(has_text="skin")
    expect(row).to_contain_text("nodes")
    row.get_by_role("button", name="Remove set skin").click()
    expect(row).to_have_count(0)


def test_a_hand_check_is_kept_and_judged(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "balance", LUG, "&step=4&field=displacement&measure=magnitude")
    tab(page, "Checks", "Balance")
    expect(page.get_by_test_id("doubt-balance")).to_have_attribute("data-verdict", "agrees")
    page.get_by_text("Keep a hand check").click()
    page.get_by_label("Name of the check").fill("reach")
    page.get_by_label("Expected").fill("0,056")
    page.get_by_label("Source or formula").fill("P L / E A and the eye")
    page.get_by_role("button", name="Keep check").click()
    check = page.get_by_test_id("hand-check")
    expect(check).to_have_attribute("data-verdict", "agrees")
    expect(check).to_contain_text("P L / E A")


def test_curves_are_named_and_worked_with(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "trace", TRUSS, "&field=axial_force")
    form = page.get_by_test_id("named")
    form.get_by_label("Place").fill("set:ridge")
    form.get_by_label("Over the set").select_option("max")
    form.get_by_label("Name of the new curve").fill("N")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("named-curve").filter(has_text="set:ridge").last).to_contain_text("N")
    form.get_by_role("button", name="other curves").click()
    form.get_by_label("Expression").fill("N + sinking")
    form.get_by_label("Name of the new curve").fill("wrong")
    page.keyboard.press("Enter")
    expect(page.get_by_text("do not go together")).to_be_visible()
    form.get_by_label("Expression").fill("N / snow")
    form.get_by_label("Name of the new curve").fill("share")
    page.keyboard.press("Enter")
    row = page.get_by_test_id("named-curve").filter(has_text="N / snow")
    expect(row).to_be_visible()
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("End")
    settle(page)
    assert "no value" not in row.inner_text()


def test_a_reading_chosen_here_is_the_one_the_check_is_of(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "balance", COARSE_LUG, "&step=4&field=stress&measure=von-mises")
    tab(page, "Checks", "Balance")
    choose(page, "Measure", "xx component")
    expect(page.get_by_test_id("reading-line")).to_contain_text("xx component of stress")
    settle(page)
    shown = highest(page)
    page.get_by_text("Keep a hand check").click()
    page.get_by_label("Name of the check").fill("along the lug")
    page.get_by_label("Expected").fill(f"{1.02 * shown}")
    page.get_by_role("button", name="Keep check").click()
    expect(page.get_by_test_id("hand-check")).to_have_attribute("data-verdict", "agrees")
    (kept,) = httpx.get(f"{own_address}/api/checks", params={"result": COARSE_LUG}).json()
    assert kept["sentence"].startswith("max of xx component of stress") and "step 5 of 9" in kept["sentence"]
    assert kept["value"] == pytest.approx(shown, rel=1e-3) and kept["off"] == pytest.approx(-0.02 / 1.02, rel=0.05)


def test_the_flexure_is_held_against_three_specimens_at_ten_percent(own_page: Page) -> None:
    """Does the flexure agree with three specimens within 10 %?"""
    page = own_page
    settle(page)
    page.keyboard.press("5")
    page.locator("summary", has_text="Test record").click()
    page.get_by_role("button", name="Mean of the 3 records").click()
    trace = page.get_by_test_id("trace")
    expect(trace).to_contain_text("mean of 3 specimens")
    expect(trace).to_contain_text("Agrees but for")
    expect(page.get_by_test_id("scatter")).to_contain_text("scatter by up to")
    for label in ("Forces", "Stiffness", "Energy", "RMS"):
        page.get_by_label(label, exact=True).fill("10")
        page.keyboard.press("Enter")
        settle(page)
    expect(trace).to_contain_text("Agrees: everything is within the limits")


def test_a_curve_that_goes_one_way_is_told_its_figures(blank: Page, address: str) -> None:
    page = blank
    opened_in(page, address, "trace", TRUSS)
    figures = page.get_by_test_id("figures")
    expect(figures).to_contain_text("Stiffness")
    expect(figures).to_contain_text("elastic-plastic line of equal energy")


def test_a_set_is_made_of_nodes_clicked_and_written(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_in(page, own_address, "balance", LUG, "&step=4")
    tab(page, "Sets", "Balance")
    page.get_by_role("button", name="nodes", exact=True).click()
    box = canvas(page)
    for x, y in places(page, 2):
        page.mouse.click(box["x"] + x, box["y"] + y)
    field = page.get_by_label("Nodes of the set")
    expect(field).not_to_have_value("")
    field.fill(f"{field.input_value()}, 1")
    page.keyboard.press("Enter")
    page.get_by_label("Name the set").fill("picked")
    page.keyboard.press("Enter")
    row = page.get_by_test_id("set-row").filter(has_text="picked")
    expect(row).to_contain_text("nodes")
    row.get_by_role("button", name="Remove set picked").click()
    expect(row).to_have_count(0)


def test_hand_checks_of_one_mesh_are_taken_over_for_the_other(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "balance", LUG, "&step=4&field=displacement&measure=magnitude")
    tab(page, "Checks", "Balance")
    expect(page.get_by_test_id("doubt-peak over meshes")).to_have_attribute("data-verdict", "agrees")
    expect(page.get_by_test_id("doubt-supports")).to_contain_text("Held: held; free: bore.")
    page.get_by_text("Keep a hand check").click()
    page.get_by_label("Name of the check").fill("reach")
    page.get_by_label("Expected").fill("0,056")
    page.get_by_role("button", name="Keep check").click()
    expect(page.get_by_test_id("hand-check")).to_have_count(1)
    opened_in(page, own_address, "balance", 1, "&step=4&field=displacement&measure=magnitude")
    tab(page, "Checks", "Balance")
    expect(page.get_by_test_id("hand-check")).to_have_count(0)
    page.get_by_role("button", name="Take over 1 of lug, fine").click()
    expect(page.get_by_test_id("hand-check")).to_have_count(1)
    expect(page.get_by_role("button", name="Take over")).to_have_count(0)
    settle(page)
    undo(page)
    expect(page.get_by_test_id("hand-check")).to_have_count(0)


def test_two_bodies_are_opened_like_a_book_and_closed_again(blank: Page, address: str) -> None:
    page = blank
    opened_in(page, address, "balance", LUG, "&field=stress&measure=von-mises&step=5")
    tab(page, "Contact", "Balance")
    page.get_by_role("button", name="part 1 and part 2 opened like a book").click()
    expect(page.get_by_test_id("book")).to_contain_text("part 1 is turned over, as one opens a book")
    settle(page)
    page.reload()
    expect(page.get_by_test_id("book")).to_be_visible()
    page.get_by_role("button", name="Close it").click()
    expect(page.get_by_test_id("book")).to_have_count(0)
    settle(page)
