"""One reading through all results: what another result has of what is in view stays; back leads through results and readings."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
from playwright.sync_api import Browser, Page, Route, expect

from tests.bench.driving import COARSE_LUG, LUG, moved, opened, settle
from tests.bench.serving import SIZE, bench_on
from tests.bench.test_unaided import Acts


def turned_to(page: Page, name: str) -> None:
    page.keyboard.press("r")
    page.get_by_role("button", name=name, exact=True).click()
    expect(page.locator("button.review-name")).to_contain_text(name)
    settle(page)


def word(page: Page, name: str) -> str | None:
    found = re.search(rf"[?&]{name}=([^&]*)", page.url)
    return found[1] if found else None


def test_another_mesh_keeps_reading_step_key_and_camera_and_back_leads_through_results_and_readings(
    own_address: str, blank: Page
) -> None:
    page = blank
    camera = "camera=200,-150,120,0,10,5,1.4"
    opened(
        page,
        f"{own_address}/?bay=field&result={COARSE_LUG}&field=stress&measure=principal-1&averaging=part&step=2&bands=12&{camera}",
    )
    turned_to(page, "lug, fine")
    line = page.get_by_test_id("reading-line")
    expect(line).to_contain_text("largest principal of stress")
    expect(line).to_contain_text("averaged within each part")
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", "2")
    assert (word(page, "bands"), word(page, "camera")) == ("12", "200%2C-150%2C120%2C0%2C10%2C5%2C1.4")
    page.get_by_role("button", name="Measure:").click()
    page.get_by_role("option", name=re.compile("^von Mises")).first.click()
    settle(page)
    turned_to(page, "flexure B2")
    # Of another body: its own step and limits, the reading where it has it.
    expect(line).to_contain_text("von Mises of stress")
    page.go_back()
    expect(page.locator("button.review-name")).to_contain_text("lug, fine")
    expect(line).to_contain_text("von Mises of stress")
    page.go_back()
    expect(line).to_contain_text("largest principal of stress")
    page.go_back()
    expect(page.locator("button.review-name")).to_contain_text("lug, coarse")
    settle(page)
    page.go_forward()
    expect(page.locator("button.review-name")).to_contain_text("lug, fine")
    expect(line).to_contain_text("largest principal of stress")


def test_the_same_line_of_two_meshes_is_in_one_plot_within_six_acts(page: Page) -> None:
    acts = Acts(page)
    acts.key("r")
    acts.click(page.get_by_role("button", name="lug, coarse", exact=True))
    acts.key("4")
    acts.click(page.get_by_text("The same of other results"))
    acts.click(page.get_by_role("checkbox", name="lug, fine"))
    expect(page.get_by_test_id("profile-of")).to_contain_text("with this one")
    assert acts.count <= 6
    settle(page)
    drawn = page.get_by_test_id("profile-plot").locator(".js-plotly-plot")
    names = drawn.evaluate("e => e.data.map(d => d.name)")
    assert any("lug, fine" in str(n) for n in names)
    # Turned to the other mesh, the first is the one beside it.
    turned_to(page, "lug, fine")
    expect(page.get_by_role("checkbox", name="lug, coarse")).to_be_checked()


def test_what_is_kept_of_one_mesh_is_used_on_the_other_and_undone(own_address: str, blank: Page) -> None:
    page = blank
    node = httpx.get(f"{own_address}/api/flags", params={"result": COARSE_LUG}).json()
    for flag in node:
        httpx.delete(f"{own_address}/api/kept/flag/{flag['id']}")
    httpx.post(f"{own_address}/api/flags", json={"result": COARSE_LUG, "node": 247, "name": "bore"}).raise_for_status()
    cut = {"result": COARSE_LUG, "name": "Half way", "through": "0,0,0:0,1,0"}
    httpx.post(f"{own_address}/api/keep/cut", json=cut).raise_for_status()
    opened(page, f"{own_address}/?bay=field&result={LUG}&drawer=cuts&field=stress&measure=von-mises&step=4")
    page.get_by_role("button", name="Use Half way of lug, coarse here").click()
    expect(page.get_by_test_id("kept-cut")).to_contain_text("Half way")
    expect(page.get_by_test_id("of-others-cut")).to_have_count(0)
    page.get_by_role("tab", name="Marks").click()
    page.get_by_role("button", name="Use bore of lug, coarse here").click()
    expect(page.get_by_text("bore of lug, coarse is used here.")).to_be_visible()
    flags = httpx.get(f"{own_address}/api/flags", params={"result": LUG}).json()
    assert "bore" in [f["name"] for f in flags]
    page.get_by_role("button", name="in the table").click()
    table = page.get_by_test_id("flag-table")
    expect(table.get_by_role("textbox").first).to_have_value("bore")
    expect(table.locator("td.word")).to_contain_text(["part 2"])
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Use bore of lug, coarse here")).to_be_visible()


def test_highest_and_lowest_by_part_stand_in_one_table(page: Page, address: str) -> None:
    moved(page, f"{address}/?bay=field&result={COARSE_LUG}&field=stress&measure=von-mises&step=4")
    page.get_by_text("Highest and lowest by part").click()
    table = page.get_by_test_id("by-part")
    expect(table.locator("tbody tr")).to_have_count(2)
    asked = {"result": COARSE_LUG, "field": "stress", "measure": "von-mises", "step": 4}
    parts = httpx.post(f"{address}/api/ask/by-part", json=asked).json()["more"]["parts"]
    for row, part in zip(table.locator("tbody tr").all(), parts, strict=True):
        expect(row).to_contain_text(part["part"])
        told = [float(t.replace("\u202f", "")) for t in row.locator("button").all_inner_texts()]
        assert abs(told[1] - part["high"]["value"]) <= 1e-3 * part["high"]["value"]


def test_a_point_is_typed_as_people_type_it_and_what_is_none_is_told(page: Page, address: str) -> None:
    moved(page, f"{address}/?bay=path&result={COARSE_LUG}&field=stress&measure=von-mises&step=4")
    page.get_by_role("button", name="straight", exact=True).click()
    start, end = page.get_by_role("textbox", name="From", exact=True), page.get_by_role("textbox", name="To", exact=True)
    expect(start).to_have_attribute("placeholder", re.compile("20 0 0"))
    start.fill("2 0, 20, 0")
    start.press("Enter")
    expect(page.locator(".drawer .wrong")).to_contain_text("4 numbers, not three")
    expect(start).to_have_value("2 0, 20, 0")
    start.fill("0 20 0")
    start.press("Enter")
    expect(page.locator(".drawer .wrong")).to_have_count(0)
    expect(start).to_have_value("0, 20, 0")
    end.fill("0;42,0;0")
    end.press("Enter")
    expect(end).to_have_value("0, 42, 0")
    expect(page.get_by_test_id("profile-figures")).to_contain_text("Highest")
    page.get_by_role("button", name="Drop", exact=True).click()


def test_each_window_keeps_its_review_and_a_link_to_another_review_opens_it(browser: Browser, demo_copy: Path) -> None:
    with bench_on(demo_copy) as address:
        context = browser.new_context(viewport=SIZE, reduced_motion="reduce")
        first, second = context.new_page(), context.new_page()
        for page in (first, second):
            opened(page, address)
        first.keyboard.press("r")
        first.get_by_label("New review").fill("Spare")
        first.keyboard.press("Enter")
        expect(first.locator(".review-name")).to_contain_text("Spare")
        expect(first).to_have_url(re.compile("review=Spare.ironstone"))
        # The other window is where it was, also after it is loaded anew, and what is done there is done in its own review.
        second.keyboard.press("2")
        expect(second.get_by_test_id("balance")).to_contain_text("residual")
        second.reload()
        expect(second.locator(".review-name")).to_contain_text("flexure B2")
        second.keyboard.press("1")
        second.get_by_role("button", name="Rename flexure B2").click()
        second.get_by_label("New name of flexure B2").fill("flexure B3")
        second.keyboard.press("Enter")
        expect(second.locator("button.review-name")).to_contain_text("flexure B3")
        link = f"{address}/?review={demo_copy.name}&bay=field&result={COARSE_LUG}"
        first.goto(link)
        expect(first.locator("button.review-name")).to_contain_text("lug, coarse")
        first.goto(f"{address}/?review=gone.ironstone&bay=field&result=4")
        expect(first.get_by_text("The review gone.ironstone of this link is not in the folders of this bench.")).to_be_visible()
        context.close()


def test_a_result_that_comes_is_fitted_as_a_fit_would_have_it(picture_page: Page) -> None:
    """Solid, slender, plane and wide ones, from one to the other: what the key F gives changes nothing any more."""
    page = picture_page
    for name in ("weather mast", "lug, coarse", "roof truss", "flexure B2"):
        turned_to(page, name)
        camera = word(page, "camera")
        page.keyboard.press("f")
        settle(page)
        assert camera is not None
        assert word(page, "camera") == camera, name


def test_the_key_of_a_measure_without_a_unit_is_headed_by_the_measure(page: Page, address: str) -> None:
    moved(page, f"{address}/?bay=field&result=4")
    expect(page.locator(".key-unit")).to_have_text("exposure")


def test_what_changed_is_heard_once_and_f6_goes_through_the_regions(page: Page) -> None:
    heard = page.get_by_test_id("heard")
    expect(heard).to_have_text("")
    page.keyboard.press("ArrowLeft")
    expect(heard).to_have_text(re.compile(r"^t = [\d.]+ s: highest [\d.]+, lowest [\d.]+ MPa\.$"))
    page.keyboard.press("j")
    expect(heard).to_have_text(re.compile(r"^flexure B2: jump between elements of von Mises of stress, .*highest"))
    page.keyboard.press("5")
    expect(heard).to_have_text("Trace bay")
    regions = []
    for _ in range(7):
        page.keyboard.press("F6")
        regions.append(
            page.evaluate("document.activeElement.closest('.rail, .top, .pane, .step-rail, .strata, .drawer').classList[0]")
        )
    assert regions[:6] == ["rail", "top", "pane", "step-rail", "strata", "drawer"] and regions[6] == "rail"
    page.keyboard.press("Shift+F6")
    assert page.evaluate("document.activeElement.closest('.drawer') !== null")


def test_one_cycle_alone_is_held_against_the_record_within_three_acts(page: Page) -> None:
    acts = Acts(page)
    acts.key("5")
    acts.click(page.get_by_role("button", name="Cycle 3 alone"))
    expect(page.get_by_test_id("agreement")).to_contain_text("cycle 3")
    expect(page.get_by_test_id("agreement")).not_to_contain_text("cycle 2")
    expect(page.get_by_test_id("picked-cycles")).to_contain_text("Cycle 3 alone.")
    assert acts.count <= 3
    expect(page).to_have_url(re.compile("cycles=3"))
    drawn = page.locator(".js-plotly-plot").first
    ends = drawn.evaluate(
        "e => e.data.filter(d => /cycle 3|specimen/.test(d.name)).map(d => Math.max(...d.x.filter(v => v !== null)))"
    )
    assert len(ends) == 2 and all(abs(e - 10) < 0.3 for e in ends)
    with page.expect_download() as saved:
        page.get_by_role("button", name="Agreement CSV").click()
    rows = Path(saved.value.path()).read_text()
    assert "Energy, cycle 3" in rows and "Energy, cycle 2" not in rows
    # By the keyboard a second one, then all again.
    page.get_by_role("button", name="Cycle 2 alone").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("picked-cycles")).to_contain_text("Cycles 2, 3 alone.")
    page.get_by_role("button", name="All cycles").click()
    expect(page.get_by_test_id("picked-cycles")).to_have_count(0)


def test_a_notice_goes_with_what_it_is_about_by_escape_and_lies_over_nothing_one_clicks(page: Page, address: str) -> None:
    page.goto(f"{address}/?bay=field&result={COARSE_LUG}&field=gone&step=2")
    notice = page.get_by_role("alert")
    expect(notice).to_contain_text("the field 'gone'")
    settle(page)
    # What lies under it is what a click there meets.
    box = notice.bounding_box()
    assert box
    under = page.evaluate("([x, y]) => !!document.elementFromPoint(x, y).closest('.notice')", [box["x"] + 20, box["y"] + 20])
    assert under is False
    page.keyboard.press("Escape")
    expect(notice).to_have_count(0)


def test_a_reading_that_takes_long_is_told_and_stopped_and_what_was_there_before_is_shown(page: Page) -> None:
    line = page.get_by_test_id("reading-line")
    expect(line).to_contain_text("von Mises of stress")

    def late(route: Route) -> None:
        if "averaging=element" in route.request.url:
            return  # never answered: what is shown does not hang on it
        route.continue_()

    page.route(re.compile(r"/values\?"), late)
    page.get_by_role("radio", name="element mean").click()
    told = page.get_by_test_id("in-turn")
    expect(told).to_contain_text("Worked out:")
    told.get_by_role("button", name="Stop").click()
    expect(page.get_by_text("Stopped. What was there before is shown.")).to_be_visible(timeout=1000)
    expect(line).to_contain_text("each corner as computed")
    settle(page)
    expect(told).to_have_count(0)
    expect(page.get_by_role("alert")).to_have_count(0)
    page.unroute_all(behavior="ignoreErrors")


def test_of_steps_asked_for_in_a_row_the_last_is_drawn_and_the_others_are_not_waited_for(page: Page) -> None:
    asked: list[str] = []
    held: list[Route] = []

    def hold(route: Route) -> None:
        asked.append(re.search(r"step=(\d+)", route.request.url)[1])  # type: ignore[index]
        if len(asked) == 1:
            held.append(route)
        else:
            route.continue_()

    page.route(re.compile(r"/values\?"), hold)
    for _ in range(4):
        page.keyboard.press("ArrowLeft")
    # The first answer never comes: the last step is in view all the same.
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", "226")
    settle(page)
    assert asked[-1] == "226"
    page.unroute_all(behavior="ignoreErrors")


def test_nothing_is_refused_on_the_way_through_all_results_and_bays(page: Page) -> None:
    """What one only looks at asks nothing that has no answer: no notice, no refusal by the service."""
    refused: list[str] = []
    page.on("response", lambda answer: refused.append(answer.url) if answer.status >= 400 else None)
    for name in ("weather mast", "roof truss", "lug, fine", "roof truss, load cases", "flexure B2"):
        turned_to(page, name)
        for key in "123456789":
            page.keyboard.press(key)
            settle(page)
    assert refused == []
    expect(page.get_by_role("alert")).to_have_count(0)


def test_many_flags_are_small_until_they_are_looked_at_and_none_lies_on_another(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    for k, node in enumerate((247, 3, 500, 800, 1200, 1500, 60, 900)):
        flag = {"result": LUG, "node": node, "name": "a flag with a rather long name, at the bore" if k % 3 == 0 else ""}
        httpx.post(f"{own_address}/api/flags", json=flag).raise_for_status()
    opened(page, f"{own_address}/?bay=field&result={LUG}&field=stress&measure=von-mises&step=4")
    boxes = [c.bounding_box() for c in page.locator(".flag-card").all()]
    assert len(boxes) == 8
    for k, a in enumerate(boxes):
        for b in boxes[:k]:
            assert a and b
            apart = a["x"] >= b["x"] + b["width"] or b["x"] >= a["x"] + a["width"] or a["y"] >= b["y"] + b["height"]
            assert apart or b["y"] >= a["y"] + a["height"]
    card = page.get_by_test_id("flag-3")
    expect(card).to_contain_text("MPa")
    expect(card).not_to_contain_text("jump")
    card.hover()
    expect(card).to_contain_text("jump")
    # By the keyboard as well.
    page.get_by_role("button", name="Remove flag 5").focus()
    expect(page.get_by_test_id("flag-5")).to_contain_text("Compare averaged")
