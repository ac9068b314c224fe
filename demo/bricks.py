"""Elastic bodies of 20-node bricks: nodes, stiffness and mass by scikit-fem, and what brings stress to the corners.

Stress is taken at 2 x 2 x 2 Gauss points, where it is most accurate, and brought to the corners by the trilinear functions through
them.
"""

from __future__ import annotations

from functools import cached_property

import numpy as np
import skfem
from scipy.sparse import csr_matrix
from skfem.helpers import ddot, dot, sym_grad, trace

from demo.flexure import HEX20

# The nodes of a brick with its upper face first.
UPSIDE_DOWN = [4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11, 16, 17, 18, 19]


class Bricks:
    """A body on a mesh of hexahedra. young, poisson, density: of each element.

    nodes (n, 3); connectivity (e, 20) in the order of result files; dofs (n, 3): degrees of freedom of each node.
    """

    def __init__(self, mesh: skfem.MeshHex, young: np.ndarray, poisson: np.ndarray, density: np.ndarray | None = None) -> None:
        self.basis = skfem.CellBasis(mesh, skfem.ElementVector(skfem.ElementHexS2()), intorder=5)
        scalar = self.basis.with_element(skfem.ElementHexS2())
        # Right-handed, as result files have it, whichever way round the mesh's own elements run.
        turned = bool((self.basis.mapping.detDF(self.basis.quadrature[0]) < 0).any())
        self.corners = HEX20[UPSIDE_DOWN] if turned else HEX20
        local = [int(np.flatnonzero((np.abs(skfem.ElementHexS2().doflocs - xi) < 1e-9).all(1))[0]) for xi in self.corners]
        self.nodes = scalar.doflocs.T.copy()
        self.connectivity = scalar.element_dofs.T[:, local]
        self.lame = young * poisson / ((1 + poisson) * (1 - 2 * poisson))
        self.shear = young / (2 * (1 + poisson))
        self.density = density
        self.stiffness = _stiffness.assemble(self.basis, lame=self.lame[:, None], shear=self.shear[:, None]).tocsr()
        self.dofs = self._vector_dofs()

    @cached_property
    def mass(self) -> csr_matrix:
        """Consistent mass of all degrees of freedom."""
        assert self.density is not None
        return _mass.assemble(self.basis, density=self.density[:, None]).tocsr()

    def _vector_dofs(self) -> np.ndarray:
        """Degrees of freedom of each node, (nodes, 3)."""
        result = np.full((len(self.nodes), 3), -1)
        places = self.basis.doflocs.T
        scalar = {tuple(np.round(p, 6)): i for i, p in enumerate(self.nodes)}
        seen = np.zeros(len(self.nodes), dtype=int)
        for dof, place in enumerate(places):
            node = scalar[tuple(np.round(place, 6))]
            result[node, seen[node]] = dof
            seen[node] += 1
        return result

    def stress(self, u: np.ndarray) -> np.ndarray:
        """Stress at the corners (e, 20, 6) of displacements of all degrees of freedom."""
        line = (np.polynomial.legendre.leggauss(2)[0] + 1) / 2
        gauss = np.stack(np.meshgrid(line, line, line, indexing="ij"), -1).reshape(-1, 3)
        points = skfem.CellBasis(self.basis.mesh, self.basis.elem, quadrature=(gauss.T, np.ones(8)))
        gradient = points.interpolate(u).grad
        strain = (gradient + gradient.swapaxes(0, 1)) / 2
        full = 2 * self.shear[:, None] * strain
        pressure = self.lame[:, None] * (strain[0, 0] + strain[1, 1] + strain[2, 2])
        for i in range(3):
            full[i, i] += pressure
        stress = np.stack([full[i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))], -1)

        def trilinear(x: np.ndarray) -> np.ndarray:
            return np.stack([np.prod(x**power, axis=1) for power in np.ndindex(2, 2, 2)], axis=1)

        return np.einsum("ng,egc->enc", trilinear(self.corners) @ np.linalg.inv(trilinear(gauss)), stress)


@skfem.BilinearForm
def _stiffness(u, v, w):
    strain = sym_grad(u)
    return 2 * w.shear * ddot(strain, sym_grad(v)) + w.lame * trace(strain) * trace(sym_grad(v))


@skfem.BilinearForm
def _mass(u, v, w):
    return w.density * dot(u, v)
