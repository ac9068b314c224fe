"""Pictures drawn without a browser beside the bench's own of the same view: the share of pixels that differ."""

from __future__ import annotations

import base64
import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page

from ironstone.engine.kept.in_view import InView
from ironstone.engine.picture.view import GROUND, drawn_view
from ironstone.store import Review
from tests.bench.driving import BARE, CASES, COARSE_LUG, FLEXURE, LUG, MAST, opened, settle

MISES = "field=stress&measure=von-mises"
VIEWS = {
    "bands": (FLEXURE, f"{MISES}&step=230&shown=5", 0.002),
    "no bands, typed limits, hatched": (FLEXURE, f"{MISES}&step=230&bands=0&low=50&high=300", 0.004),
    "two tones": (LUG, "field=stress&measure=xx&step=4&averaging=part", 0.002),
    "names": (COARSE_LUG, "field=material&measure=value&step=0", 0.002),
    "a part hidden, perspective": (COARSE_LUG, f"{MISES}&step=4&hidden=1&perspective=1", 0.004),
    "seen through": (COARSE_LUG, f"{MISES}&step=4&translucent=0", 0.01),
    "bars": (CASES, "field=displacement&measure=magnitude&step=0&shown=200", 0.004),
    "shells and no value": (MAST, "field=displacement&measure=magnitude&step=3&shown=1", 0.004),
    "logarithm": (FLEXURE, f"{MISES}&step=100&log=1&low=10&high=400&bands=6", 0.002),
    "mesh lines": (LUG, f"{MISES}&step=4&edges=1", 0.02),
}


@pytest.mark.parametrize("view", VIEWS)
def test_a_picture_without_a_browser_is_the_benchs_own(view: str, picture_blank: Page, address: str, shared_review: Path) -> None:
    result, words, most = VIEWS[view]
    page = picture_blank
    bare = BARE if "edges" not in words else BARE.replace("&edges=0", "")
    opened(page, f"{address}/?bay=field&result={result}&{words}{bare}")
    settle(page)
    data = page.evaluate("document.querySelector('.view-canvas canvas').toDataURL('image/png')")
    drawn = np.asarray(Image.open(io.BytesIO(base64.b64decode(data.split(",")[1]))).convert("RGBA")).astype(float)
    opacity = drawn[:, :, 3:] / 255.0
    theirs = np.round(opacity * drawn[:, :, :3] + (1.0 - opacity) * np.array(GROUND)).astype(int)
    empty = opacity[:, :, 0] == 0.0
    height, width = theirs.shape[:2]
    with Review.open(shared_review) as review:
        found = drawn_view(review, InView.from_address(page.url), (width, height)).pixels.astype(int)
    model = ~empty | (np.abs(found - np.array(GROUND)).max(2) > 3)
    apart = np.abs(found - theirs).max(2) > 24
    # An edge that lies half a pixel beside: theirs is drawn here without smoothing, ours with four samples a pixel.
    around = np.stack([np.roll(theirs, (i, j), (0, 1)) for i in (-1, 0, 1) for j in (-1, 0, 1)])
    between = (found >= around.min(0) - 24).all(2) & (found <= around.max(0) + 24).all(2)
    wrong = apart & ~between
    print(
        f"{view}: {100 * apart[model].mean():.2f} % of the model's pixels differ, {100 * wrong[model].mean():.3f} % beyond an edge"
    )
    assert model.mean() > 0.01 and wrong[model].mean() < most
