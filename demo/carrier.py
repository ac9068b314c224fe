"""A carrier of the ropeway that runs against its buffer at the end of the line, and comes back slower.

A steel block moves freely along x against a block of rubber that is held at its back: 20-node bricks, linear, small strain. The
two are pressed apart where they touch, by a stiff spring at each pair of nodes; the rubber's damping is by its stiffness. Newmark's
rule (average acceleration), the contact as it is at the step before. Units: mm, N, s, t, MPa. All of it is invented. Run ``python
-m demo.carrier`` to solve it again.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import skfem
from scipy.sparse.linalg import splu

from demo.bricks import Bricks
from demo.xdmf import write_motion

DATA = Path(__file__).parent / "data" / "carrier"
STEEL, RUBBER = (210_000.0, 0.30, 7.85e-9), (40.0, 0.40, 1.2e-9)
# How far apart they are at first and how fast the carrier comes, in mm and mm/s; seconds the rubber's damping is of its stiffness.
GAP, SPEED, DAMPING = 4.0, 1500.0, 7e-4
# The springs of the contact, in N/mm for each mm² of it.
CONTACT = 8.0
STEP, EVERY, STEPS = 2e-5, 10, 1500


class Carrier(Bricks):
    """The carrier (part 0) and its buffer (part 1)."""

    def __init__(self) -> None:
        across = np.array([-40.0, -40.0 / 3, 40.0 / 3, 40.0])
        wide = np.concatenate([[-60.0], across, [60.0]])
        carrier = skfem.MeshHex.init_tensor(np.array([0.0, 30.0, 90.0, 150.0, 200.0]), wide, wide)
        buffer = skfem.MeshHex.init_tensor(np.array([-100.0, -75.0, -50.0, -25.0, 0.0]) - GAP, across, across)
        mesh = skfem.MeshHex(np.hstack([carrier.p, buffer.p]), np.hstack([carrier.t, buffer.t + carrier.p.shape[1]]))
        self.part = np.r_[np.zeros(carrier.nelements, dtype=int), np.ones(buffer.nelements, dtype=int)]
        young, poisson, density = (np.where(self.part == 0, a, b) for a, b in zip(STEEL, RUBBER, strict=True))
        super().__init__(mesh, young, poisson, density)
        x, y, z = self.nodes.T
        self.moving = x >= 0.0
        inner = (np.abs(y) <= 40.0) & (np.abs(z) <= 40.0)
        self.front, self.facing = (x == 0.0) & inner, np.isclose(x, -GAP)
        self.held = np.isclose(x, -100.0 - GAP)
        # That of the rubber alone.
        self.damping = DAMPING * Bricks(mesh, np.where(self.part == 1, young, 0.0), poisson).stiffness

    def pairs(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Nodes of the carrier's face (k,) and of the buffer's (k,) that face each other, and the area of each pair (k,)."""

        def along(face: np.ndarray) -> np.ndarray:
            found = np.flatnonzero(face)
            return found[np.lexsort(np.round(self.nodes[found][:, 1:].T, 6))]

        mine, theirs = along(self.front), along(self.facing)
        assert np.allclose(self.nodes[mine, 1:], self.nodes[theirs, 1:])
        # A middle of a side counts four times a corner.
        side = np.round((self.nodes[mine, 1:] + 40.0) / (40.0 / 3), 6)
        weight = np.where((side % 2 == 1).any(1), 4.0, 1.0)
        return mine, theirs, 80.0 * 80.0 * weight / weight.sum()


def run(body: Carrier) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Times (s,), displacement, velocity and contact force of the nodes, (s, n, 3) each."""
    free = np.setdiff1d(np.arange(body.basis.N), body.dofs[body.held].ravel())
    k, m, c = (matrix[free][:, free].tocsc() for matrix in (body.stiffness, body.mass, body.damping))
    solver = splu((m + 0.5 * STEP * c + 0.25 * STEP**2 * k).tocsc())
    mine, theirs, area = body.pairs()
    u, v, a = (np.zeros(body.basis.N) for _ in range(3))
    v[body.dofs[body.moving, 0]] = -SPEED
    times, kept = [], []
    for i in range(STEPS + 1):
        pressed = np.clip(u[body.dofs[theirs, 0]] - u[body.dofs[mine, 0]] - GAP, 0.0, None)
        force = np.zeros(body.basis.N)
        force[body.dofs[mine, 0]], force[body.dofs[theirs, 0]] = CONTACT * area * pressed, -CONTACT * area * pressed
        if i % EVERY == 0:
            times.append(i * STEP)
            kept.append(np.stack([u[body.dofs], v[body.dofs], force[body.dofs]]))
        ahead, fast = (u + STEP * v + 0.25 * STEP**2 * a)[free], (v + 0.5 * STEP * a)[free]
        a[free] = solver.solve(force[free] - c @ fast - k @ ahead)
        u[free], v[free] = ahead + 0.25 * STEP**2 * a[free], fast + 0.5 * STEP * a[free]
    moved, fast, pushed = np.stack(kept).swapaxes(0, 1)
    return np.array(times), moved, fast, pushed


def main() -> None:
    """Solve and write the run against the buffer."""
    DATA.mkdir(parents=True, exist_ok=True)
    body = Carrier()
    times, moved, fast, pushed = run(body)
    sets = {"front": body.front, "carrier": body.moving, "held": body.held}
    write_motion(DATA / "carrier", body, body.part, times, {"displacement": moved, "velocity": fast, "force": pushed}, sets)
    speed = fast[:, body.moving, 0].mean(1)
    print(f"comes at {speed[0]:.0f} mm/s, leaves at {speed[-1]:.0f}; pushed by up to {pushed[:, body.front, 0].sum(1).max():.0f} N")


if __name__ == "__main__":
    main()
