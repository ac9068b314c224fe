"""Bars against statics: members from joint to joint, forces by hand beside the file's, and who takes over when one yields."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Memory, Setup, Step
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.reading.reading import Reading
from ironstone.core.statics.bars import along, by_hand, first_loaded, members, so_far, taken_over
from tests.models import field, grid_of_quads, memory, mesh_of

YOUNG, AREA, HEIGHT, ANGLE, STRENGTH = 210_000.0, 100.0, 1_000.0, np.radians(30.0), 235.0
STEEL = Setup(constants={"part 1": {"young": YOUNG, "poisson": 0.3}})
LINE = 3


def three_bars(loads: list[float], area: bool = True, setup: Setup = STEEL) -> Memory:
    """A vertical bar between two inclined ones, hung from a ceiling, loaded at the joint below; elastic-perfectly-plastic.

    Elastic: middle N = P / (1 + 2 cos^3 a), outer N cos^2 a. Once the middle has yielded the outer carry the rest, and the joint
    sinks by their extension over cos a (Timoshenko, Strength of Materials, statically indeterminate systems; from memory).
    """
    side = HEIGHT * np.tan(ANGLE)
    mesh = mesh_of(
        np.array([[-side, 0, 0], [0, 0, 0], [side, 0, 0], [0, 0, -HEIGHT]]), [(LINE, [0, 3]), (LINE, [3, 1]), (LINE, [2, 3])]
    )
    count = len(loads)
    force, shift, load = np.zeros((count, 3, 1)), np.zeros((count, 4, 3)), np.zeros((count, 4, 3))
    for i, p in enumerate(loads):
        middle = min(p / (1 + 2 * np.cos(ANGLE) ** 3), STRENGTH * AREA)
        outer = (p - middle) / (2 * np.cos(ANGLE))
        force[i, :, 0] = outer, middle, outer
        shift[i, 3, 2] = -outer * HEIGHT / np.cos(ANGLE) / (YOUNG * AREA) / np.cos(ANGLE)
        load[i, 3, 2] = -p
    held = [field("N", "axial force", "element"), field("u", "displacement", "node"), field("P", "force", "node")]
    arrays = {"N": force, "u": shift, "P": load}
    if area:
        held.append(field("A", "section area", "element"))
        arrays["A"] = np.full((count, 3, 1), AREA)
    return Memory(mesh, held, arrays, tuple(Step(i, "load factor", p) for i, p in enumerate(loads)), setup)


def test_by_hand_each_bar_has_the_force_that_statics_gives() -> None:
    source = three_bars([10_000.0])
    answer = by_hand(source, 0, members(source.mesh))
    for t in answer:
        assert t.hand_force == pytest.approx(t.force, rel=1e-12) and t.off == pytest.approx(0, abs=1e-12)
        assert t.stress == pytest.approx(t.nominal) and t.strain == pytest.approx(t.stress / YOUNG)
        assert t.extension == pytest.approx(t.force * t.member.length / (YOUNG * AREA))
        assert t.elastic and t.sense == "agrees"
    middle = answer[1]
    assert middle.force == pytest.approx(10_000 / (1 + 2 * np.cos(ANGLE) ** 3))


def test_after_yield_force_over_area_is_nominal_and_the_hand_force_runs_ahead() -> None:
    source = three_bars([80_000.0])
    outer, middle, _ = by_hand(source, 0, members(source.mesh))
    assert middle.force == STRENGTH * AREA and middle.hand_force > 1.1 * middle.force
    assert not middle.elastic and middle.nominal == STRENGTH
    assert outer.elastic


def test_a_bar_that_shortens_under_tension_is_told() -> None:
    source = three_bars([10_000.0])
    source.arrays["N"][0, 1] *= -1
    assert [t.sense for t in by_hand(source, 0, members(source.mesh))] == ["agrees", "against", "agrees"]


def test_what_is_not_known_is_not_worked_out() -> None:
    source = three_bars([10_000.0], area=False, setup=Setup())
    answer = by_hand(source, 0, members(source.mesh))
    assert all(np.isnan(t.hand_force) and np.isnan(t.stress) and np.isfinite(t.strain) for t in answer)


def test_the_outer_bars_take_over_when_the_middle_yields() -> None:
    source = three_bars([0.0, 20_000.0, 40_000.0, 80_000.0])
    found = members(source.mesh)
    assert first_loaded(source, 3) == 1
    elastic, growth, by = taken_over(source, 1, 2, found)
    assert growth == 2 and by == "applied forces" and max(abs(s.gained) for s in elastic) < 1e-6
    shifts, growth, _ = taken_over(source, 1, 3, found)
    assert growth == 4 and [s.member.elements[0] for s in shifts][-1] == 1
    gained = sum(s.gained * (np.cos(ANGLE) if s.member.elements[0] != 1 else 1) for s in shifts)
    assert gained == pytest.approx(0, abs=1e-6), "what one hands over, the others take"
    with pytest.raises(Impossible, match="No load"):
        taken_over(source, 0, 3, found)


def chain(turns: list[float], parts: list[int], flipped: list[bool]) -> Mesh:
    """Elements one after the other, each turned by so many degrees from the one before."""
    angle = np.radians(np.cumsum(turns))
    points = np.concatenate([[[0.0, 0, 0]], np.cumsum(np.stack([np.cos(angle), np.sin(angle), 0 * angle], 1), axis=0)])
    cells = [(LINE, [i + 1, i] if f else [i, i + 1]) for i, f in enumerate(flipped)]
    return mesh_of(points, cells, parts)


@given(st.lists(st.tuples(st.sampled_from([0.0, 2.0, 30.0]), st.integers(0, 1), st.booleans()), min_size=1, max_size=12))
def test_members_end_where_the_bars_turn_or_change_and_each_bar_belongs_to_one(rows: list[tuple[float, int, bool]]) -> None:
    turns, parts, flipped = (list(c) for c in zip(*rows, strict=True))
    mesh = chain([0.0, *turns[1:]], parts, flipped)
    found = members(mesh)
    breaks = sum(turns[i] > 5 or parts[i] != parts[i - 1] for i in range(1, len(rows)))
    assert len(found) == 1 + breaks
    assert sorted(np.concatenate([m.elements for m in found]).tolist()) == list(range(len(rows)))
    for m in found:
        assert len(m.nodes) == len(m.elements) + 1 and len(set(m.nodes.tolist())) == len(m.nodes)
        assert np.linalg.norm(np.diff(mesh.points[m.nodes], axis=0), axis=1) == pytest.approx(m.lengths)
        for e, a, b in zip(m.elements, m.nodes[:-1], m.nodes[1:], strict=True):
            assert set(mesh.connectivity[mesh.offsets[e] : mesh.offsets[e] + 2]) == {a, b}


def test_values_along_a_member_are_in_order_whichever_way_its_bars_point() -> None:
    """A bending stress linear in x comes back linear in the distance, in one direction, and the largest so far beside it."""
    mesh = chain([0.0] * 4, [0] * 4, [False, True, True, False])
    x = mesh.points[mesh.connectivity, 0][None, :, None]
    source = memory(mesh, (field("fibre", "fibre stress", "corner"), np.concatenate([3 * x, -x, 2 * x])))
    (member,) = members(mesh)
    distance, values = along(source, member, Reading("fibre", step=2))
    assert sorted(distance.tolist()) == [0, 1, 1, 2, 2, 3, 3, 4]
    start = mesh.points[member.nodes[0], 0]
    assert values.values == pytest.approx(2 * np.abs(start - distance))
    _, most = along(source, member, so_far(Reading("fibre", step=2)))
    assert most.values == pytest.approx(3 * np.abs(start - distance))


def test_a_model_without_bars_has_no_members() -> None:
    with pytest.raises(Impossible, match="no bars"):
        members(grid_of_quads(2, 2))
