"""Makes the files of ``tests/data/solvers``: small problems solved by open solver libraries and written by their own writers.

``python tools/solver_cases.py LIBRARY FOLDER`` with a Python that has the library (scikit-fem and meshio, felupe, sfepy, getfem
or ngsolve): each in an environment of its own, for solving and writing only. Beside every file are the solver's own numbers.
A cantilever of 10 x 1 x 1 (E = 210000, nu = 0.3) is held at x = 0 and sheared at its end by a traction of 1 along z; a block of
rubber is pulled in steps.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import numpy as np
from solver_benchmarks import felupe_cycles, ngsolve, scikit_fem_more

YOUNG, POISSON = 210_000.0, 0.3


def keep(folder: Path, file: str, **numbers: Any) -> None:
    def plain(value: Any) -> Any:
        return value.tolist() if hasattr(value, "tolist") else value

    told = {name: plain(value) for name, value in numbers.items()}
    (folder / f"{Path(file).stem}.json").write_text(json.dumps({"file": file, **told}, indent=1) + "\n")


def scikit_fem(folder: Path) -> None:
    """Bricks of the first order, nodes shared; stress at nodes (averaged) and of elements, strain as the change of the angle."""
    import meshio
    import skfem.io.meshio
    from skfem import Basis, ElementHex1, ElementVector, FacetBasis, LinearForm, MeshHex, condense, solve
    from skfem.models.elasticity import lame_parameters, linear_elasticity

    lame, shear = lame_parameters(YOUNG, POISSON)
    mesh = MeshHex.init_tensor(np.linspace(0, 10, 11), np.linspace(0, 1, 3), np.linspace(0, 1, 3))
    element = ElementVector(ElementHex1())
    basis = Basis(mesh, element, intorder=4)
    stiffness = linear_elasticity(lame, shear).assemble(basis)
    end = FacetBasis(mesh, element, facets=mesh.facets_satisfying(lambda x: np.isclose(x[0], 10)), intorder=4)
    load = LinearForm(lambda v, w: 1.0 * v[2]).assemble(end)
    moved = solve(*condense(stiffness, load, D=basis.get_dofs(lambda x: np.isclose(x[0], 0))))
    nodal, reaction = (values[basis.nodal_dofs].T for values in (moved, stiffness @ moved - load))
    middle = Basis(mesh, element, quadrature=(np.full((3, 1), 0.5), np.ones(1)))
    gradient = middle.interpolate(moved).grad[:, :, :, 0]
    strain = (gradient + gradient.transpose(1, 0, 2)) / 2
    stress = lame * np.trace(strain) * np.eye(3)[:, :, None] + 2 * shear * strain

    def columns(t: np.ndarray, pairs: tuple[tuple[int, int], ...], twice: float = 1.0) -> np.ndarray:
        return np.stack([t[i, i] for i in range(3)] + [twice * t[i, j] for i, j in pairs], axis=1)

    usual, other = ((0, 1), (1, 2), (0, 2)), ((0, 1), (0, 2), (1, 2))
    cells = skfem.io.meshio.to_meshio(mesh).cells[0].data
    averaged, count = np.zeros((mesh.p.shape[1], 6)), np.zeros(mesh.p.shape[1])
    for row, nodes in zip(columns(stress, usual), cells, strict=True):
        averaged[nodes] += row
        count[nodes] += 1
    right = (mesh.p[0][mesh.t].mean(0) > 5).astype(np.int32)
    meshio.Mesh(
        mesh.p.T,
        [("hexahedron", cells)],
        point_data={"displacement": nodal, "reaction": reaction, "stress": averaged / count[:, None]},
        cell_data={
            "element_stress": [columns(stress, usual)],
            "strain": [columns(strain, usual, 2.0)],
            "strain_in_another_order": [columns(strain, other, 2.0)],
            "subdomain": [right],
        },
    ).write(folder / "bricks.vtu", compression="zlib")
    keep(
        folder, "bricks.vtu", writer="meshio, VTU, nodes shared", tip=nodal[np.isclose(mesh.p[0], 10), 2].mean(),
        reaction=reaction[np.isclose(mesh.p[0], 0)].sum(0), stress=columns(stress, usual)[0], strain=columns(strain, usual)[0],
        parts=2,
    )  # fmt: skip


def felupe(folder: Path) -> None:
    """A block of rubber pulled in four steps: a series in XDMF, large strains, a deformation gradient among them."""
    import os

    import felupe as fem

    mesh = fem.Cube(b=(10, 1, 1), n=(11, 3, 3))
    field = fem.FieldContainer([fem.Field(fem.RegionHexahedron(mesh), dim=3)])
    bounds = fem.dof.uniaxial(field, clamped=True, return_loadcase=False)
    body = fem.SolidBody(fem.NeoHooke(mu=1.0, bulk=50.0), field)
    step = fem.Step([body], ramp={bounds["move"]: fem.math.linsteps([0, 1.0], num=4)}, boundaries=bounds)
    job = fem.CharacteristicCurve([step], boundary=bounds["move"])
    here = os.getcwd()
    os.chdir(folder)
    job.evaluate(filename="rubber.xdmf", verbose=0)
    os.chdir(here)
    keep(
        folder, "rubber.xdmf", writer="XDMF with HDF5, a series in time", beside=["rubber.h5"],
        end=np.array(job.x)[:, 0], force=np.array(job.y)[:, 0],
    )  # fmt: skip


def sfepy(folder: Path) -> None:
    """Bricks in legacy VTK and VTU: shear xy, xz, yz, strain as the change of the angle, an empty group of nodes."""
    from sfepy.base.base import Struct
    from sfepy.discrete import Equation, Equations, FieldVariable, Integral, Material, Problem
    from sfepy.discrete.conditions import Conditions, EssentialBC
    from sfepy.discrete.fem import FEDomain, Field
    from sfepy.mechanics.matcoefs import stiffness_from_youngpoisson
    from sfepy.mesh.mesh_generators import gen_block_mesh
    from sfepy.solvers.ls import ScipyDirect
    from sfepy.solvers.nls import Newton
    from sfepy.terms import Term

    mesh = gen_block_mesh([10, 1, 1], [11, 3, 3], [5, 0.5, 0.5], verbose=False)
    domain = FEDomain("domain", mesh)
    omega = domain.create_region("Omega", "all")
    left = domain.create_region("Left", "vertices in x < 0.001", "facet")
    right = domain.create_region("Right", "vertices in x > 9.999", "facet")
    field = Field.from_args("field", np.float64, "vector", omega, approx_order=1)
    u, v = FieldVariable("u", "unknown", field), FieldVariable("v", "test", field, primary_var_name="u")
    solid = Material("m", D=stiffness_from_youngpoisson(3, YOUNG, POISSON))
    load, rule = Material("load", val=[[0.0], [0.0], [1.0]]), Integral("i", order=2)
    inner = Term.new("dw_lin_elastic(m.D, v, u)", rule, omega, m=solid, v=v, u=u)
    outer = Term.new("dw_surface_ltr(load.val, v)", rule, right, load=load, v=v)
    problem = Problem("p", equations=Equations([Equation("balance", inner - outer)]))
    problem.set_bcs(ebcs=Conditions([EssentialBC("fix", left, {"u.all": 0.0})]))
    problem.set_solver(Newton({}, lin_solver=ScipyDirect({})))
    out = problem.solve(verbose=False).create_output()
    strain = problem.evaluate("ev_cauchy_strain.2.Omega(u)", mode="el_avg", verbose=False)
    stress = problem.evaluate("ev_cauchy_stress.2.Omega(m.D, u)", mode="el_avg", m=solid, verbose=False)
    for name, data in (("cauchy_strain", strain), ("cauchy_stress", stress)):
        out[name] = Struct(name="output", mode="cell", data=data, dofs=None)
    tip = u().reshape(-1, 3)[np.isclose(mesh.coors[:, 0], 10), 2].mean()
    order = [0, 1, 2, 3, 5, 4]
    for file in ("blocks.vtk", "blocks_xml.vtu"):
        problem.save_state(str(folder / file), out=out)
        keep(
            folder, file, writer=f"{'legacy VTK' if file.endswith('vtk') else 'VTU'}, shear xy, xz, yz", tip=tip,
            stress=stress[0, 0, order, 0], strain=strain[0, 0, order, 0] * [1, 1, 1, 0.5, 0.5, 0.5],
        )  # fmt: skip


def getfem(folder: Path) -> None:
    """Tetrahedra of both degrees, some numbered the other way round; von Mises as a scalar."""
    import getfem as gf

    mesh = gf.Mesh("regular simplices", np.arange(0, 11), np.linspace(0, 1, 3), np.linspace(0, 1, 3))
    faces = mesh.outer_faces()
    normals = mesh.normal_of_faces(faces)
    mesh.set_region(1, faces[:, normals[0] < -0.9])
    mesh.set_region(2, faces[:, normals[0] > 0.9])
    for degree in (1, 2):
        space, rule = gf.MeshFem(mesh, 3), gf.MeshIm(mesh, gf.Integ("IM_TETRAHEDRON(5)"))
        space.set_fem(gf.Fem(f"FEM_PK(3,{degree})"))
        model = gf.Model("real")
        model.add_fem_variable("u", space)
        model.add_initialized_data("lambda", YOUNG * POISSON / (1 + POISSON) / (1 - 2 * POISSON))
        model.add_initialized_data("mu", YOUNG / 2 / (1 + POISSON))
        model.add_isotropic_linearized_elasticity_brick(rule, "u", "lambda", "mu")
        model.add_Dirichlet_condition_with_multipliers(rule, "u", space, 1)
        model.add_initialized_data("F", [0, 0, 1.0])
        model.add_source_term_brick(rule, "u", "F", 2)
        model.solve()
        u = model.variable("u")
        scalar = gf.MeshFem(mesh, 1)
        scalar.set_classical_discontinuous_fem(degree)
        mises = model.compute_isotropic_linearized_Von_Mises_or_Tresca("u", "lambda", "mu", scalar)
        file = f"tetrahedra_{degree}.vtu"
        space.export_to_vtu(str(folder / file), "ascii", space, u, "Displacements", scalar, mises, "Von Mises Stress")
        places = space.basic_dof_nodes()[:, 2::3]
        keep(folder, file, writer="VTU, ascii, tetrahedra either way round", tip=u[2::3][np.isclose(places[0], 10)].mean())


if __name__ == "__main__":
    library, where = sys.argv[1:]
    each = {"scikit-fem": scikit_fem, "felupe": felupe, "sfepy": sfepy, "getfem": getfem}
    more = {"ngsolve": ngsolve, "scikit-fem": scikit_fem_more, "felupe": felupe_cycles}
    if library in each:
        each[library](Path(where))
    if library in more:
        more[library](Path(where), keep)
