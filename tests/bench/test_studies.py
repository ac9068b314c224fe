"""The demo's second review in the real interface: which contact setting may be believed, how far the strap peeled, what settles."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.bench.driving import alike, opened, opened_in, picture, settle, tab, to_the_step
from tests.bench.serving import bench_on

DATA = Path(__file__).parents[2] / "demo" / "data"
# The review's results by their numbers.
ROUNDED, SHARP, GRIP, STRAP = 4, 8, 9, 13


@pytest.fixture(scope="module")
def studies(studies_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    with bench_on(Path(shutil.copy(studies_file, tmp_path_factory.mktemp("studies")))) as address:
        yield address


def test_which_of_the_two_contact_settings_may_be_believed_and_at_what_cost(studies: str, blank: Page) -> None:
    page = blank
    opened_in(page, studies, "compare", GRIP, "&drawer=table&field=stress&measure=von-mises&step=3&plot=side by side")
    expect(page.get_by_test_id("table-verdict")).to_have_text(
        "grip, coarse jaw, one-sided stands apart in deepest penetration and highest von Mises."
    )
    table = page.get_by_test_id("side-by-side")
    expect(table.get_by_role("row").filter(has_text="contact iterations")).to_contain_text("11")
    page.keyboard.press("2")
    tab(page, "Contact", "Balance")
    expect(page.get_by_test_id("penetration-verdict")).to_contain_text("8 nodes of part 2 lie up to 0.00393 mm inside part 1")
    page.get_by_role("button", name="Show on the model").click()
    settle(page)
    expect(page.get_by_test_id("reading-line")).to_contain_text("penetration into other parts")


def test_how_far_and_how_straight_did_the_peel_run(studies: str, blank: Page) -> None:
    page = blank
    opened_in(page, studies, "trace", STRAP, "&field=separation&step=0")
    page.locator("summary", has_text="A front through the steps").click()
    page.get_by_label("Value on the front").fill("0.05")
    page.get_by_role("button", name="Follow", exact=True).click()
    expect(page.get_by_test_id("front-verdict")).to_contain_text("It came 54.49 mm")
    expect(page.get_by_test_id("front-table").get_by_role("row")).to_have_count(7)
    page.get_by_label("What the front is").select_option("edge")
    page.get_by_label("Direction of the front's way").fill("1,0,0")
    page.get_by_role("button", name="Follow").click()
    expect(page.get_by_test_id("front-verdict")).to_contain_text("It came 0 mm")
    page.get_by_label("What the front is").select_option("")
    page.get_by_role("button", name="Follow").click()
    settle(page)
    # Every step has a mesh of its own, and is drawn on it.
    page.keyboard.press("End")
    settle(page)
    expect(page.get_by_test_id("ext-highest")).to_contain_text("0.4500")
    page.reload()
    expect(page.get_by_test_id("front-verdict")).to_contain_text("It came 54.49 mm")


def test_what_the_peak_is_worth_at_infinite_fineness(studies: str, blank: Page) -> None:
    page = blank
    opened_in(
        page, studies, "compare", ROUNDED, "&drawer=meshes&study=1,2,3,4:highest:length&field=stress&measure=von-mises&step=0"
    )
    expect(page.get_by_test_id("study-verdict")).to_contain_text("It settles: 270.6 MPa")
    opened_in(page, studies, "compare", SHARP, "&drawer=meshes&study=5,6,7,8:highest:length&field=stress&measure=von-mises&step=0")
    expect(page.get_by_test_id("study-verdict")).to_contain_text("It grows without end")


def test_files_of_a_body_and_what_goes_with_it_are_told_apart_and_stand_in_one_picture(
    own_address: str, picture_blank: Page
) -> None:
    page = picture_blank
    opened(page, f"{own_address}/?bay=intake")
    files = [*sorted((DATA / "peel").glob("peel_[0-2].vtu")), *sorted((DATA / "peel").glob("front_[0-2].vtu"))]
    page.get_by_test_id("intake-files").set_input_files(files)
    roles = page.get_by_test_id("roles")
    expect(roles).to_contain_text("peel")
    expect(roles.get_by_label("What front is")).to_have_value("along")
    roles.get_by_label("The body").select_option("front")
    expect(roles.get_by_label("What peel is")).to_have_value("own")
    roles.get_by_label("The body").select_option("peel")
    expect(roles.get_by_label("What front is")).to_have_value("along")
    roles.get_by_role("button", name="Take them in").click()
    expect(page.get_by_text("Taken in.")).to_be_visible()
    page.keyboard.press("3")
    note = page.get_by_test_id("alongside-note")
    expect(note).to_have_text("Along with it: front at load factor 0.18.")
    settle(page)
    with_it = picture(page)
    to_the_step(page, "ArrowLeft")
    expect(note).to_have_text("Along with it: front at load factor 0.12.")
    to_the_step(page, "ArrowRight")
    page.get_by_role("tab", name="Model").click()
    page.get_by_label("What front shows").select_option("own:separation")
    expect(note).to_contain_text("in colours of separation")
    # It is off once the service says so, which a busy machine says late.
    page.get_by_role("checkbox", name="Show front").click()
    expect(note).to_have_count(0)
    settle(page)
    assert not alike(page, with_it, 0.0005), "the line is not drawn any more"
    page.reload()
    settle(page)
    expect(page.get_by_role("checkbox", name="Show front")).not_to_be_checked()


def test_a_link_to_a_later_step_of_a_changing_mesh_is_drawn(studies: str, picture_blank: Page) -> None:
    """Which mesh a step has is known after the first values are asked for: they are asked for again."""
    page = picture_blank
    opened(page, f"{studies}/?bay=field&result={STRAP}&field=separation&measure=value&step=4&plot=front&front=0.05:")
    expect(page.get_by_test_id("view")).to_have_attribute("data-drawn", re.compile("step 5 of 6"))
    expect(page.get_by_test_id("alongside-note")).to_have_count(2)
    lines = page.get_by_test_id("front-layer")
    expect(lines.locator("path")).to_have_count(6)
    expect(lines.locator(".in-view text")).to_have_text("load factor 0.3")
