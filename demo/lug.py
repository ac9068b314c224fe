"""The clevis lug: one steel cheek with a bronze bushing bonded into its eye, pulled by the rope while the rope swings.

Quadratic serendipity hexahedra, linear elasticity, a coarse, a medium and a fine mesh. The pin presses on the half of the bushing
that faces the rope, with the cosine of the angle from the rope's direction. Stress is taken at 2 x 2 x 2 Gauss points and brought
to the corners. Units: mm, N, s, MPa. Lug, materials and load are invented. Run ``python -m demo.lug`` to solve it again.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import skfem
from scipy.sparse.linalg import splu

from demo.bricks import Bricks
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
MEDIUM = Division(round=32, bushing=1, rim=3, thickness=2, shank=4)
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


class Model(Bricks):
    """The lug, held at the end of its shank: mesh, stiffness and what brings stress to the corners."""

    def __init__(self, division: Division) -> None:
        mesh, self.bronze = _mesh(division)
        young, poisson = (np.where(self.bronze, b, s) for s, b in zip(STEEL, BRONZE, strict=True))
        super().__init__(mesh, young, poisson)
        self.held = np.abs(self.nodes[:, 0] + LENGTH) < 1e-6
        self.fixed = self.dofs[self.held].ravel()
        self.free = np.setdiff1d(np.arange(self.basis.N), self.fixed)
        self.factor = splu(self.stiffness[self.free][:, self.free].tocsc())
        self.bore = skfem.FacetBasis(
            mesh,
            self.basis.elem,
            facets=mesh.facets_satisfying(lambda x: np.hypot(x[0], x[1]) < BORE + 0.1, boundaries_only=True),
            intorder=5,
        )

    def solve(self, direction: float) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """Displacement, reaction and applied force at the nodes (n, 3), stress at the corners (e, 20, 6) for one direction."""
        peak = PULL / (BORE * THICKNESS * np.pi / 2)
        load = _pin.assemble(self.bore, peak=peak, direction=direction)
        u = np.zeros(self.basis.N)
        u[self.free] = self.factor.solve(load[self.free])
        reaction = self.stiffness @ u - load
        reaction[self.free] = 0.0
        return u[self.dofs], reaction[self.dofs], load[self.dofs], self.stress(u)


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
    for name, division in (("coarse", COARSE), ("medium", MEDIUM), ("fine", FINE)):
        print(name, write(name, division))
