"""Many points found in a mesh at once, against each point looked for by itself; the places of one result in another by both."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ironstone.core.geometry.inside import strictly_inside
from ironstone.core.geometry.locate import locate
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading import elsewhere
from tests.models import mesh_of
from tests.oracles.boxes import BY_NAME, SHAPES, Shape, box

SOLIDS = [s for s in SHAPES if s.dimension == 3]
SIZE = (3.0, 2.0, 1.5)


def bent(mesh: Mesh, much: float) -> Mesh:
    """A mesh whose sides are curved as far as its shapes can be, and no box any more."""
    x, y, z = mesh.points.T
    moved = np.stack([x + much * y * z, y + much * x**2, z + much * np.sin(x) * y], axis=1)
    return replace(mesh, points=moved)


def scattered(count: int = 1500) -> np.ndarray:
    """Places in and about the bent box."""
    return np.random.default_rng(5).uniform(-0.3, 1.3, (count, 3)) * SIZE


@pytest.mark.parametrize("shape", SOLIDS, ids=lambda s: s.name)
@pytest.mark.parametrize("much", [0.0, 0.08], ids=["box", "bent"])
def test_what_is_found_at_once_is_what_is_found_one_by_one(shape: Shape, much: float) -> None:
    mesh = bent(box(shape, counts=(3, 2, 2), size=SIZE), much)
    points = scattered()
    element, xi = strictly_inside(mesh, points)
    held = locate(mesh, points)
    alone = np.full(len(points), -1)
    alone[held.point] = held.element
    found = np.flatnonzero(element >= 0)
    assert (element[found] == alone[found]).all(), "and outside no point is found"
    assert np.abs(positions(mesh, AtSamples(element[found], xi[found])) - points[found]).max() < 1e-6
    # By curved sides, and just beside a border, some are left to be looked for one by one.
    assert len(found) > (0.94 if much == 0.0 else 0.8) * (alone >= 0).sum()


@pytest.mark.parametrize("shape", SOLIDS, ids=lambda s: s.name)
def test_on_a_border_nothing_is_found_at_once(shape: Shape) -> None:
    mesh = box(shape, counts=(2, 2, 2), size=SIZE)
    # Nodes in the middle of an element belong to it alone.
    counts = np.bincount(mesh.connectivity, minlength=len(mesh.points))
    low, high = mesh.points.min(0), mesh.points.max(0)
    border = (counts > 1) | (np.minimum(np.abs(mesh.points - low), np.abs(mesh.points - high)) < 1e-9).any(1)
    element, _ = strictly_inside(mesh, mesh.points[border])
    assert (element == -1).all(), "several elements meet there, or the body ends"


@pytest.mark.parametrize("shape", SOLIDS, ids=lambda s: s.name)
def test_places_of_another_mesh_are_the_same_found_either_way(shape: Shape, monkeypatch: pytest.MonkeyPatch) -> None:
    mine, theirs = (
        bent(box(BY_NAME["hex8"], counts=(5, 4, 3), size=SIZE), 0.05),
        bent(box(shape, counts=(3, 3, 2), size=SIZE), 0.05),
    )
    element = mine.corner_element
    points = mine.points[mine.connectivity]
    found = []
    for many in (1, 10**9):
        monkeypatch.setattr(elsewhere, "MANY", many)
        places, at = elsewhere._placed(mine, theirs, points, element, 1.0)
        found.append((places.element, at, positions(theirs, places)))
    assert (found[0][0] == found[1][0]).all() and (found[0][1] == found[1][1]).all()
    assert np.abs(found[0][2] - found[1][2]).max() < 1e-7


def test_where_parts_overlap_each_point_stays_in_its_own(monkeypatch: pytest.MonkeyPatch) -> None:
    """Two bricks that lie in each other by half: a corner of the second belongs to the second also where the first comes first."""
    cube = box(BY_NAME["hex8"], counts=(4, 2, 2), size=(1.0, 1.0, 1.0))
    cells = [(12, cube.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(16)]
    both = mesh_of(
        np.concatenate([cube.points, cube.points + [0.5, 0.0, 0.0]]),
        cells + [(12, [n + len(cube.points) for n in nodes]) for _, nodes in cells],
        [0] * 16 + [1] * 16,
    )
    monkeypatch.setattr(elsewhere, "MANY", 1)
    element = both.corner_element
    places, at = elsewhere._placed(both, both, both.points[both.connectivity], element, 1.0)
    assert len(at) == len(element) and (both.part[places.element] == both.part[element]).all()


def test_a_mesh_without_solids_and_no_points_find_nothing() -> None:
    flat = box(BY_NAME["quad4"], counts=(2, 2, 1))
    assert (strictly_inside(flat, flat.points)[0] == -1).all()
    assert len(strictly_inside(box(BY_NAME["tet4"], counts=(1, 1, 1)), np.zeros((0, 3)))[0]) == 0
