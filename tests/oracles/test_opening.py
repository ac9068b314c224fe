"""Faces that part, against displacements stated in closed form: on every shape, matching and unlike meshes, cracks in one part."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.geometry.opening import opening
from ironstone.core.mesh.meeting import may_part
from ironstone.core.mesh.mesh import Mesh
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake
from tests.models import mesh_of
from tests.oracles.boxes import BY_NAME, SHAPES, Shape, box
from tests.writing import write_vtu

SPREAD = [s for s in SHAPES if s.dimension > 1]


def two_blocks(shape: Shape, lower=(3, 2, 2), upper=(3, 2, 2), turn: float = 0.0) -> tuple[Mesh, np.ndarray]:
    """One block upon another in a mesh of two parts, which meet in y = 1; turned about z. Which nodes are the upper one's."""
    depth = 1.0 if shape.dimension == 3 else 0.0
    one, other = (box(shape, counts=c, size=(2.0, 1.0, depth)) for c in (lower, upper))
    points = np.concatenate([one.points, other.points + [0, 1, 0]])
    cos, sin = np.cos(turn), np.sin(turn)
    points = points @ np.array([[cos, sin, 0], [-sin, cos, 0], [0, 0, 1]])
    cells = []
    for mesh, first in ((one, 0), (other, len(one.points))):
        for k in range(len(mesh.types)):
            cells.append((int(mesh.types[k]), (mesh.connectivity[mesh.offsets[k] : mesh.offsets[k + 1]] + first).tolist()))
    part = [0] * len(one.types) + [1] * len(other.types)
    return mesh_of(points, cells, part=part), np.arange(len(points)) >= len(one.points)


@pytest.mark.parametrize("upper", [(3, 2, 2), (4, 2, 3)], ids=["matching", "unlike"])
@pytest.mark.parametrize("shape", SPREAD, ids=lambda s: s.name)
def test_blocks_drawn_apart_open_by_what_they_are_drawn(shape: Shape, upper: tuple[int, int, int]) -> None:
    """Square to the face 0.02, along it (x) 0.03, across it 0.05 of the other one relative to a node's own."""
    mesh, above = two_blocks(shape, upper=upper)
    apart = np.array([0.03, 0.02, 0.05 if shape.dimension == 3 else 0.0])
    found = opening(mesh, np.where(above[:, None], apart, 0.0))
    on_face = np.isclose(mesh.points[:, 1], 1.0)
    assert (~np.isnan(found[:, 0]) == on_face).all(), "there, and nowhere else"
    assert found[on_face, 0] == pytest.approx(0.02)
    sign = np.where(above[on_face], -1.0, 1.0)
    assert found[on_face, 1] == pytest.approx(0.03 * sign)
    assert np.abs(found[on_face, 2]) == pytest.approx(np.full(on_face.sum(), abs(apart[2])))


@pytest.mark.parametrize("shape", [BY_NAME["quad4"], BY_NAME["tri6"], BY_NAME["hex8"], BY_NAME["tet10"]], ids=lambda s: s.name)
@pytest.mark.parametrize("degrees", [20.0, 75.0, 130.0])
def test_it_goes_with_the_face_however_that_lies(shape: Shape, degrees: float) -> None:
    turn = np.radians(degrees)
    mesh, above = two_blocks(shape, turn=turn)
    out = np.array([-np.sin(turn), np.cos(turn), 0.0])
    found = opening(mesh, np.where(above[:, None], 0.04 * out, 0.0))
    there = ~np.isnan(found[:, 0])
    assert found[there] == pytest.approx(np.tile([0.04, 0, 0], (there.sum(), 1)), abs=1e-12)


@pytest.mark.parametrize("shape", SPREAD, ids=lambda s: s.name)
def test_a_wedge_opens_in_proportion_to_the_way_from_its_hinge(shape: Shape) -> None:
    mesh, above = two_blocks(shape, upper=(5, 2, 3))
    found = opening(mesh, np.where(above[:, None], np.array([0, 1.0, 0]) * 0.01 * mesh.points[:, :1], 0.0))
    there = ~np.isnan(found[:, 0])
    assert found[there, 0] == pytest.approx(0.01 * mesh.points[there, 0], abs=1e-9)


def test_a_crack_in_one_part_opens_and_its_tip_has_no_value() -> None:
    """Half of the nodes of the middle line are there twice: between them the crack, in front of it one body."""
    mesh, above = two_blocks(BY_NAME["quad4"], lower=(8, 2, 1), upper=(8, 2, 1))
    one_place = {tuple(np.round(mesh.points[n], 9)): n for n in np.flatnonzero(~above)}
    label = np.arange(len(mesh.points))
    for n in np.flatnonzero(above & np.isclose(mesh.points[:, 1], 1.0) & (mesh.points[:, 0] > 0.99)):
        label[n] = one_place[tuple(np.round(mesh.points[n], 9))]
    cracked = replace(
        mesh, connectivity=label[mesh.connectivity], part=np.zeros(len(mesh.types), dtype=np.int32), part_names=("part 1",)
    )
    found = opening(cracked, np.where(above[:, None], [0.0, 0.01, 0.0], 0.0))
    there = ~np.isnan(found[:, 0])
    assert mesh.points[there, 0].max() == pytest.approx(0.75) and (mesh.points[there, 1] == 1.0).all()
    assert found[there, 0] == pytest.approx(0.01)
    joined = replace(mesh, connectivity=_as_one(mesh))
    assert may_part(cracked) and may_part(mesh) and not may_part(joined), "bonded parts that share their nodes have no such faces"
    assert not may_part(box(BY_NAME["quad4"], counts=(2, 2, 1), size=(1.0, 1.0, 0.0)))


def _as_one(mesh: Mesh) -> np.ndarray:
    _, first, label = np.unique(np.round(mesh.points, 9), axis=0, return_index=True, return_inverse=True)
    return first[label.ravel()][mesh.connectivity]


def test_faces_that_do_not_lie_on_each_other_and_missing_displacements_have_no_value() -> None:
    mesh, above = two_blocks(BY_NAME["hex8"])
    far = replace(mesh, points=mesh.points + np.where(above[:, None], [0.0, 0.5, 0.0], 0.0))
    assert np.isnan(opening(far, np.zeros((len(far.points), 3)))).all()
    moved = np.zeros((len(mesh.points), 3))
    lost = int(np.flatnonzero(~above & np.isclose(mesh.points[:, 1], 1.0))[0])
    moved[lost] = np.nan
    found = opening(mesh, moved)
    assert np.isnan(found[lost]).all()
    assert np.isnan(found[above & np.isclose(np.linalg.norm(mesh.points - mesh.points[lost], axis=1), 0.0)]).all()


def test_shells_and_bars_have_no_faces_that_part() -> None:
    for name in ("line2", "quad4"):
        mesh = box(BY_NAME[name], counts=(3, 2, 1), size=(2.0, 1.0, 0.0))
        bent = replace(mesh, points=mesh.points + [[0, 0, 1.0]] * mesh.points[:, :1] ** 2)
        assert np.isnan(opening(bent, np.zeros((len(bent.points), 3)))).all()


def test_an_opening_is_a_reading_with_a_trace_and_says_why_it_is_missing(tmp_path: Path) -> None:
    """Two blocks of hexahedra that share no nodes, drawn apart by 0.01 more at each step, as a file has them."""
    mesh, above = two_blocks(BY_NAME["hex8"])
    cells = [(12, mesh.connectivity[8 * k : 8 * k + 8].tolist()) for k in range(len(mesh.types))]
    apart = np.where(above[:, None], [0.0, 0.01, 0.0], 0.0)
    files = [
        write_vtu(tmp_path / f"s_{k}.vtu", mesh.points, cells, {"displacement": k * apart}, {"part": mesh.part + 1}, time=float(k))
        for k in range(3)
    ]
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, files, "blocks", "mm-N-s-t-MPa")
        opened = {"field": "opening between faces", "measure": "value"}
        traced = ask(review, question_of("trace", {**opened, "at": "point:1,1,0.5"}))
        assert traced.columns[1].values == pytest.approx([0.0, 0.01, 0.02])
        path = "line:0.1,1,0.5:1.9,1,0.5"
        profile = ask(review, question_of("profile", {**opened, "step": 2, "path": path, "side": "part 1"}))
        values = next(c for c in profile.columns if c.unit == "mm" and c.name != "distance").values
        assert values == pytest.approx([0.02] * len(values))
        found = ask(review, question_of("read", {**opened, "step": 1, "at": "point:1,0.2,0.5"}))
        assert any("no other face lies on it there" in c for c in found.caveats)
