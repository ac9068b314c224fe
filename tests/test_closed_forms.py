"""Against closed forms: models solved here with scikit-fem, written as VTU, taken in and read with the product.

Thick cylinder under inner pressure: Lame (1852), figures by Timoshenko and Goodier, Theory of Elasticity (1970), art. 28.
Pure bending: s = M y / I. The error estimate: Zienkiewicz and Zhu (1987), on an exact field.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import skfem
from skfem.helpers import ddot, dot, sym_grad, trace

from ironstone.core.field.axes import three_points
from ironstone.core.field.fields import Setup
from ironstone.core.field.recover import SMALL, elastic_stress, strain
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtCorners, AtSamples
from ironstone.core.reading.error_estimate import error_estimate
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource
from tests.models import field, memory, mesh_of
from tests.writing import write_vtu

YOUNG, POISSON = 210e3, 0.3
LAME, SHEAR = YOUNG * POISSON / ((1 + POISSON) * (1 - 2 * POISSON)), YOUNG / (2 * (1 + POISSON))
QUAD9 = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0.5, 0], [1, 0.5], [0.5, 1], [0, 0.5], [0.5, 0.5]])


@skfem.BilinearForm
def plane_strain(u, v, _w):  # type: ignore[no-untyped-def]
    e, d = sym_grad(u), sym_grad(v)
    return LAME * trace(e) * trace(d) + 2 * SHEAR * ddot(e, d)


Push = Callable[[np.ndarray, np.ndarray], np.ndarray]


def ring(folder: Path, inner: float, outer: float, bore: Push | None, rim: Push | None, bond: float | None = None) -> ReviewSource:
    """A quarter of a ring in plane strain, nine-node quadrilaterals, stress as three components at the corners.

    bore, rim: traction at places (2, n) of outward normals (2, n). bond: from this radius on the material is half as stiff, and a
    part of its own.
    """
    count = 16 if rim is not None else 8
    flat = skfem.MeshQuad2.from_mesh(skfem.MeshQuad.init_tensor(np.linspace(0, 1, count + 1), np.linspace(0, 1, count + 1)))
    share = flat.doflocs[0] if rim is None else (np.exp(2.5 * flat.doflocs[0]) - 1) / (np.exp(2.5) - 1)
    radius, angle = inner + (outer - inner) * share, flat.doflocs[1] * np.pi / 2
    mesh = skfem.MeshQuad2(np.stack([radius * np.cos(angle), radius * np.sin(angle)]), flat.t)
    element = skfem.ElementVector(skfem.ElementQuad2())
    basis = skfem.CellBasis(mesh, element, intorder=5)
    centres = np.hypot(*mesh.p[:, mesh.t].mean(1))
    soft = np.zeros(mesh.nelements) if bond is None else (centres > bond).astype(float)
    load = np.zeros(basis.N)
    for at, traction in ((0.0, bore), (1.0, rim)):
        if traction is None:
            continue
        facets = flat.facets_satisfying(lambda x, at=at: np.abs(x[0] - at) < 1e-9)

        @skfem.LinearForm
        def push(v, w, traction=traction):  # type: ignore[no-untyped-def]
            return dot(traction(w.x, w.n), v)

        load += push.assemble(skfem.FacetBasis(mesh, element, facets=facets, intorder=7))

    @skfem.BilinearForm
    def stiffness(u, v, w):  # type: ignore[no-untyped-def]
        e, d = sym_grad(u), sym_grad(v)
        return (1 - 0.5 * w.soft) * (LAME * trace(e) * trace(d) + 2 * SHEAR * ddot(e, d))

    component = np.zeros(basis.N, dtype=int)
    for name in ("u^1", "u^2"):
        component[basis.get_dofs(elements=True).all(name)] = int(name[-1]) - 1
    x, y = basis.doflocs
    fixed = np.flatnonzero(((np.abs(y) < 1e-9) & (component == 1)) | ((np.abs(x) < 1e-9) & (component == 0)))
    softness = np.repeat(soft[:, None], basis.X.shape[1], axis=1)
    u = skfem.solve(*skfem.condense(stiffness.assemble(basis, soft=softness), load, D=fixed))
    scalar = skfem.CellBasis(mesh, skfem.ElementQuad2(), intorder=5)
    order = [int(np.flatnonzero((np.abs(skfem.ElementQuad2().doflocs - xi) < 1e-9).all(1))[0]) for xi in QUAD9]
    connectivity = scalar.element_dofs.T[:, order]
    at_nodes = skfem.CellBasis(mesh, element, quadrature=(QUAD9.T, np.ones(9)))
    e = np.asarray(sym_grad(at_nodes.interpolate(u)))
    stiff = (1 - 0.5 * soft)[:, None]
    spread = LAME * (e[0, 0] + e[1, 1])
    components = [spread + 2 * SHEAR * e[0, 0], spread + 2 * SHEAR * e[1, 1], 2 * SHEAR * e[0, 1]]
    stress = np.stack([stiff * c for c in components], -1).reshape(-1, 3)
    points = np.column_stack([scalar.doflocs.T, np.zeros(scalar.N)])[connectivity.ravel()]
    cells = [(28, list(range(9 * i, 9 * i + 9))) for i in range(len(connectivity))]
    more = {} if bond is None else {"cell_data": {"material": soft.astype(np.int32)}}
    path = write_vtu(folder / "ring.vtu", points, cells, {"stress": stress}, components={"stress": ("xx", "yy", "xy")}, **more)
    review = Review.create(folder / "ring.ironstone")
    result = intake(review, [path], system="mm-N-s-t-MPa")
    review.set_axes(result, three_points("bore", "cylindrical", np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0])))
    review.set_model(result, "plane strain")
    for name in review.result(result).mesh.material_or_part_names:
        review.set_constants(result, name, {"young": YOUNG, "poisson": POISSON})
    return review.result(result)


def cylinder(folder: Path, inner: float, outer: float, pressure: float) -> ReviewSource:
    """A quarter of a thick cylinder under inner pressure."""
    return ring(folder, inner, outer, lambda x, n: -pressure * n, None)


def test_a_thick_cylinder_in_its_own_axes(tmp_path: Path) -> None:
    """Lame: s_r, s_h = A -+ B/r^2 with A = p a^2/(b^2 - a^2), B = A b^2; along the axis nu (s_r + s_h) in plane strain."""
    a, b, p = 10.0, 20.0, 100.0
    source = cylinder(tmp_path, a, b, p)
    mean, fall = p * a**2 / (b**2 - a**2), p * a**2 * b**2 / (b**2 - a**2)
    for measure, exact in (
        ("radial", lambda r: mean - fall / r**2),
        ("hoop", lambda r: mean + fall / r**2),
        ("axial", lambda r: 2 * POISSON * mean + 0 * r),
        ("xy", lambda r: 0 * r),
    ):
        answer = evaluate(Reading("stress", measure, axes="bore"), source, AtCorners())
        radius = np.hypot(*source.mesh.points[answer.node, :2].T)
        assert answer.values == pytest.approx(exact(radius), abs=0.012 * (mean + fall / a**2)), measure
    highest = extremes(Reading("stress", "hoop", axes="bore"), source)[2]
    assert highest is not None
    assert highest.value == pytest.approx(p * (b**2 + a**2) / (b**2 - a**2), rel=0.005)
    assert np.hypot(*highest.xyz[:2]) == pytest.approx(a)


def test_the_third_direction_is_missing_until_the_model_is_stated(tmp_path: Path) -> None:
    source = cylinder(tmp_path, 10.0, 20.0, 100.0)
    source.review.set_model(source.id, "")
    bare = source.review.result(source.id)
    answer = evaluate(Reading("stress", "von-mises"), bare, AtCorners())
    assert np.isnan(answer.values).all() and "third direction" in answer.caveats[-1]
    assert not np.isnan(evaluate(Reading("stress", "xx"), bare, AtCorners()).values).any()
    source.review.set_model(source.id, "plane stress")
    assert evaluate(Reading("stress", "zz"), source.review.result(source.id), AtCorners()).values == pytest.approx(0.0)


def test_pure_bending_is_my_over_i_and_nothing_in_the_middle() -> None:
    """A beam 20 high and 10 wide under a moment of 5,000 N mm: s = M y / I in the fibres, none in the middle of an element."""
    height, width, moment = 20.0, 10.0, 5_000.0
    inertia = width * height**3 / 12
    x, y = np.meshgrid(np.linspace(0, 60, 7), np.linspace(-height / 2, height / 2, 3), indexing="ij")
    points = np.stack([x.ravel(), y.ravel(), 0 * x.ravel()], 1)
    cells = []
    for i in range(0, 6, 2):
        at = lambda k, j: 3 * k + j  # noqa: E731
        cells.append((23, [at(i, 0), at(i + 2, 0), at(i + 2, 2), at(i, 2), at(i + 1, 0), at(i + 2, 1), at(i + 1, 2), at(i, 1)]))
    mesh = mesh_of(points, cells)
    curvature = moment / (YOUNG * inertia)
    u = np.stack([-curvature * points[:, 0] * points[:, 1], curvature * points[:, 0] ** 2 / 2, 0 * x.ravel()], 1)
    u[:, 1] += POISSON * curvature * points[:, 1] ** 2 / 2
    setup = Setup(constants={"part 1": {"young": YOUNG, "poisson": POISSON}}, model="plane stress")
    source = memory(mesh, (field("u", "displacement", "node"), u), setup=setup)
    n = len(mesh.connectivity)
    stress = elastic_stress(strain(SMALL, source, 0), np.full(n, YOUNG), np.full(n, POISSON))
    beam = memory(mesh, (field("s", "stress", "corner"), stress), setup=setup)
    answer = evaluate(Reading("s", "xx"), beam, AtCorners())
    assert answer.values == pytest.approx(-moment * mesh.points[answer.node, 1] / inertia, abs=1e-6)
    middle = AtSamples(np.array([0, 1, 2]), np.full((3, 3), 0.5))
    assert evaluate(Reading("s", "von-mises"), beam, middle).values == pytest.approx(np.zeros(3), abs=1e-6)


def exact_field(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """A smooth displacement, (2, ...): what the manufactured problem must give."""
    return 1e-3 * np.stack([np.sin(1.5 * x) * np.cos(y), np.cos(x) * np.sin(2 * y)])


def exact_gradient(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    return 1e-3 * np.array(
        [
            [1.5 * np.cos(1.5 * x) * np.cos(y), -np.sin(1.5 * x) * np.sin(y)],
            [-np.sin(x) * np.sin(2 * y), 2 * np.cos(x) * np.cos(2 * y)],
        ]
    )


def stress_of(gradient: np.ndarray) -> np.ndarray:
    """Plane-strain stress, (6, ...), of a displacement gradient (2, 2, ...)."""
    e = (gradient + gradient.swapaxes(0, 1)) / 2
    across = LAME * (e[0, 0] + e[1, 1])
    zero = 0 * across
    return np.stack([across + 2 * SHEAR * e[0, 0], across + 2 * SHEAR * e[1, 1], across, 2 * SHEAR * e[0, 1], zero, zero])


def body_force(x: np.ndarray, y: np.ndarray, h: float = 1e-4) -> np.ndarray:
    """What holds the exact field in balance, - div s, by central differences of its stress (good to 1e-6 here)."""
    dx = (stress_of(exact_gradient(x + h, y)) - stress_of(exact_gradient(x - h, y))) / (2 * h)
    dy = (stress_of(exact_gradient(x, y + h)) - stress_of(exact_gradient(x, y - h))) / (2 * h)
    return -np.stack([dx[0] + dy[3], dx[3] + dy[1]])


def effectivity(n: int) -> float:
    """Estimated over true error in the energy norm on n x n linear quadrilaterals with the exact field on the border."""
    flat = skfem.MeshQuad.init_tensor(np.linspace(0, 1, n + 1), np.linspace(0, 1, n + 1))
    element = skfem.ElementVector(skfem.ElementQuad1())
    basis = skfem.CellBasis(flat, element, intorder=5)

    @skfem.LinearForm
    def pull(v, w):  # type: ignore[no-untyped-def]
        return dot(body_force(w.x[0], w.x[1]), v)

    boundary = basis.get_dofs().all()
    u = np.zeros(basis.N)
    x, y = basis.doflocs
    component = np.zeros(basis.N, dtype=int)
    component[basis.get_dofs(elements=True).all("u^2")] = 1
    u[:] = np.choose(component, exact_field(x, y))
    u = skfem.solve(*skfem.condense(plane_strain.assemble(basis), pull.assemble(basis), x=u, D=boundary))
    fine = skfem.CellBasis(flat, element, intorder=8)
    gap = stress_of(np.asarray(fine.interpolate(u).grad)) - stress_of(exact_gradient(*np.asarray(fine.global_coordinates())))
    square = (gap[:3] ** 2).sum(0) + 2 * (gap[3:] ** 2).sum(0)
    true = np.sqrt((((1 + POISSON) * square - POISSON * gap[:3].sum(0) ** 2) / YOUNG * fine.dx).sum())
    quad = QUAD9[:4]
    order = [int(np.flatnonzero((np.abs(skfem.ElementQuad1().doflocs - xi) < 1e-9).all(1))[0]) for xi in quad]
    scalar = skfem.CellBasis(flat, skfem.ElementQuad1(), intorder=3)
    cells = [(9, c.tolist()) for c in scalar.element_dofs.T[:, order]]
    mesh: Mesh = mesh_of(np.column_stack([scalar.doflocs.T, np.zeros(scalar.N)]), cells)
    corners = skfem.CellBasis(flat, element, quadrature=(quad.T, np.ones(4)))
    raw = stress_of(np.asarray(corners.interpolate(u).grad)).transpose(1, 2, 0).reshape(-1, 6)
    setup = Setup(constants={"part 1": {"young": YOUNG, "poisson": POISSON}}, model="plane strain")
    source = memory(mesh, (field("s", "stress", "corner"), raw), setup=setup)
    return error_estimate(Reading("s"), source).error_norm / true


def test_the_error_estimate_tends_to_the_error() -> None:
    """Zienkiewicz and Zhu: estimated over true error tends to one as the mesh grows finer."""
    found = [effectivity(n) for n in (4, 8, 16, 32)]
    away = np.abs(np.array(found) - 1.0)
    assert away[-1] < 0.05, found
    assert away[-1] < away[0], found


def test_the_error_of_an_exact_field_is_none_and_needs_the_constants() -> None:
    points = np.array([[0, 0, 0], [1, 0, 0], [2, 0, 0], [0, 1, 0], [1, 1, 0], [2, 1, 0.0]])
    mesh = mesh_of(points, [(9, [0, 1, 4, 3]), (9, [1, 2, 5, 4])])
    stress = np.tile([80.0, 0, 0, 0, 0, 0], (8, 1))
    setup = Setup(constants={"part 1": {"young": YOUNG, "poisson": POISSON}})
    found = error_estimate(Reading("s"), memory(mesh, (field("s", "stress", "corner"), stress), setup=setup))
    assert found.total == pytest.approx(0.0)
    assert found.energy_norm == pytest.approx(80.0 * np.sqrt(2.0 / YOUNG)), "s^2 V / E, of an area of 2"
