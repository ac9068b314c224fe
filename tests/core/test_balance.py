"""Forces against statics: resultants, balance, cuts, joints, held sets; sense checks on models with a known fault."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Memory, Mirror, Setup
from ironstone.core.geometry.surface import Look, skin
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.sets import nodes_by_value, nodes_in_box, nodes_of_face, nodes_of_part
from ironstone.core.statics.balance import Resultant, balance, beside_each_other, held_state, resultant, whole
from ironstone.core.statics.bars import axial_force, joint
from ironstone.core.statics.doubts import doubts, peak_over_meshes, rigid_part
from ironstone.core.statics.face_force import over_faces
from ironstone.core.statics.section import through_plane
from tests.core.test_surface import bar
from tests.models import grid_of_quads

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")
XYZ = ("x", "y", "z")
numbers = st.floats(-1e3, 1e3, allow_nan=False)


@given(st.lists(st.tuples(*[numbers] * 6), min_size=1, max_size=6), st.tuples(numbers, numbers, numbers))
def test_a_moment_shifts_by_the_force_times_the_arm(rows: list[tuple[float, ...]], shift: tuple[float, ...]) -> None:
    """M about q is M about p + (p - q) x F."""
    table = np.array(rows)
    points, forces, q = table[:, :3], table[:, 3:], np.array(shift)
    at_zero, at_q = resultant(points, forces, np.zeros(3)), resultant(points, forces, q)
    assert at_q.force == pytest.approx(at_zero.force)
    assert at_q.moment == pytest.approx(at_zero.moment - np.cross(q, at_zero.force), rel=1e-9, abs=1e-3)


def cantilever(length: int = 6, force: float = 12.0) -> Memory:
    """A row of bricks, section 1 x 1, held at x = 0, loaded at the tip down z, with the stress of beam theory.

    xx = -M y / I about the middle, shear a parabola (its linear corners give none, so shear is put in as its mean): statics
    of Timoshenko, Theory of Elasticity, the bending of a cantilever, from memory.
    """
    mesh = bar(length, (0,) * length)
    x, z = mesh.points[mesh.connectivity, 0], mesh.points[mesh.connectivity, 2] - 0.5
    stress = np.zeros((len(x), 6))
    stress[:, 0] = force * (length - x) * z / (1 / 12)
    stress[:, 5] = -force
    reaction, load = np.zeros((2, len(mesh.points), 3))
    root, tip = (np.flatnonzero(mesh.points[:, 0] == end) for end in (0.0, length))
    reaction[root, 2] = force / 4
    reaction[root, 0] = -force * length * (mesh.points[root, 2] - 0.5)
    load[tip, 2] = -force / 4
    fields = [
        Field("stress", "stress", "tensor", "corner", TENSOR, "MPa"),
        Field("reaction", "reaction", "vector", "node", XYZ, "N"),
        Field("load", "force", "vector", "node", XYZ, "N"),
    ]
    return Memory(mesh, fields, {"stress": stress[None], "reaction": reaction[None], "load": load[None]})


def test_a_cantilever_balances_in_force_and_moment() -> None:
    source = cantilever()
    answer = balance(source, 0, {})
    assert answer.applied.force == pytest.approx([0, 0, -12]) and answer.reaction.force == pytest.approx([0, 0, 12])
    assert answer.verdict == "agrees" and answer.force_share < 1e-12 and answer.moment_share < 1e-12
    about_root = balance(source, 0, {}, about=np.array([0.0, 0.5, 0.5]))
    assert about_root.applied.moment == pytest.approx([0, 12 * 6, 0]), "P times L, turning about y"


def test_a_balance_that_fails_is_told_so() -> None:
    source = cantilever()
    source.arrays["load"][0, :, 2] *= 1.03  # type: ignore[index]
    assert balance(source, 0, {}).verdict == "doubtful"
    source.arrays["load"][0, :, 2] *= 1.5  # type: ignore[index]
    assert balance(source, 0, {}).verdict == "fails"


def test_no_force_is_nothing_to_balance() -> None:
    source = cantilever(force=0.0)
    assert balance(source, 0, {}).verdict == "nothing to balance"


@pytest.mark.parametrize("at", [0.5, 2.25, 5.9])
def test_the_force_through_a_cut_is_what_statics_says(at: float) -> None:
    source = cantilever()
    answer = through_plane(source, 0, np.array([at, 0, 0]), np.array([2.0, 0, 0]), about=np.array([at, 0.5, 0.5]))
    assert answer.area == pytest.approx(1.0)
    assert answer.through.force == pytest.approx([0, 0, -12], abs=1e-9), "the shear force"
    assert answer.through.moment == pytest.approx([0, 12 * (6 - at), 0], abs=1e-9), "the bending moment P (L - x)"
    assert answer.beyond is not None and answer.beyond.force == pytest.approx(answer.through.force)
    assert answer.beyond.moment == pytest.approx(answer.through.moment, abs=1e-9)
    assert answer.residual_share == pytest.approx(0.0, abs=1e-12)


def test_a_slanted_cut_carries_the_same_force() -> None:
    answer = through_plane(cantilever(), 0, np.array([3.0, 0.5, 0.5]), np.array([1.0, 0.3, 0.2]))
    assert answer.area == pytest.approx(np.sqrt(1 + 0.3**2 + 0.2**2))
    assert answer.residual_share == pytest.approx(0.0, abs=0.4), "beam shear is no exact field away from square cuts"
    with pytest.raises(Impossible, match="does not cut"):
        through_plane(cantilever(), 0, np.array([9.0, 0, 0]), np.array([1.0, 0, 0]))
    with pytest.raises(Impossible, match="no normal"):
        through_plane(cantilever(), 0, np.zeros(3), np.zeros(3))


def test_sets_are_held_partly_or_free() -> None:
    source = cantilever()
    root = np.flatnonzero(source.mesh.points[:, 0] == 0.0)
    assert held_state(source, root) == "held"
    assert held_state(source, np.append(root, root[-1] + 1)) == "partly"
    assert held_state(source, np.flatnonzero(source.mesh.points[:, 0] == 6.0)) == "free"
    answer = balance(source, 0, {"root": root})
    assert answer.sets[0].reaction.force == pytest.approx([0, 0, 12]) and answer.sets[0].held == "held"


def truss(angle: float, load: float) -> Memory:
    """Two equal bars hang a load: each makes ``angle`` with the vertical, so each carries P / (2 cos a) (statics)."""
    s, c = np.sin(angle), np.cos(angle)
    points = np.array([[-s, 0, c], [s, 0, c], [0, 0, 0]])
    mesh = Mesh(points, np.full(2, 3, np.uint8), np.array([0, 2, 4]), np.array([0, 2, 1, 2]), np.arange(3) + 1, np.arange(2) + 1,
                np.zeros(2, np.int32), ("bars",))  # fmt: skip
    axial = load / (2 * c)
    force = np.zeros((3, 3))
    force[2, 2] = -load
    reaction = np.array([[-axial * s, 0, axial * c], [axial * s, 0, axial * c], [0, 0, 0]])
    fields = [
        Field("axial stress", "axial stress", "scalar", "element", ("value",), "MPa"),
        Field("area", "section area", "scalar", "element", ("value",), "mm²"),
        Field("load", "force", "vector", "node", XYZ, "N"),
        Field("reaction", "reaction", "vector", "node", XYZ, "N"),
    ]
    arrays = {"axial stress": np.full((1, 2, 1), axial / 4.0), "area": np.full((1, 2, 1), 4.0), "load": force[None],
              "reaction": reaction[None]}  # fmt: skip
    return Memory(mesh, fields, arrays)


@given(st.floats(0.1, 1.3), st.floats(1.0, 1e4))
def test_two_bars_hold_their_joint(angle: float, load: float) -> None:
    source = truss(angle, load)
    for node in range(3):
        answer = joint(source, node, 0)
        assert answer.residual == pytest.approx(np.zeros(3), abs=1e-9 * load)
    assert joint(source, 2, 0).axial == pytest.approx(load / (2 * np.cos(angle)), rel=1e-9), "stress times area"
    assert balance(source, 0, {}).verdict == "agrees"


def test_three_bars_share_by_stiffness() -> None:
    """The classic three-bar truss, one bar upright: N2 = P / (1 + 2 cos^3 a), N1 = N2 cos^2 a (textbook, from memory)."""
    a, load = np.radians(40.0), 100.0
    upright = load / (1 + 2 * np.cos(a) ** 3)
    slanted = upright * np.cos(a) ** 2
    points = np.array([[-np.tan(a), 0, 1], [0, 0, 1], [np.tan(a), 0, 1], [0, 0, 0]])
    mesh = Mesh(points, np.full(3, 3, np.uint8), np.arange(0, 7, 2), np.array([0, 3, 1, 3, 2, 3]), np.arange(4), np.arange(3),
                np.zeros(3, np.int32), ("bars",))  # fmt: skip
    force = np.zeros((1, 4, 3))
    force[0, 3, 2] = -load
    fields = [Field("N", "axial force", "scalar", "element", ("value",), "N"), Field("load", "force", "vector", "node", XYZ, "N")]
    source = Memory(mesh, fields, {"N": np.array([[[slanted], [upright], [slanted]]]), "load": force})
    assert joint(source, 3, 0).residual == pytest.approx(np.zeros(3), abs=1e-12 * load)
    with pytest.raises(Impossible, match="No bar meets"):
        joint(cantilever(), 0, 0)


@given(st.tuples(*[st.floats(-2, 2)] * 6))
def test_a_rigid_motion_is_found_whole(motion: tuple[float, ...]) -> None:
    points = np.random.default_rng(1).random((20, 3))
    shift = np.array(motion[:3]) + np.cross(np.array(motion[3:]), points)
    assert rigid_part(points, shift) == pytest.approx(shift, abs=1e-9)


def moved_bar(shift: np.ndarray) -> Memory:
    mesh = bar(3, (0, 0, 0))
    fields = [Field("displacement", "displacement", "vector", "node", XYZ, "mm")]
    return Memory(mesh, fields, {"displacement": shift[None]})


def verdicts(source: Memory) -> dict[str, str]:
    return {d.name: d.verdict for d in doubts(source, 0)}


def test_a_model_that_moves_as_one_piece_is_told_so() -> None:
    points = bar(3, (0, 0, 0)).points
    assert verdicts(moved_bar(np.ones_like(points) * 0.1))["rigid motion"] == "fails"
    assert verdicts(moved_bar(0.01 * points**2))["rigid motion"] == "agrees"


def test_elements_that_turn_inside_out_are_named() -> None:
    points = bar(3, (0, 0, 0)).points
    shift = np.zeros_like(points)
    shift[points[:, 0] == 3.0, 0] = -1.5
    answer = {d.name: d for d in doubts(moved_bar(shift), 0)}
    assert answer["distortion"].verdict == "fails" and "element 2" in answer["distortion"].said
    assert answer["size of the motion"].verdict == "doubtful"
    assert verdicts(moved_bar(10 * np.ones_like(points)))["size of the motion"] == "fails"


def test_symmetry_is_told_plane_by_plane() -> None:
    points = bar(3, (0, 0, 0)).points
    stretched = np.stack([points[:, 0] - 1.5, 0 * points[:, 0], 0 * points[:, 0]], 1)
    said = {d.name: d.said for d in doubts(moved_bar(stretched), 0)}["symmetry"]
    assert said.count("symmetric") == 3
    bent = np.stack([0 * points[:, 0], 0 * points[:, 0], points[:, 0] ** 2], 1)
    said = {d.name: d.said for d in doubts(moved_bar(bent), 0)}["symmetry"]
    assert "x = 1.5: differs" in said and "y = 0.5: symmetric" in said


def test_sets_are_made_by_part_box_face_and_value() -> None:
    source = cantilever(3)
    mesh = bar(3, (0, 1, 1))
    assert len(nodes_of_part(mesh, "part 0")) == 8 and len(nodes_of_part(mesh, "part 1")) == 12
    assert len(nodes_in_box(mesh, np.array([3.0, 0, 0]), np.array([3.0, 1, 1]))) == 4, "a plane is a box without thickness"
    surface = skin(mesh, Look(detail=1))
    top = next(f for f in range(14) if np.allclose(surface.points[surface.face == f][:, 2], 1.0))
    assert (mesh.points[nodes_of_face(mesh, surface, top, 20)][:, 2] == 1.0).all()
    assert len(nodes_of_face(mesh, surface, top, 20)) == 8
    high = nodes_by_value(Reading("stress", "xx"), source, 0.99 * 12 * 3 * 6)
    assert (source.mesh.points[high] == [0, 0, 1]).all(1).sum() == 1 and len(high) == 2, "the root's upper edge"
    with pytest.raises(Impossible, match="No node"):
        nodes_in_box(mesh, np.array([9.0, 9, 9]), np.array([10.0, 10, 10]))


def halved(source: Memory, axis: int, at: float) -> Memory:
    return Memory(source.mesh, list(source.fields.values()), source.arrays, source.steps, Setup(mirror=Mirror(axis, at)))


def test_the_balance_of_a_half_is_that_of_the_whole() -> None:
    """The cantilever beside its image in y = 1: twice the load at the joint's plane, moments about it even."""
    half = cantilever()
    answer = balance(halved(half, 1, 1.0), 0, {"root": np.flatnonzero(half.mesh.points[:, 0] == 0.0)})
    assert answer.applied.force == pytest.approx([0, 0, -24]) and answer.verdict == "agrees"
    assert answer.about[1] == 1.0, "about the middle of the whole"
    assert answer.applied.moment[0] == pytest.approx(0.0), "what the halves turn about x, they turn against each other"
    assert answer.sets[0].reaction.force == pytest.approx([0, 0, 24])
    assert any("mirrored at y = 1" in n for n in answer.notes)


@given(st.integers(0, 2), st.tuples(*[st.floats(-50, 50)] * 3), st.tuples(*[st.floats(-5, 5)] * 3))
def test_a_force_and_its_image_add_up_along_the_plane_and_vanish_across(axis: int, force: tuple, place: tuple) -> None:
    plane = Mirror(axis, 2.0)
    point, pull = np.array([place], dtype=float), np.array([force], dtype=float)
    answer = whole(point, pull, np.full(3, 2.0), plane)
    expected = 2 * pull[0]
    expected[axis] = 0.0
    assert answer.force == pytest.approx(expected, abs=4e-12 * np.abs(pull).sum()), "but for rounding of all that was added"
    # A moment is mirrored the other way: what turns about the plane's normal is doubled, the rest cancels.
    turned = np.zeros(3)
    turned[axis] = 2 * np.cross(point[0] - 2.0, pull[0])[axis]
    assert answer.moment == pytest.approx(turned, abs=1e-9)
    assert plane.image_of_points(plane.image_of_points(point)) == pytest.approx(point)
    assert plane.image_of_vectors(plane.image_of_vectors(pull)) == pytest.approx(pull)


def stretched_bar() -> Memory:
    """Uniaxial stress of 50 in a bar of three unit bricks, displacement x/10 with the end x = 0 still; no reactions in the file."""
    mesh = bar(3, (0, 0, 0))
    stress = np.zeros((1, len(mesh.connectivity), 6))
    stress[..., 0] = 50.0
    load = np.zeros((1, len(mesh.points), 3))
    load[0, mesh.points[:, 0] == 3.0, 0] = 12.5
    moved = np.zeros_like(load)
    moved[0, :, 0] = mesh.points[:, 0] / 10
    moved[0, :, 1:] = 0.01 * mesh.points[:, 1:] + 0.01
    fields = [
        Field("stress", "stress", "tensor", "corner", TENSOR, "MPa"),
        Field("load", "force", "vector", "node", XYZ, "N"),
        Field("displacement", "displacement", "vector", "node", XYZ, "mm"),
        Field("internal force", "force", "vector", "node", XYZ, "N", recovered="B'S"),
    ]
    return Memory(mesh, fields, {"stress": stress, "load": load, "displacement": moved})


def test_reactions_are_recovered_from_stress_where_the_file_has_none() -> None:
    """50 on a section of 1 pulls with 50; 12.5 at each of four nodes holds it, and free nodes are left with nothing."""
    answer = balance(stretched_bar(), 0, {})
    assert answer.recovered and answer.free_residual == pytest.approx(0.0, abs=1e-9)
    assert answer.reaction.force == pytest.approx([-50.0, 0, 0]) and answer.verdict == "agrees"
    assert any("recovered from stress" in n for n in answer.notes)


def test_what_cannot_be_balanced_is_told() -> None:
    mesh = bar(2, (0, 0))
    bare = Memory(mesh, [Field("damage", "", "scalar", "element", ("value",), "")], {"damage": np.zeros((1, 2, 1))})
    with pytest.raises(Impossible, match="neither reactions nor a stress"):
        balance(bare, 0, {})
    with pytest.raises(Impossible, match="no displacement"):
        balance(cantilever(), 0, {}, deformed=True)
    with pytest.raises(Impossible, match="There is no step 4"):
        balance(cantilever(), 4, {})
    with pytest.raises(Impossible, match="no axial force"):
        axial_force(cantilever(), 0)
    with pytest.raises(Impossible, match="no stress to integrate"):
        through_plane(bare, 0, np.zeros(3), np.array([1.0, 0, 0]))


def test_a_hole_in_the_stress_is_not_cut_through() -> None:
    source = cantilever()
    source.arrays["stress"][0, 8:16] = np.nan  # type: ignore[index]
    with pytest.raises(Impossible, match="Stress is missing"):
        through_plane(source, 0, np.array([1.5, 0, 0]), np.array([1.0, 0, 0]))
    assert through_plane(source, 0, np.array([4.5, 0, 0]), np.array([1.0, 0, 0])).area == pytest.approx(1.0)


def test_what_acts_on_a_face_of_the_cantilever_is_its_reaction() -> None:
    """The root face: traction S n against the reactions there, force and moment; a free side carries nothing."""
    source = cantilever()
    drawn = skin(source.mesh, Look())
    middle = np.array([drawn.points[drawn.face == f].mean(0) for f in range(len(drawn.face_element))])
    root, top = (int(np.argmin(np.linalg.norm(middle - p, axis=1))) for p in ([0, 0.5, 0.5], [3.5, 0.5, 1.0]))
    answer = over_faces(source, 0, Look(), root, 5.0, pressure=2.0)
    assert answer.area == pytest.approx(1) and answer.area_vector == pytest.approx([-1, 0, 0]) and answer.count == 1
    assert answer.through is not None and answer.acting is not None and answer.pushed is not None
    assert answer.through.force == pytest.approx([0, 0, 12]) == answer.acting.force
    assert answer.acting.moment == pytest.approx([0, -12 * 6 * 4 * 0.25, 0])
    assert answer.through.moment[1] == pytest.approx(-12 * 6), "M = P L; the linear stress holds all of it"
    assert answer.pushed.force == pytest.approx([2, 0, 0]), "a pressure pushes into the body"
    free = over_faces(source, 0, Look(), top, 5.0)
    assert free.count == 6 and free.area == pytest.approx(6) and free.pushed is None
    assert free.centre == pytest.approx([3, 0.5, 1])


def test_faces_laid_bare_by_what_is_hidden_have_no_nodes_to_be_checked_by() -> None:
    mesh = bar(2, (0, 1))
    stress = np.zeros((len(mesh.connectivity), 6))
    stress[:, 0] = 7.0
    source = Memory(mesh, [Field("stress", "stress", "tensor", "corner", TENSOR, "MPa")], {"stress": stress[None]})
    look = Look(hidden=frozenset({1}))
    drawn = skin(mesh, look)
    face = next(f for f in range(len(drawn.face_element)) if np.allclose(drawn.points[drawn.face == f][:, 0], 1.0))
    answer = over_faces(source, 0, look, face, 5.0)
    assert answer.through is not None and answer.through.force == pytest.approx([7, 0, 0]) and answer.acting is None
    with pytest.raises(Impossible, match="not drawn any more"):
        over_faces(source, 0, look, 999, 5.0)


def quads(m: int, shift: Callable[[np.ndarray], np.ndarray]) -> Memory:
    mesh = grid_of_quads(8 * m, m, 8.0, 1.0)
    return Memory(mesh, [Field("u", "displacement", "vector", "node", XYZ, "mm")], {"u": shift(mesh.points)[None]})


@pytest.mark.parametrize(
    ("across", "shift", "verdict"),
    [
        (4, lambda p: np.stack([0.1 * p[:, 0], -0.03 * p[:, 1], 0 * p[:, 0]], 1), "agrees"),
        (4, lambda p: np.stack([(-1.0) ** np.round(4 * p[:, 0] + 4 * p[:, 1]), 0 * p[:, 0], 0 * p[:, 0]], 1), "fails"),
        (1, lambda p: np.stack([p[:, 0] * (p[:, 1] - 0.5), -(p[:, 0] ** 2) / 2, 0 * p[:, 0]], 1), "fails"),
        (12, lambda p: np.stack([p[:, 0] * (p[:, 1] - 0.5), -(p[:, 0] ** 2) / 2, 0 * p[:, 0]], 1), "agrees"),
    ],
    ids=["a constant strain", "a zigzag", "bending over one element", "bending over twelve"],
)
def test_patterns_without_energy_are_found(across: int, shift: Callable[[np.ndarray], np.ndarray], verdict: str) -> None:
    """A constant strain has none, a zigzag is nothing else, bending over one element is all of it, over twelve about 1/72."""
    answer = next(d for d in doubts(quads(across, shift), 0) if d.name == "zero-energy modes")
    assert answer.verdict == verdict
    if across == 12:
        assert answer.said.startswith("0.00"), answer.said


@pytest.mark.parametrize(
    ("peaks", "verdict"),
    [((100, 118, 121), "agrees"), ((100, 150, 225), "fails"), ((100, 200, 240), "doubtful"), ((100, 150), "doubtful")],
)
def test_a_peak_that_grows_with_every_mesh_is_not_one_to_quote(peaks: tuple[int, ...], verdict: str) -> None:
    results = []
    for i, peak in enumerate(peaks):
        mesh = bar(2 + i, (0,) * (2 + i))
        stress = np.zeros((len(mesh.types), 6))
        stress[0, 0] = peak
        fields = [Field("stress", "stress", "tensor", "element", TENSOR, "MPa")]
        results.append((f"mesh {i}", Memory(mesh, fields, {"stress": stress[None]}), 0))
    assert peak_over_meshes(results[::-1]).verdict == verdict
    assert peak_over_meshes(results[:1]).verdict == "not checked"


def test_supports_are_told_and_a_set_held_in_part_is_doubtful() -> None:
    source = cantilever()
    x = source.mesh.points[:, 0]
    root, tip = np.flatnonzero(x == 0), np.flatnonzero(x == 6)

    def answer(sets: dict[str, np.ndarray]) -> tuple[str, str]:
        source.mesh.node_sets.clear()
        source.mesh.node_sets.update(sets)
        found = next(d for d in doubts(source, 0) if d.name == "supports")
        return found.verdict, found.said

    assert answer({"root": root, "tip": tip}) == ("agrees", "Held: root; free: tip.")
    assert answer({"root": root, "both": np.concatenate([root, tip])}) == ("doubtful", "Held: root; held in part: both.")
    assert answer({"tip": tip})[0] == "doubtful"
    assert answer({})[0] == "not checked"


def test_a_peak_where_the_model_is_held_is_not_taken_at_its_word() -> None:
    """The cantilever's highest stress is at its root, which is held; away from loads and supports it would be said plainly."""
    answer = next(d for d in doubts(cantilever(), 0) if d.name == "peak")
    assert answer.verdict == "doubtful" and "where the model is held" in answer.said and "away from there" in answer.do


def test_weight_on_elements_balances_the_reactions_and_what_hangs_beyond_a_cut() -> None:
    """A row of six bricks held at both ends, each of weight 2: reactions 6 and 6; beyond x = 4 hangs the weight of two bricks."""
    mesh = bar(6, (0,) * 6)
    weight, hold = np.zeros((6, 3)), np.zeros((len(mesh.points), 3))
    weight[:, 2] = -2.0
    ends = (mesh.points[:, 0] == 0) | (mesh.points[:, 0] == 6)
    hold[ends, 2] = 12 / 8
    stress = np.zeros((len(mesh.connectivity), 6))
    fields = [
        Field("weight", "force", "vector", "element", XYZ, "N"),
        Field("reaction", "reaction", "vector", "node", XYZ, "N"),
        Field("stress", "stress", "tensor", "corner", TENSOR, "MPa"),
    ]
    source = Memory(mesh, fields, {"weight": weight[None], "reaction": hold[None], "stress": stress[None]})
    answer = balance(source, 0, {}, about=np.array([0.0, 0.5, 0.0]))
    assert answer.verdict == "agrees" and answer.applied.force == pytest.approx([0, 0, -12])
    assert answer.applied.moment == pytest.approx([0, 12 * 3, 0]) and any("each element" in n for n in answer.notes)
    cut = through_plane(source, 0, np.array([4.5, 0, 0]), np.array([1.0, 0, 0]))
    assert cut.beyond is not None and cut.beyond.force[2] == pytest.approx(6 - 3), "nodes at 5 and 6 carry one and a half bricks"


def test_what_is_nothing_beside_the_others_is_told_as_none() -> None:
    """A solver's residue is 0 beside the forces it balanced, a moment also beside the forces times the model's size."""
    applied = Resultant(np.array([60_000.0, 2e-4, -12.0]), np.array([0.0, 3.0, 5e6]))
    residual = Resultant(np.array([1e-5, 0.0, 0.0]), np.array([1e-3, 0.0, 0.2]))
    force = [[60_000.0, 0.0, -12.0], [0.0, 0.0, 0.0]]
    small = beside_each_other([applied, residual], size=1.0)
    assert [s.force.tolist() for s in small] == force
    assert [s.moment.tolist() for s in small] == [[0.0, 3.0, 5e6], [0.0, 0.0, 0.0]]
    large = beside_each_other([applied, residual], size=1000.0)
    assert [s.moment.tolist() for s in large] == [[0.0, 0.0, 5e6], [0.0, 0.0, 0.0]], "3 N mm is nothing beside 60 kN at a metre"
    assert beside_each_other([], 1.0) == []
