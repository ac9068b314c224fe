"""Against the outside: a published benchmark solved with scikit-fem, written as VTU, taken in and read back.

Elliptic membrane LE1 (published standard benchmark, plane stress; figures from memory): quarter of an elliptic ring, inner
half axes 2 and 1 m, outer 3.25 and 2.75 m, 0.1 m thick, E 210 GPa, nu 0.3, outward pressure 10 MPa on the outer edge.
Tangential stress at the inner end of the long axis: 92.7 MPa.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import skfem
from skfem.helpers import ddot, dot, sym_grad, trace
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonDataModel import vtkUnstructuredGrid
from vtkmodules.vtkFiltersCore import vtkCellDataToPointData
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

from ironstone.core.mesh.places import AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes, meeting
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace as follow
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource
from tests.conftest import DATA
from tests.writing import bar_of_hexahedra, write_vtu

YOUNG, POISSON, THICKNESS, PRESSURE = 210e9, 0.3, 0.1, 10e6
QUAD9 = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0.5, 0], [1, 0.5], [0.5, 1], [0, 0.5], [0.5, 0.5]])


def membrane(radial: int, around: int) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Points and connectivity (quad9), displacement and reaction at nodes, stress (elements, 9, 6) at corners."""
    flat = skfem.MeshQuad2.from_mesh(skfem.MeshQuad.init_tensor(np.linspace(0, 1, radial + 1), np.linspace(0, 1, around + 1)))
    r, a = flat.doflocs[0], flat.doflocs[1] * np.pi / 2
    points = np.stack([(2 + 1.25 * r) * np.cos(a), (1 + 1.75 * r) * np.sin(a)])
    mesh = skfem.MeshQuad2(points, flat.t)
    element = skfem.ElementVector(skfem.ElementQuad2())
    basis = skfem.CellBasis(mesh, element, intorder=5)
    lam, mu = YOUNG * POISSON / (1 - POISSON**2), YOUNG / (2 * (1 + POISSON))

    @skfem.BilinearForm
    def stiffness(u, v, _w):  # type: ignore[no-untyped-def]
        e, d = sym_grad(u), sym_grad(v)
        return THICKNESS * (lam * trace(e) * trace(d) + 2 * mu * ddot(e, d))

    outer = flat.facets_satisfying(lambda x: np.abs(x[0] - 1.0) < 1e-9)

    @skfem.LinearForm
    def push(v, w):  # type: ignore[no-untyped-def]
        return THICKNESS * PRESSURE * dot(w.n, v)

    matrix = stiffness.assemble(basis)
    load = push.assemble(skfem.FacetBasis(mesh, element, facets=outer, intorder=5))
    where = basis.doflocs
    scalar = skfem.CellBasis(mesh, skfem.ElementQuad2(), intorder=5)
    # Which component each unknown moves is asked of the basis, not assumed.
    component = np.zeros(basis.N, dtype=int)
    for name in ("u^1", "u^2"):
        component[basis.get_dofs(elements=True).all(name)] = int(name[-1]) - 1
    fixed = np.flatnonzero(((np.abs(where[1]) < 1e-9) & (component == 1)) | ((np.abs(where[0]) < 1e-9) & (component == 0)))
    u = skfem.solve(*skfem.condense(matrix, load, D=fixed))
    force = matrix @ u - load
    order = [int(np.flatnonzero((np.abs(skfem.ElementQuad2().doflocs - xi) < 1e-9).all(1))[0]) for xi in QUAD9]
    connectivity = scalar.element_dofs.T[:, order]
    nodes = scalar.doflocs.T
    key = {tuple(np.round(x, 9)): i for i, x in enumerate(nodes)}
    vectors = np.zeros((2, len(nodes), 3))
    for dof in range(basis.N):
        node = key[tuple(np.round(where[:, dof], 9))]
        vectors[0, node, component[dof]] = u[dof]
        vectors[1, node, component[dof]] = force[dof]
    at_corners = skfem.CellBasis(mesh, element, quadrature=(QUAD9.T, np.ones(9)))
    e = np.asarray(sym_grad(at_corners.interpolate(u)))
    tr = e[0, 0] + e[1, 1]
    stress = np.zeros((connectivity.shape[0], 9, 6))
    stress[..., 0] = lam * tr + 2 * mu * e[0, 0]
    stress[..., 1] = lam * tr + 2 * mu * e[1, 1]
    stress[..., 3] = 2 * mu * e[0, 1]
    points3 = np.column_stack([nodes, np.zeros(len(nodes))])
    return points3, connectivity, vectors[0], vectors[1], stress


def take_in(folder: Path, radial: int, around: int) -> tuple[Review, ReviewSource]:
    points, connectivity, displacement, reaction, stress = membrane(radial, around)
    corners = connectivity.ravel()
    cells = [(28, list(range(9 * e, 9 * e + 9))) for e in range(len(connectivity))]
    path = write_vtu(
        folder / f"membrane_{radial}.vtu",
        points[corners],
        cells,
        {
            "stress": stress.reshape(-1, 6),
            "displacement": displacement[corners],
            "reaction": reaction[corners],
            "on_y": (np.abs(points[corners, 0]) < 1e-9).astype(np.uint8),
            "on_x": (np.abs(points[corners, 1]) < 1e-9).astype(np.uint8),
            "GlobalIds": corners + 1,
        },
    )
    review = Review.create(folder / f"membrane_{radial}.ironstone")
    return review, review.result(intake(review, [path], system="m-N-s-kg-Pa"))


@pytest.mark.parametrize(("radial", "around", "gap"), [(3, 4, 0.05), (8, 12, 0.01), (16, 24, 0.003)])
def test_elliptic_membrane_le1(tmp_path: Path, radial: int, around: int, gap: float) -> None:
    review, source = take_in(tmp_path, radial, around)
    with review:
        end = int(np.argmin(np.linalg.norm(source.mesh.points - [2, 0, 0], axis=1)))
        raw = meeting(Reading("stress", "yy", unit="MPa"), source, end).values.values
        averaged = evaluate(Reading("stress", "yy", "part", unit="MPa"), source, AtNodes(np.array([end]))).values
        assert len(raw) == 1, "one element meets the inner end"
        assert averaged == pytest.approx(raw)
        assert raw[0] == pytest.approx(92.7, rel=gap)
        shared = next(n for n in range(len(source.mesh.points)) if len(source.mesh.corners_at(n)) == 4)
        several = meeting(Reading("stress", "yy", unit="MPa"), source, shared).values.values
        one = evaluate(Reading("stress", "yy", "part", unit="MPa"), source, AtNodes(np.array([shared]))).values
        assert len(several) == 4 and one == pytest.approx([several.mean()])
        high = extremes(Reading("stress", "yy", unit="MPa"), source)[2]
        assert high is not None and high.node == end, "the highest is where the benchmark has it"


def test_sum_of_the_membranes_reactions_balances_the_pressure(tmp_path: Path) -> None:
    """The pressure's resultant on a quarter is p t times the projected half axes, whatever the mesh."""
    review, source = take_in(tmp_path, 4, 6)
    with review:
        for name, measure, reach in (("on_y", "x", 2.75), ("on_x", "y", 3.25)):
            total = follow(Reading("reaction", measure, unit="kN"), source, AtNodes(source.mesh.node_sets[name]), "sum").values
            assert total[0] == pytest.approx(-PRESSURE * THICKNESS * reach / 1000.0, rel=2e-3)


def test_jump_between_elements_falls_with_refinement(tmp_path: Path) -> None:
    jumps = []
    for radial, around in ((3, 4), (8, 12)):
        review, source = take_in(tmp_path, radial, around)
        with review:
            nodes = range(0, len(source.mesh.points), 3)
            jumps.append(max(meeting(Reading("stress", "von-mises", unit="MPa"), source, n).jump for n in nodes))
    assert jumps[1] < 0.4 * jumps[0]


def test_averaging_element_values_agrees_with_vtk(tmp_path: Path) -> None:
    """On a mesh of one part, averaging an element field to the nodes is what vtkCellDataToPointData does."""
    points, cells, _ = bar_of_hexahedra(6, shared=True)
    values = np.random.default_rng(5).normal(size=6)
    path = write_vtu(tmp_path / "a.vtu", points, cells, None, {"density": values})
    reader = vtkXMLUnstructuredGridReader()
    reader.SetFileName(str(path))
    convert = vtkCellDataToPointData()
    convert.SetInputConnection(reader.GetOutputPort())
    convert.Update()
    grid = convert.GetOutput()
    assert isinstance(grid, vtkUnstructuredGrid)
    expected = vtk_to_numpy(grid.GetPointData().GetArray("density"))
    with Review.create(tmp_path / "a.ironstone") as review:
        source = review.result(intake(review, [path]))
        found = evaluate(Reading("density", averaging="all"), source, AtNodes(np.arange(len(points))))
        assert found.values == pytest.approx(expected, rel=1e-12)


def test_the_flexures_loop_is_that_of_its_solver(flexure: ReviewSource) -> None:
    """The reaction summed in the product against the force the demo's solver wrote beside its mesh check."""
    force = follow(Reading("reaction", "x"), flexure, AtNodes(flexure.mesh.node_sets["held"]), "sum").values
    moved = follow(Reading("displacement", "x"), flexure, AtNodes(flexure.mesh.node_sets["driven"]), "mean").values
    answer = json.loads((DATA / "mesh_check.json").read_text())["coarse"]
    assert np.abs(force).max() == pytest.approx(answer["peak force N"], rel=1e-5)
    assert np.trapezoid(-force, moved) == pytest.approx(answer["energy of all steps N mm"], rel=1e-4)
    opposite = follow(Reading("reaction", "x"), flexure, AtNodes(flexure.mesh.node_sets["driven"]), "sum").values
    assert np.abs(force + opposite).max() < 1e-4 * np.abs(force).max(), "action and reaction"
