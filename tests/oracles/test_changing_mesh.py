"""A result that has a new mesh at some of its steps: every step is answered of its own mesh, and no number crosses from one mesh to
another."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ironstone.core.errors import Impossible
from ironstone.core.field.changing import Changing
from ironstone.core.field.fields import Memory, Source, Step
from ironstone.core.field.loadings import axis_of, loading_of, loadings
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes, AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.trace import trace
from tests.models import field
from tests.oracles.boxes import BY_NAME, SHAPES, Shape, box

SIZE = (2.0, 3.0, 1.5)
SLOPE = np.array([3.0, -2.0, 5.0])
# A factor on the law at each step: the largest in the middle, at a step whose mesh is another.
FACTORS = (1.0, 2.0, 5.0, 4.0)
SOLIDS = [s for s in SHAPES if s.dimension == 3]


def law(points: np.ndarray) -> np.ndarray:
    return points @ SLOPE + 20.0


def run(mesh: Mesh, factors: tuple[float, ...], times: tuple[float, ...], loading: str = "") -> Memory:
    values = np.stack([f * law(mesh.points)[:, None] for f in factors])
    fields = [field("temperature", "temperature", "node"), field("heat", "scalar", "corner")]
    arrays = {"temperature": values, "heat": values[:, mesh.connectivity]}
    return Memory(mesh, fields, arrays, [Step(i, "time", t, "s", loading) for i, t in enumerate(times)])


def remeshed(first: Shape) -> Changing:
    """Steps 0 and 1 on one mesh, 2 on one of tetrahedra, 3 on one of finer hexahedra."""
    return Changing(
        "strip",
        [
            run(box(first, counts=(2, 2, 2), size=SIZE), FACTORS[:2], (0.0, 0.1)),
            run(box(BY_NAME["tet4"], counts=(3, 2, 1), size=SIZE), FACTORS[2:3], (0.2,)),
            run(box(BY_NAME["hex8"], counts=(3, 3, 3), size=SIZE), FACTORS[3:], (0.3,)),
        ],
    )


def everywhere(source: Source) -> list[tuple[object, np.ndarray]]:
    """Places of a mesh of several kinds, and where they are."""
    mesh = source.mesh
    element = np.arange(len(mesh.types))
    ones = Memory(mesh, [field("where", "displacement", "node")], {"where": mesh.points[None]})
    found = []
    for place in (
        AtNodes(np.arange(len(mesh.points))),
        AtCorners(),
        AtElements(element),
        AtSamples(element, np.full((len(element), 3), 0.2)),
    ):
        parts = [evaluate(Reading("where", axis), ones, place).values for axis in "xyz"]
        found.append((place, np.stack(parts, axis=1)))
    return found


@pytest.mark.parametrize("first", SOLIDS, ids=lambda s: s.name)
def test_each_step_is_answered_of_its_own_mesh(first: Shape) -> None:
    whole = remeshed(first)
    for step, factor in enumerate(FACTORS):
        source = whole.at(step)
        for place, points in everywhere(source):
            for name in ("temperature", "heat"):
                if name == "heat" and isinstance(place, AtNodes):
                    continue
                answer = evaluate(Reading(name, step=step), source, place)
                assert answer.values == pytest.approx(factor * law(points), rel=1e-9)


@pytest.mark.parametrize("first", SOLIDS, ids=lambda s: s.name)
@pytest.mark.parametrize("seen_at", range(4))
def test_the_largest_over_the_steps_is_by_place_and_says_so(first: Shape, seen_at: int) -> None:
    source = remeshed(first).at(seen_at)
    for place, points in everywhere(source):
        largest = evaluate(Reading("temperature", step=seen_at, over="largest"), source, place)
        assert largest.values == pytest.approx(5.0 * law(points), rel=1e-7)
        when = evaluate(Reading("temperature", step=seen_at, over="largest", when=True), source, place)
        assert when.values == pytest.approx(np.full(len(points), 0.2))
        others = 2 if seen_at < 2 else 3
        assert [c for c in largest.caveats if f"The mesh is another one at {others} of these steps" in c]


@pytest.mark.parametrize("first", SOLIDS, ids=lambda s: s.name)
def test_a_step_less_one_of_another_mesh_is_by_place(first: Shape) -> None:
    source = remeshed(first).at(3)
    for place, points in everywhere(source):
        answer = evaluate(replace(Reading("temperature", step=3)).minus("step=1"), source, place)
        assert answer.values == pytest.approx(2.0 * law(points), rel=1e-7)
        assert [c for c in answer.caveats if "t = 0.1 s has another mesh" in c]


def test_the_highest_is_found_on_the_mesh_of_the_step() -> None:
    whole = remeshed(BY_NAME["hex8"])
    for step, factor in enumerate(FACTORS):
        source = whole.at(step)
        _, low, high = extremes(Reading("temperature", step=step), source)
        assert low is not None and high is not None
        heat = factor * law(source.mesh.points)
        assert (low.value, high.value) == (pytest.approx(heat.min()), pytest.approx(heat.max()))


def test_numbers_of_one_mesh_are_not_read_at_a_step_of_another() -> None:
    whole = remeshed(BY_NAME["hex8"])
    source = whole.at(0)
    with pytest.raises(Impossible, match="numbers of nodes and elements mean other places"):
        evaluate(Reading("temperature", step=2), source, AtNodes(np.array([0])))
    with pytest.raises(Impossible, match=r"The mesh is another one at t = 0\.2 s"):
        trace(Reading("temperature"), source, AtNodes(np.array([3])))
    # Over the steps that share the mesh it is the same node.
    found = trace(Reading("temperature"), source, AtNodes(np.array([3])), steps=[0, 1])
    assert found.values == pytest.approx([f * law(source.mesh.points[3]) for f in FACTORS[:2]])
    with pytest.raises(Impossible, match="new mesh at some of its steps"):
        _ = whole.mesh


def loaded() -> Memory:
    """Two load cases and a set of modes in one result."""
    mesh = box(BY_NAME["hex8"], counts=(1, 1, 1), size=SIZE)
    steps = [Step(0, "time", 1.0, "s", "dead"), Step(1, "time", 1.0, "s", "snow"), Step(2, "time", 2.0, "s", "snow")]
    steps += [Step(3, "mode", 14.2, "Hz", "modes"), Step(4, "mode", 20.1, "Hz", "modes")]
    values = np.stack([f * law(mesh.points)[:, None] for f in (9.0, 1.0, 3.0, 50.0, 60.0)])
    return Memory(mesh, [field("temperature", "temperature", "node")], {"temperature": values}, steps)


def test_what_runs_over_steps_stays_within_a_loading() -> None:
    source = loaded()
    assert loadings(source.steps) == [("dead", (0,)), ("snow", (1, 2)), ("modes", (3, 4))]
    assert loading_of(source.steps, 2) == (1, 2)
    node = AtNodes(np.array([0]))
    at = law(source.mesh.points[0])
    for step, factor in ((0, 9.0), (1, 3.0), (2, 3.0), (3, 60.0)):
        reading = Reading("temperature", step=step, over="largest")
        assert evaluate(reading, source, node).values == pytest.approx([factor * at])
    assert "over all steps of snow" in resolve(Reading("temperature", step=1, over="largest"), source).sentence()
    so_far = Reading("temperature", step=2, over="largest", span="so-far")
    assert resolve(so_far, source).span == (1, 2)
    # Which step it is reached at is told by what steps of that loading have.
    assert resolve(Reading("temperature", step=4, over="largest", when=True), source).unit == "Hz"


def test_curves_over_several_loadings_are_over_the_number_of_the_step() -> None:
    source = loaded()
    axis = axis_of(source.steps)
    assert (axis.kind, axis.unit, axis.values.tolist()) == ("step number", "", [1, 2, 3, 4, 5])
    axis = axis_of(source.steps[1:3])
    assert (axis.kind, axis.unit, axis.values.tolist()) == ("time", "s", [1.0, 2.0])
