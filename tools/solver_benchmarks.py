"""More files of ``tests/data/solvers``: problems with an answer that is published or in closed form, by the libraries' own writers.

``python tools/solver_cases.py LIBRARY FOLDER`` makes these too. Beside each file lies what it is read for: ``points`` (a field's
kind, a measure, a place, the solver's own number, and the known one with how near a mesh of this size comes to it), and ``state``,
what the analyst has to state because the file cannot.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

Keep = Callable[..., None]


def ngsolve(folder: Path, keep: Keep) -> None:
    """Plates in plane stress with curved sides: an elliptic membrane, a hole, a tapered panel; elements that share no nodes."""
    import ngsolve as ng
    from netgen.geom2d import SplineGeometry
    from netgen.meshing import MeshingParameters

    def solve(
        shape: Any,
        size: float,
        near: tuple[float, float, float] | None,
        young: float,
        poisson: float,
        fixed: dict[str, str],
        load: Any,
        curve: int = 2,
        strain_alone: bool = False,
    ) -> Any:
        sizes = MeshingParameters(maxh=size, grading=0.35)
        if near is not None:
            sizes.RestrictH(near[0], near[1], 0.0, h=near[2])
        mesh = ng.Mesh(shape.GenerateMesh(mp=sizes))
        mesh.Curve(curve)
        across = {axis: "|".join(n for n, axes in fixed.items() if axis in axes) for axis in "xy"}
        space = ng.VectorH1(mesh, order=2, dirichletx=across["x"], dirichlety=across["y"])
        u, v = space.TnT()
        shear = young / 2 / (1 + poisson)
        # In plane strain it is Lame's own constant.
        factor = young * poisson / ((1 + poisson) * (1 - 2 * poisson) if strain_alone else 1 - poisson**2)

        def strain(w: Any) -> Any:
            return ng.Sym(ng.Grad(w))

        def stress(w: Any) -> Any:
            return 2 * shear * strain(w) + factor * ng.Trace(strain(w)) * ng.Id(2)

        stiffness = ng.BilinearForm(ng.InnerProduct(stress(u), strain(v)) * ng.dx).Assemble()
        force = ng.LinearForm(load(v)).Assemble()
        moved = ng.GridFunction(space)
        moved.vec.data = stiffness.mat.Inverse(space.FreeDofs()) * force.vec
        return mesh, moved, stress(moved)

    def write(name: str, solved: Any, points: list[tuple[str, str, tuple[float, float], float, float]], state: list[Any]) -> None:
        mesh, moved, stress = solved
        here = os.getcwd()
        os.chdir(folder)
        ng.VTKOutput(mesh, coefs=[moved, stress], names=["displacement", "stress"], filename=name, order=2).Do()
        os.chdir(here)
        at = {"displacement": {"x": lambda p: moved(p)[0], "y": lambda p: moved(p)[1]},
              "stress": {"xx": lambda p: stress(p)[0], "xy": lambda p: stress(p)[1], "yy": lambda p: stress(p)[3]}}  # fmt: skip
        keep(
            folder, f"{name}.vtu", writer="VTU, no nodes shared, tensors two by two, curved triangles", state=state,
            points=[{"kind": kind, "measure": measure, "at": [*place, 0.0], "solver": at[kind][measure](mesh(*place)),
                     "known": known, "within": within} for kind, measure, place, known, within in points],
        )  # fmt: skip

    plane = [{"model": "plane stress"}]
    # Elliptic membrane under outward pressure, the published benchmark LE1: 92.7 MPa at the inner end of the long axis.
    ring = SplineGeometry()
    inner = [ring.AppendPoint(*p) for p in ((2, 0), (2, 1), (0, 1))]
    outer = [ring.AppendPoint(*p) for p in ((3.25, 0), (3.25, 2.75), (0, 2.75))]
    ring.Append(["spline3", *inner], bc="hole", leftdomain=0, rightdomain=1)
    ring.Append(["spline3", *outer], bc="rim", leftdomain=1, rightdomain=0)
    ring.Append(["line", inner[0], outer[0]], bc="flat", leftdomain=1, rightdomain=0)
    ring.Append(["line", outer[2], inner[2]], bc="side", leftdomain=1, rightdomain=0)
    solved = solve(ring, 0.5, (2.0, 0.0, 0.1), 210e3, 0.3, {"flat": "y", "side": "x"},
                   lambda v: 10.0 * ng.InnerProduct(ng.specialcf.normal(2), v) * ng.ds("rim"), 3)  # fmt: skip
    write("membrane", solved, [("stress", "yy", (2.0, 0.0), 92.7, 0.02)], plane)
    # A small hole in a wide plate in tension: three times the far stress (Kirsch 1898).
    plate = SplineGeometry()
    hole = [plate.AppendPoint(*p) for p in ((1, 0), (1, 1), (0, 1))]
    corner = [plate.AppendPoint(*p) for p in ((24, 0), (24, 24), (0, 24))]
    plate.Append(["spline3", *hole], bc="hole", leftdomain=0, rightdomain=1, maxh=0.12)
    for a, b, name in ((hole[0], corner[0], "flat"), (corner[0], corner[1], "end"), (corner[1], corner[2], "top"),
                       (corner[2], hole[2], "side")):  # fmt: skip
        plate.Append(["line", a, b], bc=name, leftdomain=1, rightdomain=0)
    solved = solve(plate, 6.0, (0.0, 1.0, 0.12), 210e3, 0.3, {"flat": "y", "side": "x"}, lambda v: 100.0 * v[0] * ng.ds("end"), 3)
    write("hole", solved, [("stress", "xx", (0.0, 1.0), 300.0, 0.03), ("stress", "yy", (1.0, 0.0), -100.0, 0.05)], plane)
    # A thick cylinder under inner pressure p: p (b2 + a2) / (b2 - a2) around its bore (Lame 1852), in plane strain.
    wall = SplineGeometry()
    bore = [wall.AppendPoint(*p) for p in ((1, 0), (1, 1), (0, 1))]
    skin = [wall.AppendPoint(*p) for p in ((2, 0), (2, 2), (0, 2))]
    wall.Append(["spline3", *bore], bc="bore", leftdomain=0, rightdomain=1)
    wall.Append(["spline3", *skin], bc="skin", leftdomain=1, rightdomain=0)
    wall.Append(["line", bore[0], skin[0]], bc="flat", leftdomain=1, rightdomain=0)
    wall.Append(["line", skin[2], bore[2]], bc="side", leftdomain=1, rightdomain=0)
    solved = solve(wall, 0.3, (1.0, 0.0, 0.06), 210e3, 0.3, {"flat": "y", "side": "x"},
                   lambda v: 30.0 * (ng.x * v[0] + ng.y * v[1]) * ng.ds("bore"), 3, True)  # fmt: skip
    write("cylinder", solved, [("stress", "yy", (1.0, 0.0), 50.0, 0.02), ("stress", "xx", (1.0, 0.0), -30.0, 0.03),
                               ("stress", "yy", (2.0, 0.0), 20.0, 0.02)], [{"model": "plane strain"}])  # fmt: skip
    # The tapered panel of Cook (1974): the middle of the free end moves by 23.96 with E = 1, nu = 1/3, load 1 (from memory).
    panel = SplineGeometry()
    corners = [panel.AppendPoint(*p) for p in ((0, 0), (48, 44), (48, 60), (0, 44))]
    for a, b, name in ((0, 1, "low"), (1, 2, "end"), (2, 3, "high"), (3, 0, "root")):
        panel.Append(["line", corners[a], corners[b]], bc=name)
    solved = solve(panel, 7.0, None, 1.0, 1 / 3, {"root": "xy"}, lambda v: v[1] / 16 * ng.ds("end"), 1)
    write("panel", solved, [("displacement", "y", (48.0, 52.0), 23.96, 0.01)], plane)


def scikit_fem_modes(folder: Path, keep: Keep) -> None:
    """Modes of a slender cantilever, a numbered file each with nothing that says their frequency: it is stated."""
    import meshio
    import skfem.io.meshio
    from scipy.sparse.linalg import eigsh
    from skfem import Basis, BilinearForm, ElementHex2, ElementVector, MeshHex, condense
    from skfem.helpers import dot
    from skfem.models.elasticity import lame_parameters, linear_elasticity

    young, poisson, density, length, side = 210e9, 0.3, 7850.0, 1.0, 0.02
    mesh = MeshHex.init_tensor(np.linspace(0, length, 13), np.linspace(0, side, 2), np.linspace(0, 1.5 * side, 2))
    basis = Basis(mesh, ElementVector(ElementHex2()), intorder=4)
    stiffness = linear_elasticity(*lame_parameters(young, poisson)).assemble(basis)
    mass = BilinearForm(lambda u, v, w: density * dot(u, v)).assemble(basis)
    k, m, _, free = condense(stiffness, mass, D=basis.get_dofs(lambda p: np.isclose(p[0], 0)))
    values, shapes = eigsh(k.tocsc(), 4, m.tocsc(), sigma=0.0)
    frequency = np.sqrt(values) / 2 / np.pi
    places, cells = mesh.p, skfem.io.meshio.to_meshio(mesh).cells[0].data
    files, ends = [], []
    for number, shape in enumerate(shapes.T, start=1):
        whole = np.zeros(basis.N)
        whole[free] = shape
        nodal = whole[basis.nodal_dofs].T
        files.append(f"mode_{number}.vtu")
        meshio.Mesh(places.T, [("hexahedron", cells)], point_data={"displacement": nodal}).write(
            folder / files[-1], compression="zlib"
        )
        ends.append(float(np.abs(nodal[np.isclose(places[0], length)]).max()))
    # Euler and Bernoulli: beta L = 1.8751, 4.6941; bending about the thin and the thick way.
    radius = side * np.array([1.0, 1.5]) / np.sqrt(12)
    known = np.sort(np.outer([1.8751**2, 4.6941**2], radius).ravel()) * np.sqrt(young / density) / 2 / np.pi / length**2
    keep(
        folder, "mode_1.vtu", writer="meshio, a numbered file a mode", beside=files[1:], frequencies=frequency, known=known,
        within=0.02, largest=ends, state=[{"steps": "mode", "values": ", ".join(map(repr, frequency.tolist()))}],
    )  # fmt: skip


def felupe_cycles(folder: Path, keep: Keep) -> None:
    """A bar of steel pulled and pushed beyond yield by its end: a hysteresis, stress at the elements' means."""
    import felupe as fem

    mesh = fem.Cube(b=(10, 2, 2), n=(4, 2, 2))
    field = fem.FieldContainer([fem.Field(fem.RegionHexahedron(mesh), dim=3)])
    law = fem.LinearElasticPlasticIsotropicHardening(E=210e3, nu=0.3, sy=300.0, K=2000.0)
    body = fem.SolidBody(law, field)
    bounds = fem.dof.uniaxial(field, clamped=False, sym=True, move=0.0, return_loadcase=False)
    turns = [0.05, -0.05, 0.05, -0.05, 0.05]
    way = np.concatenate([[0.0], *(np.linspace(a, b, 9)[1:] for a, b in zip([0.0, *turns], turns, strict=False))])
    step = fem.Step([body], ramp={bounds["move"]: way}, boundaries=bounds)
    job = fem.CharacteristicCurve([step], boundary=bounds["move"])
    here = os.getcwd()
    os.chdir(folder)

    def stress(field: Any, **_: Any) -> Any:
        return np.stack([body.results.stress[0][i, j].mean(0) for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))], 1)

    def reaction(field: Any, **_: Any) -> Any:
        return body.assemble.vector(field).toarray().reshape(-1, 3)

    job.evaluate(filename="cycles.xdmf", verbose=0, cell_data={"stress": stress},
                 point_data={"reaction": reaction}, cell_data_default=False)  # fmt: skip
    os.chdir(here)
    x, force = np.array(job.x)[:, 0], np.array(job.y)[:, 0]
    # Eight steps between turns: the first whole cycle runs from the first pull to the second.
    energy = float(np.trapezoid(force[8:25], x[8:25]))
    keep(
        folder, "cycles.xdmf", writer="XDMF with HDF5, a cyclic load history", beside=["cycles.h5"], end=x, force=force,
        energy=energy, area=4.0, yields=300.0,
    )  # fmt: skip


def scikit_fem_plate(folder: Path, keep: Keep) -> None:
    """The thick elliptic plate under pressure, benchmark LE10: -5.38 MPa along y on top at the inner end of the long axis.

    Curved bricks of 27 nodes that share none, stress as computed at each, in single precision.
    """
    import meshio
    import skfem.io.meshio
    from scipy.spatial import cKDTree
    from skfem import Basis, ElementHex2, ElementVector, FacetBasis, LinearForm, MeshHex, MeshHex2, condense, solve
    from skfem.models.elasticity import lame_parameters, linear_elasticity

    straight = MeshHex2.from_mesh(
        MeshHex.init_tensor(np.linspace(0, 1, 6) ** 2.0, np.linspace(0, 1, 9) ** 1.8, np.linspace(0, 1, 3))
    )
    share, turn, height = straight.doflocs
    around = turn * np.pi / 2
    long, short = 2.0 + share * 1.25, 1.0 + share * 1.75
    mesh = MeshHex2(np.stack([long * np.cos(around), short * np.sin(around), 0.6 * height]), straight.t)
    element = ElementVector(ElementHex2())
    basis = Basis(mesh, element, intorder=5)
    lame, shear = lame_parameters(210e3, 0.3)
    top = FacetBasis(mesh, element, facets=mesh.facets_satisfying(lambda x: np.isclose(x[2], 0.6)), intorder=5)
    load = LinearForm(lambda v, w: -1.0 * v[2]).assemble(top)
    x, y, z = basis.doflocs
    component = np.zeros(basis.N, dtype=int)
    for k in range(3):
        component[basis.get_dofs(elements=True).all([f"u^{k + 1}"])] = k
    rim = np.isclose((x / 3.25) ** 2 + (y / 2.75) ** 2, 1)
    fixed = (rim & (component < 2)) | (rim & (component == 2) & np.isclose(z, 0.3))
    fixed |= (np.isclose(y, 0) & (component == 1)) | (np.isclose(x, 0) & (component == 0))
    moved = solve(*condense(linear_elasticity(lame, shear).assemble(basis), load, D=np.flatnonzero(fixed)))
    local = element.elem.doflocs.T
    there = Basis(mesh, element, quadrature=(local, np.ones(local.shape[1])))
    field = there.interpolate(moved)
    gradient = field.grad
    strain = (gradient + gradient.transpose(1, 0, 2, 3)) / 2
    stress = lame * np.trace(strain) * np.eye(3)[:, :, None, None] + 2 * shear * strain
    places = np.asarray(there.global_coordinates())
    written = skfem.io.meshio.to_meshio(mesh)
    rows, points = [], []
    for e, nodes in enumerate(written.cells[0].data):
        _, order = cKDTree(places[:, e].T).query(written.points[nodes])
        points.append(written.points[nodes])
        tensor = [stress[i, j, e, order] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))]
        rows.append(np.column_stack([np.asarray(field)[:, e, order].T, *tensor]))
    table = np.concatenate(rows).astype(np.float32)
    meshio.Mesh(
        np.concatenate(points), [("hexahedron27", np.arange(len(table)).reshape(-1, 27))],
        point_data={"displacement": table[:, :3], "stress": table[:, 3:]},
    ).write(folder / "plate.vtu", compression="zlib")  # fmt: skip
    at = np.concatenate(points)
    corner = int(np.argmin(np.linalg.norm(at - [2.0, 0.0, 0.6], axis=1)))
    keep(
        folder, "plate.vtu", writer="meshio, VTU, bricks of 27 nodes that share none", state=[],
        points=[{"kind": "stress", "measure": "yy", "at": [2.0, 0.0, 0.6], "solver": float(table[corner, 4]), "known": -5.38,
                 "within": 0.06}],
    )  # fmt: skip


def scikit_fem_sweep(folder: Path, keep: Keep) -> None:
    """A cantilever shaken at four frequencies, with structural damping: real and imaginary arrays in numbered files that do not say
    the frequency."""
    import meshio
    import skfem.io.meshio
    from scipy.sparse.linalg import spsolve
    from skfem import Basis, BilinearForm, ElementHex1, ElementVector, FacetBasis, LinearForm, MeshHex, condense
    from skfem.helpers import dot
    from skfem.models.elasticity import lame_parameters, linear_elasticity

    mesh = MeshHex.init_tensor(np.linspace(0, 1, 11), np.linspace(0, 0.05, 2), np.linspace(0, 0.05, 2))
    basis = Basis(mesh, ElementVector(ElementHex1()), intorder=4)
    stiffness = linear_elasticity(*lame_parameters(210e9, 0.3)).assemble(basis)
    mass = BilinearForm(lambda u, v, w: 7850.0 * dot(u, v)).assemble(basis)
    end = FacetBasis(mesh, basis.elem, facets=mesh.facets_satisfying(lambda x: np.isclose(x[0], 1)), intorder=4)
    load = LinearForm(lambda v, w: 1e4 * v[2]).assemble(end)
    frequencies, files, ends = [30.0, 60.0, 80.0, 120.0], [], []
    for number, frequency in enumerate(frequencies, start=1):
        k, f, _, free = condense(
            (1 + 0.05j) * stiffness - (2 * np.pi * frequency) ** 2 * mass, load.astype(complex),
            D=basis.get_dofs(lambda p: np.isclose(p[0], 0)),
        )  # fmt: skip
        whole = np.zeros(basis.N, dtype=complex)
        whole[free] = spsolve(k.tocsc(), f)
        nodal = whole[basis.nodal_dofs].T
        files.append(f"sweep_{number}.vtu")
        meshio.Mesh(
            mesh.p.T, [("hexahedron", skfem.io.meshio.to_meshio(mesh).cells[0].data)],
            point_data={"real_displacement": nodal.real.copy(), "imag_displacement": nodal.imag.copy()},
        ).write(folder / files[-1], compression="zlib")  # fmt: skip
        tip = nodal[np.isclose(mesh.p[0], 1), 2].mean()
        ends.append([float(tip.real), float(tip.imag)])
    keep(
        folder, "sweep_1.vtu", writer="meshio, real and imaginary arrays, a numbered file a frequency", beside=files[1:],
        sweep=frequencies, complex_end=ends, state=[{"steps": "frequency", "values": ", ".join(map(str, frequencies))}],
    )  # fmt: skip


def scikit_fem_more(folder: Path, keep: Keep) -> None:
    for problem in (scikit_fem_modes, scikit_fem_plate, scikit_fem_sweep):
        problem(folder, keep)
