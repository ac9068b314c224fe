"""What somebody who has never seen the bench does unaided, and in how many acts: a click, a text typed, a key, a file chosen."""

from __future__ import annotations

import csv
import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Locator, Page, expect

from ironstone.store import Review
from tests.bench.driving import settle
from tests.bench.serving import bench_on
from tests.conftest import DATA

FILES = sorted(DATA.glob("flexure_*.vtu"))


class Acts:
    """Counts what is done on a page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.count = 0

    def click(self, what: Locator) -> None:
        what.click()
        self.count += 1

    def click_at(self, x: float, y: float) -> None:
        self.page.mouse.click(x, y)
        self.count += 1

    def type(self, what: Locator, words: str) -> None:
        what.fill(words)
        self.count += 1

    def key(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.count += 1

    def choose(self, what: Locator, files: list[Path]) -> None:
        what.set_input_files(files)
        self.count += 1


@pytest.fixture
def acts(own_page: Page) -> Acts:
    return Acts(own_page)


@pytest.fixture
def picture_acts(own_picture_page: Page) -> Acts:
    return Acts(own_picture_page)


def hovered(page: Page, x: float, y: float) -> str:
    page.mouse.move(x, y)
    tip = page.get_by_test_id("hover")
    for _ in range(40):
        page.wait_for_timeout(25)
        if tip.count():
            page.wait_for_timeout(60)
            return tip.inner_text() if tip.count() else ""
    return ""


def test_hoop_stress_at_the_bond_of_the_lug_in_both_parts(picture_acts: Acts) -> None:
    acts = picture_acts
    page = acts.page
    acts.key("r")
    acts.click(page.get_by_role("button", name="lug, coarse"))
    settle(page)
    acts.click(page.get_by_role("button", name="Measure:"))
    page.keyboard.type("circumferential")
    acts.count += 1
    expect(page.locator(".chooser").get_by_role("option")).to_have_count(2)
    acts.click(page.get_by_role("option", name="round an axis to be picked"))
    expect(page.get_by_test_id("mode")).to_contain_text("Hoop: click a face of the bore")
    box = page.locator(".view-canvas canvas").bounding_box()
    assert box
    # Into the bore; then outwards from it over the upper face, to where one part ends and the other begins.
    bore = (box["x"] + 0.705 * box["width"], box["y"] + 0.32 * box["height"])
    # A machine that has other work answers late.
    assert any("part 2" in hovered(page, *bore) for _ in range(10))
    acts.click_at(*bore)
    expect(page.get_by_test_id("reading-line")).to_contain_text("hoop component of stress, in axes cylinder of part 2")
    expect(page.get_by_test_id("drawn-axes")).to_be_visible()
    expect(page.get_by_test_id("mode")).to_have_count(0)
    settle(page)
    y = box["y"] + 0.365 * box["height"]
    places = [(x, hovered(page, x, y)) for x in range(int(bore[0]), int(box["x"] + 0.5 * box["width"]), -6)]
    border = next(b[0] for a, b in zip(places, places[1:], strict=False) if "part 2" in a[1] and "part 1" in b[1])
    acts.click_at(border + 3, y)
    acts.click(page.get_by_role("button", name="Compare averaged"))
    table = page.get_by_test_id("flag-compare")
    expect(table).to_contain_text("part 1")
    expect(table).to_contain_text("part 2")
    assert acts.count <= 8


def test_whether_the_model_balances(page: Page) -> None:
    acts = Acts(page)
    acts.key("2")
    expect(acts.page.get_by_test_id("balance")).to_contain_text("residual")
    assert acts.count <= 1


def test_a_fresh_series_to_a_loop_against_a_fresh_record_with_its_verdict(tmp_path: Path, blank: Page) -> None:
    review = tmp_path / "new.ironstone"
    Review.create(review, "New").close()
    with bench_on(review) as address:
        page = blank
        page.goto(address)
        acts = Acts(page)
        acts.choose(page.get_by_test_id("intake-files"), FILES)
        expect(page.get_by_text("Taken in.")).to_be_visible(timeout=120_000)
        settle(page)
        acts.key("5")
        acts.click(page.get_by_role("button", name="Make load–displacement curve"))
        acts.choose(page.get_by_test_id("test-file"), [DATA / "specimen_F3.csv"])
        verdict = page.get_by_test_id("verdict")
        expect(verdict).to_contain_text("Does not agree")
        expect(verdict).to_contain_text("Is a sign still to be reversed?")
        expect(verdict).to_have_class(re.compile("verdict-bad"))
        acts.click(page.get_by_role("button", name="Turn the sign of the force"))
        expect(verdict).to_contain_text("Agrees but for one")
        acts.click(page.get_by_role("button", name="First sample is zero"))
        expect(verdict).to_contain_text("Agrees:")
        expect(page.get_by_test_id("corrections")).to_contain_text("sign reversed")
        box = verdict.bounding_box()
        assert box and box["y"] > 54 and box["y"] + box["height"] < 800
        assert acts.count <= 12


def test_flags_through_the_steps_as_a_table(picture_acts: Acts) -> None:
    acts = picture_acts
    page = acts.page
    box = page.locator(".view-canvas canvas").bounding_box()
    assert box
    acts.click_at(box["x"] + 0.45 * box["width"], box["y"] + 0.8 * box["height"])
    expect(page.get_by_test_id("flag-2")).to_be_visible()
    acts.click(page.get_by_test_id("flag-2").get_by_role("button", name="Over the steps"))
    expect(page.get_by_test_id("flag-steps-plot").locator(".js-plotly-plot")).to_be_visible()
    with page.expect_download() as saved:
        acts.click(page.get_by_role("button", name="Flags over the steps CSV"))
    assert saved.value.suggested_filename == "flexure B2 flags over the steps.csv"
    rows = list(csv.reader(Path(saved.value.path()).read_text().splitlines()))
    assert rows[0][0] == "time" and rows[1][0] == "s" and len(rows) == 2 + 241
    assert all("flag 2" in name and "element" in name for name in rows[0][1:]) and set(rows[1][1:]) == {"MPa"}
    assert acts.count <= 4


def test_an_exhibit_is_kept_and_is_the_same_after_a_reload(picture_acts: Acts) -> None:
    acts = picture_acts
    page = acts.page
    page.goto(re.sub(r"/$", "", page.url.split("?")[0]) + "/?bay=field&result=1&hidden=1&shown=20&step=4&edges=0")
    settle(page)
    line = page.get_by_test_id("reading-line").inner_text()
    acts.key("k")
    acts.click(page.get_by_role("button", name="Keep", exact=True))
    expect(page.get_by_text("Kept.")).to_be_visible()
    page.goto(page.url.split("?")[0])
    settle(page)
    acts.key("9")
    card = page.get_by_test_id("exhibit-view")
    expect(card.get_by_test_id("shown")).to_have_text("Result lug, coarse; hidden: part 2; drawn deformed 20 times")
    acts.click(card.get_by_role("button", name="Go there"))
    expect(page.get_by_role("button", name="lug, coarse")).to_be_visible()
    settle(page)
    assert page.get_by_test_id("reading-line").inner_text().split(", in MPa")[0] == line.split(", in MPa")[0]
    expect(page.get_by_text("Hidden: part 2.")).to_be_visible()
    expect(page.get_by_test_id("exaggeration-warning")).to_contain_text("20.0 ×")
    assert acts.count <= 4


def test_a_second_review_is_made_and_a_result_renamed(acts: Acts, own_address: str, demo_copy: Path) -> None:
    page = acts.page
    acts.click(page.get_by_role("button", name="flexure B2"))
    acts.type(page.get_by_label("Name of this result"), "flexure B2, revision 7")
    acts.key("Enter")
    expect(page.get_by_role("button", name="flexure B2, revision 7").first).to_be_visible()
    acts.type(page.get_by_label("New review"), "Brake, spring")
    acts.key("Enter")
    expect(page.get_by_text("The review Brake, spring was made.")).to_be_visible()
    expect(page.get_by_test_id("intake")).to_contain_text("Drop a result file")
    assert (demo_copy.parent / "Brake__spring.ironstone").is_file()
    assert acts.count <= 5
    acts.key("r")
    page.get_by_role("button", name="Ropeway").click()
    expect(page.get_by_text("The review Ropeway is open.")).to_be_visible()
    expect(page.get_by_role("button", name="flexure B2, revision 7").first).to_be_visible()
    assert httpx.get(f"{own_address}/api/review").json()["results"][-1]["name"] == "flexure B2, revision 7"
