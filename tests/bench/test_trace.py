"""Members, faces, plots and records in the real interface: what an analyst takes out of a model and holds against measured data."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import numpy as np
import pytest
from matplotlib.figure import Figure
from playwright.sync_api import Page, expect

from tests.bench.driving import (
    FLEXURE,
    LUG,
    TRUSS,
    canvas,
    comes_to,
    menu,
    opened_in,
    places,
    plotted,
    settle,
    strata,
    tab,
    undo,
    violations,
)


def test_members_of_the_truss_their_hand_calculation_and_who_takes_over(blank: Page, address: str) -> None:
    page = blank
    opened_in(page, address, "balance", TRUSS, "&step=4&field=axial_force")
    tab(page, "Inside", "Balance")
    verdict = page.get_by_test_id("verdict")
    expect(verdict).to_contain_text("All 31 lengthen in tension and shorten in compression.")
    expect(verdict).not_to_contain_text("nominal")
    rows = page.get_by_test_id("members").locator("tbody tr")
    expect(rows).to_have_count(31)
    rows.first.get_by_role("button").click()
    expect(page.get_by_test_id("member")).to_contain_text("Modulus times strain")
    expect(page.get_by_test_id("member-plot")).to_be_visible()
    lines = plotted(page, "p.data.map((d) => d.name)")
    assert lines == ["largest so far", "at this step"]
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("End")
    settle(page)
    expect(verdict).to_contain_text("no longer elastic: there force over area is nominal")
    expect(rows.filter(has_text="nominal").first).to_be_visible()
    taken = page.get_by_test_id("taken-over")
    expect(taken).to_contain_text("had all forces grown with the applied forces")
    first = taken.locator("tbody tr").first
    assert float(first.locator("td").last.inner_text()) > 0, "the first in the list has gained most"
    first.click()
    expect(page.get_by_label("Member", exact=True)).to_have_value(re.search(r"^\d+", first.inner_text())[0])  # type: ignore[index]


def test_forces_over_picked_faces_and_a_pressure_on_them(picture_blank: Page, address: str) -> None:
    """The held end of the lug: the pull of 60 kN, from stress and from its reactions; 10 MPa on it are 10 times its area."""
    page = picture_blank
    opened_in(page, address, "balance", LUG, "&step=4")
    tab(page, "Inside", "Balance")
    page.get_by_role("button", name="faces").click()
    box = canvas(page)
    end = next((x, y) for x, y in sorted(places(page, 40)) if x < 0.25 * box["width"] and y > 0.5 * box["height"])
    page.mouse.click(box["x"] + end[0], box["y"] + end[1])
    answer = page.get_by_test_id("faces")
    expect(answer).to_contain_text("2016 mm²")
    expect(answer.get_by_test_id("verdict")).to_have_attribute("data-verdict", "agrees")
    expect(answer.locator("tr", has_text="from stress").first).to_contain_text("60.00")
    page.get_by_label("Pressure on them").fill("10")
    page.keyboard.press("Enter")
    expect(answer.locator("tr", has_text="pressure").first).to_contain_text("20.16")


def test_two_plots_stand_beside_each_other_with_axes_as_asked_and_leave_as_files(blank: Page, address: str) -> None:
    page = blank
    opened_in(page, address, "trace", FLEXURE)
    page.get_by_label("Beside it").select_option(label="beside Residual")
    expect(page.locator(".js-plotly-plot")).to_have_count(2)
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    for item, suffix in (("picture, PNG", ".png"), ("drawing, SVG", ".svg")):
        with page.expect_download() as saved:
            menu(page, item)
        assert saved.value.suggested_filename.endswith(suffix)
        data = Path(saved.value.path()).read_bytes()
        assert data.startswith(b"\x89PNG") if suffix == ".png" else b"<svg" in data[:200]
        page.keyboard.press("Escape")
    menu(page, "points to the clipboard")
    expect(page.get_by_text("on the clipboard")).to_be_visible()
    rows = page.evaluate("navigator.clipboard.readText()").split("\n")
    assert len(rows) == 2 + 961 and rows[1].split("\t")[-1] == "kN", "every point of the record, whatever is drawn"
    strata(page, "Energy")
    expect(page.locator(".js-plotly-plot")).to_have_count(2)
    strata(page, "Driver")
    menu(page, "logarithmic upwards")
    assert comes_to(page, "p._fullLayout.yaxis.type", "log") == "log"


def test_the_stroke_is_held_against_the_history_prescribed(blank: Page, address: str) -> None:
    page = blank
    opened_in(page, address, "trace", FLEXURE)
    page.get_by_label("Curve", exact=True).select_option(label="Stroke over time")
    expect(page.get_by_test_id("verdict")).to_contain_text("Agrees")
    expect(page.get_by_test_id("figures")).to_contain_text("Largest")
    page.get_by_label("Curve", exact=True).select_option(label="Steel, first loading")
    expect(page.get_by_test_id("verdict")).to_contain_text("Agrees")
    expect(page.get_by_test_id("trace")).to_contain_text("14 of 19 test points lie outside the model's range")


def test_a_curve_is_traced_in_an_element_over_some_steps_and_told_what_is_wrong(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "trace", FLEXURE)
    page.get_by_text("Curve: what against what").click()
    page.get_by_role("button", name="Stress–strain of an element").click()
    expect(page.get_by_label("Force place")).to_have_value("element:1")
    page.get_by_label("Force place").fill("element:97")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("trace").locator(".legend").first).to_contain_text("element 97")
    page.get_by_label("Last step of the curve").fill("11")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Last step of the curve")).to_have_value("11")
    strata(page, "Force")
    known = comes_to(page, "p.data[0].y.filter((v) => v !== null && v !== undefined).length", 11)
    assert known == 11
    page.get_by_label("Force place").fill("element:99999")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("no element 99999")
    expect(page.get_by_label("Force place")).to_have_value("element:97")


def test_a_curve_whose_set_is_removed_says_why_and_is_mended_by_undo(own_address: str, blank: Page) -> None:
    page = blank
    sets = f"{own_address}/api/results/{FLEXURE}/sets"
    httpx.post(sets, json={"name": "grip", "how": "box", "low": [-1e4] * 3, "high": [1e4] * 3})
    loop = httpx.get(f"{own_address}/api/pairings", params={"result": FLEXURE}).json()[0]
    spec = {"result": FLEXURE, "name": "Grip", "x": loop["x_spec"], "y": {**loop["y_spec"], "at": "set:grip"}}
    httpx.post(f"{own_address}/api/pairings", json=spec)
    httpx.delete(f"{sets}/grip")
    page.goto(f"{own_address}/?bay=trace&result={FLEXURE}")
    page.get_by_label("Curve", exact=True).select_option("Grip")
    broken = page.get_by_test_id("broken-curve")
    expect(broken).to_contain_text("Grip cannot be drawn. There is no set named 'grip' in this result.")
    expect(page.get_by_label("Force place")).to_have_value("set:grip")
    page.get_by_label("Curve", exact=True).select_option("Loop")
    expect(broken).to_have_count(0)
    page.get_by_label("Curve", exact=True).select_option("Grip")
    undo(page)
    expect(broken).to_have_count(0)
    strata(page, "Loop")
    assert plotted(page, "p.data.map((d) => d.name)")


def test_rows_of_a_record_are_cut_off_and_come_back(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "trace", FLEXURE)
    said = page.get_by_test_id("corrections")
    expect(said).to_contain_text("sign reversed")
    page.get_by_text("Test record: columns").click()
    page.get_by_label("Last row").fill("640")
    page.keyboard.press("Enter")
    expect(said).to_contain_text("rows 1 to 640 of 961 taken")
    page.get_by_label("Force scale").fill("1,1")
    page.keyboard.press("Enter")
    expect(said).to_contain_text("Load cell: scaled by 1.1")
    undo(page)
    expect(said).not_to_contain_text("scaled")
    page.get_by_label("Last row").fill("961")
    page.keyboard.press("Enter")
    expect(said).not_to_contain_text("rows")


def test_a_printed_curve_is_read_off_its_picture(own_address: str, blank: Page, tmp_path: Path) -> None:
    """A plot made by another library, marked and followed with clicks: the record is the curve within a pixel or two."""
    figure = Figure(figsize=(7, 4.5), dpi=110)
    axes = figure.subplots()
    x = np.linspace(0, 16, 200)
    axes.plot(x, 7.2 * np.tanh(x / 3), "k")
    axes.set_xlim(0, 16)
    axes.set_ylim(0, 8)
    figure.savefig(tmp_path / "print.png")
    height = figure.bbox.height
    page = blank
    opened_in(page, own_address, "trace", FLEXURE)
    page.get_by_text("Test record: columns").click()
    page.get_by_role("button", name="read a printed curve").click()
    page.get_by_test_id("printed-file").set_input_files(tmp_path / "print.png")
    image = page.get_by_test_id("printed-picture")
    image.wait_for()
    box = image.bounding_box()
    assert box is not None
    scale = box["width"] / figure.bbox.width

    def click(u: float, v: float) -> None:
        across, up = axes.transData.transform((u, v))
        page.mouse.click(box["x"] + scale * across, box["y"] + scale * (height - up))

    expect(page.get_by_test_id("printed-say")).to_contain_text("first place of known value on the x axis")
    for mark in ((0, 0), (10, 0), (0, 0), (0, 8)):
        click(*mark)
    at = np.array([0, 1, 2, 4, 8, 15.5])
    for u in at:
        click(u, 7.2 * np.tanh(u / 3))
    click(1, 1)
    page.get_by_role("button", name="Take the last click back").click()
    expect(page.get_by_test_id("printed-say")).to_contain_text("6 points")
    for name, value in (
        ("x axis first mark", "0"),
        ("x axis second mark", "10"),
        ("y axis first mark", "0"),
        ("y axis second mark", "8"),
    ):
        page.get_by_label(name).fill(value)
    page.get_by_role("button", name="Read it off").click()
    expect(page.get_by_test_id("corrections")).to_contain_text("read off a picture at 6 points")
    answer = page.request.get(f"{own_address}/api/tests").json()[-1]
    assert answer["x"] == pytest.approx(at, abs=0.06) and answer["y"] == pytest.approx(7.2 * np.tanh(at / 3), abs=0.04)
    expect(page.get_by_role("link", name="Its picture")).to_be_visible()


def test_a_record_of_a_hundred_thousand_points_is_drawn_with_what_can_be_seen(
    own_address: str, blank: Page, tmp_path: Path
) -> None:
    t = np.linspace(0, 40 * np.pi, 100_000)
    rows = "\n".join(f"{a:.5f},{b:.5f}" for a, b in zip(16 * np.sin(t), 7 * np.sin(t + 0.4), strict=True))
    (tmp_path / "long.csv").write_text(f"Stroke,Load\nmm,kN\n{rows}\n")
    page = blank
    opened_in(page, own_address, "trace", FLEXURE)
    page.get_by_text("Test record: columns").click()
    page.get_by_test_id("test-file").set_input_files(tmp_path / "long.csv")
    expect(page.get_by_label("Record", exact=True)).to_contain_text("long.csv")
    drawn = _drawn(page, "long.csv", other_than=0)
    assert 100 < drawn < 12_000
    page.get_by_label("Axes, picture, points").first.scroll_into_view_if_needed()
    plot = page.locator(".js-plotly-plot").first.bounding_box()
    assert plot is not None
    page.mouse.move(plot["x"] + 0.6 * plot["width"], plot["y"] + 0.4 * plot["height"])
    page.mouse.wheel(0, -800)
    assert _drawn(page, "long.csv", other_than=drawn) != drawn, "closer, what can be seen is something else"


def _drawn(page: Page, name: str, other_than: int) -> int:
    """How many points of a line are drawn, once that is other than it was."""
    count = other_than
    for _ in range(100):
        found = plotted(page, f"p.data.find((d) => d.name === '{name}')?.x.length ?? {other_than}")
        assert isinstance(found, int)
        count = found
        if count != other_than:
            break
        page.wait_for_timeout(100)
    return count


def test_what_is_unfolded_meets_the_outside_checkers_rules(blank: Page, address: str) -> None:
    """axe-core, levels A and AA: the tabs of the balance of a frame, a member with its plots, the forms of curve and record."""
    page = blank
    opened_in(page, address, "balance", TRUSS, "&step=12")
    for name in ("Balance", "Checks", "Sets", "Inside"):
        tab(page, name, "Balance")
        settle(page)
        assert violations(page) == [], name
    page.get_by_test_id("members").locator("tbody tr").first.get_by_role("button").click()
    page.get_by_test_id("taken-over").wait_for()
    settle(page)
    assert violations(page) == []
    opened_in(page, address, "trace", FLEXURE)
    page.get_by_text("Curve: what against what").click()
    page.get_by_text("Test record: columns").click()
    page.get_by_label("Axes, picture, points").first.click()
    settle(page)
    assert violations(page) == []
