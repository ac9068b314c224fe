"""Averaging stops where shells fold, where their thickness or property changes, and may weigh elements by volume."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.mesh.places import AtCorners, AtNodes
from ironstone.core.reading.averaging import corner_averaging
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from tests.models import field, memory, mesh_of


def roof(angle: float, quadratic: bool = False, breaks: list[int] | None = None):  # type: ignore[no-untyped-def]
    """Two plates that meet in a ridge along y, the second falling by ``angle`` degrees; stress 10 in the one, 30 in the other."""
    fall = np.radians(angle)
    points = [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]]
    points += [[1 + np.cos(fall), 0, -np.sin(fall)], [1 + np.cos(fall), 1, -np.sin(fall)]]
    cells = [(9, [0, 1, 2, 3]), (9, [1, 4, 5, 2])]
    size = 4
    if quadratic:
        sides = [[(0, 1), (1, 2), (2, 3), (3, 0)], [(1, 4), (4, 5), (5, 2), (2, 1)]]
        middle: dict[frozenset[int], int] = {}
        whole = []
        for (_, nodes), own in zip(cells, sides, strict=True):
            for a, b in own:
                if frozenset((a, b)) not in middle:
                    middle[frozenset((a, b))] = len(points)
                    points.append([(p + q) / 2 for p, q in zip(points[a], points[b], strict=True)])
            whole.append((23, nodes + [middle[frozenset(s)] for s in own]))
        cells, size = whole, 8
    mesh = mesh_of(np.array(points, float), cells, breaks=breaks)
    stress = np.zeros((2 * size, 6))
    stress[:size, 0], stress[size:, 0] = 10.0, 30.0
    return memory(mesh, (field("s", "stress", "corner"), stress))


@pytest.mark.parametrize("quadratic", [False, True])
def test_a_fold_of_more_than_twenty_degrees_is_not_averaged_across(quadratic: bool) -> None:
    ridge = [1, 2]
    for angle, values in ((10.0, [20.0]), (30.0, [10.0, 30.0])):
        source = roof(angle, quadratic)
        nodes = np.array(ridge if not quadratic else [1, 2, 7])
        answer = evaluate(Reading("s", "xx", "part"), source, AtNodes(nodes))
        assert answer.values.tolist() == values * len(nodes), f"{angle} degrees"


def test_the_limit_can_be_set_and_everything_means_everything() -> None:
    source = roof(30.0)
    node = AtNodes(np.array([1]))
    assert evaluate(Reading("s", "xx", "part", fold=45.0), source, node).values.tolist() == [20.0]
    assert evaluate(Reading("s", "xx", "all"), source, node).values.tolist() == [20.0]
    assert "folds up to 45°" in evaluate(Reading("s", "xx", "part", fold=45.0), source, node).resolved.sentence()


def test_a_change_of_thickness_is_not_averaged_across() -> None:
    node = AtNodes(np.array([1]))
    assert evaluate(Reading("s", "xx", "part"), roof(0.0, breaks=[0, 1]), node).values.tolist() == [10.0, 30.0]
    assert evaluate(Reading("s", "xx", "all"), roof(0.0, breaks=[0, 1]), node).values.tolist() == [20.0]


def test_a_larger_element_counts_for_more_when_means_are_by_volume() -> None:
    points = np.array([[0, 0, 0], [3, 0, 0], [3, 1, 0], [0, 1, 0], [4, 0, 0], [4, 1, 0.0]])
    mesh = mesh_of(points, [(9, [0, 1, 2, 3]), (9, [1, 4, 5, 2])])
    stress = np.zeros((8, 6))
    stress[:4, 0], stress[4:, 0] = 10.0, 30.0
    source = memory(mesh, (field("s", "stress", "corner"), stress))
    answer = evaluate(Reading("s", "xx", "part", weight="volume"), source, AtNodes(np.array([1])))
    assert answer.values == pytest.approx([15.0]), "(3 x 10 + 1 x 30) / 4"
    assert "by volume" in answer.resolved.sentence()


def test_solids_beside_a_folded_shell_are_averaged_as_ever() -> None:
    cube = [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]]
    points = np.array([*cube, *([x + 1, y, z] for x, y, z in (cube[1], cube[2], cube[5], cube[6]))], float)
    cells = [(12, list(range(8))), (12, [1, 8, 9, 2, 5, 10, 11, 6]), (9, [4, 5, 6, 7]), (9, [1, 5, 6, 2])]
    mesh = mesh_of(points, cells)
    values = np.repeat([[10.0], [30.0], [5.0], [7.0]], [8, 8, 4, 4], axis=0)
    averaged = corner_averaging(mesh, "part")(values)
    at = [int(c) for c in mesh.corners_at(5)]
    assert sorted(set(averaged[at, 0])) == [5.0, 7.0, 20.0], "the solids share a mean, each sheet keeps its own"


def test_bars_beside_solids_keep_their_own(flexure) -> None:  # type: ignore[no-untyped-def]
    points = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [2, 0, 0.0]])
    mesh = mesh_of(points, [(9, [0, 1, 2, 3]), (3, [1, 4]), (3, [0, 1])])
    values = np.array([[1.0]] * 4 + [[5.0]] * 2 + [[9.0]] * 2)
    source = memory(mesh, (field("n", "", "corner"), values))
    assert evaluate(Reading("n", averaging="all"), source, AtCorners()).values.tolist() == values[:, 0].tolist()
