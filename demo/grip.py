"""The rope grip's jaw pressed onto its shoe, by two ways of holding contact, each with a coarse and a fine jaw.

A slice in plane strain: the jaw's rounded nose above, the flat shoe below, no friction, linear quadrilaterals, small displacements.
*One-sided* keeps the jaw's nodes out of the shoe's sides and nothing else: nodes of the shoe sink in between those of a coarse jaw.
*Two-sided* keeps the nodes of each out of the sides of the other, by a stiff spring at each. Either looks for who touches anew
until that changes no more. Grip, push and steel are invented. Run ``python -m demo.grip`` to solve it again.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import skfem
from scipy.sparse import block_diag, bmat, csr_matrix
from scipy.sparse.linalg import splu
from skfem.helpers import ddot, sym_grad, trace

from demo.vtu import write_unshared

DATA = Path(__file__).parent / "data" / "grip"
YOUNG, POISSON, THICKNESS, RADIUS = 210_000.0, 0.30, 20.0, 150.0
JAW, SHOE = (12.0, 14.0), (16.0, 16.0)  # half the width, and the height
PUSHES = (0.01, 0.02, 0.03, 0.04)
# Stiffness of a spring of the two-sided way, as a multiple of Young's modulus.
SPRING = 400.0
# Size of the elements in the middle of the contact: of the jaw, of the shoe.
MESHES = {"coarse": (1.5, 0.3), "fine": (0.3, 0.3)}
WAYS = ("one-sided", "two-sided")


def graded(length: float, size: float, growth: float = 1.18) -> np.ndarray:
    """Places from 0 to a length, the first so far apart, each next gap a little wider."""
    gaps = [size]
    while sum(gaps) < length:
        gaps.append(gaps[-1] * growth)
    places = np.cumsum([0.0, *gaps])
    return places * length / places[-1]


@dataclass
class Body:
    """A rectangle of quadrilaterals: nodes (n, 2), elements (e, 4), stiffness, and the nodes of its contact side in order of x."""

    nodes: np.ndarray
    elements: np.ndarray
    stiffness: csr_matrix
    side: np.ndarray
    far: np.ndarray


@skfem.BilinearForm
def elastic(u, v, w):
    strain = sym_grad(u)
    shear = YOUNG / (2 * (1 + POISSON))
    lame = YOUNG * POISSON / ((1 + POISSON) * (1 - 2 * POISSON))
    return THICKNESS * (2 * shear * ddot(strain, sym_grad(v)) + lame * trace(strain) * trace(sym_grad(v)))


def body(half: float, height: float, size: float, radius: float | None) -> Body:
    """The jaw with a rounded nose (above), or the shoe without (below)."""
    right = graded(half, size)
    x = np.concatenate([-right[:0:-1], right])
    up = graded(height, size)
    mesh = skfem.MeshQuad.init_tensor(x, up if radius else -up[::-1])
    p = mesh.p.copy()
    side = np.flatnonzero(p[1] == 0.0)
    if radius:
        nose = radius - np.sqrt(radius**2 - p[0] ** 2)
        p[1] = nose + (height - nose) * p[1] / height
    mesh = skfem.MeshQuad(p, mesh.t)
    basis = skfem.Basis(mesh, skfem.ElementVector(skfem.ElementQuad1()), intorder=3)
    order = np.argsort(basis.nodal_dofs.ravel("F"))
    assert (basis.nodal_dofs.ravel("F")[order] == np.arange(basis.N)).all()
    stiffness = elastic.assemble(basis).tocsr()
    numbers = basis.nodal_dofs.T.ravel()
    far = np.flatnonzero(np.isclose(p[1], height if radius else -height))
    return Body(p.T.copy(), mesh.t.T.copy(), stiffness[numbers][:, numbers], side[np.argsort(p[0, side])], far)


def gaps(of: Body, into: Body, sign: float, start: tuple[int, int], count: int) -> tuple[csr_matrix, np.ndarray, np.ndarray]:
    """Of the nodes on one side above (sign 1) or below (-1) the other's: the gap as rows over all displacements, as it is at first,
    and the node among those of both bodies. Nodes beside the other have none."""
    x, edge = of.nodes[of.side, 0], into.nodes[into.side]
    inside = (x >= edge[0, 0]) & (x <= edge[-1, 0])
    nodes, x = of.side[inside], x[inside]
    k = np.clip(np.searchsorted(edge[:, 0], x) - 1, 0, len(edge) - 2)
    share = (x - edge[k, 0]) / (edge[k + 1, 0] - edge[k, 0])
    rows = np.tile(np.arange(len(nodes)), 3)
    columns = np.concatenate([start[0] + 2 * nodes + 1, start[1] + 2 * into.side[k] + 1, start[1] + 2 * into.side[k + 1] + 1])
    weights = sign * np.concatenate([np.ones(len(nodes)), share - 1, -share])
    first = sign * (of.nodes[nodes, 1] - (1 - share) * edge[k, 1] - share * edge[k + 1, 1])
    return csr_matrix((weights, (rows, columns)), shape=(len(nodes), count)), first, start[0] // 2 + nodes


@dataclass
class State:
    """moved: (2 x nodes,). force: of each gap that is pressed. turns: how often who touches was looked for."""

    moved: np.ndarray
    force: np.ndarray
    turns: int


class Grip:
    """Both bodies with one way of holding contact."""

    def __init__(self, jaw_size: float, shoe_size: float, two_sided: bool) -> None:
        self.jaw, self.shoe = body(*JAW, jaw_size, RADIUS), body(*SHOE, shoe_size, None)
        self.stiffness = block_diag([self.jaw.stiffness, self.shoe.stiffness]).tocsr()
        self.count, cut = self.stiffness.shape[0], 2 * len(self.jaw.nodes)
        rows, first, owner = gaps(self.jaw, self.shoe, 1.0, (0, cut), self.count)
        if two_sided:
            more, more_first, more_owner = gaps(self.shoe, self.jaw, -1.0, (cut, 0), self.count)
            rows, first = bmat([[rows], [more]]).tocsr(), np.concatenate([first, more_first])
            owner = np.concatenate([owner, more_owner])
        self.rows, self.first, self.owner, self.two_sided = rows, first, owner, two_sided
        self.pushed = 2 * self.jaw.far + 1
        self.still = np.concatenate([2 * self.jaw.far, cut + 2 * self.shoe.far, cut + 2 * self.shoe.far + 1])
        self.free = np.setdiff1d(np.arange(self.count), np.concatenate([self.pushed, self.still]))
        self.nodes = np.concatenate([self.jaw.nodes, self.shoe.nodes])

    def push(self, down: float, touching: np.ndarray) -> tuple[State, np.ndarray]:
        """Equilibrium with the jaw's back pushed down; ``touching`` says where to begin to look for who touches."""
        given = np.zeros(self.count)
        given[self.pushed] = -down
        for turn in range(1, 60):
            moved, force = self._held(given, np.flatnonzero(touching))
            gap = self.first + self.rows @ moved
            pressed = np.zeros(len(gap))
            pressed[touching] = force
            now = np.where(touching, pressed > 0.0, gap < 0.0)
            if (now == touching).all():
                return State(moved, pressed, turn), touching
            touching = now
        raise RuntimeError(f"who touches is not found at a push of {down}")

    def _held(self, given: np.ndarray, active: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        rows, free = self.rows[active][:, self.free], self.free
        gap = self.first[active] + self.rows[active] @ given
        load = -(self.stiffness @ given)[free]
        moved = given.copy()
        own = self.stiffness[free][:, free]
        if self.two_sided:
            spring = SPRING * YOUNG
            moved[free] = splu((own + spring * rows.T @ rows).tocsc()).solve(load - spring * rows.T @ gap)
            return moved, -spring * (self.first[active] + self.rows[active] @ moved)
        whole = bmat([[own, rows.T], [rows, None]]).tocsc() if len(active) else own.tocsc()
        found = splu(whole).solve(np.concatenate([load, -gap]) if len(active) else load)
        moved[free] = found[: len(free)]
        return moved, -found[len(free) :]

    def pressure(self, force: np.ndarray) -> np.ndarray:
        """Contact pressure at the nodes (n,), NaN where nothing is pressed: force over the length that falls to the node."""
        share = np.zeros(len(self.nodes))
        for one, start in ((self.jaw, 0), (self.shoe, len(self.jaw.nodes))):
            reach = np.abs(np.diff(one.nodes[one.side, 0])) / 2
            share[start + one.side[:-1]] += reach
            share[start + one.side[1:]] += reach
        total = np.bincount(self.owner, weights=force, minlength=len(share))
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.where(total > 0, total / (share * THICKNESS), np.nan)


def corner_stress(nodes: np.ndarray, elements: np.ndarray, moved: np.ndarray) -> np.ndarray:
    """Stress at the corners in plane strain, from the four Gauss points of each element, (e, 4, 6)."""
    corners = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]], dtype=float)
    at = corners / np.sqrt(3.0)
    lame, shear = YOUNG * POISSON / ((1 + POISSON) * (1 - 2 * POISSON)), YOUNG / (2 * (1 + POISSON))
    found = np.zeros((len(elements), 4, 6))
    for q, (r, s) in enumerate(at):
        slope = np.stack([corners[:, 0] * (1 + corners[:, 1] * s), corners[:, 1] * (1 + corners[:, 0] * r)]) / 4
        jacobian = np.einsum("an,enx->eax", slope, nodes[elements])
        physical = np.einsum("exa,an->exn", np.linalg.inv(jacobian), slope)
        strain = np.einsum("ejn,eni->eij", physical, moved.reshape(-1, 2)[elements])
        xx, yy, xy = strain[:, 0, 0], strain[:, 1, 1], (strain[:, 0, 1] + strain[:, 1, 0]) / 2
        spread = lame * (xx + yy)
        zero = 0 * xx
        found[:, q] = np.stack([2 * shear * xx + spread, 2 * shear * yy + spread, spread, 2 * shear * xy, zero, zero], 1)
    out = corners * np.sqrt(3.0)
    shape = (1 + out[:, None, 0] * corners[:, 0]) * (1 + out[:, None, 1] * corners[:, 1]) / 4
    return np.einsum("cq,eqk->eck", shape, found)


def solve(mesh: str, way: str) -> tuple[Grip, list[State]]:
    """Every push of one jaw by one way."""
    grip = Grip(*MESHES[mesh], two_sided=way == "two-sided")
    touching = np.abs(grip.nodes[grip.owner, 0]) < 1.0
    states = []
    for down in PUSHES:
        state, touching = grip.push(down, touching)
        states.append(state)
    return grip, states


def main() -> None:
    """Solve and write one file a push, for each jaw and each way."""
    DATA.mkdir(parents=True, exist_ok=True)
    for mesh in MESHES:
        for way in WAYS:
            grip, states = solve(mesh, way)
            write(grip, states, f"{mesh}_{way.replace('-', '_')}")


def write(grip: Grip, states: list[State], name: str) -> None:
    cut = len(grip.jaw.nodes)
    elements = np.concatenate([grip.jaw.elements, grip.shoe.elements + cut])
    part = np.repeat([1, 2], [len(grip.jaw.elements), len(grip.shoe.elements)]).astype(np.int32)
    sets = {"pushed": grip.jaw.far, "held": cut + grip.shoe.far}
    marks = {n: np.isin(np.arange(len(grip.nodes)), of).astype(np.uint8) for n, of in sets.items()}

    def flat(v: np.ndarray) -> np.ndarray:
        return np.column_stack([v.reshape(-1, 2), np.zeros(len(grip.nodes))])

    turns = 0
    for number, (down, state) in enumerate(zip(PUSHES, states, strict=True)):
        force = grip.stiffness @ state.moved
        reaction = np.zeros(grip.count)
        fixed = np.concatenate([grip.pushed, grip.still])
        reaction[fixed] = force[fixed]
        turns += state.turns
        pressure = grip.pressure(state.force)
        write_unshared(
            DATA / f"{name}_{number}.vtu",
            float(number + 1),
            np.column_stack([grip.nodes, np.zeros(len(grip.nodes))]),
            elements,
            {"displacement": flat(state.moved), "reaction": flat(reaction), "contact_pressure": pressure, **marks},
            {"stress": corner_stress(grip.nodes, elements, state.moved)},
            {"part": part, "thickness": np.full(len(elements), THICKNESS)},
            totals={"contact_iterations": float(turns), "unknowns": float(grip.count)},
        )
        total = -reaction[grip.pushed].sum()
        print(f"{name} pushed {down:g}: {total / 1e3:.2f} kN, up to {np.nanmax(pressure):.0f} MPa, {state.turns} turns")


if __name__ == "__main__":
    main()
