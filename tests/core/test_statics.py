"""Frames solved in the test by the direct stiffness method, and read back: joints, members, cuts against statics of the handbooks.

The solver here is the textbook's (bars with EA / L along them; McGuire, Gallagher and Ziemian, Matrix Structural Analysis); what
is held against it is computed by the product from the fields alone.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.field.fields import Memory, Setup, Step
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.statics.balance import balance, held_state, resultant
from ironstone.core.statics.bars import axial_force, by_hand, joint, members, taken_over
from tests.models import field, mesh_of

YOUNG = 70_000.0
LINE = 3


def solved(points: np.ndarray, bars: list[tuple[int, int]], area: np.ndarray, held: np.ndarray, loads: list[np.ndarray]) -> Memory:
    """A pin-jointed frame under some loads (nodes, 3); held: (nodes, 3) of bool. Fields as a result file would hold them."""
    ends = np.array(bars)
    way = points[ends[:, 1]] - points[ends[:, 0]]
    length = np.linalg.norm(way, axis=1)
    way = way / length[:, None]
    stiffness = np.zeros((points.size, points.size))
    for (a, b), c, k in zip(bars, way, YOUNG * area / length, strict=True):
        block = k * np.outer(c, c)
        i, j = slice(3 * a, 3 * a + 3), slice(3 * b, 3 * b + 3)
        stiffness[i, i] += block
        stiffness[j, j] += block
        stiffness[i, j] -= block
        stiffness[j, i] -= block
    free = np.flatnonzero(~held.ravel())
    moved, reaction, force = [], [], []
    for load in loads:
        u = np.zeros(points.size)
        u[free] = np.linalg.solve(stiffness[np.ix_(free, free)], load.ravel()[free])
        u = u.reshape(-1, 3)
        moved.append(u)
        reaction.append(np.where(held, (stiffness @ u.ravel()).reshape(-1, 3) - load, 0.0))
        force.append((YOUNG * area / length * np.einsum("ij,ij->i", u[ends[:, 1]] - u[ends[:, 0]], way))[:, None])
    mesh = mesh_of(points, [(LINE, list(b)) for b in bars])
    kinds = (("u", "displacement", "node"), ("R", "reaction", "node"), ("P", "force", "node"), ("A", "section area", "element"),
             ("s", "axial stress", "element"))  # fmt: skip
    stress = [f / area[:, None] for f in force]
    arrays = dict(zip("uRPAs", (moved, reaction, loads, [area[:, None]] * len(loads), stress), strict=True))
    steps = tuple(Step(i, "number", float(i)) for i in range(len(loads)))
    fields = [field(name, kind, where) for name, kind, where in kinds]
    return Memory(
        mesh,
        fields,
        {n: np.array(a) for n, a in arrays.items()},
        steps,
        Setup(constants={"part 1": {"young": YOUNG, "poisson": 0.3}}),
    )


def warren(panels: int = 4, size: float = 2_000.0, load: float = 9_000.0) -> Memory:
    """A girder of equal triangles on two supports, loaded alike at its lower inner joints; kept in its plane."""
    height = size * np.sqrt(3) / 2
    low = [(size * i, 0.0, 0.0) for i in range(panels + 1)]
    high = [(size * (i + 0.5), 0.0, height) for i in range(panels)]
    points = np.array(low + high)
    top = panels + 1
    bars = [(i, i + 1) for i in range(panels)] + [(top + i, top + i + 1) for i in range(panels - 1)]
    bars += [(i, top + i) for i in range(panels)] + [(i + 1, top + i) for i in range(panels)]
    held = np.zeros((len(points), 3), dtype=bool)
    held[:, 1] = True
    held[0] = True
    held[panels, 2] = True
    loads = np.zeros((len(points), 3))
    loads[1:panels, 2] = -load
    return solved(points, bars, np.full(len(bars), 800.0), held, [loads, 2 * loads])


def test_a_warren_girder_by_the_method_of_sections() -> None:
    """Cut through the second panel, moments about the joint opposite: chord forces are M / h; the diagonal carries the shear."""
    panels, size, load = 4, 2_000.0, 9_000.0
    source = warren(panels, size, load)
    force, where = axial_force(source, 0)
    assert where == "'s' times 'A'"
    height, support = size * np.sqrt(3) / 2, (panels - 1) * load / 2
    assert force[1] == pytest.approx((support * 1.5 * size - load * 0.5 * size) / height), "bottom chord, about the top joint"
    assert force[panels + 0] == pytest.approx(-(support * size) / height), "top chord, about the bottom joint"
    diagonal = 2 * panels - 1 + 1
    assert force[diagonal] == pytest.approx(-(support - load) / np.sin(np.radians(60))), "second diagonal, by the shear"
    assert force[2 * panels - 1] == pytest.approx(-support / np.sin(np.radians(60))), "end post"


def test_every_joint_of_the_girder_is_in_equilibrium_and_so_is_the_whole() -> None:
    source = warren()
    for node in range(len(source.mesh.points)):
        assert joint(source, node, 1).residual == pytest.approx(np.zeros(3), abs=1e-8)
    answer = balance(source, 1, {"ends": np.array([0, 4])})
    assert answer.verdict == "agrees" and answer.sets[0].held == "held"
    assert answer.sets[0].reaction.force == pytest.approx([0, 0, 2 * 3 * 9_000], abs=1e-6)
    assert held_state(source, np.array([5, 6])) == "free"


def test_members_of_the_girder_are_its_bars_and_by_hand_they_have_their_forces() -> None:
    source = warren()
    found = members(source.mesh)
    assert len(found) == len(source.mesh.types)
    answer = by_hand(source, 0, found)
    largest = max(abs(t.force) for t in answer)
    for t in answer:
        assert t.hand_force == pytest.approx(t.force, abs=1e-9 * largest)
        assert t.sense in ("agrees", "") and (abs(t.force) < 1e-6 * largest or t.elastic)
    shifts, growth, _ = taken_over(source, 0, 1, found)
    assert growth == pytest.approx(2) and max(abs(s.gained) for s in shifts) < 1e-6 * largest, "what is linear takes over nothing"


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.tuples(st.floats(-1, 1), st.floats(-1, 1)), min_size=3, max_size=3, unique=True),
    st.tuples(st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1)),
    st.tuples(st.floats(0.5, 3), st.floats(0.5, 3), st.floats(0.5, 3)),
)
def test_a_tripod_of_any_shape_holds_its_load(
    feet: list[tuple[float, float]], load: tuple[float, float, float], area: tuple[float, float, float]
) -> None:
    """Three bars to one point are determinate: their forces follow from the load alone, whatever their sections."""
    points = np.array([*[(1000 * x, 1000 * y, 0.0) for x, y in feet], (100.0, 50.0, 1500.0)])
    way = points[:3] - points[3]
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    if abs(np.linalg.det(way)) < 0.02:
        return
    held = np.array([[True] * 3] * 3 + [[False] * 3])
    loads = np.zeros((4, 3))
    loads[3] = 1e4 * np.array(load)
    source = solved(points, [(0, 3), (1, 3), (2, 3)], 100 * np.array(area), held, [loads])
    force, _ = axial_force(source, 0)
    expected = np.linalg.solve(way.T, -loads[3])
    scale = max(1.0, float(np.abs(expected).max()))
    assert force == pytest.approx(expected, abs=1e-6 * scale)
    assert joint(source, 3, 0).residual == pytest.approx(np.zeros(3), abs=1e-6 * scale)
    assert [t.hand_force for t in by_hand(source, 0, members(source.mesh))] == pytest.approx(expected.tolist(), abs=1e-6 * scale)


def test_a_frame_held_twice_as_often_as_it_needs_still_balances_about_any_point() -> None:
    """Statically indeterminate: six bars to a square base. The moment of reactions about any point is that of the load, turned."""
    points = np.array([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0), (0.4, 0.45, 1.2), (0.7, 0.6, 1.0)], dtype=float) * 1000
    bars = [(i, 4) for i in range(4)] + [(i, 5) for i in range(4)] + [(4, 5)]
    held = np.array([[True] * 3] * 4 + [[False] * 3] * 2)
    loads = np.zeros((6, 3))
    loads[4], loads[5] = (800, -200, -3000), (0, 500, -1000)
    source = solved(points, bars, np.linspace(50, 250, 9), held, [loads])
    for about in (np.zeros(3), np.array([5e3, -2e3, 1e3])):
        answer = balance(source, 0, {}, about)
        assert answer.verdict == "agrees"
        assert answer.reaction.moment == pytest.approx(-resultant(points, loads, about).moment, rel=1e-9)
    assert isinstance(source.mesh, Mesh)
