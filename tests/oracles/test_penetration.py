"""Penetration against what blocks, spheres and circles give by hand, over all shapes that enclose something."""

from __future__ import annotations

import itertools
import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import Impossible
from ironstone.core.geometry.penetration import border, inside, moved, of_all
from ironstone.core.mesh.mesh import Mesh
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake
from tests.models import mesh_of
from tests.oracles.boxes import BY_NAME, SHAPES, Shape, box
from tests.writing import write_vtu

SOLIDS = [s for s in SHAPES if s.dimension == 3]
FLAT = [s for s in SHAPES if s.dimension == 2]
DEEP = 0.07


def together(*meshes: Mesh) -> Mesh:
    """Meshes beside each other, a part each, that share no nodes."""
    points, cells, part = [], [], []
    start = 0
    for k, mesh in enumerate(meshes):
        points.append(mesh.points)
        for t, a, b in zip(mesh.types, mesh.offsets[:-1], mesh.offsets[1:], strict=True):
            cells.append((int(t), (mesh.connectivity[a:b] + start).tolist()))
            part.append(k)
        start += len(mesh.points)
    return mesh_of(np.concatenate(points), cells, part)


def shifted(mesh: Mesh, *by: float) -> Mesh:
    return moved(mesh, np.tile(np.array(by), (len(mesh.points), 1)))


@pytest.mark.parametrize(("lower", "upper"), [(a, SOLIDS[-1 - k]) for k, a in enumerate(SOLIDS)], ids=lambda s: s.name)
def test_a_block_that_sinks_into_another_does_so_by_the_same_depth_both_ways(lower: Shape, upper: Shape) -> None:
    """By hand: the shortest way out of either is straight up or down, by what they overlap."""
    base = box(lower, counts=(3, 3, 2), size=(3.0, 3.0, 1.0))
    on_top = shifted(box(upper, counts=(2, 2, 2), size=(1.4, 1.4, 0.8)), 0.8, 0.8, 1.0 - DEEP)
    both = together(base, on_top)
    for of, into, way in ((1, 0, 1.0), (0, 1, -1.0)):
        found = inside(both, of, into)
        points, (low, high) = both.points[found.nodes], ((base, on_top)[into]).box
        margin = 1e-9
        held = ((points > low + margin) & (points < high - margin)).all(1)
        assert (found.depth > 0).tolist() == held.tolist()
        if held.any():
            assert found.depth[held] == pytest.approx(np.full(held.sum(), DEEP), rel=1e-9)
            assert found.way[held] == pytest.approx(np.tile([0, 0, way * DEEP], (held.sum(), 1)), abs=1e-9)
    # The upper one's whole underside is inside.
    assert (inside(both, 1, 0).depth > 0).sum() == np.isclose(on_top.points[:, 2], 1.0 - DEEP).sum()


@pytest.mark.parametrize("shape", FLAT, ids=lambda s: s.name)
def test_a_planar_block_that_sinks_into_another(shape: Shape) -> None:
    base = box(shape, counts=(4, 2, 1), size=(4.0, 1.0, 0.0))
    on_top = shifted(box(shape, counts=(3, 2, 1), size=(1.5, 0.5, 0.0)), 1.1, 1.0 - DEEP, 0.0)
    both = together(base, on_top)
    assert both.planar
    under = inside(both, 1, 0)
    below = np.isclose(both.points[under.nodes, 1], 1.0 - DEEP)
    assert under.depth == pytest.approx(np.where(below, DEEP, 0.0), rel=1e-9)


def ball(shape: Shape, radius: float, counts: int) -> Mesh:
    """A block whose nodes are moved so that its outside is a sphere: each cube of it becomes a sphere."""

    def bend(points: np.ndarray) -> np.ndarray:
        away = points - 1.0
        reach, length = np.abs(away).max(1), np.linalg.norm(away, axis=1)
        return radius * away * (reach / np.maximum(length, 1e-300))[:, None]

    return box(shape, counts=(counts, counts, counts), size=(2.0, 2.0, 2.0), bend=bend)


@pytest.mark.parametrize("shape", [BY_NAME["hex20"], BY_NAME["hex27"], BY_NAME["tet10"]], ids=lambda s: s.name)
def test_a_sphere_in_a_block_and_the_block_in_the_sphere(shape: Shape) -> None:
    """By hand: a node of the sphere is as deep as it is below the plane, one of the block as it is from the sphere's outside."""
    radius, sunk = 5.0, 0.4
    block = shifted(box(BY_NAME["hex8"], counts=(20, 20, 3), size=(8.0, 8.0, 3.0)), -4.0, -4.0, -3.0)
    sphere = shifted(ball(shape, radius, 6), 0.0, 0.0, radius - sunk)
    both = together(block, sphere)
    one = inside(both, 1, 0)
    assert one.depth == pytest.approx(np.maximum(-both.points[one.nodes, 2], 0.0), rel=1e-9, abs=1e-12)
    other = inside(both, 0, 1)
    expected = np.maximum(radius - np.linalg.norm(both.points[other.nodes] - [0, 0, radius - sunk], axis=1), 0.0)
    assert other.depth.max() == pytest.approx(sunk, rel=2e-3)
    assert other.depth == pytest.approx(expected, abs=2e-3 * radius)
    # As straight as its corners make them the faces would lie off by a hundred times that.
    straight = radius * (1 - np.cos(np.pi / 24))
    assert np.abs(other.depth - expected).max() < straight / 3


def test_a_circle_of_curved_sides_in_a_strip() -> None:
    def bend(points: np.ndarray) -> np.ndarray:
        away = points[:, :2] - 1.0
        reach, length = np.abs(away).max(1), np.linalg.norm(away, axis=1)
        return np.column_stack([2.0 * away * (reach / np.maximum(length, 1e-300))[:, None], 0 * reach])

    disc = shifted(box(BY_NAME["quad8"], counts=(8, 8, 1), size=(2.0, 2.0, 0.0), bend=bend), 0.0, 1.9, 0.0)
    strip = shifted(box(BY_NAME["tri3"], counts=(40, 3, 1), size=(6.0, 1.0, 0.0)), -3.0, -1.0, 0.0)
    both = together(strip, disc)
    one, other = inside(both, 1, 0), inside(both, 0, 1)
    assert one.depth == pytest.approx(np.maximum(-both.points[one.nodes, 1], 0.0), rel=1e-9, abs=1e-12)
    expected = np.maximum(2.0 - np.linalg.norm(both.points[other.nodes] - [0, 1.9, 0], axis=1), 0.0)
    assert expected.max() > 0.09 and other.depth == pytest.approx(expected, abs=5e-4)
    # By the definition: the nearest of very many places along the curved sides themselves.
    t = np.linspace(-1, 1, 2001)[:, None]
    sides = disc.points[border(disc)]
    dense = [t * (t - 1) / 2 * a + t * (t + 1) / 2 * b + (1 - t * t) * c for a, b, c in sides]
    for node, depth in zip(other.nodes[other.depth > 0], other.depth[other.depth > 0], strict=True):
        assert depth == pytest.approx(np.linalg.norm(np.concatenate(dense) - both.points[node], axis=1).min(), abs=1e-6)


def test_bodies_that_touch_or_share_nodes_do_not_sink_in() -> None:
    base = box(BY_NAME["hex8"], counts=(3, 3, 1), size=(3.0, 3.0, 1.0))
    touching = together(base, shifted(base, 0.5, 0.5, 1.0 + 1e-8))
    assert not (inside(touching, 0, 1).depth > 0).any() and not (inside(touching, 1, 0).depth > 0).any()
    bonded = mesh_of(base.points, [(12, base.connectivity[8 * i : 8 * i + 8].tolist()) for i in range(9)], [0] * 4 + [1] * 5)
    assert not (inside(bonded, 0, 1).depth > 0).any() and np.isnan(of_all(bonded)).all()
    far = together(base, shifted(base, 50.0, 0.0, 0.0))
    assert not (inside(far, 1, 0).depth > 0).any()


def test_far_from_the_origin_and_in_another_unit_it_is_the_same_depth() -> None:
    base = box(BY_NAME["hex20"], counts=(3, 3, 2), size=(3.0, 3.0, 1.0))
    both = together(base, shifted(box(BY_NAME["tet4"], counts=(2, 2, 2), size=(1.4, 1.4, 0.8)), 0.8, 0.8, 1.0 - DEEP))
    for scale, off in itertools.product((1e-3, 1e3), (0.0, 40.0)):
        other = moved(both, both.points * (scale - 1) + scale * off)
        assert inside(other, 1, 0).depth == pytest.approx(scale * inside(both, 1, 0).depth, rel=1e-6)


def test_a_shell_has_no_inside() -> None:
    plate = box(BY_NAME["quad4"], counts=(2, 2, 1), size=(1.0, 1.0, 0.0), bend=lambda p: p + np.outer(p[:, 0] ** 2, [0, 0, 1.0]))
    both = together(plate, box(BY_NAME["hex8"], counts=(1, 1, 1)))
    with pytest.raises(Impossible, match="encloses nothing"):
        inside(both, 1, 0)


def files(folder: Path) -> Path:
    """A block above another that comes down by 0.5 mm over a gap of 0.4 mm, with a pressure of 30 where it is pressed."""
    base = box(BY_NAME["hex8"], counts=(3, 3, 2), size=(3.0, 3.0, 1.0))
    on_top = shifted(box(BY_NAME["hex8"], counts=(2, 2, 1), size=(1.4, 1.4, 0.8)), 0.8, 0.8, 1.4)
    both = together(base, on_top)
    down = np.zeros((len(both.points), 3))
    down[len(base.points) :, 2] = -0.5
    pressed = np.where(np.isclose(both.points[:, 2], 1.4), 30.0, np.nan)
    cells = [(int(t), both.connectivity[a:b].tolist()) for t, a, b in zip(both.types, both.offsets, both.offsets[1:], strict=False)]
    data = {"displacement": down, "contact_pressure": pressed}
    return write_vtu(folder / "press.vtu", both.points, cells, data, {"part": both.part + 1})


def test_the_question_says_how_deep_how_many_where_and_with_which_stiffness(tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [files(tmp_path)], name="press")
        answer = ask(review, question_of("penetration", {"between": "part 2|part 1"}))
        sides = {s["of"]: s for s in answer.more["sides"]}
        assert sides["part 2"]["deepest"] == pytest.approx(0.1) and sides["part 2"]["count"] == 9
        assert sides["part 1"]["count"] == 4 and sides["part 1"]["into"] == "part 2"
        assert answer.more["stiffness"] == pytest.approx(300.0)
        assert answer.state == "bad" and "9 nodes of part 2 lie up to 0.1 mm inside part 1" in answer.verdict
        source = review.result("press")
        field = source.read("penetration into other parts", at="nodes").values
        assert np.nanmax(field) == pytest.approx(0.1) and (field > 0).sum() == 13
        with pytest.raises(Impossible, match="does not name two parts"):
            ask(review, question_of("penetration", {"between": "part 1"}))
    told = CliRunner().invoke(app, ["penetration", str(tmp_path / "r.ironstone"), "--between", "part 1|part 2", "--json"])
    found = json.loads(told.stdout)
    assert found["state"] == "bad" and "lie up to 0.1 mm inside" in found["verdict"]
    assert found["unit"] == "mm" and [(s["of"], s["into"]) for s in found["sides"]] == [("part 1", "part 2"), ("part 2", "part 1")]
    assert found["sides"][1]["deepest"] == pytest.approx(0.1) and found["sides"][1]["node"] is not None
