"""The same stress told along other directions: components change, what belongs to the tensor itself does not."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.axes import Axes, element_axes, oriented, rotate, three_points
from ironstone.core.field.fields import Setup
from ironstone.core.field.tensors import matrices, principals, von_mises
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from tests.models import field, grid_of_quads, memory, mesh_of

EYE = three_points("eye", "cylindrical", np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 2**31))
def test_turning_keeps_principals_von_mises_and_lengths(seed: int) -> None:
    random = np.random.default_rng(seed)
    tensor, vector = random.normal(size=(5, 6)), random.normal(size=(5, 3))
    rows = np.stack([np.linalg.qr(random.normal(size=(3, 3)))[0] for _ in range(5)])
    assert principals(rotate(tensor, rows)) == pytest.approx(principals(tensor), abs=1e-6)
    assert von_mises(rotate(tensor, rows)) == pytest.approx(von_mises(tensor))
    assert np.linalg.norm(rotate(vector, rows), axis=1) == pytest.approx(np.linalg.norm(vector, axis=1))
    assert matrices(rotate(tensor, rows)) == pytest.approx(rows @ matrices(tensor) @ rows.transpose(0, 2, 1))


def test_mohrs_circle_at_forty_five_degrees() -> None:
    """Pure shear of 80 seen along axes turned by 45 degrees is tension and compression of 80 (Mohr's circle)."""
    turned = three_points("turned", "cartesian", np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 1.0, 0]))
    shear = np.array([[0, 0, 0, 80.0, 0, 0]])
    assert rotate(shear, turned.at(np.zeros((1, 3))))[0] == pytest.approx([80.0, -80.0, 0, 0, 0, 0], abs=1e-12)


def test_cylindrical_directions_are_radial_hoop_axial() -> None:
    rows = EYE.at(np.array([[2.0, 0, 5], [0, 3.0, 0]]))
    assert rows[0] == pytest.approx(np.eye(3))
    assert rows[1] == pytest.approx(np.array([[0, 1, 0], [-1, 0, 0], [0, 0, 1]]))


def test_spherical_directions_are_square_and_point_outward() -> None:
    ball = three_points("ball", "spherical", np.array([1.0, 2, 3]), np.array([1.0, 2, 4]), np.array([2.0, 2, 3]))
    points = np.random.default_rng(2).normal(size=(20, 3)) + [1, 2, 3]
    rows = ball.at(points)
    assert rows @ rows.transpose(0, 2, 1) == pytest.approx(np.broadcast_to(np.eye(3), (20, 3, 3)))
    out = points - [1, 2, 3]
    assert rows[:, 0] == pytest.approx(out / np.linalg.norm(out, axis=1, keepdims=True))
    assert np.linalg.det(rows) == pytest.approx(np.ones(20)), "right-handed"


def test_on_the_axis_itself_radial_and_hoop_have_no_value() -> None:
    assert np.isnan(EYE.at(np.array([[0.0, 0, 7]]))).all()


@pytest.mark.parametrize(
    ("third", "first", "words"),
    [([0, 0, 0], [1, 0, 0], "no length"), ([0, 0, 1], [0, 0, 2], "on one line"), ([0, 0, 1], [np.nan, 0, 0], "finite")],
)
def test_axes_that_cannot_be_are_refused(third: list[float], first: list[float], words: str) -> None:
    with pytest.raises(IronstoneError, match=words):
        three_points("a", "cylindrical", np.zeros(3), np.array(third, float), np.array(first, float))
    with pytest.raises(IronstoneError, match="name of their own"):
        three_points("global", "cartesian", np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))


def ring():  # type: ignore[no-untyped-def]
    """A quarter ring under hoop tension 100 alone: constant in cylindrical axes, nowhere constant in global ones."""
    mesh = grid_of_quads(2, 8)
    radius, angle = 1 + mesh.points[:, 0], mesh.points[:, 1] * np.pi / 2
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle), 0 * radius], 1)
    mesh = mesh_of(points, [(9, mesh.connectivity[k : k + 4].tolist()) for k in range(0, len(mesh.connectivity), 4)])
    at = mesh.points[mesh.connectivity]
    hoop = np.zeros((len(at), 6))
    hoop[:, 1] = 100.0
    back = EYE.at(at).transpose(0, 2, 1)
    return memory(mesh, (field("stress", "stress", "corner"), rotate(hoop, back)), setup=Setup({"eye": EYE}))


@pytest.mark.parametrize("averaging", ["off", "part", "all"])
def test_hoop_tension_of_a_ring_is_the_same_all_round(averaging: str) -> None:
    source = ring()
    answer = evaluate(Reading("stress", "hoop", averaging, axes="eye"), source, AtCorners())
    assert answer.values == pytest.approx(np.full(len(answer.values), 100.0))
    assert "hoop component of stress, in axes eye (cylindrical)" in answer.resolved.sentence()
    assert np.ptp(evaluate(Reading("stress", "yy", averaging), source, AtCorners()).values) > 50.0
    assert evaluate(Reading("stress", "radial", averaging, axes="eye"), source, AtCorners()).values == pytest.approx(
        np.zeros(len(answer.values)), abs=1e-9
    )


def test_the_mean_of_an_element_is_of_components_told_at_each_place() -> None:
    """Interpolated global components lose a little of the hoop inside; turned at the middle alone they would lose more."""
    source = ring()
    means = evaluate(Reading("stress", "hoop", "element", axes="eye"), source, AtElements(np.arange(16))).values
    assert means == pytest.approx(np.full(16, 100.0), rel=0.02)


def test_hover_and_mean_of_measures_agree_in_axes_of_an_element() -> None:
    mesh = mesh_of(np.array([[0, 0, 0], [0, 2, 0], [-1, 2, 0], [-1, 0, 0.0]]), [(9, [0, 1, 2, 3])])
    stress = np.tile([10.0, 70.0, 0, 5.0, 0, 0], (4, 1))
    source = memory(mesh, (field("stress", "stress", "corner"), stress))
    rows = element_axes(mesh)[0]
    assert rows[0] == pytest.approx([0, 1, 0]) and rows[2] == pytest.approx([0, 0, 1])
    along = Reading("stress", "xx", axes="element")
    assert evaluate(along, source, AtCorners()).values == pytest.approx([70.0] * 4)
    assert evaluate(along, source, AtSamples(np.array([0]), np.array([[0.3, 0.4, 0]]))).values == pytest.approx([70.0])
    assert evaluate(along, source, AtElements(np.array([0]))).values == pytest.approx([70.0])


def test_material_axes_come_from_the_file() -> None:
    mesh = grid_of_quads(2, 1)
    first = np.array([[1.0, 0, 0], [0.0, 1, 0]])
    stress = np.tile([30.0, 90.0, 0, 0, 0, 0], (8, 1))
    pairs = (field("stress", "stress", "corner"), stress), (field("o", "displacement", "element"), first)
    source = memory(mesh, *pairs, setup=Setup(orientation="o"))
    answer = evaluate(Reading("stress", "xx", axes="material"), source, AtElements(np.array([0, 1])))
    assert answer.values == pytest.approx([30.0, 90.0])
    full = oriented(mesh, np.tile(np.eye(3)[[1, 2, 0]].ravel(), (2, 1)))
    assert full[0] == pytest.approx(np.eye(3)[[1, 2, 0]])
    with pytest.raises(Impossible, match="no material axes"):
        evaluate(Reading("stress", "xx", axes="material"), memory(mesh, pairs[0]), AtCorners())


def test_a_nodal_vector_has_no_axes_of_an_element_but_those_of_a_place() -> None:
    mesh = grid_of_quads(1, 1)
    source = memory(mesh, (field("u", "displacement", "node"), np.tile([0.0, 2.0, 0.0], (4, 1))), setup=Setup({"eye": EYE}))
    with pytest.raises(Impossible, match="axes of its own"):
        evaluate(Reading("u", "x", axes="element"), source, AtNodes(np.array([3])))
    answer = evaluate(Reading("u", "hoop", axes="eye"), source, AtNodes(np.array([2]))).values
    assert answer == pytest.approx([2.0]), "at (1, 0) hoop is along y"
    missing = evaluate(Reading("u", "hoop", axes="eye"), source, AtNodes(np.array([0])))
    assert np.isnan(missing.values).all() and "lies on the axis" in missing.caveats[-1]


def test_axes_that_are_not_there_are_named_with_those_that_are() -> None:
    with pytest.raises(Impossible, match=r"Axes here: global, element, eye"):
        evaluate(Reading("stress", "xx", axes="pin"), ring(), AtCorners())
    assert Axes("global").is_global
