"""Arrows and crosses, measuring, names, halves: what the Field bay asks of the core beside readings."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.categories import COLOURS, name_of, names_of, places_in
from ironstone.core.field.fields import Field, Memory, partition_values, partitions
from ironstone.core.geometry.measuring import angle, area, length, smooth_faces, volume
from ironstone.core.geometry.surface import Look, skin
from ironstone.core.mesh.cells import CELLS
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtElements, AtNodes
from ironstone.core.reading.distribution import by_volume
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.core.statics.arrows import MOST, arrows
from ironstone.store.source import ReviewSource
from tests.core.test_mesh import one
from tests.core.test_surface import bar
from tests.models import mesh_of

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")


def with_stress(mesh: Mesh, stress: list[float]) -> Memory:
    field = Field("stress", "stress", "tensor", "element", TENSOR, "MPa")
    moved = Field("displacement", "displacement", "vector", "node", ("x", "y", "z"), "mm")
    arrays = {"stress": np.tile(stress, (1, len(mesh.types), 1)), "displacement": 0.1 * mesh.points[None]}
    return Memory(mesh, [field, moved], arrays)


def test_an_arrow_at_each_drawn_node_is_its_vector() -> None:
    mesh = bar(3, (0, 0, 0))
    found = arrows("displacement", with_stress(mesh, [0] * 6), skin(mesh), 0, 0.0)
    assert found.directions is None
    assert found.values == pytest.approx(0.1 * found.points)
    assert len(found.points) == 15 and found.left_out == 1, "the node at the origin does not move: no arrow"
    assert found.longest == pytest.approx(0.1 * np.linalg.norm([3, 1, 1]))


def test_outward_at_a_node_is_away_from_the_body() -> None:
    """Corners of a box point out along their diagonals; what pushes in is against it."""
    mesh = bar(1, (0,))
    found = arrows("displacement", with_stress(mesh, [0] * 6), skin(mesh), 0, 0.0)
    away = found.outward / np.linalg.norm(found.outward, axis=1, keepdims=True)
    assert away == pytest.approx((2 * found.points - 1) / np.sqrt(3), abs=1e-9)


def test_outward_at_a_joint_of_bars_is_away_from_them() -> None:
    """A peak of two bars points up, a foot away from its bar: snow on the one is drawn above it, a reaction below the other."""
    mesh = mesh_of(np.array([[0.0, 0, 0], [1, 0, 1], [2, 0, 0]]), [(3, [0, 1]), (3, [2, 1])])
    moved = np.ones((1, 3, 3))
    source = Memory(mesh, [Field("u", "displacement", "vector", "node", ("x", "y", "z"), "mm")], {"u": moved})
    found = arrows("u", source, skin(mesh), 0, 0.0)
    root = 0.5**0.5
    assert found.outward[np.argsort(found.points[:, 0])] == pytest.approx(
        np.array([[-root, 0, -root], [0, 0, 2 * root], [root, 0, -root]]), abs=1e-9
    )


def test_crosses_are_the_principals_with_their_directions() -> None:
    """Pure shear of 40 in the x-y plane: 40 and -40 at 45 degrees, nothing along z."""
    mesh = bar(3, (0, 0, 0))
    found = arrows("stress", with_stress(mesh, [0, 0, 0, 40, 0, 0]), skin(mesh), 0, 0.0, unit="MPa")
    assert len(found.points) == 14, "one in the middle of each face of the skin"
    assert found.values == pytest.approx(np.tile([40.0, 0, -40.0], (14, 1)), abs=1e-9)
    assert found.directions is not None
    assert np.abs(found.directions[:, 0]) == pytest.approx(np.tile([0.5**0.5, 0.5**0.5, 0], (14, 1)), abs=1e-9)
    assert (found.directions[:, 0, 0] * found.directions[:, 2, 0] * found.directions[:, 0, 1] * found.directions[:, 2, 1] < 0).all()


def test_arrows_are_thinned_to_one_a_cube() -> None:
    mesh = bar(40, (0,) * 40)
    close = arrows("displacement", with_stress(mesh, [0] * 6), skin(mesh), 0, 0.0)
    wide = arrows("displacement", with_stress(mesh, [0] * 6), skin(mesh), 0, 4.0)
    assert len(wide.points) == 11 < len(close.points), "one for each cube of side 4, the last holding the end alone"
    assert set(map(tuple, wide.points)) <= set(map(tuple, close.points)), "thinned, not moved"
    assert len(close.points) <= MOST


def test_no_arrow_is_left_out_for_a_neighbour_that_has_none() -> None:
    """One node of many is held; however wide the spacing, its reaction is drawn."""
    mesh = bar(40, (0,) * 40)
    held = int(np.argmax(mesh.points.sum(1)))
    force = np.zeros((1, len(mesh.points), 3))
    force[0, held, 2] = 7.0
    source = Memory(mesh, [Field("R", "reaction", "vector", "node", ("x", "y", "z"), "N")], {"R": force})
    for spacing in (0.0, 0.7, 4.0, 100.0):
        found = arrows("R", source, skin(mesh), 0, spacing)
        assert found.points == pytest.approx(mesh.points[[held]]) and found.longest == 7
        assert found.left_out == len(mesh.points) - 1


def test_a_scalar_has_no_direction(bar: ReviewSource) -> None:
    with pytest.raises(Impossible, match="no direction"):
        arrows("axial", bar, skin(bar.mesh), 0, 0.0)


def test_length_and_angle_of_nodes_undeformed_and_deformed() -> None:
    mesh = bar(3, (0, 0, 0))
    at = {tuple(p): i for i, p in enumerate(mesh.points)}
    far = np.array([at[0, 0, 0], at[3, 0, 0], at[3, 1, 0]])
    stretched = np.stack([0.5 * mesh.points[:, 0], 0 * mesh.points[:, 0], 0 * mesh.points[:, 0]], 1)
    answer = length(mesh, far, stretched)
    assert (answer.undeformed, answer.deformed) == pytest.approx((4.0, 5.5))
    sheared = np.stack([mesh.points[:, 1], 0 * mesh.points[:, 0], 0 * mesh.points[:, 0]], 1)
    answer = angle(mesh, far, sheared)
    assert (answer.undeformed, answer.deformed) == pytest.approx((90.0, 135.0))
    assert length(mesh, far, None).deformed is None
    with pytest.raises(Impossible, match="at one place"):
        angle(mesh, far[[0, 0, 1]], None)


def test_area_runs_on_over_flat_joints_and_stops_at_folds() -> None:
    mesh = bar(3, (0, 0, 0))
    surface = skin(mesh, Look(detail=2))
    top = next(f for f in range(14) if np.allclose(surface.points[surface.face == f][:, 2], 1.0))
    assert area(mesh, surface, top, 0, None).undeformed == pytest.approx(1.0)
    answer = area(mesh, surface, top, 20, 0.1 * mesh.points)
    assert (answer.undeformed, answer.deformed, answer.count) == pytest.approx((3.0, 3.0 * 1.21, 3))
    assert area(mesh, surface, top, 95, None).undeformed == pytest.approx(14.0), "across right angles it is the whole skin"


def test_a_cylinder_is_one_smooth_face_between_its_ends() -> None:
    """A ring of 24 bricks: sides bend by 15 degrees, ends by 90. The side's area is that of the 24-gon."""
    count = 24
    turn = 2 * np.pi * np.arange(count) / count
    rim = [np.column_stack([r * np.cos(turn), r * np.sin(turn), np.full(count, z)]) for z in (0.0, 1.0) for r in (1.0, 2.0)]
    a, b, c, d = (count * k + np.arange(count) for k in range(4))
    after = np.roll(np.arange(count), -1)
    cells = np.column_stack([a, b, b[after], a[after], c, d, d[after], c[after]])
    mesh = Mesh(
        np.concatenate(rim), np.full(count, 12, np.uint8), np.arange(0, 8 * count + 1, 8), cells.ravel(),
        np.arange(4 * count), np.arange(count), np.zeros(count, np.int32), ("ring",),
    )  # fmt: skip
    surface = skin(mesh, Look(detail=1))
    outside = next(
        f for f in range(len(surface.face_element)) if np.allclose(np.hypot(*surface.points[surface.face == f][:, :2].T), 2.0)
    )
    assert area(mesh, surface, outside, 20, None).undeformed == pytest.approx(24 * 2 * 2.0 * np.sin(np.pi / 24))
    assert len(smooth_faces(surface, outside, 10)) == 1, "a bend of 15 degrees is too much for 10"


def test_volume_of_elements_undeformed_and_swollen() -> None:
    mesh = bar(3, (0, 0, 1))
    answer = volume(mesh, mesh.part == 0, 0.1 * mesh.points)
    assert (answer.undeformed, answer.deformed, answer.count) == pytest.approx((2.0, 2.0 * 1.1**3, 2))
    with pytest.raises(Impossible, match="No solid element"):
        volume(one(CELLS[9]), np.array([True]), None)


def test_parts_are_names_that_keep_their_colours() -> None:
    mesh = bar(3, (1, 0, 1))
    (part,) = partitions(mesh)
    assert part.labels == ("part 0", "part 1") and not part.stored
    values = partition_values(mesh, "part")[:, 0]
    known = names_of(part, values)
    assert [k.name for k in known] == ["part 0", "part 1"]
    assert places_in(known, values).tolist() == [1, 0, 1]
    ply = Field("ply", "", "scalar", "element", ("value",), "", names=True)
    first, later = names_of(ply, np.array([3.0, 7.0])), names_of(ply, np.array([7.0, 9.0]))
    assert next(k.colour for k in first if k.number == 7) == next(k.colour for k in later if k.number == 7)
    assert [k.name for k in first] == ["ply 3", "ply 7"]
    many = names_of(ply, np.arange(0.0, 3 * COLOURS, 3))
    assert max(k.colour for k in many) < COLOURS
    assert np.isnan(places_in(first, np.array([np.nan, 3.0]))).tolist() == [True, False]


def test_a_failed_flag_is_told_in_words() -> None:
    failed = Field("failed", "", "scalar", "element", ("value",), "", names=True)
    assert [name_of(failed, v) for v in (0.0, 1.0, 2.0)] == ["no", "yes", "failed 2"]
    assert name_of(failed, float("nan")) is None


def test_a_name_is_never_averaged_nor_taken_apart(flexure: ReviewSource) -> None:
    assert "part" not in flexure.fields, "one part needs no name of its own"


def test_a_part_can_be_read_like_any_other_field(bar: ReviewSource) -> None:
    answer = evaluate(Reading("part"), bar, AtNodes(np.array([bar.mesh.node_position(int(bar.mesh.node_ids[0]))])))
    assert set(answer.values) <= {0.0, 1.0}
    with pytest.raises(Impossible):
        resolve(Reading("part", averaging="all"), bar)


def test_distribution_by_volume_counts_what_the_skin_does_not_show() -> None:
    """A cube of 3 x 3 x 3 whose middle element alone is at 9: no area of the skin, a 27th of the volume."""
    n = 3
    grid = np.array([[i, j, k] for k in range(n + 1) for j in range(n + 1) for i in range(n + 1)], dtype=float)
    at = np.arange((n + 1) ** 3).reshape(n + 1, n + 1, n + 1)
    cells = [
        [at[k, j, i], at[k, j, i + 1], at[k, j + 1, i + 1], at[k, j + 1, i],
         at[k + 1, j, i], at[k + 1, j, i + 1], at[k + 1, j + 1, i + 1], at[k + 1, j + 1, i]]
        for k in range(n) for j in range(n) for i in range(n)
    ]  # fmt: skip
    mesh = Mesh(grid, np.full(27, 12, np.uint8), np.arange(0, 217, 8), np.ravel(cells), np.arange(64), np.arange(27),
                np.zeros(27, np.int32), ("cube",))  # fmt: skip
    values = np.zeros((1, 27, 1))
    values[0, 13] = 9.0
    source = Memory(mesh, [Field("damage", "", "scalar", "element", ("value",), "")], {"damage": values})
    everywhere = evaluate(Reading("damage"), source, AtElements(np.arange(27)))
    shares = by_volume(mesh, everywhere, frozenset(), 0.0, 9.0, 9)
    assert shares[-1] == pytest.approx(1 / 27) and shares.sum() == pytest.approx(1.0)
    assert by_volume(mesh, everywhere, frozenset({0}), 0.0, 9.0).sum() == 0.0


def test_the_plane_of_a_half_lies_beside_it(bar: ReviewSource) -> None:
    bar.review.set_mirror(bar.id, "x", 3.0)
    mirror = bar.review.result(bar.id).setup.mirror
    assert mirror is not None and (mirror.axis, mirror.at, mirror.words) == (0, 3.0, "x = 3")
    with pytest.raises(IronstoneError, match="cuts through the model"):
        bar.review.set_mirror(bar.id, "x", 1.5)
    bar.review.set_mirror(bar.id, "", 0.0)
    assert bar.review.result(bar.id).setup.mirror is None
    bar.review.undo()
    assert bar.review.result(bar.id).setup.mirror is not None
