"""Which nodal forces are applied ones, what balances in a body of revolution, and reactions recovered at nodes that are driven.

Models are solved here (bars by statics, a thick cylinder after Lame, a plate with scikit-fem), so that the right answer is known.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import skfem
from skfem.helpers import ddot, sym_grad, trace

from ironstone.core.field.fields import Field, Memory, Mirror, Setup
from ironstone.core.kinds import guess_kind
from ironstone.core.statics.balance import applied_forces, balance
from ironstone.engine.statics.balance import balance_answer
from ironstone.store import Review, intake
from tests.models import mesh_of
from tests.oracles.solids import CUBE
from tests.writing import write_vtu

TENSOR = ("xx", "yy", "zz", "xy", "yz", "xz")
XYZ = ("x", "y", "z")


@pytest.mark.parametrize(
    "name", ["internal_force", "Internal Force", "residual_force", "contact force", "inertia-force", "damping_force"]
)
def test_forces_from_within_are_not_taken_for_applied_ones(name: str) -> None:
    assert guess_kind(name, 3)[0] != "force"


@pytest.mark.parametrize(
    "name", ["force", "applied_force", "external force", "load", "nodal_force", "pressure_load", "applied_forces"]
)
def test_forces_from_outside_are(name: str) -> None:
    assert guess_kind(name, 3)[0] == "force"


def test_a_file_with_internal_forces_alone_has_no_applied_ones(tmp_path: Path) -> None:
    """Internal forces at the held end equal the reactions: summed as applied they would agree with anything."""
    force = np.zeros((8, 3))
    force[CUBE[:, 0] == 0, 0] = 2.5
    path = write_vtu(tmp_path / "a.vtu", CUBE, [(12, list(range(8)))], {"internal_force": force, "reaction": -force})
    with Review.create(tmp_path / "a.ironstone") as review:
        source = review.result(intake(review, [path]))
        assert source.fields["internal_force"].kind == "internal force" and source.fields["internal_force"].unit == "N"
        assert applied_forces(source, 0) is None
        answer = balance(source, 0, {})
        assert np.isnan(answer.applied.force).all() and answer.verdict == "loads not known", "they are not told, and not zero"
        assert balance_answer(source, 0)["applied"] == {"force": [None] * 3, "moment": [None] * 3}


def ring(radii: np.ndarray, pressure: float, pull: float) -> Memory:
    """A tube of one layer, x the radius, y the axis, as nodal forces over the whole turn: pressure from within on its bore, pulled
    along its axis by a force that its other end holds. Equal shares on the nodes of an edge, as linear elements have them."""
    points = np.array([[r, y, 0.0] for y in (0.0, 1.0) for r in radii])
    n = len(radii)
    mesh = mesh_of(points, [(9, [i, i + 1, n + i + 1, n + i]) for i in range(n - 1)])
    load, hold = np.zeros((2 * n, 3)), np.zeros((2 * n, 3))
    load[[0, n], 0] = pressure * 2 * np.pi * radii[0] / 2
    load[n:, 1] = pull / n
    hold[:n, 1] = -pull / n
    fields = [Field("load", "force", "vector", "node", XYZ, "N"), Field("reaction", "reaction", "vector", "node", XYZ, "N")]
    return Memory(mesh, fields, {"load": load[None], "reaction": hold[None]}, setup=Setup(model="axisymmetric"))


def test_a_tube_under_pressure_balances_along_its_axis() -> None:
    """The bore's pressure is held by hoop stress alone: nothing is left of it round the axis."""
    source = ring(np.linspace(10, 20, 5), 50.0, 700.0)
    answer = balance(source, 0, {"foot": np.arange(5)})
    assert answer.verdict == "agrees"
    assert answer.applied.force == pytest.approx([0, 700, 0]) and answer.reaction.force == pytest.approx([0, -700, 0])
    assert answer.sets[0].reaction.force == pytest.approx([0, -700, 0])
    assert any("radial forces hold themselves" in n for n in answer.notes)
    source.arrays["reaction"][0, 0, 1] += 70.0  # type: ignore[index]
    assert balance(source, 0, {}).verdict == "fails", "what lacks along the axis is still seen"


def test_a_torque_about_the_axis_is_balanced() -> None:
    source = ring(np.array([10.0, 20.0]), 0.0, 0.0)
    source.arrays["load"][0, 3, 2] = 4.0  # type: ignore[index]
    source.arrays["reaction"][0, 0, 2] = -8.0  # type: ignore[index]
    answer = balance(source, 0, {})
    assert answer.applied.moment == pytest.approx([0, -80, 0]) and answer.reaction.moment == pytest.approx([0, 80, 0])
    assert answer.verdict == "agrees", "forces round the axis add up to torque, not to a force"


def pulled_plate(driven: str) -> tuple[Memory, np.ndarray]:
    """A notched plate 4 x 2 in plane stress, nine-node quadrilaterals, held at x = 0 and pulled by 0.01 at its other end.

    driven: 'edge', all nodes there; or 'point', a single one. Returns the result without reactions, and the solver's own.
    """
    young, poisson = 1000.0, 0.3
    lam, mu = young * poisson / (1 - poisson**2), young / (2 * (1 + poisson))
    flat = skfem.MeshQuad.init_tensor(np.linspace(0, 4, 9), np.linspace(0, 2, 5))
    flat = flat.remove_elements(
        np.flatnonzero((np.abs(flat.p[:, flat.t].mean(1)[0] - 2) < 0.3) & (flat.p[:, flat.t].mean(1)[1] < 0.6))
    )
    mesh = skfem.MeshQuad2.from_mesh(flat)
    element = skfem.ElementVector(skfem.ElementQuad2())
    basis = skfem.CellBasis(mesh, element, intorder=5)

    @skfem.BilinearForm
    def stiffness(u, v, _w):  # type: ignore[no-untyped-def]
        e, d = sym_grad(u), sym_grad(v)
        return lam * trace(e) * trace(d) + 2 * mu * ddot(e, d)

    matrix = stiffness.assemble(basis)
    component = np.zeros(basis.N, dtype=int)
    component[basis.get_dofs(elements=True).all("u^2")] = 1
    x, y = basis.doflocs
    u = np.zeros(basis.N)
    end = (x > 4 - 1e-9) & (component == 0) & ((np.abs(y - 1) < 1e-9) if driven == "point" else True)
    u[end] = 0.01
    fixed = np.flatnonzero((x < 1e-9) | end)
    u = skfem.solve(*skfem.condense(matrix, np.zeros(basis.N), x=u, D=fixed))
    force = matrix @ u
    scalar = skfem.CellBasis(mesh, skfem.ElementQuad2(), intorder=5)
    natural = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0.5, 0], [1, 0.5], [0.5, 1], [0, 0.5], [0.5, 0.5]])
    order = [int(np.flatnonzero((np.abs(skfem.ElementQuad2().doflocs - xi) < 1e-9).all(1))[0]) for xi in natural]
    connectivity = scalar.element_dofs.T[:, order]
    at = skfem.CellBasis(mesh, element, quadrature=(natural.T, np.ones(9)))
    e = np.asarray(sym_grad(at.interpolate(u)))
    stress = np.zeros((connectivity.size, 6))
    spread = lam * (e[0, 0] + e[1, 1])
    for column, value in ((0, spread + 2 * mu * e[0, 0]), (1, spread + 2 * mu * e[1, 1]), (3, 2 * mu * e[0, 1])):
        stress[:, column] = value.reshape(-1)
    nodes = scalar.doflocs.T
    moved, reaction = np.zeros((2, len(nodes), 3))
    place = {tuple(np.round(p, 9)): i for i, p in enumerate(nodes)}
    for dof in range(basis.N):
        node = place[tuple(np.round(basis.doflocs[:, dof], 9))]
        moved[node, component[dof]], reaction[node, component[dof]] = u[dof], force[dof]
    plate = mesh_of(np.column_stack([nodes, np.zeros(len(nodes))]), [(28, c.tolist()) for c in connectivity])
    fields = [Field("stress", "stress", "tensor", "corner", TENSOR, "MPa"), Field("u", "displacement", "vector", "node", XYZ, "mm")]
    return Memory(plate, fields, {"stress": stress[None], "u": moved[None]}), reaction


@pytest.mark.parametrize("driven", ["edge", "point"])
def test_reactions_are_recovered_where_the_model_is_held_and_where_it_is_driven(driven: str) -> None:
    source, solved = pulled_plate(driven)
    held = np.flatnonzero(source.mesh.points[:, 0] < 1e-9)
    pulled = np.flatnonzero(source.mesh.points[:, 0] > 4 - 1e-9)
    answer = balance(source, 0, {"held": held, "pulled": pulled})
    force = solved[pulled, 0].sum()
    assert force > 1.0
    assert answer.sets[0].reaction.force[0] == pytest.approx(-force, rel=0.01)
    assert answer.sets[1].reaction.force[0] == pytest.approx(force, rel=0.01)
    assert answer.verdict == "agrees" and answer.recovered
    assert answer.free_residual is not None and answer.free_residual < 0.05
    assert any("moved alike" in n for n in answer.notes)


def test_a_load_in_the_file_is_not_taken_for_a_drive() -> None:
    """The same plate with the pull given as an applied force: the moved end is free, its support alone holds it."""
    source, solved = pulled_plate("edge")
    pulled = source.mesh.points[:, 0] > 4 - 1e-9
    load = np.where(pulled[:, None], solved, 0.0) * [1, 0, 0]
    given = Memory(
        source.mesh,
        [*source.fields.values(), Field("load", "force", "vector", "node", XYZ, "N")],
        {**source.arrays, "load": load[None]},
    )
    answer = balance(given, 0, {"pulled": np.flatnonzero(pulled)})
    assert np.abs(answer.sets[0].reaction.force).max() < 0.02 * solved[pulled, 0].sum()
    assert answer.applied.force[0] == pytest.approx(solved[pulled, 0].sum())
    assert not any("moved alike" in n for n in answer.notes)


def test_the_residual_of_a_half_is_the_share_it_is_of_the_whole() -> None:
    """Half a bar, 100 N applied and 97 held on it: 3 in 197, whether told of the half or of the whole it stands for."""
    mesh = mesh_of(CUBE, [(12, list(range(8)))])
    load, hold = np.zeros((8, 3)), np.zeros((8, 3))
    load[CUBE[:, 0] == 1, 0], hold[CUBE[:, 0] == 0, 0] = 25.0, -97 / 4
    fields = [Field("load", "force", "vector", "node", XYZ, "N"), Field("reaction", "reaction", "vector", "node", XYZ, "N")]
    arrays = {"load": load[None], "reaction": hold[None]}
    alone = balance(Memory(mesh, fields, arrays), 0, {})
    whole = balance(Memory(mesh, fields, arrays, setup=Setup(mirror=Mirror(1, 0.0))), 0, {})
    assert alone.force_share == pytest.approx(3 / 197) and whole.force_share == pytest.approx(3 / 197)
    assert whole.applied.force[0] == pytest.approx(200.0) and alone.applied.force[0] == pytest.approx(100.0)
