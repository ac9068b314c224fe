"""Planar models solved with scikit-fem: nine-node quadrilaterals on a mapped unit square, written as VTU, elements apart."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import skfem
from skfem.helpers import dot, grad

from tests.writing import write_vtu

Map = Callable[[np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray]]
NATURAL = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0.5, 0], [1, 0.5], [0.5, 1], [0, 0.5], [0.5, 0.5]])
EDGES = {"left": lambda r, s: np.abs(r) < 1e-9, "right": lambda r, s: np.abs(r - 1) < 1e-9,
         "bottom": lambda r, s: np.abs(s) < 1e-9, "top": lambda r, s: np.abs(s - 1) < 1e-9}  # fmt: skip


@dataclass
class Plane:
    """kind: 'plane stress', 'plane strain' or 'axisymmetric' (x the radius)."""

    kind: str
    young: float
    poisson: float
    thickness: float = 1.0

    def stress(self, g: np.ndarray, u: np.ndarray, x: np.ndarray) -> np.ndarray:
        """Components xx, yy, zz, xy of a displacement gradient (2, 2, ...), displacement and place (2, ...)."""
        lam = self.young * self.poisson / (1 + self.poisson) / (1 - 2 * self.poisson)
        mu = self.young / 2 / (1 + self.poisson)
        across = u[0] / np.maximum(x[0], 1e-30) if self.kind == "axisymmetric" else 0 * g[0, 0]
        if self.kind == "plane stress":
            across = -self.poisson / (1 - self.poisson) * (g[0, 0] + g[1, 1])
        spread = lam * (g[0, 0] + g[1, 1] + across)
        return np.stack([spread + 2 * mu * g[0, 0], spread + 2 * mu * g[1, 1], spread + 2 * mu * across, mu * (g[0, 1] + g[1, 0])])

    def around(self, x: np.ndarray) -> np.ndarray:
        return 2 * np.pi * x[0] if self.kind == "axisymmetric" else self.thickness + 0 * x[0]

    def write(
        self,
        path: Path,
        shape: Map,
        pieces: tuple[int, int],
        held: Callable[[np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray]],
        push: dict[str, Callable[[np.ndarray, np.ndarray], np.ndarray]],
        with_forces: bool = True,
    ) -> np.ndarray:
        """Solve and write. held: which of u_x, u_y are zero at (x, y); push: traction (2, ...) on edges from place and normal.

        Returns the nodes' places (n, 2).
        """
        flat = skfem.MeshQuad2.from_mesh(skfem.MeshQuad.init_tensor(*(np.linspace(0, 1, n + 1) for n in pieces)))
        mesh = skfem.MeshQuad2(np.stack(shape(*flat.doflocs)), flat.t)
        element = skfem.ElementVector(skfem.ElementQuad2())
        basis = skfem.CellBasis(mesh, element, intorder=6)

        @skfem.BilinearForm
        def stiffness(u, v, w):  # type: ignore[no-untyped-def]
            s = self.stress(grad(u), np.asarray(u), w.x)
            work = s[0] * grad(v)[0, 0] + s[1] * grad(v)[1, 1] + s[3] * (grad(v)[0, 1] + grad(v)[1, 0])
            if self.kind == "axisymmetric":
                work = work + s[2] * v[0] / w.x[0]
            return work * self.around(w.x)

        load = np.zeros(basis.N)
        for edge, traction in push.items():

            @skfem.LinearForm
            def pull(v, w, traction=traction):  # type: ignore[no-untyped-def]
                return dot(traction(w.x, w.n), v) * self.around(w.x)

            facets = flat.facets_satisfying(lambda p, edge=edge: EDGES[edge](*p))
            load += pull.assemble(skfem.FacetBasis(mesh, element, facets=facets, intorder=6))
        matrix = stiffness.assemble(basis)
        component = np.zeros(basis.N, dtype=int)
        component[basis.get_dofs(elements=True).all("u^2")] = 1
        masks = held(*basis.doflocs)
        fixed = np.flatnonzero((masks[0] & (component == 0)) | (masks[1] & (component == 1)))
        u = skfem.solve(*skfem.condense(matrix, load, D=fixed))
        left = matrix @ u - load
        scalar = skfem.CellBasis(mesh, skfem.ElementQuad2(), intorder=6)
        order = [int(np.flatnonzero((np.abs(skfem.ElementQuad2().doflocs - xi) < 1e-9).all(1))[0]) for xi in NATURAL]
        corners = scalar.element_dofs.T[:, order]
        nodes = scalar.doflocs.T
        place = {tuple(np.round(p, 9)): i for i, p in enumerate(nodes)}
        vectors = np.zeros((3, len(nodes), 3))
        for dof, where in enumerate(basis.doflocs.T):
            node = place[tuple(np.round(where, 9))]
            vectors[:, node, component[dof]] = u[dof], left[dof], load[dof]
        at = skfem.CellBasis(mesh, element, quadrature=(NATURAL.T, np.ones(9)))
        field = at.interpolate(u)
        s = self.stress(np.asarray(field.grad), np.asarray(field), np.asarray(at.global_coordinates()))
        stress = np.concatenate([s, 0 * s[:2]]).transpose(1, 2, 0).reshape(-1, 6)
        raw = corners.ravel()
        data = {"stress": stress, "displacement": vectors[0][raw], "GlobalIds": raw + 1}
        if with_forces:
            data |= {"reaction": vectors[1][raw], "load": vectors[2][raw]}
        cells = [(28, list(range(9 * e, 9 * e + 9))) for e in range(len(corners))]
        write_vtu(
            path,
            np.column_stack([nodes, np.zeros(len(nodes))])[raw],
            cells,
            data,
            components={"stress": ("xx", "yy", "zz", "xy", "yz", "xz")},
        )
        return nodes
