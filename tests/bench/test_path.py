"""The Path bay, cuts and gauges: where does the lug's ligament peak, how fast does it decay, do the gauges agree?"""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.bench.driving import BARE, COARSE_LUG, LUG, choose, comes_to, figures, number, opened, opened_in, picture, settle, undo


def opened_at(
    page: Page, address: str, bay: str, field: str = "stress", measure: str = "von-mises", more: str = "", result: int = LUG
) -> None:
    opened_in(page, address, bay, result, f"&field={field}&measure={measure}&step=0{more}")


def test_where_the_ligament_peaks_how_fast_it_decays_and_whether_the_gauges_agree(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_at(page, own_address, "path")
    expect(page.get_by_role("checkbox", name="Profile of Ligament")).to_be_checked()
    expect(page.get_by_test_id("profile-figures")).to_contain_text("Highest")
    told = figures(page, "profile-figures")
    peak = number(told["Highest"])
    assert peak == pytest.approx(121.6, abs=0.2) and "at 5.000 mm" in told["Highest"], "in the steel, at the bond"
    # How fast it decays: the profile beside a falling power of the distance, typed.
    page.get_by_label("Formula beside it, of x and y").fill(f"{peak}*(25/(20+x))**2.5")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("profile-figures")).to_contain_text("RMS deviation")
    # The path is surveyed in the view as long as it is.
    drawn = page.get_by_test_id("path-drawn").first
    assert float(drawn.get_attribute("data-length") or 0) == pytest.approx(22.0)
    expect(drawn.locator(".path-body")).to_have_attribute("d", re.compile("^M"))
    # The gauges.
    page.get_by_test_id("path").get_by_role("tab", name="Gauges").click()
    choose(page, "Field", "strain from displacement")
    page.get_by_label("As strain gauges").check()
    verdict = page.get_by_test_id("gauge-verdict")
    expect(verdict).to_contain_text("The gauges agree with the model")
    expect(verdict).to_contain_text("One point lies far outside the body and is left out.")
    expect(page.get_by_test_id("gauge-layer")).to_contain_text("780 outside")
    expect(page.get_by_test_id("rosettes")).to_contain_text("R, measured")


def test_a_gauge_whose_decimal_point_slipped_is_put_right_in_the_table(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_at(page, own_address, "path", "strain+from+displacement", "xx")
    page.get_by_test_id("path").get_by_role("tab", name="Gauges").click()
    page.get_by_label("As strain gauges").check()
    expect(page.get_by_test_id("gauge-verdict")).to_contain_text("left out")
    cell = page.get_by_label("x of S2", exact=True)
    cell.scroll_into_view_if_needed()
    expect(cell).to_have_value("-900")
    cell.fill("-90")
    cell.press("Enter")
    expect(page.get_by_test_id("gauge-verdict")).not_to_contain_text("left out")
    expect(page.get_by_test_id("gauge-layer")).not_to_contain_text("outside")
    undo(page)
    expect(page.get_by_test_id("gauge-verdict")).to_contain_text("left out")


def test_a_gauge_list_is_brought_in_and_its_tables_leave(own_address: str, blank: Page, tmp_path: Path) -> None:
    page = blank
    opened_at(page, own_address, "path")
    page.get_by_test_id("path").get_by_role("tab", name="Gauges").click()
    file = tmp_path / "a list of gauges with a rather long name.csv"
    file.write_text("name,x [cm],y [cm],z [cm],measured [MPa]\nfirst,0,3,1.2,60\nsecond,-7,0,1.2,25\n")
    page.get_by_test_id("gauge-file").set_input_files(file)
    expect(page.get_by_label("Name of the list")).to_have_value("a list of gauges with a rather long name")
    expect(page.get_by_test_id("gauge-table").get_by_label("y of first", exact=True)).to_have_value("30")
    expect(page.get_by_test_id("gauge-verdict")).to_contain_text("of 2 within")
    with page.expect_download(timeout=120_000) as got:
        page.get_by_role("button", name="Points CSV").click()
    text = Path(got.value.path()).read_text()
    assert text.splitlines()[2].startswith("first,0") and "MPa" in text.splitlines()[1]
    with page.expect_download(timeout=120_000) as got:
        page.get_by_role("link", name="Displacements UFF").click()
    assert "    15" in Path(got.value.path()).read_text()[:40]
    bad = tmp_path / "bad.csv"
    bad.write_text("x,y\n1,2\n")
    page.get_by_test_id("gauge-file").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text("bad.csv has no column z")
    expect(page.get_by_label("Name of the list")).to_have_value("a list of gauges with a rather long name")


def test_a_line_is_made_by_picks_changed_and_read_from_one_side(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_at(page, own_address, "path", result=COARSE_LUG)
    page.get_by_role("button", name="over the surface").click()
    box = page.get_by_test_id("view").bounding_box()
    assert box
    expect(page.get_by_test_id("draft")).to_contain_text("Click where it starts.")
    page.mouse.click(box["x"] + 120, box["y"] + 240)
    expect(page.get_by_label("From node")).not_to_have_value("")
    page.mouse.click(box["x"] + 600, box["y"] + 100)
    expect(page.get_by_label("To node")).not_to_have_value("")
    expect(page.get_by_test_id("profile-legend")).to_contain_text("Line 6")
    page.get_by_label("Name of the line").fill("over the eye")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_test_id("kept-path").filter(has_text="over the eye")).to_be_visible()
    expect(page.get_by_test_id("draft")).to_have_count(0)
    # An arc on the bond, typed: each side reads its own part.
    values = []
    for side in ("part 1", "part 2"):
        page.get_by_role("button", name="arc", exact=True).click()
        for label, text in (("Centre", "0,0,0"), ("Normal", "0,0,1"), ("Radius to its start", "0,25,0"), ("Sweep, degrees", "10")):
            page.get_by_label(label, exact=True).fill(text)
            page.get_by_label(label, exact=True).press("Enter")
        page.get_by_label("Side", exact=True).select_option(side)
        expect(page.get_by_test_id("profile-figures")).to_be_visible()
        expect(page.get_by_test_id("path")).to_contain_text(f"in {side.replace('part ', 'part ')}")
        values.append(number(figures(page, "profile-figures")["Highest"]))
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        expect(page.get_by_test_id("draft")).to_have_count(0)
    assert values[0] > 1.5 * values[1]
    page.reload()
    page.get_by_test_id("core-key").wait_for()
    expect(page.get_by_test_id("kept-path").filter(has_text="over the eye")).to_be_visible()


def test_a_curve_is_held_while_the_step_goes_on(own_address: str, blank: Page) -> None:
    page = blank
    opened_at(page, own_address, "path")
    expect(page.get_by_test_id("profile-figures")).to_be_visible()
    page.get_by_role("button", name="Hold this curve").click()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    legend = page.get_by_test_id("profile-legend")
    expect(legend.locator("> div")).to_have_count(2)
    expect(legend).to_contain_text("t = 0 s")
    page.get_by_label("Membrane and bending parts").check()
    expect(page.get_by_test_id("linearised")).to_contain_text("membrane and bending, start")
    legend.get_by_role("button", name="let go").click()
    expect(legend.locator("> div")).to_have_count(1)


def test_a_section_is_made_moved_by_its_ring_and_switched_off_without_being_lost(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_at(page, own_address, "field", more=BARE)
    whole = picture(page)
    page.get_by_role("tab", name="Cuts").click()
    page.get_by_role("button", name="square to x").click()
    expect(page.get_by_test_id("cut-figures")).to_contain_text("area")
    told = figures(page, "cut-figures")
    assert number(told["force, N"].split(",")[0]) == pytest.approx(60_000, rel=2e-3), "the pull of the rope"
    assert number(told["area"]) == pytest.approx(84 * 24, rel=1e-3)
    settle(page)
    cut = picture(page)
    assert (np.abs(whole - cut).max(2) > 40).mean() > 0.05
    ring = page.get_by_test_id("cut-ring").bounding_box()
    knob = page.get_by_test_id("cut-knob").bounding_box()
    assert ring and knob
    # The staff points to +x; the ring is dragged against it, by its uppermost point.
    middle = (ring["x"] + ring["width"] / 2, ring["y"] + ring["height"] / 2)
    along = (knob["x"] + 7 - middle[0], knob["y"] + 7 - middle[1])
    grip = page.evaluate(
        "() => { const p = document.querySelector('[data-testid=cut-ring]'); const q = p.getPointAtLength(0);"
        " const m = p.getScreenCTM(); return [q.x * m.a + m.e, q.y * m.d + m.f] }"
    )
    page.mouse.move(*grip)
    page.mouse.down()
    page.mouse.move(grip[0] - along[0] / 3, grip[1] - along[1] / 3, steps=4)
    page.mouse.up()
    expect(page.get_by_label("Point", exact=True)).not_to_have_value("-39, 0, 0")
    point = [number(v.strip()) for v in page.get_by_label("Point", exact=True).input_value().split(",")]
    assert point[0] < -45 and abs(point[1]) < 1e-3 and abs(point[2]) < 1e-3, "along its normal"
    page.get_by_label("Show Section 1").click()
    settle(page)
    assert (np.abs(whole - picture(page)).max(2) > 40).mean() < 0.01
    page.reload()
    page.get_by_test_id("core-key").wait_for()
    page.get_by_role("tab", name="Cuts").click()
    expect(page.get_by_test_id("kept-cut")).to_have_count(1)
    expect(page.get_by_label("Show Section 1")).not_to_be_checked()


def test_a_value_band_follows_the_steps_and_says_its_share(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_at(page, own_address, "field", more=BARE, result=1)
    page.get_by_role("tab", name="Cuts").click()
    page.get_by_role("button", name="value band").click()
    page.get_by_label("From", exact=True).fill("60")
    page.get_by_label("To", exact=True).fill("100")
    page.get_by_role("button", name="Make").click()
    expect(page.get_by_test_id("chosen-cut")).to_contain_text("Takes away")
    expect(page.get_by_test_id("cut-figures")).to_contain_text("volume")
    first = figures(page, "cut-figures")["volume"]
    settle(page)
    shown = picture(page)
    page.keyboard.press("Escape")
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_test_id("cut-figures")).not_to_contain_text(first)
    settle(page)
    assert (np.abs(shown - picture(page)).max(2) > 40).mean() > 0.01
    with page.expect_download(timeout=120_000) as got:
        page.get_by_role("button", name="Through the steps CSV").click()
    lines = Path(got.value.path()).read_text().splitlines()
    assert lines[0].startswith("time,volume,share") and len(lines) == 2 + 9


def test_a_surface_that_is_nowhere_is_told_where_it_was_asked_for(own_address: str, blank: Page) -> None:
    page = blank
    opened_at(page, own_address, "field")
    page.get_by_role("tab", name="Cuts").click()
    page.get_by_test_id("cuts").get_by_role("button", name="surface", exact=True).click()
    page.get_by_label("Values, with spaces between").fill("4000")
    page.get_by_role("button", name="Make").click()
    expect(page.get_by_test_id("chosen-cut").get_by_role("alert")).to_contain_text("The reading is 4000 nowhere.")
    page.get_by_label("Values of the surface").fill("40 80")
    page.get_by_label("Values of the surface").press("Enter")
    expect(page.get_by_test_id("cut-figures")).to_contain_text("area")


def test_the_profile_of_another_mesh_is_drawn_beside_and_a_link_reopens_it(blank: Page, address: str) -> None:
    page = blank
    opened_at(page, address, "path")
    page.locator("summary", has_text="The same of other results").click()
    page.get_by_role("checkbox", name="lug, coarse").check()
    other = page.get_by_test_id("profile-of")
    expect(other).to_contain_text("agrees with this one: RMS deviation")
    expect(other).to_contain_text("largest, this one over it")
    drawn = ["Ligament", "lug, coarse"]
    assert comes_to(page, "p.data.map(line => line.name)", drawn) == drawn
    page.get_by_role("checkbox", name="roof truss", exact=True).check()
    expect(other.filter(has_text="roof truss")).to_contain_text("No part of this line lies in the body")
    settle(page)
    opened(page, page.url)
    expect(other.filter(has_text="lug, coarse")).to_contain_text("agrees with this one")
    expect(page.get_by_test_id("profile-legend")).to_contain_text("lug, coarse")
