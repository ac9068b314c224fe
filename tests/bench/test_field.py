"""The Field bay: pixels held against numbers, the model as it is shown, marks, films; by pointer and by keyboard alone."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import numpy as np
import pytest
from cmcrameri import cm
from PIL import Image, ImageSequence
from playwright.sync_api import Browser, Page, expect

from ironstone.engine.base import keep
from ironstone.engine.reading.cuts import CutIn
from ironstone.store import Review, intake
from tests.bench.driving import (
    BARE,
    COARSE_LUG,
    FLEXURE,
    LUG,
    MISES,
    THIN,
    alike,
    asked,
    canvas,
    choose,
    differs,
    key_colour,
    lit,
    moved,
    opened,
    opened_in,
    picture,
    places,
    probed,
    settle,
    tab,
    until,
)
from tests.bench.serving import bench_on, opened_page
from tests.writing import bar_of_hexahedra, write_vtu

INK, PAPER, STONE = (np.array(c) for c in ([35, 40, 45], [251, 249, 244], [180, 173, 160]))


CASES = {
    "raw, in bands": ("&averaging=off&bands=9", 9, False),
    "raw, continuous": ("&averaging=off&bands=0", 0, False),
    "averaged within parts": ("&averaging=part&bands=9", 9, False),
    "element means": ("&averaging=element&bands=9", 9, False),
    "logarithmic": ("&averaging=part&bands=0&log=1&low=1&high=200", 0, True),
}


def test_a_pixel_has_the_keys_colour_for_the_engines_value(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened(page, address + MISES)
    for case, (more, bands, log) in CASES.items():
        moved(page, address + MISES + more)
        key = page.get_by_test_id("core-key")
        low, high = (float(key.get_attribute(f"data-{end}") or 0) for end in ("low", "high"))
        drawn, right, near = picture(page), 0, 0
        for x, y in places(page, 8):
            value = probed(page, x, y)["value"]
            share = (np.log(value / low) / np.log(high / low) if log else (value - low) / (high - low)) * max(bands, 1)
            if bands and abs(share - round(share)) < 0.06:
                near += 1
                continue
            right += lit(drawn[y, x], key_colour(value, low, high, bands, log), 5.0 if bands else 9.0)
        assert right >= 7 - near and right >= 4, f"{case}: {right} of 8 have their colour, {near} lie on a band's border"


def test_outside_the_limits_the_end_colour_is_hatched(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened(page, address + MISES + "&low=30&high=60")
    drawn, seen = picture(page), 0
    for x, y in places(page):
        value = probed(page, x, y)["value"]
        if 29 < value < 61:
            continue
        end = key_colour(value, 30, 60, 9)
        around = drawn[y - 4 : y + 5, x - 4 : x + 5].reshape(-1, 3)
        plain = sum(lit(p, end) for p in around) / len(around)
        bright = float(end @ [0.299, 0.587, 0.114]) > 127
        hatch = 0.45 * end + 0.55 * (INK if bright else PAPER)
        striped = sum(lit(p, hatch, 8) for p in around) / len(around)
        assert plain > 0.15 and striped > 0.15, "half of it the end colour, half of it hatched"
        seen += 1
    assert seen >= 3
    expect(page.get_by_test_id("core-key")).to_contain_text("outside the limits")


@pytest.fixture
def patchy(tmp_path: Path) -> Path:
    """Three cubes in a row: the middle one has no stress; plies 2, 5, 2; two parts."""
    points, cells, ids = bar_of_hexahedra()
    stress = np.zeros((24, 6))
    stress[:, 0] = np.repeat([10.0, np.nan, 30.0], 8)
    moved = np.zeros((24, 3))
    moved[:, 1] = 0.05 * points[:, 0] ** 2
    file = write_vtu(
        tmp_path / "bar.vtu",
        points,
        cells,
        {"stress": stress, "displacement": moved, "GlobalIds": ids},
        {"part": np.array([1, 1, 2], dtype=np.int32), "ply_number": np.array([2, 5, 2], dtype=np.int32)},
        time=0.0,
    )
    with Review.create(tmp_path / "patchy.ironstone") as review:
        intake(review, [file])
    return tmp_path / "patchy.ironstone"


def test_where_there_is_no_value_it_is_stone_and_dots_and_said(picture_browser, patchy: Path) -> None:  # type: ignore[no-untyped-def]
    with bench_on(patchy) as address, opened_page(picture_browser, f"{address}/?bay=field&field=stress&measure=xx{BARE}") as page:
        settle(page)
        drawn = picture(page)
        shades = drawn.reshape(-1, 3) / STONE
        stone = (np.ptp(shades, axis=1) < 0.03) & (shades.max(1) < 1.02) & (shades.min(1) > 0.75)
        assert stone.mean() > 0.03, "a third of the bar"
        expect(page.get_by_test_id("core-key")).to_contain_text("no value")
        missing = [probed(page, x, y) for x, y in places(page, 8)]
        answer = {m["element"]: m["value"] for m in missing}
        assert None in answer.values() and {10.0, 30.0} >= {v for v in answer.values() if v is not None}


def test_far_from_the_origin_the_picture_is_the_same(picture_browser: Browser, tmp_path: Path) -> None:
    """A bar of 3 x 1 x 1 at the origin and, as in map coordinates, five million away: pixel by pixel, cut and with arrows too."""
    points, cells, ids = bar_of_hexahedra()
    stress = np.zeros((24, 6))
    stress[:, 0] = 10.0 + 5.0 * points[:, 0]
    moved = np.stack([0.02 * points[:, 0], 0.05 * points[:, 0] ** 2, 0.0 * points[:, 0]], axis=1)
    drawn = []
    for far in (0.0, 5e6):
        data = {"stress": stress, "displacement": moved, "GlobalIds": ids}
        file = write_vtu(tmp_path / f"bar_{far:g}.vtu", points + far, cells, data, {}, time=0.0)
        with Review.create(tmp_path / f"bar_{far:g}.ironstone") as review:
            result = intake(review, [file])
            through = f"{far + 1.4},{far + 0.5},{far + 0.5}:1,0.3,0"
            keep(review, CutIn(result=result, name="across", through=through, removes="front"))
        more = f"&field=stress&measure=xx&arrows=displacement,0.12,0.04,full,tail{BARE}"
        with (
            bench_on(tmp_path / f"bar_{far:g}.ironstone") as address,
            opened_page(picture_browser, f"{address}/?bay=field{more}") as page,
        ):
            settle(page)
            drawn.append(picture(page))
            drawn.append(np.array(probed(page, *places(page, 1)[0])["xyz"]) - far)
    assert (np.abs(drawn[0] - drawn[2]).max(2) > 8).mean() < 0.002
    assert drawn[1] == pytest.approx(drawn[3], abs=0.02)


def test_names_have_a_key_of_names_and_no_scale(picture_browser, patchy: Path) -> None:  # type: ignore[no-untyped-def]
    with bench_on(patchy) as address, opened_page(picture_browser, f"{address}/?bay=field&field=ply_number{BARE}") as page:
        settle(page)
        key = page.get_by_test_id("core-key")
        expect(key).to_contain_text("ply number 2")
        expect(key).to_contain_text("ply number 5")
        assert key.get_attribute("data-low") is None, "no scale, no limits"
        table = 255 * np.array(cm.cmaps["batlowS"].colors[:24])
        drawn = picture(page)
        for x, y in places(page, 8):
            answer = probed(page, x, y)
            number = int(answer["name"].split()[-1])
            assert lit(drawn[y, x], table[number]), "each name in its own colour, nothing between two"
        tab(page, "Model")
        page.get_by_role("button", name="Colour by part").click()
        expect(key).to_contain_text("part 1")
        expect(key).to_contain_text("part 2")
        expect(page.get_by_test_id("reading-line")).to_contain_text("part, a name, as it is")


def seen_at(camera: str, box: dict[str, float], xyz: list[float]) -> tuple[float, float]:
    """Where a camera, as the address bar has it, draws a place in a canvas: parallel, z up."""
    numbers = [float(v) for v in camera.split(",")]
    eye, target, zoom = np.array(numbers[:3]), np.array(numbers[3:6]), numbers[6]
    scale = zoom * min(box["width"], box["height"]) / 400
    back = (eye - target) / np.linalg.norm(eye - target)
    right = np.cross([0, 0, 1.0], back)
    right /= np.linalg.norm(right)
    up = np.cross(back, right)
    away = np.array(xyz) - target
    return box["width"] / 2 + scale * float(away @ right), box["height"] / 2 - scale * float(away @ up)


def test_on_the_deformed_shape_the_pointer_finds_the_element_that_is_drawn_there(picture_blank: Page, address: str) -> None:
    """What the pointer tells lies, moved by the exaggerated displacement, where the pointer is."""
    page = picture_blank
    opened(page, f"{address}/?bay=field&result={LUG}&field=displacement&measure=magnitude&step=8&shown=300{BARE}")
    page.keyboard.press("f")
    settle(page)
    # All are looked at first, and the window left: a flag would be told to it, and its card could stand under the pointer.
    found = [(x, y, probed(page, x, y)) for x, y in places(page, 8)]
    camera, box = asked(page, "camera") or "", canvas(page)
    page.goto("about:blank")
    for x, y, answer in found:
        flag = {"result": LUG, "element": answer["element"], "xi": answer["xi"]}
        planted = httpx.post(f"{address}/api/flags", json=flag).json()["id"]
        place = httpx.get(
            f"{address}/api/flags/{planted}/answer", params={"field": "displacement", "measure": "magnitude", "step": 8}
        ).json()
        httpx.delete(f"{address}/api/kept/flag/{planted}").raise_for_status()
        drawn_at = seen_at(camera, box, [p + 300 * m for p, m in zip(place["xyz"], place["moved"], strict=True)])
        assert drawn_at == pytest.approx((x + 0.5, y + 0.5), abs=1.6)
        still = seen_at(camera, box, place["xyz"])
        assert np.hypot(still[0] - x, still[1] - y) > 4 or np.linalg.norm(place["moved"]) * 300 < 4


def test_a_link_that_names_a_step_alone_opens_at_it(blank: Page, address: str) -> None:
    page = blank
    opened(page, f"{address}/?bay=field&result={LUG}&step=6")
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", "6")
    expect(page.get_by_test_id("reading-line")).to_contain_text("von Mises of stress")
    opened(page, f"{address}/?bay=field&result={LUG}&step=99")
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", "8")


def test_parts_are_hidden_alone_and_seen_through(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened(page, address + MISES)
    whole = picture(page)
    tab(page, "Model")
    page.get_by_role("button", name="part 2 alone").click()
    settle(page)
    assert asked(page, "hidden") == "0"
    assert differs(page, whole, share=0.1, by=20)
    expect(page.get_by_test_id("view")).to_contain_text("Hidden: part 1")
    page.get_by_test_id("view").get_by_role("button", name="Show all").click()
    settle(page)
    assert (np.abs(picture(page) - whole).max(2) > 8).mean() < 0.002, "as it was"
    page.get_by_label("See through part 1").click()
    settle(page)
    assert asked(page, "translucent") == "0"
    assert differs(page, whole, share=0.05, by=8)
    page.get_by_label("See through part 1").click()
    page.get_by_role("button", name="Hide by click").click()
    box = canvas(page)
    page.mouse.click(box["x"] + 0.25 * box["width"], box["y"] + 0.6 * box["height"])
    expect(page.get_by_test_id("view")).to_contain_text("Hidden: part 1")
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Hide by click")).to_have_attribute("aria-pressed", "false")


LOOKS = ["style=lines", "style=inside", "style=outline", "nodes=1", "apart=1", "detail=1", "perspective=1"]


def test_every_way_of_drawing_is_drawn_and_kept_in_the_address(picture_blank: Page, address: str) -> None:
    page = picture_blank
    model = f"{address}/?bay=field&result={COARSE_LUG}&field=stress&measure=von-mises&step=4{BARE}"
    opened(page, model)
    shaded = picture(page)
    for look in LOOKS:
        moved(page, f"{model}&{look}")
        assert differs(page, shaded, share=0.002), look
        name, value = look.split("=")
        page.keyboard.press("f")
        settle(page)
        assert asked(page, name) == value


@pytest.mark.parametrize("looks", ["style=lines&nodes=1&perspective=1", "style=inside&apart=1&detail=1", "style=outline"])
def test_ways_of_drawing_come_back_by_their_address(picture_blank: Page, address: str, looks: str) -> None:
    page = picture_blank
    opened(page, f"{address}/?bay=field&result={COARSE_LUG}&field=stress&measure=von-mises&step=4{BARE}&{looks}")
    page.keyboard.press("f")
    settle(page)
    again = page.url
    assert all(look in again for look in looks.split("&"))
    page.goto("about:blank")
    opened(page, again)
    fitted = picture(page)
    page.keyboard.press("f")
    assert alike(page, fitted, 0.003)


def test_views_by_direction_by_name_and_by_box(own_address: str, picture_blank: Page) -> None:
    page = picture_blank
    opened_in(page, own_address, "field", COARSE_LUG)
    tab(page, "View")
    page.get_by_role("button", name="+x", exact=True).click()
    settle(page)
    numbers = [float(v) for v in (asked(page, "camera") or "").split(",")]
    away = np.array(numbers[:3]) - np.array(numbers[3:6])
    assert away / np.linalg.norm(away) == pytest.approx([1, 0, 0], abs=1e-6)
    page.get_by_label("Name this view").fill("from the right")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_test_id("named-view")).to_have_text("from the right")
    page.get_by_role("button", name="corner", exact=True).click()
    settle(page)
    corner = picture(page)
    zoom = float((asked(page, "camera") or "").split(",")[6])
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("z")
    box = canvas(page)
    page.mouse.move(box["x"] + 300, box["y"] + 150)
    page.mouse.down()
    page.mouse.move(box["x"] + 500, box["y"] + 250, steps=4)
    page.mouse.up()
    settle(page)
    closer = float((asked(page, "camera") or "").split(",")[6])
    expected = min(box["width"] / 200, box["height"] / 100)
    assert closer / zoom == pytest.approx(expected, rel=0.02)
    assert differs(page, corner, share=0.05)
    page.get_by_test_id("named-view").get_by_role("button", name="from the right", exact=True).click()
    settle(page)
    back = [float(v) for v in (asked(page, "camera") or "").split(",")]
    assert back == pytest.approx(numbers, rel=1e-5)


def test_arrows_crosses_and_their_key(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened(page, address + MISES)
    without = picture(page)
    tab(page, "Marks")
    page.get_by_label("Of", exact=True).select_option("reaction")
    settle(page)
    key = page.get_by_test_id("arrow-key")
    expect(key).to_contain_text("Arrows: reaction")
    assert differs(page, without, share=0.001, by=20)
    with_arrows = picture(page)
    page.get_by_role("button", name="tip at the point").click()
    page.get_by_role("button", name="full", exact=True).click()
    settle(page)
    assert differs(page, with_arrows, share=0.001, by=20)
    assert asked(page, "arrows") == "reaction,0.12,0.04,full,tip"
    page.get_by_label("Of", exact=True).select_option("stress")
    expect(key).to_contain_text("Crosses: stress")
    expect(key).to_contain_text("tension")


def test_measuring_by_picks_and_by_numbers(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened_in(page, address, "field", LUG, f"&field=stress&measure=von-mises&step=4{BARE}")
    tab(page, "Marks")
    page.get_by_role("button", name="length").click()
    page.get_by_label("Nodes", exact=True).fill("1, 25")
    page.keyboard.press("Enter")
    answer = page.get_by_test_id("measured")
    expect(answer).to_contain_text("node 1 – node 25")
    a, b = (
        np.array(httpx.get(f"{address}/api/results/{LUG}/nodes/{n}/position", params={"step": 4}).json()["xyz"]) for n in (1, 25)
    )
    shown = float(re.search(r"undeformed ([\d.]+)", answer.inner_text().replace(THIN, "").replace("\n", " "))[1])  # type: ignore[index]
    assert shown == pytest.approx(float(np.linalg.norm(a - b)), rel=1e-4)
    page.get_by_role("button", name="area", exact=True).click()
    x, y = places(page, 1)[0]
    box = canvas(page)
    page.mouse.click(box["x"] + x, box["y"] + y)
    expect(answer).to_contain_text("mm²")
    page.get_by_role("button", name="volume", exact=True).click()
    expect(answer).to_contain_text("1080 elements shown")
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("Escape")
    expect(answer).to_have_count(0)


def test_a_flag_at_a_point_shows_two_averagings_in_one_table(own_picture_page: Page) -> None:
    page = own_picture_page
    settle(page)
    tab(page, "Marks")
    page.get_by_role("button", name="the point").click()
    x, y = places(page, 1)[0]
    box = canvas(page)
    page.mouse.click(box["x"] + x, box["y"] + y)
    card = page.get_by_test_id("flag-2")
    expect(card).to_contain_text("inside element")
    page.get_by_test_id("flag-1").get_by_role("button", name="Compare averaged").click()
    table = page.get_by_test_id("flag-compare")
    expect(table).to_contain_text("as computed")
    expect(table).to_contain_text("within each part")
    assert table.locator("tbody tr").count() >= 2
    page.get_by_role("button", name="2 in the table").click()
    page.get_by_label("Name of flag 2").fill("mid leg")
    page.keyboard.press("Enter")
    expect(card).to_contain_text("mid leg")


def test_a_half_is_completed_by_its_mirror_image(own_picture_page: Page, own_address: str) -> None:
    page = own_picture_page
    settle(page)
    before = picture(page)
    tab(page, "Model")
    page.get_by_label("Mirrored at").select_option("y")
    refused, plane = page.get_by_text("cuts through the model"), page.get_by_label("Plane at y")
    expect(refused.first.or_(plane)).to_be_visible()
    if refused.count():
        below = httpx.put(f"{own_address}/api/results/{FLEXURE}/mirror", json={"axis": "y", "at": -60.0})
        assert below.status_code == 200
        page.reload()
        page.get_by_test_id("core-key").wait_for()
    expect(page.get_by_test_id("view")).to_contain_text("Completed by its mirror image about y")
    page.keyboard.press("f")
    settle(page)
    assert differs(page, before, share=0.05)
    page.keyboard.press("5")
    expect(page.get_by_text(re.compile("Doubled: the result is one half")).first).to_be_visible()


def test_playing_keeps_to_its_range_stride_and_direction(blank: Page, address: str) -> None:
    page = blank
    opened(page, address)
    here = page.get_by_test_id("rail-here")
    page.get_by_role("button", name="Playing").click()
    for label, value in (("From step", "11"), ("To step", "31"), ("Stride", "10"), ("Pictures a second", "6")):
        page.get_by_label(label).fill(value)
        page.keyboard.press("Enter")
    page.get_by_role("button", name="to and fro").click()
    page.keyboard.press("Escape")
    here.evaluate(
        "rail => { window.steps = []; new MutationObserver(() => window.steps.push(rail.dataset.step))"
        ".observe(rail, { attributeFilter: ['data-step'] }); }"
    )
    page.get_by_label("Play", exact=True).click()
    until(page, "window.steps.length > 9")
    seen: list[str] = page.evaluate("window.steps")
    assert set(seen) == {"10", "20", "30"}
    turns = "".join(seen)
    assert "103020" not in turns and "2030" in turns and "2010" in turns, "there and back, never jumping"


@pytest.mark.parametrize("kind", ["GIF", "Video WebM"])
def test_a_film_has_every_played_step_with_its_caption(picture_blank: Page, address: str, kind: str, tmp_path: Path) -> None:
    page = picture_blank
    opened(page, address + MISES + "&low=0&high=150")
    page.get_by_role("button", name="Playing").click()
    page.get_by_label("Stride").fill("2")
    page.keyboard.press("Enter")
    with page.expect_download() as got:
        page.get_by_role("button", name=kind, exact=True).click()
    file = Path(got.value.path())
    assert got.value.suggested_filename.startswith("lug_ coarse steps 1 to 9")
    if kind == "GIF":
        frames = [f.convert("RGB") for f in ImageSequence.Iterator(Image.open(file))]
        assert len(frames) == 5, "steps 1, 3, 5, 7 and 9"
        first, second = (np.asarray(f).astype(int) for f in frames[:2])
        assert (np.abs(first - second).max(2) > 20).mean() > 0.01, "the steps differ"
        caption = first[-110:-60]
        assert (caption.max(2) < 90).sum() > 200, "words stand under the picture"
    else:
        assert file.read_bytes()[:4] == b"\x1a\x45\xdf\xa3", "an EBML header"
        assert file.stat().st_size > 5_000
    expect(page.get_by_test_id("rail-here")).to_have_attribute("data-step", "4")


def test_a_reading_comes_back_from_the_recent_ones(blank: Page, address: str) -> None:
    page = blank
    opened(page, address)
    settle(page)
    choose(page, "Measure", "smallest principal")
    settle(page)
    page.get_by_role("button", name=re.compile("^Recent readings")).click()
    page.get_by_role("option", name=re.compile("^von Mises of stress")).click()
    expect(page.get_by_test_id("reading-line")).to_contain_text("von Mises of stress")


def test_limits_can_be_fitted_to_what_the_window_shows(picture_blank: Page, address: str) -> None:
    page = picture_blank
    opened(page, address + MISES)
    key = page.get_by_test_id("core-key")
    high = float(key.get_attribute("data-high") or 0)
    page.keyboard.press("z")
    box = canvas(page)
    page.mouse.move(box["x"] + 120, box["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] + 260, box["y"] + 300, steps=3)
    page.mouse.up()
    settle(page)
    page.get_by_role("button", name="visible").click()
    assert 0 < float(key.get_attribute("data-high") or 0) < high, "the eye's peak is out of the window"
    page.get_by_role("group", name="Distribution by").get_by_role("button", name="volume").click()
    settle(page)
    assert asked(page, "weigh") == "volume"


def test_the_error_estimate_is_one_key_from_its_stress(blank: Page, address: str) -> None:
    page = blank
    opened(page, address + MISES)
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press("e")
    expect(page.get_by_test_id("reading-line")).to_contain_text("error estimate")
    settle(page)
    page.keyboard.press("e")
    expect(page.get_by_test_id("reading-line")).to_contain_text("von Mises of stress")


def test_everything_is_reached_by_the_keyboard_alone(blank: Page, address: str) -> None:
    """From the page's start, Tab comes by every control of the Field bay's four tabs, and each is worked by a key."""
    page = blank
    opened(page, address)
    settle(page)
    for name in ("Values", "Model", "Marks", "View"):
        page.get_by_role("tablist", name="Field").get_by_role("tab", name=name).focus()
        page.keyboard.press("Enter")
        wanted = page.evaluate(
            "[...document.querySelectorAll('button, a[href], input, select, summary, [tabindex=\"0\"]')]"
            ".filter(e => !e.disabled && e.tabIndex >= 0 && e.checkVisibility() && !(e.type === 'radio' && !e.checked)).length"
        )
        page.evaluate("document.activeElement.blur(); window.scrollTo(0, 0)")
        reached = set()
        for _ in range(wanted + 12):
            page.keyboard.press("Tab")
            reached.add(
                page.evaluate(
                    "(() => { const e = document.activeElement; const all = [...document.querySelectorAll('*')];"
                    " return all.indexOf(e); })()"
                )
            )
        missed = page.evaluate(
            "(reached) => [...document.querySelectorAll('button, a[href], input, select, summary, [tabindex=\"0\"]')]"
            ".filter(e => !e.disabled && e.tabIndex >= 0 && e.checkVisibility() && !(e.type === 'radio' && !e.checked))"
            ".filter(e => !reached.includes([...document.querySelectorAll('*')].indexOf(e))).map(e => e.outerHTML.slice(0, 90))",
            list(reached),
        )
        assert missed == [], name


def test_the_lugs_question_by_keyboard_alone(picture_blank: Page, address: str) -> None:
    """Hoop stress at the bond: from the first picture to both numbers without the pointer."""
    page = picture_blank
    opened(page, f"{address}/?result={LUG}")
    page.get_by_role("button", name=re.compile("^Measure:")).focus()
    page.keyboard.press("Enter")
    page.keyboard.type("yy")
    page.keyboard.press("Enter")
    page.get_by_role("button", name=re.compile("^Axes:")).focus()
    page.keyboard.press("Enter")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("reading-line")).to_contain_text("hoop component of stress, in axes eye")
    page.get_by_role("tablist", name="Field").get_by_role("tab", name="Marks").focus()
    page.keyboard.press("Enter")
    page.get_by_label("Node", exact=True).focus()
    page.keyboard.type("1351")
    page.keyboard.press("Enter")
    card = page.locator(".flag-card").filter(has_text="node 1351").first
    expect(card).to_contain_text("jump")
    card.get_by_role("button", name="Compare averaged").focus()
    page.keyboard.press("Enter")
    rows = page.get_by_test_id("flag-compare").locator("tbody tr")
    expect(rows.first).to_be_visible()
    parts = {row.split("\t")[1] for row in rows.all_inner_texts()}
    assert parts == {"part 1", "part 2"}, "each part has its own numbers"
    page.keyboard.press("Control+z")
