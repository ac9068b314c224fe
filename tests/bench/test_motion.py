"""The demo's third review in the real interface: which modes there are, how they agree with the test, what makes the peak."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import quote

import pytest
from playwright.sync_api import Page, expect

from tests.bench.driving import AXE, alike, asked, each_tab, entered, opened_in, picture, settle, strata, tab, undo
from tests.bench.serving import bench_on

CARRIER, HOOD_MODES, HOOD, TESTED, TAP, SWEEP, MODES = 1, 2, 3, 4, 5, 6, 7
HEAD = "point:0,0,660"


@pytest.fixture(scope="module")
def moving(motion_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    with bench_on(Path(shutil.copy(motion_file, tmp_path_factory.mktemp("motion")))) as address:
        yield address


def motion(*words: str) -> str:
    return "&motion=" + quote(";".join(words))


def test_modes_are_listed_gone_through_and_held_against_the_test(moving: str, blank: Page) -> None:
    page = blank
    opened_in(page, moving, "motion", MODES, "&field=displacement&measure=magnitude&step=0")
    modes = page.get_by_test_id("modes").locator("tbody tr")
    expect(modes).to_have_count(10)
    expect(modes.nth(1)).to_contain_text("53.63")
    expect(modes.nth(1)).to_contain_text("58 %")
    expect(modes.nth(1)).to_contain_text("near 1")
    page.get_by_role("button", name="y", exact=True).click()
    expect(modes.nth(1)).to_contain_text("0 %")
    expect(page.get_by_test_id("motion-verdict")).to_contain_text("77 % along x")
    page.get_by_role("button", name="largest 1").click()
    expect(page.get_by_text("shapes scaled to a largest motion of 1")).to_be_visible()
    modes.nth(2).get_by_role("button").click()
    expect(page.get_by_test_id("reading-line")).to_contain_text("mode 3, 414.6 Hz")
    settle(page)
    assert asked(page, "step") == "2"
    tab(page, "Shapes", "Motion")
    page.get_by_label("The modes of").select_option(label="post, tested modes")
    expect(page.get_by_test_id("motion-verdict")).to_have_text("6 of 7 pairs agree in shape and frequency: 1 with 1 doubtful.")
    twisting = page.get_by_test_id("pairs").locator("tbody tr").nth(2)
    expect(twisting).to_contain_text("7")
    expect(twisting).to_contain_text("+2.7 %")
    floor = page.get_by_test_id("floor")
    expect(floor.locator("td.pair")).to_have_count(7)
    expect(floor.locator("tbody tr").nth(2).locator("td").nth(6)).to_have_text("1.00")
    expect(floor.locator("tbody tr").nth(0).locator("td").nth(0)).to_have_text("0.68"), "turned in the plane of the two near-equal"
    floor.locator("tbody tr").nth(3).click()
    expect(page.get_by_test_id("reading-line")).to_contain_text("mode 4, 433.2 Hz")
    settle(page)
    page.reload()
    expect(page.get_by_test_id("motion-verdict")).to_contain_text("6 of 7 pairs agree")


def test_what_makes_the_peak_is_read_off_the_sweep(moving: str, blank: Page) -> None:
    page = blank
    opened_in(page, moving, "motion", SWEEP, "&field=displacement&measure=y&step=0")
    expect(page.get_by_role("tablist", name="Motion").get_by_role("tab").first).to_have_text("Response")
    entered(page, "Place of the motion", HEAD)
    peak = page.get_by_test_id("peaks").locator("tbody tr")
    expect(peak).to_have_count(2)
    expect(peak.first).to_contain_text("53.54")
    expect(peak.first).to_contain_text("2.391")
    expect(peak.first).to_contain_text("0.0100"), "half of the loss factor of 0.02"
    expect(peak.last).to_contain_text("433")
    expect(page.get_by_test_id("response-plot")).to_be_visible()
    with page.expect_download() as file:
        page.get_by_role("button", name="Response UFF").click()
    assert file.value.suggested_filename.endswith("sweep response.uff")
    assert file.value.path().read_text().split()[:2] == ["-1", "58"]
    page.get_by_role("button", name="decibels").click()
    expect(peak.first).to_contain_text("7.57")
    page.get_by_role("button", name="third octaves").click()
    expect(page.get_by_test_id("response-table")).to_contain_text("third octave")
    expect(page.get_by_test_id("response-table").locator("tbody tr")).to_have_count(12), "those a frequency lies in"
    entered(page, "Place of the motion", "node:abc")
    expect(page.get_by_role("alert").first).to_contain_text("is not a place")
    entered(page, "Place of the motion", HEAD)
    tab(page, "Shares", "Motion")
    page.get_by_label("Modes of").select_option(label="post, modes")
    page.get_by_role("button", name="y", exact=True).click()
    page.keyboard.press("Home")
    rows = page.get_by_test_id("mode-shares").locator("tbody tr")
    expect(rows).to_have_count(10)
    expect(rows.nth(0)).to_contain_text("99 %")
    page.get_by_label("Mode 1 in the sum").uncheck()
    settle(page)
    words = asked(page, "motion")
    assert words is not None and words.split(";")[3] == "2.3.4.5.6.7.8.9.10"
    expect(page.get_by_test_id("shares-plot")).to_be_visible()
    tab(page, "Modes", "Motion")
    expect(page.get_by_test_id("other-kind")).to_contain_text("post, sweep is a sweep of frequencies")


def test_the_wheel_turns_the_phase_and_the_shape_goes_with_it(moving: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_in(page, moving, "field", SWEEP, "&field=displacement&measure=y&step=9&shown=25&undeformed=0&labelled=0")
    at_first = picture(page)
    wheel = page.get_by_role("slider", name="Phase")
    entered(page, "Phase in degrees", "90")
    settle(page)
    expect(page.get_by_test_id("reading-line")).to_contain_text("at phase 90°")
    assert not alike(page, at_first)
    wheel.focus()
    page.keyboard.press("ArrowLeft")
    settle(page)
    assert asked(page, "phase") == "85"
    opened_in(page, moving, "motion", MODES, "&field=displacement&measure=magnitude&step=0&shown=8&undeformed=0&labelled=0")
    largest = picture(page)
    entered(page, "Phase in degrees", "180")
    settle(page)
    expect(page.get_by_label("Phase in degrees")).to_have_value("180°")
    assert not alike(page, largest), "half a cycle on it leans to the other side"
    entered(page, "Phase in degrees", "0")
    settle(page)
    assert alike(page, largest)
    page.get_by_role("button", name=re.compile("^Film,")).click()
    page.get_by_role("group", name="What is played through").get_by_role("button", name="phase").click()
    expect(page.get_by_role("dialog")).to_contain_text("24 frames")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.get_by_label("Phase in degrees")).not_to_have_value("0°")
    page.get_by_role("button", name="Pause").click()
    assert asked(page, "step") == "0", "the mode stays"


def test_a_phase_stays_with_the_view_that_has_one(moving: str, blank: Page) -> None:
    """The reading of a sweep goes along to the modes beside it, without the phase that means nothing there."""
    page = blank
    beside = quote(f"result={MODES}&field=displacement&measure=y&step=0")
    opened_in(page, moving, "field", SWEEP, f"&field=displacement&measure=y&step=9&twin={beside}")
    entered(page, "Phase in degrees", "90")
    settle(page)
    heads = page.get_by_test_id("pane-head")
    expect(heads.nth(0)).to_contain_text("at phase 90°")
    expect(heads.nth(1)).to_contain_text("mode")
    expect(heads.nth(1)).not_to_contain_text("phase")
    expect(page.get_by_text("it has no phase")).to_have_count(0)


def test_a_tap_tells_its_damping_and_is_kept_as_an_exhibit(moving: str, blank: Page) -> None:
    page = blank
    opened_in(
        page, moving, "motion", TAP, "&field=displacement&measure=y&step=40" + motion("", "x", "amplitude", "", "decay", HEAD)
    )
    figures = page.get_by_test_id("motion-figures")
    expect(figures).to_contain_text("0.008199"), "0.0081 by its damping of mass and stiffness at 53.5 Hz"
    expect(figures).to_contain_text("53.51 Hz")
    page.get_by_role("button", name="spectrum").click()
    expect(figures).to_contain_text("resolution")
    expect(page.get_by_test_id("time-plot")).to_be_visible()
    page.get_by_role("button", name="shock").click()
    expect(page.get_by_role("alert").first).to_contain_text("is of an acceleration")
    page.get_by_role("button", name="decay").click()
    expect(figures).to_contain_text("0.008199")
    page.keyboard.press("k")
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("the decay", exact=True).click()
    dialog.get_by_role("button", name="Keep", exact=True).click()
    expect(dialog).to_have_count(0)
    page.keyboard.press("9")
    expect(page.get_by_test_id("exhibit-curve").first).to_contain_text("Decay")
    expect(page.get_by_test_id("exhibit-curve").first).to_contain_text("16 half swings")


def test_a_response_is_held_against_the_shaker_and_a_file_of_ones_own(moving: str, blank: Page, tmp_path: Path) -> None:
    page = blank
    opened_in(page, moving, "motion", SWEEP, "&field=displacement&measure=y&step=9")
    entered(page, "Place of the motion", HEAD)
    page.get_by_label("What stands beside it").select_option(label="shaker, y at 60, 60, 660")
    row = page.get_by_test_id("beside")
    expect(row.get_by_test_id("beside-verdict")).to_contain_text("1 of 2 peaks agree in frequency and amplitude: 50.78 Hz")
    expect(row).to_contain_text("integrated over time twice")
    expect(page.get_by_label("Place of the motion")).to_have_value("point:60,60,660"), "read where it was measured"
    pairs = row.get_by_test_id("peak-pairs").locator("tbody tr")
    expect(pairs.first).to_contain_text("+5.4 %")
    expect(pairs.first).to_contain_text("doubtful")
    expect(page.get_by_test_id("response-legend")).to_contain_text("shaker, y at 60, 60, 660")
    expect(page.get_by_test_id("response-pairs")).to_contain_text("doubtful")
    page.get_by_text("Accept within").click()
    entered(page, "Frequency of a peak, accepted within", "6")
    entered(page, "Least FRAC", "0.5")
    expect(row.get_by_test_id("beside-verdict")).to_contain_text("2 of 2 peaks agree in frequency and amplitude; FRAC 0.55.")
    entered(page, "Frequency of a peak, accepted within", "")
    entered(page, "Least FRAC", "")
    row.get_by_text("What its columns are").click()
    entered(page, "Amplitude, scale", "0.8")
    expect(pairs.last).to_contain_text("1.51")
    expect(pairs.last).to_contain_text("fails")
    settle(page)
    page.reload()
    expect(pairs.last).to_contain_text("fails"), "the address has what stands beside it"
    undo(page)
    expect(pairs.last).to_contain_text("agrees")
    # A table of a laboratory, in other units, of another place.
    own = 53.0
    rows = [(f, 2.0 / abs(complex(1 - (f / own) ** 2, 0.02 * f / own))) for f in range(20, 600, 2)]
    (tmp_path / "hand held.csv").write_text("frequency,amplitude\nHz,um\n" + "".join(f"{f},{a}\n" for f, a in rows))
    page.get_by_test_id("response-file").set_input_files(tmp_path / "hand held.csv")
    second = page.get_by_test_id("beside").nth(1)
    expect(second).to_contain_text("hand held.csv")
    expect(second).to_contain_text("FRAC is that of amplitudes alone")
    (tmp_path / "force.csv").write_text("travel,force\nmm,N\n0,0\n1,2\n2,3\n")
    page.get_by_test_id("response-file").set_input_files(tmp_path / "force.csv")
    expect(page.get_by_test_id("beside").nth(2).get_by_role("alert")).to_contain_text("no response over frequency")
    page.get_by_role("button", name="No longer beside: test:").click()
    page.get_by_role("button", name="No longer beside: hand held.csv").click()
    expect(page.get_by_test_id("beside")).to_have_count(1)
    page.get_by_label("What stands beside it").select_option(label="another place …")
    entered(page, "Another place of the response", "point:25,25,410")
    expect(page.get_by_test_id("response-legend")).to_contain_text("point:25,25,410")
    page.get_by_role("group", name="What is drawn").get_by_role("button", name="phase").click()
    page.get_by_label("Without jumps of a full turn").click()
    settle(page)
    assert asked(page, "motion-ways") == "unwrapped=true"
    page.keyboard.press("k")
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("the agreement of the responses", exact=True).click()
    dialog.get_by_role("button", name="Keep", exact=True).click()
    expect(dialog).to_have_count(0)
    page.keyboard.press("9")
    expect(page.get_by_text("Response against a test").first).to_be_visible()


def test_the_carrier_comes_back_slower_and_its_impulse_is_its_momentum(moving: str, blank: Page) -> None:
    page = blank
    opened_in(page, moving, "motion", CARRIER, "&field=displacement&measure=x&step=36")
    entered(page, "Place of the motion", "set:carrier")
    page.get_by_role("button", name="rebound").click()
    expect(page.get_by_role("alert").first).to_contain_text("Name the force of the contact")
    page.get_by_label("What pushes").select_option(label="front")
    page.get_by_label("The part that moves").select_option(label="part 1")
    expect(page.get_by_test_id("motion-verdict")).to_have_text("The impulse agrees with the change of momentum, within 0.14 %.")
    figures = page.get_by_test_id("motion-figures")
    expect(figures).to_contain_text("0.7224")
    expect(figures).to_contain_text("58.49 N·s")
    expect(page.get_by_test_id("time-plot")).to_be_visible()
    page.get_by_role("group", name="Direction of the motion").get_by_role("button", name="y").click()
    expect(page.get_by_role("alert").first).to_contain_text("Nothing pushes")
    page.get_by_role("button", name="spectrogram").click()
    expect(figures).to_contain_text("resolution")
    entered(page, "Length of a piece", "0.009")
    expect(page.get_by_text("pieces of 0.009 s")).to_be_visible()
    entered(page, "Length of a piece", "9")
    expect(page.get_by_role("alert").first).to_contain_text("is none of a motion of 151")
    entered(page, "Length of a piece", "")
    page.get_by_role("button", name="spectrum", exact=True).click()
    page.get_by_role("group", name="Window").get_by_role("button", name="flat-top").click()
    expect(page.get_by_text("flat-top window")).to_be_visible()
    settle(page)
    assert asked(page, "motion-ways") == "window=flattop;pushed=front;moves=part%201"


def test_a_mass_that_is_stated_tells_what_moves_and_is_kept(moving: str, blank: Page) -> None:
    page = blank
    opened_in(page, moving, "motion", TESTED, "&field=displacement&measure=y&step=1")
    expect(page.get_by_test_id("reading-line")).to_contain_text("mode 2, 51.15 Hz")
    entered(page, "Mass of the whole", "-1")
    expect(page.get_by_test_id("whole-mass").get_by_role("alert")).to_contain_text("A number above 0")
    entered(page, "Mass of the whole", "0.012")
    expect(page.get_by_text("The stated mass cannot be spread")).to_be_visible(), "its points and lines have no volume"
    page.reload()
    expect(page.get_by_role("textbox", name="Mass of the whole")).to_have_value("0.012")
    undo(page)
    expect(page.get_by_role("textbox", name="Mass of the whole")).to_have_value("")


@pytest.mark.parametrize("result", [MODES, SWEEP, TAP, CARRIER])
def test_motion_meets_the_outside_checkers_rules_and_keeps_to_its_width(moving: str, blank: Page, result: int) -> None:
    page = blank
    of, place = ("rebound", "set:carrier") if result == CARRIER else ("decay", HEAD)
    words = motion(str(TESTED if result == MODES else MODES), "y", "level", "", of, place)
    beside = "&responses=" + quote(quote("test:shaker, y at 60, 60, 660") + ";" + quote("point:25,25,410"))
    opened_in(page, moving, "motion", result, "&field=displacement&measure=y&step=0" + words + beside)
    page.evaluate(AXE)
    wrong, wide = (
        [],
        "[...document.querySelectorAll('body, .drawer, .top, .strata')].filter(e => e.scrollWidth > e.clientWidth + 1)",
    )
    for name in each_tab(page, "8"):
        page.locator(".drawer-tabs").get_by_role("tab", name=name, exact=True).click()
        settle(page)
        found = page.evaluate("axe.run({include: [['.drawer'], ['.strata'], ['.step-rail']]}, {resultTypes: ['violations']})")
        wrong += [(name, v["id"], v["nodes"][0]["html"][:150]) for v in found["violations"]]
        wrong += [(name, *of) for of in page.evaluate(f"{wide}.map(e => [e.className, e.scrollWidth - e.clientWidth])")]
    assert wrong == []
    strata(page, "Shapes" if result == MODES else "Rebuilt")
