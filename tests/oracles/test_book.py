"""Two bodies opened like a book: the faces that lay on each other lie in one plane, side by side, and look the same way."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.geometry.penetration import facing, hinge
from ironstone.core.geometry.surface import Look, Turn, skin
from tests.oracles.boxes import BY_NAME, SHAPES, Shape
from tests.oracles.test_opening import two_blocks

SOLID = [s for s in SHAPES if s.dimension == 3]


@pytest.mark.parametrize("shape", SOLID, ids=lambda s: s.name)
@pytest.mark.parametrize("degrees", [0.0, 40.0])
def test_the_faces_lie_open_side_by_side(shape: Shape, degrees: float) -> None:
    mesh, above = two_blocks(shape, turn=np.radians(degrees))
    faces = facing(mesh, 1, 0)
    assert faces is not None
    middle, normal = faces
    up = np.array([-np.sin(np.radians(degrees)), np.cos(np.radians(degrees)), 0.0])
    assert normal == pytest.approx(up, abs=1e-9), "the lower one's face looks up"
    at, axis = hinge(mesh, 1, 0, middle, normal)
    turn = Turn(1, tuple(at), tuple(axis))
    turned = at + turn.of(mesh.points - at)
    on_face = np.isclose((mesh.points - middle) @ up, 0.0, atol=1e-9)
    assert (turned[on_face] - middle) @ up == pytest.approx(np.zeros(on_face.sum()), abs=1e-9), "in the plane it lay in"
    assert ((turned[above & ~on_face] - middle) @ up < 0).all(), "and its body below it, as the other's: both look up"
    out = np.cross(axis, up)
    reach = (mesh.points[~above] - at) @ out, (turned[above] - at) @ out
    assert reach[0].max() < reach[1].min() or reach[1].max() < reach[0].min(), "beside each other, clear of both"
    drawn, plain = skin(mesh, Look(turned=turn)), skin(mesh, Look())
    own = mesh.part[drawn.vertices.element] == 1
    assert drawn.points[~own] == pytest.approx(plain.points[~own])
    assert drawn.points[own] == pytest.approx(at + turn.of(plain.points[own] - at))
    assert drawn.triangle_areas.sum() == pytest.approx(plain.triangle_areas.sum())


def test_half_a_turn_is_a_turn_that_undoes_itself() -> None:
    turn = Turn(0, (0.0, 0.0, 0.0), (1.0, 2.0, -0.5))
    vectors = np.random.default_rng(3).normal(size=(50, 3))
    assert turn.of(turn.of(vectors)) == pytest.approx(vectors)
    assert np.linalg.norm(turn.of(vectors), axis=1) == pytest.approx(np.linalg.norm(vectors, axis=1))
    assert np.linalg.det(turn.of(np.eye(3))) == pytest.approx(1.0), "no mirror image"


def test_planar_bodies_have_no_book() -> None:
    assert facing(two_blocks(BY_NAME["quad4"])[0], 1, 0) is None
