"""The clevis lug: one steel cheek with a bronze bushing bonded into its eye, pulled by the rope while the rope swings.

Quadratic serendipity hexahedra, linear elasticity, a coarse and a fine mesh. The pin presses on the half of the bushing that
faces the rope, with the cosine of the angle from the rope's direction. Stress is taken at 2 x 2 x 2 Gauss points and brought to
the corners. Units: mm, N, s, MPa. Lug, materials and load are invented. Run ``python -m demo.lug`` to solve it again.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import skfem
from scipy.sparse.linalg import splu
from skfem.helpers import ddot, sym_grad, trace

from demo.flexure import HEX20, straighten_inner_nodes
from demo.vtu import write_unshared

DATA = Path(__file__).parent / "data" / "lug"
BORE, BOND, EYE, LENGTH, THICKNESS = 20.0, 25.0, 42.0, 120.0, 24.0
STEEL, BRONZE = (210_000.0, 0.30), (105_000.0, 0.34)
PULL, SWING, PERIOD = 60_000.0, np.radians(25.0), 4.0
TIMES = np.arange(9) * PERIOD / 8


@dataclass(frozen=True)
class Division:
    """Elements round the eye (a multiple of 8), through the bushing, from bond to rim, through the thickness, along the shank."""

    round: int
    bushing: int
    rim: int
    thickness: int
    shank: int


COARSE = Division(round=24, bushing=1, rim=2, thickness=2, shank=3)
FINE = Division(round=48, bushing=2, rim=4, thickness=3, shank=6)


def contour(angle: np.ndarray) -> np.ndarray:
    """The lug's outline as seen from the eye's centre, (2, n): a half circle towards the rope, a square towards the shank."""
    cos, sin = np.cos(angle), np.sin(angle)
    reach = np.where(cos >= -1e-12, 1.0, 1.0 / np.maximum(np.abs(cos), np.abs(sin)))
    return EYE * reach * np.stack([cos, sin])


def position(angle: np.ndarray, shell: np.ndarray) -> np.ndarray:
    """Points of the eye, (2, n): ``shell`` 0 at the bore, 1 at the bond, 2 at the outline."""
    ring = np.stack([np.cos(angle), np.sin(angle)])
    inner = (BORE + (BOND - BORE) * np.minimum(shell, 1.0)) * ring
    share = np.clip(shell - 1.0, 0.0, 1.0)
    return np.where(shell <= 1.0, inner, (1.0 - share) * BOND * ring + share * contour(angle))


class Model:
    """Mesh, stiffness and what brings stress to the corners."""

    def __init__(self, division: Division) -> None:
        mesh, self.bronze = _mesh(division)
        element = skfem.ElementVector(skfem.ElementHexS2())
        self.basis = skfem.CellBasis(mesh, element, intorder=5)
        scalar = self.basis.with_element(skfem.ElementHexS2())
        local = [int(np.flatnonzero((np.abs(skfem.ElementHexS2().doflocs - xi) < 1e-9).all(1))[0]) for xi in HEX20]
        self.nodes = scalar.doflocs.T.copy()
        self.connectivity = scalar.element_dofs.T[:, local]
        young, poisson = (np.where(self.bronze, b, s) for s, b in zip(STEEL, BRONZE, strict=True))
        self.lame = young * poisson / ((1 + poisson) * (1 - 2 * poisson))
        self.shear = young / (2 * (1 + poisson))
        stiffness = _stiffness.assemble(self.basis, lame=self.lame[:, None], shear=self.shear[:, None])
        self.held = np.abs(self.nodes[:, 0] + LENGTH) < 1e-6
        dofs = self._vector_dofs()
        self.fixed = dofs[self.held].ravel()
        self.free = np.setdiff1d(np.arange(self.basis.N), self.fixed)
        self.stiffness = stiffness.tocsr()
        self.factor = splu(self.stiffness[self.free][:, self.free].tocsc())
        self.dofs = dofs
        self.bore = skfem.FacetBasis(
            mesh,
            element,
            facets=mesh.facets_satisfying(lambda x: np.hypot(x[0], x[1]) < BORE + 0.1, boundaries_only=True),
            intorder=5,
        )

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

    def solve(self, direction: float) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """Displacement, reaction and applied force at the nodes (n, 3), stress at the corners (e, 20, 6) for one direction."""
        peak = PULL / (BORE * THICKNESS * np.pi / 2)
        load = _pin.assemble(self.bore, peak=peak, direction=direction)
        u = np.zeros(self.basis.N)
        u[self.free] = self.factor.solve(load[self.free])
        reaction = self.stiffness @ u - load
        reaction[self.free] = 0.0
        return u[self.dofs], reaction[self.dofs], load[self.dofs], self._stress(u)

    def _stress(self, u: np.ndarray) -> np.ndarray:
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

        return np.einsum("ng,egc->enc", trilinear(HEX20) @ np.linalg.inv(trilinear(gauss)), stress)


@skfem.BilinearForm
def _stiffness(u, v, w):
    strain = sym_grad(u)
    return 2 * w.shear * ddot(strain, sym_grad(v)) + w.lame * trace(strain) * trace(sym_grad(v))


@skfem.LinearForm
def _pin(v, w):
    """Pressure on the bore, with the cosine of the angle from the rope's direction, on the half that faces it."""
    angle = np.arctan2(w.x[1], w.x[0])
    pressure = w.peak * np.maximum(np.cos(angle - w.direction), 0.0)
    return pressure * (np.cos(angle) * v[0] + np.sin(angle) * v[1])


def _mesh(division: Division) -> tuple[skfem.MeshHex2, np.ndarray]:
    """The lug's mesh and which of its elements are bronze."""
    n = division.round
    shells = np.concatenate([np.linspace(0, 1, division.bushing + 1), 1 + np.linspace(0, 1, division.rim + 1)[1:]])
    heights = np.linspace(-THICKNESS / 2, THICKNESS / 2, division.thickness + 1)
    angles = -np.pi + 2 * np.pi * np.arange(n) / n
    rings = [r * n + np.arange(n) for r in range(len(shells))]
    flat = np.concatenate([position(angles, np.full(n, s)).T for s in shells])
    quads = [
        np.stack([inner, outer, np.roll(outer, -1), np.roll(inner, -1)], axis=1)
        for inner, outer in zip(rings, rings[1:], strict=False)
    ]
    # The square's side towards the shank runs from 135 to 225 degrees, and the shank carries on from there.
    side = rings[-1][(np.arange(n // 4 + 1) - n // 8) % n]
    column = side
    for x in np.linspace(-EYE, -LENGTH, division.shank + 1)[1:]:
        fresh = len(flat) + np.arange(len(side))
        flat = np.concatenate([flat, np.stack([np.full(len(side), x), flat[side, 1]], axis=1)])
        quads.append(np.stack([fresh[:-1], fresh[1:], column[1:], column[:-1]], axis=1))
        column = fresh
    plane = np.concatenate(quads)
    if _areas(flat, plane).min() <= 0.0:
        raise RuntimeError("inverted element in the lug mesh")
    count = len(flat)
    points = np.concatenate([np.column_stack([flat, np.full(count, z)]) for z in heights])
    hexes = np.concatenate([np.hstack([plane + k * count, plane + (k + 1) * count]) for k in range(division.thickness)])
    order = [int(np.flatnonzero((HEX20[:8] == c).all(1))[0]) for c in np.asarray(skfem.ElementHex1().doflocs)]
    mesh = skfem.MeshHex2.from_mesh(skfem.MeshHex(points.T, hexes[:, order].T))
    eye = n * (len(shells) - 1)
    _curve(mesh, len(plane), eye, angles, shells)
    bronze = np.tile(np.arange(len(plane)) < division.bushing * n, division.thickness)
    return mesh, bronze


def _areas(points: np.ndarray, quads: np.ndarray) -> np.ndarray:
    a, b, c, d = (points[quads[:, i]] for i in range(4))
    first, second = c - a, d - b
    return first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]


def _curve(mesh: skfem.MeshHex2, a_layer: int, eye: int, angles: np.ndarray, shells: np.ndarray) -> None:
    """Put the nodes between the corners of the eye's elements on the circles and the outline."""
    nodes = np.asarray(mesh.dofs.element_dofs)
    local = np.asarray(skfem.ElementHex2().doflocs)
    n = len(angles)
    elements = np.flatnonzero(np.arange(nodes.shape[1]) % a_layer < eye)
    within = elements % a_layer
    ring, sector = within // n, within % n
    for index, (radial, around, _) in enumerate(local):
        shell = shells[ring] + radial * (shells[ring + 1] - shells[ring])
        angle = angles[sector] + around * (angles[1] - angles[0])
        mesh.doflocs[:2, nodes[index, elements]] = position(angle, shell)
    straighten_inner_nodes(mesh, mesh.doflocs)


def write(name: str, division: Division) -> dict[str, float]:
    """Solve one mesh for every direction of the rope and write its files; returns the balance and the figures at the bond."""
    model = Model(division)
    DATA.mkdir(parents=True, exist_ok=True)
    worst = 0.0
    for step, time in enumerate(TIMES):
        direction = SWING * np.sin(2 * np.pi * time / PERIOD)
        moved, reaction, load, stress = model.solve(direction)
        worst = max(worst, float(np.abs(reaction.sum(0) + load.sum(0)).max()) / PULL)
        bore = np.abs(np.hypot(model.nodes[:, 0], model.nodes[:, 1]) - BORE) < 1e-6
        write_unshared(
            DATA / f"lug_{name}_{step}.vtu",
            float(time),
            model.nodes,
            model.connectivity,
            {
                "displacement": moved,
                "reaction": reaction,
                "applied_force": load,
                "held": model.held.astype(np.uint8),
                "bore": bore.astype(np.uint8),
            },
            {"stress": stress},
            {
                "part": np.where(model.bronze, 2, 1).astype(np.int32),
                "material": np.where(model.bronze, 2, 1).astype(np.int32),
            },
        )
    return {"nodes": len(model.nodes), "elements": len(model.connectivity), "imbalance": worst}


if __name__ == "__main__":
    for name, division in (("coarse", COARSE), ("fine", FINE)):
        print(name, write(name, division))
