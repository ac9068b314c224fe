"""What the tests that drive the bench share: opening it, waiting for it, going about in it, and looking at what it has drawn."""

from __future__ import annotations

import base64
import io
import re
from pathlib import Path

import numpy as np
from cmcrameri import cm
from PIL import Image
from playwright.sync_api import Page, expect

# The demo's results by their numbers.
COARSE_LUG, LUG, TRUSS, MAST, CASES, FLEXURE = 1, 2, 3, 4, 5, 6
BAYS = "1234567"
THIN = "\u202f"
# An address of the Field bay whose picture holds the model and nothing else.
BARE = "&edges=0&labelled=0&undeformed=0"
MISES = f"/?bay=field&result={COARSE_LUG}&field=stress&measure=von-mises&step=4{BARE}"
AXE = (Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()

expect.set_options(timeout=30_000)

# Still is: nothing is asked any more, the address tells what is there, what was asked for last is drawn; three frames long.
STILL = """async () => {
  const frame = () => new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
  const still = () => {
    const page = document.documentElement.dataset;
    if (page.asking !== '0' || page.address === 'behind') return false;
    return [...document.querySelectorAll('[data-testid=view]')].every((view) => {
      if (view.dataset.busy !== 'false' || view.querySelector('.view-wait')) return false;
      const picture = view.querySelector('.view-canvas [role=img]');
      return !picture || view.dataset.drawn === picture.getAttribute('aria-label');
    });
  };
  const until = Date.now() + 30000;
  for (let quiet = 0; quiet < 3; quiet = still() ? quiet + 1 : 0) {
    if (Date.now() > until) {
      const view = document.querySelector('[data-testid=view]');
      return JSON.stringify([document.documentElement.dataset, view?.dataset, view?.innerText]);
    }
    await frame();
  }
  return '';
}"""


def settle(page: Page) -> None:
    """Wait until what was asked for is there and drawn and the address tells it."""
    not_still = page.evaluate(STILL)
    assert not not_still, f"the page does not come to rest: {not_still}"


def until(page: Page, holds: str) -> None:
    """Wait, a frame at a time, until an expression holds in the page."""
    page.evaluate(
        f"""async () => {{
          for (const end = Date.now() + 30000; !({holds}); await new Promise((done) => requestAnimationFrame(done)))
            if (Date.now() > end) throw new Error({holds!r} + ' does not come to hold');
        }}"""
    )


def opened(page: Page, address: str) -> None:
    """The bench at an address, once all is there."""
    page.goto(address)
    page.get_by_test_id("core-key").wait_for()
    settle(page)


def moved(page: Page, address: str) -> None:
    """The bench that is open taken to another address, as a step back in the browser's history does it: nothing is loaded anew."""
    page.evaluate(
        "to => { history.pushState(null, '', to); dispatchEvent(new PopStateEvent('popstate', { state: null })); }", address
    )
    settle(page)


def opened_in(page: Page, address: str, bay: str, result: int, more: str = "") -> None:
    """A bay of the bench on a result."""
    opened(page, f"{address}/?bay={bay}&result={result}{more}")


def asked(page: Page, name: str) -> str | None:
    """A word of the address bar."""
    return page.evaluate("name => new URLSearchParams(location.search).get(name)", name)


def tab(page: Page, name: str, of: str = "Field") -> None:
    """One of a drawer's tabs."""
    page.get_by_role("tablist", name=of).get_by_role("tab", name=name).click()


def strata(page: Page, name: str) -> None:
    """One of the tabs of the plots and tables."""
    page.get_by_role("tablist", name="Strata").get_by_role("tab", name=name, exact=True).click()


def fold(page: Page, words: str) -> None:
    """Open a section of the drawer."""
    page.locator("summary", has_text=words).click()


def entered(page: Page, label: str, text: str) -> None:
    """A text in a field, taken over with the Enter key."""
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def bands(page: Page, count: int) -> None:
    page.get_by_role("textbox", name="Bands").fill(str(count))
    page.keyboard.press("Enter")


def choose(page: Page, word: str, option: str) -> None:
    """Open a word of the reading line and choose."""
    page.get_by_role("button", name=re.compile(f"^{word}:")).click()
    page.locator(".chooser [role=option]").filter(has_text=option).first.click()


def in_view(page: Page, result: str) -> None:
    """Another result, by the menu of results."""
    page.keyboard.press("r")
    page.locator(".menu-row", has_text=result).click()
    settle(page)


def to_the_step(page: Page, key: str) -> None:
    """A key pressed on the step rail: Home, End, an arrow."""
    page.get_by_role("slider", name="Step").focus()
    page.keyboard.press(key)


def undo(page: Page) -> None:
    """Take the last change back, once the page knows of it: an undo takes what the page shows, or nothing."""
    settle(page)
    page.get_by_label("Undo").click()


def highest(page: Page) -> float:
    """The highest value that stands in the core key."""
    text = page.get_by_test_id("ext-highest").inner_text()
    return float(re.search(r"highest ([\d.]+)", text.replace(THIN, ""))[1])  # type: ignore[index]


def number(text: str) -> float:
    """The number a text begins with, as the bench writes numbers."""
    return float(re.sub(r"[\u202f ]", "", text.split(" ")[0]).replace("\u2212", "-"))


def figures(page: Page, name: str) -> dict[str, str]:
    """A small table of figures by what they are of."""
    rows = page.get_by_test_id(name).locator("tr").all()
    return {r.locator("td").nth(0).inner_text(): " ".join(r.locator("td").all_inner_texts()[1:]) for r in rows}


def each_tab(page: Page, bay: str) -> list[str]:
    """Goes to a bay; the names of its drawer's tabs, '' where it has none."""
    page.keyboard.press(bay)
    settle(page)
    return page.locator(".drawer-tabs [role=tab]").all_inner_texts() or [""]


def drop(page: Page, file: Path, name: str = "", on: str = ".stage") -> None:
    """Drops a file on a part of the page, as a hand does."""
    text, called = file.read_text(), name or file.name
    page.evaluate(
        """([on, text, name]) => {
          const data = new DataTransfer();
          data.items.add(new File([text], name));
          const place = document.querySelector(on);
          for (const kind of ['dragover', 'drop'])
            place.dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true, cancelable: true }));
        }""",
        [on, text, called],
    )


def violations(page: Page, rules: str = "{runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa']}") -> list[str]:
    """What axe-core, an outside checker of accessibility, has to say against the page as it stands."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    return page.evaluate(
        f"axe.run(document, {{resultTypes: ['violations'], ...{rules}}}).then(r => r.violations.map(v => v.id + ': ' +"
        " v.nodes.slice(0, 4).map(n => n.target.join(' ') + ' ' + (n.failureSummary || '')).join(' | ')))"
    )


# Plots


def menu(page: Page, item: str) -> None:
    """A word of the first plot's menu."""
    page.get_by_label("Axes, picture, points").first.click()
    page.get_by_role("button", name=item).first.click()


def plotted(page: Page, what: str) -> object:
    """Something of the first plot as the plotting library holds it."""
    page.locator(".js-plotly-plot .main-svg").first.wait_for()
    return page.evaluate(f"(() => {{ const p = document.querySelector('.js-plotly-plot'); return {what}; }})()")


def comes_to(page: Page, what: str, wanted: object) -> object:
    """The same once it is what is waited for, or as it still is after twenty seconds."""
    for _ in range(400):
        if plotted(page, what) == wanted:
            break
        page.wait_for_timeout(50)
    return plotted(page, what)


# The picture


def picture(page: Page) -> np.ndarray:
    """The drawn model, without what stands over it, as an array (height, width, 3)."""
    settle(page)
    data = page.evaluate("document.querySelector('.view-canvas canvas').toDataURL('image/png')")
    return np.asarray(Image.open(io.BytesIO(base64.b64decode(data.split(",")[1]))).convert("RGB")).astype(int)


def differs(page: Page, before: np.ndarray, *, share: float, by: int = 15) -> bool:
    """Whether more than a share of the drawn pixels comes to differ from a picture taken before, within ten seconds."""
    for _ in range(40):
        if (np.abs(picture(page) - before).max(2) > by).mean() > share:
            return True
        page.wait_for_timeout(50)
    return False


def alike(page: Page, before: np.ndarray, share: float = 0.002) -> bool:
    """Whether the picture is the one taken before, but for a small share of its pixels."""
    return bool((np.abs(picture(page) - before).max(2) > 8).mean() < share)


def canvas(page: Page) -> dict[str, float]:
    box = page.locator(".view-canvas canvas").bounding_box()
    assert box
    return dict(box)


def click_at(page: Page, across: float, down: float) -> None:
    """A click on the picture, at shares of its width and height."""
    box = canvas(page)
    page.mouse.click(box["x"] + across * box["width"], box["y"] + down * box["height"])


def on_the_bend(page: Page) -> tuple[float, float]:
    """A place on the screen where the bench opens with the flexure's outer bend."""
    box = canvas(page)
    return box["x"] + 0.24 * box["width"], box["y"] + 0.5 * box["height"]


def places(page: Page, count: int = 12) -> list[tuple[int, int]]:
    """Pixels of the picture well inside the model: all around them is drawn too."""
    drawn = picture(page)
    corner = drawn[2, 2]
    model = np.abs(drawn - corner).max(2) > 45
    inside = model.copy()
    for shift in (-9, 9):
        inside &= np.roll(model, shift, 0) & np.roll(model, shift, 1)
    inside[:20], inside[-60:], inside[:, :20], inside[:, -20:] = False, False, False, False
    found = np.argwhere(inside)
    chosen = found[np.random.default_rng(7).choice(len(found), count, replace=False)]
    return [(int(x), int(y)) for y, x in chosen]


def probed(page: Page, x: int, y: int) -> dict:
    """What the service answers for the pointer at a pixel of the picture."""
    box = canvas(page)
    with page.expect_response(lambda r: "/probe?" in r.url) as got:
        page.mouse.move(box["x"] + x + 0.5, box["y"] + y + 0.5)
    answer: dict = got.value.json()
    page.mouse.move(box["x"] + 4, box["y"] + 4)
    until(page, "!document.querySelector('[data-testid=hover]')")
    return answer


def key_colour(value: float, low: float, high: float, bands: int, log: bool = False, name: str = "batlow") -> np.ndarray:
    """The colour the key has for a value: the published table, cut into bands."""
    share = np.log(value / low) / np.log(high / low) if log else (value - low) / (high - low)
    share = float(np.clip(share, 0, 1))
    if bands > 1:
        share = min(np.floor(share * bands), bands - 1) / (bands - 1)
    return 255 * np.array(cm.cmaps[name](round(255 * share))[:3])


def lit(pixel: np.ndarray, colour: np.ndarray, within: float = 5.0) -> bool:
    """Whether a pixel is a colour under light between 0.8 and 1."""
    return min(float(np.abs(pixel - light * colour).max()) for light in np.linspace(0.79, 1.0, 85)) <= within
