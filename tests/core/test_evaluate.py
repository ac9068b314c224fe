"""Averaging is off unless asked for, and what it does when asked."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.core.field.fields import Field, Setup, Step
from ironstone.core.geometry.locate import find
from ironstone.core.geometry.surface import Look, face_point, skin
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes, meeting
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.trace import trace
from ironstone.core.reading.where import parse, place_of
from ironstone.store.source import ReviewSource
from tests.writing import HEX

XX = Reading("stress", "xx")


def test_each_corner_keeps_its_own_value_at_a_shared_node(bar: ReviewSource) -> None:
    node = bar.mesh.node_position(int(bar.mesh.node_ids[np.argmin(np.abs(bar.mesh.points - [1, 0, 0]).sum(1))]))
    answer = meeting(XX, bar, node)
    assert sorted(answer.values.values) == [10.0, 20.0]
    assert answer.jump == pytest.approx(10.0)
    assert answer.jump_within_material == pytest.approx(10.0)


def test_a_jump_across_materials_is_not_one_within(bar: ReviewSource) -> None:
    node = int(np.argmin(np.abs(bar.mesh.points - [2, 0, 0]).sum(1)))
    answer = meeting(XX, bar, node)
    assert answer.jump == pytest.approx(10.0)
    assert answer.jump_within_material == pytest.approx(0.0)


def test_averaging_within_part_stops_at_the_border(bar: ReviewSource) -> None:
    node = int(np.argmin(np.abs(bar.mesh.points - [2, 0, 0]).sum(1)))
    within = evaluate(Reading("stress", "xx", "part"), bar, AtNodes(np.array([node])))
    assert sorted(within.values) == [20.0, 30.0]
    across = evaluate(Reading("stress", "xx", "all"), bar, AtNodes(np.array([node])))
    assert across.values.tolist() == [25.0]
    assert any("exists in neither" in c for c in across.caveats)


def test_averaging_halves_the_jump_but_not_the_highest_of_a_constant_element(bar: ReviewSource) -> None:
    highest = {a: extremes(Reading("stress", "von-mises", a), bar)[2].value for a in ("off", "part", "all")}  # type: ignore[union-attr]
    assert highest == {"off": 30.0, "part": 30.0, "all": 30.0}
    node = int(np.argmin(np.abs(bar.mesh.points - [1, 0, 0]).sum(1)))
    assert evaluate(Reading("stress", "von-mises", "part"), bar, AtNodes(np.array([node]))).values == pytest.approx([15.0])


def bending_element() -> OneElement:
    corners = np.zeros((8, 6))
    corners[:, 0] = 100.0 * (HEX[:, 2] * 2 - 1)
    return OneElement(corners)


class OneElement:
    """A result of one cube, with stress at its corners."""

    def __init__(self, corners: np.ndarray) -> None:
        ids = np.arange(8)
        self.mesh = Mesh(HEX, np.array([12], np.uint8), np.array([0, 8]), ids, ids, np.array([1]), np.zeros(1, np.int32), ("part",))
        self.fields = {"stress": Field("stress", "stress", "tensor", "corner", ("xx", "yy", "zz", "xy", "yz", "xz"), "MPa")}
        self.steps = (Step(0, "number", 0.0),)
        self.revision = "0"
        self.setup = Setup()
        self.corners = corners

    def values(self, field: str, step: int) -> np.ndarray:
        return self.corners

    def rows(self, field: str, step: int, entities: np.ndarray) -> np.ndarray:
        return self.corners[entities]


def test_the_middle_of_a_bending_element_carries_no_stress() -> None:
    """Components are interpolated, then the measure taken: 0 in the middle, where the mean of corner measures is 100."""
    source = bending_element()
    middle = AtSamples(np.array([0]), np.array([[0.5, 0.5, 0.5]]))
    assert evaluate(Reading("stress", "von-mises"), source, middle).values == pytest.approx([0.0])
    assert evaluate(Reading("stress", "von-mises", "element"), source, AtElements(np.array([0]))).values == pytest.approx([0.0])


def test_measure_first_in_the_element_mean_is_another_number() -> None:
    source = bending_element()
    reading = Reading("stress", "von-mises", "element", "measure")
    # |100 (2z - 1)| over z has the mean 50; two Gauss points see it at 1/sqrt 3.
    assert evaluate(reading, source, AtElements(np.array([0]))).values == pytest.approx([100.0 / np.sqrt(3.0)])


def test_order_of_averaging_does_not_matter_where_all_is_tension(bar: ReviewSource) -> None:
    components = evaluate(Reading("stress", "von-mises", "all"), bar, AtCorners()).values
    first = evaluate(Reading("stress", "von-mises", "all", "measure"), bar, AtCorners()).values
    assert np.allclose(components, first), "all tension: no difference"


def test_a_missing_corner_stays_missing_and_counts_in_no_mean() -> None:
    source = bending_element()
    source.corners = source.corners.copy()
    source.corners[0] = np.nan
    off = evaluate(Reading("stress", "xx"), source, AtCorners()).values
    averaged = evaluate(Reading("stress", "xx", "all"), source, AtCorners()).values
    assert np.isnan(off[0]) and np.isnan(averaged[0])
    assert not np.isnan(averaged[1:]).any()
    assert not np.isnan(extremes(Reading("stress", "xx"), source)[2].value)  # type: ignore[union-attr]


def test_few_rows_and_whole_steps_give_the_same(flexure: ReviewSource) -> None:
    for averaging in ("off", "element", "part", "all"):
        reading = Reading("stress", "von-mises", averaging, step=50)
        everywhere = evaluate(reading, flexure, AtCorners()).values
        element = 77
        few = evaluate(reading, flexure, AtCorners(np.array([element]))).values
        corners = slice(flexure.mesh.offsets[element], flexure.mesh.offsets[element + 1])
        assert few == pytest.approx(everywhere[corners], rel=1e-12)


def test_contour_hover_and_flag_tell_the_same_number(flexure: ReviewSource) -> None:
    surface = skin(flexure.mesh, Look(detail=2))
    reading = Reading("stress", "von-mises", step=80)
    drawn = evaluate(reading, flexure, surface.vertices).values
    st = surface.st
    for vertex in range(0, len(drawn), 517):
        place = face_point(surface, int(surface.face[vertex]), float(st[vertex, 0]), float(st[vertex, 1]))
        assert evaluate(reading, flexure, place).values == pytest.approx([drawn[vertex]], rel=1e-5)
    corner = int(surface.face_vertex[0])
    element = int(surface.vertices.element[corner])
    at = surface.points[corner]
    node = int(np.argmin(np.linalg.norm(flexure.mesh.points - at, axis=1)))
    answer = meeting(reading, flexure, node).values
    assert answer.values[answer.element == element] == pytest.approx([drawn[corner]], rel=1e-6)


def test_the_skin_of_a_bar_is_closed_and_outward(bar: ReviewSource) -> None:
    surface = skin(bar.mesh, Look(detail=2))
    assert surface.triangle_areas.sum() == pytest.approx(14.0)
    a, b, c = (surface.points[surface.triangles[:, i]] for i in range(3))
    volume = np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6.0
    assert volume == pytest.approx(3.0), "triangles turn outward: the enclosed volume is positive"
    assert len(surface.outline) == 2 * (3 * 4 + 8), "the twelve edges of the bar, in element pieces cut in two"


def test_a_point_is_found_with_its_natural_coordinates(flexure: ReviewSource) -> None:
    place = find(flexure.mesh, np.array([-30.0, 21.0, 1.0]))
    assert len(place.element) == 1
    with pytest.raises(Impossible, match="outside the body"):
        find(flexure.mesh, np.array([0.0, 20.0, 0.0]))


def test_a_sum_of_corner_values_over_a_set_is_refused(bar: ReviewSource) -> None:
    with pytest.raises(Impossible, match="no meaning"):
        trace(XX, bar, AtNodes(bar.mesh.node_sets["tip"]), "sum")


def test_what_cannot_be_read_is_explained(bar: ReviewSource) -> None:
    with pytest.raises(Impossible, match="vector field"):
        resolve(Reading("displacement", "von-mises"), bar)
    with pytest.raises(Impossible, match="Fields here: stress"):
        resolve(Reading("stres"), bar)
    with pytest.raises(NotFound, match="no set named 'nose'"):
        place_of(parse("set:nose"), XX, bar)
    with pytest.raises(Impossible, match="no step 9"):
        resolve(XX.at(9), bar)


def test_the_sentence_says_it_all(bar: ReviewSource) -> None:
    sentence = resolve(Reading("stress", "von-mises", "part", "measure", 1, unit="kPa"), bar).sentence()
    assert sentence == (
        "von Mises of stress, averaged within each part, measure first, on the whole model, at t = 0.5 s (step 2 of 2), in kPa"
    )
    assert extremes(Reading("stress", "xx", step=1, unit="kPa"), bar)[2].value == pytest.approx(60_000.0)  # type: ignore[union-attr]


def test_a_measure_with_a_unit_of_its_own_is_not_in_the_fields(bar: ReviewSource) -> None:
    found = resolve(Reading("stress", "lode-angle"), bar)
    assert found.unit == "deg"
    high = extremes(Reading("stress", "triaxiality"), bar)[2]
    assert high is not None and high.value == pytest.approx(1 / 3)
    assert resolve(Reading("stress", "triaxiality"), bar).sentence().endswith("a pure number")
    with pytest.raises(IronstoneError, match="cannot be converted to"):
        resolve(Reading("stress", "lode-angle", unit="MPa"), bar)


def test_the_jump_as_a_field_is_the_jump_at_each_flag(bar: ReviewSource) -> None:
    everywhere = evaluate(Reading("stress", "xx", of="jump"), bar, AtCorners())
    within = evaluate(Reading("stress", "xx", of="jump-within-material"), bar, AtCorners())
    x = bar.mesh.points[everywhere.node, 0]
    assert everywhere.values.tolist() == [10.0 if v in (1.0, 2.0) else 0.0 for v in x]
    assert within.values.tolist() == [10.0 if v == 1.0 else 0.0 for v in x], "across materials a jump is physics"
    assert extremes(Reading("stress", "xx", of="jump"), bar)[2].value == pytest.approx(10.0)  # type: ignore[union-attr]


def test_the_flexures_jump_field_agrees_with_its_flags(flexure: ReviewSource) -> None:
    reading = Reading("stress", "von-mises", step=100)
    for node in (0, 7, 300, 900):
        answer = meeting(reading, flexure, node)
        field = evaluate(Reading("stress", "von-mises", step=100, of="jump"), flexure, AtNodes(np.array([node])))
        assert field.values == pytest.approx([answer.jump], rel=1e-12)


def test_a_nodal_field_has_no_jump_and_an_averaged_one_neither(bar: ReviewSource) -> None:
    with pytest.raises(Impossible, match="there is no jump"):
        resolve(Reading("displacement", of="jump"), bar)
    with pytest.raises(Impossible, match="as computed"):
        resolve(Reading("stress", "xx", "part", of="jump"), bar)


def test_the_jump_of_an_element_field_is_that_between_its_elements(bar: ReviewSource) -> None:
    found = evaluate(Reading("axial", of="jump"), bar, AtCorners())
    assert sorted(set(found.values)) == [0.0, 1.0]
