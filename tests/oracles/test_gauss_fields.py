"""What is kept at Gauss points: means by the points' weights, places where they are, a number of points that does not depend on
who is asked for."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.field.fields import Field, Memory, Setup, Step
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.gauss import gauss_weights, known_counts
from ironstone.core.mesh.places import AtCorners, AtElements, AtGauss
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.engine.reading import answers
from ironstone.store import Review, intake
from tests.models import SHAPES, field, memory, mesh_of
from tests.oracles.solids import CUBE
from tests.writing import write_vtu

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")


def legendre(count: int) -> np.ndarray:
    """Gauss points of a line from 0 to 1 (Abramowitz and Stegun, table 25.4)."""
    return {2: np.array([-1, 1]) / np.sqrt(3), 3: np.array([-1, 0, 1]) * np.sqrt(0.6)}[count] / 2 + 0.5


def grid(count: int) -> np.ndarray:
    """Points of a cube, x running fastest."""
    line = legendre(count)
    return np.array([[x, y, z] for z in line for y in line for x in line])


def brick(values: np.ndarray, points: np.ndarray = CUBE) -> Memory:
    mesh = mesh_of(points, [(12, list(range(8)))])
    return memory(mesh, (Field("v", "", "scalar", "gauss", ("value",), "", points=len(values)), values.reshape(1, -1)))


def mean(source: Memory, measure: str = "", **more: object) -> float:
    return float(evaluate(Reading("v", measure, **more), source, AtElements(np.array([0]))).values[0])  # type: ignore[arg-type]


def test_the_mean_of_a_parabola_at_twenty_seven_points_is_its_integral() -> None:
    """100 x^2 over a unit brick: 33.3; through the corners of an eight-node brick it would be 50, or 100 from the far corner."""
    assert mean(brick(100 * grid(3)[:, 0] ** 2)) == pytest.approx(100 / 3)


def test_the_mean_over_a_skewed_brick_weighs_points_by_their_volume() -> None:
    """A brick whose section shrinks from 1 to 1/4: the mean of x, from the polynomials: int x (1 - x/2)^2 / int (1 - x/2)^2."""
    points = CUBE.copy()
    points[:, 1:] *= 1 - 0.5 * CUBE[:, :1]
    source = brick(grid(3)[:, 0], points)
    x = np.polynomial.Polynomial([0, 1])
    area = (1 - 0.5 * x) ** 2
    exact = (x * area).integ()(1) / area.integ()(1)
    assert mean(source) == pytest.approx(exact, rel=1e-12)


def test_the_mean_of_a_yielded_patch_is_not_below_all_its_points() -> None:
    """Seven points at 0 and one at 184: their mean is 23, whatever the corners are extrapolated to."""
    values = np.zeros(8)
    values[0] = 184.0
    assert mean(brick(values)) == pytest.approx(23.0)


def test_a_measure_taken_first_is_taken_at_the_points() -> None:
    """Half the points in tension, half in compression: their components cancel, their von Mises does not."""
    tensor = np.zeros((8, 6))
    tensor[:, 0] = np.repeat([60.0, -60.0], 4)
    mesh = mesh_of(CUBE, [(12, list(range(8)))])
    source = memory(mesh, (field("v", "stress", "gauss", points=8), tensor.reshape(1, -1)))
    assert mean(source, "von-mises", averaging="element") == pytest.approx(0.0)
    assert mean(source, "von-mises", averaging="element", order="measure") == pytest.approx(60.0)


RULES = [(c, n) for c in SHAPES for n in known_counts(c)]


@pytest.mark.parametrize(("cell", "count"), RULES, ids=lambda v: getattr(v, "name", v))
def test_weights_hold_the_volume_and_integrate_linear_fields(cell, count: int) -> None:  # type: ignore[no-untyped-def]
    """Volumes and centroids of the natural domains (geometry)."""
    from ironstone.core.mesh.gauss import gauss_points

    weights, points = gauss_weights(cell, count), gauss_points(cell, count)
    volume = {"line": 1, "tri": 1 / 2, "quad": 1, "tet": 1 / 6, "pyramid": 1 / 3, "wedge": 1 / 2, "hex": 1}[cell.family]
    third = (1 / 3, 1 / 3)
    middle = {"line": (0.5, 0, 0), "tri": (*third, 0), "quad": (0.5, 0.5, 0), "tet": (0.25,) * 3, "pyramid": (0.375, 0.375, 0.25),
              "wedge": (*third, 0.5), "hex": (0.5,) * 3}[cell.family]  # fmt: skip
    assert weights.sum() == pytest.approx(volume)
    assert weights @ points / volume == pytest.approx(np.array(middle), abs=1e-12)


def test_the_six_points_of_a_triangle_integrate_the_fourth_degree() -> None:
    """int r^a s^b over the unit triangle is a! b! / (a + b + 2)!."""
    from math import factorial

    from ironstone.core.mesh.gauss import gauss_points

    cell = next(c for c in SHAPES if c.name == "tri6")
    weights, points = gauss_weights(cell, 6), gauss_points(cell, 6)
    for a in range(5):
        for b in range(5 - a):
            exact = factorial(a) * factorial(b) / factorial(a + b + 2)
            assert weights @ (points[:, 0] ** a * points[:, 1] ** b) == pytest.approx(exact, rel=1e-12)


def test_every_gauss_point_is_told_at_its_own_place() -> None:
    answer = answers.read(Reading("v"), brick(np.arange(8.0), 2 * CUBE), "gauss:1")
    assert [v["place"] for v in answer["values"]] == [f"gauss:1:{i}" for i in range(1, 9)]
    assert np.array([v["xyz"] for v in answer["values"]]) == pytest.approx(2 * grid(2))
    one = answers.read(Reading("v"), brick(np.arange(8.0)), "gauss:1:3")
    assert [v["value"] for v in one["values"]] == [2.0]


def mixed(missing: bool) -> Memory:
    """A brick of eight points beside a wedge of six, over two steps; missing: the wedge has no value at its last point at first."""
    wedge = np.array([[3, 0, 0], [4, 0, 0], [3, 1, 0], [3, 0, 1], [4, 0, 1], [3, 1, 1.0]])
    mesh = mesh_of(np.concatenate([CUBE, wedge]), [(12, list(range(8))), (13, list(range(8, 14)))])
    values = np.full((2, 2, 8), np.nan)
    values[:, 0] = 5.0
    values[:, 1, :6] = [1, 2, 3, 4, 5, 6]
    if missing:
        values[:, 1, 5] = np.nan
    described = Field("v", "", "scalar", "gauss", ("value",), "", points=8)
    return Memory(mesh, [described], {"v": values}, (Step(0, "time", 0.0), Step(1, "time", 1.0)))


def test_the_number_of_points_is_that_of_the_shape_whoever_is_asked() -> None:
    source = mixed(missing=False)
    alone = evaluate(Reading("v"), source, AtGauss(np.array([1]))).values
    both = evaluate(Reading("v"), source, AtGauss(np.array([0, 1])))
    assert alone == pytest.approx([1, 2, 3, 4, 5, 6]) and both.of(1) == pytest.approx(alone)
    assert len(evaluate(Reading("v"), source, AtGauss(np.array([0]))).values) == 8


def test_a_point_that_is_missing_leaves_no_value_and_no_smaller_rule() -> None:
    source = mixed(missing=True)
    answer = evaluate(Reading("v"), source, AtGauss(np.array([1]))).values
    assert len(answer) == 6 and np.isnan(answer[5]) and answer[:5] == pytest.approx([1, 2, 3, 4, 5])
    corners = evaluate(Reading("v"), source, AtCorners(np.array([1])))
    assert np.isnan(corners.values).any() and any("No value" in c for c in corners.caveats)
    assert np.isnan(evaluate(Reading("v"), source, AtElements(np.array([1]))).values[0])


def test_points_whose_places_nobody_knows_give_a_plain_mean_that_says_so() -> None:
    """Fourteen points in a brick, a rule that is not among the usual ones."""
    values = np.arange(14.0)
    source = brick(values)
    for place in (AtCorners(), AtElements(np.array([0]))):
        answer = evaluate(Reading("v"), source, place)
        assert answer.values == pytest.approx(np.full(len(answer.values), 6.5))
        assert any("hex8 with 14 points lie is not known" in c for c in answer.caveats)
        assert not any("Extrapolated" in c for c in answer.caveats)
    assert answers.read(Reading("v"), source, "gauss:1:1")["values"][0]["xyz"] == [None, None, None]


@given(st.lists(st.floats(-100, 100), min_size=8, max_size=8))
def test_a_mean_lies_between_the_points_it_is_of(values: list[float]) -> None:
    answer = mean(brick(np.array(values)))
    assert min(values) - 1e-9 <= answer <= max(values) + 1e-9


def test_gauss_data_read_from_a_file_has_its_means_by_weight(tmp_path: Path) -> None:
    values = np.zeros((1, 27 * 6))
    values[0, ::6] = 100 * grid(3)[:, 0] ** 2
    path = write_vtu(tmp_path / "gauss.vtu", CUBE, [(12, list(range(8)))], None, {"stress": values})
    with Review.create(tmp_path / "gauss.ironstone") as review:
        source = review.result(intake(review, [path]))
        answer = answers.read(Reading("stress", "xx"), source, "element:0")
        assert answer["values"][0]["value"] == pytest.approx(100 / 3)
        assert "mean of each element" in answer["sentence"] and not any("Extrapolated" in c for c in answer["caveats"])


def test_a_trace_at_gauss_points_names_the_one_it_follows(tmp_path: Path) -> None:
    values = np.arange(8.0)[None] + 10
    path = write_vtu(tmp_path / "gauss.vtu", CUBE, [(12, list(range(8)))], None, {"temperature": values})
    with Review.create(tmp_path / "gauss.ironstone") as review:
        source = review.result(intake(review, [path]))
        for at, point in (("gauss:0", 1), ("gauss:0:1", 1), ("gauss:0:3", 3)):
            curve, sentence, _ = answers.trace_curve(Reading("temperature"), source, at, None)
            assert curve.y == pytest.approx([9.0 + point]) and f"at Gauss point {point} of element 0" in sentence


def test_an_elements_mean_under_an_averaging_is_of_what_is_averaged() -> None:
    """Two quads of 0 and 100: averaged across their border the left one rises from 0 to 50, its mean is 25."""
    points = np.array([[0, 0, 0], [1, 0, 0], [2, 0, 0], [0, 1, 0], [1, 1, 0], [2, 1, 0.0]])
    mesh = mesh_of(points, [(9, [0, 1, 4, 3]), (9, [1, 2, 5, 4])])
    stress = np.zeros((8, 6))
    stress[4:, 0] = 100.0
    source = memory(
        mesh, (field("v", "stress", "corner"), stress), setup=Setup(constants={"part 1": {"young": 1.0, "poisson": 0.3}})
    )
    answer = evaluate(Reading("v", "xx", "part"), source, AtElements(np.array([0])))
    assert answer.values == pytest.approx([25.0])
    assert "averaged within each part, mean of each element" in answer.resolved.sentence()
    jump = evaluate(Reading("v", "xx", of="jump"), source, AtElements(np.array([0, 1])))
    assert jump.values == pytest.approx([50.0, 50.0]), "0 at one side, 100 at the other"
    assert CELLS[9].name == "quad4"
