"""Readings over many steps, and differences of readings."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.mesh.places import AtCorners, AtElements, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from tests.models import field, grid_of_quads, memory

STEPS = 6


def swinging(seed: int = 1):  # type: ignore[no-untyped-def]
    mesh = grid_of_quads(2, 2)
    stress = np.random.default_rng(seed).normal(scale=100.0, size=(STEPS, 16, 6))
    heat = np.random.default_rng(seed + 1).normal(size=(STEPS, 9, 1))
    return memory(mesh, (field("s", "stress", "corner"), stress), (field("heat", "temperature", "node"), heat)), stress


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10_000))
def test_over_all_steps_is_what_looking_at_each_step_finds(seed: int) -> None:
    source, stress = swinging(seed)
    xx = stress[:, :, 0]
    answer = {o: evaluate(Reading("s", "xx", over=o), source, AtCorners()).values for o in ("largest", "smallest", "magnitude")}
    assert answer["largest"] == pytest.approx(xx.max(0))
    assert answer["smallest"] == pytest.approx(xx.min(0))
    assert answer["magnitude"] == pytest.approx(xx[np.abs(xx).argmax(0), np.arange(16)]), "with its sign"
    when = evaluate(Reading("s", "xx", over="smallest", when=True), source, AtCorners())
    assert when.values == pytest.approx(0.5 * xx.argmin(0))


def test_so_far_ends_at_the_step_and_a_span_where_it_says() -> None:
    source, stress = swinging()
    xx = stress[:, :, 0]
    so_far = evaluate(Reading("s", "xx", step=2, over="largest", span="so-far"), source, AtCorners())
    assert so_far.values == pytest.approx(xx[:3].max(0))
    assert "largest over the steps so far, up to t = 1 s" in so_far.resolved.sentence()
    span = evaluate(Reading("s", "xx", over="largest", span="1:3"), source, AtCorners())
    assert span.values == pytest.approx(xx[1:4].max(0))
    with pytest.raises(Impossible, match="no span of steps"):
        resolve(Reading("s", "xx", over="largest", span="3:9"), source)
    with pytest.raises(Impossible, match="several steps alone"):
        resolve(Reading("s", "xx", when=True), source)


def test_the_measure_is_taken_at_each_step_not_of_the_largest_components() -> None:
    source, _ = swinging()
    each = [evaluate(Reading("s", "von-mises", "all", step=s), source, AtCorners()).values for s in range(STEPS)]
    assert evaluate(Reading("s", "von-mises", "all", over="largest"), source, AtCorners()).values == pytest.approx(np.max(each, 0))


def test_a_step_without_a_value_does_not_hide_the_others() -> None:
    source, stress = swinging()
    stress[2] = np.nan
    stress[:, 5] = np.nan
    answer = evaluate(Reading("s", "xx", over="largest"), source, AtCorners()).values
    assert np.isnan(answer[5]) and np.isnan(answer).sum() == 1
    assert answer[0] == pytest.approx(np.nanmax(stress[:, 0, 0]))


def test_progress_is_told_and_can_stop_the_work() -> None:
    source, _ = swinging()
    heard: list[float] = []
    evaluate(Reading("s", "xx", over="largest"), source, AtCorners(), lambda share, text: heard.append(share))
    assert heard == pytest.approx([i / STEPS for i in range(STEPS)])

    def stop(share: float, text: str) -> None:
        if share > 0.4:
            raise IronstoneError("Stopped.")

    with pytest.raises(IronstoneError, match="Stopped"):
        evaluate(Reading("s", "xx", over="largest"), source, AtCorners(), stop)


def test_a_difference_of_two_readings_is_the_difference_of_their_answers() -> None:
    source, stress = swinging()
    reading = Reading("s", "xx", step=4)
    less = evaluate(Reading("s", "xx", step=4, against=reading.changed("step=0")), source, AtCorners())
    assert less.values == pytest.approx(stress[4, :, 0] - stress[0, :, 0])
    assert "minus the same, at t = 0 s (step 1 of 6)" in less.resolved.sentence()
    smoothed = evaluate(Reading("s", "xx", step=4, against=reading.changed("averaging=all")), source, AtCorners())
    averaged = evaluate(Reading("s", "xx", "all", step=4), source, AtCorners()).values
    assert smoothed.values == pytest.approx(stress[4, :, 0] - averaged)
    means = evaluate(Reading("s", "xx", step=4, against=reading.changed("step=1")), source, AtElements(np.arange(4))).values
    assert means == pytest.approx([(stress[4, 4 * e : 4 * e + 4, 0] - stress[1, 4 * e : 4 * e + 4, 0]).mean() for e in range(4)])


def test_a_difference_at_a_node_has_one_answer_for_each_corner() -> None:
    source, stress = swinging()
    against = Reading("s", "xx").changed("averaging=all")
    answer = evaluate(Reading("s", "xx", against=against), source, AtNodes(np.array([4])))
    corners = source.mesh.corners_at(4)
    assert answer.offsets.tolist() == [0, 4]
    assert answer.values == pytest.approx(stress[0, corners, 0] - stress[0, corners, 0].mean())
    assert answer.values.sum() == pytest.approx(0.0, abs=1e-9)


def test_largest_less_smallest_is_the_range_of_each_place() -> None:
    source, stress = swinging()
    against = Reading("s", "xx").changed("over=smallest")
    answer = evaluate(Reading("s", "xx", over="largest", against=against), source, AtCorners())
    assert answer.values == pytest.approx(np.ptp(stress[:, :, 0], axis=0))
    _, low, high = extremes(Reading("s", "xx", over="largest", against=against), source)
    assert low is not None and high is not None and high.value == pytest.approx(np.ptp(stress[:, :, 0], axis=0).max())


@pytest.mark.parametrize(
    ("text", "words"), [("stap=0", "no word of a reading"), ("step=x", "not right for step"), ("against=1", "no word")]
)
def test_what_is_taken_off_is_read_strictly(text: str, words: str) -> None:
    with pytest.raises(Impossible, match=words):
        Reading("s").changed(text)


def test_a_difference_in_another_unit_is_refused() -> None:
    source, _ = swinging()
    with pytest.raises(IronstoneError, match="cannot be converted to"):
        evaluate(Reading("s", "xx", against=Reading("heat")), source, AtCorners())


def test_numbers_that_name_something_are_never_averaged_nor_interpolated() -> None:
    mesh = grid_of_quads(2, 1)
    ply = field("ply", "", "element", names=True)
    zone = field("zone", "", "node", names=True)
    source = memory(mesh, (ply, np.array([[1.0], [4.0]])), (zone, np.array([[1.0], [1], [1], [1], [7], [7]])))
    answer = evaluate(Reading("ply"), source, AtCorners())
    assert sorted(set(answer.values)) == [1.0, 4.0]
    for words in ({"averaging": "part"}, {"averaging": "element"}, {"of": "jump"}):
        with pytest.raises(Impossible, match="name something"):
            resolve(Reading("ply", **words), source)  # type: ignore[arg-type]
    from ironstone.core.reading.evaluate import AtSamples

    inside = AtSamples(np.array([1, 1]), np.array([[0.2, 0.5, 0], [0.9, 0.5, 0]]))
    assert evaluate(Reading("zone"), source, inside).values.tolist() == [1.0, 7.0], "the nearest node's, nothing in between"
