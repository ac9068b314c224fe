"""What the analyst does with the brake flexure, step by step, in the real interface."""

from __future__ import annotations

import json
import re
import time
from pathlib import Path

import httpx
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, Route, expect
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.store import Review
from tests.bench.driving import (
    COARSE_LUG,
    FLEXURE,
    LUG,
    THIN,
    alike,
    asked,
    bands,
    choose,
    differs,
    highest,
    in_view,
    on_the_bend,
    opened,
    opened_in,
    picture,
    settle,
    tab,
    undo,
)
from tests.conftest import DATA
from tests.writing import bar_of_hexahedra, write_vtu


def test_the_bench_opens_at_the_picture_that_matters(picture_page: Page) -> None:
    page = picture_page
    line = page.get_by_test_id("reading-line")
    expect(line).to_contain_text("von Mises of stress, each corner as computed, on the whole model")
    expect(line).to_contain_text("t = 2.875 s (231/241)")
    expect(page.get_by_test_id("exaggeration-warning")).to_have_count(0)
    settle(page)
    assert len(np.unique(picture(page).reshape(-1, 3), axis=0)) > 50, "a model is drawn"
    assert page.evaluate("document.documentElement.scrollHeight <= 800 && document.documentElement.scrollWidth <= 1280")


def test_nothing_is_loaded_from_outside(page: Page, address: str) -> None:
    names = page.evaluate("performance.getEntriesByType('resource').map(e => e.name)")
    assert names and all(name.startswith((address, "data:", "blob:")) for name in names)


def test_the_bays_stand_in_the_order_of_work_and_are_reached_by_their_keys(page: Page) -> None:
    assert page.locator("nav .station span").all_inner_texts() == [
        "Intake",
        "Balance",
        "Field",
        "Path",
        "Trace",
        "Strength",
        "Compare",
        "Motion",
        "Exhibits",
        "Theme",
        "Keys",
    ]
    page.keyboard.press("6")
    expect(page.get_by_test_id("strength")).to_be_visible()
    expect(page.get_by_test_id("strength").get_by_role("tab", selected=True)).to_have_text("Metals")
    page.keyboard.press("2")
    expect(page.get_by_test_id("balance")).to_be_visible()
    page.keyboard.press("5")
    expect(page.get_by_test_id("trace")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_text("keep as exhibit", exact=True)).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("keep as exhibit", exact=True)).to_have_count(0)


def test_intake_takes_a_numbered_series_and_says_what_is_in_it(own_address: str, blank: Page, tmp_path: Path) -> None:
    own_page = blank
    points, cells, ids = bar_of_hexahedra()
    files = []
    for step in range(4):
        stress = np.zeros((24, 6))
        stress[:, 0] = np.repeat([10.0, 20.0, 30.0], 8) * (1 + step)
        moved = np.column_stack([0.01 * step * points[:, 0], 0 * points[:, :2]])
        data = {"stress": stress, "displacement": moved, "GlobalIds": ids}
        files.append(write_vtu(tmp_path / f"strut_{step}.vtu", points, cells, data, time=0.1 * step))
    opened_in(own_page, own_address, "intake", COARSE_LUG)
    own_page.get_by_test_id("intake-files").set_input_files(files)
    intake = own_page.get_by_test_id("intake")
    expect(intake).to_contain_text("What is in strut")
    expect(intake).to_contain_text("16 nodes (joined by GlobalIds from 24 points), 3 elements (3 hex8)")
    expect(intake).to_contain_text("Steps 4 t = 0 s to t = 0.3 s")
    expect(intake).to_contain_text("The files state no unit")
    fields = own_page.get_by_test_id("fields")
    expect(fields).to_contain_text("tensor at each corner")
    expect(fields).to_contain_text("vector at each node")
    expect(own_page.get_by_test_id("reading-line")).to_contain_text("guessed")
    own_page.get_by_label("Kind of displacement: displacement").click()
    own_page.get_by_role("option", name="velocity").click()
    expect(own_page.get_by_label("Kind of displacement: velocity")).to_be_visible()
    expect(fields).to_contain_text("mm/s")
    undo(own_page)
    expect(own_page.get_by_label("Kind of displacement: displacement")).to_be_visible()
    own_page.get_by_label("Unit system").select_option("m-N-s-kg-Pa")
    expect(own_page.get_by_test_id("core-key")).to_contain_text("Pa")
    expect(own_page.get_by_test_id("reading-line")).not_to_contain_text("guessed")


def test_bad_files_are_refused_in_words_and_the_review_stays(page: Page, tmp_path: Path, address: str) -> None:
    page.keyboard.press("1")
    before = httpx.get(f"{address}/api/review").json()["results"]
    whole = (DATA / "flexure_003.vtu").read_bytes()
    (tmp_path / "flexure_003.vtu").write_bytes(whole[:40_000])
    (tmp_path / "notes.vtu").write_text("no result at all")
    points, cells, ids = bar_of_hexahedra(2)
    other = write_vtu(tmp_path / "flexure_004.vtu", points, cells, {"GlobalIds": ids})
    problem = page.get_by_test_id("intake-problem")
    for files, words in (
        ([tmp_path / "flexure_003.vtu"], "flexure_003.vtu"),
        ([tmp_path / "notes.vtu"], "notes.vtu is no VTU file"),
        ([DATA / "flexure_002.vtu", other], "flexure_004.vtu holds another mesh than flexure_002.vtu"),
    ):
        page.get_by_test_id("intake-files").set_input_files(files)
        expect(problem).to_contain_text(words)
        expect(problem).to_contain_text("The review is as it was.")
    assert httpx.get(f"{address}/api/review").json()["results"] == before


def test_averaging_within_the_part_lowers_the_highest_value(page: Page) -> None:
    settle(page)
    off = highest(page)
    page.get_by_label("within part").check()
    expect(page.get_by_test_id("reading-line")).to_contain_text("averaged within each part")
    settle(page)
    assert highest(page) < off
    table = page.get_by_test_id("averagings").inner_text()
    assert f"{off:.1f}" in table.replace(THIN, ""), "both stand side by side"


def test_the_jump_is_one_key_from_the_stress_it_belongs_to(page: Page) -> None:
    settle(page)
    value = highest(page)
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("j")
    expect(page.get_by_test_id("reading-line")).to_contain_text("jump between elements of von Mises of stress")
    settle(page)
    assert 0 < highest(page) < value
    assert asked(page, "of") == "jump"
    page.get_by_label("within part").check()
    expect(page.get_by_test_id("reading-line")).not_to_contain_text("jump")
    page.get_by_label("Field: stress").click()
    page.get_by_role("option", name="displacement displacement").click()
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("j")
    expect(page.get_by_text("there is no jump")).to_be_visible()


def test_the_reading_line_changes_the_reading_by_keyboard_alone(page: Page) -> None:
    page.get_by_label("Measure: von Mises").focus()
    page.keyboard.press("Enter")
    page.keyboard.type("compress")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("reading-line")).to_contain_text("smallest principal of stress")
    settle(page)
    assert asked(page, "measure") == "principal-3"
    page.get_by_label("Field: stress").click()
    page.get_by_role("option", name="reaction").click()
    expect(page.get_by_test_id("reading-line")).to_contain_text("magnitude of reaction, as computed at the nodes")


def test_limits_unit_and_bands_of_the_core_key(page: Page) -> None:
    page.get_by_label("Upper limit", exact=True).fill("300")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("core-key")).to_have_attribute("data-high", "300")
    expect(page.get_by_test_id("core-key")).to_contain_text("outside the limits")
    bands(page, 5)
    page.get_by_test_id("core-key").get_by_label("Unit: MPa").click()
    page.get_by_role("option", name="ksi").click()
    expect(page.get_by_test_id("ext-highest")).to_contain_text("ksi")
    settle(page)
    assert asked(page, "unit") == "ksi" and asked(page, "bands") == "5"
    page.get_by_role("button", name="all steps").click()
    expect(page.get_by_text("Lowest at step 1,")).to_be_visible()


def test_hover_tells_what_the_command_line_reads(picture_page: Page, shared_review: Path) -> None:
    page = picture_page
    settle(page)
    with page.expect_response(lambda r: "/probe?" in r.url) as probed:
        page.mouse.move(*on_the_bend(page))
    tip = page.get_by_test_id("hover")
    expect(tip).to_be_visible()
    shown = tip.inner_text().replace(THIN, "")
    at = ",".join(str(v) for v in probed.value.json()["xyz"])
    read = [
        "read",
        str(shared_review),
        "--field",
        "stress",
        "--measure",
        "von-mises",
        "--at",
        f"point:{at}",
        "--step",
        "230",
        "--json",
    ]
    answer = json.loads(CliRunner().invoke(app, read).stdout)
    element = int(re.search(r"element (\d+)", shown)[1])  # type: ignore[index]
    value = next(v["value"] for v in answer["values"] if v["element"] == element)
    assert float(re.match(r"([\d.]+)", shown)[1]) == pytest.approx(value, rel=1e-3)  # type: ignore[index]


def test_a_click_plants_a_flag_with_every_elements_value(own_picture_page: Page, own_address: str) -> None:
    page = own_picture_page
    expect(page.get_by_test_id("flag-1")).to_contain_text("jump")
    settle(page)
    page.mouse.click(*on_the_bend(page))
    flag = page.get_by_test_id("flag-2")
    expect(flag).to_be_visible()
    expect(flag).to_contain_text("MPa")
    flags = httpx.get(f"{own_address}/api/flags", params={"result": FLEXURE}).json()
    reply = httpx.get(
        f"{own_address}/api/results/{FLEXURE}/nodes/{flags[1]['node']}",
        params={"field": "stress", "measure": "von-mises", "step": 230},
    ).json()
    shown = flag.inner_text().replace(THIN, "")
    for entry in reply["entries"]:
        assert f"{entry['value']:.1f}" in shown
    page.get_by_role("tab", name="Flags").click()
    expect(page.get_by_test_id("flag-table").locator("tbody tr")).to_have_count(2)
    undo(page)
    expect(page.get_by_test_id("flag-2")).to_have_count(0)


def test_exaggeration_is_warned_of_while_it_is_not_one(picture_page: Page) -> None:
    page = picture_page
    settle(page)
    true = picture(page)
    tab(page, "Model")
    page.get_by_label("Exaggeration", exact=True).first.fill("3")
    page.keyboard.press("Enter")
    warning = page.get_by_test_id("exaggeration-warning")
    expect(warning).to_contain_text("3.00 × too large")
    assert differs(page, true, share=0.01), "the shape moved"
    warning.get_by_role("button", name="True scale").click()
    expect(warning).to_have_count(0)


def test_playing_and_stepping_move_the_model(page: Page) -> None:
    here = page.get_by_test_id("rail-here")
    expect(here).to_have_attribute("data-step", "230")
    page.keyboard.press("ArrowLeft")
    expect(here).to_have_attribute("data-step", "229")
    page.keyboard.press("Home")
    expect(here).to_have_attribute("data-step", "0")
    page.get_by_label("Playing").click()
    page.get_by_label("Pictures a second").fill("40")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    page.get_by_label("Play", exact=True).click()
    expect(here).to_have_attribute("data-step", re.compile(r"^([4-9]|\d{2,})$"))
    page.get_by_label("Pause").click()


def test_the_drawn_colour_is_the_keys_colour(picture_blank: Page, address: str) -> None:
    """A reading with one value everywhere is drawn in that value's band, but for the light."""
    page = picture_blank
    opened(
        page,
        f"{address}/?bay=field&result={FLEXURE}&field=equivalent_plastic_strain&measure=value&averaging=off&step=0&low=-1&high=1&bands=5&map=vik&shown=0",
    )
    page.keyboard.press("m")
    settle(page)
    drawn = picture(page)
    middle = np.array([236, 229, 224])
    shades = drawn.reshape(-1, 3) / middle
    even = (np.ptp(shades, axis=1) < 0.02) & (shades.max(1) < 1.005) & (shades.min(1) > 0.75)
    assert even.mean() > 0.1, "vik's middle colour, at light between 0.8 and 1"


def test_the_address_reopens_the_same_view(picture_page: Page, address: str) -> None:
    page = picture_page
    page.get_by_label("within part").check()
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("Home")
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    bands(page, 12)
    settle(page)
    # The camera was fitted with the first frame, which may be late on a busy machine; the address tells it a little after.
    expect(page).to_have_url(re.compile("camera="))
    settle(page)
    link = page.url
    first = picture(page)
    page.goto("about:blank")
    page.goto(link)
    page.get_by_test_id("core-key").wait_for()
    expect(page.get_by_test_id("reading-line")).to_contain_text("averaged within each part")
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", "4")
    settle(page)
    assert alike(page, first)


def test_the_view_of_an_address_is_the_same_when_its_window_becomes_another_size_and_back(picture_page: Page) -> None:
    page = picture_page
    expect(page).to_have_url(re.compile("camera="))
    settle(page)
    link = page.url
    first = picture(page)
    page.set_viewport_size({"width": 1100, "height": 660})
    page.goto("about:blank")
    page.goto(link)
    page.get_by_test_id("core-key").wait_for()
    settle(page)
    page.set_viewport_size({"width": 1280, "height": 800})
    settle(page)
    assert alike(page, first)


def test_the_view_of_an_address_is_drawn_also_where_the_contents_come_last(picture_page: Page) -> None:
    page = picture_page
    expect(page).to_have_url(re.compile("camera="))
    settle(page)
    link = page.url
    first = picture(page)

    def late(route: Route) -> None:
        time.sleep(1)
        route.continue_()

    page.route(re.compile(r"/api/results/\d+$"), late)
    page.goto("about:blank")
    page.goto(link)
    page.get_by_test_id("core-key").wait_for()
    page.locator(".view-canvas canvas").wait_for()
    settle(page)
    assert alike(page, first)


def test_the_loop_is_made_and_linked_to_model_and_rail(own_page: Page) -> None:
    own_page.keyboard.press("5")
    legend = own_page.get_by_test_id("trace").locator(".legend").first
    expect(legend).to_contain_text("reaction")
    own_page.locator("summary", has_text="Curve: what").click()
    for curve in ("reaction", "displacement", "von Mises"):
        expect(legend).to_contain_text(curve)
        own_page.get_by_role("button", name="Remove", exact=True).click()
    expect(own_page.get_by_text("No curve yet")).to_be_visible()
    own_page.get_by_role("button", name="Make load–displacement curve").click()
    cycles = own_page.get_by_test_id("cycle-table")
    expect(cycles.locator("tbody tr")).to_have_count(6)
    expect(cycles).to_contain_text("energy kN·mm")
    plot = own_page.locator(".plot .nsewdrag").first
    box = plot.bounding_box()
    assert box
    before = own_page.get_by_test_id("rail-here").get_attribute("data-step")
    line = own_page.evaluate(
        """() => { const g = document.querySelector('.plot'); const t = g.data.findIndex(d => d.name.startsWith('x component'));
        const i = 40; const x = g._fullLayout.xaxis, y = g._fullLayout.yaxis;
        return [x._offset + x.d2p(g.data[t].x[i]), y._offset + y.d2p(g.data[t].y[i])]; }"""
    )
    frame = own_page.locator(".plot").bounding_box()
    assert frame
    for _ in range(5):
        # A click is one on a point once the plot has found it under the pointer.
        own_page.mouse.move(frame["x"] + line[0] - 2, frame["y"] + line[1])
        own_page.mouse.move(frame["x"] + line[0], frame["y"] + line[1])
        own_page.locator(".plot .hoverlayer .hovertext").first.wait_for()
        own_page.mouse.click(frame["x"] + line[0], frame["y"] + line[1])
        settle(own_page)
        if own_page.get_by_test_id("rail-here").get_attribute("data-step") != before:
            break
    expect(own_page.get_by_test_id("rail-here")).not_to_have_attribute("data-step", before or "")
    step = int(own_page.get_by_test_id("rail-here").get_attribute("data-step") or -1)
    assert abs(step - 40) <= 1
    expect(own_page.get_by_test_id("reading-line")).to_contain_text(f"({step + 1}/241)")


def test_a_test_record_is_brought_in_corrected_and_judged(own_page: Page, tmp_path: Path) -> None:
    own_page.keyboard.press("5")
    own_page.locator("summary", has_text="Test record").click()
    own_page.get_by_role("button", name="Remove specimen_F3.csv").click()
    expect(own_page.get_by_role("button", name="Remove specimen_F3.csv")).to_have_count(0)
    bad = tmp_path / "bad.csv"
    bad.write_text("Stroke,Load\nmm,kN\n1,2\n2,oops\n")
    own_page.get_by_test_id("test-file").set_input_files(bad)
    expect(own_page.get_by_test_id("test-problem")).to_contain_text("line 4, column 'Load': 'oops' is not a number")
    own_page.get_by_test_id("test-file").set_input_files(DATA / "specimen_F3.csv")
    expect(own_page.get_by_test_id("agreement")).to_be_visible()
    expect(own_page.get_by_test_id("verdict")).to_contain_text("Is a sign still to be reversed?")
    if not own_page.get_by_label("Force column").is_visible():
        own_page.locator("summary", has_text="Test record").click()
    expect(own_page.get_by_label("Driver column")).to_have_value("Stroke")
    expect(own_page.get_by_label("Force column")).to_have_value("Load cell")
    own_page.get_by_role("group", name="Force sign", exact=True).get_by_role("button", name="reversed").click()
    expect(own_page.get_by_test_id("corrections")).to_contain_text("sign reversed")
    own_page.get_by_label("Force zero").fill("0.34")
    own_page.keyboard.press("Enter")
    expect(own_page.get_by_test_id("corrections")).to_contain_text("zero shifted by -0.34 kN")
    expect(own_page.get_by_test_id("verdict")).to_contain_text("Agrees: everything is within the limits.")
    own_page.get_by_label("Forces", exact=True).fill("5")
    own_page.keyboard.press("Enter")
    expect(own_page.get_by_test_id("verdict")).to_contain_text("Agrees but for 2 of")
    expect(own_page.get_by_test_id("agreement")).to_contain_text("cycle 5")
    expect(own_page.get_by_test_id("agreement")).to_contain_text("RMS deviation")


def test_view_and_loop_are_kept_with_their_captions(own_picture_page: Page) -> None:
    page = own_picture_page
    settle(page)
    page.keyboard.press("k")
    page.get_by_label("Note").fill("Peak at the last push")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("5")
    page.get_by_role("button", name="Keep as exhibit").click()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("9")
    loop = page.get_by_test_id("exhibit-curve")
    expect(loop).to_contain_text(
        "x component of reaction, summed over set held, sign reversed, as computed at the nodes, on the whole model, in kN; against"
    )
    expect(loop).to_contain_text("Agrees but for")
    with page.expect_download() as got:
        loop.get_by_role("link", name="CSV").click()
    text = Path(got.value.path()).read_text().splitlines()
    assert text[1] == "s,mm,kN" and text.index("") == 243
    assert text[-1] == "# Result flexure B2; curve Loop; test record specimen_F3.csv"
    page.get_by_test_id("leaf").first.click()
    view = page.get_by_test_id("exhibit-view")
    expect(view).to_contain_text(
        "von Mises of stress, each corner as computed, on the whole model, at t = 2.875 s (step 231 of 241), in MPa"
    )
    expect(view).to_contain_text("Peak at the last push")
    with page.expect_download() as got:
        view.get_by_role("link", name="PNG").click()
    image = Image.open(got.value.path())
    assert image.width > 700 and image.height > 450
    colours = np.asarray(image.convert("RGB")).reshape(-1, 3)
    assert ((np.abs(colours - [1, 25, 89]).max(1) < 3).sum()) > 50, "the key's lowest colour is in the picture"


@pytest.mark.parametrize(
    ("tab", "link", "unit_row"),
    [("Loop", "Curve CSV", "s,mm,kN"), ("Loop", "Cycles CSV", ",mm,kN·mm,kN/mm,1,"), ("Flags", "Flags CSV", "MPa")],
)
def test_tables_leave_as_csv_with_header_and_unit_rows(page: Page, tab: str, link: str, unit_row: str) -> None:
    page.get_by_role("tab", name=tab).click()
    with page.expect_download() as got:
        page.get_by_role("button", name=link).click()
    assert got.value.suggested_filename.endswith(".csv")
    lines = Path(got.value.path()).read_text().splitlines()
    assert unit_row in lines[1]


def test_the_view_leaves_as_a_picture(picture_page: Page) -> None:
    page = picture_page
    settle(page)
    with page.expect_download() as got:
        tab(page, "View")
        page.get_by_role("button", name="Picture PNG").click()
    assert "von Mises of stress" in got.value.suggested_filename
    assert Image.open(got.value.path()).format == "PNG"


def test_the_lugs_question_is_answered_on_screen(own_address: str, picture_blank: Page, demo_file: Path) -> None:
    """Hoop stress at the bond, in the lug and in the bushing: from the reading line and one flag, two numbers that differ."""
    page = picture_blank
    opened_in(page, own_address, "field", LUG)
    choose(page, "Measure", "yy component")
    choose(page, "Axes", "axes eye (cylindrical)")
    expect(page.get_by_test_id("reading-line")).to_contain_text("hoop component of stress, in axes eye (cylindrical), each corner")
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("Home")
    settle(page)
    raw = httpx.get(f"{own_address}/api/results/2").json()
    assert raw["name"] == "lug, fine"
    node = bond_node(demo_file)
    tab(page, "Marks")
    page.get_by_label("Node", exact=True).fill(str(node))
    page.get_by_role("button", name="Plant").click()
    card = page.locator(".flag-card").filter(has_text=f"node {node}").first
    expect(card).to_contain_text("jump")
    query = {"field": "stress", "measure": "yy", "axes": "eye", "step": 0}
    entries = httpx.get(f"{own_address}/api/results/2/nodes/{node}", params=query).json()["entries"]
    steel = [e["value"] for e in entries if e["part"] == "part 1"]
    bronze = [e["value"] for e in entries if e["part"] == "part 2"]
    assert min(steel) > 1.7 * max(bronze) > 0
    shown = card.inner_text().replace(THIN, "")
    for value in (max(steel), max(bronze)):
        assert f"{value:.4g}" in shown, "the flag tells each element's own value"
    tab(page, "Values")
    page.get_by_label("all elements").check()
    settle(page)
    expect(page.get_by_test_id("view")).to_contain_text("exists in neither")


def bond_node(demo_file: Path) -> int:
    """A node of the lug's bond above the eye, near mid thickness."""
    with Review.open(demo_file) as review:
        mesh = review.result("lug, fine").mesh
        at = (
            (np.abs(np.hypot(*mesh.points[:, :2].T) - 25.0) < 1e-3) & (np.abs(mesh.points[:, 2]) < 4.1) & (mesh.points[:, 1] > 24.9)
        )
        return int(mesh.node_ids[np.flatnonzero(at)[0]])


def test_a_reading_over_all_steps_shows_how_far_it_is_and_can_be_stopped(page: Page) -> None:
    choose(page, "One step or many", "largest over all steps")
    work = page.get_by_test_id("long-work")
    expect(work).to_be_visible()
    work.get_by_role("button", name="Stop").click()
    expect(work).to_have_count(0)
    settle(page)
    expect(page.get_by_test_id("reading-line")).to_contain_text("at t =")
    assert asked(page, "over") is None


def test_largest_over_the_steps_of_the_lug_and_when(page: Page) -> None:
    in_view(page, "lug, coarse")
    settle(page)
    one = highest(page)
    choose(page, "One step or many", "largest over all steps")
    settle(page)
    expect(page.get_by_test_id("reading-line")).to_contain_text("largest over all steps")
    assert highest(page) >= one
    choose(page, "One step or many", "step at which it is largest")
    settle(page)
    expect(page.get_by_test_id("core-key")).to_contain_text("s")
    assert 0 <= highest(page) <= 4


def test_the_error_estimate_is_one_press_from_the_stress(page: Page) -> None:
    in_view(page, "lug, coarse")
    page.get_by_role("button", name="error (E)", exact=True).click()
    settle(page)
    expect(page.get_by_test_id("error-total")).to_contain_text("of the energy norm")
    expect(page.get_by_test_id("reading-line")).to_contain_text("error estimate of stress, on the whole model")


def test_a_difference_is_chosen_at_the_end_of_the_sentence(page: Page) -> None:
    choose(page, "Taken off", "minus averaged over all elements at a node")
    settle(page)
    expect(page.get_by_test_id("reading-line")).to_contain_text("minus the same, averaged over all elements at a node")
    assert asked(page, "against") == "averaging=all"


def test_axes_are_made_by_three_points_and_taken_back(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "field", COARSE_LUG)
    page.get_by_test_id("axes").locator("summary").click()
    page.get_by_placeholder("name").fill("bend")
    page.get_by_label("Point on the axis").fill("0, 0")
    expect(page.get_by_role("button", name="Keep axes")).to_be_disabled()
    page.get_by_label("Point on the axis").fill("0, 1, 0")
    page.get_by_role("button", name="Keep axes").click()
    settle(page)
    expect(page.get_by_test_id("axes")).to_contain_text("cylindrical at 0, 0, 0")
    choose(page, "Measure", "hoop component")
    settle(page)
    expect(page.get_by_test_id("reading-line")).to_contain_text("hoop component of stress, in axes bend (cylindrical)")


def test_an_untidy_set_is_taken_in_and_put_right(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "intake", COARSE_LUG)
    files = sorted((DATA.parent / "untidy").glob("*.vtu"))
    page.get_by_test_id("intake-files").set_input_files(files)
    expect(page.get_by_test_id("intake")).to_contain_text("What is in export")
    expect(page.get_by_test_id("intake")).to_contain_text("leave out 3")
    page.get_by_role("button", name="Kind of eps_eng: kind not known").click()
    page.locator(".chooser [role=option]").filter(has_text="strain").first.click()
    expect(page.get_by_role("button", name="Shear of eps_eng: engineering shear in the file")).to_be_visible()
    page.get_by_role("button", name="Order of quantity 7: xx yy zz xy yz xz").click()
    page.locator(".chooser [role=option]").filter(has_text="xx yy zz xy xz yz").first.click()
    expect(page.get_by_role("button", name="Order of quantity 7: xx yy zz xy xz yz")).to_be_visible()
    page.get_by_label("Young's modulus of code 12").fill("210000")
    page.get_by_label("Poisson's ratio of code 12").fill("0.3")
    page.get_by_label("Poisson's ratio of code 12").press("Enter")
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    with page.expect_download() as download:
        page.get_by_test_id("export").get_by_text("VTKHDF, all steps").click()
    assert download.value.suggested_filename.endswith(".vtkhdf")
