"""What a stranger's file leaves open, settled in Intake: each doubt by one act, roles, steps, the order of components."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from ironstone.store import Review, intake
from tests.bench.driving import opened, undo
from tests.bench.serving import bench_on
from tests.writing import bar_of_hexahedra, write_vtu


@pytest.fixture
def page(tmp_path: Path, blank: Page) -> Iterator[Page]:
    """A bar of three bricks in three files: stress in capitals, no motion, no time, whole numbers of two sorts."""
    points, cells, _ = bar_of_hexahedra(shared=True)
    files = []
    for step in range(3):
        data = {
            "CAUCHY_STRESS_TENSOR": np.array([[1.0, 0, 0, 0, 2, 0], [3, 0, 0, 0, 2, 0], [5, 0, 0, 0, 2, 0]]) * (1 + step),
            "which": np.array([0, 1, 1], dtype=np.int32),
            "colour": np.array([3, 5, 5], dtype=np.int32),
        }
        files.append(write_vtu(tmp_path / f"bar_{10 * step}.vtu", points, cells, None, data))
    path = tmp_path / "stranger.ironstone"
    with Review.create(path) as review:
        intake(review, files)
    with bench_on(path) as address:
        opened(blank, f"{address}/?bay=intake")
        yield blank


def test_each_doubt_of_a_strangers_file_is_settled_by_one_act(page: Page) -> None:
    line = page.get_by_test_id("reading-line")
    expect(line).to_contain_text("von Mises of stress")
    doubts = page.get_by_test_id("doubts").locator("li")
    expect(doubts).to_have_count(3)
    page.get_by_role("button", name="m-N-s-kg-Pa: The files state no unit").click()
    expect(doubts).to_have_count(2)
    expect(line).to_contain_text("in Pa")
    expect(line).not_to_contain_text("guessed")
    page.get_by_role("button", name="xx yy zz xy xz yz: stress: order").click()
    expect(doubts).to_have_count(1)
    expect(page.get_by_label("Order of CAUCHY_STRESS_TENSOR: xx yy zz xy xz yz")).to_be_visible()
    undo(page)
    expect(doubts).to_have_count(2)
    # The steps have no time: the act opens the form and gives it the keyboard.
    page.get_by_role("button", name="state them: The files give 3 steps no time").click()
    expect(page.get_by_label("Values of the steps")).to_be_focused()
    page.keyboard.type("0, 0.5, two")
    page.keyboard.press("Enter")
    expect(page.get_by_text("'two' is no number.").first).to_be_visible()
    page.get_by_label("Values of the steps").fill("names")
    page.get_by_label("What the steps are").select_option("load factor")
    page.keyboard.press("Tab")
    page.get_by_role("button", name="State", exact=True).click()
    expect(doubts).to_have_count(1)
    expect(line).to_contain_text("load factor 20")
    page.get_by_role("button", name="as the files say").click()
    expect(line).to_contain_text("step 3")


def test_what_whole_numbers_are_is_stated_and_the_parts_follow(page: Page) -> None:
    intake_drawer = page.get_by_test_id("intake")
    numbers = page.get_by_test_id("whole-numbers")
    expect(numbers).to_contain_text(re.compile("which.*a set, where it is 1.*guessed"))
    expect(intake_drawer).to_contain_text("set which")
    page.get_by_role("button", name="What it is of which").click()
    page.get_by_role("option", name="divides the body into parts").click()
    expect(numbers).to_contain_text("which" + "divides the body into parts, of elements")
    expect(intake_drawer).not_to_contain_text("set which")
    expect(intake_drawer).to_contain_text("which 0")
    page.get_by_role("button", name="What it is of colour").click()
    page.get_by_role("option", name="a set, where it is 1").click()
    expect(page.get_by_text("holds other numbers than 0 and 1").first).to_be_visible()
    expect(numbers).to_contain_text("divides the body into parts")
