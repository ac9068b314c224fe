"""The weather mast: solved as thin-tube theory says, and the question of its first failure answered by the product."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest

from demo.mast import (
    DATA,
    FACTORS,
    GLASS,
    HEIGHT,
    ICE_ARM,
    ICE_FROM,
    ICE_WEIGHT,
    ICE_WIND,
    RADIUS,
    SHEETS,
    WIND,
    ZONES,
    Model,
    solve,
    stiffness,
)
from ironstone.core.mesh.places import AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.statics.balance import balance
from ironstone.core.strength.criteria import CRITERIA
from ironstone.engine.strength.failure import strength_answer
from ironstone.engine.strength.stacks import bring_laminates
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource


@pytest.fixture(scope="module")
def solved() -> tuple[Model, dict[str, np.ndarray]]:
    return solve()


@pytest.fixture(scope="module")
def mast(tmp_path_factory: pytest.TempPathFactory) -> Iterator[ReviewSource]:
    with Review.create(tmp_path_factory.mktemp("mast") / "mast.ironstone") as review:
        result = intake(review, sorted(DATA.glob("mast_*.vtu")), "weather mast", "mm-N-s-t-MPa")
        bring_laminates(review, result, (DATA / "mast_laminates.json").read_bytes(), "mast_laminates.json")
        yield review.result()


def middles(model: Model) -> tuple[np.ndarray, np.ndarray]:
    """Angle and height of the middle of each element."""
    middle = model.mesh.p[:, model.mesh.t].mean(1)
    return middle[0] / RADIUS, middle[1]


def test_what_is_shipped_is_what_the_solver_gives(mast: ReviewSource, solved: tuple[Model, dict[str, np.ndarray]]) -> None:
    _, answer = solved
    assert [s.value for s in mast.steps] == pytest.approx(FACTORS.tolist())
    assert mast.values("midplane_strain", 7) == pytest.approx(2.0 * answer["strain"][:, :3], rel=1e-5, abs=1e-9)


def test_a_wall_away_from_the_opening_strains_as_a_thin_tube(solved: tuple[Model, dict[str, np.ndarray]]) -> None:
    """Bending M r cos / EI + N / EA along the mast, T / (2 A G t) round it (textbook, from memory), by the wall's own stiffness."""
    model, answer = solved
    angle, height = middles(model)
    here = (height > 1150) & (height < 1600)
    a = stiffness("middle")[0][:3, :3]
    flexible = np.linalg.inv(a)
    around = 2 * np.pi * RADIUS
    span = HEIGHT - height[here]
    # Wind bends about y; the weight of the ice on one side about x, by its own arm of half a radius.
    moment_y = WIND * span**2 / 2 + ICE_WIND * ((HEIGHT + ICE_FROM) / 2 - height[here])
    moment_x = ICE_WEIGHT * RADIUS / 2
    # The windward side of a mast that is pushed to +x is stretched; what hangs at +y presses there.
    force = (
        -moment_y * np.cos(angle[here]) / (np.pi * RADIUS**2)
        - moment_x * np.sin(angle[here]) / (np.pi * RADIUS**2)
        - ICE_WEIGHT / around
    )
    round_ = ICE_WIND * ICE_ARM / (2 * np.pi * RADIUS**2)
    lateral = (WIND * span + ICE_WIND) / (np.pi * RADIUS)
    shear = round_ - lateral * np.sin(angle[here])
    loads = np.stack([force, np.zeros_like(force), shear], 1)
    expected = loads @ flexible.T
    # What the opening adds goes round more than once: what a tube has is the mean and the first wave of each ring.
    for ring in np.unique(np.round(height[here], 6)):
        at = np.isclose(height[here], ring)
        waves = np.stack([np.ones(at.sum()), np.cos(angle[here][at]), np.sin(angle[here][at])], 1)
        told, asked = (np.linalg.lstsq(waves, what[at], rcond=None)[0] for what in (answer["strain"][here, :3], expected))
        assert np.abs(told - asked).max() < 0.01 * np.abs(asked).max()


def test_the_foot_holds_what_the_wind_and_the_ice_do(mast: ReviewSource) -> None:
    answer = balance(mast, 3, mast.mesh.node_sets)
    reaction = answer.reaction.force
    # Nothing blows on the opening: four of 32 elements round, 150 mm high.
    wind = WIND * (HEIGHT - 150.0 * 4 / 32)
    assert reaction == pytest.approx([-(wind + ICE_WIND), 0.0, ICE_WEIGHT], rel=1e-4, abs=0.05)


def test_every_criterion_finds_the_matrix_of_the_inner_winding_at_the_opening(mast: ReviewSource) -> None:
    """Which ply of which zone fails first, in which mode, at what load?"""
    for name in CRITERIA:
        found = strength_answer(mast, None, "", name, len(mast.steps) - 1)["first_failure"]
        assert (found["zone"], found["sheet"], found["position"], found["place"]) == ("opening", "H1", 1, "bottom")
        assert found["mode"] in ("matrix, tension", "interaction", "between the fibres, A (opening)")
        assert 1.0 < found["load_factor"] < 1.1


def test_the_first_failure_is_that_of_the_solver_s_own_strain(
    mast: ReviewSource, solved: tuple[Model, dict[str, np.ndarray]]
) -> None:
    """Maximum stress by hand: strain of the solver at the inside, turned by 88 degrees, over the strength across the fibres."""
    model, answer = solved
    opening = model.zone == list(ZONES).index("opening")
    z = -sum(SHEETS[s][1] for s in ZONES["opening"]) / 2
    flat = answer["strain"][opening, :3] + z * answer["strain"][opening, 3:]
    c, s = np.cos(np.radians(88.0)), np.sin(np.radians(88.0))
    along = c * c * flat[:, 0] + s * s * flat[:, 1] + c * s * flat[:, 2]
    across = s * s * flat[:, 0] + c * c * flat[:, 1] - c * s * flat[:, 2]
    below = 1 - GLASS["nu12"] ** 2 * GLASS["E2"] / GLASS["E1"]
    stress = (GLASS["E2"] * across + GLASS["nu12"] * GLASS["E2"] * along) / below
    found = strength_answer(mast, None, "", "max-stress", 7)["first_failure"]
    assert found["load_factor"] == pytest.approx(GLASS["Yt"] / stress.max(), rel=1e-4)


def test_a_sheet_of_the_foot_has_no_value_above_it(mast: ReviewSource) -> None:
    answer = evaluate(Reading("stress in plies", "11", layer="sheet:D1:middle"), mast, AtElements(np.arange(len(mast.mesh.types))))
    assert np.isnan(answer.values).tolist() == (mast.mesh.part != 0).tolist()
