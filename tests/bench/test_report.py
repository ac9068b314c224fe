"""The report and the recipe of a review, from the bench: what is downloaded stands for itself, with the network cut."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from ironstone.engine.recipes.recipe import recipe_in
from ironstone.store import Review, intake
from tests.bench.driving import AXE, opened_in, settle
from tests.bench.serving import bench_on


@pytest.fixture
def small(bar_files: list[Path], tmp_path: Path) -> Iterator[str]:
    path = tmp_path / "bar.ironstone"
    with Review.create(path, "Bar in tension") as review:
        result = intake(review, bar_files, "bar", "mm-N-s-t-MPa")
        review.set_constants(result, review.result().mesh.material_or_part_names[0], {"young": 210e3, "poisson": 0.3})
    with bench_on(path) as address:
        yield address


def test_what_is_kept_becomes_a_report_that_opens_anywhere_and_a_recipe(small: str, picture_blank: Page, tmp_path: Path) -> None:
    page = picture_blank
    opened_in(page, small, "exhibits", 1, "&field=stress&measure=von-mises&step=1")
    page.get_by_role("tab", name="Report").click()
    page.get_by_role("button", name="Keep as recipe").click()
    expect(page.get_by_role("alert").first).to_contain_text("Nothing is kept of 'bar'")
    page.keyboard.press("k")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Title").fill("Peak of the bar & what it means")
    dialog.get_by_role("button", name="Keep", exact=True).click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_test_id("leaf")).to_contain_text("Peak of the bar & what it means")
    settle(page)
    with page.expect_download() as recipe:
        page.get_by_role("button", name="Keep as recipe").click()
    made = recipe_in(recipe.value.path().read_text())
    assert [t.name for t in made.tables] == ["Peak of the bar & what it means"]
    assert json.loads(recipe.value.path().read_text())["units"] == "mm-N-s-t-MPa"
    with page.expect_download() as report:
        page.get_by_role("button", name="HTML", exact=True).click()
    assert report.value.suggested_filename == "Bar in tension report.html"
    file = Path(shutil.copy(report.value.path(), tmp_path / "report.html"))
    asked: list[str] = []
    page.on("request", lambda r: asked.append(r.url))
    page.goto(file.as_uri())
    expect(page.get_by_role("heading", level=1)).to_have_text("Bar in tension")
    expect(page.get_by_role("heading", name="Peak of the bar & what it means")).to_be_visible()
    picture = page.get_by_role("img").first
    expect(picture).to_have_attribute(
        "alt", "von Mises of stress, each corner as computed, on the whole model, at t = 0.5 s (step 2 of 2), in MPa. Result bar"
    )
    assert page.evaluate("[...document.images].every(i => i.complete && i.naturalWidth > 0)")
    assert [url for url in asked if not url.startswith(("file:", "data:"))] == []
    page.get_by_role("link", name="Sources").click()
    expect(page.get_by_role("heading", name="Sources")).to_be_in_viewport()
    found = page.evaluate(f"(() => {{ {AXE}; return axe.run(document, {{resultTypes: ['violations']}}); }})()")
    assert [(v["id"], v["nodes"][0]["html"][:120]) for v in found["violations"]] == []
