"""A reading less the same of another result: zero where both hold one field, whatever their meshes; by side, unit and moment."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Memory, Setup, Step
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtGauss, AtNodes, AtSamples
from ironstone.core.reading.elsewhere import read_elsewhere
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from tests.models import field, memory, mesh_of
from tests.oracles.boxes import BY_NAME, SHAPES, Shape, box

SIZE = (2.0, 3.0, 1.5)
SOLIDS = [s for s in SHAPES if s.dimension == 3]
SLOPE = np.array([3.0, -2.0, 5.0])


def linear(points: np.ndarray) -> np.ndarray:
    return points @ SLOPE + 7.0


def quadratic(points: np.ndarray) -> np.ndarray:
    x, y, z = points.T
    return 2.0 * x * x - x * y + 0.5 * y * z + z * z + x - 3.0


def heated(mesh: Mesh, law=linear) -> Memory:  # type: ignore[no-untyped-def]
    """A temperature at the nodes after a law, and the same as a scalar of each element's corners."""
    at_nodes = law(mesh.points)[:, None]
    return memory(
        mesh,
        (field("temperature", "temperature", "node"), at_nodes),
        (field("heat", "scalar", "corner"), at_nodes[mesh.connectivity]),
    )


def pair(mine: Memory, theirs: Memory) -> Memory:
    mine.name, theirs.name = "mine", "other"
    mine.others = {"other": theirs}
    return mine


def less(name: str = "temperature", words: str = "", **more: object) -> Reading:
    return Reading(name, **more).minus(";".join(filter(None, ["result=other", words])))  # type: ignore[arg-type]


def places(mesh: Mesh) -> list[object]:
    rng = np.random.default_rng(1)
    element = np.arange(len(mesh.types))
    inner = AtSamples(element, np.full((len(element), 3), 0.2) + 0.05 * rng.random((len(element), 3)))
    return [AtNodes(np.arange(len(mesh.points))), AtCorners(), AtElements(element), inner]


@pytest.mark.parametrize("theirs", [BY_NAME["hex8"], BY_NAME["tet4"], BY_NAME["wedge15"]], ids=lambda s: s.name)
@pytest.mark.parametrize("mine", SOLIDS, ids=lambda s: s.name)
@pytest.mark.parametrize("name", ["temperature", "heat"])
def test_a_linear_field_has_no_difference_on_any_two_meshes(mine: Shape, theirs: Shape, name: str) -> None:
    source = pair(heated(box(mine, counts=(2, 2, 2), size=SIZE)), heated(box(theirs, counts=(3, 2, 1), size=SIZE)))
    for place in places(source.mesh):
        values = evaluate(less(name), source, place).values  # type: ignore[arg-type]
        np.testing.assert_allclose(values, 0.0, atol=1e-6, err_msg=type(place).__name__)


@pytest.mark.parametrize("shape", ["hex20", "tet10", "hex27"])
def test_a_quadratic_field_has_none_on_quadratic_meshes(shape: str) -> None:
    source = pair(
        heated(box(BY_NAME[shape], counts=(2, 3, 2), size=SIZE), quadratic),
        heated(box(BY_NAME["hex20"], counts=(3, 2, 2), size=SIZE), quadratic),
    )
    np.testing.assert_allclose(evaluate(less("heat"), source, AtCorners()).values, 0.0, atol=1e-6)


def test_what_differs_is_the_difference_of_the_laws() -> None:
    source = pair(
        heated(box(BY_NAME["hex8"], size=SIZE)), heated(box(BY_NAME["tet4"], counts=(3, 3, 3), size=SIZE), lambda p: linear(p) / 2)
    )
    expected = linear(source.mesh.points[source.mesh.connectivity]) / 2
    np.testing.assert_allclose(evaluate(less("heat"), source, AtCorners()).values, expected, atol=1e-6)
    _, low, high = extremes(less("heat"), source)
    assert low is not None and high is not None
    assert (low.value, high.value) == (pytest.approx(expected.min(), abs=1e-6), pytest.approx(expected.max(), abs=1e-6))


def split(counts: int) -> Memory:
    """Two parts that meet at x = 1, of so many elements across: 100 in the one, 500 in the other, each corner as computed."""
    mesh = box(BY_NAME["hex8"], counts=(2, counts, 1), size=(2.0, 1.0, 1.0))
    part = (mesh.points[mesh.connectivity].reshape(-1, 8, 3)[:, :, 0].mean(1) > 1.0).astype(np.int32)
    mesh = replace(mesh, part=part, part_names=("left", "right"))
    return memory(mesh, (field("heat", "scalar", "corner"), np.where(part == 0, 100.0, 500.0).repeat(8)[:, None]))


def test_each_side_of_a_border_is_read_on_its_own_side() -> None:
    """At the border two values stand at one place: neither is taken for the other, on unlike meshes as well."""
    source = pair(split(2), split(5))
    np.testing.assert_allclose(evaluate(less("heat"), source, AtCorners()).values, 0.0, atol=1e-9)
    touching = np.flatnonzero(np.isclose(source.mesh.points[:, 0], 1.0))
    np.testing.assert_allclose(evaluate(less("heat"), source, AtNodes(touching)).values, 0.0, atol=1e-9)


def test_where_the_other_body_is_not_there_is_no_value() -> None:
    mine = heated(box(BY_NAME["hex8"], counts=(4, 2, 2), size=SIZE))
    half = heated(box(BY_NAME["tet4"], counts=(2, 2, 2), size=(1.0, 3.0, 1.5)))
    answer = evaluate(less("heat"), pair(mine, half), AtCorners())
    x = mine.mesh.points[mine.mesh.connectivity][:, 0]
    owner = mine.mesh.points[mine.mesh.connectivity].reshape(-1, 8, 3)[:, :, 0].mean(1).repeat(8)
    assert np.isnan(answer.values[owner > 1.0]).mean() > 0.7 and np.isnan(answer.values[x > 1.2]).all()
    np.testing.assert_allclose(answer.values[owner < 1.0], 0.0, atol=1e-6)
    share = f"{100 * np.isnan(answer.values).mean():.2g} %"
    assert answer.caveats == [
        "'other' has another mesh: read at the undeformed places of this one; "
        f"it is not there at {share} of them, which have no value."
    ], "and not that the file lacks anything"
    means = evaluate(less("heat"), mine, AtElements(np.arange(16))).values
    assert np.isnan(means).sum() == 8, "a mean over what is half there is none"


def test_one_mesh_is_matched_by_identity_and_said_nothing_of() -> None:
    mesh = box(BY_NAME["hex20"], size=SIZE)
    source = pair(heated(mesh, quadratic), heated(replace(mesh, points=mesh.points.copy()), linear))
    answer = evaluate(less("heat"), source, AtCorners())
    at = mesh.points[mesh.connectivity]
    np.testing.assert_array_equal(answer.values, quadratic(at) - linear(at))
    assert not any("another mesh" in c for c in answer.caveats)


@settings(max_examples=25, deadline=None)
@given(
    st.sampled_from(SOLIDS), st.sampled_from(SOLIDS), st.integers(1, 3), st.integers(1, 3), st.floats(0.2, 5.0), st.floats(-50, 50)
)
def test_numbers_place_and_size_of_the_meshes_make_no_difference(
    one: Shape, two: Shape, n: int, m: int, stretch: float, away: float
) -> None:
    """Other numberings, meshes that share planes and nodes or do not, far from the origin: a linear field stays itself."""
    size = (stretch, 1.0, 2.0 * stretch)
    mine, theirs = box(one, counts=(n, 2, 1), size=size), box(two, counts=(m, 1, 2), size=size)
    mine, theirs = (replace(mesh, points=mesh.points + away) for mesh in (mine, theirs))
    order = np.random.default_rng(n + 7 * m).permutation(len(theirs.points))
    back = np.argsort(order)
    theirs = replace(theirs, points=theirs.points[order], connectivity=back[theirs.connectivity], node_ids=theirs.node_ids[order])
    values = evaluate(less("heat"), pair(heated(mine), heated(theirs)), AtCorners()).values
    np.testing.assert_allclose(values, 0.0, atol=1e-6 * (1 + abs(away)))


def test_curved_borders_of_two_meshes_are_read_where_they_nearly_meet() -> None:
    """A quarter of a ring in 3 and in 8 straight pieces: corners of the finer lie up to a tenth of a piece outside the coarser."""

    def bend(p: np.ndarray) -> np.ndarray:
        angle, radius = p[:, 0] * np.pi / 4, 2.0 + p[:, 1]
        return np.column_stack([radius * np.cos(angle), radius * np.sin(angle), p[:, 2]])

    fine, coarse = (box(BY_NAME["hex8"], counts=(n, 2, 1), size=(2.0, 1.0, 1.0), bend=bend) for n in (8, 3))
    values = evaluate(less("heat"), pair(heated(fine), heated(coarse)), AtCorners()).values
    assert not np.isnan(values).any()
    assert np.abs(values).max() < 0.2 * np.abs(SLOPE).max()


def test_a_curved_border_of_two_parts_is_read_on_its_own_side() -> None:
    """A ring of two parts in 16 and in 5 pieces: corners of the finer border lie in the coarser's other part."""

    def ring(pieces: int) -> Memory:
        def bend(p: np.ndarray) -> np.ndarray:
            angle, radius = p[:, 0] * np.pi / 4, 2.0 + p[:, 1]
            return np.column_stack([radius * np.cos(angle), radius * np.sin(angle), p[:, 2]])

        mesh = box(BY_NAME["hex8"], counts=(pieces, 2, 1), size=(2.0, 2.0, 1.0), bend=bend)
        middle = mesh.points[mesh.connectivity].reshape(-1, 8, 3).mean(1)
        part = (np.hypot(*middle[:, :2].T) > 2.95).astype(np.int32)
        mesh = replace(mesh, part=part, part_names=("bush", "eye"))
        return memory(mesh, (field("heat", "scalar", "corner"), np.where(part == 0, 100.0, 500.0).repeat(8)[:, None]))

    for one, other in ((16, 5), (5, 16)):
        values = evaluate(less("heat"), pair(ring(one), ring(other)), AtCorners()).values
        np.testing.assert_allclose(values, 0.0, atol=1e-9, err_msg=f"{one} and {other}")


def in_steps(mesh: Mesh, times: list[float], unit: str = "s") -> Memory:
    """A temperature of 10 at time 1, 20 at 2, and so on, in seconds."""
    to_seconds = {"s": 1.0, "ms": 1e-3}[unit]
    values = np.stack([np.full((len(mesh.points), 1), 10.0 * t * to_seconds) for t in times])
    steps = tuple(Step(i, "time", t, unit) for i, t in enumerate(times))
    kind = field("temperature", "temperature", "node")
    return Memory(mesh, [kind], {"temperature": values}, steps)


def test_what_the_other_lacks_is_said_of_the_other() -> None:
    mine, theirs = heated(box(BY_NAME["hex8"])), heated(box(BY_NAME["hex8"]))
    theirs.arrays["heat"] = theirs.arrays["heat"].copy()
    theirs.arrays["heat"][0, :8] = np.nan
    answer = evaluate(less("heat"), pair(mine, theirs), AtCorners())
    assert np.isnan(answer.values[:8]).all() and np.isfinite(answer.values[8:]).all()
    assert answer.caveats == ["Of 'other': No value at some places: the file has none."]
    both = [replace(s.fields["heat"], recovered="a guess") for s in (mine, theirs)]
    for source, guessed in zip((mine, theirs), both, strict=True):
        source.fields = {**source.fields, "heat": guessed}
    said = evaluate(less("heat"), mine, AtCorners()).caveats
    assert sum("a guess" in c for c in said) == 1, "what holds for both is said once"


@pytest.mark.parametrize("shape", ["quad4", "tri6"])
def test_a_mean_over_an_element_of_a_body_of_revolution_counts_what_lies_farther_out_for_more(shape: str) -> None:
    def turned(name: str, counts: tuple[int, int, int]) -> Memory:
        mesh = box(BY_NAME[name], counts=counts, size=(2.0, 1.0, 0.0))
        source = heated(mesh)
        source.setup = Setup(model="axisymmetric")
        return source

    source = pair(turned(shape, (2, 1, 1)), turned("quad4", (5, 3, 1)))
    values = evaluate(less("heat"), source, AtElements(np.arange(len(source.mesh.types)))).values
    np.testing.assert_allclose(values, 0.0, atol=1e-6)


def test_steps_are_matched_by_their_moment_and_not_by_their_number() -> None:
    mesh = box(BY_NAME["hex8"])
    mine, theirs = in_steps(mesh, [0.0, 1.0, 2.0]), in_steps(mesh, [0.0, 500.0, 1000.0, 1500.0, 2000.0], "ms")
    for step in range(3):
        answer = evaluate(less(step=step), pair(mine, theirs), AtNodes(np.array([0])))
        assert answer.values.tolist() == pytest.approx([0.0])
    assert "t = 1 s (step 2 of 3)" in resolve(less(step=1), mine).sentence()
    assert "minus the same of other; at t = 1000 ms (step 3 of 5)" in resolve(less(step=1), mine).sentence()
    fixed = evaluate(less(words="step=4", step=0), mine, AtNodes(np.array([0])))
    assert fixed.values.tolist() == pytest.approx([-20.0])
    over = evaluate(less(over="largest", step=2), mine, AtNodes(np.array([0])))
    assert over.values.tolist() == pytest.approx([0.0])
    with pytest.raises(Impossible, match="'other' has no step at t = 2 s"):
        resolve(less(step=2), pair(mine, in_steps(mesh, [0.0, 1.0])))


def test_lengths_and_stresses_in_other_units_are_the_same_body_and_the_same_stress() -> None:
    """One in mm and MPa, the other in m and Pa."""
    mine, theirs = (box(BY_NAME[s], size=SIZE) for s in ("hex8", "tet4"))
    kind = field("stress", "stress", "corner")
    tensor = np.array([[5.0, 1, 2, 0.5, 0, 1]])
    one = memory(mine, (kind, np.tile(tensor, (len(mine.connectivity), 1))), setup=Setup(length="mm"))
    metres = replace(theirs, points=theirs.points / 1000.0)
    two = memory(metres, (replace(kind, unit="Pa"), np.tile(1e6 * tensor, (len(theirs.connectivity), 1))), setup=Setup(length="m"))
    answer = evaluate(less("stress", measure="von-mises"), pair(one, two), AtCorners())
    np.testing.assert_allclose(answer.values, 0.0, atol=1e-9)
    assert answer.resolved.unit == "MPa"


def test_what_has_no_place_in_another_mesh_is_refused() -> None:
    mine, theirs = heated(box(BY_NAME["hex8"])), heated(box(BY_NAME["tet4"]))
    with pytest.raises(Impossible, match="Gauss points belong to their mesh"):
        read_elsewhere(mine, theirs, AtGauss(np.arange(2)), lambda place: np.zeros(1))


@pytest.mark.parametrize("kind", ["reaction", "force", "internal force", "moment"])
def test_forces_of_nodes_are_not_read_between_the_nodes_of_another_mesh(kind: str) -> None:
    """Ten newtons at each of 27 nodes and at each of 64: their sums differ, and a nodal force between nodes is nothing."""

    def loaded(count: int) -> Memory:
        mesh = box(BY_NAME["hex8"], counts=(count, count, count), size=SIZE)
        return memory(mesh, (replace(field(kind, "force", "node"), kind=kind), np.full((len(mesh.points), 3), 10.0)))

    with pytest.raises(Impossible, match="falls to each node of its own mesh"):
        evaluate(less(kind, measure="x"), pair(loaded(2), loaded(3)), AtNodes(np.arange(4)))
    same = evaluate(less(kind, measure="x"), pair(loaded(2), loaded(2)), AtNodes(np.arange(4)))
    np.testing.assert_array_equal(same.values, 0.0)


def test_names_are_not_read_between_elements() -> None:
    mine, theirs = (heated(box(BY_NAME[s])) for s in ("hex8", "tet4"))
    for source in (mine, theirs):
        count = len(source.mesh.types)
        source.fields = {**source.fields, "status": field("status", "status", "element", names=True)}
        source.arrays = {**source.arrays, "status": np.ones((1, count, 1))}
    with pytest.raises(Impossible, match="belongs to the elements of its own mesh"):
        evaluate(less("status"), pair(mine, theirs), AtElements(np.arange(2)))


def test_two_others_are_told_apart_and_all_that_is_read_is_in_the_revisions() -> None:
    mesh = box(BY_NAME["hex8"])
    mine = heated(mesh)
    mine.others = {"one": heated(mesh), "two": heated(mesh)}
    mine.others["two"].revision = "7"  # type: ignore[misc]
    one, two = (resolve(Reading("heat").minus(f"result={name}"), mine) for name in ("one", "two"))
    assert one.sentence() != two.sentence() and "minus the same of one" in one.sentence()
    assert one.revisions == ("0", "0") and two.revisions == ("0", "7")
    assert one.reading.to_dict() != two.reading.to_dict()
    itself = replace(Reading("heat").minus("result=me"), step=0)
    mine.others["me"] = mine
    assert resolve(itself, mine).sentence().count("minus itself") == 1


def test_surfaces_and_lines_are_matched_as_solids_are() -> None:
    quads = mesh_of(
        np.array([[0, 0, 0], [1, 0, 0], [2, 0, 0], [0, 1, 0], [1, 1, 0], [2, 1, 0.0]]), [(9, [0, 1, 4, 3]), (9, [1, 2, 5, 4])]
    )
    triangles = mesh_of(np.array([[0, 0, 0], [2, 0, 0], [2, 1, 0], [0, 1, 0.0]]), [(5, [0, 1, 2]), (5, [0, 2, 3])])
    np.testing.assert_allclose(evaluate(less("heat"), pair(heated(quads), heated(triangles)), AtCorners()).values, 0.0, atol=1e-6)
    long = mesh_of(np.array([[0, 0, 0], [3, 0, 0.0]]), [(3, [0, 1])])
    short = mesh_of(np.array([[0, 0, 0], [1, 0, 0], [3, 0, 0.0]]), [(3, [0, 1]), (3, [1, 2])])
    np.testing.assert_allclose(evaluate(less("heat"), pair(heated(short), heated(long)), AtCorners()).values, 0.0, atol=1e-6)
    away = mesh_of(np.array([[0, 0, 0], [1, 0, 0], [1, 2, 0.0]]), [(3, [0, 1]), (3, [1, 2])])
    values = evaluate(less("heat"), pair(heated(away), heated(long)), AtCorners()).values
    np.testing.assert_allclose(values[:2], 0.0, atol=1e-6)
    assert np.isnan(values[3]), "beside a bar there is nothing of it"
