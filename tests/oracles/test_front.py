"""Fronts against closed forms: a growing circle, a slanted line, a plane through solids, on meshes that change."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from demo import peel
from ironstone.cli.every import app
from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Memory, Step
from ironstone.core.reading.front import front, measured
from ironstone.core.reading.reading import Reading
from ironstone.engine.base import ask, question_of
from ironstone.engine.carrier import Answer
from ironstone.store import Review, intake
from tests.models import field
from tests.oracles.boxes import BY_NAME, SHAPES, Shape, box
from tests.writing import write_vtu

X = np.array([1.0, 0.0, 0.0])
SPREAD = [s for s in SHAPES if s.dimension > 1]


def source_of(shape: Shape, values, counts=(7, 5, 3)) -> Memory:
    mesh = box(shape, counts=counts, size=(2.0, 3.0, 1.5 if shape.dimension == 3 else 0.0))
    return Memory(
        mesh, [field("heat", "temperature", "node")], {"heat": values(mesh.points)[None, :, None]}, [Step(0, "time", 0.0, "s")]
    )


@pytest.mark.parametrize("shape", SPREAD, ids=lambda s: s.name)
@pytest.mark.parametrize("slant", [0.0, 10.0, 35.0])
def test_a_straight_front_has_its_slant_and_its_way(shape: Shape, slant: float) -> None:
    turn = np.tan(np.radians(slant))
    found = front(Reading("heat"), source_of(shape, lambda p: p[:, 0] - 0.2 * turn * (p[:, 1] - 1.5)), 0.77, X)
    assert found is not None
    slope = 0.2 * turn
    across = 1.5 if shape.dimension == 3 else 1.0
    assert found.size == pytest.approx(3.0 * across * np.hypot(1.0, slope))
    assert found.angle == pytest.approx(np.degrees(np.arctan(slope)), abs=1e-5)
    assert (found.mean, found.least, found.most) == pytest.approx((0.77, 0.77 - 1.5 * slope, 0.77 + 1.5 * slope))
    assert found.away == pytest.approx(0.0, abs=1e-7)


def test_a_growing_circle_is_as_long_as_it_is_round() -> None:
    source = source_of(BY_NAME["tri3"], lambda p: np.hypot(p[:, 0] - 1.0, p[:, 1] - 1.5), counts=(60, 90, 1))
    for radius in (0.3, 0.6, 0.9):
        found = front(Reading("heat"), source, radius, X)
        assert found is not None
        assert found.size == pytest.approx(2 * np.pi * radius, rel=2e-3)
        assert (found.least, found.most) == pytest.approx((1.0 - radius, 1.0 + radius), abs=2e-3)
        assert found.away == pytest.approx(radius / np.sqrt(2), rel=5e-3)


def test_the_moments_of_pieces_are_those_of_their_lines() -> None:
    """A saw of height h over its length: RMS h / sqrt 12 from the line through its middle."""
    corners = np.array([[0, 0, 0], [0.1, 1, 0], [0, 2, 0], [0.1, 3, 0], [0, 4, 0]], dtype=float)
    tooth = np.stack([corners[:-1], corners[1:]], axis=1)
    found = measured(np.concatenate([tooth + [0, 4 * k, 0] for k in range(25)]), X)
    assert found.away == pytest.approx(0.1 / np.sqrt(12), rel=1e-4)
    assert found.angle == pytest.approx(0.0, abs=0.02)


def test_where_the_value_is_nowhere_there_is_no_front() -> None:
    assert front(Reading("heat"), source_of(BY_NAME["quad4"], lambda p: p[:, 0]), 9.0, X) is None


def test_of_bars_there_is_no_line() -> None:
    with pytest.raises(Impossible, match="is a point"):
        front(Reading("heat"), source_of(BY_NAME["line2"], lambda p: p[:, 0]), 0.77, X)


@pytest.fixture(scope="module")
def review(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Review]:
    with Review.create(tmp_path_factory.mktemp("peel") / "peel.ironstone") as made:
        intake(made, sorted(peel.DATA.glob("peel_*.vtu")), "strap", "mm-N-s-t-MPa")
        yield made


def asked(review: Review, **words: object) -> Answer:
    return ask(review, question_of("front", {"field": "separation", "value": peel.LIMIT, **words}))


def closed(lift: np.ndarray) -> np.ndarray:
    """Where the bond ends straight across: l (L - c) / c with l = sqrt(T / k); see ``demo.peel``."""
    return np.sqrt(peel.TENSION / peel.BED) * (lift - peel.LIMIT) / peel.LIMIT


def test_a_strap_peeled_straight_opens_as_the_closed_form_has_it(tmp_path: Path) -> None:
    lifts = (0.1, 0.2, 0.3)
    files = []
    for number, (lift, state) in enumerate(zip(lifts, peel.solve(skew=0.0, lifts=lifts), strict=True)):
        points = np.column_stack([state.nodes, np.zeros(len(state.nodes))])
        cells = [(5, e.tolist()) for e in state.elements]
        files.append(write_vtu(tmp_path / f"straight_{number}.vtu", points, cells, {"separation": state.away}, load_factor=lift))
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, files, "strap", "mm-N-s-t-MPa")
        found = {c.name: c.values for c in asked(review).columns}
    assert found["way"] == pytest.approx(closed(np.array(lifts)), abs=0.6)
    assert max(found["angle"]) < 0.5 and found["length"] == pytest.approx([peel.WIDTH] * 3, rel=1e-3)


def test_how_far_and_how_straight_did_the_peel_run(review: Review) -> None:
    found = asked(review)
    columns = {c.name: c.values for c in found.columns}
    assert columns["way"] == sorted(columns["way"])
    # Lifted more on one side it runs slanted; its middle goes as the mean lift has it.
    assert columns["way"] == pytest.approx(closed(np.array(peel.LIFTS)), rel=0.05, abs=0.6)
    # The strap's tension straightens it as it runs.
    assert columns["angle"] == sorted(columns["angle"], reverse=True) and 5 < columns["angle"][0] < 15
    assert found.verdict.startswith("It came 5") and "10° from straight across" in found.verdict
    assert any("6 meshes" in c for c in found.caveats)
    assert [f["step"] for f in found.more["fronts"]] == list(range(6)) and len(found.more["fronts"][0]["x"]) > 20


def test_a_direction_can_be_stated_and_a_wrong_one_is_refused(review: Review) -> None:
    along = asked(review, along="0,1,0")
    assert along.more["along"] == [0, 1, 0] and min(next(c for c in along.columns if c.name == "angle").values) > 45
    for wrong in ("0,0,0", "x", "1,2"):
        with pytest.raises(Impossible, match="no direction"):
            asked(review, along=wrong)
    with pytest.raises(Impossible, match="Nowhere at any step"):
        ask(review, question_of("front", {"field": "separation", "value": 99.0}))


def test_on_the_command_line(review: Review) -> None:
    told = CliRunner().invoke(app, ["front", str(review.path), "--field", "separation", "--value", str(peel.LIMIT), "--json"])
    found = json.loads(told.stdout)
    assert found["columns"]["way"]["unit"] == "mm" and len(found["columns"]["way"]["values"]) == 6


def test_the_border_of_what_is_bonded_and_the_edge_of_the_bare_face_are_one_front(review: Review, tmp_path: Path) -> None:
    """The region's border is that of the strap's own elements, the edge that of a surface in files of its own: the same nodes."""
    border = {
        c.name: c.values
        for c in ask(review, question_of("front", {"field": "bonded", "value": 0.5, "border": "region", "along": "1,0,0"})).columns
    }
    with Review.create(tmp_path / "bare.ironstone") as bare:
        intake(bare, sorted(peel.DATA.glob("bare_*.vtu")), "bare", "mm-N-s-t-MPa")
        words = {"field": "separation", "border": "edge", "along": "1,0,0"}
        edge = {c.name: c.values for c in ask(bare, question_of("front", words)).columns}
        facing = ask(bare, question_of("front", {"field": "separation", "border": "edge"})).more["along"]
    assert edge["most"] == pytest.approx(border["most"]), "its sides along the way face across it, and are left out"
    assert edge["way"] == pytest.approx(border["way"], abs=0.3)
    assert facing[0] > 0.99, "the middle of the bare face moves along x"
    # A limit reached inside an element lies less than an element from the border of elements.
    value = {c.name: c.values for c in asked(review).columns}
    assert border["way"] == pytest.approx(value["way"], abs=1.25)


def test_a_growing_disc_keeps_its_round_border(tmp_path: Path) -> None:
    """Squares of 0.05 in a circle: the border is the staircase, 8 R long, its middle the circle's."""
    points, cells = grid(60)
    middles = np.array([points[c].mean(0) for _, c in cells])
    files = [
        write_vtu(
            tmp_path / f"disc_{k}.vtu",
            points,
            cells,
            {},
            {"inside": (np.hypot(*(middles[:, :2] - 1.5).T) < r).astype(float)},
            time=float(k),
        )
        for k, r in enumerate((0.4, 0.8, 1.2))
    ]
    with Review.create(tmp_path / "r.ironstone") as made:
        intake(made, files, "disc", "mm-N-s-t-MPa")
        found = ask(made, question_of("front", {"field": "inside", "value": 0.5, "border": "region", "along": "1,0,0"}))
    columns = {c.name: c.values for c in found.columns}
    assert columns["length"] == pytest.approx([8 * r for r in (0.4, 0.8, 1.2)], rel=0.05)
    assert columns["way"] == pytest.approx([1.5] * 3, abs=1e-6)
    assert columns["most"] == pytest.approx([1.9, 2.3, 2.7], abs=0.051)
    assert any("as fine as they are" in c for c in found.caveats)


def test_where_there_is_no_value_there_is_no_border(tmp_path: Path) -> None:
    """A row of six squares: 1, 1, 0, none, 1, 0. Between 1 and 0 it ends; beside the one without a value nobody knows."""
    points = np.array([[x, y, 0.0] for x in range(7) for y in range(2)])
    cells = [(9, [2 * k, 2 * k + 2, 2 * k + 3, 2 * k + 1]) for k in range(6)]
    values = {"inside": np.array([1.0, 1.0, 0.0, np.nan, 1.0, 0.0])}
    files = [write_vtu(tmp_path / f"row_{k}.vtu", points, cells, {}, values, time=float(k)) for k in range(2)]
    with Review.create(tmp_path / "r.ironstone") as made:
        intake(made, files, "row", "mm-N-s-t-MPa")
        found = ask(made, question_of("front", {"field": "inside", "value": 0.5, "border": "region", "along": "1,0,0"}))
    columns = {c.name: c.values for c in found.columns}
    assert columns["length"] == pytest.approx([2.0, 2.0])
    assert (columns["least"], columns["most"]) == ([2.0, 2.0], [5.0, 5.0])


def grid(count: int) -> tuple[np.ndarray, list[tuple[int, list[int]]]]:
    """A square of side 3 in count x count squares."""
    line = np.linspace(0, 3, count + 1)
    x, y = np.meshgrid(line, line, indexing="ij")
    at = np.arange((count + 1) ** 2).reshape(count + 1, -1)
    corners = np.stack([at[:-1, :-1], at[1:, :-1], at[1:, 1:], at[:-1, 1:]], axis=-1).reshape(-1, 4)
    return np.column_stack([x.ravel(), y.ravel(), 0 * x.ravel()]), [(9, c.tolist()) for c in corners]


def test_a_front_without_a_value_says_what_it_needs(review: Review) -> None:
    with pytest.raises(Impossible, match="needs the value"):
        ask(review, question_of("front", {"field": "separation"}))
    with pytest.raises(Impossible, match="border of a region where it is at least 99"):
        ask(review, question_of("front", {"field": "separation", "value": 99.0, "border": "region"}))
