"""A result whose plies come one array each, as a stranger brings it: looked at, stated, corrected, in the real bench."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from ironstone.store import Review, intake
from tests.bench.driving import opened
from tests.bench.serving import bench_on
from tests.store.test_plies_in_files import three_shells


@pytest.fixture
def page(tmp_path: Path, blank: Page) -> Iterator[Page]:
    path = tmp_path / "plies.ironstone"
    with Review.create(path) as review:
        intake(review, [three_shells(tmp_path / "mast.vtu")])
    with bench_on(path) as address:
        opened(blank, address)
        yield blank


def test_what_the_file_says_of_failure_is_found_shown_and_its_axes_are_stated(page: Page) -> None:
    line = page.locator(".reading-line")
    expect(line).to_contain_text("von Mises of Ply Stress, in layer 1 of 4")
    page.keyboard.press("6")
    said = page.get_by_test_id("from-file")
    expect(said).to_contain_text("By the file elements fail")
    said.get_by_role("button", name="Ply Failure Index", exact=True).click()
    expect(line).to_contain_text("Ply Failure Index, largest over all layers, each element as computed")
    expect(page.get_by_test_id("core-key")).to_contain_text("1 fails")
    line.get_by_role("button", name="each element as computed").click()
    expect(page.get_by_role("option", name="averaged within each part")).to_contain_text("not averaged")
    page.keyboard.press("Escape")
    page.keyboard.press("1")
    page.get_by_test_id("fields").get_by_role("button", name="axes not stated").click()
    page.get_by_role("option", name="the first edge of each element").click()
    expect(page.get_by_test_id("fields").get_by_role("button", name="the first edge of each element")).to_be_visible()
    page.get_by_label("Undo").click()
    expect(page.get_by_test_id("fields").get_by_role("button", name="axes not stated")).to_be_visible()


def test_a_field_stated_to_be_of_another_kind_is_read_by_the_usual_measure_of_that(page: Page) -> None:
    line = page.locator(".reading-line")
    expect(line).to_contain_text("von Mises of Ply Stress")
    page.keyboard.press("1")
    page.get_by_role("button", name="Kind of Ply Stress").click()
    page.get_by_role("option", name="strain", exact=True).click()
    expect(line).to_contain_text("equivalent strain of Ply Stress")
    page.get_by_label("Undo").click()
    expect(line).to_contain_text("of Ply Stress")
    expect(line).not_to_contain_text("equivalent")
