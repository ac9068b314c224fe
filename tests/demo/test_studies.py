"""The demo's models to be compared: solved as theory says, and the questions asked of them answered by the product."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from demo import cases, grip, window
from demo.truss import SECTIONS, YIELD
from ironstone.demo_studies import LINES
from ironstone.engine.base import ask, question_of
from ironstone.engine.carrier import Answer
from ironstone.engine.recipes.many import orders, run_all
from ironstone.engine.recipes.recipe import read_recipe
from ironstone.store import Review


@pytest.fixture(scope="module")
def review(studies_file: Path) -> Iterator[Review]:
    with Review.open(studies_file) as opened:
        yield opened


def answered(review: Review, kind: str, **words: object) -> Answer:
    return ask(review, question_of(kind, words))


def test_what_is_shipped_is_what_the_solvers_give(review: Review) -> None:
    _, states = grip.solve("fine", "one-sided")
    source = review.result("grip, fine jaw, one-sided")
    moved = states[-1].moved.reshape(-1, 2)
    assert source.values("displacement", 3)[:, :2] == pytest.approx(moved, rel=1e-5, abs=1e-8)
    *_, stress = window.solve(window.CORNER, 4)
    assert review.result("window, rounded, mesh 3").read("stress", "xx").values == pytest.approx(
        stress[..., 0].ravel(), rel=1e-5, abs=1e-3
    )


def test_the_fine_jaw_presses_as_hertz_says() -> None:
    """A cylinder on a plane (Hertz 1882, from memory): peak 2F/(pi b L), half width b = sqrt(4 F R / (pi L E*))."""
    solved, states = grip.solve("fine", "one-sided")
    force = states[-1].force.sum()
    modulus = grip.YOUNG / (1 - grip.POISSON**2) / 2
    half = np.sqrt(4 * force * grip.RADIUS / (np.pi * grip.THICKNESS * modulus))
    pressure = solved.pressure(states[-1].force)
    assert np.nanmax(pressure) == pytest.approx(2 * force / (np.pi * half * grip.THICKNESS), rel=0.02)
    pressed = np.abs(solved.nodes[np.isfinite(pressure), 0]).max()
    assert pressed == pytest.approx(half, abs=0.3)


def test_which_contact_setting_may_be_believed_and_at_what_cost(review: Review) -> None:
    """One-sided with a coarse jaw lets the shoe's nodes in between; two-sided holds both, for more turns."""
    names = [f"grip, {mesh} jaw, {way}" for mesh in ("coarse", "fine") for way in grip.WAYS]
    sides = {n: {s["of"]: s for s in answered(review, "penetration", result=n).more["sides"]} for n in names}
    assert sides[names[0]]["part 1"]["count"] == 0 and sides[names[0]]["part 2"]["deepest"] > 3e-3
    assert all(s["deepest"] < 2e-4 for n in names[1:] for s in sides[n].values())
    table = answered(review, "side-by-side", results=names, lines=LINES)
    rows = {r["name"]: r for r in table.more["rows"]}
    assert rows["highest von Mises"]["odd"] == 0 and rows["deepest penetration"]["odd"] == 0
    assert rows["highest von Mises"]["values"][2] == pytest.approx(rows["highest von Mises"]["values"][3], rel=0.01)
    turns = next(c for c in table.more["costs"] if c["name"] == "contact iterations")["values"]
    assert turns[1] > turns[0] and turns[3] > turns[2]


def test_the_rounded_corner_settles_and_the_sharp_one_does_not(review: Review) -> None:
    found = {}
    for corner in window.CORNERS:
        names = [f"window, {corner}, mesh {k}" for k in range(1, 5)]
        found[corner] = answered(review, "converge", results=names, field="stress", measure="von-mises", extremes=True)
    assert found["rounded"].more["verdict"] == "settles" and found["rounded"].more["extrapolated"] == pytest.approx(270.6, abs=1.5)
    assert found["sharp"].more["verdict"] == "grows"
    # The re-entrant right angle has r^(0.5445 - 1) (Williams 1952): what is not singular makes it less on these meshes.
    assert 0.3 < found["sharp"].more["exponent"] < 0.4555


def test_the_cases_are_in_equilibrium_and_elastic() -> None:
    model, states = cases.solve()
    for name, load in cases.loads(model).items():
        nodal = load.reshape(-1, 3)
        assert states[name]["reaction"][:, [0, 2]].sum(0) == pytest.approx(-nodal[:, :2].sum(0), rel=1e-9, abs=1e-6)
    area = np.array([w * d for w, d in SECTIONS.values()])[model.group]
    assert (np.abs(states["snow"]["axial_force"]) / area < YIELD).all()
    # By statics: the reactions of even snow are equal, of snow on the left they are not.
    even, left = (states[n]["reaction"][states[n]["reaction"][:, 2] != 0, 2] for n in ("snow", "snow on the left"))
    assert even[0] == pytest.approx(even[1]) and left.max() > 1.5 * left.min()


def test_the_windows_recipe_holds_its_meshes_to_one_limit(tmp_path: Path) -> None:
    """Eight meshes of two windows, and one broken file: the sharp corner's peak grows with each mesh and breaks the limit."""
    demo = Path(window.__file__).parent
    broken = tmp_path / "broken.vtu"
    broken.write_bytes((demo / "data" / "window" / "sharp_1.vtu").read_bytes()[:900])
    recipe = read_recipe(demo / "recipes" / "window.yaml")
    files = [str(f) for f in sorted((demo / "data" / "window").glob("*.vtu"))]
    runs = {r["run"]: r for r in run_all(orders(recipe, [*files, str(broken)], tmp_path / "out"))}
    assert runs["broken"]["status"] == 2
    assert [runs[f"rounded_{k}"]["status"] for k in (1, 2, 3, 4)] == [0, 0, 0, 0]
    sharp = [runs[f"sharp_{k}"]["values"]["peak stress"]["value"] for k in (1, 2, 3, 4)]
    assert sharp == sorted(sharp) and runs["sharp_4"]["status"] == 1
    pull = [abs(runs[f"rounded_{k}"]["values"]["pull"]["value"]) for k in (1, 2, 3, 4)]
    assert pull == pytest.approx([pull[0]] * 4, rel=0.02), "the same pull on every mesh"
