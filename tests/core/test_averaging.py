from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtNodes
from ironstone.core.reading.averaging import corner_averaging, grouping, spread
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from tests.core.test_evaluate import OneElement
from tests.core.test_surface import bar
from tests.writing import HEX


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 2**31))
def test_averaging_keeps_what_is_already_the_same_and_the_sum_at_each_node(seed: int) -> None:
    mesh = bar(4, (0, 0, 1, 1))
    values = np.random.default_rng(seed).normal(size=(32, 3))
    operator = corner_averaging(mesh, "part")
    once = operator(values)
    assert operator(once) == pytest.approx(once), "averaging twice changes nothing more"
    sums = [[np.bincount(operator.slot, v[:, k]) for k in range(3)] for v in (once, values)]
    assert np.allclose(*sums), "nothing is made or lost at a node"
    assert once.min() >= values.min() and once.max() <= values.max()


def test_a_group_is_a_part_a_material_or_everything() -> None:
    mesh = bar(3, (0, 1, 1))
    assert grouping(mesh, "part").tolist() == [0, 1, 1]
    assert grouping(mesh, "all").tolist() == [0, 0, 0]
    assert grouping(mesh, "material").tolist() == [0, 1, 1]


def test_bars_are_never_averaged_across_members() -> None:
    """Two bars in line with forces 5 and 9: the joint keeps both, whatever averaging is asked for."""
    points = np.array([[0.0, 0, 0], [1, 0, 0], [2, 0, 0]])
    types, offsets, nodes = np.array([3, 3], np.uint8), np.array([0, 2, 4]), np.array([0, 1, 1, 2])
    mesh = Mesh(points, types, offsets, nodes, np.arange(3), np.arange(2), np.zeros(2, np.int32), ("truss",))
    force = np.array([[5.0], [5.0], [9.0], [9.0]])
    for averaging in ("part", "material", "all"):
        assert corner_averaging(mesh, averaging)(force).ravel().tolist() == [5.0, 5.0, 9.0, 9.0]


def test_a_corner_without_a_value_keeps_none_and_does_not_pull_its_neighbours() -> None:
    mesh = bar(2, (0, 0))
    values = np.ones((16, 1))
    values[8:] = 3.0
    shared = int(np.flatnonzero(np.bincount(mesh.connectivity) == 2)[0])
    first, second = mesh.corners_at(shared)
    values[first] = np.nan
    averaged = corner_averaging(mesh, "all")(values)
    assert np.isnan(averaged[first, 0])
    assert averaged[second, 0] == 3.0


def test_spread_is_over_the_values_that_are_there() -> None:
    assert spread(np.array([3.0, np.nan, 7.5])) == 4.5
    assert spread(np.array([3.0])) == 0.0
    assert np.isnan(spread(np.array([np.nan])))


class TwoElements(OneElement):
    """Two cubes that meet, pulled in one and pushed in the other by the same stress."""

    def __init__(self) -> None:
        super().__init__(np.zeros((16, 6)))
        self.mesh = bar(2, (0, 0))
        self.corners[:8, 0], self.corners[8:, 0] = 100.0, -100.0


def test_components_first_cancel_where_the_measure_first_does_not() -> None:
    source = TwoElements()
    shared = np.flatnonzero(np.bincount(source.mesh.connectivity) == 2)
    components = evaluate(Reading("stress", "von-mises", "all"), source, AtNodes(shared)).values
    measure = evaluate(Reading("stress", "von-mises", "all", "measure"), source, AtNodes(shared)).values
    assert components == pytest.approx(np.zeros(4)), "the mean of +100 and -100 is no stress"
    assert measure == pytest.approx(np.full(4, 100.0))
    assert len(HEX) == 8
