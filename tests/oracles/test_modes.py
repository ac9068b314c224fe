"""Mass, participation, rigid and near-equal modes, energy: against closed forms, a reference library, and the definition."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.linalg import eigh

from ironstone.core.field.fields import Memory, Setup, Step
from ironstone.core.mesh.cells import CELLS, Cell
from ironstone.core.motion.coordinates import coordinates
from ironstone.core.motion.inertia import inertia, mass_matrix
from ironstone.core.motion.modes import by_part, near_equal, rigid, shares_of, strain_energy
from tests.models import FACES, SHAPES, SOLIDS, crooked, field, memory, mesh_of

RHO = 7.85e-9


def steel(mesh, **more: object) -> Memory:
    own = {name: {"density": RHO} for name in mesh.part_names}
    return memory(mesh, (field("u", "displacement", "node"), np.zeros((len(mesh.points), 3))), setup=Setup(constants=own, **more))


@pytest.mark.parametrize("cell", [*SOLIDS, *FACES], ids=lambda c: c.name)
def test_mass_times_two_linear_motions_is_the_integral_of_their_product(cell: Cell) -> None:
    """On every solid and face: integral of rho (a + b.x)(c + d.x) over the body, by a rule of eight points a direction."""
    mesh = crooked(cell)
    matrix = mass_matrix(steel(mesh), np.array([RHO]))
    first, second = 0.4 + mesh.points @ [1.0, -0.5, 0.3], -1.1 + mesh.points @ [0.2, 0.7, 0.9]
    # The definition, by a product rule of eight points a direction over the natural shape.
    from ironstone.core.mesh.cells import _quadrature

    xi, weights = _quadrature(cell.family, 8)
    turn = np.linalg.lstsq(np.c_[cell.nodes, np.ones(cell.size)], mesh.points, rcond=None)[0]
    where = np.c_[xi, np.ones(len(xi))] @ turn
    sides = turn[: cell.dimension]
    ratio = np.sqrt(np.linalg.det(sides @ sides.T))
    expected = RHO * ratio * (weights * (0.4 + where @ [1.0, -0.5, 0.3]) * (-1.1 + where @ [0.2, 0.7, 0.9])).sum()
    assert first @ matrix @ second == pytest.approx(expected, rel=1e-9)
    assert abs(matrix - matrix.T).max() < 1e-15 * abs(matrix).max()


@pytest.mark.parametrize(("element", "vtk"), [("ElementTriP1", 5), ("ElementQuad1", 9), ("ElementTetP1", 10), ("ElementHex1", 12)])
def test_the_mass_matrix_is_that_of_a_reference_library(element: str, vtk: int) -> None:
    """scikit-fem's own mass matrix on the same mesh, nodes in its order."""
    import skfem

    made = {5: skfem.MeshTri, 9: skfem.MeshQuad, 10: skfem.MeshTet, 12: skfem.MeshHex}[vtk]().refined(2)
    basis = skfem.Basis(made, getattr(skfem, element)())
    theirs = skfem.BilinearForm(lambda u, v, _: RHO * u * v).assemble(basis)
    points = np.zeros((made.p.shape[1], 3))
    points[:, : made.p.shape[0]] = made.p.T
    cells = [(vtk, around(points, made.t[:, k], vtk)) for k in range(made.t.shape[1])]
    mesh = mesh_of(points, cells)
    ours = mass_matrix(steel(mesh), np.full(len(cells), RHO))
    assert ours.sum() == pytest.approx(RHO, rel=1e-9)
    assert abs(ours - theirs).max() < 1e-9 * abs(theirs).max()


def around(points: np.ndarray, nodes: np.ndarray, vtk: int) -> list[int]:
    """Nodes of a box with sides along the axes in the order of its natural coordinates; of other shapes as they are."""
    if vtk != 12:
        return nodes.tolist()
    own = points[nodes] - points[nodes].min(0)
    corner = np.round(own / own.max(0)).astype(int).tolist()
    return [int(nodes[corner.index(natural)]) for natural in CELLS[12].nodes.astype(int).tolist()]


def rod(count: int) -> Memory:
    """A rod of unit length and section 3 along x, of bars."""
    points = np.zeros((count + 1, 3))
    points[:, 0] = np.linspace(0.0, 1.0, count + 1)
    mesh = mesh_of(points, [(3, [i, i + 1]) for i in range(count)])
    area = field("area", "section area", "element")
    return memory(mesh, (area, np.full((count, 1), 3.0)), setup=Setup(constants={"part 1": {"density": RHO}}))


def test_effective_masses_of_a_rod_held_at_one_end_are_those_of_the_series() -> None:
    """8 / (pi^2 (2 n - 1)^2) of the mass in mode n (from memory)."""
    source = rod(400)
    x = source.mesh.points[:, 0]
    shapes = np.zeros((4, len(x), 3))
    shapes[:, :, 0] = [np.sin((2 * n - 1) * np.pi / 2 * x) for n in range(1, 5)]
    found = inertia(source)
    assert found is not None
    assert found.total == pytest.approx(3.0 * RHO)
    share = shares_of(shapes, found).effective / found.total
    assert share[:, 0] == pytest.approx([8 / (np.pi * (2 * n - 1)) ** 2 for n in range(1, 5)], rel=1e-4)
    assert share[:, 1:] == pytest.approx(0.0)


def test_effective_masses_of_a_cantilever_are_those_of_the_handbooks() -> None:
    """61.3, 18.8 and 6.5 % in its first three bending modes; beta L = 1.8751, 4.6941, 7.8548 (from memory)."""
    source = rod(800)
    x = source.mesh.points[:, 0]
    shapes = np.zeros((3, len(x), 3))
    for k, b in enumerate((1.875104, 4.694091, 7.854757)):
        s = (np.cosh(b) + np.cos(b)) / (np.sinh(b) + np.sin(b))
        shapes[k, :, 2] = np.cosh(b * x) - np.cos(b * x) - s * (np.sinh(b * x) - np.sin(b * x))
    found = inertia(source)
    assert found is not None
    assert shares_of(shapes, found).effective[:, 2] / found.total == pytest.approx([0.6131, 0.1883, 0.0647], abs=2e-4)
    # Shapes written twice as large move the same mass, with half the participation.
    one, two = shares_of(shapes, found), shares_of(2.0 * shapes, found)
    assert two.effective == pytest.approx(one.effective)
    assert two.participation == pytest.approx(one.participation / 2)
    assert two.modal == pytest.approx(4 * one.modal)


def solved(n: int = 4) -> tuple[Memory, np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """A brick held at x = 0, every mode of it by scikit-fem: result, angular frequencies, shapes, K, M of all nodes."""
    import skfem
    from skfem.helpers import ddot, eye, sym_grad, trace

    made = skfem.MeshHex.init_tensor(np.linspace(0, 3, n), np.linspace(0, 1.0, 2), np.linspace(0, 1.2, 2))
    basis = skfem.Basis(made, skfem.ElementVector(skfem.ElementHex1()))
    lam, mu = 0.3 / (1.3 * 0.4), 1 / 2.6

    def stiff(u, v, _):
        e = sym_grad(u)
        return ddot(lam * eye(trace(e), 3) + 2 * mu * e, sym_grad(v))

    k = skfem.BilinearForm(stiff).assemble(basis)
    m = skfem.BilinearForm(lambda u, v, _: RHO * (u * v).sum(0)).assemble(basis)
    free = np.setdiff1d(np.arange(basis.N), basis.get_dofs(lambda x: x[0] == 0.0).all())
    squared, vectors = eigh(k.toarray()[np.ix_(free, free)], m.toarray()[np.ix_(free, free)])
    whole = np.zeros((len(squared), basis.N))
    whole[:, free] = vectors.T
    shapes = whole[:, basis.nodal_dofs].transpose(0, 2, 1)
    cells = [(12, around(made.p.T, made.t[:, e], 12)) for e in range(made.t.shape[1])]
    mesh = mesh_of(made.p.T, cells)
    steps = tuple(Step(i, "mode", w, "Hz") for i, w in enumerate(np.sqrt(squared) / (2 * np.pi)))
    u = field("u", "displacement", "node")
    constants = {"part 1": {"density": RHO, "young": 1.0, "poisson": 0.3}}
    source = Memory(mesh, [u], {"u": shapes}, steps, Setup(constants=constants))
    return source, np.sqrt(squared), shapes, k, m


def test_over_all_modes_the_effective_masses_add_up_to_what_moves() -> None:
    source, _, shapes, *_ = solved()
    mass = inertia(source)
    assert mass is not None
    assert mass.total == pytest.approx(RHO * 3.6)
    found = shares_of(shapes, mass)
    assert found.modal == pytest.approx(1.0), "scipy's eigenvectors are of unit mass"
    held = source.mesh.points[:, 0] == 0.0
    free = mass.matrix.toarray()[~held]
    moving = free.sum(1) @ np.linalg.solve(free[:, ~held], free.sum(1))
    assert found.effective.sum(0) == pytest.approx(moving, rel=1e-8)


def test_a_motion_is_rebuilt_from_all_modes_and_one_left_out_is_left_over() -> None:
    source, _, shapes, _, _ = solved(3)
    q = np.random.default_rng(5).normal(size=(6, len(shapes)))
    motions = np.einsum("sm,mnd->snd", q, shapes)
    for mass in (inertia(source), None):
        found = coordinates(shapes, motions, mass)
        assert found.q == pytest.approx(q, abs=1e-8 * abs(q).max())
        assert found.left == pytest.approx(0.0, abs=1e-6)
    # By mass the modes are normal to each other: leaving one out changes no other, and its own energy is what is left.
    mass = inertia(source)
    assert mass is not None
    some = coordinates(shapes[1:], motions, mass)
    assert some.q == pytest.approx(q[:, 1:], abs=1e-8 * abs(q).max())
    assert some.left == pytest.approx(np.abs(q[:, 0]) / np.linalg.norm(q, axis=1), rel=1e-6)
    turned = coordinates(shapes, motions * np.exp(0.7j), mass)
    assert turned.q == pytest.approx(q * np.exp(0.7j), abs=1e-8 * abs(q).max())


def test_energy_of_a_mode_is_half_its_stiffness_and_falls_to_its_parts() -> None:
    """Half phi' K phi of scikit-fem's stiffness; the stress is the exact one of a motion whose strain is constant."""
    source, _, _, k, _ = solved()
    mesh = source.mesh
    e = np.array([1e-3, -4e-4, 2e-4, 3e-4, -1e-4, 5e-4])
    gradient = np.array([[e[0], e[3], e[5]], [e[3], e[1], e[4]], [e[5], e[4], e[2]]])
    moved = mesh.points @ gradient.T
    lam, mu = 0.3 / (1.3 * 0.4), 1 / 2.6
    s = 2 * mu * e + lam * e[:3].sum() * np.array([1, 1, 1, 0, 0, 0])
    corners = len(mesh.connectivity)
    fields = [field("s", "stress", "corner"), field("e", "strain", "corner")]
    arrays = {"s": np.tile(s, (1, corners, 1)), "e": np.tile(e, (1, corners, 1))}
    expected = 0.5 * moved.ravel() @ k @ moved.ravel()
    for taken in (fields, fields[:1]):
        found = strain_energy(Memory(mesh, taken, arrays, setup=source.setup), 0)
        assert found is not None
        assert found.sum() == pytest.approx(expected, rel=1e-9)
        assert by_part(source, found) == pytest.approx([expected])
    assert strain_energy(source, 0) is None
    assert strain_energy(Memory(mesh, fields[:1], arrays), 0) is None, "without strain and constants it is not known"


def test_a_rigid_motion_is_told_from_a_bent_one() -> None:
    points = np.random.default_rng(1).normal(size=(40, 3)) + 100.0
    turn = np.cross([0.3, -0.2, 0.5], points - 100.0) + [1.0, 2.0, 3.0]
    bent = turn + 0.2 * (points - points.mean(0)) ** 2
    assert rigid(points, np.stack([turn, bent, 0 * turn])).tolist() == [True, False, False]
    flat = points * [1, 1, 0]
    assert rigid(flat, np.cross([0.0, 0.0, 1.0], flat)[None]).tolist() == [True], "a planar model has fewer rigid motions"


def test_near_equal_frequencies_are_of_one_group_in_whatever_order() -> None:
    assert near_equal(np.array([10.0, 25.0, 10.05, 40.0, 25.1, 60.0])).tolist() == [0, 1, 0, 2, 1, 3]
    assert near_equal(np.array([1e-4, 2e-3, 0.0, 12.0, 15.0])).tolist() == [0, 0, 0, 1, 2], "what is as good as zero is one group"
    assert near_equal(np.zeros(0)).tolist() == []


def test_mass_that_is_not_known_is_not_made_up() -> None:
    source, *_ = solved()
    unknown = Memory(source.mesh, list(source.fields.values()), source.arrays, source.steps)
    assert inertia(unknown) is None
    stated = inertia(unknown, 2.0)
    assert stated is not None
    assert stated.total == pytest.approx(2.0)
    assert stated.matrix.sum() == pytest.approx(2.0)
    shell = crooked(next(c for c in SHAPES if c.name == "quad4"))
    shell.points[:, 2] = shell.points[:, 0]
    assert inertia(steel(shell)) is None, "a shell whose thickness nobody knows"


def test_what_is_not_known_of_a_shape_is_no_motion_of_nothing() -> None:
    source, _, shapes, *_ = solved(3)
    mass = inertia(source)
    assert mass is not None
    holed = shapes[:2].copy()
    holed[0, 5] = np.nan
    found = shares_of(holed, mass)
    assert np.isnan(found.effective[0]).any() and np.isnan(found.modal[0])
    assert found.effective[1] == pytest.approx(shares_of(shapes[1:2], mass).effective[0])
