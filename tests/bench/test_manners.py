"""Manners of the bench: what a link, a drop, a key, a narrow window, a long list and a dark room may expect of it."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import numpy as np
from playwright.sync_api import Browser, Page, expect

from ironstone.store import Review, intake
from tests.bench.driving import AXE, BAYS, COARSE_LUG, drop, each_tab, opened, opened_in, picture, settle, tab, until
from tests.bench.serving import bench_on, opened_page
from tests.conftest import DATA
from tests.writing import bar_of_hexahedra, write_vtu

RECORD = DATA / "specimen_F1.csv"


def test_every_bay_meets_the_outside_checkers_rules(picture_blank: Page, address: str) -> None:
    """axe-core: over the whole page in Field, over what a bay has of its own (top, strata, drawer) elsewhere, over the drawer in
    each of their tabs; all its rules in the light theme, in the dark one what a theme can change, the contrast of colours."""
    page = picture_blank
    opened(page, f"{address}/?result=6")
    page.evaluate(AXE)
    wrong = []
    for theme in ("light", "dark"):
        page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
        expect(page.locator("html")).to_have_attribute("data-bs-theme", theme)
        for bay in BAYS:
            for k, name in enumerate(each_tab(page, bay)):
                if name:
                    page.locator(".drawer-tabs").get_by_role("tab", name=name, exact=True).click()
                    settle(page)
                own = "[['.top'], ['.strata'], ['.drawer']]" if k == 0 else "[['.drawer']]"
                where = "document" if k == 0 and bay == "3" else f"{{include: {own}}}"
                rules = "" if theme == "light" else "runOnly: ['color-contrast'],"
                found = page.evaluate(f"axe.run({where}, {{{rules} resultTypes: ['violations']}})")["violations"]
                wrong += [(theme, bay, name, v["id"], v["nodes"][0]["html"][:150]) for v in found]
    assert wrong == []


def test_choosers_menus_and_dialogs_meet_the_outside_checkers_rules(picture_blank: Page, address: str) -> None:
    """axe-core over the whole page while one of them is open: all its rules in the light theme, contrast in the dark one."""
    page = picture_blank
    opened(page, f"{address}/?result=6&bay=field")
    page.evaluate(AXE)
    wrong = []

    def looked_at(what: str) -> None:
        # What fades in has its colours when it is there.
        until(page, "[...document.querySelectorAll('.modal, .popover')].every(e => getComputedStyle(e).opacity === '1')")
        rules = "" if theme == "light" else "runOnly: ['color-contrast'],"
        found = page.evaluate(f"axe.run(document, {{{rules} resultTypes: ['violations']}})")["violations"]
        wrong.extend((theme, what, v["id"], v["nodes"][0]["html"][:150]) for v in found)

    for theme in ("light", "dark"):
        page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
        expect(page.locator("html")).to_have_attribute("data-bs-theme", theme)
        words = page.locator(".reading-line .word")
        for k in range(words.count()):
            name = words.nth(k).get_attribute("aria-label") or ""
            words.nth(k).click()
            expect(page.get_by_role("listbox")).to_be_visible()
            looked_at(name)
            page.keyboard.press("Escape")
        for key, role in (("r", "dialog"), ("?", "dialog"), ("k", "dialog")):
            page.keyboard.press(key)
            expect(page.get_by_role(role).first).to_be_visible()
            looked_at(f"key {key}")
            page.keyboard.press("Escape")
            expect(page.get_by_role(role)).to_have_count(0)
        page.get_by_role("button", name=re.compile("^Film,")).click()
        expect(page.get_by_role("dialog", name="Playing")).to_be_visible()
        looked_at("film")
        page.keyboard.press("Escape")
        page.get_by_label("Axes, picture, points").first.click()
        looked_at("plot menu")
        page.keyboard.press("Escape")
        page.keyboard.press("t")
        expect(page.get_by_test_id("pane-head")).to_have_count(2)
        settle(page)
        looked_at("two views")
        page.keyboard.press("t")
        expect(page.get_by_test_id("pane-head")).to_have_count(0)
        drop(page, RECORD)
        expect(page.get_by_role("dialog")).to_contain_text("What is specimen_F1.csv?")
        looked_at("what a dropped file is")
        page.get_by_role("button", name="Nothing: leave it").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("9")
        expect(page.get_by_test_id("leaves")).to_be_visible()
        looked_at("exhibits")
        page.keyboard.press("3")
        settle(page)
    assert wrong == []


SIZES = [(1024, 640), (640, 400), (1280, 800), (1920, 1080)]


def test_nothing_runs_out_of_the_window_sideways(blank: Page, address: str) -> None:
    """640 x 400 is what a window of 1280 x 800 has left at a zoom of 200 %."""
    page = blank
    opened(page, f"{address}/?result=6")
    wide = "[...document.querySelectorAll('body, .drawer, .top, .strata')].filter(e => e.scrollWidth > e.clientWidth + 1)"
    out = []
    for bay in BAYS:
        for name in each_tab(page, bay):
            if name:
                page.locator(".drawer-tabs").get_by_role("tab", name=name, exact=True).click()
            for width, height in SIZES:
                page.set_viewport_size({"width": width, "height": height})
                settle(page)
                found = page.evaluate(f"{wide}.map(e => [e.className, e.scrollWidth - e.clientWidth])")
                out += [(width, height, bay, name, *of) for of in found]
    assert out == []
    page.keyboard.press("2")
    page.locator(".drawer-tabs").get_by_role("tab", name="Balance").click()
    for width, height in SIZES:
        page.set_viewport_size({"width": width, "height": height})
        for bay in page.locator(".station").all():
            bay.scroll_into_view_if_needed()
            expect(bay).to_be_in_viewport()
        page.get_by_role("button", name="Copy", exact=True).scroll_into_view_if_needed()
        expect(page.get_by_role("button", name="Copy", exact=True)).to_be_in_viewport()


def test_a_wide_window_gives_the_drawer_more_room(page: Page) -> None:
    widths = []
    for width in (1280, 1920):
        page.set_viewport_size({"width": width, "height": 900})
        box = page.locator(".drawer").bounding_box()
        assert box
        widths.append(box["width"])
    assert widths[0] == 300 and widths[1] >= 400


def test_the_next_result_opens_at_its_own_step_and_its_name_stays_whole(own_page: Page, own_address: str) -> None:
    page = own_page
    name = "lug with bonded bush, mesh of 12 elements round the bore, second revision of the contact, as sent on Tuesday"
    httpx.put(f"{own_address}/api/results/1/name", json={"name": name})
    settle(page)
    page.keyboard.press("Home")
    page.keyboard.press("r")
    page.locator(".menu-row", has_text=name).click()
    settle(page)
    opening = httpx.get(f"{own_address}/api/results/1").json()["rail"]["opening_step"]
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", str(opening))
    assert opening > 0
    shown = page.locator("button.review-name")
    expect(shown).to_have_attribute("title", re.compile(re.escape(name)))
    page.keyboard.press("1")
    row = page.get_by_test_id("results").get_by_role("button", name=name, exact=True)
    assert row.evaluate("e => e.scrollWidth <= e.clientWidth && e.scrollHeight <= e.clientHeight + 1")


def test_a_result_is_removed_and_comes_back_with_its_exhibit(own_picture_page: Page) -> None:
    page = own_picture_page
    settle(page)
    page.keyboard.press("k")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("Kept.")).to_be_visible()
    page.keyboard.press("1")
    page.get_by_role("button", name="Remove flexure B2").click()
    expect(page.locator("button.review-name")).to_contain_text("roof truss, load cases")
    settle(page)
    said = page.get_by_role("alert").all_inner_texts()
    assert said == []
    page.keyboard.press("9")
    card = page.get_by_test_id("exhibit-view")
    expect(card).to_contain_text("Its result was removed")
    expect(card.get_by_role("button", name="Go there")).to_have_count(0)
    card.get_by_role("button", name="Bring the result back").click()
    card.get_by_role("button", name="Go there").click()
    expect(page.locator("button.review-name")).to_contain_text("flexure B2")
    page.keyboard.press("1")
    expect(page.get_by_test_id("removed")).to_have_count(0)


def test_a_link_to_what_is_gone_says_so(own_address: str, blank: Page) -> None:
    page = blank
    httpx.delete(f"{own_address}/api/results/1")
    page.goto(f"{own_address}/?bay=field&result=1")
    expect(page.get_by_text("Of this link the result is not here any more.")).to_be_visible()
    expect(page.get_by_text("flexure B2 is shown instead.")).to_be_visible()
    expect(page.locator("button.review-name")).to_contain_text("flexure B2")
    curve = httpx.get(f"{own_address}/api/pairings?result=6").json()[0]["id"]
    page.goto(f"{own_address}/?bay=trace&result=6&curve={curve + 900}")
    expect(page.get_by_text("Of this link the curve is not here any more.")).to_be_visible()
    page.goto(f"{own_address}/?bay=path&result=6&field=temperature&measure=value&step=99999&averaging=nodal&paths=77,78&cut=99")
    said = (
        "Of this link the field 'temperature', step 100000 (there are 241), the averaging 'nodal', 2 lines and the cut are not here"
    )
    expect(page.get_by_text(said)).to_be_visible()
    page.goto(f"{own_address}/?bay=field&result=6&field=stress&measure=von-mises&axes=bore&region=set:nowhere&step=3")
    expect(page.get_by_text("Of this link the axes 'bore' and the set 'nowhere' are not here any more.")).to_be_visible()
    page.goto(f"{own_address}/?bay=trace&result=6&curve={curve}")
    settle(page)
    expect(page.get_by_role("alert")).to_have_count(0)


def test_back_and_forward_go_through_the_bays_as_they_were(page: Page) -> None:
    settle(page)
    page.keyboard.press("2")
    expect(page).to_have_url(re.compile("bay=balance"))
    page.locator(".drawer-tabs").get_by_role("tab", name="Checks").click()
    expect(page).to_have_url(re.compile("drawer=checks"))
    page.keyboard.press("5")
    expect(page).to_have_url(re.compile("bay=trace"))
    page.go_back()
    expect(page.get_by_role("tab", name="Checks")).to_have_attribute("aria-selected", "true")
    page.go_back()
    expect(page.locator(".drawer-tabs").get_by_role("tab", name="Values")).to_have_attribute("aria-selected", "true")
    page.go_forward()
    page.go_forward()
    expect(page.get_by_test_id("trace")).to_be_visible()


def test_going_back_before_the_page_has_drawn_the_new_bay_leads_back_all_the_same(page: Page) -> None:
    settle(page)
    page.keyboard.press("2")
    expect(page).to_have_url(re.compile("bay=balance"))
    page.evaluate(
        """() => { const push = history.pushState;
        history.pushState = function (...given) { push.apply(this, given); history.pushState = push; history.back(); }; }"""
    )
    page.keyboard.press("5")
    expect(page).to_have_url(re.compile("bay=balance"))
    expect(page.locator(".drawer-tabs").get_by_role("tab", name="Checks")).to_be_visible()


def test_a_table_dropped_in_intake_is_offered_as_a_record_and_in_trace_is_one(own_page: Page) -> None:
    page = own_page
    settle(page)
    page.keyboard.press("1")
    drop(page, RECORD, on=".drop")
    expect(page.get_by_role("dialog")).to_contain_text("What is specimen_F1.csv?")
    page.get_by_role("button", name="A test record, for a curve").click()
    expect(page.get_by_test_id("trace")).to_contain_text("specimen_F1.csv, Load cell")
    drop(page, RECORD, "again.csv")
    expect(page.get_by_test_id("trace")).to_contain_text("again.csv, Load cell")
    drop(page, RECORD, "notes.pdf")
    expect(page.get_by_text("nothing here takes a file of this kind")).to_be_visible()


def test_a_result_dropped_on_the_view_of_another_bay_is_taken_in(own_address: str, blank: Page, tmp_path: Path) -> None:
    page = blank
    opened_in(page, own_address, "balance", COARSE_LUG)
    points, cells, ids = bar_of_hexahedra()
    fields = {"stress": np.tile([5.0, 0, 0, 0, 0, 0], (24, 1)), "displacement": 0.1 * points, "GlobalIds": ids}
    file = write_vtu(tmp_path / "bar.vtu", points, cells, fields, time=0.0, mode="ascii")
    page.keyboard.press("3")
    drop(page, file)
    expect(page.get_by_text("Taken in.")).to_be_visible()
    expect(page.locator("button.review-name")).to_contain_text("bar")
    settle(page)
    expect(page.get_by_role("slider", name="Step")).to_have_count(0)
    expect(page.get_by_test_id("no-strata")).to_be_visible()


def test_an_empty_review_says_in_every_bay_what_would_fill_it(blank: Page, tmp_path: Path) -> None:
    Review.create(tmp_path / "new.ironstone", "New").close()
    with bench_on(tmp_path / "new.ironstone") as address:
        page = blank
        page.goto(address)
        page.get_by_test_id("intake").wait_for()
        for bay in "23456":
            page.keyboard.press(bay)
            expect(page.get_by_test_id("empty-bay")).to_contain_text("It needs a result")
        page.get_by_role("button", name="Take a result in").click()
        expect(page.get_by_test_id("intake")).to_be_visible()
        page.keyboard.press("9")
        expect(page.get_by_test_id("exhibits")).to_contain_text("Nothing kept yet")


def test_two_hundred_parts_are_searched_grouped_and_hidden_together(browser: Browser, tmp_path: Path) -> None:
    points: list[list[float]] = []
    cells, parts = [], []
    for i in range(200):
        x, y = 2.0 * (i % 20), 2.0 * (i // 20)
        corners = [[x, y, 0], [x + 1, y, 0], [x + 1, y + 1, 0], [x, y + 1, 0]]
        points += [*corners, *([a, b, 1.0] for a, b, _ in corners)]
        cells.append((12, list(range(8 * i, 8 * i + 8))))
        parts.append(i)
    file = write_vtu(
        tmp_path / "ribs.vtu", np.array(points), cells, {"displacement": np.zeros((1600, 3))}, {"part": np.array(parts)}
    )
    with Review.create(tmp_path / "ribs.ironstone") as review:
        intake(review, [file])
        found = list(review.result().mesh.part_names)
    with bench_on(tmp_path / "ribs.ironstone") as address, opened_page(browser, f"{address}/?bay=field") as page:
        settle(page)
        tab(page, "Model")
        listed = page.get_by_test_id("parts")
        assert len(found) == 200
        expect(listed.locator(".part-group")).to_have_count(1)
        group = listed.locator(".part-group")
        expect(group.get_by_role("button", name="Show all part")).to_be_disabled()
        page.get_by_label("Search parts").fill(found[149])
        assert listed.locator(".part-row:not(.part-group)").count() < 10
        page.get_by_label("Search parts").fill("")
        rows = listed.locator(".part-row:not(.part-group)")
        rows.nth(3).locator(".name").click()
        rows.nth(8).locator(".name").click(modifiers=["Shift"])
        rows.nth(12).locator(".name").click(modifiers=["Control"])
        expect(page.get_by_text("7 parts are chosen")).to_be_visible()
        rows.nth(5).get_by_role("button", name="Show").click()
        expect(page).to_have_url(re.compile("hidden=3%2C4%2C5%2C6%2C7%2C8%2C12(&|$)"))


def test_tabs_divider_and_marks_go_by_keyboard_and_leave_the_step_alone(page: Page) -> None:
    settle(page)
    before = page.get_by_test_id("rail-here").get_attribute("data-step")
    first = page.locator(".drawer-tabs").get_by_role("tab", name="Values")
    first.focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator(".drawer-tabs").get_by_role("tab", name="Model")).to_be_focused()
    page.keyboard.press("End")
    expect(page.locator(".drawer-tabs").get_by_role("tab", name="View")).to_have_attribute("aria-selected", "true")
    divider = page.get_by_role("separator", name="Height of plots and tables")
    divider.focus()
    height = int(divider.get_attribute("aria-valuenow") or 0)
    page.keyboard.press("ArrowUp")
    expect(divider).to_have_attribute("aria-valuenow", str(height + 24))
    assert page.get_by_test_id("rail-here").get_attribute("data-step") == before
    page.locator(".mark-yield").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("rail-here")).not_to_have_attribute("data-step", before or "")
    # The marks are one stop of the tab key; arrows go from one to the next and leave the step where it is.
    yielded = page.get_by_test_id("rail-here").get_attribute("data-step") or ""
    page.keyboard.press("ArrowRight")
    expect(page.locator(".mark-reversal").first).to_be_focused()
    expect(page.locator(".mark[tabindex='0']")).to_have_count(1)
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", yielded)
    page.keyboard.press("End")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", before or "")


def test_a_number_out_of_range_is_told_and_stays(page: Page) -> None:
    settle(page)
    bands = page.get_by_label("Bands", exact=True)
    bands.fill("70")
    bands.press("Enter")
    expect(page.get_by_text("From 0 to 64.")).to_be_visible()
    expect(bands).to_have_value("70")
    expect(bands).to_have_attribute("aria-invalid", "true")
    bands.press("Escape")
    expect(bands).to_have_value("9")
    expect(page.get_by_text("From 0 to 64.")).to_have_count(0)


def test_a_section_stays_as_it_was_left(page: Page) -> None:
    settle(page)
    page.keyboard.press("5")
    page.get_by_text("Curve: what against what").click()
    expect(page.get_by_label("Force field")).to_be_visible()
    page.keyboard.press("2")
    page.keyboard.press("5")
    expect(page.get_by_label("Force field")).to_be_visible()
    page.get_by_text("Curve: what against what").click()
    page.keyboard.press("2")
    page.keyboard.press("5")
    expect(page.get_by_label("Force field")).to_be_hidden()


def test_axes_are_made_of_three_picked_nodes(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    page.goto(f"{own_address}/?bay=field&result=6&field=stress&measure=xx")
    settle(page)
    page.get_by_test_id("axes").locator("summary").click()
    page.get_by_role("button", name="From three nodes").click()
    box = page.locator(".view-canvas canvas").bounding_box()
    assert box
    for i, (x, y) in enumerate(((0.24, 0.5), (0.3, 0.78), (0.5, 0.85)), start=1):
        expect(page.get_by_test_id("mode")).to_contain_text(f"click node {i} of 3")
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
    expect(page.get_by_test_id("axes")).to_contain_text("circle through nodes")
    expect(page.get_by_test_id("reading-line")).to_contain_text("in axes circle (cylindrical)")
    expect(page.get_by_test_id("drawn-axes")).to_be_visible()
    assert page.get_by_test_id("flag-2").count() == 0, "a pick is no flag"
    page.get_by_role("button", name="From a face").click()
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("mode")).to_have_count(0)


def test_the_dark_theme_stays_chosen_and_pictures_stay_light(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_in(page, own_address, "field", COARSE_LUG)
    light = picture(page)
    page.get_by_title(re.compile("Theme: as the system")).click()
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
    page.reload()
    settle(page)
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
    ground = "getComputedStyle(document.querySelector('.drawer')).backgroundColor"
    assert max(int(v) for v in re.findall(r"\d+", page.evaluate(ground))) < 80
    assert (np.abs(picture(page) - light).max(2) > 8).mean() < 0.01, "the colours of the model are the same"
    page.keyboard.press("k")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("Kept.")).to_be_visible()
    page.keyboard.press("9")
    kept = page.get_by_test_id("exhibit-view").locator("img")
    corner = """async (img) => {
      await img.decode();
      const c = document.createElement('canvas');
      [c.width, c.height] = [img.naturalWidth, img.naturalHeight];
      const g = c.getContext('2d');
      g.drawImage(img, 0, 0);
      return [...g.getImageData(5, c.height - 5, 1, 1).data].slice(0, 3);
    }"""
    assert min(kept.evaluate(corner)) > 230


def test_words_of_the_reading_line_say_their_keys(page: Page) -> None:
    settle(page)
    expect(page.get_by_role("button", name="Step:")).to_have_attribute("title", re.compile("← →"))
    expect(page.get_by_role("button", name="Measure:")).to_have_attribute("title", re.compile("J its jump"))
    expect(page.get_by_role("button", name="Averaging:")).to_have_attribute("title", "Averaging")
