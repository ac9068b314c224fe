"""A sentence stands for one answer: whatever is asked, two readings that answer differently are never called the same."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.errors import IronstoneError
from ironstone.core.field.axes import three_points
from ironstone.core.field.fields import Field, Memory, Setup, Step
from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.reading.trace import trace
from ironstone.core.reading.where import parse, place_of
from tests.models import mesh_of

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")


def roof() -> Memory:
    """Folded shells of two parts and materials, random values, steps whose times print alike, names that read alike."""
    x = np.array([[i * (1 + 0.2 * i), j**1.5, 0.5 * abs(i - 2) * (1 + j)] for i in range(5) for j in range(3)], dtype=float)
    at = np.arange(15).reshape(5, 3)
    cells = [(9, [at[i, j], at[i + 1, j], at[i + 1, j + 1], at[i, j + 1]]) for i in range(4) for j in range(2)]
    mesh = mesh_of(x, cells, part=[0, 0, 0, 0, 1, 1, 1, 1], material=[0, 0, 1, 1, 1, 1, 0, 0], names=("steel", "bronze"))
    mesh.element_sets["all"] = np.array([1, 2, 5])
    random = np.random.default_rng(11)
    described = [
        Field("peak_stress", "stress", "tensor", "corner", TENSOR, "MPa"),
        Field("peak stress", "stress", "tensor", "corner", TENSOR, "MPa"),
        Field("von Mises of peak stress", "", "scalar", "corner", ("value",), "MPa"),
        Field("strain", "strain", "tensor", "gauss", TENSOR, "", points=4),
        Field("u", "displacement", "vector", "node", ("x", "y", "z"), "mm"),
        Field("heat", "temperature", "scalar", "element", ("value",), "K"),
        Field("state", "", "scalar", "element", ("value",), "", names=True),
    ]
    sizes = {"corner": 32, "gauss": 8, "node": 15, "element": 8}
    arrays = {f.name: random.normal(size=(4, sizes[f.location], len(f.components) * max(f.points, 1))) for f in described}
    steps = tuple(Step(i, "time", 1.0 + 1e-6 * i, "s") for i in range(4))
    setup = Setup(
        axes={
            "eye": three_points("eye", "cylindrical", np.array([2, 1, -3.0]), np.array([2, 1, 0.0]), np.array([3, 1, -3.0])),
            "tilted": three_points("tilted", "cartesian", np.zeros(3), np.array([0, 1, 1.0]), np.array([1, 0, 0.0])),
        },
        constants={"steel": {"young": 210e3, "poisson": 0.3}, "bronze": {"young": 100e3, "poisson": 0.34}},
    )
    return Memory(mesh, described, arrays, steps, setup)


SOURCE = roof()
PLACE = AtCorners()
plain = st.builds(
    Reading,
    field=st.sampled_from(list(SOURCE.fields)),
    measure=st.sampled_from(["", "", "xx", "hoop", "von-mises", "principal-1", "plane-normal", "magnitude", "x", "elastic-energy"]),
    averaging=st.sampled_from(["off", "off", "element", "part", "material", "all"]),
    order=st.sampled_from(["components", "measure"]),
    step=st.integers(0, 3),
    region=st.sampled_from(["all", "all", "part:part 1", "part:part 2", "material:steel", "set:all"]),
    unit=st.none(),
    of=st.sampled_from(["value", "value", "value", "jump", "jump-within-material", "error"]),
    axes=st.sampled_from(["global", "global", "element", "eye", "tilted"]),
    plane=st.sampled_from([None, (0.0, 0.0, 1.0), (0.1234567, 0.0, 1.0), (0.1234568, 0.0, 1.0)]),
    weight=st.sampled_from(["plain", "plain", "volume"]),
    fold=st.sampled_from([20.0, 30.0, 60.0]),
    over=st.sampled_from(["step", "step", "largest", "smallest", "magnitude"]),
    span=st.sampled_from(["all", "so-far", "0:2", "1:3"]),
    when=st.booleans(),
)
changes = st.lists(
    st.sampled_from(
        ["step=0", "step=2", "averaging=part", "averaging=all", "axes=eye", "region=part:part 1", "over=largest", "over=step",
         "span=so-far", "weight=volume", "fold=60", "order=measure", "of=jump", "when=0"]
    ),
    max_size=3,
    unique_by=lambda text: text.partition("=")[0],
)  # fmt: skip
readings = st.one_of(plain, st.builds(lambda r, c: r.minus(";".join(c)) if c else r, plain, changes))


def answered(reading: Reading) -> tuple[str, bytes] | None:
    try:
        answer = evaluate(reading, SOURCE, PLACE)
    except IronstoneError:
        return None
    return answer.resolved.sentence(), np.round(answer.values, 9).tobytes()


@settings(max_examples=40)
@given(st.lists(readings, min_size=40, max_size=60))
def test_readings_that_answer_differently_have_different_sentences(asked: list[Reading]) -> None:
    known: dict[str, set[bytes]] = defaultdict(set)
    for reading in asked:
        answer = answered(reading)
        if answer is not None:
            known[answer[0]].add(answer[1])
    assert all(len(answers) == 1 for answers in known.values()), [s for s, a in known.items() if len(a) > 1]


@settings(max_examples=400)
@given(readings, readings, st.sampled_from([n for n in Reading.__dataclass_fields__ if n != "together"]))
def test_a_reading_changed_in_one_word_is_called_otherwise_or_answers_the_same(first: Reading, other: Reading, word: str) -> None:
    changed = replace(first, **{word: getattr(other, word)})
    answer = [answered(r) for r in (first, changed)]
    if None not in answer and answer[0][0] == answer[1][0]:  # type: ignore[index]
        assert answer[0][1] == answer[1][1], answer[0][0]  # type: ignore[index]


@pytest.mark.parametrize(
    "text",
    ["field=peak stress", "measure=yy", "averaging=part", "averaging=part;weight=volume", "averaging=part;order=measure", "step=1",
     "region=part:part 1", "region=material:steel", "region=set:all", "of=jump", "of=error", "axes=eye", "averaging=part;fold=60",
     "over=largest", "over=largest;span=so-far", "over=largest;span=0:2", "over=magnitude", "over=largest;when=1"],
)  # fmt: skip
def test_every_word_of_a_reading_is_in_its_sentence(text: str) -> None:
    first = Reading("peak_stress", "xx", step=2)
    other = first.changed(text)
    assert resolve(first, SOURCE).sentence() != resolve(other, SOURCE).sentence()
    # An error estimate and a step have units of their own, and are not taken off a stress.
    if text not in ("of=error", "over=largest;when=1"):
        assert resolve(first.minus(text), SOURCE).sentence() not in [resolve(r, SOURCE).sentence() for r in (first, other)]


@pytest.mark.parametrize("change", ["weight=volume", "fold=60", "order=measure"])
def test_how_a_mean_is_taken_is_in_the_sentence_of_a_mean(change: str) -> None:
    mean = Reading("peak_stress", "von-mises", "part")
    answer = [evaluate(r, SOURCE, PLACE) for r in (mean, mean.changed(change))]
    assert not np.allclose(answer[0].values, answer[1].values)
    assert answer[0].resolved.sentence() != answer[1].resolved.sentence()


def test_planes_that_differ_late_are_told_apart() -> None:
    answer = [
        resolve(Reading("peak_stress", "plane-normal", plane=(0.123456 + d, 0.0, 1.0)), SOURCE).sentence() for d in (7e-7, 8e-7)
    ]
    assert answer[0] != answer[1]


def test_largest_of_all_steps_less_the_first_is_not_nothing() -> None:
    """Worked out by hand from the arrays: the largest over four steps, less step one."""
    reading = Reading("peak_stress", "xx", step=3, over="largest").minus("step=0")
    answer = evaluate(reading, SOURCE, PLACE)
    values = SOURCE.arrays["peak_stress"][:, :, 0]
    assert answer.values == pytest.approx(values.max(0) - values[0])
    sentence = answer.resolved.sentence()
    assert "largest over all steps" in sentence and "minus the same, at t = 1 s (step 1 of 4)" in sentence
    both = Reading("peak_stress", "xx", step=3, over="largest").minus("averaging=part")
    assert "minus the same, averaged within each part" in resolve(both, SOURCE).sentence()


def test_a_difference_taken_together_goes_through_the_steps_whatever_is_in_view() -> None:
    """Raw less averaged, over all steps: the same from whichever step one looks, and a fixed second step stays."""
    for view in range(4):
        moving = Reading("peak_stress", "xx", step=view).minus("averaging=part")
        values = [evaluate(moving.at(s), SOURCE, PLACE).values for s in range(4)]
        for s in range(4):
            raw = SOURCE.arrays["peak_stress"][s, :, 0]
            mean = evaluate(Reading("peak_stress", "xx", "part", step=s), SOURCE, PLACE).values
            assert values[s] == pytest.approx(raw - mean)
        fixed = Reading("peak_stress", "xx", step=view).minus("step=1")
        assert evaluate(fixed.at(3), SOURCE, PLACE).values == pytest.approx(
            SOURCE.arrays["peak_stress"][3, :, 0] - SOURCE.arrays["peak_stress"][1, :, 0]
        )
    ends = [extremes(Reading("peak_stress", "xx", step=v).minus("averaging=part").at(2), SOURCE)[2] for v in range(4)]
    assert len({e.value for e in ends if e}) == 1


def test_a_trace_of_a_difference_follows_both_or_one() -> None:
    values = SOURCE.arrays["heat"][:, 2, 0]
    place = place_of(parse("element:3"), Reading("heat"), SOURCE)
    fixed = trace(Reading("heat", step=2).minus("step=0"), SOURCE, place)
    assert fixed.values == pytest.approx(values - values[0])
    assert "minus the same, at t = 1 s (step 1 of 4)" in fixed.resolved.sentence(with_step=False)
    together = trace(Reading("heat", step=2).minus("region=part:part 1"), SOURCE, place)
    assert together.values == pytest.approx(np.zeros(4))
