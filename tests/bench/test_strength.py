"""The Strength bay: which ply of the weather mast fails first, in which zone and mode, at what load, and do the tests agree?"""

from __future__ import annotations

import csv
import io
import json
import re
from pathlib import Path

import httpx
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from demo.mast import DATA
from tests.bench.driving import BARE, LUG, MAST, drop, number, opened_in, picture, settle, undo
from tests.bench.test_unaided import Acts


def opened_at(page: Page, address: str, more: str = "", result: int = MAST, step: int = 7) -> None:
    opened_in(page, address, "strength", result, f"&step={step}{more}")


def strength_tab(page: Page, name: str) -> None:
    page.get_by_test_id("strength").get_by_role("tab", name=name).click()
    settle(page)


def test_which_ply_of_which_zone_fails_first_in_which_mode_at_what_load_and_whether_the_four_tests_agree(
    own_address: str, blank: Page
) -> None:
    page = blank
    page.goto(f"{own_address}/?bay=field&result={MAST}&step=4")
    page.get_by_test_id("core-key").wait_for()
    page.keyboard.press("6")
    first = page.get_by_test_id("first-failure")
    expect(first).to_contain_text("sheet H1 (ply 1) of zone opening, bottom: matrix, tension")
    told = re.search(r"at load factor ([\d.]+):", first.inner_text())
    assert told and float(told[1]) == pytest.approx(1.040, abs=0.002)
    expect(page.get_by_test_id("mark-failure")).to_have_count(1)
    page.get_by_test_id("strength").get_by_role("tab", name="Tests").click()
    verdict = page.get_by_test_id("tested-verdict")
    expect(verdict).to_contain_text("Agrees: predicted")
    expect(verdict).to_contain_text("zone and mode as seen in 3 of 4")
    expect(page.get_by_test_id("tested-parts").locator("tbody tr")).to_have_count(4)
    ranked = page.get_by_test_id("tested-table").locator("tbody tr")
    expect(ranked).to_have_count(7)
    off = [number(r.locator("td").nth(3).inner_text()) for r in ranked.all()]
    assert off == sorted(off), "the closest first"
    # Another criterion from its row: the answer is its own.
    ranked.get_by_role("button", name="maximum strain").click()
    expect(page.get_by_test_id("tested-table").locator(".chosen-row")).to_contain_text("maximum strain")
    page.get_by_test_id("strength").get_by_role("tab", name="Failure").click()
    expect(first).to_contain_text("1.060")
    expect(page.get_by_role("combobox", name="Criterion")).to_have_value("max-strain")
    # The address follows a moment later.
    expect(page).not_to_have_url(re.compile("drawer=tests"))
    page.reload()
    expect(page.get_by_test_id("first-failure")).to_contain_text("1.060")


def test_a_ply_that_does_not_lie_somewhere_is_blank_there_and_the_key_breaks_at_one(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened_at(page, address, BARE)
    expect(page.get_by_test_id("reading-line")).to_contain_text("worst of all plies")
    expect(page.get_by_test_id("key-break")).to_contain_text("1 fails")
    whole = picture(page)
    page.get_by_role("combobox", name="Ply", exact=True).select_option("sheet:D1")
    settle(page)
    expect(page.get_by_test_id("reading-line")).to_contain_text("worst in sheet D1")
    expect(page.get_by_text("no such ply lies there")).to_be_visible()
    expect(page.get_by_test_id("key-break")).to_have_count(0)
    sheet = picture(page)
    # Stone grey is of no colour; what is drawn of the sheet alone is calm and pale.
    drawn = sheet.max(2) > 0
    grey = drawn & (np.ptp(sheet, axis=2) < 22) & (sheet.mean(2) < 190)
    rows = np.flatnonzero(drawn.any(1))
    top, foot = rows[: len(rows) // 2], rows[-len(rows) // 8 :]
    assert grey[top].sum() > 0.8 * drawn[top].sum(), "the sheet is of the foot alone"
    assert grey[foot].sum() < 0.5 * drawn[foot].sum()
    assert (np.abs(whole - sheet).max(2) > 20).sum() > 0.5 * drawn.sum()
    page.get_by_role("combobox", name="Shown on the model").select_option("mode")
    page.get_by_role("combobox", name="Ply", exact=True).select_option("worst")
    settle(page)
    expect(page.get_by_test_id("core-key")).to_contain_text("matrix, tension")
    expect(page.get_by_test_id("core-key")).to_contain_text("mode of failure")


def test_the_stack_of_a_picked_element_is_drawn_beside_the_key_and_told_through_the_wall(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened_at(page, address)
    core = page.get_by_test_id("stack-core")
    expect(core).to_contain_text("opening")
    expect(core.locator(".core-ply")).to_have_count(10)
    expect(core.locator(".core-ply.fails").first).to_contain_text("fails")
    expect(page.get_by_test_id("stack-table").locator("tbody tr")).to_have_count(30)
    expect(page.get_by_test_id("stack-remark").first).to_contain_text("is nearest to failure")
    page.get_by_role("button", name="Pick an element").click()
    expect(page.get_by_test_id("mode")).to_contain_text("A click shows the stack")
    box = page.locator(".view-canvas canvas").bounding_box()
    assert box
    drawn = np.argwhere(picture(page).max(2) > 0)
    # On the mast, a quarter from its top: the tip's five plies.
    y = drawn[:, 0].min() + 0.25 * np.ptp(drawn[:, 0])
    x = np.median(drawn[np.abs(drawn[:, 0] - y) < 2, 1])
    page.mouse.click(box["x"] + float(x), box["y"] + float(y))
    expect(core).to_contain_text("tip")
    expect(core.locator(".core-ply")).to_have_count(5)
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("mode")).to_have_count(0)
    expect(page).to_have_url(re.compile("element="))
    address_now = page.url
    page.goto("about:blank")
    page.goto(address_now)
    expect(page.get_by_test_id("stack-core")).to_contain_text("tip")
    page.get_by_role("button", name="Back to the worst").click()
    expect(page.get_by_test_id("stack-core")).to_contain_text("opening")


def test_the_envelope_carries_the_coupons_and_the_way_of_the_place_that_fails(blank: Page, address: str) -> None:
    page = blank
    opened_at(page, address)
    page.get_by_role("tab", name="Envelope").click()
    legend = page.get_by_test_id("envelope-legend")
    expect(legend).to_contain_text("envelope of Hashin (1980) for glass, stress 22 and 12")
    expect(legend).to_contain_text("28 coupons stand on it as crosses")
    expect(page.get_by_test_id("envelope-plot").locator(".js-plotly-plot, svg").first).to_be_visible()
    legend.get_by_text("11, 22").click()
    expect(legend).to_contain_text("stress 11 and 22")


def test_a_stack_is_changed_the_view_follows_and_undo_brings_it_back(own_address: str, blank: Page) -> None:
    page = blank
    opened_at(page, own_address, step=4)
    highest = page.get_by_test_id("ext-highest")
    before = highest.inner_text()
    strength_tab(page, "Stacks")
    page.get_by_role("combobox", name="Zone").select_option("opening")
    expect(page.get_by_test_id("zone-words")).to_contain_text("10 plies, 3.100 mm")
    angle = page.get_by_role("textbox", name="Angle of ply 1", exact=True)
    angle.fill("60")
    angle.press("Enter")
    page.get_by_role("button", name="State this stack").click()
    expect(highest).not_to_have_text(before)
    undo(page)
    expect(highest).to_have_text(before)
    expect(page.get_by_text("D1, D2, D3 end")).to_be_visible()
    page.get_by_role("button", name="Show ply count").click()
    expect(page.get_by_test_id("reading-line")).to_contain_text("ply count")


def test_coupons_become_the_strengths_of_the_material(own_address: str, blank: Page) -> None:
    page = blank
    opened_at(page, own_address)
    strength_tab(page, "Tests")
    basis = page.get_by_test_id("coupon-basis")
    expect(basis.locator("tbody tr")).to_have_count(5)
    page.get_by_role("combobox", name="Which numbers").select_option("b")
    page.get_by_role("button", name="Take as strengths of glass").click()
    expect(page.get_by_test_id("tested-verdict")).to_contain_text("Does not agree: predicted")
    strength_tab(page, "Stacks")
    expect(page.get_by_test_id("ply-material")).to_contain_text("90 % / 95 % bound of the coupons 'glass_coupons'")


def test_laminates_and_tests_are_brought_as_files_and_a_bad_one_leaves_what_is_there(
    own_address: str, blank: Page, tmp_path: Path
) -> None:
    page = blank
    httpx.put(f"{own_address}/api/results/{MAST}/laminates", json={"content": None})
    opened_at(page, own_address)
    expect(page.get_by_test_id("no-laminates")).to_contain_text("No laminates are stated of this result")
    bad = json.loads((DATA / "mast_laminates.json").read_text())
    bad["zones"][2]["plies"][1]["thickness"] = -0.4
    (tmp_path / "bad.json").write_text(json.dumps(bad))
    page.get_by_test_id("laminate-file").set_input_files(tmp_path / "bad.json")
    expect(page.get_by_role("alert")).to_contain_text("The thickness of ply 2 of zone 'opening' is not above zero")
    page.get_by_test_id("laminate-file").set_input_files(DATA / "mast_laminates.json")
    expect(page.get_by_test_id("first-failure")).to_contain_text("sheet H1")
    strength_tab(page, "Tests")
    page.get_by_role("button", name="Remove").first.click()
    expect(page.get_by_text("A CSV or XLSX with specimen, load")).to_be_visible()
    page.get_by_label("Load at a load factor of 1").fill("792")
    page.get_by_label("Load at a load factor of 1").press("Enter")
    page.get_by_test_id("part-tests-file").set_input_files(DATA / "mast_tests.csv")
    expect(page.get_by_test_id("tested-verdict")).to_contain_text("Agrees: predicted")


def test_metals_are_held_against_their_limits_and_shown_on_the_model(blank: Page, address: str) -> None:
    page = blank
    opened_at(page, address, "&drawer=metals", LUG, 2)
    strength_tab(page, "Metals")
    expect(page.get_by_test_id("metals-verdict")).to_contain_text("Below yield: part 2 reaches 0.8621 of it")
    expect(page.get_by_test_id("utilisation").locator("tbody tr")).to_have_count(4)
    page.get_by_role("button", name="Show on the model").click()
    settle(page)
    expect(page.get_by_test_id("reading-line")).to_contain_text("utilisation against yield of stress")
    expect(page.get_by_test_id("core-key")).to_have_attribute("data-high", "1")


def test_stack_envelope_and_tests_are_kept_as_exhibits_with_their_tables(own_address: str, blank: Page) -> None:
    page = blank
    opened_at(page, own_address)
    strength_tab(page, "Tests")
    expect(page.get_by_test_id("tested-verdict")).to_be_visible()
    for label in ("the stack", "the envelope", "the tests"):
        page.get_by_role("button", name="Keep as exhibit").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_text(label, exact=True).click()
        dialog.get_by_role("button", name="Keep", exact=True).click()
        expect(dialog).to_have_count(0)
    kept = httpx.get(f"{own_address}/api/exhibits").json()
    assert [e["title"] for e in kept][-3:] == ["Stack through the thickness", "Envelope with coupons", "Predicted against tested"]
    assert kept[-1]["verdict"].startswith("Agrees: predicted")


def test_the_first_failure_of_every_zone_leaves_as_a_table_within_three_acts(blank: Page, address: str) -> None:
    page = blank
    opened_in(page, address, "field", MAST, "&step=7")
    acts = Acts(page)
    acts.key("6")
    table = page.get_by_test_id("first-by-zone")
    expect(table.locator("tbody tr")).to_have_count(4)
    with page.expect_download() as saved:
        acts.click(page.get_by_role("button", name="First failure by zone CSV"))
    assert acts.count <= 3
    assert saved.value.suggested_filename == "weather mast first failure by zone.csv"
    rows = list(csv.DictReader(io.StringIO(Path(saved.value.path()).read_text(encoding="utf-8-sig"))))
    told = {r["zone"]: r for r in rows if r["zone"]}
    assert {"foot", "middle", "opening", "tip"} <= set(told)
    assert told["opening"]["verdict"] == "fails" and float(told["opening"]["load factor"]) == pytest.approx(1.04, abs=0.005)
    assert told["tip"]["verdict"] == "does not fail"
    # A click shows the stack it happens in, and Stacks opens at the zone of that.
    table.get_by_role("button", name="holds to").last.click()
    strength_tab(page, "Stacks")
    expect(page.get_by_test_id("stacks").get_by_label("Zone")).to_have_value("tip")
    angle = page.get_by_label("Angle of ply 1", exact=True)
    before = angle.input_value()
    angle.fill("33")
    angle.press("Enter")
    strength_tab(page, "Tests")
    page.keyboard.press("3")
    page.keyboard.press("6")
    strength_tab(page, "Stacks")
    expect(angle).to_have_value("33")
    page.get_by_role("button", name="As it was").click()
    expect(angle).to_have_value(before)


def test_strength_opens_on_what_the_result_has_and_takes_laminates_by_drop_in_any_bay(own_address: str, blank: Page) -> None:
    page = blank
    opened_at(page, own_address, "", LUG, 2)
    tabs = page.get_by_test_id("strength").get_by_role("tab", selected=True)
    expect(tabs).to_have_text("Metals")
    opened_at(page, own_address)
    expect(tabs).to_have_text("Failure")
    httpx.put(f"{own_address}/api/results/{MAST}/laminates", json={"content": None})
    expect(page.get_by_test_id("no-laminates")).to_be_visible()
    page.keyboard.press("2")
    settle(page)
    drop(page, DATA / "mast_laminates.json")
    expect(page.get_by_test_id("stacks")).to_contain_text("mast_laminates")
    strength_tab(page, "Failure")
    expect(page.get_by_test_id("first-failure")).to_contain_text("sheet H1")


def test_the_limits_of_a_metal_stand_beside_its_von_mises_stress(blank: Page, address: str) -> None:
    page = blank
    opened_in(page, address, "field", LUG, "&field=stress&measure=von-mises&step=2")
    beside = page.get_by_test_id("limit-beside")
    expect(beside).to_contain_text("yield strength")
    for material in httpx.get(f"{address}/api/results/{LUG}").json()["materials"]:
        if "yield" in material["constants"]:
            expect(beside).to_have_attribute("title", re.compile(f"{material['constants']['yield']:#.4g} MPa of"))
