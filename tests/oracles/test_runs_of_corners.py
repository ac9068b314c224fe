"""What is asked of all corners is the same whether it is worked out in one go or a few corners at a time."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ironstone.core.field.fields import Field, Memory, Setup
from ironstone.core.mesh.gauss import known_counts
from ironstone.core.mesh.places import AtCorners, AtElements
from ironstone.core.reading import averaging, distribution, element_means, elsewhere, evaluate
from ironstone.core.reading.error_estimate import error_estimate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from tests.oracles.boxes import SHAPES, Shape, box

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")
READINGS = [
    Reading("stress", "von-mises"),
    Reading("stress", "xx", "part"),
    Reading("stress", "von-mises", "all", order="measure"),
    Reading("stress", "xx", "part", weight="volume"),
    Reading("stress", "von-mises", "element"),
    Reading("stress", "xx", of="jump"),
    Reading("stress", "xx", region="part:two"),
]
SMALL = 29


@pytest.fixture
def few(monkeypatch: pytest.MonkeyPatch):
    def begin() -> None:
        for module in (averaging, distribution, element_means, evaluate):
            monkeypatch.setattr(module, "RUN", SMALL)
        monkeypatch.setattr(elsewhere, "RUN", 150)
        monkeypatch.setattr(evaluate, "MANY_SAMPLES", 20)

    return begin


def source(shape: Shape, location: str, gaps: bool = False) -> Memory:
    """A box of two parts with a stress nobody could guess."""
    mesh = box(shape, counts=(3, 2, 1), size=(2.0, 3.0, 1.5))
    part = (np.arange(len(mesh.types)) % 2).astype(np.int32)
    mesh = replace(mesh, part=part, part_names=("one", "two"))
    chance = np.random.default_rng(len(mesh.connectivity))
    points = max((n for n in known_counts(mesh.blocks[0].cell) if n <= 8), default=1)
    width = points if location == "gauss" else 1
    rows = {"corner": len(mesh.connectivity), "node": len(mesh.points)}.get(location, len(mesh.types))
    values = chance.normal(size=(1, rows, 6 * width))
    if gaps:
        values[:, ::5] = np.nan
    field = Field("stress", "stress", "tensor", location, TENSOR, "MPa", points=points if location == "gauss" else 0)
    setup = Setup(constants={name: {"young": 2e5, "poisson": 0.3} for name in ("one", "two")})
    return Memory(mesh, [field], {"stress": values}, setup=setup)


@pytest.mark.parametrize("gaps", [False, True], ids=["whole", "with gaps"])
@pytest.mark.parametrize("location", ["corner", "node", "element", "gauss"])
@pytest.mark.parametrize("shape", [s for s in SHAPES if s.dimension > 1], ids=lambda s: s.name)
def test_a_few_corners_at_a_time_say_the_same(few, shape: Shape, location: str, gaps: bool) -> None:
    def all_of(reading: Reading):
        one = source(shape, location, gaps)
        every = AtElements(np.arange(len(one.mesh.types)))
        corners = evaluate.evaluate(reading, one, AtCorners()).values
        return corners, evaluate.evaluate(reading, one, every).values, extremes(reading, one)

    readings = [r for r in READINGS if r.of == "value" or location in ("corner", "gauss")]
    first = {r: all_of(r) for r in readings}
    few()
    for r, (corners, elements, (said, low, high)) in first.items():
        now, means, (told, least, most) = all_of(r)
        np.testing.assert_allclose(now, corners, rtol=1e-12, atol=1e-12)
        np.testing.assert_allclose(means, elements, rtol=1e-12, atol=1e-12)
        assert told.caveats == said.caveats
        assert (least is None, most is None) == (low is None, high is None)
        if least is None or most is None or low is None or high is None:
            continue
        assert (least.value, most.value) == pytest.approx((low.value, high.value))
        # By definition: nothing at any corner lies beyond (means of elements are read as such).
        if location != "element" and r.averaging != "element":
            assert (least.value, most.value) == pytest.approx((np.nanmin(corners), np.nanmax(corners)), abs=1e-9)


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.dimension == 3], ids=lambda s: s.name)
def test_the_error_and_the_spread_are_the_same(few, shape: Shape) -> None:
    def found():
        one = source(shape, "corner")
        estimate = error_estimate(Reading("stress", of="error"), one)
        values = evaluate.evaluate(Reading("stress", "xx"), one, AtCorners())
        return estimate.elements, distribution.by_volume(one.mesh, values, frozenset({0}), -2.0, 2.0, 9)

    first = found()
    few()
    for a, b in zip(first, found(), strict=True):
        np.testing.assert_allclose(a, b, rtol=1e-10)
