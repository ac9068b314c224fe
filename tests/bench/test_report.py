"""The report and the recipe of a review, from the bench: what is downloaded stands for itself, with the network cut."""

from __future__ import annotations

import io
import json
import re
import shutil
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect
from pypdf import PdfReader
from typer.testing import CliRunner
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader, vtkXMLUnstructuredGridWriter

from ironstone.cli.every import app
from ironstone.engine.base import ask, question_of
from ironstone.engine.kept.exhibits import Asked, ExhibitIn, keep_answer, keep_exhibit
from ironstone.engine.kept.outline import arranged
from ironstone.engine.recipes.recipe import recipe_in
from ironstone.engine.report.html import report_html, turning_size
from ironstone.store import Review, intake
from tests.bench.driving import AXE, opened_in, settle
from tests.bench.serving import bench_on

DEMO = Path(__file__).parents[2] / "demo/data"


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


@pytest.fixture
def with_exhibits(bar_files: list[Path], tmp_path: Path) -> Iterator[tuple[str, Path]]:
    path = tmp_path / "many.ironstone"
    with Review.create(path, "Many") as review:
        result = intake(review, bar_files, "bar", "mm-N-s-t-MPa")
        for k in range(10):
            words = {"field": "stress", "measure": "von-mises", "at": f"node:{k + 1}", "averaging": "all"}
            keep_answer(review, f"Trace {k + 1}", ask(review, question_of("trace", words)))
        seen = Asked(kind="read", words={"result": result, "field": "stress", "measure": "von-mises", "extremes": True})
        view = f"/?bay=field&result={result}&field=stress&measure=von-mises&step=1"
        keep_exhibit(ExhibitIn(title="Seen", questions=[seen], address=view), review)
        revised = intake(review, [bar_twice(bar_files[0], tmp_path), bar_twice(bar_files[1], tmp_path)], "bar, stiffer")
        assert revised != result
    with bench_on(path) as address:
        yield address, path


def bar_twice(file: Path, folder: Path) -> Path:
    """The bar under twice the stress, as its file has it but for that."""
    out = folder / f"twice_{file.name}"
    reader = vtkXMLUnstructuredGridReader()
    reader.SetFileName(str(file))
    reader.Update()
    grid = reader.GetOutput()
    stress = vtk_to_numpy(grid.GetPointData().GetArray("stress"))
    stress *= 2.0
    writer = vtkXMLUnstructuredGridWriter()
    writer.SetFileName(str(out))
    writer.SetInputData(grid)
    writer.Write()
    return out


def order(page: Page) -> list[str]:
    return [t.splitlines()[0] for t in page.get_by_test_id("leaf").locator(".leaf-title").all_inner_texts()]


def test_exhibits_are_ordered_by_keys_and_by_dragging_in_chapters(with_exhibits: tuple[str, Path], blank: Page) -> None:
    address, path = with_exhibits
    page = blank
    # All in sight: a table that scrolls under the pointer as a drag begins drags another leaf.
    page.set_viewport_size({"width": 1500, "height": 1300})
    opened_in(page, address, "exhibits", 1, "&field=stress&measure=von-mises&step=1")
    expect(page.get_by_test_id("leaf")).to_have_count(11)
    first = [f"Trace {k + 1}" for k in range(10)] + ["Seen"]
    assert order(page) == first
    page.get_by_role("button", name="Seen").focus()
    for k in range(3):
        page.keyboard.press("Alt+ArrowLeft")
        expect(page.get_by_text(f"{10 - k} of 11.")).to_be_visible()
        settle(page)
    assert order(page) == [*first[:7], "Seen", *first[7:10]]
    assert page.evaluate("document.activeElement.dataset.title") == "Seen", "the leaf keeps the keyboard"
    page.keyboard.press("Home")
    expect(page.get_by_test_id("exhibit-table")).to_contain_text("Trace 1")
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", "1"), "the arrows are the table's, not the rail's"
    page.keyboard.press("ArrowRight")
    assert page.evaluate("document.activeElement.dataset.title") == "Trace 2"
    page.get_by_label("New chapter").fill("Root")
    page.keyboard.press("Enter")
    chapter = page.get_by_role("region", name="Root")
    expect(chapter).to_contain_text("Drop a leaf here")
    page.get_by_role("button", name="Trace 3").drag_to(chapter)
    expect(chapter.locator(".leaf-title")).to_have_text(["Trace 3"])
    settle(page)
    page.get_by_role("button", name="Trace 5").drag_to(chapter.get_by_test_id("leaf"))
    expect(chapter.locator(".leaf-title")).to_have_text(["Trace 5", "Trace 3"])
    page.get_by_label("Title of the chapter Root").fill("Root and tip")
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="Root and tip")).to_be_visible()
    settle(page)
    page.keyboard.press("Escape")
    # Named anew in place, and removed, by the keyboard; one undo brings it back.
    page.get_by_role("button", name="Trace 2", exact=True).focus()
    page.keyboard.press("F2")
    page.get_by_label("New name of Trace 2").fill("Root, second")
    page.keyboard.press("Enter")
    renamed = page.get_by_role("button", name="Root, second", exact=True)
    expect(renamed).to_be_focused()
    page.keyboard.press("Delete")
    expect(page.get_by_test_id("leaf")).to_have_count(10)
    expect(page.get_by_text("Ctrl Z brings it back")).to_be_visible()
    page.locator(".leaves-head").click()
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("leaf")).to_have_count(11)
    expect(renamed).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Trace 2", exact=True)).to_be_visible()
    page.get_by_role("button", name="Trace 1", exact=True).focus()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("region", name="Root", exact=True)).to_be_visible()
    with Review.open(path) as review:
        assert [c.title for c in arranged(review).chapters] == ["", "Root"]
    found = page.evaluate(f"(() => {{ {AXE}; return axe.run(document, {{resultTypes: ['violations']}}); }})()")
    assert [(v["id"], v["nodes"][0]["html"][:120]) for v in found["violations"]] == []


def test_what_is_kept_is_replayed_on_a_revised_result_and_that_is_kept(with_exhibits: tuple[str, Path], blank: Page) -> None:
    address, _ = with_exhibits
    page = blank
    opened_in(page, address, "exhibits", 1, "&field=stress&measure=von-mises&step=1")
    page.get_by_role("tab", name="Replay").click()
    page.get_by_label("The revised result").select_option("bar, stiffer")
    page.get_by_role("button", name="Replay", exact=True).click()
    found = page.get_by_test_id("became")
    expect(found).to_have_count(11)
    expect(page.get_by_test_id("replayed").get_by_role("status")).to_contain_text("0 the same, 11 changed")
    expect(found.filter(has_text="Seen")).to_contain_text("changed by +100 %")
    found.filter(has_text="Seen").get_by_role("button", name="See both").click()
    expect(found.filter(has_text="Seen").get_by_role("img")).to_have_count(2)
    expect(found.filter(has_text="Seen")).to_contain_text("of the model differ")
    page.get_by_label("The same within, %").fill("150")
    page.get_by_role("button", name="Replay", exact=True).click()
    expect(page.get_by_test_id("replayed").get_by_role("status")).to_contain_text("11 the same, 0 changed")
    page.get_by_test_id("replayed").get_by_role("button", name="Keep as exhibit").click()
    expect(page.get_by_test_id("leaf")).to_have_count(12)
    page.get_by_role("tab", name="Exhibit", exact=True).click()
    expect(page.get_by_test_id("exhibit-table")).to_contain_text("asked of bar, stiffer, the same within 150 %")
    expect(page.get_by_test_id("exhibit-table")).to_contain_text("agrees: 11 the same")


def test_a_report_that_is_made_says_how_far_it_is_and_can_be_stopped(small: str) -> None:
    """By the service itself: a job that tells, stops, and gives its file once."""
    started = httpx.post(f"{small}/api/report/html").json()
    while (job := httpx.get(f"{small}/api/jobs/{started['id']}").json())["state"] == "running":
        assert 0.0 <= job["share"] <= 1.0
    assert job["state"] == "done"
    file = httpx.get(f"{small}/api/jobs/{started['id']}/file")
    assert file.headers["content-disposition"] == 'attachment; filename="Bar in tension report.html"' and "<h1>" in file.text
    again = httpx.get(f"{small}/api/jobs/{started['id']}/file")
    assert again.status_code >= 400 and "fetched already" in again.text
    other = httpx.post(f"{small}/api/report/pdf").json()
    httpx.delete(f"{small}/api/jobs/{other['id']}")
    end = time.monotonic() + 30
    while (job := httpx.get(f"{small}/api/jobs/{other['id']}").json())["state"] == "running":
        assert time.monotonic() < end
    assert job["state"] in ("stopped", "done")
    assert httpx.post(f"{small}/api/report/docx").status_code == 422


def test_the_question_a_photograph_and_the_pdf(with_exhibits: tuple[str, Path], blank: Page, tmp_path: Path) -> None:
    address, _ = with_exhibits
    page = blank
    opened_in(page, address, "exhibits", 1, "&field=stress&measure=von-mises&step=1")
    Image.new("RGB", (60, 40), "#885522").save(tmp_path / "specimen_3-broken.jpg")
    page.get_by_role("button", name="Trace 4", exact=True).click()
    page.locator(".exhibit input[type=file]").set_input_files(tmp_path / "specimen_3-broken.jpg")
    expect(page.get_by_role("img", name="Photograph: specimen 3 broken")).to_be_visible()
    (tmp_path / "no.png").write_bytes(b"words")
    page.locator(".exhibit input[type=file]").set_input_files(tmp_path / "no.png")
    expect(page.get_by_role("alert").first).to_contain_text("picture")
    page.get_by_role("tab", name="Report").click()
    page.get_by_label("The question").fill("Does the bar **hold**?")
    page.get_by_role("button", name="Keep the question").click()
    expect(page.get_by_role("button", name="Keep the question")).to_be_disabled()
    settle(page)
    with page.expect_download() as got:
        page.get_by_role("button", name="PDF").click()
    assert got.value.suggested_filename == "Many report.pdf"
    read = PdfReader(got.value.path())
    text = " ".join(page.extract_text() for page in read.pages)
    assert "Does the bar hold?" in text and "Photograph. specimen 3 broken" in text and "Trace 10" in text


def test_views_of_a_report_turn_and_plots_zoom_where_that_was_asked_for(
    with_exhibits: tuple[str, Path], picture_blank: Page, tmp_path: Path
) -> None:
    _, path = with_exhibits
    with Review.open(path) as review:
        profile = question_of("profile", {"result": 1, "field": "stress", "measure": "xx", "path": "line:0,0.5,0.5:3,0.5,0.5"})
        keep_answer(review, "Along", ask(review, profile))
        text = report_html(review, turns=True)
        plain = report_html(review)
    assert len(text) - len(plain) == pytest.approx(turning_size_of(path), rel=0.35)
    file = tmp_path / "turns.html"
    file.write_text(text)
    page = picture_blank
    asked: list[str] = []
    wrong: list[str] = []
    page.on("request", lambda r: asked.append(r.url))
    page.on("pageerror", lambda e: wrong.append(str(e)))
    page.on("console", lambda m: wrong.append(m.text) if m.type == "error" else None)
    page.goto(file.as_uri())
    page.get_by_role("button", name="Turn this view").click()
    canvas = page.locator("canvas")
    expect(canvas).to_have_attribute("data-drawn", re.compile(r"[1-9]"))
    expect(page.locator(".turning-key")).to_contain_text("60.00 MPa")

    def seen() -> str:
        """How often it was drawn, a frame later."""
        frame = "new Promise((done) => requestAnimationFrame(() => done(document.querySelector('canvas').dataset.drawn)))"
        return str(page.evaluate(frame))

    before = int(seen())
    canvas.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("+")
    assert int(seen()) >= before + 2
    shot = np.asarray(Image.open(io.BytesIO(canvas.screenshot())).convert("RGB")).reshape(-1, 3)
    assert len(np.unique(shot, axis=0)) > 20, "the model is drawn in its colours"
    plot = page.locator("figure.plot svg").last
    box = plot.get_attribute("viewBox")
    plot.focus()
    page.keyboard.press("+")
    assert plot.get_attribute("viewBox") != box
    page.keyboard.press("Home")
    assert [float(v) for v in plot.get_attribute("viewBox").split()] == pytest.approx([float(v) for v in box.split()])
    assert wrong == [] and [url for url in asked if not url.startswith(("file:", "data:"))] == []


def turning_size_of(path: Path) -> int:
    with Review.open(path) as review:
        return turning_size(review)


def test_the_flexures_report_the_lugs_recipe_and_the_stiffer_flexure(
    own_address: str, demo_copy: Path, blank: Page, tmp_path: Path
) -> None:
    """The report of the demo's flexure, the lug's recipe over its three meshes and a broken file on a cluster of two workers, and
    what is kept of the flexure on a stiffer one."""
    page = blank
    with Review.open(demo_copy) as review:
        seen = Asked(kind="read", words={"result": 6, "field": "stress", "measure": "von-mises", "step": 30, "extremes": True})
        view = "/?bay=field&result=6&field=stress&measure=von-mises&step=30&shown=5"
        keep_exhibit(ExhibitIn(title="Peak of the bend", questions=[seen], address=view, note="At the **inner** radius."), review)
        keep_answer(review, "Loads", ask(review, question_of("balance", {"result": 6, "step": 30})))
        intake(review, sorted((DEMO / "flexure_stiffer").glob("*.vtu")), "flexure C", "mm-N-s-t-MPa")
    page.goto(f"{own_address}/?bay=exhibits&result=6&field=stress&measure=von-mises&step=30")
    expect(page.get_by_test_id("leaf")).to_have_count(2)
    page.get_by_role("button", name="Peak of the bend").click()
    expect(page.get_by_test_id("exhibit-view").locator(".note b")).to_have_text("inner")
    page.get_by_role("tab", name="Report").click()
    with page.expect_download() as got:
        page.get_by_role("button", name="PDF").click()
    text = " ".join(p.extract_text() for p in PdfReader(got.value.path()).pages)
    assert "Peak of the bend" in text and "flexure B2" in text and "flexure C" in text
    page.get_by_role("tab", name="Replay").click()
    page.get_by_label("The revised result").select_option("flexure C")
    page.get_by_role("button", name="Replay", exact=True).click()
    became = page.get_by_test_id("became")
    expect(became).to_have_count(2)
    expect(became.filter(has_text="Peak of the bend")).to_contain_text("changed by +6.94")
    expect(became.filter(has_text="Loads")).to_contain_text("changed by +29.6")
    became.filter(has_text="Peak of the bend").get_by_role("button", name="See both").click()
    expect(became.get_by_role("img")).to_have_count(2)
    broken = tmp_path / "broken.vtu"
    broken.write_bytes((DEMO / "lug/lug_fine_0.vtu").read_bytes()[:4000])
    meshes = [f"{name}={DEMO}/lug/lug_{name}_*.vtu" for name in ("coarse", "medium", "fine")]
    words = ["run", str(DEMO.parent / "recipes/lug.yaml"), *meshes, str(broken), "--jobs", "2", "-o"]
    here = CliRunner().invoke(app, [*words, str(tmp_path / "here")])
    there = CliRunner().invoke(app, [*words, str(tmp_path / "there"), "--scheduler", "local"])
    assert here.exit_code == there.exit_code == 2 and "broken.vtu is damaged" in there.stdout
    for name in ("coarse", "medium", "fine"):
        one, other = (json.loads((tmp_path / f / name / "values.json").read_text()) for f in ("here", "there"))
        assert one["values"] == other["values"] and one["status"] == 0
        assert (tmp_path / "there" / name / "pictures/stress with the rope swung.png").stat().st_size > 5000
